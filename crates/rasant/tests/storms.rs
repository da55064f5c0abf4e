//! Constant input in a constant place does not produce a flood of events.

use crate::common::{Dice, Run, capsule, core_of, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::Sides;
use rasant::{Actions, Effect, Event, Geometry, Hull, Intent, Level, Piece, Tuning, Zone};

const RATES: [u32; 6] = [24, 30, 60, 120, 144, 240];

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::ball(0.4).unwrap()]
}

/// Level ground that ends at the origin in a face rising to the right at `angle`.
trait Foot: Geometry {
    fn foot(angle: f32, turned: f32) -> Level<Self>;
    fn mesh_foot(angle: f32, turned: f32) -> Level<Self>;
}

impl Foot for Vec2 {
    fn foot(angle: f32, _: f32) -> Level<Vec2> {
        let up = Vec2::new(angle.cos(), angle.sin()) * 30.0;
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec2::new(-30.0, -1.0), Vec2::new(30.0, 0.0)).unwrap());
        builder.add(Piece::polygon(&[Vec2::ZERO, Vec2::new(up.x, 0.0), up]).unwrap());
        builder.build().unwrap()
    }

    fn mesh_foot(angle: f32, _: f32) -> Level<Vec2> {
        let up = Vec2::new(angle.cos(), angle.sin()) * 30.0;
        let mut builder = Level::builder();
        builder.add(Piece::segment(Vec2::new(-30.0, 0.0), Vec2::ZERO, Sides::Both).unwrap());
        builder.add(Piece::segment(Vec2::ZERO, up, Sides::Both).unwrap());
        builder.build().unwrap()
    }
}

impl Foot for Vec3 {
    fn foot(angle: f32, turned: f32) -> Level<Vec3> {
        let (tilt, turn) = (Quat::from_rotation_z(angle), Quat::from_rotation_y(turned));
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec3::new(-30.0, -1.0, -30.0), Vec3::new(30.0, 0.0, 30.0)).unwrap());
        let middle = turn * (tilt * Vec3::new(0.0, -1.0, 0.0));
        builder.add(Piece::turned_box(middle, Vec3::new(30.0, 1.0, 20.0), turn * tilt).unwrap());
        builder.build().unwrap()
    }

    fn mesh_foot(angle: f32, turned: f32) -> Level<Vec3> {
        let turn = Quat::from_rotation_y(turned);
        let up = Vec3::new(angle.cos(), angle.sin(), 0.0) * 30.0;
        let (near, far) = (Vec3::Z * -20.0, Vec3::Z * 20.0);
        let back = Vec3::X * -30.0;
        let corners = [back + near, back + far, near, far, up + near, up + far].map(|corner| turn * corner);
        let triangles = [[0, 1, 3], [0, 3, 2], [2, 3, 5], [2, 5, 4]];
        let mut builder = Level::builder();
        builder.add_mesh(&corners, &triangles, rasant::SurfaceId::default(), rasant::Layers::GROUND).unwrap();
        builder.build().unwrap()
    }
}

/// Returns the number of changes of the gait, and of events except footfalls.
fn storm<V: Geometry>(run: &mut Run<V>, level: &Level<V>, seconds: f32, intent: Intent) -> (usize, usize) {
    run.events.clear();
    let mut changes = 0;
    for _ in 0..(seconds * run.rate as f32) as usize {
        let before = run.body.state().animation.gait;
        run.tick(level, intent);
        changes += usize::from(run.body.state().animation.gait != before);
    }
    let events = run.events.iter().filter(|(_, event)| !matches!(event, Event::Footfall { .. })).count();
    (changes, events)
}

#[test]
fn steering_into_the_foot_of_steep_ground_tells_nothing_over_and_over() {
    fn quiet<V: Foot>() {
        let mut worst = 0;
        for degrees in [50.5f32, 51.0, 57.3, 63.0, 70.0, 79.0, 88.0] {
            for turned in if V::DIMENSION == 3 { &[0.0f32, 0.3, -0.7][..] } else { &[0.0] } {
                let angle = degrees.to_radians();
                for (kind, level) in
                    [("solid", V::foot(angle, *turned)), ("thin", V::mesh_foot(angle, *turned))]
                {
                    for hull in hulls() {
                        for rate in RATES {
                            let start = V::RIGHT * -1.5 + V::UP * 0.005;
                            let mut run = Run::new(Tuning::default(), hull, start, rate);
                            run.body.find_footing(&level);
                            run.run(&level, 1.5, Intent::steering(1.0, 0.0));
                            let (changes, events) = storm(&mut run, &level, 2.0, Intent::steering(1.0, 0.0));
                            if changes > 4 || events > 4 {
                                println!(
                                    "{}D {kind} {degrees} turned {turned} {rate}/s {hull:?}: {changes} changes, {events} events",
                                    V::DIMENSION
                                );
                            }
                            worst = worst.max(changes).max(events);
                        }
                    }
                }
            }
        }
        assert!(worst <= 4, "{worst}");
    }
    quiet::<Vec2>();
    quiet::<Vec3>();
}

#[test]
fn wind_that_lifts_is_one_leaving() {
    fn once<V: Geometry>(fraction: f32, falls: f32) {
        for rate in RATES {
            let mut tuning = Tuning::default();
            tuning.fall.gravity = falls;
            let mut builder = Level::builder();
            let corner = V::from_array([-9.0, -1.0, -9.0]);
            builder.add(Piece::block(corner, V::from_array([9.0, 0.0, 9.0])).unwrap());
            let push = V::UP * (tuning.gravity() * fraction);
            builder.add_zone(Zone::new(corner, V::from_array([9.0, 900.0, 9.0]), Effect::Wind { push }));
            let level = builder.build().unwrap();
            let mut run = Run::new(tuning, capsule(), V::UP * 0.005, rate);
            run.body.find_footing(&level);
            run.run(&level, 0.2, Intent::default());
            let (changes, events) = storm(&mut run, &level, 3.0, Intent::default());
            assert!(
                changes <= 8 && events <= 8,
                "{fraction} of gravity, {falls}, {rate}/s: {changes} {events}"
            );
        }
    }
    for (fraction, falls) in [(1.2, 1.6), (1.01, 1.02), (1.5, 1.4), (0.9, 1.6), (2.0, 1.0), (1.1, 2.0)] {
        once::<Vec2>(fraction, falls);
        once::<Vec3>(fraction, falls);
    }
}

#[test]
fn a_gravity_zone_turns_a_standing_body_once() {
    fn once<V: Geometry>(up: V) {
        for rate in RATES {
            for hull in hulls() {
                let mut builder = Level::builder();
                let (floor, wall) = (V::from_array([-9.0, -1.0, -9.0]), V::from_array([3.0, 0.0, -9.0]));
                builder.add(Piece::block(floor, V::from_array([9.0, 0.0, 9.0])).unwrap());
                builder.add(Piece::block(wall, V::from_array([4.0, 9.0, 9.0])).unwrap());
                let zone = Zone::new(
                    V::from_array([0.0, 0.0, -9.0]),
                    V::from_array([9.0, 9.0, 9.0]),
                    Effect::Gravity { up },
                );
                builder.add_zone(zone);
                let level = builder.build().unwrap();
                for start in [-2.0, -0.37, -0.2, 0.0, 0.3] {
                    let at = V::RIGHT * start + V::UP * 0.005;
                    let mut run = Run::new(Tuning::default(), hull, at, rate);
                    run.body.find_footing(&level);
                    let mut turns = 0;
                    for tick in 0..rate * 4 {
                        let before = run.body.state().up;
                        let walks = if start < -1.0 && tick < rate { 1.0 } else { 0.0 };
                        run.tick(&level, Intent::steering(walks, 0.0));
                        turns += usize::from(run.body.state().up != before);
                    }
                    let case = format!("from {start} {up:?} {rate}/s {hull:?}");
                    assert!(turns <= 3, "{case}: turned {turns} times");
                    let (changes, events) = storm(&mut run, &level, 1.0, Intent::default());
                    assert!(changes <= 2 && events <= 2, "{case}: {changes} {events}");
                }
            }
        }
    }
    once(Vec2::NEG_X);
    once(Vec2::new(-0.8, 0.6));
    once(Vec3::NEG_X);
    once(Vec3::new(-0.6, 0.8, 0.0));
}

/// On a ridge of two slopes, the normal is that of the touched face, and the velocity is along it.
#[test]
fn over_a_ridge_the_normal_is_of_the_face_underfoot() {
    fn agree<V: Geometry>(ridge: &Level<V>, right: V, case: &str) {
        for hull in hulls() {
            for rate in RATES {
                for speed in [1.5, 4.0, 9.0] {
                    let mut tuning = Tuning::default();
                    (tuning.walk.speed, tuning.walk.reach_time) = (speed, 0.0);
                    let mut run = Run::new(tuning, hull, right * -4.0 + V::UP * 0.005, rate);
                    run.body.find_footing(ridge);
                    for _ in 0..(10.0 / speed * rate as f32) as usize {
                        let steer = right.to_array();
                        run.tick(ridge, Intent::steering(steer[0], -steer[2]));
                        let state = run.body.state();
                        if !state.footing.is_firm() {
                            continue;
                        }
                        let (normal, velocity) = (state.footing.normal, state.velocity);
                        let case = format!("{case} {hull:?} {rate}/s {speed}: {state:?}");
                        assert!(velocity.dot(normal).abs() < 1e-3 * speed, "{case}");
                        let touched = (state.position + state.footing.point).dot(right);
                        let faces = [(-9.0, -2.0, 0), (-2.0, 0.0, 1), (0.0, 9.0, 2)];
                        let (_, _, face) = faces[faces.iter().position(|face| touched < face.1).unwrap_or(2)];
                        let off = faces.iter().map(|face| (touched - face.1).abs()).fold(9.0, f32::min);
                        if off > 0.01 && core_of::<V>(&hull).half.component(0) == 0.0 {
                            let leans = normal.dot(right);
                            let fits_face = [leans.abs() < 1e-3, leans < 1e-3, leans > -1e-3][face];
                            assert!(fits_face, "{touched} {case}");
                        }
                    }
                }
            }
        }
    }
    for (left, right) in [(30.0f32, 30.0f32), (40.0, 20.0), (10.0, 45.0), (0.0, 35.0)] {
        let (a, b) = (left.to_radians().tan(), right.to_radians().tan());
        let top = 2.0 * a;
        let low = -30.0;
        let profile =
            [Vec2::new(-9.0, 0.0), Vec2::new(-2.0, 0.0), Vec2::new(0.0, top), Vec2::new(9.0, top - 9.0 * b)];
        let mut flat = Level::builder();
        for pair in profile.windows(2) {
            let below = [Vec2::new(pair[1].x, low), Vec2::new(pair[0].x, low)];
            flat.add(Piece::polygon(&[pair[0], pair[1], below[0], below[1]]).unwrap());
        }
        agree(&flat.build().unwrap(), Vec2::X, &format!("{left} {right} plane"));
        for turned in [0.0f32, 0.4] {
            let turn = Quat::from_rotation_y(turned);
            let mut corners = Vec::new();
            for point in profile {
                corners.push(turn * point.extend(-20.0));
                corners.push(turn * point.extend(20.0));
            }
            let triangles: Vec<[u32; 3]> =
                (0..3).flat_map(|i| [[2 * i, 2 * i + 1, 2 * i + 3], [2 * i, 2 * i + 3, 2 * i + 2]]).collect();
            let mut builder = Level::builder();
            builder
                .add_mesh(&corners, &triangles, rasant::SurfaceId::default(), rasant::Layers::GROUND)
                .unwrap();
            agree(&builder.build().unwrap(), turn * Vec3::X, &format!("{left} {right} turned {turned}"));
        }
    }
}

#[test]
fn at_rest_between_anything_a_body_tells_nothing() {
    for seed in 0..60 {
        let mut dice = Dice(seed);
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec3::new(-9.0, -1.0, -9.0), Vec3::new(9.0, 0.0, 9.0)).unwrap());
        for _ in 0..3 {
            let turn = Quat::from_rotation_y(dice.number(0.0, 6.3));
            let tilt = Quat::from_rotation_z(dice.number(-0.9, 1.3));
            let half = Vec3::new(dice.number(0.5, 3.0), dice.number(0.5, 3.0), dice.number(0.5, 3.0));
            let at = turn * Vec3::new(-0.8 - half.x, 0.6, 0.0);
            builder.add(Piece::turned_box(at, half, turn * tilt).unwrap());
        }
        let level = builder.build().unwrap();
        let (hull, rate) = (hulls()[dice.below(3)], RATES[dice.below(6)]);
        let mut run = Run::new(Tuning::default(), hull, Vec3::Y * 4.0, rate);
        let steer: Vec3 = dice.direction();
        run.run(&level, 2.0, Intent::steering(steer.x, steer.z));
        run.run(&level, 2.0, Intent::default());
        let (changes, events) = storm(&mut run, &level, 1.0, Intent::default());
        assert!(
            changes <= 2 && events <= 2,
            "{seed} {hull:?} {rate}/s: {changes} {events} {:?}",
            run.body.state()
        );
        let (changes, events) = storm(&mut run, &level, 1.0, Intent::steering(steer.x, steer.z));
        assert!(
            changes <= 14 && events <= 14,
            "{seed} steered {hull:?} {rate}/s: {changes} {events} {:?}",
            run.body.state()
        );
    }
}

#[test]
fn dropping_through_a_one_way_platform_never_rises() {
    fn falls<V: Geometry>() {
        for hull in hulls() {
            for rate in RATES {
                let v = V::from_array;
                let mut builder = Level::builder();
                let platform = Piece::block(v([-9.0, -0.2, -9.0]), v([9.0, 0.0, 9.0])).unwrap();
                builder.add(platform.one_way());
                builder.add(Piece::block(v([-9.0, -9.0, -9.0]), v([9.0, -5.0, 9.0])).unwrap());
                let level = builder.build().unwrap();
                let mut run = Run::new(Tuning::default(), hull, V::UP * 0.005, rate);
                run.body.find_footing(&level);
                run.run(&level, 0.2, Intent::default());
                let down = Intent::steering(0.0, if V::DIMENSION == 2 { -1.0 } else { 0.0 });
                let mut before = run.body.position().height();
                run.tick(&level, down.pressing(Actions::CROUCH).pressing(Actions::JUMP));
                for _ in 0..rate {
                    let height = run.body.position().height();
                    assert!(height <= before, "{rate}/s {hull:?}: from {before} to {height}");
                    before = height;
                    run.tick(&level, Intent::default());
                }
                assert!((before + 4.995).abs() < 1e-3, "{rate}/s {hull:?}: ends at {before}");
            }
        }
    }
    falls::<Vec2>();
    falls::<Vec3>();
}

/// A fan of triangles about the origin, tilted, its corners' heights a hair off.
fn fan(count: u32, tilt: f32, rough: f32) -> Level<Vec3> {
    let mut dice = Dice(5);
    let mut corners = vec![Vec3::ZERO];
    for i in 0..count {
        let angle = i as f32 * std::f32::consts::TAU / count as f32;
        let (x, z) = (8.0 * angle.cos(), 8.0 * angle.sin());
        corners.push(Vec3::new(x, x * tilt + dice.number(-rough, rough), z));
    }
    let triangles: Vec<[u32; 3]> = (0..count).map(|i| [0, 1 + (i + 1) % count, 1 + i]).collect();
    let mut builder = Level::builder();
    builder.add_mesh(&corners, &triangles, rasant::SurfaceId::default(), rasant::Layers::GROUND).unwrap();
    builder.build().unwrap()
}

#[test]
fn over_the_middle_of_a_fan_feet_stay_firm() {
    for (count, tilt, rough) in [(50, 0.3, 0.0), (500, 0.0, 0.0), (500, 0.6, 0.0), (500, 0.2, 1e-3)] {
        let level = fan(count, tilt, rough);
        for hull in hulls() {
            for rate in [30, 144] {
                for turn in 0..4 {
                    let angle = 0.9 * turn as f32 + 0.05;
                    let direction = Vec3::new(angle.cos(), 0.0, angle.sin());
                    let start = direction * -4.0 + Vec3::Y * (0.4 - 4.0 * angle.cos() * tilt);
                    let mut run = Run::new(Tuning::default(), hull, start, rate);
                    run.run(&level, 1.0, Intent::default());
                    for _ in 0..2 * rate {
                        run.tick(&level, Intent::steering(direction.x, -direction.z));
                        let state = run.body.state();
                        assert!(
                            state.footing.is_firm(),
                            "{count} {tilt} {rough} {rate}/s {hull:?}: {state:?}"
                        );
                    }
                }
            }
        }
    }
}
