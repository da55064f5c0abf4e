//! Between slopes that are each too steep to stand on.

use crate::common::{Dice, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Hull, Intent, Layers, Level, Piece, SurfaceId, Tuning};

/// Two slopes that rise to the left and to the right of the origin, at these
/// angles to the level.
fn valley(left: f32, right: f32) -> Level<Vec2> {
    let mut builder = Level::builder();
    for (side, degrees) in [(-1.0, left), (1.0, right)] {
        let along = Vec2::from_angle(degrees.to_radians()) * 8.0;
        let mut corners =
            [Vec2::ZERO, Vec2::new(0.0, -1.0), Vec2::new(9.0, -1.0), Vec2::new(9.0, along.y), along];
        corners.iter_mut().for_each(|corner| corner.x *= side);
        if side < 0.0 {
            corners.reverse();
        }
        let upright = degrees == 90.0;
        let corners: Vec<Vec2> =
            corners.into_iter().filter(|at| !(upright && at.x == 0.0 && at.y == 0.0)).collect();
        builder.add(Piece::polygon(&corners).unwrap());
    }
    builder.build().unwrap()
}

/// A pit with `sides` walls at 60 degrees that meet in one point.
fn pit(sides: usize) -> Level<Vec3> {
    let rim: Vec<Vec3> = (0..sides)
        .map(|side| {
            let angle = side as f32 / sides as f32 * std::f32::consts::TAU;
            Vec3::new(angle.cos(), 3f32.sqrt(), angle.sin()) * 6.0
        })
        .collect();
    let faces: Vec<[u32; 3]> =
        (0..sides as u32).map(|side| [sides as u32, (side + 1) % sides as u32, side]).collect();
    mesh(&[&rim[..], &[Vec3::ZERO]].concat(), &faces)
}

/// A trench along x, between slopes of 60 degrees, that falls by `degrees` to
/// the right.
fn trench(degrees: f32) -> Level<Vec3> {
    let (near, far) = (Vec3::new(-30.0, 0.0, 0.0), Vec3::new(30.0, 0.0, 0.0));
    let rise = Vec3::new(0.0, 10.0 * 3f32.sqrt(), 10.0);
    let other = rise * Vec3::new(1.0, 1.0, -1.0);
    let fall = |at: Vec3| at - Vec3::Y * (at.x * degrees.to_radians().tan());
    let corners = [near, far, near + rise, far + rise, near + other, far + other].map(fall);
    mesh(&corners, &[[0, 2, 1], [1, 2, 3], [0, 1, 4], [1, 5, 4]])
}

fn mesh(corners: &[Vec3], faces: &[[u32; 3]]) -> Level<Vec3> {
    let mut builder = Level::builder();
    builder.add_mesh(corners, faces, SurfaceId::default(), Layers::GROUND).unwrap();
    builder.build().unwrap()
}

/// Dropped from `at`, the body comes to rest, does not change by a bit and reports nothing for ten
/// seconds, and can jump out.
fn comes_to_stand<V: Geometry>(level: &Level<V>, hull: Hull, at: V, case: &str) {
    let mut run = Run::new(Tuning::default(), hull, at, 60);
    run.run(level, 3.0, Intent::default());
    let stood = *run.body.state();
    assert!(stood.footing.is_firm(), "{case}: {stood:?}");
    let events = run.events.len();
    run.run(level, 10.0, Intent::default());
    assert_eq!(run.body.state().position, stood.position, "{case}");
    assert_eq!(&run.events[events..], &[], "{case}");
    run.tick(level, Intent::default().pressing(Actions::JUMP));
    run.run(level, 0.2, Intent::default().holding(Actions::JUMP));
    let risen = (run.body.state().position - stood.position).dot(V::UP);
    assert!(risen > 0.5, "{case}: rose {risen} m");
}

#[test]
fn a_body_stands_in_a_valley_too_steep_to_stand_on_either_side() {
    let mut dice = Dice(4);
    for hull in [capsule(), upright_box()] {
        for _ in 0..60 {
            let (left, right) = (dice.number(51.0, 84.0), dice.number(51.0, 84.0));
            let at = Vec2::new(dice.number(-0.6, 0.6), dice.number(5.0, 7.0));
            comes_to_stand(&valley(left, right), hull, at, &format!("{left} and {right} from {at}"));
        }
        for (left, right) in [(90.0, 60.0), (55.0, 90.0)] {
            comes_to_stand(&valley(left, right), hull, Vec2::Y * 6.0, &format!("{left} and {right}"));
        }
    }
}

#[test]
fn a_body_stands_at_the_bottom_of_a_pit() {
    for sides in [3, 4, 5, 8] {
        for off in [Vec3::ZERO, Vec3::new(0.4, 0.0, 0.3), Vec3::new(-0.7, 0.0, 0.1)] {
            comes_to_stand(&pit(sides), capsule(), off + Vec3::Y * 6.0, &format!("{sides} sides from {off}"));
        }
    }
}

#[test]
fn steering_into_the_sides_of_a_valley_neither_climbs_nor_loses_the_footing() {
    let level = valley(60.0, 70.0);
    for hull in [capsule(), upright_box()] {
        let mut run = Run::new(Tuning::default(), hull, Vec2::Y * 5.0, 60);
        run.run(&level, 3.0, Intent::default());
        let stood = run.body.state().position;
        for tick in 0..240 {
            run.tick(&level, Intent::steering(if tick / 60 % 2 == 0 { 1.0 } else { -1.0 }, 0.0));
            assert!(run.body.state().footing.is_firm(), "tick {tick}");
            assert!(run.body.state().position.distance(stood) < 0.02, "tick {tick}");
        }
        assert_eq!(run.count("left_ground"), 0);
        assert_eq!(run.count("apex"), 0);
    }
}

#[test]
fn a_trench_is_walked_along_at_full_speed_as_steeply_as_any_ground() {
    let tuning = Tuning::default();
    for degrees in [0.0, 20.0, 45.0] {
        let level = trench(degrees);
        let mut run = Run::new(tuning, capsule(), Vec3::Y * 2.0, 60);
        run.run(&level, 2.0, Intent::default());
        assert!(run.body.state().footing.is_firm(), "{degrees} degrees");
        let start = run.body.state().position;
        run.run(&level, 1.0, Intent::steering(-1.0, 0.0));
        let before = run.body.state().position;
        run.run(&level, 1.0, Intent::steering(-1.0, 0.0));
        let distance = before.distance(run.body.state().position);
        assert!(before.y >= start.y, "it is uphill");
        assert!(
            (distance / tuning.walk.speed - 1.0).abs() < 0.005,
            "{distance} m in a second at {degrees} degrees"
        );
    }
}

#[test]
fn a_trench_that_falls_too_steeply_is_slid_down() {
    let level = trench(60.0);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 2.0, 60);
    for tick in 0..90 {
        run.tick(&level, Intent::default());
        assert!(!run.body.state().footing.is_firm(), "tick {tick}");
    }
    assert!(run.body.state().position.x > 2.0);
}
