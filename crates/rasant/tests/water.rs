//! Water: the depth of a fall, swimming in every direction, rims.

use crate::common::{Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::state::Name;
use rasant::{
    Actions, Effect, Event, Geometry, Hull, Intent, Level, Look, Mode, Piece, Steering, Tuning, Zone,
};

const SWIM: Mode = Mode::Move(Name::new("swim"));

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::ball(0.45).unwrap()]
}

fn corner<V: Geometry>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

/// A basin of water, its surface at 0, between walls whose rims are at `rim`.
fn basin<V: Geometry>(depth: f32, rim: f32) -> Level<V> {
    let mut builder = Level::builder();
    for (min, max) in [
        ([-30.0, -99.0, -30.0], [-9.0, rim, 30.0]),
        ([9.0, -99.0, -30.0], [30.0, rim, 30.0]),
        ([-30.0, -99.0, -30.0], [30.0, -depth, 30.0]),
    ] {
        builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
    }
    builder.add_zone(Zone::new(corner(-9.0, -depth, -30.0), corner(9.0, 0.0, 30.0), Effect::Water));
    builder.build().unwrap()
}

/// Falls from `height` above the floating position. Returns the depth below it, and the seconds
/// until the body is back.
fn falls<V: Geometry>(tuning: Tuning, hull: Hull, height: f32, rate: u32) -> (f32, f32) {
    let level = basin::<V>(60.0, 0.0);
    let floats = -tuning.swim.float * hull.height();
    let mut run = Run::new(tuning, hull, V::UP * (floats + height), rate);
    let (mut deepest, mut back) = (0f32, f32::NAN);
    while run.seconds() < 12.0 {
        run.tick(&level, Intent::default());
        let depth = floats - run.body.position().height();
        deepest = deepest.max(depth);
        if back.is_nan() && deepest > 0.05 && depth < 0.05 && run.body.velocity().height() >= 0.0 {
            back = run.seconds();
        }
    }
    (deepest, back - (2.0 * height / (tuning.gravity() * tuning.fall.gravity)).sqrt())
}

#[test]
fn a_fall_into_water_has_the_same_depth_at_any_rate() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for (height, sink, drag) in [
                (0.5, 1.0, 0.2),
                (2.0, 1.0, 0.0),
                (3.0, 0.5, 0.0),
                (3.0, 1.0, 0.2),
                (8.0, 1.0, 0.2),
                (8.0, 2.0, 1.0),
            ] {
                let mut tuning = Tuning::default();
                (tuning.swim.sink, tuning.swim.drag, tuning.fall.terminal_speed) = (sink, drag, 100.0);
                let gravity = tuning.gravity() * tuning.fall.gravity;
                let rate_of_slowing = gravity / sink;
                // By the formula of the docs.
                let expected = if drag > 0.0 {
                    (1.0 + 2.0 * gravity * height * drag / rate_of_slowing).ln() / (2.0 * drag)
                } else {
                    height * sink
                };
                for rate in [24, 30, 60, 144, 240] {
                    let (deepest, back) = falls::<V>(tuning, hull, height, rate);
                    let case = format!("{hull:?} from {height} m at {rate}/s, sink {sink}, drag {drag}");
                    assert!(
                        (deepest - expected).abs() < 0.03 * expected + 0.01,
                        "{case}: {deepest}, not {expected}"
                    );
                    assert!(back < 2.5 + expected / 1.2, "{case}: back after {back} s");
                }
            }
        }
        let (deepest, back) = falls::<V>(Tuning::default(), capsule(), 0.5, 60);
        assert!((0.3..0.6).contains(&deepest) && back < 1.2, "{deepest} m, {back} s");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_slam_is_braked_by_water() {
    fn check<V: Geometry>() {
        let mut tuning = Tuning::default();
        tuning.slam.action = 0.0;
        let level = basin::<V>(5.0, 0.0);
        for hull in hulls() {
            for rate in [24, 60, 144] {
                let mut run = Run::new(tuning, hull, V::UP * 4.0, rate);
                run.tick(&level, Intent::default().pressing(Actions::own(0)));
                run.run(&level, 4.0, Intent::default());
                assert_eq!(run.count("landed"), 0, "{hull:?} at {rate}/s: {:?}", run.events);
                assert_eq!(run.body.state().mode, SWIM);
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Where it ends after swimming for two seconds from 4 m down, from where it was.
fn swims<V: Geometry>(tuning: Tuning, intent: Intent, rate: u32) -> V {
    let level = basin::<V>(40.0, 0.0);
    let mut run = Run::new(tuning, capsule(), V::UP * -15.0, rate);
    run.run(&level, 1.0, intent);
    let before = run.body.position();
    run.run(&level, 2.0, intent);
    run.body.position() - before
}

#[test]
fn it_swims_where_it_is_steered_and_looks() {
    let mut tuning = Tuning::default();
    tuning.swim.neutral_depth = 1.0;
    let speed = tuning.swim.speed;
    for rate in [30, 60, 144] {
        for (x, y) in [(1.0, 0.0), (0.0, 1.0), (0.0, -1.0), (-0.7, 0.7), (0.6, -0.8)] {
            let went: Vec2 = swims(tuning, Intent::steering(x, y), rate);
            assert!((went - Vec2::new(x, y) * speed * 2.0).length() < 0.1, "{x} {y}: {went}");
        }
        let rest: Vec2 = swims(tuning, Intent::default(), rate);
        assert_eq!(rest, Vec2::ZERO, "it stays where it is, deep enough");
        for (yaw, pitch) in [(0.0f32, -50f32), (0.7, -80.0), (2.0, 60.0)] {
            let pitch = pitch.to_radians();
            let ahead = Vec3::new(-yaw.sin() * pitch.cos(), pitch.sin(), -yaw.cos() * pitch.cos());
            for forward in [1.0, -1.0] {
                let intent = Intent { look: Look { yaw, pitch }, ..Intent::steering(0.0, forward) };
                let went: Vec3 = swims(tuning, intent, rate);
                assert!((went - ahead * (forward * speed * 2.0)).length() < 0.1, "{yaw} {pitch}: {went}");
            }
        }
        // A look that is nearly level swims level.
        let level = Intent { look: Look { yaw: 0.0, pitch: -0.3 }, ..Intent::steering(0.0, 1.0) };
        let went: Vec3 = swims(tuning, level, rate);
        assert!(went.y.abs() < 0.01, "{went}");
        // Steered by the axes of the screen, the look counts for nothing.
        let plan = Tuning { steering: Steering::Plan, ..tuning };
        let down = Intent { look: Look { yaw: 0.0, pitch: -1.0 }, ..Intent::steering(0.0, 1.0) };
        let went: Vec3 = swims(plan, down, rate);
        assert!(went.y.abs() < 0.01, "{went}");
    }
}

#[test]
fn a_heavy_body_sinks_and_a_light_one_rises() {
    fn check<V: Geometry>() {
        for (float_speed, expected) in [(-0.7, -0.7), (1.2, 1.2), (0.0, 0.0)] {
            let mut tuning = Tuning::default();
            tuning.swim.float_speed = float_speed;
            let went = swims::<V>(tuning, Intent::default(), 60).height() / 2.0;
            assert!((went - expected).abs() < 0.02, "{went} m/s, not {expected}");
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Steered up to the surface, it comes to rest there without leaving the water.
#[test]
fn steering_up_ends_at_the_surface() {
    fn check<V: Geometry>() {
        let level = basin::<V>(9.0, 0.0);
        for hull in hulls() {
            for rate in [24, 60, 144] {
                let tuning = Tuning::default();
                let floats = -tuning.swim.float * hull.height();
                let mut run = Run::new(tuning, hull, V::UP * -6.0, rate);
                let up = if V::DIMENSION == 2 {
                    Intent::steering(0.0, 1.0)
                } else {
                    Intent { look: Look { yaw: 0.0, pitch: 1.2 }, ..Intent::steering(0.0, 1.0) }
                };
                let mut highest = f32::MIN;
                for _ in 0..rate * 5 {
                    run.tick(&level, up);
                    highest = highest.max(run.body.position().height());
                }
                assert!(
                    (highest - floats).abs() < 0.1,
                    "{hull:?} {rate}/s: up to {highest}, floats at {floats}"
                );
                let events =
                    run.events.iter().filter(|(_, event)| !matches!(event, Event::WallMet { .. })).count();
                assert!(events < 6, "{:?}", run.events);
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_rim_is_grabbed_from_the_water() {
    fn check<V: Geometry>() {
        for hull in [capsule(), upright_box()] {
            for rate in [30, 60, 144] {
                for (from, rim) in [(-1.3, 0.1), (-4.0, 0.2), (-1.3, 0.3)] {
                    let level = basin::<V>(9.0, rim);
                    let mut tuning = Tuning::default();
                    tuning.ledge.reach = 0.3;
                    let mut run = Run::new(tuning, hull, corner(7.5, from, 0.0), rate);
                    run.run(&level, 3.5, Intent::steering(1.0, 0.0));
                    let name = Name::new("ledge");
                    assert_eq!(
                        run.body.state().mode,
                        Mode::Move(name),
                        "{hull:?} {rate}/s from {from}, rim {rim}: {:?}",
                        run.events
                    );
                    run.tick(&level, Intent::default().pressing(Actions::JUMP));
                    run.run(&level, 1.0, Intent::default());
                    assert!(run.body.state().footing.is_firm(), "it climbs out");
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Steered into a wall or not, it comes to rest at the floating position, without events.
#[test]
fn it_floats_at_rest_before_a_wall() {
    fn check<V: Geometry>() {
        let level = basin::<V>(9.0, 3.0);
        for hull in hulls() {
            for rate in [24, 60, 144] {
                for steer in [0.0, 0.5, 1.0] {
                    let tuning = Tuning::default();
                    let mut run = Run::new(tuning, hull, corner(8.2, -3.0, 0.0), rate);
                    run.run(&level, 4.0, Intent::steering(steer, 0.0));
                    let events = run.events.len();
                    let floats = -tuning.swim.float * hull.height();
                    for _ in 0..rate * 4 {
                        run.tick(&level, Intent::steering(steer, 0.0));
                        let off = run.body.position().height() - floats;
                        assert!(off.abs() < 0.01, "{hull:?} {rate}/s, steer {steer}: {off} m off");
                    }
                    assert_eq!(run.events.len(), events, "{:?}", &run.events[events..]);
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
