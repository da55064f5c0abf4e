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

/// In slow motion there are as many ticks as game time has passed; each press is seen once, by the next
/// tick; after a pause nothing is late.
#[test]
fn slow_motion_has_fewer_ticks_and_loses_no_press() {
    for seed in 0..100 {
        let mut dice = Dice(seed);
        let rate = [24, 30, 60, 144][dice.below(4)];
        let mut game = GameLoop::new(rate, Bindings::default()).unwrap();
        let (mut now, mut passed, mut ticked) = (Duration::ZERO, 0.0, 0usize);
        let (mut pressed, mut seen) = (0, 0);
        for _ in 0..200 {
            // The next speed begins with a frame.
            game.set_speed([0.0, 0.1, 0.25, 0.5, 1.0, 1.0, 3.0][dice.below(7)]);
            for _ in 0..10 {
                let step = dice.number(0.004, 0.03);
                if dice.below(4) == 0 && pressed == seen {
                    game.event(now + Duration::from_secs_f32(0.5 * step), space(Press::Down));
                    game.event(now + Duration::from_secs_f32(0.6 * step), space(Press::Up));
                    pressed += 1;
                }
                let step = Duration::from_secs_f32(step);
                now += step;
                passed += step.as_secs_f64() * f64::from(game.speed());
                let ticks: Vec<_> = game.frame(now).collect();
                ticked += ticks.len();
                seen += ticks.iter().filter(|intent| intent.pressed.contains(Actions::JUMP)).count();
                assert!(seen <= pressed, "seed {seed}");
            }
            let due = passed * f64::from(rate);
            assert!((ticked as f64 - due).abs() < 1.01, "seed {seed}: {ticked} ticks, {due} are due");
        }
        assert!(pressed > 50 && pressed - seen <= 1, "seed {seed}: {seen} of {pressed} presses");
        // At full speed a press is seen by the first tick after it, also after slow motion.
        game.set_speed(1.0);
        let dt = Duration::from_secs_f64(1.0 / f64::from(rate));
        game.frame(now + dt * 3).for_each(drop);
        now += dt * 3;
        game.event(now + dt / 2, space(Press::Down));
        let ticks: Vec<_> = game.frame(now + dt * 2).collect();
        assert_eq!(ticks.iter().filter(|intent| intent.pressed.contains(Actions::JUMP)).count(), 1);
    }
    let mut game = GameLoop::new(60, Bindings::default()).unwrap();
    game.set_speed(f32::NAN);
    assert_eq!(game.speed(), 1.0);
    game.set_speed(-3.0);
    assert_eq!(game.frame(Duration::from_secs(1)).count(), 0);
    game.set_speed(f32::INFINITY);
    assert_eq!(game.speed(), GameLoop::MAX_SPEED);
}
