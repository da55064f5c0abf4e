//! The same input has the same result at any tick rate.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::state::Name;
use rasant::{Actions, Geometry, Hull, Intent, Level, Mode, Piece, Tuning};

/// The greatest less the least.
fn spread(values: &[f32]) -> f32 {
    let most = values.iter().copied().fold(f32::NEG_INFINITY, f32::max);
    most - values.iter().copied().fold(f32::INFINITY, f32::min)
}

/// A wall with its foot at `x` = 2 that leans by an angle, and in three dimensions is rotated about
/// the origin by another; and the path to it.
trait Walled: Geometry {
    fn wall(lean: f32, turn: f32) -> (Level<Self>, Self);
}

impl Walled for Vec2 {
    fn wall(lean: f32, _: f32) -> (Level<Vec2>, Vec2) {
        let mut builder = Level::builder();
        let up = Vec2::Y.rotate(Vec2::from_angle(lean));
        let middle = Vec2::X * 2.0 + Vec2::X.rotate(Vec2::from_angle(lean)) - up * 25.0;
        builder.add(Piece::turned_rectangle(middle, Vec2::new(1.0, 35.0), lean).unwrap());
        (builder.build().unwrap(), Vec2::X)
    }
}

impl Walled for Vec3 {
    fn wall(lean: f32, turn: f32) -> (Level<Vec3>, Vec3) {
        let mut builder = Level::builder();
        let (lean, turn) = (Quat::from_rotation_z(lean), Quat::from_rotation_y(turn));
        let middle = turn * (Vec3::X * 2.0 + lean * Vec3::new(1.0, -25.0, 0.0));
        builder.add(Piece::turned_box(middle, Vec3::new(1.0, 35.0, 20.0), turn * lean).unwrap());
        (builder.build().unwrap(), turn * Vec3::X)
    }
}

/// Where a body is after it has been thrown against a wall and slid down it for a
/// while.
fn slides<V: Walled>(rate: u32, hull: Hull, (level, toward): &(Level<V>, V), thrown: [f32; 2]) -> V {
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 0.8;
    let mut run = Run::new(tuning, hull, V::UP * 3.0, rate);
    run.body.throw(*toward * thrown[0] + V::UP * thrown[1]);
    let steer = toward.to_array();
    run.run(level, 2.0, Intent::steering(steer[0], -steer[2]));
    assert_eq!(
        run.body.state().mode,
        Mode::Move(Name::new("wall-slide")),
        "{rate}/s {hull:?} {:?}",
        run.body.state()
    );
    let sinks = -run.body.velocity().height();
    assert!((sinks - 0.8).abs() < 1e-3, "{rate}/s {hull:?}: {sinks} m/s");
    run.body.position()
}

#[test]
fn a_wall_slide_begins_with_the_touch_at_any_rate() {
    fn alike<V: Walled>() {
        for hull in [capsule(), upright_box(), Hull::ball(0.4).unwrap()] {
            for (lean, turn) in [(0.0f32, 0.0f32), (0.12, 0.0), (0.0, 0.61), (0.07, -2.3)] {
                let place = V::wall(lean, turn);
                for thrown in [[3.1, -9.0], [2.0, -2.0], [5.0, 4.0]] {
                    let ends: Vec<V> = [24, 30, 57, 60, 144, 240]
                        .iter()
                        .map(|&rate| slides(rate, hull, &place, thrown))
                        .collect();
                    let heights: Vec<f32> = ends.iter().map(|end| end.height()).collect();
                    // A wall that recedes is met at a graze, where the millimetre of
                    // slack in a touch is worth more of the fall.
                    let most = if lean == 0.0 { 0.012 } else { 0.02 };
                    assert!(spread(&heights) < most, "{hull:?} {lean} {turn} {thrown:?}: {heights:?}");
                }
            }
        }
    }
    alike::<Vec2>();
    alike::<Vec3>();
}

#[test]
fn a_dash_that_turns_ends_in_one_place_at_any_rate() {
    let level = floor::<Vec3>(60.0);
    for (turn, curve, angle) in [(200.0f32, 0.0, 1.5f32), (430.0, 0.6, 2.8), (90.0, -0.5, -2.0)] {
        let mut ends = Vec::new();
        for rate in RATES {
            let mut tuning = Tuning::default();
            (tuning.dash.charges, tuning.dash.distance, tuning.dash.active) = (1.0, 6.0, 0.5);
            (tuning.dash.turn, tuning.dash.curve) = (turn.to_radians(), curve);
            (tuning.dash.end_speed, tuning.dash.by_facing) = (0.0, 1.0);
            let hull = if curve > 0.0 { upright_box() } else { capsule() };
            let mut run = Run::new(tuning, hull, Vec3::ZERO, rate);
            run.body.find_footing(&level);
            // It starts along its facing, and turns to the side continuously.
            let aside = Intent::steering(-angle.sin(), angle.cos());
            run.tick(&level, aside.pressing(Actions::DASH));
            run.run(&level, 0.5 - 1.0 / rate as f32, aside);
            ends.push(run.body.position());
        }
        let spread = spread(&ends.iter().map(|end| end.x).collect::<Vec<_>>())
            .max(spread(&ends.iter().map(|end| end.z).collect::<Vec<_>>()));
        assert!(spread < 0.01, "{turn} {curve} {angle}: {ends:?}");
    }
}

#[test]
fn stairs_are_climbed_as_fast_as_walked_at_any_rate() {
    fn climbs<V: Geometry>() {
        for (tread, rise) in [(0.4, 0.2), (0.31, 0.17), (1.0, 0.25)] {
            let count = (9.0 / tread) as usize;
            let steps: Vec<_> = (0..count)
                .map(|step| {
                    let x = step as f32 * tread;
                    ([x, -1.0, -9.0], [x + 30.0, rise * (step + 1) as f32, 9.0])
                })
                .chain([([-9.0, -1.0, -9.0], [0.0, 0.0, 9.0])])
                .collect();
            let level = blocks::<V>(&steps);
            for hull in [capsule(), upright_box()] {
                for rate in [24, 30, 60, 61, 144, 240] {
                    let mut tuning = Tuning::default();
                    (tuning.walk.reach_time, tuning.slope.step_height) = (0.0, 0.3);
                    let mut run = Run::new(tuning, hull, V::RIGHT * -1.0, rate);
                    run.body.find_footing(&level);
                    run.run(&level, 2.0, Intent::steering(1.0, 0.0));
                    let distance = run.body.position().component(0) + 1.0;
                    let debt = run.body.state().carry_over.step_lead;
                    assert!((distance - debt - 8.0).abs() < 0.04, "{tread} {hull:?} {rate}/s: {distance} m");
                }
            }
        }
    }
    climbs::<Vec2>();
    climbs::<Vec3>();
}

/// Returns the distance from the wall that a body reaches when it jumps off and steers back at
/// once.
fn comes_off_the_wall<V: Geometry>(rate: u32, back_time: f32) -> f32 {
    let level = blocks::<V>(&[([1.0, -50.0, -50.0], [2.0, 50.0, 50.0])]);
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 1.0;
    tuning.wall.jump_height = 1.6;
    tuning.wall.back_time = back_time;
    let mut run = Run::new(tuning, capsule(), V::RIGHT * 0.6, rate);
    let back = Intent::steering(1.0, 0.0);
    run.run(&level, 0.5, back);
    run.tick(&level, back.pressing(Actions::JUMP));
    assert_eq!(run.count("jumped"), 1);
    let mut furthest = 0.0f32;
    for _ in 0..rate {
        run.tick(&level, back.holding(Actions::JUMP));
        furthest = furthest.max(0.645 - run.body.position().component(0));
    }
    furthest
}

#[test]
fn steering_back_to_a_wall_is_weak_for_its_time_at_any_rate() {
    fn alike<V: Geometry>() {
        for back_time in [0.0, 0.03, 0.11, 0.25] {
            let all = [24, 30, 60, 120, 240].map(|rate| comes_off_the_wall::<V>(rate, back_time));
            // The furthest place may be between two ticks.
            assert!(spread(&all) < 0.02, "{back_time} s: {all:?}");
        }
    }
    alike::<Vec2>();
    alike::<Vec3>();
}
