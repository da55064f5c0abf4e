//! Bodies pressed against walls and into corners at odd angles: they move where they can, and come
//! to rest where they cannot.

use crate::common::{Dice, capsule, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::{Actions, Controller, Hull, HullShape, Intent, Level, Piece, Tuning};

const RATES: [u32; 5] = [24, 30, 60, 144, 240];

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::new(HullShape::Ball { radius: 0.4 }).unwrap()]
}

/// Metres from the origin to each wall.
const WALL: f32 = 1.0;

/// A floor, and straight walls whose normals point at these angles from above.
fn walls(builder: &mut rasant::level::LevelBuilder<Vec3>, normals: &[f32]) {
    builder.add(Piece::block(Vec3::new(-60.0, -1.0, -60.0), Vec3::new(60.0, 0.0, 60.0)).unwrap());
    for &angle in normals {
        let turn = Quat::from_rotation_y(angle);
        let middle = turn * Vec3::new(-WALL - 0.5, 2.0, 0.0);
        builder.add(Piece::turned_box(middle, Vec3::new(0.5, 4.0, 50.0), turn).unwrap());
    }
}

fn room(normals: &[f32]) -> Level<Vec3> {
    let mut builder = Level::builder();
    walls(&mut builder, normals);
    builder.build().unwrap()
}

/// A corner of 40 to 172 degrees, turned anyhow: the level, its angle and where it
/// opens to.
fn corner(dice: &mut Dice) -> (Level<Vec3>, f32, f32) {
    let inside = dice.number(40.0, 172.0).to_radians();
    let turned = dice.number(0.0, 6.0);
    let half = (std::f32::consts::PI - inside) / 2.0;
    (room(&[turned - half, turned + half]), inside, turned)
}

/// Where a wall at `angle` faces.
fn normal(angle: f32) -> Vec3 {
    Quat::from_rotation_y(angle) * Vec3::X
}

/// Steering to the right and forward along a direction seen from above.
fn toward(direction: Vec3) -> Intent {
    Intent::steering(direction.x, -direction.z)
}

#[test]
fn a_body_pressed_along_a_straight_wall_moves_at_its_velocity() {
    for hull in hulls() {
        for rate in [30, 57, 144] {
            for degrees in [3.0f32, 18.0, 33.0, 71.7, 301.1] {
                let angle = degrees.to_radians();
                let level = room(&[angle]);
                for into in [10.0f32, 45.0, 61.3, 80.0] {
                    for side in [-1.0f32, 1.0] {
                        let along = normal(angle).cross(Vec3::Y) * side;
                        let direction =
                            along * into.to_radians().cos() - normal(angle) * into.to_radians().sin();
                        let mut body = Controller::new(Tuning::default(), hull, Vec3::ZERO);
                        body.find_footing(&level);
                        let dt = 1.0 / rate as f32;
                        for tick in 0..rate * 2 {
                            let before = body.position();
                            body.tick(&toward(direction), &level, dt);
                            let went = (body.position() - before).dot(along);
                            let says = body.velocity().dot(along);
                            // After it has come to the wall, at an even speed.
                            if tick > rate {
                                let case = format!("{hull:?} {rate}/s {degrees} into {into}, tick {tick}");
                                assert!(
                                    (went - says * dt).abs() < 0.02 * says * dt,
                                    "{case}: {went} of {}",
                                    says * dt
                                );
                                assert!(says > 0.9 * 4.0 * into.to_radians().cos(), "{case}: {says}");
                            }
                        }
                    }
                }
            }
        }
    }
}

#[test]
fn steering_straight_into_a_corner_ends_at_rest_to_the_bit() {
    let mut dice = Dice(5);
    for hull in hulls() {
        for rate in RATES {
            for _ in 0..12 {
                let (level, inside, turned) = corner(&mut dice);
                let direction = -normal(turned);
                let mut body = Controller::new(Tuning::default(), hull, Vec3::ZERO);
                body.find_footing(&level);
                for _ in 0..rate * 3 {
                    body.tick(&toward(direction), &level, 1.0 / rate as f32);
                }
                let rested = body.position();
                for tick in 0..rate {
                    body.tick(&toward(direction), &level, 1.0 / rate as f32);
                    let case = format!("{hull:?} {rate}/s, corner of {} at {turned}", inside.to_degrees());
                    assert_eq!(body.position(), rested, "{case}, tick {tick}");
                    assert_eq!(body.velocity(), Vec3::ZERO, "{case}, tick {tick}");
                }
            }
        }
    }
}

#[test]
fn a_jump_pressed_into_a_corner_rises_and_falls_as_one_in_the_open() {
    let mut dice = Dice(8);
    for hull in hulls() {
        for rate in RATES {
            for _ in 0..12 {
                let (level, inside, turned) = corner(&mut dice);
                let open = room(&[]);
                let mut tuning = Tuning::default();
                tuning.wall.slide_speed = 0.0;
                let direction = -normal(turned + dice.number(-0.5, 0.5));
                let mut bodies = [(&level, direction), (&open, Vec3::ZERO)].map(|(level, direction)| {
                    let mut body = Controller::new(tuning, hull, Vec3::ZERO);
                    body.find_footing(level);
                    (level, direction, body)
                });
                for tick in 0..rate * 3 {
                    for (level, direction, body) in &mut bodies {
                        let intent = toward(*direction).holding(Actions::JUMP);
                        let intent = if tick == rate { intent.pressing(Actions::JUMP) } else { intent };
                        body.tick(&intent, *level, 1.0 / rate as f32);
                    }
                    let [pressed, free] = [0, 1].map(|body: usize| bodies[body].2.position().y);
                    let case = format!("{hull:?} {rate}/s, corner of {} at {turned}", inside.to_degrees());
                    assert!((pressed - free).abs() < 2e-3, "{case}, tick {tick}: {pressed}, not {free}");
                }
            }
        }
    }
}

/// A line of segments that rolls on, with turned polygons on it and over it.
fn outline(dice: &mut Dice) -> Level<Vec2> {
    let mut builder = Level::builder();
    let mut at = Vec2::new(-24.0, 0.0);
    while at.x < 24.0 {
        let turn = dice.number(-1.4, 1.4);
        let next = at + Vec2::from_angle(turn) * dice.number(0.3, 2.5);
        builder.add(Piece::segment(at, next, rasant::level::Sides::Both).unwrap());
        at = next;
        at.y *= 0.9;
        if dice.below(3) == 0 {
            let middle = at + Vec2::new(dice.number(-1.0, 1.0), dice.number(1.0, 4.0));
            let size = dice.number(0.2, 1.2);
            let first = dice.number(0.0, 6.0);
            let corners: Vec<Vec2> =
                (0..4).map(|i| middle + Vec2::from_angle(first + i as f32 * 1.571) * size).collect();
            builder.add(Piece::polygon(&corners).unwrap());
        }
    }
    builder.build().unwrap()
}

/// At most one tick ends with a velocity along a free direction and no displacement.
#[test]
fn a_body_with_a_free_path_moves() {
    let mut dice = Dice(11);
    let (mut longest, mut worst) = (0, String::new());
    for number in 0..40 {
        let level = outline(&mut dice);
        for hull in hulls() {
            let rate = RATES[number % RATES.len()];
            let dt = 1.0 / rate as f32;
            let mut tuning = Tuning::default();
            tuning.wall.slide_speed = if number % 2 == 0 { 2.0 } else { 0.0 };
            let mut body = Controller::new(tuning, hull, Vec2::new(dice.number(-15.0, 15.0), 14.0));
            let mut hung = 0;
            let mut intent = Intent::default();
            for tick in 0..rate * 8 {
                if dice.below(rate as usize / 3) == 0 {
                    intent = Intent::steering(dice.number(-1.5, 1.5).clamp(-1.0, 1.0), 0.0);
                }
                let jump = dice.below(rate as usize) == 0;
                let before = body.position();
                body.tick(&if jump { intent.pressing(Actions::JUMP) } else { intent }, &level, dt);
                let velocity = body.velocity();
                let went = body.position().distance(before);
                let says = velocity.length() * dt;
                let free = || {
                    let reach = rasant::space::Bounds { min: Vec2::splat(-0.1), max: Vec2::splat(0.1) };
                    let patch = rasant::contact::Patch::gather(body.state().frame(), &hull, reach, &level);
                    patch.sweep(Vec2::ZERO, velocity.normalize() * 0.01).is_none()
                };
                let hangs = velocity.length() > 0.3 && went < 0.02 * says && free();
                hung = if hangs { hung + 1 } else { 0 };
                if hung > longest {
                    longest = hung;
                    worst = format!(
                        "{hull:?} {rate}/s level {number} tick {tick} at {before} says {velocity} {:?} {:?}",
                        body.state().mode,
                        body.state().footing.kind
                    );
                }
            }
        }
    }
    assert!(longest <= 1, "hung for {longest} ticks: {worst}");
}

#[test]
fn an_outline_is_as_good_far_from_the_origin_as_near_it() {
    for (size, far) in [(0.25, 4000.0), (0.05, 1000.0), (1.0, 16000.0), (0.5, -30000.0)] {
        let corner = Vec2::new(far, -far);
        let (x, y) = (Vec2::X * size, Vec2::Y * size);
        let outline = [corner, corner + x, corner + x + y, corner + y];
        assert!(Piece::polygon(&outline).is_ok(), "{size} m at {far}");
        let hollow = [corner, corner + x, corner + (x + y) * 0.25, corner + y];
        assert!(Piece::polygon(&hollow).is_err(), "{size} m at {far}");
        assert!(Piece::polygon(&[corner, corner + x, corner + x * 2.0]).is_err(), "{size} m at {far}");
    }
}
