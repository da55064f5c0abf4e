//! A game's loop answers presses at once, whatever its frames are like.

use std::time::Duration;

use rasant::{Actions, Bindings, DeviceEvent, GameLoop, Key, Press};

use crate::common::Dice;

fn space(press: Press) -> DeviceEvent {
    DeviceEvent::Key(Key::named("Space").unwrap(), press)
}

/// Frames of all lengths, stalls and sleeps among them: a press has been seen by the end of the first frame
/// that is a tick later than it, by one tick, and no sooner than it happened.
#[test]
fn a_press_is_seen_by_one_tick_of_the_first_frame_that_can_however_long_others_were() {
    for seed in 0..200 {
        let mut dice = Dice(seed);
        let rate = [24, 30, 60, 144][dice.below(4)];
        let mut game = GameLoop::new(rate, Bindings::default()).unwrap();
        let dt = Duration::from_secs_f64(1.0 / f64::from(rate));
        // A slow start, for some.
        let mut now = Duration::from_secs_f32(if dice.below(3) == 0 { dice.number(0.0, 9.0) } else { 0.0 });
        let (mut pressed, mut seen, mut given_up) = (Vec::new(), 0, Duration::ZERO);
        let mut next_press = now + Duration::from_millis(30);
        for _ in 0..400 {
            now += match dice.below(40) {
                0 => Duration::from_secs_f32(dice.number(0.3, 4.0)),
                1 => Duration::from_secs(3600),
                2 => Duration::ZERO,
                _ => Duration::from_secs_f32(dice.number(0.001, 0.04)),
            };
            while next_press <= now {
                game.event(next_press, space(Press::Down));
                // Released soon, perhaps within the same tick.
                let up = next_press + Duration::from_secs_f32(dice.number(0.001, 0.05));
                game.event(up.min(now), space(Press::Up));
                pressed.push(next_press);
                // None before the next frame begins: two of one key in one tick are one.
                next_press = now + Duration::from_secs_f32(dice.number(0.1, 0.5));
            }
            let ticks: Vec<_> = game.frame(now).collect();
            given_up += game.dropped();
            assert!(ticks.len() <= (rate / 4) as usize && (0.0..1.0).contains(&game.blend()), "seed {seed}");
            seen += ticks.iter().filter(|intent| intent.pressed.contains(Actions::JUMP)).count();
            let due = pressed.iter().filter(|time| **time + dt <= now).count();
            assert!(seen >= due, "seed {seed}: at {now:?} {seen} of {due} presses are seen");
            assert!(seen <= pressed.len(), "seed {seed}: at {now:?} {seen} of {} presses", pressed.len());
        }
        assert!(given_up > Duration::ZERO, "seed {seed}: some frame stalls");
    }
}

#[test]
fn a_clock_set_back_adds_no_time() {
    let mut game = GameLoop::new(60, Bindings::default()).unwrap();
    assert_eq!(game.frame(Duration::from_millis(100)).count(), 6);
    assert_eq!(game.frame(Duration::from_millis(40)).count(), 0);
    assert_eq!(game.frame(Duration::from_millis(100)).count(), 0);
    assert_eq!(game.frame(Duration::from_millis(117)).count(), 1);
    assert_eq!((game.rate(), game.dropped()), (60, Duration::ZERO));
    assert!(GameLoop::new(0, Bindings::default()).is_err());
}
