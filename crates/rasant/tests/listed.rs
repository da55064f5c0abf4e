//! Moves by the list: ledge, swim, glide and slam, and those of a game's own.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::level::Effects;
use rasant::moves::{Answer, Law, Move, MoveSet, Outcome, Proposal, Senses, SetMotion, Standard, Then};
use rasant::moves::{Jump, WallSlide};
use rasant::state::Name;
use rasant::tuning::KnobError;
use rasant::{
    Actions, Carrier, Departure, Effect, Event, Gait, Geometry, Hull, Intent, Keyframe, Level, Mode, PathEnd,
    Piece, Refusal, Tuning, Zone,
};

const JUMP: Actions = Actions::JUMP;

fn mode(name: &str) -> Mode {
    name.parse().unwrap()
}

fn hulls() -> [Hull; 4] {
    let middle = capsule().centred();
    [capsule(), upright_box(), Hull::ball(0.55).unwrap(), middle]
}

fn events<V: Geometry>(run: &Run<V>, chosen: &Event<V>) -> usize {
    run.events.iter().filter(|(_, event)| event == chosen).count()
}

/// A wall to the right of x = 2, with its top at `top`, over a floor.
fn wall<V: Geometry>(top: f32) -> Level<V> {
    blocks(&[([-20.0, -1.0, -20.0], [20.0, 0.0, 20.0]), ([2.0, 0.0, -20.0], [9.0, top, 20.0])])
}

fn climber() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.ledge.reach = 0.3;
    tuning
}

/// Steers to the right in either dimension.
fn right() -> Intent {
    Intent::steering(1.0, 0.0)
}

#[test]
fn a_ledge_is_grabbed_from_the_air_hung_from_and_climbed() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for rate in RATES {
                let level = wall::<V>(3.0);
                let tuning = climber();
                let start = V::from_array([1.4, 3.0, 0.0]);
                let start = if hull == capsule().centred() { start + V::UP * 0.9 } else { start };
                let mut run = Run::new(tuning, hull, start, rate);
                run.run(&level, 1.2, right());
                let feet = |run: &Run<V>| run.body.position().height() - start.height() + 3.0;
                assert_eq!(run.body.state().mode, mode("ledge"), "{rate} {hull:?}");
                assert!((feet(&run) - (3.0 - tuning.ledge.height)).abs() < 0.01, "{} at {rate}", feet(&run));
                // It hangs still, to the bit.
                let hung = *run.body.state();
                run.run(&level, 0.5, right());
                assert_eq!(run.body.position(), hung.position);
                assert_eq!(run.body.velocity(), V::ZERO);
                run.tick(&level, right().pressing(JUMP));
                let began = run.ticks;
                while run.body.state().mode != Mode::Grounded && run.seconds() < 5.0 {
                    run.tick(&level, Intent::default());
                }
                let took = (run.ticks - began) as f32 / rate as f32;
                assert!(
                    (took - tuning.ledge.climb_time).abs() < 2.5 / rate as f32,
                    "{took} s at {rate} {hull:?}"
                );
                assert!((feet(&run) - 3.0).abs() < 0.02, "{}", feet(&run));
                assert_eq!(events(&run, &Event::MoveBegan { name: Name::new("ledge") }), 1);
                assert_eq!(events(&run, &Event::MoveEnded { name: Name::new("ledge") }), 1);
                assert_eq!(run.count("landed"), 1);
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_hanging_body_drops_or_jumps_off_and_does_not_grab_at_once() {
    fn check<V: Geometry>() {
        for rate in RATES {
            let level = wall::<V>(3.0);
            let hang = || {
                let mut run = Run::new(climber(), capsule(), V::from_array([1.4, 3.0, 0.0]), rate);
                run.run(&level, 1.0, right());
                run
            };
            let mut run = hang();
            run.tick(&level, right().pressing(Actions::CROUCH));
            run.run(&level, 1.0, right());
            assert_eq!(run.body.state().mode, Mode::Grounded, "it fell to the floor");
            let mut run = hang();
            let before = run.body.position();
            run.tick(&level, Intent::steering(-1.0, 0.0).pressing(JUMP));
            assert_eq!(run.jumps(), [Name::new("ledge")]);
            run.run(&level, 0.3, Intent::steering(-1.0, 0.0).holding(JUMP));
            assert!(run.body.position().component(0) < before.component(0) - 0.8, "{rate}");
            run.run(&level, 0.3, Intent::steering(-1.0, 0.0).holding(JUMP));
            let apex = run.apex().unwrap().height() - before.height();
            assert!((apex - 1.2).abs() < 0.01, "{apex} m at {rate}");
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn climbing_a_ledge_without_room_is_refused() {
    let corners = [([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]), ([2.0, 0.0, -9.0], [9.0, 3.0, 9.0])];
    let beam = ([2.0, 4.0, -9.0], [9.0, 5.0, 9.0]);
    let level = blocks::<Vec3>(&[corners[0], corners[1], beam]);
    let mut run = Run::new(climber(), capsule(), Vec3::new(1.4, 3.0, 0.0), 60);
    run.run(&level, 1.0, right());
    run.tick(&level, right().pressing(JUMP));
    assert_eq!(events(&run, &Event::Refused { what: Refusal::of(Name::new("ledge")) }), 1);
    assert_eq!(run.body.state().mode, mode("ledge"));
}

#[test]
fn a_ledge_of_a_carrier_moves_the_hanging_body() {
    fn check<V: Geometry>() {
        for rate in RATES {
            for (end, seconds) in [([1.5, 1.0, 0.7], 2.0), ([0.0, -1.5, 0.0], 2.0), ([-2.0, 0.0, 0.0], 3.0)] {
                let mut builder = Level::builder();
                let keys = [(0.0, [0.0; 3]), (1.5, [0.0; 3]), (1.5 + seconds, end), (9.0, end)];
                let key = |(time, at)| Keyframe::new(time, V::from_array(at));
                let barge = builder.add_carrier(Carrier::on_path(keys.map(key).to_vec(), PathEnd::Stop));
                let block = Piece::block(V::from_array([2.0, 0.0, -5.0]), V::from_array([5.0, 3.0, 5.0]));
                builder.add(block.unwrap().riding(barge));
                let mut level = builder.build().unwrap();
                let mut run = Run::new(climber(), capsule(), V::from_array([1.4, 3.0, 0.0]), rate);
                let step = |run: &mut Run<V>, level: &mut Level<V>, intent| {
                    level.advance(1.0 / rate as f32);
                    run.tick(level, intent);
                };
                while run.seconds() < 1.4 {
                    step(&mut run, &mut level, right());
                }
                let hung = run.body.position();
                assert_eq!(run.body.state().mode, mode("ledge"));
                while run.seconds() < 5.0 {
                    step(&mut run, &mut level, right());
                }
                let moved = run.body.position() - hung;
                assert_eq!(run.body.state().mode, mode("ledge"), "{end:?} at {rate}");
                assert!((moved - V::from_array(end)).length() < 0.01, "{moved:?} of {end:?} at {rate}");
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A basin of water from x = 2, its surface at 0, 5 m deep, between two shores.
fn basin<V: Geometry>(effects: impl Into<Effects<V>>) -> Level<V> {
    let mut builder = Level::builder();
    for (min, max) in [
        ([-20.0, -9.0, -20.0], [2.0, 0.0, 20.0]),
        ([2.0, -9.0, -20.0], [30.0, -5.0, 20.0]),
        ([30.0, -9.0, -20.0], [50.0, 0.5, 20.0]),
    ] {
        builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
    }
    builder.add_zone(Zone::new(V::from_array([2.0, -5.0, -20.0]), V::from_array([30.0, 0.0, 20.0]), effects));
    builder.build().unwrap()
}

#[test]
fn in_deep_water_a_body_floats_swims_dives_and_jumps_out() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for rate in RATES {
                let tuning = Tuning::default();
                let level = basin::<V>(Effect::Water);
                let over = 0.5 * hull.height() - hull.middle::<V>().height();
                let mut run = Run::new(tuning, hull, V::from_array([8.0, 2.0 + over, 0.0]), rate);
                run.run(&level, 6.0, Intent::default());
                let depth = |run: &Run<V>| over - run.body.position().height();
                let floats = tuning.swim.float * hull.height();
                assert_eq!(run.body.state().mode, mode("swim"));
                assert!((depth(&run) - floats).abs() < 0.01, "{} of {floats} at {rate}", depth(&run));
                assert!(run.body.velocity().length() < 0.02, "{:?}", run.body.velocity());
                // Along, at its own speed.
                run.run(&level, 1.0, right());
                let before = run.body.position().component(0);
                run.run(&level, 1.0, right());
                let speed = run.body.position().component(0) - before;
                assert!((speed - tuning.swim.speed).abs() < 0.02, "{speed} m/s at {rate}");
                // Down to the bottom, and up again by itself.
                run.run(&level, 4.0, Intent::default().holding(Actions::CROUCH));
                assert!(depth(&run) > 4.9, "{} m deep", depth(&run));
                assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("dive")));
                run.run(&level, 6.0, Intent::default());
                assert!((depth(&run) - floats).abs() < 0.01, "{} at {rate}", depth(&run));
                let events = run.events.len();
                run.tick(&level, Intent::default().pressing(JUMP));
                run.run(&level, 0.6, Intent::default().holding(JUMP));
                let apex = run.events[events..].iter().find_map(|(_, event)| match event {
                    Event::Apex { position } => Some(position.height() - over + floats),
                    _ => None,
                });
                let apex = apex.expect("it jumps");
                assert!((apex - tuning.swim.jump_height).abs() < 0.02, "{apex} m at {rate}");
                assert_eq!(run.jumps(), [Name::new("swim")]);
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_wading_body_walks_and_stands_up_on_the_shore() {
    let mut builder = Level::builder();
    let beach = [Vec2::new(-20.0, 1.0), Vec2::new(-20.0, -9.0), Vec2::new(20.0, -9.0), Vec2::new(20.0, -5.0)];
    builder.add(Piece::polygon(&beach).unwrap());
    builder.add_zone(Zone::new(Vec2::new(-20.0, -9.0), Vec2::new(20.0, 0.0), Effect::Water));
    let level = builder.build().unwrap();
    for rate in RATES {
        let mut run = Run::new(Tuning::default(), capsule(), Vec2::new(-18.0, 0.75), rate);
        let wades_in = right();
        run.run(&level, 8.0, wades_in);
        assert_eq!(run.body.state().mode, mode("swim"), "{:?}", run.body.position());
        for _ in 0..14 * rate {
            if run.body.position().x > -17.0 {
                run.tick(&level, Intent::steering(-1.0, 0.0));
            }
        }
        assert_eq!(run.body.state().mode, Mode::Grounded, "{:?}", run.body.position());
        // In once, out once, whatever the rate.
        let name = Name::new("swim");
        assert_eq!(events(&run, &Event::MoveBegan { name }), 1, "at {rate}");
        assert_eq!(events(&run, &Event::MoveEnded { name }), 1, "at {rate}");
    }
}

#[test]
fn a_zone_has_several_effects_and_a_body_is_in_more_than_six() {
    let river = Effects::of(&[Effect::Water, Effect::Wind { push: Vec2::new(2.0, 0.0) }]).unwrap();
    let level = basin::<Vec2>(river);
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::new(8.0, -1.0), 60);
    run.run(&level, 4.0, Intent::default());
    let drift = run.body.velocity().x;
    assert!((drift - 2.0 * run.body.tuning.swim.reach_time).abs() < 0.01, "{drift} m/s");
    assert!(Effects::of(&[Effect::<Vec2>::Goal; 5]).is_none());

    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    for _ in 0..10 {
        builder.add_zone(Zone::new(Vec2::new(-1.0, -1.0), Vec2::new(1.0, 3.0), Effect::Goal));
    }
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.run(&level, 1.0, right());
    assert_eq!((run.count("zone-entered"), run.count("zone-left")), (10, 10));
}

#[test]
fn a_glide_falls_at_its_speed_and_brakes_a_fast_fall_in_time() {
    fn check<V: Geometry>() {
        for rate in RATES {
            let mut tuning = Tuning::default();
            tuning.glide.fall_speed = 2.0;
            let level = floor::<V>(40.0);
            let mut run = Run::new(tuning, capsule(), V::UP * 200.0, rate);
            run.run(&level, 2.0, Intent::default());
            assert_eq!(run.body.velocity().height(), -25.0);
            let before = run.body.position().height();
            run.run(&level, 1.0, Intent::default().holding(JUMP));
            assert_eq!(run.body.velocity().height(), -2.0);
            // 25 m/s to 2 m/s at 25 m/s in 0.4 s, then 2 m/s.
            let braked = 23.0 / 62.5;
            let displacement = 13.5 * braked + 2.0 * (1.0 - braked);
            let moved = before - run.body.position().height();
            assert!((moved - displacement).abs() < 0.01, "{moved} m of {displacement} at {rate}");
            assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("glide")));
            run.tick(&level, Intent::default());
            assert_eq!(run.body.state().mode, Mode::Airborne);
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_glide_lasts_as_long_as_it_may() {
    let mut tuning = Tuning::default();
    tuning.glide.fall_speed = 2.0;
    tuning.glide.max_time = 1.5;
    let level = floor::<Vec2>(40.0);
    for rate in RATES {
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 200.0, rate);
        let mut glided = 0;
        for _ in 0..3 * rate {
            run.tick(&level, Intent::default().holding(JUMP));
            glided += usize::from(run.body.state().mode == mode("glide"));
        }
        let glided = glided as f32 / rate as f32;
        assert!((glided - 1.5).abs() <= 1.01 / rate as f32, "{glided} s at {rate}");
    }
}

#[test]
fn a_slam_hangs_falls_straight_down_and_recovers() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for rate in RATES {
                let mut tuning = Tuning::default();
                tuning.slam.action = 2.0;
                let level = floor::<V>(40.0);
                let mut run = Run::new(tuning, hull, V::from_array([0.0, 30.0, 0.0]), rate);
                run.run(&level, 0.2, right());
                let (before, from) = (run.body.position(), run.ticks);
                run.tick(&level, right().pressing(Actions::own(2)));
                while run.body.state().air.is_some() {
                    run.tick(&level, right());
                }
                let displacement = before.height() - run.body.position().height();
                let took = (run.ticks - from) as f32 / rate as f32;
                let chosen = tuning.slam.startup + displacement / tuning.slam.speed;
                assert!((took - chosen).abs() < 1.01 / rate as f32, "{took} s of {chosen} at {rate}");
                assert!((run.body.position() - before).flat().length() < 1e-4, "it goes straight down");
                let landed = run.events.iter().find_map(|(_, event)| match event {
                    Event::Landed { speed, .. } => Some(*speed),
                    _ => None,
                });
                assert!((landed.unwrap() - 20.0).abs() < 0.01, "{landed:?} at {rate}");
                // Held for its time, and free after.
                let from = run.ticks;
                while run.body.velocity().length() == 0.0 && run.ticks < from + 600 {
                    run.tick(&level, right());
                }
                // The body lands within one tick and is free at the beginning of another.
                let held = (run.ticks - from - 1) as f32 / rate as f32;
                let late = held - tuning.slam.recovery;
                assert!(late.abs() < 1.01 / rate as f32, "{late} s late at {rate}");
                assert_eq!(events(&run, &Event::MoveEnded { name: Name::new("slam") }), 1);
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

rasant::knobs! {
    /// A jet that pushes up while its action is held, until it is empty.
    pub struct Jet {
        /// The speed up.
        speed: "jet.speed", MetresPerSecond, 4.0, 0.0..50.0;
        /// How long it lasts.
        time: "jet.time", Seconds, 1.0, 0.0..60.0;
    }
}

impl<V: Geometry> Move<V> for Jet {
    const NAME: Name = Name::new("jet");
    /// Seconds used.
    type Memory = f32;

    fn propose(&self, senses: &Senses<'_, V>, used: &f32) -> Answer<V> {
        if !senses.intent.held.contains(Actions::own(5)) {
            return Answer::Nothing;
        }
        if *used + 1e-5 >= self.time {
            return Answer::Refuses(Refusal::of(Name::new("jet")));
        }
        let up = V::UP * self.speed;
        let displacement = SetMotion { displacement: up * senses.dt, from: up, to: up, gravity: false };
        let leaves = Some(Departure::Move);
        Proposal { law: Law::Set(displacement), leaves, ..Proposal::of(Name::new("jet")) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, used: &mut f32) {
        if outcome.is_mine() {
            *used += senses.dt;
        } else if outcome.state.footing.is_firm() {
            *used = 0.0;
        }
    }
}

static WITH_JET: MoveSet = MoveSet::of::<(Jet, Standard)>();
static JET_LAST: MoveSet = MoveSet::of::<Then<Standard, Jet>>();
static FEW: MoveSet = MoveSet::of::<rasant::moves![Jump, WallSlide]>();

#[test]
fn a_move_of_a_games_own_has_knobs_memory_and_a_name_of_its_own() {
    fn check<V: Geometry>(moves: &MoveSet) {
        for rate in RATES {
            let mut tuning = Tuning::default().with_moves(moves);
            tuning.set("jet.speed", 5.0).unwrap();
            assert_eq!(tuning.group::<Jet>(), Jet { speed: 5.0, time: 1.0 });
            assert!(matches!(tuning.set("jet.speed", 51.0), Err(KnobError::Range { .. })));
            assert!(tuning.knobs().iter().any(|knob| knob.path == "jet.time"));
            let level = floor::<V>(20.0);
            let mut run = Run::new(tuning, capsule(), V::ZERO, rate);
            run.run(&level, 0.5, Intent::default());
            let start = run.body.position().height();
            run.run(&level, 1.0, Intent::default().holding(Actions::own(5)));
            let risen = run.body.position().height() - start;
            assert!((risen - 5.0).abs() < 0.01, "{risen} m at {rate}");
            assert_eq!(run.body.state().mode, mode("jet"));
            assert_eq!(
                events(&run, &Event::LeftGround { by: Departure::Move, of: Some(Name::new("jet")) }),
                1
            );
            // A snapshot includes its memory, and continues with the same bits.
            let kept = *run.body.state();
            run.run(&level, 1.0, Intent::default().holding(Actions::own(5)));
            let first = run.body.state().checksum();
            run.body.restore(kept);
            run.run(&level, 1.0, Intent::default().holding(Actions::own(5)));
            assert_eq!(run.body.state().checksum(), first);
            assert!(run.count("refused") > 0);
        }
    }
    check::<Vec2>(&WITH_JET);
    check::<Vec3>(&WITH_JET);
    check::<Vec2>(&JET_LAST);
    check::<Vec3>(&JET_LAST);
}

#[test]
fn a_list_without_a_move_is_a_body_that_cannot() {
    let mut tuning = Tuning::default();
    tuning.dash.charges = 1.0;
    let level = floor::<Vec2>(20.0);
    let dashes = |tuning: Tuning| {
        let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        run.run(&level, 0.2, Intent::default());
        run.tick(&level, right().pressing(Actions::DASH));
        run.tick(&level, right().pressing(JUMP));
        run.run(&level, 0.5, right());
        (run.count("maneuver-phase") > 0, run.jumps().len())
    };
    assert_eq!(dashes(tuning), (true, 0));
    assert_eq!(dashes(tuning.with_moves(&FEW)), (false, 1));
}

#[test]
fn another_list_keeps_the_numbers_of_common_moves() {
    let mut tuning = Tuning::default().with_moves(&WITH_JET);
    tuning.set("jet.time", 3.0).unwrap();
    tuning.walk.speed = 7.0;
    let other = tuning.with_moves(&JET_LAST);
    assert_eq!((other.get("jet.time"), other.walk.speed), (Ok(3.0), 7.0));
    let without = tuning.with_moves(&FEW);
    assert!(matches!(without.get("jet.time"), Err(KnobError::Unknown(_))));
}

#[test]
fn a_press_of_jump_while_a_slam_recovers_waits_for_its_end() {
    for rate in RATES {
        let mut tuning = Tuning::default();
        tuning.slam.action = 2.0;
        tuning.jump.buffer_time = 0.15;
        let level = floor::<Vec2>(40.0);
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 4.0, rate);
        run.run(&level, 0.1, Intent::default());
        run.tick(&level, Intent::default().pressing(Actions::own(2)));
        while run.body.state().air.is_some() {
            run.tick(&level, Intent::default());
        }
        run.run(&level, tuning.slam.recovery - 0.1, Intent::default());
        run.tick(&level, Intent::default().pressing(JUMP));
        run.run(&level, 0.3, Intent::default().holding(JUMP));
        assert_eq!(run.jumps(), [Jump::GROUND], "at {rate}");
    }
}

#[test]
fn seen_from_above_a_move_of_a_games_own_lands_on_nothing() {
    rasant::knobs! {
        /// Pulls to the right.
        pub struct Tow {
            /// How quickly.
            speed: "tow.speed", MetresPerSecond, 3.0, 0.0..9.0;
        }
    }
    impl<V: Geometry> Move<V> for Tow {
        const NAME: Name = Name::new("tow");
        type Memory = ();
        fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
            let velocity = V::RIGHT * self.speed;
            let law = match senses.intent.held.bits_of_own() {
                0 => {
                    Law::Toward(rasant::moves::Toward { velocity, time: 0.0, speed: self.speed, lands: true })
                }
                1 => Law::Hold { displacement: velocity * senses.dt, velocity, lands: true },
                _ => Law::Fall(rasant::moves::Fall::default()),
            };
            Proposal { law, ..Proposal::of(Name::new("tow")) }.into()
        }
    }
    static TOWED: MoveSet = MoveSet::of::<(Tow, Standard)>();
    trait Bits {
        fn bits_of_own(self) -> u8;
    }
    impl Bits for Actions {
        fn bits_of_own(self) -> u8 {
            u8::from(self.contains(Actions::own(0))) + 2 * u8::from(self.contains(Actions::own(1)))
        }
    }
    let mut tuning = Tuning::default().with_moves(&TOWED);
    tuning.steering = rasant::Steering::Plan;
    // A wall in the path, and one along it.
    let level = blocks::<Vec2>(&[([-9.0, -2.0, 0.0], [9.0, -1.0, 0.0]), ([5.0, -1.0, 0.0], [6.0, 4.0, 0.0])]);
    for held in [Actions::NONE, Actions::own(0), Actions::own(1)] {
        let mut run = Run::new(tuning, Hull::ball(0.5).unwrap(), Vec2::ZERO, 60);
        run.run(&level, 4.0, Intent::steering(1.0, 0.0).holding(held));
        assert_eq!(run.count("landed") + run.count("left-ground"), 0, "{:?}", run.events);
        assert!((run.body.position().x - 4.495).abs() < 0.01, "{:?}", run.body.position());
        assert!(!run.body.state().footing.is_firm());
    }
}

/// A jump out of a game's own move is the move's: the player's key for jumps does not cut it.
#[test]
fn a_jump_off_by_another_key_rises_to_its_full_height() {
    use rasant::Departure;
    use rasant::moves::{Answer, Move, MoveSet, Proposal, Senses, Standard, Then};

    rasant::knobs! {
        /// A spring in the shoes.
        pub struct Spring {
            /// How high it throws.
            height: "spring.height", Metres, 5.0, 0.1..50.0;
        }
    }
    impl<V: Geometry> Move<V> for Spring {
        const NAME: Name = Name::new("spring");
        type Memory = ();

        fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
            if senses.intent.pressed.contains(Actions::own(7)) {
                let up = V::UP * senses.tuning.speed_to_rise(self.height);
                Proposal::jump_off(<Self as Move<V>>::NAME, up).into()
            } else {
                Answer::Nothing
            }
        }
    }
    static MOVES: MoveSet = MoveSet::of::<Then<Standard, Spring>>();
    fn check<V: Geometry>() {
        let level = floor::<V>(30.0);
        for rate in RATES {
            let mut tuning = Tuning::default().with_moves(&MOVES);
            tuning.jump.cut_gravity = 3.0;
            let mut run = Run::new(tuning, capsule(), V::UP * 0.005, rate);
            run.body.find_footing(&level);
            run.tick(&level, Intent::default().pressing(Actions::own(7)));
            run.run(&level, 3.0, Intent::default());
            let top = run.apex().unwrap().height() - 0.005;
            assert!((top - 5.0).abs() < 0.01, "{top} m at {rate}/s");
            let left =
                |event: &(usize, Event<V>)| event.1 == Event::LeftGround { by: Departure::Jump, of: None };
            assert_eq!(run.events.iter().filter(|event| left(event)).count(), 1, "{:?}", run.events);
            assert_eq!(run.count("left-ground"), 1);
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
