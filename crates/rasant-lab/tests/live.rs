//! Attempts that are played, and places that are changed meanwhile.

use std::collections::BTreeMap;
use std::path::Path;
use std::time::Duration;

use crate::common::{InMemory, TRIAL, TUNING};
use rasant::glam::Vec2;
use rasant::input::{Chord, Direction, Meaning};
use rasant::tuning::KNOBS;
use rasant::{Actions, Bindings, Clock, Controller, Intent, Key, Press, State, Tape, Tuning};
use rasant_lab::files::{
    Change, Entry, HULL_KNOBS, HULL_SHAPES, LevelDraft, LevelFile, NumberError, Part, Parts, TuningFile,
    edit_bindings, edit_tuning, read_place, shape_name, write_tuning,
};
use rasant_lab::live::{Attempt, PlayerEvent, TimedPlayerEvent, turned};
use rasant_lab::sheet::{Figures, reach, sheet};
use rasant_lab::{Trial, World};

const PLACE: &str = "# The yard.
title = \"The yard\"

[surfaces.slate] # wet
traction = 0.8

[carriers.hoist]
path = [{ time = 0, offset = [0, 0] }, { time = 2, offset = [0, 3] }]
end = \"back-and-forth\"

[[piece]]
name = \"the ground\"
block = [[-40, -1], [40, 0]] # all of it

[[piece]]
name = \"the hoist\"
block = [[2, 0], [4, 0.3]]
carrier = \"hoist\"

[[zone]]
kind = \"wind\"
box = [[10, 0], [12, 5]]
push = [0, 4]
";

/// A small random source.
struct Dice(u64);

impl Dice {
    fn below(&mut self, count: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % count
    }

    fn number(&mut self) -> f64 {
        self.below(1000) as f64 / 100.0 - 5.0
    }
}

fn point(x: f64, y: f64) -> Entry {
    Entry::List(vec![Entry::Number(x), Entry::Number(y)])
}

fn block(x: f64, y: f64, width: f64, height: f64) -> Change {
    let corners = Entry::List(vec![point(x, y), point(x + width, y + height)]);
    Change::Add { of: Parts::Piece, fields: BTreeMap::from([("block".to_owned(), corners)]) }
}

fn plane(world: World) -> LevelFile<Vec2> {
    match world {
        World::Plane(file) => file,
        World::Space(_) => panic!("a place of three dimensions"),
    }
}

/// How many pieces it has.
fn count(draft: &LevelDraft) -> usize {
    draft.parts().unwrap().iter().filter(|(part, ..)| part.of == Parts::Piece).count()
}

/// A change at random, of a part that is there.
fn any_change(draft: &LevelDraft, dice: &mut Dice) -> Change {
    let parts = draft.parts().unwrap();
    let part = parts[dice.below(parts.len())].0;
    let by = vec![dice.number(), dice.number()];
    match dice.below(7) {
        0 | 1 => block(dice.number(), dice.number() + 8.0, 1.5, 0.5),
        2 => Change::Shift { part, by },
        3 => Change::Copy { part, by },
        4 if parts.len() > 3 => Change::Delete { part },
        5 => Change::Ride { part, by: Some(by), seconds: 1.5 },
        6 => Change::Ride { part, by: None, seconds: 1.0 },
        _ => Change::Set {
            part,
            fields: BTreeMap::from([("name".to_owned(), Some(Entry::Text("new".to_owned())))]),
        },
    }
}

#[test]
fn a_draft_keeps_unchanged_parts() {
    let draft = LevelDraft::new(PLACE);
    let (draft, world) = draft.changed(&block(5.0, 0.0, 2.0, 1.25)).unwrap();
    assert_eq!(plane(world).level.len(), 3);
    assert!(draft.text().starts_with(PLACE.split("[[zone]]").next().unwrap()), "{}", draft.text());
    for comment in ["# The yard.", "# wet", "# all of it"] {
        assert!(draft.text().contains(comment), "{comment} in {}", draft.text());
    }
    let hoist = Part { of: Parts::Piece, number: 1 };
    let leg = |draft: &LevelDraft, number: usize| {
        draft.parts().unwrap().swap_remove(number).2.map(|leg| (leg.by, leg.seconds))
    };
    assert_eq!((leg(&draft, 0), leg(&draft, 1)), (None, Some((vec![0.0, 3.0], 2.0))));
    let (draft, _) =
        draft.changed(&Change::Ride { part: hoist, by: Some(vec![4.0, 0.5]), seconds: 3.0 }).unwrap();
    assert_eq!(leg(&draft, 1), Some((vec![4.0, 0.5], 3.0)));
    // A part that shares a carrier gets its own carrier.
    let (draft, _) = draft.changed(&Change::Copy { part: hoist, by: vec![0.0, 5.0] }).unwrap();
    let copy = Part { of: Parts::Piece, number: 3 };
    let (draft, world) =
        draft.changed(&Change::Ride { part: copy, by: Some(vec![0.0, 1.0]), seconds: 1.0 }).unwrap();
    assert_eq!(leg(&draft, 1), Some((vec![4.0, 0.5], 3.0)));
    assert_eq!(plane(world).level.len(), 4);
    let fields = &draft.parts().unwrap()[3].1;
    assert_eq!(fields["block"], Entry::List(vec![point(2.0, 5.0), point(4.0, 5.3)]));
    assert_ne!(fields["carrier"], Entry::Text("hoist".to_owned()));
    assert_eq!(leg(&draft, 3), Some((vec![0.0, 1.0], 1.0)));
}

#[test]
fn whatever_is_changed_is_a_level_or_refused_by_name() {
    let mut dice = Dice(9);
    let mut draft = LevelDraft::new(PLACE);
    for number in 0..400 {
        let change = any_change(&draft, &mut dice);
        let (next, world) = draft.changed(&change).unwrap_or_else(|why| panic!("{number} {change:?}: {why}"));
        assert_eq!(plane(world).level.len(), count(&next));
        // Its text says the same again.
        assert_eq!(LevelDraft::new(next.text()).parts().unwrap(), next.parts().unwrap());
        draft = next;
    }
    let part = Part { of: Parts::Piece, number: 0 };
    let set = |key: &str, value: Entry| Change::Set {
        part,
        fields: BTreeMap::from([(key.to_owned(), Some(value))]),
    };
    let draft = LevelDraft::new(PLACE);
    for (change, why) in [
        (set("block", Entry::List(vec![point(0.0, 0.0)])), "found 1 points"),
        (set("block", Entry::Text("high".to_owned())), "high"),
        (set("surface", Entry::Text("slat".to_owned())), "slate"),
        (set("colour", Entry::Flag(true)), "unknown key"),
        (set("turn_deg", Entry::Number(f64::NAN)), "finite"),
        (Change::Delete { part: Part { of: Parts::Zone, number: 7 } }, "no zone 7"),
    ] {
        let refused = draft.changed(&change).expect_err("it is wrong").to_string();
        assert!(refused.contains(why) && refused.contains("the place"), "{change:?}: {refused}");
    }
}

fn device(ms: u64, event: rasant::DeviceEvent) -> TimedPlayerEvent {
    TimedPlayerEvent { time: Duration::from_millis(ms), event: PlayerEvent::Device(event) }
}

/// Random keys.
fn events(dice: &mut Dice) -> Vec<TimedPlayerEvent> {
    let keys = ["ArrowRight", "ArrowLeft", "Space"];
    (0..dice.below(2))
        .map(|_| {
            let key = Key::named(keys[dice.below(3)]).unwrap();
            let press = if dice.below(2) == 0 { Press::Down } else { Press::Up };
            device(5, rasant::DeviceEvent::Key(key, press))
        })
        .collect()
}

fn attempt() -> Attempt<Vec2> {
    attempt_with(Bindings::default())
}

fn attempt_with(bindings: Bindings) -> Attempt<Vec2> {
    let world = LevelDraft::new(PLACE).world().unwrap();
    let trial = Trial::of(world.clone(), TuningFile::default(), [0.0; 3]);
    Attempt::new(&trial, plane(world), Clock::new(60).unwrap(), [bindings, Bindings::none()])
}

fn frame(attempt: &mut Attempt<Vec2>, dice: &mut Dice) {
    let events = events(dice);
    attempt.frame(Duration::from_nanos(16_666_667), &events);
}

#[test]
fn every_tick_is_restored_though_numbers_and_place_changed_meanwhile() {
    for seed in 0..10 {
        let mut dice = Dice(seed);
        let (mut attempt, mut draft) = (attempt(), LevelDraft::new(PLACE));
        let mut states: Vec<State<Vec2>> = vec![*attempt.body().state()];
        while attempt.tick() < 900 {
            frame(&mut attempt, &mut dice);
            states.resize(attempt.tick(), states[0]);
            states.push(*attempt.body().state());
            // Now and then several in one tick.
            while dice.below(40) < 2 {
                let (next, world) = draft.changed(&any_change(&draft, &mut dice)).unwrap();
                attempt.reshape(plane(world));
                assert_eq!(attempt.file().level.len(), count(&next));
                draft = next;
                states.pop();
                states.push(*attempt.body().state());
            }
            if dice.below(60) == 0 {
                let numbers =
                    turned(attempt.numbers(), "jump.height", 1.0 + dice.below(20) as f32 * 0.1).unwrap();
                attempt.turn(numbers);
            }
        }
        assert!(attempt.was_changed());
        let end = attempt.body().state().checksum();
        for _ in 0..60 {
            let tick = dice.below(states.len());
            attempt.seek(tick);
            // Before a change in that very tick, or after it.
            let is = attempt.body().state();
            assert_eq!(is.position, states[tick].position, "seed {seed}, tick {tick}");
        }
        // A stretch played over and over leaves all as it was.
        attempt.seek(900);
        attempt.repeat(300..420);
        for _ in 0..500 {
            frame(&mut attempt, &mut dice);
            assert!((300..=420).contains(&attempt.tick()));
            assert_eq!(
                attempt.body().position(),
                states[attempt.tick()].position,
                "seed {seed}, {}",
                attempt.tick()
            );
        }
        attempt.end_stretch();
        assert_eq!((attempt.tick(), attempt.body().state().checksum()), (900, end), "seed {seed}");
    }
}

#[test]
fn numbers_turned_in_a_stretch_hold_from_its_beginning() {
    let mut dice = Dice(3);
    let mut attempt = attempt();
    let press = |press| device(0, rasant::DeviceEvent::Key(Key::named("Space").unwrap(), press));
    let whole = Duration::from_nanos(16_666_667);
    (0..30).for_each(|_| drop(attempt.frame(whole, &[])));
    attempt.frame(whole, &[press(Press::Down)]);
    (0..90).for_each(|_| drop(attempt.frame(whole, &[])));
    let mut highest = |attempt: &mut Attempt<Vec2>| {
        attempt.repeat(20..110);
        (0..180)
            .map(|_| {
                frame(attempt, &mut dice);
                attempt.body().position().y
            })
            .fold(0.0, f32::max)
    };
    let plain = highest(&mut attempt);
    assert!((plain - Tuning::default().jump.height).abs() < 0.02, "{plain}");
    attempt.end_stretch();
    attempt.repeat(20..110);
    attempt.turn(turned(attempt.numbers(), "jump.height", 3.0).unwrap());
    let high = (0..180)
        .map(|_| {
            attempt.frame(whole, &[]);
            attempt.body().position().y
        })
        .fold(0.0, f32::max);
    assert!((high - 3.0).abs() < 0.03, "{high}");
    // Presses during a replay are ignored, also afterwards.
    (0..9).for_each(|_| drop(attempt.frame(whole, &[press(Press::Down)])));
    // After seeking, the changed numbers stay as well.
    attempt.seek(60);
    assert!(attempt.stretch().is_none());
    assert_eq!((attempt.tick(), attempt.numbers().tuning.jump.height), (20, 3.0));
    let mut again = attempt.clone();
    again.pause(false);
    (0..20).for_each(|_| drop(again.frame(whole, &[])));
    assert!(again.body().position().y < 0.1, "{}", again.body().position());
    assert!(attempt.is_paused());
    // A replay has the current level from the start.
    let (_, world) = LevelDraft::new(PLACE).changed(&block(-40.0, 1.0, 80.0, 1.0)).unwrap();
    attempt.reshape(plane(world));
    assert_eq!(attempt.len(), 20);
    assert!(attempt.replayed(&TuningFile::default()).summary.highest_m.unwrap() < 0.1);
}

#[test]
fn a_level_by_itself_is_a_trial_that_stands_on_it() {
    let solid = "dimensions = 3\n[[piece]]\nblock = [[-5, -1, -5], [5, 0, 5]]\n[[piece]]\nsolid = [[-5, 0, -5], [5, 0, -5], [5, 6, -5], [-5, 0, 5], [5, 0, 5], [5, 6, 5]]\n";
    for (text, least) in
        [(PLACE, -0.01), (solid, -0.01), ("[[piece]]\nball = { centre = [3, 4], radius = 2 }\n", 5.9)]
    {
        let files = [("level", text.to_owned()), ("tuning", TUNING.to_owned()), ("trial", TRIAL.to_owned())];
        let files = InMemory(files.into());
        let place = read_place(&files, Path::new("level")).unwrap();
        assert_eq!((place.draft.text(), place.level.as_deref()), (text, Some(Path::new("level"))));
        assert!(place.trial.starts_inside().is_none());
        let rows = rasant_lab::run(&place.trial).trace.rows;
        let height = |row: usize| rows[row].position[1];
        assert!(
            height(0) > least && (height(0) - height(3)).abs() < 0.01,
            "{text}: {} to {}",
            height(0),
            height(3)
        );
        if !text.contains("solid") {
            let place = read_place(&files, Path::new("trial")).unwrap();
            assert_eq!((place.draft.text(), place.level.as_deref()), (text, Some(Path::new("level"))));
        }
    }
    let nothing = InMemory([("neither", "title = \"x\"\n".to_owned())].into());
    let why = read_place(&nothing, Path::new("neither")).expect_err("it is neither").to_string();
    assert!(why.contains("`level` is missing"), "{why}");
}

#[test]
fn a_jump_reaches_its_measured_distance() {
    for (height, speed, rise) in
        [(1.8, 4.0, 0.0), (2.6, 6.0, 1.3), (1.2, 3.0, -2.5), (1.8, 8.0, -6.0), (2.0, 5.0, 1.9)]
    {
        let mut file = TuningFile::default();
        for (knob, value) in [("jump.height", height), ("run.speed", speed)] {
            file.tuning.set(knob, value).unwrap();
        }
        let far = reach(&file, 2, 120, rise).unwrap();
        // A wide ground below, and over it where the jump is to end a ledge that begins
        // a little before that.
        let edge = 40.0;
        let mut draft = LevelDraft::new("[[piece]]\nblock = [[0, -1], [40, 0]]\n");
        let ledge = edge + far - 0.05;
        (draft, _) = draft.changed(&block(ledge, rise - 0.5, 30.0, 0.5)).unwrap();
        let level = plane(draft.world().unwrap()).level;
        let mut body = Controller::new(file.tuning, file.hull, Vec2::new(20.0, 0.0));
        let run = Intent::steering(1.0, 0.0).holding(rasant::Actions::RUN);
        let dt = 1.0 / 120.0;
        while f64::from(body.position().x + speed * dt) < edge {
            body.tick(&run, &level, dt);
        }
        let from = body.position().x;
        body.tick(&run.pressing(rasant::Actions::JUMP), &level, dt);
        while !body.state().footing.is_firm()
            && (body.velocity().y > 0.0 || body.position().y > rise as f32 - 1.0)
        {
            body.tick(&run.holding(rasant::Actions::JUMP), &level, dt);
        }
        let went = f64::from(body.position().x - from);
        assert!(
            (went - far).abs() < f64::from(speed * dt) * 1.5,
            "{height} {speed} {rise}: {went}, said {far}"
        );
    }
    assert_eq!(reach(&TuningFile::default(), 2, 120, 5.0), None, "higher than any jump");
}

#[test]
fn each_figure_is_affected_by_the_groups_that_it_names() {
    let mut usual = TuningFile::default();
    for (knob, value) in [
        ("jump.air_count", 3.0),
        ("air.keep", 0.0),
        ("dash.charges", 1.0),
        ("wall.slide_speed", 2.0),
        ("wall.jump_height", 1.5),
        ("roll.action", 0.0),
        ("turn.rate_deg", 360.0),
        ("turn.half_life", 0.05),
        ("ledge.reach", 0.2),
        ("glide.fall_speed", 2.0),
        ("glide.max_time", 1.0),
        ("slam.action", 3.0),
        ("jump.air_count", 2.0),
        ("jump.repeat", 1.0),
        ("jump.corner", 0.1),
        ("fall.fast_gravity", 2.0),
        ("fall.fast_speed", 40.0),
        ("dash.turn_deg", 90.0),
        ("dash.startup", 0.05),
        ("dash.recovery", 0.05),
        ("dash.from_ground", 0.0),
        ("dash.air_count", 3.0),
        ("dash.recharge_time", 1.0),
        ("roll.turn_deg", 90.0),
        ("hop.run_time", 0.4),
    ] {
        usual.tuning.set(knob, value).unwrap();
    }
    let mut hopping = usual.clone();
    hopping.tuning.steering = rasant::Steering::Hop;
    let mut gazing = usual.clone();
    gazing.tuning.steering = rasant::Steering::Gaze;
    let mut deep = usual.clone();
    for (knob, value) in [("swim.neutral_depth", 1.0), ("dash.gravity", 1.0), ("turn.half_life", 0.0)] {
        deep.tuning.set(knob, value).unwrap();
    }
    let mut seen = Vec::new();
    for (file, dimensions) in [(&usual, 2), (&usual, 3), (&hopping, 2), (&gazing, 3), (&deep, 2)] {
        let plain = sheet(file, dimensions, 120);
        for knob in KNOBS {
            let value = file.tuning.get(knob.path).unwrap();
            let by_one = matches!(knob.unit, rasant::tuning::Unit::Count | rasant::tuning::Unit::Switch);
            let other = if by_one { value + 1.0 } else { (value * 1.3 + 0.01).clamp(knob.min, knob.max) };
            let other = if other > knob.max { knob.min } else { other };
            let Ok(other) = turned(file, knob.path, other) else { continue };
            let group = knob.path.split('.').next().unwrap();
            let turned = sheet(&other, dimensions, 120);
            for kind in Figures::default().kinds().filter(|kind| kind.groups.contains(&group)) {
                let both = plain.get(kind.name).zip(turned.get(kind.name));
                let comes_or_goes = plain.get(kind.name).is_some() != turned.get(kind.name).is_some();
                if comes_or_goes || both.is_some_and(|(a, b)| (a - b).abs() > 1e-4 * a.abs()) {
                    seen.push((kind.name, group));
                }
            }
        }
    }
    let still = Figures::default()
        .kinds()
        .filter(|kind| !kind.groups.is_empty() && !seen.iter().any(|(name, _)| *name == kind.name))
        .map(|kind| kind.name);
    assert_eq!(still.collect::<Vec<_>>(), [] as [&str; 0], "moved by none of their groups");
    for kind in Figures::default().kinds() {
        for group in kind.groups {
            assert!(seen.iter().any(|(_, of)| of == group), "{group} moves none that name it");
        }
    }
}

#[test]
fn controls_on_the_screen_press_once_hold_and_release_whatever_the_bindings_are() {
    let mut attempt = attempt_with(Bindings::none());
    let whole = Duration::from_nanos(16_666_667);
    let touched = |event| TimedPlayerEvent { time: Duration::ZERO, event };
    let act = |press| touched(PlayerEvent::Action(Actions::JUMP | Actions::own(9), press));
    let steer = touched(PlayerEvent::Steer(Vec2::new(-3.0, 0.0)));
    attempt.frame(whole, &[act(Press::Down), steer]);
    let intent = attempt.intent();
    assert_eq!(intent.pressed, Actions::JUMP | Actions::own(9));
    assert_eq!((intent.steer, intent.released), (Vec2::NEG_X, Actions::NONE));
    // Held, and pressed again without a release: nothing more is pressed.
    attempt.frame(whole, &[act(Press::Down)]);
    assert_eq!(
        (attempt.intent().pressed, attempt.intent().held),
        (Actions::NONE, Actions::JUMP | Actions::own(9))
    );
    // Between two ticks: both are seen by the next.
    attempt.frame(Duration::ZERO, &[act(Press::Up)]);
    attempt.frame(Duration::ZERO, &[act(Press::Down)]);
    attempt.frame(whole, &[act(Press::Up)]);
    let intent = attempt.intent();
    assert_eq!(intent.pressed, intent.released);
    assert!(intent.pressed.contains(Actions::JUMP) && intent.held.is_empty());
    // Losing the focus releases the stick as well.
    attempt.frame(whole, &[device(0, rasant::DeviceEvent::FocusLost)]);
    assert_eq!(attempt.intent().steer, Vec2::ZERO);
    let nan = touched(PlayerEvent::Steer(Vec2::NAN));
    attempt.frame(whole, &[nan]);
    assert_eq!(attempt.intent().steer, Vec2::ZERO);
}

#[test]
fn stepping_continues_past_the_end_of_the_attempt_with_the_held_keys() {
    let mut dice = Dice(11);
    let mut attempt = attempt();
    (0..40).for_each(|_| frame(&mut attempt, &mut dice));
    let (end, sum) = (attempt.len(), attempt.body().state().checksum());
    attempt.seek(10);
    while attempt.tick() < end {
        attempt.step_on();
    }
    assert_eq!(attempt.body().state().checksum(), sum);
    let right = Key::named("ArrowRight").unwrap();
    attempt.frame(Duration::ZERO, &[device(0, rasant::DeviceEvent::Key(right, Press::Down))]);
    let before = attempt.body().position().x;
    for tick in 1..=5 {
        let ticked = attempt.step_on();
        assert_eq!((ticked.row.tick, attempt.len()), (end + tick, end + tick));
        assert_eq!(ticked.row.steer, [1.0, 0.0]);
    }
    assert!(attempt.is_paused() && attempt.body().position().x > before);
}

#[test]
fn a_recording_is_replayed_to_the_same_bits_and_its_ticks_are_the_same() {
    for seed in 0..4 {
        let mut dice = Dice(seed);
        let mut attempt = attempt();
        let mut rows = Vec::new();
        for _ in 0..200 {
            let events = events(&mut dice);
            rows.extend(attempt.frame(Duration::from_nanos(16_666_667), &events));
        }
        let tape = attempt.tape().unwrap();
        let mut again = self::attempt();
        again.replay(&tape, &Tape::new(), 150);
        assert_eq!((again.tick(), again.len()), (150, attempt.len()));
        again.seek(again.len());
        assert_eq!(again.body().state().checksum(), attempt.body().state().checksum());
        // Any stretch of it: the rows that were returned while it was played.
        for range in [0..20, 1..2, 17..60, 190..500] {
            let (mut played, mut ticks) = (Vec::new(), Vec::new());
            attempt.each_tick(range.clone(), |then, row| {
                assert_eq!(then.tick(), row.tick);
                ticks.push(row.tick);
                played.push(row.clone());
            });
            assert!(
                ticks.iter().copied().eq(range.start..range.end.min(attempt.len() + 1)),
                "{range:?}: {ticks:?}"
            );
            for row in played.iter().filter(|row| row.tick > 0) {
                assert_eq!(*row, rows[row.tick - 1].row, "{range:?}");
            }
        }
        assert_eq!(attempt.tick(), attempt.len(), "it stays where it is");
    }
}

#[test]
fn sizes_of_a_hull_are_numbers_and_are_saved_with_the_comments_about_them() {
    let text = "title = \"A\" # mine

[hull] # of the lamplighter
shape = \"capsule\" # round
radius = 0.35 # half as wide
height = 1.8

[jump]
height = 2 # high
";
    let files = InMemory([("a", text.to_owned())].into());
    let file = rasant_lab::read_tuning(&files, Path::new("a")).unwrap();
    let reread = |text: &str| {
        let files = InMemory([("a", text.to_owned())].into());
        rasant_lab::read_tuning(&files, Path::new("a")).unwrap()
    };
    let mut other = file.clone();
    other.set_number("hull.radius", 0.4).unwrap();
    other.set_number("hull.clearance", 0.01).unwrap();
    let edited = edit_tuning(text, &other).unwrap();
    assert!(
        edited.contains("radius = 0.4 # half as wide") && edited.contains("clearance = 0.01"),
        "{edited}"
    );
    assert_eq!(reread(&edited), other);
    // A change of shape removes the sizes that the new shape does not have.
    for shape in HULL_SHAPES {
        let mut other = file.clone();
        other.set_shape(shape).unwrap();
        assert_eq!(shape_name(&other.hull), shape);
        assert_eq!(other.hull.half_width(), file.hull.half_width());
        let edited = edit_tuning(text, &other).unwrap();
        assert!(edited.contains("# of the lamplighter") && edited.contains("height = 2 # high"), "{edited}");
        assert_eq!(reread(&edited), other, "{edited}");
        assert_eq!(reread(&write_tuning(&other)), other);
        let nothing = "title = \"A\"\n[jump]\nheight = 2\n";
        assert_eq!(reread(&edit_tuning(nothing, &other).unwrap()).hull, other.hull, "a text without a hull");
        // Every size that it has can be set to any value of its range, and no other.
        for knob in &HULL_KNOBS {
            let mut tried = other.clone();
            match other.range_of(knob.path) {
                None => assert!(
                    matches!(tried.set_number(knob.path, 0.5), Err(NumberError::Shape { .. })),
                    "{shape} {}",
                    knob.path
                ),
                Some([min, max]) => {
                    for value in [min, 0.5 * (min + max), max] {
                        tried.set_number(knob.path, value).unwrap();
                        assert_eq!(tried.number(knob.path), Some(value));
                    }
                    for value in [min - 0.01, max * 1.01 + 0.01, f32::NAN] {
                        let mut tried = other.clone();
                        assert!(tried.set_number(knob.path, value).is_err(), "{shape} {} {value}", knob.path);
                        assert_eq!(tried, other);
                    }
                }
            }
        }
    }
    for (path, text, why) in [
        ("hull.shape", "cone", "expected capsule, ball, box"),
        ("hull.radius", "wide", "expected 0.001 to 1000 m"),
        ("hull.rounding", "0.1", "a capsule has no `hull.rounding`, expected one of hull.radius"),
        ("hull.width", "5", "height"),
        ("hull.radius", "5", "height"),
        ("hull.hat", "1", "there is no knob `hull.hat`"),
    ] {
        let error = file.clone().set_text(path, text).unwrap_err().to_string();
        assert!(error.contains(why), "{error}");
    }
}

#[test]
fn bindings_are_saved_with_the_comments_about_them() {
    let text = "# Mine.
[actions]
jump = [\"Space\", \"pad:south\"] # as everywhere
own-3 = [\"KeyT\"]

[steer]
left = [\"KeyA\"] # west
stick = \"left\"
dead_zone = 0.2
";
    let read = |text: &str| {
        let files = InMemory([("a", text.to_owned())].into());
        rasant_lab::read_bindings(&files, Path::new("a")).unwrap()
    };
    let mut bindings = read(text);
    assert_eq!(edit_bindings(text, &bindings).unwrap(), text);
    bindings.bind(Chord::named("wheel:up").unwrap(), Meaning::Action(Actions::JUMP));
    bindings.bind(Chord::named("ShiftLeft + KeyQ").unwrap(), Meaning::Action(Actions::own(0)));
    bindings.unbind(Meaning::Action(Actions::own(3)));
    bindings.bind(Chord::named("pad:left-x-").unwrap(), Meaning::Steer(Direction::Left));
    let edited = edit_bindings(text, &bindings).unwrap();
    for kept in ["# Mine.", "# as everywhere", "# west", "dead_zone = 0.2", "own-3 = []"] {
        assert!(edited.contains(kept), "{kept} in {edited}");
    }
    let again = read(&edited);
    for meaning in bindings.chords.iter().map(|(_, meaning)| *meaning) {
        assert!(again.chords_of(meaning).eq(bindings.chords_of(meaning)), "{meaning}: {edited}");
    }
    assert!(edit_bindings("[actions]\njump = 3\n", &bindings).is_err());
}

/// An overlay that slows the legs, and the camera, are restored with the body.
#[test]
fn an_overlay_and_the_camera_come_back_with_their_tick() {
    let mut bindings = Bindings::default();
    bindings.bind(Chord::named("KeyQ").unwrap(), Meaning::Action(Actions::own(0)));
    let mut attempt = attempt_with(bindings);
    let mut numbers = attempt.numbers().clone();
    for (knob, value) in [("overlay.action", 0.0), ("overlay.active", 1.0), ("overlay.pace", 0.25)] {
        numbers = turned(&numbers, knob, value).unwrap();
    }
    attempt.turn(numbers);
    let key = |code: &str, press| device(0, rasant::DeviceEvent::Key(Key::named(code).unwrap(), press));
    let mut seen = Vec::new();
    for tick in 0..200u32 {
        let events = match tick {
            5 => vec![key("ArrowRight", Press::Down)],
            43 => vec![key("KeyQ", Press::Down)],
            50 => vec![key("KeyQ", Press::Up)],
            _ => Vec::new(),
        };
        attempt.frame(Duration::from_nanos(16_666_667), &events);
        let overlay = attempt.body().overlay().map(|overlay| overlay.phase());
        seen.push((attempt.tick(), attempt.body().position(), overlay));
    }
    assert!(seen.iter().any(|(_, _, overlay)| overlay.is_some()), "it began");
    assert_eq!(attempt.body().velocity().x, attempt.body().tuning.walk.speed, "it is over");
    for &(tick, position, overlay) in seen.iter().rev() {
        attempt.seek(tick);
        let now = attempt.body().overlay().map(|overlay| overlay.phase());
        assert_eq!((attempt.body().position(), now), (position, overlay), "tick {tick}");
        let (focus, view) = attempt.view();
        assert!((focus - position).length() < 6.0 && view.is_none(), "{focus} at {position}");
    }
    // Knob by knob, a camera without lead and settling is where the body is.
    let mut still = attempt.numbers().clone();
    for knob in ["settle_time", "settle_time_up", "lead_time", "lead", "jump_zone"] {
        still = turned(&still, &format!("camera.{knob}"), 0.0).unwrap();
    }
    attempt.turn(still);
    for _ in 0..90 {
        attempt.step_on();
    }
    let body = attempt.body();
    let expected = body.position() + Vec2::Y * (body.tuning.camera.height * body.hull.height());
    assert!((attempt.view().0 - expected).length() < 0.02, "{} {expected}", attempt.view().0);
}
