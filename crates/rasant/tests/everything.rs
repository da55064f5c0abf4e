//! A level with everything in it, and a body that does everything, for a
//! million ticks.

use crate::common::grammar::Grammar;
use crate::common::lives::{any_intent, any_tuning, meddle};
use crate::common::{Dice, RATES, capsule, upright_box};
use rasant::contact::Patch;
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::space::{Bounds, Frame};
use rasant::state::{Owner, Span};
use rasant::{
    Actions, Carrier, Controller, Effect, Event, Geometry, Hull, HullShape, Intent, Keyframe, Level, PathEnd,
    Piece, State, Surface, Tuning, Vector, Zone,
};

/// Ticks in each dimension: a million in all.
const TICKS: usize = 500_000;
/// Ticks of one life: then the next tuning, hull and place.
const LIFE: usize = 2_500;

fn point<V: Vector>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

/// Rooms, stairs, slopes, shafts, platforms, carriers, zones of every kind.
pub fn town<V: Geometry>() -> Level<V> {
    let mut builder = Level::builder();
    let mud = builder.add_surface(Surface { traction: 0.3, pace: 0.5, ..Surface::default() });
    let spring = builder.add_surface(Surface { bounce: 0.9, ..Surface::default() });
    let band = builder.add_surface(Surface { drift: V::RIGHT * 2.0, grip: 0.0, ..Surface::default() });
    let mut carrier = |start: V, displacement: V, turn: f32, time: f32, end: PathEnd| {
        let first = Keyframe::new(0.0, start);
        builder.add_carrier(Carrier::on_path(
            vec![first, Keyframe::new(time, start + displacement).turned(turn)],
            end,
        ))
    };
    let lift = carrier(V::ZERO, V::UP * 5.0, 0.0, 3.0, PathEnd::BackAndForth);
    let sled = carrier(V::ZERO, V::RIGHT * 9.0, 0.0, 1.5, PathEnd::BackAndForth);
    let wheel = carrier(point(6.0, 7.0, 0.0), V::ZERO, std::f32::consts::TAU, 3.0, PathEnd::Loop);
    let block = |min: [f32; 3], max: [f32; 3]| Piece::block(V::from_array(min), V::from_array(max)).unwrap();
    let around = [
        ([-30.0, -2.0, -12.0], [30.0, 0.0, 12.0]),
        ([-31.0, -2.0, -12.0], [-30.0, 40.0, 12.0]),
        ([30.0, -2.0, -12.0], [31.0, 40.0, 12.0]),
        ([-30.0, -2.0, -13.0], [30.0, 40.0, -12.0]),
        ([-30.0, -2.0, 12.0], [30.0, 40.0, 13.0]),
        ([-30.0, 39.0, -12.0], [30.0, 40.0, 12.0]),
    ];
    // In the plane the far and near walls would be the room itself.
    let walls = around.iter().enumerate().filter(|(i, _)| V::DIMENSION == 3 || !(3..5).contains(i));
    for (_, &(min, max)) in walls {
        builder.add(block(min, max));
    }
    for step in 0..8 {
        let (x, y) = (4.0 + 0.4 * step as f32, 0.2 * (step + 1) as f32);
        builder.add(block([x, 0.0, -4.0], [x + 0.4, y, 4.0]));
    }
    builder.add(block([-3.0, 0.0, -6.0], [-2.0, 9.0, 6.0]));
    builder.add(block([-6.0, 1.3, -6.0], [-4.5, 9.0, 6.0])); // a low passage
    builder.add(block([10.0, 0.0, -6.0], [14.0, 0.5, 6.0]).made_of(mud));
    builder.add(block([15.0, 0.0, -6.0], [17.0, 0.5, 6.0]).made_of(spring));
    builder.add(block([18.0, 0.0, -6.0], [22.0, 0.5, 6.0]).made_of(band));
    for shelf in 0..3 {
        let y = 3.0 + 3.0 * shelf as f32;
        builder.add(block([-20.0, y - 0.2, -5.0], [-12.0, y, 5.0]).one_way());
    }
    builder.add(block([-11.0, 0.0, -3.0], [-8.0, 0.4, 3.0]).riding(lift));
    builder.add(block([-1.5, 0.8, -4.0], [0.0, 1.2, 4.0]).riding(sled));
    builder.add(block([-2.0, 4.0, -3.0], [2.0, 4.4, 3.0]).one_way().riding(sled));
    builder.add(block([-3.0, -0.3, -3.0], [3.0, 0.0, 3.0]).riding(wheel));
    let ladder = Effect::Ladder { front: V::ZERO };
    builder.add_zone(Zone::new(point(-15.3, 0.0, -4.0), point(-14.7, 9.0, 4.0), ladder));
    builder.add_zone(Zone::new(
        point(23.0, 0.0, -6.0),
        point(26.0, 20.0, 6.0),
        Effect::Wind { push: V::UP * 60.0 + V::RIGHT },
    ));
    builder.add_zone(Zone::new(point(10.0, 0.0, -6.0), point(13.0, 4.0, 6.0), Effect::Slow { pace: 0.4 }));
    builder.add_zone(Zone::new(point(28.5, 0.0, -12.0), point(30.0, 0.4, 12.0), Effect::Hazard));
    builder.add_zone(Zone::new(point(0.0, 0.0, -4.0), point(2.0, 4.0, 4.0), Effect::Checkpoint));
    builder.add_zone(Zone::new(
        point(-29.0, 0.0, -8.0),
        point(-24.0, 38.0, 8.0),
        Effect::Gravity { up: -V::UP },
    ));
    builder.add_zone(Zone::new(point(3.0, 6.0, -4.0), point(9.0, 12.0, 4.0), Effect::Own(3)));
    builder.add_zone(Zone::new(point(-8.0, 0.0, -12.0), point(-4.0, 5.0, 12.0), Effect::Water));
    builder.build().unwrap()
}

fn is_whole<V: Geometry>(state: &State<V>) -> bool {
    let vectors =
        [state.position, state.remainder, state.velocity, state.ground_velocity, state.facing, state.up];
    let numbers = [
        state.carry_over.uncounted,
        state.memory::<Jump>().wait,
        state.animation.stride,
        state.animation.spin,
        state.posture.lowered,
    ];
    vectors.iter().all(|vector| vector.is_finite())
        && numbers.iter().all(|number| number.is_finite())
        && (state.facing.length() - 1.0).abs() < 1e-3
}

/// How deep the hull is in something that is solid all round; below 0 outside.
fn depth_in_pieces<V: Geometry>(body: &Controller<V>, level: &Level<V>) -> f32 {
    let state = body.state();
    let frame = Frame::new(state.position, state.remainder, state.right, state.up);
    let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
    let hull = body.present_hull();
    let patch = Patch::gather(frame, &hull, nowhere, level);
    patch.overlap(V::ZERO, |tag| tag.one_way).map_or(f32::NEG_INFINITY, |overlap| -overlap.distance)
}

/// The names of all maneuvers that occur here.
const MANEUVERS: [&str; 5] = ["dash", "roll", "hop", "knockback", "own"];

fn one_owner<V: Geometry>(state: &State<V>, dt: f32) -> bool {
    let of_mode = match state.velocity_owner {
        // A tick's owner acted before the mode that it led to.
        Owner::Look => false,
        Owner::Carrier => false,
        _ => true,
    };
    let maneuver_is_named = state.maneuver.is_none()
        || state.maneuver.is_some_and(|maneuver| maneuver.age <= 2.0 * dt)
        || matches!(state.velocity_owner, Owner::Maneuver | Owner::Walk | Owner::Air | Owner::Wall);
    let mode_is_named = MANEUVERS.contains(&state.mode.name().as_str()) == state.maneuver.is_some();
    of_mode && maneuver_is_named && mode_is_named
}

/// An event's name, and which of its kind where there are several.
fn once<V: Geometry>(event: &Event<V>) -> String {
    match event {
        Event::ZoneEntered { zone } | Event::ZoneLeft { zone } => format!("{} {}", event.name(), zone.0),
        Event::ManeuverPhase { name, phase } | Event::OverlayPhase { name, phase } => {
            format!("{} {name} {phase}", event.name())
        }
        Event::MoveBegan { name } | Event::MoveEnded { name } => format!("{} {name}", event.name()),
        Event::Refused { what } => format!("refused {} {}", what.action, what.cause.unwrap_or_default()),
        Event::Jumped { kind } => format!("{} {kind}", event.name()),
        Event::LeftGround { by, .. } => format!("{} {by}", event.name()),
        _ => event.name().to_owned(),
    }
}

/// Returns true if events in two ticks in a row are expected: more than a stride in `displacement`,
/// that of both ticks, and repeated jumps while jump is held, under a ceiling with hardly any room
/// to land.
fn is_repeated_by_input<V: Geometry>(
    name: &str,
    tuning: &Tuning,
    intent: &Intent,
    events: &[Event<V>],
    (rode, displacement): (bool, f32),
    from_above: bool,
) -> bool {
    let jumps = tuning.jump.repeat >= 0.5 && intent.held.contains(Actions::JUMP);
    let jumped = events.iter().any(|event| matches!(event, Event::Jumped { .. }));
    let lets_go = tuning.ride.let_go > 0.0 && rode;
    match name {
        "footfall" => displacement * (1.0 + 1e-4) > tuning.walk.stride,
        "jumped ground" | "left-ground jump" => jumps,
        // The feet leave a deck that falls away, as configured, and it comes up again.
        "left-ground throw" => lets_go,
        // Or a press that waited, or a jump of a hair, took off between the two.
        "landed" => lets_go || jumped,
        "apex" => jumped,
        // Seen from above, it is steered into a wind that drives it out.
        name if name.starts_with("zone-") => from_above,
        // One that waited, then one that is steered.
        "refused hop blocked" => tuning.hop.queue >= 0.5,
        _ => false,
    }
}

#[derive(Default)]
struct Seen {
    modes: std::collections::BTreeSet<String>,
    gaits: std::collections::BTreeSet<String>,
    events: std::collections::BTreeSet<&'static str>,
    /// Events out of order, with their number.
    wrong: std::collections::BTreeMap<String, usize>,
}

fn live<V: Geometry>(seed: u64) -> Seen {
    let mut dice = Dice(seed);
    let mut level = town::<V>();
    let mut seen = Seen::default();
    let mut lives = 0;
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.5, rounding: 0.1 };
    let hulls = [capsule(), upright_box(), Hull::ball(0.5).unwrap(), Hull::new(rounded).unwrap()];
    while lives * LIFE < TICKS {
        let tuning = any_tuning(&mut dice, V::DIMENSION);
        let hull = hulls[dice.below(hulls.len())];
        let dt = 1.0 / RATES[dice.below(RATES.len())] as f32;
        let start = point(dice.number(-1.5, 3.0), 1.0, dice.number(-3.0, 3.0));
        let mut body = Controller::new(tuning, hull, start);
        let mut intent = Intent::default();
        let mut grammar = Grammar::of(body.state());
        let (mut last, mut was_quiet): (Vec<String>, bool) = (Vec::new(), false);
        // The current gait, whether its beginning had a cause, and its duration.
        let mut shown = (body.state().animation.gait, true, 0.0f32);
        let mut kept: Option<(Controller<V>, f64, Vec<Intent>)> = None;
        for tick in 0..LIFE {
            let before = intent;
            intent = any_intent(&mut dice, &intent);
            if tick == LIFE / 2 {
                kept = Some((body.clone(), level.time(), Vec::new()));
            }
            let replayed = kept.as_ref().is_some_and(|(_, _, tape)| tape.len() < 200);
            let meddled = !replayed && meddle(&mut body, &mut dice);
            level.advance(dt);
            let up_before = body.state().up;
            let speed_before = body.state().velocity.length();
            let rode = body.state().footing.carrier.is_some();
            let is_left_alone = !meddled && body.state().pending.is_quiet();
            body.tick(&intent, &level, dt);
            let state = body.state();
            for event in body.events() {
                if let Some(wrong) = grammar.hear(event) {
                    *seen.wrong.entry(format!("{} {wrong}", event.name())).or_default() += 1;
                }
            }
            // Nothing repeats from tick to tick while one steer is held.
            let events: Vec<String> = body.events().iter().map(once).collect();
            let plays = before.steer != intent.steer || !(intent.pressed | intent.released).is_empty();
            let displacement = (speed_before + state.velocity.length()) * dt;
            let is_quiet = !plays && is_left_alone && state.up == up_before;
            if is_quiet && was_quiet {
                for twice in events.iter().filter(|name| {
                    last.contains(name)
                        && !is_repeated_by_input(
                            name,
                            &tuning,
                            &intent,
                            body.events(),
                            (rode, displacement),
                            state.from_above,
                        )
                }) {
                    *seen.wrong.entry(format!("again in the next tick: {twice}")).or_default() += 1;
                }
            }
            // A short gait has a cause: an event or an input at its beginning or its end.
            let has_reason = plays || !is_left_alone || events.iter().any(|name| name != "footfall");
            if state.animation.gait != shown.0 {
                if shown.2 < 0.05 && !(shown.1 || has_reason) {
                    let flickers =
                        format!("{} for {:.0} ms, then {}", shown.0, 1e3 * shown.2, state.animation.gait);
                    *seen.wrong.entry(flickers).or_default() += 1;
                }
                shown = (state.animation.gait, has_reason, 0.0);
            }
            shown.2 += dt;
            (last, was_quiet) = (events, is_quiet);
            if state.pending.is_quiet()
                && let Some(what) = grammar.agrees(state)
            {
                *seen.wrong.entry(format!("not reported: {what}")).or_default() += 1;
                grammar = Grammar::of(state);
            }
            assert!(is_whole(state), "tick {tick} of life {lives}: {state:?}");
            assert!(one_owner(state, dt), "tick {tick} of life {lives}: {state:?}");
            // Where it is crushed, or put back to, something may be.
            let put = body.events().iter().any(Event::is_elsewhere);
            if tick % 5 == 0 && state.carry_over.crushed.is_none() && !put {
                let depth = depth_in_pieces(&body, &level);
                assert!(depth < 1e-3, "tick {tick} of life {lives}: {depth} m deep, {state:?}");
            }
            seen.modes.insert(state.mode.to_string());
            seen.gaits.insert(state.animation.gait.to_string());
            seen.events.extend(body.events().iter().map(Event::name));
            if let Some((snapshot, time, tape)) = &mut kept
                && tape.len() < 200
            {
                tape.push(intent);
                if tape.len() == 200 {
                    replays_to_the_same_bits(snapshot, *time, tape, &level, body.state(), dt);
                }
            }
        }
        lives += 1;
    }
    seen
}

/// The level's carriers are put back as well, and then where they were.
fn replays_to_the_same_bits<V: Geometry>(
    snapshot: &Controller<V>,
    time: f64,
    tape: &[Intent],
    level: &Level<V>,
    expected: &State<V>,
    dt: f32,
) {
    let mut again = snapshot.clone();
    let mut world = level.clone();
    world.set_time(time, dt);
    for intent in tape {
        world.advance(dt);
        again.tick(intent, &world, dt);
    }
    assert_eq!(again.state(), expected);
    assert_eq!(again.state().checksum(), expected.checksum());
}

fn check(seen: &Seen, modes: &[&str], gaits: &[&str]) {
    assert!(seen.wrong.is_empty(), "{:#?}", seen.wrong);
    for mode in modes {
        assert!(seen.modes.contains(*mode), "never {mode}: {:?}", seen.modes);
    }
    assert!(seen.events.iter().all(|event| rasant::state::EVENTS.contains(event)), "{:?}", seen.events);
    for gait in gaits {
        assert!(seen.gaits.contains(*gait), "never {gait}: {:?}", seen.gaits);
    }
    // Crushing needs pieces that do not move away; other tests cover it.
    for event in rasant::state::EVENTS.iter().filter(|event| **event != "crushed") {
        assert!(seen.events.contains(event), "never {event}: {:?}", seen.events);
    }
}

const GAITS: [&str; 12] = [
    "idle",
    "walk",
    "run",
    "crouch",
    "rise",
    "fall",
    "wall-slide",
    "climb",
    "dash",
    "roll",
    "hop",
    "knockback",
];
const MODES: [&str; 10] =
    ["grounded", "airborne", "wall-slide", "ladder", "dash", "roll", "ledge", "swim", "glide", "slam"];

#[test]
fn in_the_plane_everything_at_random_stays_whole_outside_and_replays() {
    check(&live::<Vec2>(1), &MODES, &GAITS);
}

#[test]
fn in_space_everything_at_random_stays_whole_outside_and_replays() {
    check(&live::<Vec3>(2), &MODES, &GAITS);
}

#[test]
fn a_checksum_tells_any_two_states_apart() {
    let state = State::<Vec3>::at(Vec3::ZERO);
    let mut others = vec![state];
    for change in [
        |state: &mut State<Vec3>| state.position.x = f32::from_bits(1),
        |state: &mut State<Vec3>| state.animation.stride = -0.0,
        |state: &mut State<Vec3>| {
            let mut jumps = state.memory::<Jump>();
            jumps.air = 1;
            assert!(state.set_memory::<Jump>(jumps));
        },
        |state: &mut State<Vec3>| state.cooldown = Span::of(1e-5),
        |state: &mut State<Vec3>| state.crouched = true,
        |state: &mut State<Vec3>| state.pending.changes |= rasant::state::Changes::LED,
    ] {
        let mut other = state;
        change(&mut other);
        others.push(other);
    }
    let sums: std::collections::BTreeSet<u64> = others.iter().map(State::checksum).collect();
    assert_eq!(sums.len(), others.len());
    assert_eq!(state.checksum(), State::<Vec3>::at(Vec3::ZERO).checksum());
}
