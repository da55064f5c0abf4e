//! Zones of another up: who stands in one, or at its border, does not flicker.

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

/// How often up changes, in so many seconds.
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
fn who_stands_with_the_head_in_a_zone_or_at_its_border_does_not_flicker() {
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
                        let told = run.events.len();
                        let case =
                            format!("{hull:?} {rate}/s {up:?} from {low}: {turns} turns, {told} events");
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

/// Walking to and fro over a border turns it each way once a crossing.
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
