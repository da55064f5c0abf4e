//! What one player does comes out alike at any tick rate.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Intent, Mode, Tuning};

/// The greatest less the least.
fn spread(values: &[f32]) -> f32 {
    let most = values.iter().copied().fold(f32::NEG_INFINITY, f32::max);
    most - values.iter().copied().fold(f32::INFINITY, f32::min)
}

/// Where a body is after it has been thrown against a wall, or walks off an edge to
/// it, and slid down it for a while.
fn slides<V: Geometry>(rate: u32, box_hull: bool, start: [f32; 3], velocity: [f32; 3]) -> f32 {
    let level = blocks::<V>(&[([2.0, -60.0, -9.0], [4.0, 9.0, 9.0]), ([-9.0, -1.0, -9.0], [-3.0, 0.0, 9.0])]);
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 0.8;
    let hull = if box_hull { upright_box() } else { capsule() };
    let mut run = Run::new(tuning, hull, V::from_array(start), rate);
    run.body.launch(V::from_array(velocity));
    run.run(&level, 2.0, Intent::steering(1.0, 0.0));
    assert_eq!(run.body.state().mode, Mode::WallSlide);
    run.body.position().height()
}

#[test]
fn a_wall_slide_begins_with_the_touch_at_any_rate() {
    fn alike<V: Geometry>() {
        for box_hull in [false, true] {
            for (start, velocity) in [
                ([0.0, 0.0, 0.0], [3.1, -9.0, 0.3]),
                ([0.3, 0.0, 0.0], [2.0, -2.0, 0.0]),
                ([-0.7, 0.0, 0.0], [5.0, 4.0, 0.0]),
            ] {
                let ends: Vec<f32> = [24, 30, 57, 60, 144, 240]
                    .iter()
                    .map(|&rate| slides::<V>(rate, box_hull, start, velocity))
                    .collect();
                assert!(spread(&ends) < 0.012, "{start:?} {velocity:?}: {ends:?}");
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
            (tuning.dash.charges, tuning.dash.distance, tuning.dash.time) = (1.0, 6.0, 0.5);
            (tuning.dash.turn, tuning.dash.curve) = (turn.to_radians(), curve);
            (tuning.dash.end_speed, tuning.dash.by_facing) = (0.0, 1.0);
            let mut run = Run::new(tuning, capsule(), Vec3::ZERO, rate);
            run.body.find_footing(&level);
            // It sets out where it faces, and turns to the side all along its way.
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
                    (tuning.walk.reach_time, tuning.slope.curb) = (0.0, 0.3);
                    let mut run = Run::new(tuning, hull, V::RIGHT * -1.0, rate);
                    run.body.find_footing(&level);
                    run.run(&level, 2.0, Intent::steering(1.0, 0.0));
                    let way = run.body.position().component(0) + 1.0;
                    let debt = run.body.state().ahead;
                    assert!((way - debt - 8.0).abs() < 0.04, "{tread} {hull:?} {rate}/s: {way} m");
                }
            }
        }
    }
    climbs::<Vec2>();
    climbs::<Vec3>();
}
