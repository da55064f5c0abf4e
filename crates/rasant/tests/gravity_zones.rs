//! Zones with another up: bodies inside and at the border do not flicker.

use crate::common::{Dice, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Effect, Geometry, Hull, Intent, Level, Piece, Tuning, Zone};

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::ball(0.45).unwrap()]
}

/// A floor and a ceiling at 8 m, and a zone from `low` to `high` in which up is another.
fn hall<V: Geometry>(low: [f32; 3], high: [f32; 3], up: V) -> Level<V> {
    let mut builder = Level::builder();
    let corner = V::from_array;
    builder.add(Piece::block(corner([-30.0, -1.0, -9.0]), corner([30.0, 0.0, 9.0])).unwrap());
    builder.add(Piece::block(corner([-30.0, 8.0, -9.0]), corner([30.0, 9.0, 9.0])).unwrap());
    builder.add_zone(Zone::new(corner(low), corner(high), Effect::Gravity { up }));
    builder.build().unwrap()
}

/// Returns the number of changes of up within a time.
fn changes<V: Geometry>(run: &mut Run<V>, level: &Level<V>, seconds: f32, intent: Intent) -> usize {
    let mut count = 0;
    for _ in 0..(seconds * run.rate as f32) as usize {
        let before = run.body.state().up;
        run.tick(level, intent);
        count += usize::from(run.body.state().up != before);
    }
    count
}

#[test]
fn a_body_with_its_head_at_the_border_of_a_zone_does_not_flicker() {
    fn check<V: Geometry>() {
        let mut dice = Dice(5);
        for hull in hulls() {
            for rate in [24, 60, 144] {
                for up in [V::UP * -1.0, V::RIGHT, V::RIGHT * 0.6 + V::UP * 0.8] {
                    for _ in 0..4 {
                        // Over the head's height and the knees', or beside the body.
                        let low = dice.number(0.2, 1.0) * hull.height();
                        let over = hall([-30.0, low, -9.0], [30.0, 9.0, 9.0], up);
                        let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), rate);
                        run.body.find_footing(&over);
                        let turns = changes(&mut run, &over, 10.0, Intent::default());
                        let events = run.events.len();
                        let case =
                            format!("{hull:?} {rate}/s {up:?} from {low}: {turns} turns, {events} events");
                        // It may fall from one to the other and back, but comes to rest.
                        let last = changes(&mut run, &over, 5.0, Intent::default());
                        assert!(turns < 12 && last == 0, "{case}, then {last} turns");
                        let side = dice.number(-0.9, 0.9) * hull.half_width();
                        let beside = hall([side, -0.5, -9.0], [30.0, 8.5, 9.0], up);
                        let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), rate);
                        run.body.find_footing(&beside);
                        let turns = changes(&mut run, &beside, 10.0, Intent::default());
                        let last = changes(&mut run, &beside, 5.0, Intent::default());
                        assert!(
                            turns < 12 && last == 0,
                            "{hull:?} {rate}/s {up:?} beside {side}: {turns}, {last}"
                        );
                    }
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Walking back and forth over a border turns the body once for each crossing.
#[test]
fn a_border_is_crossed_once_each_way() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for rate in [24, 60, 144] {
                let level = hall([3.0, -0.5, -9.0], [30.0, 8.5, 9.0], V::UP * -1.0);
                let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), rate);
                run.body.find_footing(&level);
                let mut count = 0;
                for crossing in 0..6 {
                    let steer = if crossing % 2 == 0 { 1.0 } else { -1.0 };
                    count += changes(&mut run, &level, 2.0, Intent::steering(steer, 0.0));
                    // It has room to jump, wherever it is.
                    run.tick(&level, Intent::default().pressing(Actions::JUMP));
                    count += changes(&mut run, &level, 1.5, Intent::default());
                }
                assert_eq!(count, 6, "{hull:?} {rate}/s: {:?}", run.body.position());
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A ball of 12 m in a zone of its own gravity.
fn planet<V: Geometry>() -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::ball(V::ZERO, 12.0).unwrap());
    builder.add_zone(Zone::new(V::splat(-30.0), V::splat(30.0), Effect::Planet));
    builder.build().unwrap()
}

#[test]
fn a_planet_is_walked_round_and_jumped_on() {
    fn check<V: Geometry>() {
        let level = planet::<V>();
        for hull in hulls() {
            for rate in [30, 60, 144] {
                let mut run = Run::new(Tuning::default(), hull, V::UP * (12.0 + hull.clearance()), rate);
                run.body.find_footing(&level);
                let mut turned = 0.0;
                for _ in 0..rate * 20 {
                    let before = run.body.position().direction().unwrap();
                    run.tick(&level, Intent::steering(1.0, 0.0));
                    let state = run.body.state();
                    let away = state.position.direction().unwrap();
                    turned += (away - before).length();
                    assert!(state.footing.is_firm(), "{hull:?} {rate}/s: {state:?}");
                    let height = state.position.length() - 12.0;
                    assert!((0.0..3.0 * hull.clearance()).contains(&height), "{hull:?} {rate}/s: {height}");
                }
                // Several rounds, at the walking speed.
                let expected = 20.0 * run.body.tuning.walk.speed / 12.0;
                assert!(
                    (turned - expected).abs() < 0.02 * expected,
                    "{hull:?} {rate}/s: {turned}, {expected}"
                );
                assert!(
                    run.events.iter().all(|(_, event)| matches!(event.name(), "footfall" | "zone-entered")),
                    "{:?}",
                    run.events
                );
                // It rests where it stands, to the bit.
                run.run(&level, 1.0, Intent::default());
                let rested = run.body.position();
                run.run(&level, 1.0, Intent::default());
                assert_eq!(run.body.position(), rested);
                // And jumps as high as anywhere.
                let mut highest = 0f32;
                for tick in 0..rate {
                    let press = if tick == 0 { Actions::JUMP } else { Actions::NONE };
                    let intent = Intent { held: Actions::JUMP, ..Intent::steering(1.0, 0.0) };
                    run.tick(&level, intent.pressing(press));
                    highest = highest.max(run.body.position().length() - rested.length());
                }
                assert!((highest - 1.8).abs() < 0.15, "{hull:?} {rate}/s: {highest} m");
                assert_eq!((run.count("jumped"), run.count("apex"), run.count("landed")), (1, 1, 1));
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
