//! From device events to intents: nothing lost, nothing doubled, nothing late.

use std::time::Duration;

use crate::common::{capsule, floor};
use proptest::prelude::*;
use rasant::glam::Vec2;
use rasant::input::{Chord, Direction, Meaning, PadAxis, PadButton, Source, WheelTurn};
use rasant::input::{Opposites, Shaping, Stick, Zoning};
use rasant::{
    Actions, Bindings, Clock, Controller, DeviceEvent, Intent, Key, Look, Press, Sampler, Tape, Tuning,
};

const SPACE: fn(Press) -> DeviceEvent = |press| DeviceEvent::Key(key("Space"), press);

fn key(code: &str) -> Key {
    Key::named(code).unwrap()
}

fn ms(milliseconds: u64) -> Duration {
    Duration::from_millis(milliseconds)
}

/// Returns the names of the actions pressed in a run of ticks, in order.
fn presses(intents: &[Intent]) -> Vec<Actions> {
    intents.iter().flat_map(|intent| intent.pressed.each()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever the times of events, frames and ticks: every press is seen by
    /// exactly one tick, in order, at the earliest tick there is; held and
    /// released agree with it.
    #[test]
    fn presses_seen_are_presses_made_in_order_each_in_one_tick(
        gaps in prop::collection::vec((0u64..180_000, 0usize..3), 1..60),
        frames in prop::collection::vec(1_000u64..300_000, 40..80),
        rate in prop::sample::select(vec![24u32, 30, 50, 60, 120, 240]),
    ) {
        // Presses and releases of three actions, one at a time, with their times
        // in microseconds.
        let keys = [("Space", Actions::JUMP), ("KeyK", Actions::DASH), ("KeyC", Actions::CROUCH)];
        let mut down = [false; 3];
        let (mut time, mut events, mut made) = (0, Vec::new(), Vec::new());
        for (gap, which) in gaps {
            time += gap;
            let press = if down[which] { Press::Up } else { Press::Down };
            down[which] = !down[which];
            if press == Press::Down {
                made.push((Duration::from_micros(time), keys[which].1));
            }
            events.push((Duration::from_micros(time), DeviceEvent::Key(key(keys[which].0), press)));
        }
        let mut clock = Clock::new(rate).unwrap().with_max_ticks(10_000);
        let mut sampler = Sampler::new(Bindings::default());
        let (mut now, mut next, mut ticks) = (Duration::ZERO, 0, 0u32);
        let mut seen: Vec<(Duration, Actions)> = Vec::new();
        let mut held = Actions::NONE;
        let endless = frames.iter().copied().cycle();
        for frame in endless.take(400) {
            now += Duration::from_micros(frame);
            while next < events.len() && events[next].0 <= now {
                sampler.event(events[next].0, events[next].1);
                next += 1;
            }
            for _ in 0..clock.frame(Duration::from_micros(frame)).ticks {
                ticks += 1;
                let at = Duration::from_secs_f64(f64::from(ticks) / f64::from(rate));
                let intent = sampler.tick(at);
                // Presses and releases explain every change of the held actions.
                let changed = Actions::from_bits_retain(intent.held.bits() ^ held.bits());
                prop_assert!((intent.pressed | intent.released).intersects(changed) || changed.is_empty());
                prop_assert!(intent.held.difference(held).difference(intent.pressed).is_empty());
                held = intent.held;
                let mut now_seen: Vec<Actions> = intent.pressed.each().collect();
                // A set does not preserve the order of two presses in one tick, so both are sorted.
                now_seen.sort_by_key(|action| {
                    made[seen.len()..].iter().position(|(_, other)| other == action)
                });
                seen.extend(now_seen.into_iter().map(|action| (at, action)));
            }
        }
        prop_assert!(next == events.len() && ticks > 0);
        let what = |all: &[(Duration, Actions)]| all.iter().map(|(_, action)| *action).collect::<Vec<_>>();
        prop_assert_eq!(what(&seen), what(&made));
        // In the tick at or right after its time, unless a press of the same
        // action before it has had that tick.
        let tick = Duration::from_secs_f64(1.0 / f64::from(rate));
        for (i, ((at, action), (time, _))) in seen.iter().zip(&made).enumerate() {
            let crowded = made[..i].iter().rev().take_while(|(other, _)| *other + tick * 8 > *time);
            let crowded = crowded.filter(|(_, other)| other == action).count() > 0 || i > 0 && seen[i - 1].0 == *at;
            prop_assert!(*at + Duration::from_nanos(1) >= *time, "seen before it was made");
            prop_assert!(crowded || *at < *time + tick, "made at {:?}, seen at {:?}", time, at);
        }
    }

    /// However a stick is pushed, steer is no longer than 1.
    #[test]
    fn no_stick_and_no_keys_steer_by_more_than_1(
        x in -2f32..2.0, y in -2f32..2.0, dead_zone in 0f32..0.5, outer_zone in 0f32..0.4, curve in 0.2f32..4.0,
        per_axis: bool, left: bool, up: bool,
    ) {
        let zones = if per_axis { Zoning::PerAxis } else { Zoning::Round };
        let shaping = Shaping { dead_zone, outer_zone, curve, zones, ..Shaping::default() };
        let bindings = Bindings { shaping, ..Bindings::default() };
        let shaped = bindings.shaping.shape(x, y);
        prop_assert!(shaped.length() <= 1.0 + 1e-6);
        prop_assert!(Vec2::new(x, y).length() > dead_zone || shaped == Vec2::ZERO);
        prop_assert!(shaped.x * x >= 0.0 && shaped.y * y >= 0.0);
        let mut sampler = Sampler::new(bindings);
        sampler.event(ms(1), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::LeftX, value: x });
        sampler.event(ms(1), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::LeftY, value: y });
        if left {
            sampler.event(ms(2), DeviceEvent::Key(key("KeyA"), Press::Down));
        }
        if up {
            sampler.event(ms(2), DeviceEvent::Key(key("KeyW"), Press::Down));
        }
        prop_assert!(sampler.tick(ms(16)).steer.length() <= 1.0 + 1e-6);
    }

    #[test]
    fn a_tape_reads_back_to_the_same_bits_and_mirrors_to_itself_twice(
        intents in prop::collection::vec(
            (any::<f32>(), any::<f32>(), any::<f32>(), any::<u32>(), any::<u32>(), 1usize..4), 0..40),
        rate in 1u32..10_000,
    ) {
        let finite = |value: f32| if value.is_finite() { value } else { 0.5 };
        let tape: Tape = intents
            .iter()
            .flat_map(|&(x, y, yaw, held, pressed, count)| {
                let intent = Intent {
                    steer: Vec2::new(finite(x), finite(y)),
                    look: Look { yaw: finite(yaw), pitch: -0.0 },
                    held: Actions::from_bits_retain(held),
                    pressed: Actions::from_bits_retain(pressed),
                    released: Actions::from_bits_retain(held & pressed),
                };
                std::iter::repeat_n(intent, count)
            })
            .collect();
        let (read, its_rate) = Tape::from_text(&tape.to_text(rate)).unwrap();
        prop_assert_eq!(its_rate, rate);
        let bits = |tape: &Tape| tape.intents().iter().map(|i| (i.steer.x.to_bits(), i.steer.y.to_bits(),
            i.look.yaw.to_bits(), i.look.pitch.to_bits(), i.held, i.pressed, i.released)).collect::<Vec<_>>();
        prop_assert_eq!(bits(&read), bits(&tape));
        prop_assert_eq!(bits(&tape.mirrored().mirrored()), bits(&tape));
    }
}

#[test]
fn an_event_before_a_ticks_time_is_in_that_tick_and_a_late_one_in_the_next() {
    let mut sampler = Sampler::new(Bindings::default());
    sampler.event(ms(15), SPACE(Press::Down));
    sampler.event(ms(17), SPACE(Press::Up));
    assert_eq!(sampler.tick(ms(16)).pressed, Actions::JUMP);
    let second = sampler.tick(ms(32));
    assert_eq!((second.pressed, second.held, second.released), (Actions::NONE, Actions::NONE, Actions::JUMP));
    // Happened at 30 ms, received after the tick at 32.
    sampler.event(ms(30), SPACE(Press::Down));
    assert_eq!(sampler.tick(ms(48)).pressed, Actions::JUMP);
    assert_eq!(sampler.tick(ms(64)).pressed, Actions::NONE);
}

#[test]
fn a_press_shorter_than_a_frame_is_seen_and_makes_the_lowest_jump() {
    let mut sampler = Sampler::new(Bindings::default());
    sampler.event(ms(3), SPACE(Press::Down));
    sampler.event(ms(5), SPACE(Press::Up));
    let intent = sampler.tick(ms(16));
    assert_eq!((intent.pressed, intent.held, intent.released), (Actions::JUMP, Actions::NONE, Actions::JUMP));
}

#[test]
fn a_key_that_repeats_is_one_press() {
    let mut sampler = Sampler::new(Bindings::default());
    for time in [1, 300, 340, 380] {
        sampler.event(ms(time), SPACE(Press::Down));
    }
    let intents: Vec<Intent> = (1..40).map(|tick| sampler.tick(ms(tick * 16))).collect();
    assert_eq!(presses(&intents), [Actions::JUMP]);
}

#[test]
fn losing_the_focus_releases_everything_at_once() {
    let mut sampler = Sampler::new(Bindings { rise_time: 0.2, fall_time: 0.2, ..Bindings::default() });
    sampler.event(ms(1), SPACE(Press::Down));
    sampler.event(ms(1), DeviceEvent::Key(key("KeyD"), Press::Down));
    sampler.event(ms(1), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::LeftX, value: 0.9 });
    assert!(sampler.tick(ms(16)).steer.x > 0.5);
    sampler.event(ms(20), DeviceEvent::FocusLost);
    let intent = sampler.tick(ms(32));
    assert_eq!((intent.steer, intent.held, intent.released), (Vec2::ZERO, Actions::NONE, Actions::JUMP));
}

#[test]
fn opposite_keys_follow_the_rule() {
    let steer = |opposites, order: [&str; 2]| {
        let mut sampler = Sampler::new(Bindings { opposites, ..Bindings::default() });
        for (i, code) in order.iter().enumerate() {
            sampler.event(ms(1 + i as u64), DeviceEvent::Key(key(code), Press::Down));
        }
        let both = sampler.tick(ms(16)).steer.x;
        sampler.event(ms(20), DeviceEvent::Key(key(order[1]), Press::Up));
        (both, sampler.tick(ms(32)).steer.x)
    };
    assert_eq!(steer(Opposites::Last, ["KeyA", "KeyD"]), (1.0, -1.0));
    assert_eq!(steer(Opposites::First, ["KeyA", "KeyD"]), (-1.0, -1.0));
    assert_eq!(steer(Opposites::Neither, ["KeyA", "KeyD"]), (0.0, -1.0));
    assert_eq!(steer(Opposites::Last, ["ArrowRight", "KeyA"]), (-1.0, 1.0));
}

#[test]
fn keys_rise_and_fall_in_their_times_at_any_tick_rate() {
    for rate in [30u64, 60, 240] {
        let mut sampler = Sampler::new(Bindings {
            opposites: Opposites::Last,
            rise_time: 0.2,
            fall_time: 0.1,
            ..Bindings::default()
        });
        let at = |seconds: f64| Duration::from_secs_f64(seconds);
        sampler.tick(Duration::ZERO);
        sampler.event(at(1e-6), DeviceEvent::Key(key("KeyD"), Press::Down));
        let run = |sampler: &mut Sampler, from: f64, to: f64| {
            let (first, last) = ((from * rate as f64).round() as u64, (to * rate as f64).round() as u64);
            (first + 1..=last).map(|tick| sampler.tick(at(tick as f64 / rate as f64)).steer.x).last().unwrap()
        };
        let half = run(&mut sampler, 0.0, 0.1);
        assert!((half - 0.5).abs() < 1e-3, "{half} at {rate} Hz");
        assert_eq!(run(&mut sampler, 0.1, 0.3), 1.0);
        // To the other side: down at one rate, up at the other.
        sampler.event(at(0.3001), DeviceEvent::Key(key("KeyA"), Press::Down));
        let other = run(&mut sampler, 0.3, 0.5);
        assert!((other + 0.5).abs() < 1e-3, "{other} at {rate} Hz");
    }
}

#[test]
fn a_chord_counts_when_all_of_it_is_held() {
    let mut bindings = Bindings::none();
    bindings.bind(Chord::named("ShiftLeft + KeyE").unwrap(), Meaning::Action(Actions::own(0)));
    let mut sampler = Sampler::new(bindings);
    sampler.event(ms(1), DeviceEvent::Key(key("KeyE"), Press::Down));
    assert!(sampler.tick(ms(16)).pressed.is_empty());
    sampler.event(ms(17), DeviceEvent::Key(key("ShiftLeft"), Press::Down));
    assert_eq!(sampler.tick(ms(32)).pressed, Actions::own(0));
    sampler.event(ms(33), DeviceEvent::Key(key("KeyE"), Press::Up));
    assert_eq!(sampler.tick(ms(48)).released, Actions::own(0));
}

#[test]
fn the_pointer_and_the_stick_turn_the_look_and_pitch_has_an_end() {
    let mut sampler = Sampler::new(Bindings::default());
    let per_count = sampler.bindings().look.per_count;
    sampler.event(ms(1), DeviceEvent::PointerMoved { x: 100.0, y: -50.0 });
    let look = sampler.tick(ms(16)).look;
    assert!((look.yaw + 100.0 * per_count).abs() < 1e-5, "to the right is clockwise");
    assert!((look.pitch - 50.0 * per_count).abs() < 1e-5, "up is up");
    sampler.event(ms(17), DeviceEvent::PointerMoved { x: 0.0, y: -1e6 });
    assert!(sampler.tick(ms(32)).look.pitch.to_degrees() <= 89.0 + 1e-3);
    // A stick turns by its rate, the same at any tick rate.
    let turned = |rate: u64| {
        let mut sampler = Sampler::new(Bindings::default());
        sampler.event(Duration::ZERO, DeviceEvent::PadMoved { pad: 0, axis: PadAxis::RightX, value: 1.0 });
        (1..=rate).map(|tick| sampler.tick(Duration::from_nanos(tick * 1_000_000_000 / rate)).look.yaw).last()
    };
    let (slow, fast) = (turned(30).unwrap(), turned(240).unwrap());
    assert!((slow - fast).abs() < 1e-3 && (slow + 3.0).abs() < 1e-3, "{slow} {fast}");
}

#[test]
fn two_players_share_a_keyboard_and_have_a_pad_each() {
    let mut left = Bindings::none();
    left.bind(Chord::named("KeyD").unwrap(), Meaning::Steer(Direction::Right));
    left.bind(Chord::named("pad:south").unwrap(), Meaning::Action(Actions::JUMP));
    let mut right = Bindings::none();
    right.bind(Chord::named("ArrowRight").unwrap(), Meaning::Steer(Direction::Right));
    right.bind(Chord::named("pad:south").unwrap(), Meaning::Action(Actions::JUMP));
    let mut players = [Sampler::new(left).with_pad(0), Sampler::new(right).with_pad(1)];
    let south = |pad| DeviceEvent::Pad { pad, button: PadButton::South, press: Press::Down };
    for event in [DeviceEvent::Key(key("KeyD"), Press::Down), south(1)] {
        for player in &mut players {
            player.event(ms(1), event);
        }
    }
    let intents = players.each_mut().map(|player| player.tick(ms(16)));
    assert_eq!((intents[0].steer.x, intents[0].pressed), (1.0, Actions::NONE));
    assert_eq!((intents[1].steer.x, intents[1].pressed), (0.0, Actions::JUMP));
}

#[test]
fn a_key_is_caught_for_rebinding_and_does_not_play_meanwhile() {
    let mut sampler = Sampler::new(Bindings::default());
    sampler.capture();
    sampler.event(ms(1), DeviceEvent::Key(key("Space"), Press::Up)); // let go is not pressed
    sampler.event(ms(2), DeviceEvent::Key(key("KeyL"), Press::Down));
    let source = sampler.captured().unwrap();
    assert_eq!((source, sampler.captured()), (Source::Key(key("KeyL")), None));
    let jump = Meaning::Action(Actions::JUMP);
    let mut bindings = sampler.bindings().clone();
    bindings.unbind(jump);
    bindings.bind(source.into(), jump);
    sampler.rebind(bindings);
    sampler.event(ms(20), SPACE(Press::Down));
    assert!(sampler.tick(ms(32)).pressed.is_empty());
    sampler.event(ms(40), DeviceEvent::Key(key("KeyL"), Press::Down));
    assert_eq!(sampler.tick(ms(48)).pressed, Actions::JUMP);
}

#[test]
fn conflicts_are_reported_in_words() {
    let mut bindings = Bindings::default();
    assert!(bindings.conflicts().is_empty());
    bindings.bind(Chord::named("Space").unwrap(), Meaning::Action(Actions::own(3)));
    let words: Vec<String> = bindings.conflicts().iter().map(ToString::to_string).collect();
    assert_eq!(words, ["`Space` stands for both jump and own-3"]);
}

#[test]
fn every_source_has_a_name_that_reads_back() {
    let mut count = 0;
    for name in Source::names() {
        assert_eq!(Source::named(&name).unwrap().to_string(), name);
        count += 1;
    }
    assert!(count > 180, "{count}");
    for wrong in ["", "space", "pad:souht", "pad:left-x", "mouse:main"] {
        assert!(Source::named(wrong).is_err(), "{wrong}");
    }
    assert!(Chord::named("KeyA + KeyB + KeyC + KeyD").is_err());
}

#[test]
fn broken_tapes_are_refused_with_their_line() {
    for (text, line, expected) in [
        ("", 1, "rasant-tape 1"),
        ("rasant-tape 2\n", 1, "rasant-tape 1"),
        ("rasant-tape 1\n0 ticks a second\n", 2, "1 to 10000"),
        ("rasant-tape 1\n60 ticks a second\n3 0 0 0 0 - -\n", 3, "8 fields"),
        ("rasant-tape 1\n60 ticks a second\n\n0 0 0 0 0 - - -\n", 4, "the number of ticks"),
        ("rasant-tape 1\n60 ticks a second\n1 nan 0 0 0 - - -\n", 3, "a finite number"),
        ("rasant-tape 1\n60 ticks a second\n1 0 0 0 0 jmup - -\n", 3, "actions joined"),
        ("rasant-tape 1\n60 ticks a second\n99999999999 0 0 0 0 - - -\n", 3, "the number of ticks"),
    ] {
        let error = Tape::from_text(text).unwrap_err();
        assert_eq!(error.line, line, "{error}");
        assert!(error.to_string().contains(expected), "{error}");
    }
}

#[test]
fn a_tape_is_trimmed_spliced_and_still_whole() {
    let held = Intent::steering(1.0, 0.0).holding(Actions::JUMP);
    let rest = Intent::default();
    let tape: Tape =
        [rest, held.pressing(Actions::JUMP), held, held, rest.releasing(Actions::JUMP)].into_iter().collect();
    let trimmed = tape.trimmed(2..9);
    assert_eq!((trimmed.len(), trimmed.at(0).pressed), (3, Actions::JUMP));
    let spliced = tape.spliced(2, &[rest, rest].into_iter().collect());
    assert_eq!(spliced.len(), 7);
    assert_eq!((spliced.at(2).released, spliced.at(4).pressed), (Actions::JUMP, Actions::JUMP));
}

/// The same walk and jumps, once as intents and once as raw keys through
/// bindings, sampler and uneven frames: the same bits.
#[test]
fn keys_through_the_sampler_move_a_body_as_the_intents_do() {
    let level = floor::<Vec2>(99.0);
    let rate = 60;
    let play = |intents: &mut dyn FnMut(u32) -> Intent| {
        let mut body = Controller::new(Tuning::default(), capsule(), Vec2::ZERO);
        body.find_footing(&level);
        (0..240)
            .map(|tick| {
                body.tick(&intents(tick), &level, 1.0 / rate as f32);
                *body.state()
            })
            .collect::<Vec<_>>()
    };
    let by_intents = play(&mut |tick| {
        let mut intent =
            if (10..200).contains(&tick) { Intent::steering(1.0, 0.0) } else { Intent::default() };
        for (from, to) in [(30, 45), (90, 92)] {
            if tick == from {
                intent = intent.pressing(Actions::JUMP);
            } else if (from..to).contains(&tick) {
                intent = intent.holding(Actions::JUMP);
            } else if tick == to {
                intent = intent.releasing(Actions::JUMP);
            }
        }
        intent
    });
    let mut sampler = Sampler::new(Bindings { stick: Some(Stick::Left), ..Bindings::default() });
    // Each change a little before the tick that is to see it; tick n ends at
    // (n + 1) / rate.
    let before = |tick: u32| Duration::from_secs_f64((f64::from(tick) + 0.6) / f64::from(rate));
    let d = |press| DeviceEvent::Key(key("KeyD"), press);
    for (tick, event) in [
        (10, d(Press::Down)),
        (30, SPACE(Press::Down)),
        (45, SPACE(Press::Up)),
        (90, SPACE(Press::Down)),
        (92, SPACE(Press::Up)),
        (200, d(Press::Up)),
    ] {
        sampler.event(before(tick), event);
    }
    let by_keys =
        play(&mut |tick| sampler.tick(Duration::from_secs_f64(f64::from(tick + 1) / f64::from(rate))));
    assert_eq!(by_keys, by_intents);
}

#[test]
fn rebinding_releases_held_actions_and_presses_nothing() {
    let mut sampler = Sampler::new(Bindings::default());
    sampler.event(ms(1), DeviceEvent::Key(key("KeyD"), Press::Down));
    sampler.event(ms(1), SPACE(Press::Down));
    let held = sampler.tick(ms(16));
    assert_eq!((held.steer.x, held.pressed), (1.0, Actions::JUMP));
    let mut bindings = Bindings::none();
    bindings.bind(Chord::named("KeyD").unwrap(), Meaning::Action(Actions::DASH));
    bindings.bind(Chord::named("Space").unwrap(), Meaning::Action(Actions::JUMP));
    sampler.rebind(bindings);
    let next = sampler.tick(ms(32));
    assert_eq!((next.steer.x, next.released, next.pressed), (0.0, Actions::JUMP, Actions::NONE));
    // Neither the mouse nor key repeats press anything.
    sampler.event(ms(33), DeviceEvent::PointerMoved { x: 3.0, y: 0.0 });
    sampler.event(ms(34), DeviceEvent::Key(key("KeyD"), Press::Down));
    let next = sampler.tick(ms(48));
    assert_eq!((next.held, next.pressed), (Actions::NONE, Actions::NONE));
    sampler.event(ms(49), DeviceEvent::Key(key("KeyD"), Press::Up));
    sampler.event(ms(50), DeviceEvent::Key(key("KeyD"), Press::Down));
    assert_eq!(sampler.tick(ms(64)).pressed, Actions::DASH);
}

#[test]
fn a_capture_ignores_held_keys_and_other_gamepads() {
    let mut sampler = Sampler::new(Bindings::default()).with_pad(0);
    let pushed = |pad, value| DeviceEvent::PadMoved { pad, axis: PadAxis::LeftX, value };
    let south = |pad| DeviceEvent::Pad { pad, button: PadButton::South, press: Press::Down };
    sampler.event(ms(1), DeviceEvent::Key(key("KeyD"), Press::Down));
    sampler.event(ms(1), pushed(0, 0.9));
    sampler.tick(ms(16));
    sampler.capture();
    sampler.event(ms(17), DeviceEvent::Key(key("KeyD"), Press::Down)); // a repeat
    sampler.event(ms(18), pushed(0, 0.95)); // pushed already
    sampler.event(ms(19), south(1)); // another's
    assert_eq!(sampler.captured(), None);
    sampler.event(ms(20), south(0));
    assert_eq!(sampler.captured(), Some(Source::Pad(PadButton::South)));
}

#[test]
fn a_nan_look_and_a_long_pause_do_not_turn_the_body() {
    let mut sampler = Sampler::new(Bindings::default());
    sampler.set_look(Look { yaw: f32::NAN, pitch: 0.3 });
    assert_eq!(sampler.look(), Look { yaw: 0.0, pitch: 0.3 });
    let mut bindings = Bindings::default();
    bindings.look.stick = Some(rasant::input::Stick::Right);
    bindings.look.stick_rate = 2.0;
    let mut sampler = Sampler::new(bindings);
    sampler.event(ms(1), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::RightX, value: 1.0 });
    sampler.tick(ms(16));
    let before = sampler.look().yaw;
    sampler.tick(ms(300_016));
    assert!((sampler.look().yaw - before).abs() <= 0.51, "{} rad", sampler.look().yaw - before);
}

#[test]
fn gamepads_without_numbers_release_only_their_own_buttons() {
    let down = |pad, button, press| DeviceEvent::Pad { pad, button, press };
    let mut bindings = Bindings::default();
    bindings.bind(Chord::named("pad:south").unwrap(), Meaning::Action(Actions::JUMP));
    let mut sampler = Sampler::new(bindings);
    sampler.event(ms(1), down(0, PadButton::South, Press::Down));
    assert_eq!(sampler.tick(ms(10)).pressed, Actions::JUMP);
    // Another pad's press and release, and its stick at rest, are its own.
    sampler.event(ms(11), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::LeftX, value: 1.0 });
    sampler.event(ms(12), down(1, PadButton::South, Press::Down));
    sampler.event(ms(13), down(1, PadButton::South, Press::Up));
    sampler.event(ms(14), DeviceEvent::PadMoved { pad: 1, axis: PadAxis::LeftX, value: 0.01 });
    let intent = sampler.tick(ms(20));
    assert_eq!((intent.held, intent.pressed, intent.released), (Actions::JUMP, Actions::NONE, Actions::NONE));
    assert_eq!(intent.steer, Vec2::X);
    // Another gamepad's stick that is bound as a button, too.
    sampler.event(ms(21), DeviceEvent::PadMoved { pad: 1, axis: PadAxis::LeftX, value: -0.6 });
    assert_eq!(sampler.tick(ms(30)).steer, Vec2::X);
    sampler.event(ms(31), down(0, PadButton::South, Press::Up));
    assert_eq!(sampler.tick(ms(40)).released, Actions::JUMP);
}

#[test]
fn a_tape_that_is_cut_and_joined_presses_as_often_as_before() {
    // Taps, long presses, and a press in the tick of the release.
    let (jump, dash) = (Actions::JUMP, Actions::DASH);
    let mut again = Intent::default().pressing(jump);
    again.released = jump;
    let tape: Tape = [
        Intent::default().pressing(jump),
        Intent::default().holding(jump),
        again,
        Intent::default().holding(jump).pressing(dash),
        Intent::default().releasing(jump).holding(dash),
        Intent { pressed: jump, released: jump | dash, ..Intent::default() },
        Intent::steering(1.0, 0.0),
    ]
    .into_iter()
    .collect();
    for at in 0..=tape.len() {
        let (before, after) = (tape.trimmed(0..at), tape.trimmed(at..tape.len()));
        let through_text = |tape: &Tape| Tape::from_text(&tape.to_text(60)).unwrap().0;
        assert_eq!(before.spliced(before.len(), &after), tape, "cut at {at}");
        assert_eq!(through_text(&before).spliced(at, &through_text(&after)), tape, "cut at {at}");
        for end in at..=tape.len() {
            let middle = tape.trimmed(at..end);
            let rest = tape.trimmed(end..tape.len());
            let whole = before.spliced(at, &middle).spliced(end, &rest);
            assert_eq!(whole, tape, "cut at {at} and {end}");
        }
    }
}

#[test]
fn a_tape_of_numbers_that_are_none_reads_back_and_moves_a_body_alike() {
    let level = floor::<Vec2>(99.0);
    let broken = [f32::NAN, f32::INFINITY, f32::NEG_INFINITY, 0.4];
    let tape: Tape = (0..200)
        .map(|tick: usize| {
            let number = |by: usize| if (tick / 3).is_multiple_of(2) { 1.0 } else { broken[(tick * by) % 4] };
            let look = Look { yaw: number(3), pitch: number(5) };
            Intent { steer: Vec2::new(number(1), 0.0), look, ..Intent::default() }
        })
        .collect();
    let (read, _) = Tape::from_text(&tape.to_text(60)).unwrap();
    assert_eq!(read.len(), tape.len());
    let moved = |tape: &Tape| {
        let mut body = Controller::new(Tuning::default(), capsule(), Vec2::ZERO);
        body.find_footing(&level);
        for intent in tape.intents() {
            body.tick(intent, &level, 1.0 / 60.0);
        }
        *body.state()
    };
    assert_eq!(moved(&tape), moved(&read));
}

#[test]
fn a_clock_set_back_counts_no_time_twice() {
    let mut bindings = Bindings::default();
    bindings.look.stick = Some(Stick::Right);
    let turned = |times: &[u64]| {
        let mut sampler = Sampler::new(bindings.clone());
        sampler.event(ms(0), DeviceEvent::PadMoved { pad: 0, axis: PadAxis::RightX, value: 1.0 });
        times.iter().for_each(|time| {
            sampler.tick(ms(*time));
        });
        sampler.look().yaw
    };
    let (there, and_back) = (turned(&[100, 200, 300]), turned(&[100, 200, 150, 10, 200, 300]));
    assert!(there != 0.0 && (there - and_back).abs() < 1e-6, "{there} and {and_back}");
}

#[test]
fn each_notch_of_the_wheel_is_one_press_and_nothing_stays_held() {
    let mut bindings = Bindings::default();
    bindings.bind(Chord::named("wheel:up").unwrap(), Meaning::Action(Actions::DASH));
    bindings.bind(Chord::named("wheel:down").unwrap(), Meaning::Steer(Direction::Left));
    for notches in [1, 2, 5] {
        let mut sampler = Sampler::new(bindings.clone());
        for notch in 0..notches {
            sampler.event(ms(3 + notch), DeviceEvent::Wheel(WheelTurn::Up));
        }
        let intents: Vec<Intent> = (1..12).map(|tick| sampler.tick(ms(16 * tick))).collect();
        assert_eq!(presses(&intents).len() as u64, notches, "{notches} notches");
        for intent in &intents {
            assert_eq!(intent.pressed, intent.released);
            assert!(intent.held.is_empty() && intent.steer == Vec2::ZERO);
        }
    }
    // A notch steers for no time at all, and is caught for rebinding.
    let mut sampler = Sampler::new(bindings);
    sampler.event(ms(3), DeviceEvent::Wheel(WheelTurn::Down));
    assert_eq!(sampler.tick(ms(16)).steer, Vec2::ZERO);
    sampler.capture();
    sampler.event(ms(20), DeviceEvent::Wheel(WheelTurn::Down));
    assert_eq!(sampler.captured(), Some(Source::Wheel(WheelTurn::Down)));
}

#[test]
fn the_first_five_of_a_games_own_actions_have_a_key_and_a_button_and_no_key_has_two_meanings() {
    let bindings = Bindings::default();
    assert_eq!(bindings.conflicts(), []);
    for number in 0..5 {
        let chords: Vec<String> =
            bindings.chords_of(Meaning::Action(Actions::own(number))).map(ToString::to_string).collect();
        assert!(chords.iter().any(|chord| chord.starts_with("Key")), "own-{number}: {chords:?}");
        assert!(chords.iter().any(|chord| chord.starts_with("pad:")), "own-{number}: {chords:?}");
    }
}

#[test]
fn a_tuning_lists_the_actions_of_its_enabled_moves() {
    let listed = |tuning: &Tuning| {
        let controls = tuning.controls::<Vec2>();
        assert_eq!(controls, tuning.controls::<rasant::glam::Vec3>());
        controls.into_iter().map(|(name, actions)| (name.to_string(), actions)).collect::<Vec<_>>()
    };
    let mut tuning = Tuning::default();
    let before = listed(&tuning);
    assert!(before.contains(&("jump".to_owned(), Actions::JUMP)), "{before:?}");
    assert!(!before.iter().any(|(name, _)| name == "roll" || name == "slam"), "{before:?}");
    tuning.set("roll.action", 3.0).unwrap();
    tuning.set("slam.action", 27.0).unwrap();
    tuning.set("dash.charges", 0.0).unwrap();
    let after = listed(&tuning);
    assert!(after.contains(&("roll".to_owned(), Actions::own(3))), "{after:?}");
    assert!(after.contains(&("slam".to_owned(), Actions::own(27))), "{after:?}");
    assert!(!after.iter().any(|(name, _)| name == "dash"), "{after:?}");
}

/// Double taps, holds and toggles: each press is seen once, at any tick rate.
#[test]
fn gestures_press_an_action_once_they_are_made() {
    use rasant::input::Gesture;
    let key = Key::named("KeyG").unwrap();
    let at = |ms: u64| Duration::from_millis(ms);
    let chord = || Chord::named("KeyG").unwrap();
    // The times of going down and up, and the expected times of press and release.
    let taps: &[(u64, u64)] = &[(100, 150), (250, 420), (900, 950), (1300, 1350), (1500, 1600), (1700, 1750)];
    for (gesture, expected) in [
        (Gesture::DoubleTap { within: 0.3 }, &[(250, 420), (1500, 1600)][..]),
        (Gesture::Hold { time: 0.09 }, &[(340, 420), (1590, 1600)][..]),
        (Gesture::Toggle, &[(100, 250), (900, 1300), (1500, 1700)][..]),
    ] {
        for tick in [7, 16, 33] {
            let mut bindings = Bindings::none();
            bindings.bind_gesture(chord(), gesture, Actions::DASH);
            let mut sampler = Sampler::new(bindings);
            for &(down, up) in taps {
                sampler.event(at(down), DeviceEvent::Key(key, Press::Down));
                sampler.event(at(up), DeviceEvent::Key(key, Press::Up));
            }
            let mut seen = Vec::new();
            let mut now = 0;
            while now < 2000 {
                now += tick;
                let intent = sampler.tick(at(now));
                if intent.pressed.contains(Actions::DASH) {
                    seen.push((now, 0));
                }
                if intent.released.contains(Actions::DASH) {
                    seen.last_mut().unwrap().1 = now;
                }
            }
            let in_tick = |ms: u64| ms.div_ceil(tick) * tick;
            let expected: Vec<_> = expected.iter().map(|&(on, off)| (in_tick(on), in_tick(off))).collect();
            assert_eq!(seen, expected, "{gesture:?} with ticks of {tick} ms");
        }
    }
}

#[test]
fn gestures_are_read_from_text_and_written_back() {
    use rasant::input::Gesture;
    for text in ["double 0.3 KeyD", "hold 0.5 KeyE + ShiftLeft", "toggle pad:south"] {
        let (gesture, chord) = Gesture::named(text).unwrap();
        let again = Gesture::named(&format!("{} {chord}", gesture.unwrap())).unwrap();
        assert_eq!(again, (gesture, chord));
    }
    assert_eq!(
        Gesture::named("double KeyD").unwrap().0,
        Some(Gesture::DoubleTap { within: Gesture::WITHIN })
    );
    assert_eq!(Gesture::named("KeyD").unwrap().0, None);
    for wrong in ["hold KeyE", "hold 11 KeyE", "double -1 KeyE", "toggle", "twice KeyE", "hold 0.5 KeyQQ"] {
        assert!(Gesture::named(wrong).is_err(), "{wrong}");
    }
}
