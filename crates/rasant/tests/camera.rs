//! Cameras: exact at any rate of frames, calm, within limits, and never in a wall.

use crate::common::{Dice, capsule, floor, hulls};
use rasant::camera::{Camera, CameraKnobs, Limits};
use rasant::glam::{DMat3, DVec3, Quat, Vec2, Vec3};
use rasant::space::Bounds;
use rasant::{Actions, Controller, Hull, Intent, Layers, Level, Look, Piece, Steering, Tuning};

const DT: f32 = 1.0 / 60.0;

fn body(level: &Level<Vec2>) -> Controller<Vec2> {
    let mut body = Controller::new(Tuning::default(), capsule(), Vec2::ZERO);
    body.find_footing(level);
    body
}

/// Walks, stops, jumps and turns back.
fn intent(tick: usize) -> Intent {
    let steer = match tick {
        0..40 => 0.0,
        40..140 => 1.0,
        140..170 => 0.0,
        _ => -1.0,
    };
    let intent = Intent::steering(steer, 0.0);
    if tick == 90 { intent.pressing(Actions::JUMP) } else { intent.holding(Actions::JUMP) }
}

/// The focus at times, drawn at a rate of frames per second.
fn path(knobs: CameraKnobs, frames: usize) -> Vec<(f64, Vec2)> {
    let level = floor::<Vec2>(500.0);
    let mut body = body(&level);
    let mut camera = Camera::new(knobs, &body);
    camera.shake(0.5);
    let (mut ticks, mut seen) = (0usize, Vec::new());
    for frame in 0..frames * 4 {
        let time = frame as f64 / frames as f64;
        let due = (time * 60.0 + 1e-9).floor() as usize + 1;
        while ticks < due {
            body.tick(&intent(ticks), &level, DT);
            camera.tick(&body, DT);
            ticks += 1;
        }
        let blend = time * 60.0 - (ticks - 1) as f64;
        seen.push((time, camera.focus(blend.clamp(0.0, 1.0) as f32)));
    }
    seen
}

#[test]
fn the_path_is_the_same_at_any_rate_of_frames() {
    let knobs = CameraKnobs { dead_zone: 0.4, ..CameraKnobs::default() };
    let fine = path(knobs, 720);
    for frames in [30, 60, 144] {
        let coarse = path(knobs, frames);
        for (number, (time, focus)) in coarse.iter().enumerate() {
            let (same_time, same) = fine[number * 720 / frames];
            assert!((time - same_time).abs() < 1e-9);
            assert!(focus.distance(same) < 1e-4, "{focus} and {same} at {time} s, {frames}/s");
        }
    }
    // It is smooth: no frame of the finest jumps.
    let most = fine.windows(2).map(|two| two[0].1.distance(two[1].1)).fold(0.0, f32::max);
    assert!(most < 0.03, "{most} m in a frame of 1/720 s");
}

/// The formula, against small steps of the equation x″ = ω²(p − x) − 2ωx′.
#[test]
fn a_sudden_change_is_made_up_within_the_settle_time() {
    let level = floor::<Vec2>(500.0);
    for settle_time in [0.1f32, 0.35, 2.0] {
        let knobs =
            CameraKnobs { settle_time, lead: 0.0, lead_time: 0.0, height: 0.0, ..CameraKnobs::default() };
        let mut body = body(&level);
        let mut camera = Camera::new(knobs, &body);
        let mut moved = *body.state();
        moved.position.x += 3.0;
        body.restore(moved);
        let omega = 3.889_72 / f64::from(settle_time);
        // The target moves there within the first tick.
        let (mut x, mut speed) = (0.0f64, 0.0f64);
        let steps = 2000;
        for tick in 0..(settle_time * 60.0) as usize + 1 {
            camera.tick(&body, DT);
            for step in 0..steps {
                let part = 1.0 / (60.0 * f64::from(steps));
                let target = if tick == 0 { 3.0 * (f64::from(step) + 0.5) / f64::from(steps) } else { 3.0 };
                speed += (omega * omega * (target - x) - 2.0 * omega * speed) * part;
                x += speed * part;
            }
            let focus = camera.focus(1.0).x;
            assert!((f64::from(focus) - x).abs() < 2e-3, "{focus} and {x} in tick {tick}, {settle_time} s");
        }
        assert!((2.6..2.85).contains(&camera.focus(1.0).x), "{} after {settle_time} s", camera.focus(1.0).x);
    }
}

#[test]
fn a_dead_zone_and_the_height_of_the_ground_keep_the_picture_calm() {
    let level = floor::<Vec2>(500.0);
    let knobs = CameraKnobs { dead_zone: 1.0, lead: 0.0, lead_time: 0.0, ..CameraKnobs::default() };
    let mut body = body(&level);
    let mut camera = Camera::new(knobs, &body);
    let start = camera.focus(1.0);
    // Within the zone nothing moves, and a jump does not lift the picture.
    for tick in 0..60 {
        let steer = if body.position().x < 0.9 { 0.3 } else { 0.0 };
        let intent = Intent::steering(steer, 0.0);
        let intent = if tick == 5 { intent.pressing(Actions::JUMP) } else { intent.holding(Actions::JUMP) };
        body.tick(&intent, &level, DT);
        camera.tick(&body, DT);
        assert!(body.position().x < 1.0);
        assert!(camera.focus(1.0).distance(start) < 1e-5, "{} in tick {tick}", camera.focus(1.0));
    }
    // Beyond it, the focus stays behind by the zone and the lag of the spring.
    for _ in 0..240 {
        body.tick(&Intent::steering(1.0, 0.0), &level, DT);
        camera.tick(&body, DT);
    }
    let lag = 1.0 + 2.0 * body.velocity().x * knobs.settle_time / 3.889_72;
    assert!((body.position().x - camera.focus(1.0).x - lag).abs() < 1e-2);
}

#[test]
fn the_picture_stays_within_its_limits_and_a_respawn_cuts() {
    let level = floor::<Vec2>(500.0);
    let mut body = body(&level);
    let bounds = Bounds { min: Vec2::new(-5.0, -2.0), max: Vec2::new(12.0, 20.0) };
    let half_view = Vec2::new(4.0, 30.0);
    let mut camera = Camera::new(CameraKnobs::default(), &body).limited(bounds, half_view);
    assert_eq!(camera.limits, Some(Limits { bounds, half_view }));
    for tick in 0..400 {
        body.tick(&Intent::steering(if tick < 200 { 1.0 } else { -1.0 }, 0.0), &level, DT);
        camera.tick(&body, DT);
        let focus = camera.focus(0.5);
        assert!((-1.0..=8.0).contains(&focus.x), "{focus}");
        // The picture is higher than the bounds: centred.
        assert_eq!(focus.y, 9.0);
    }
    for _ in 0..60 {
        body.tick(&Intent::steering(1.0, 0.0), &level, DT);
    }
    let mut free = Camera::new(CameraKnobs::default(), &body);
    let far = free.focus(1.0).x;
    body.respawn();
    body.tick(&Intent::default(), &level, DT);
    free.tick(&body, DT);
    assert!((free.focus(0.0).x - free.focus(1.0).x).abs() < 1e-4, "it goes back at once");
    assert!((free.focus(1.0).x - far).abs() > 1.0);
}

/// A piece of the yard, by which the test judges: a block rotated about y, or a ball.
enum Judge {
    Block { centre: DVec3, half: DVec3, turn: f64 },
    Ball { centre: DVec3, radius: f64 },
}

impl Judge {
    /// The distance of a point to the piece, in doubles; below 0 inside it.
    fn clear(&self, point: DVec3) -> f64 {
        match *self {
            Self::Ball { centre, radius } => point.distance(centre) - radius,
            Self::Block { centre, half, turn } => {
                let out = DMat3::from_rotation_y(-turn).mul_vec3(point - centre).abs() - half;
                out.max(DVec3::ZERO).length() + out.max_element().min(0.0)
            }
        }
    }
}

/// Walls, pillars at any angle, balls and a low ceiling.
fn yard() -> (Level<Vec3>, Vec<Judge>) {
    let mut builder = Level::builder();
    let mut judges = Vec::new();
    let mut block = |centre: [f64; 3], half: [f64; 3], turn: f64| {
        let (centre, half) = (DVec3::from(centre), DVec3::from(half));
        let rotation = Quat::from_rotation_y(turn as f32);
        builder.add(Piece::turned_box(centre.as_vec3(), half.as_vec3(), rotation).unwrap());
        judges.push(Judge::Block { centre, half, turn });
    };
    block([0.0, -0.5, 0.0], [12.0, 0.5, 12.0], 0.0);
    for (number, (x, z)) in [(-3.0, -3.0), (3.0, -4.0), (-4.0, 4.0), (6.0, 0.0)].into_iter().enumerate() {
        block([x, 1.5, z], [0.4, 1.5, 0.6], 0.4 * number as f64);
    }
    block([-11.5, 3.0, 0.0], [0.5, 3.0, 12.0], 0.0);
    block([11.5, 3.0, 0.0], [0.5, 3.0, 12.0], 0.0);
    block([0.0, 3.0, -11.5], [12.0, 3.0, 0.5], 0.05);
    block([0.0, 3.0, 11.5], [12.0, 3.0, 0.5], -0.05);
    block([-8.0, 2.6, 0.0], [3.0, 0.2, 10.0], 0.1);
    for (centre, radius) in [(DVec3::new(2.0, 1.0, 2.5), 1.2), (DVec3::new(-1.0, 3.2, -7.0), 0.9)] {
        builder.add(Piece::ball(centre.as_vec3(), radius as f32).unwrap());
        judges.push(Judge::Ball { centre, radius });
    }
    (builder.build().unwrap(), judges)
}

#[test]
fn on_its_arm_it_is_never_in_a_wall_and_extends_slowly() {
    let (level, judges) = yard();
    let clear = |eye: Vec3| {
        let apart = judges.iter().map(|judge| judge.clear(eye.as_dvec3()));
        apart.fold(f64::INFINITY, f64::min)
    };
    for (number, hull) in hulls().into_iter().enumerate() {
        for rate in [30.0f32, 60.0, 144.0] {
            let dt = 1.0 / rate;
            let mut dice = Dice(number as u64);
            let tuning = Tuning { steering: Steering::View, ..Tuning::default() };
            let mut body = Controller::new(tuning, hull, Vec3::ZERO);
            let knobs = CameraKnobs { settle_time: dice.below(3) as f32 * 0.4, ..CameraKnobs::default() };
            let mut camera = Camera::new(knobs, &body);
            let radius = knobs.arm_radius.min(0.9 * hull.half_width()).min(0.45 * hull.height());
            let mut look = Look::default();
            let (mut steer, mut turn) = (Intent::default(), 0.0f32);
            let mut before = None;
            for tick in 0..(25.0 * rate) as usize {
                if dice.below((0.4 * rate) as usize) == 0 {
                    steer = Intent::steering(dice.below(3) as f32 - 1.0, dice.below(3) as f32 - 1.0);
                    turn = (dice.below(5) as f32 - 2.0) * 1.8;
                }
                look.yaw += turn * dt;
                look.pitch = (look.pitch + (dice.below(3) as f32 - 1.0) * 1.2 * dt).clamp(-1.2, 0.6);
                let intent = Intent { look, ..steer };
                let jumps = dice.below(rate as usize) == 0;
                body.tick(&if jumps { intent.pressing(Actions::JUMP) } else { intent }, &level, dt);
                camera.tick_on_arm(&body, dt, look, &level, Layers::ALL);
                if dice.below(200) == 0 {
                    camera.shake(1.0);
                }
                for blend in [0.0, 0.3, 0.7, 1.0] {
                    let view = camera.on_arm(&body, look, blend, &level, Layers::ALL);
                    let free = clear(view.eye);
                    assert!(
                        free > 0.9 * f64::from(radius),
                        "{free} m from a wall in tick {tick}, {hull:?} at {rate}/s, blend {blend}"
                    );
                    assert!((view.ahead.length() - 1.0).abs() < 1e-5 && view.ahead.dot(view.up).abs() < 1e-5);
                }
                // Its distance from the body may drop at once, and grows slowly.
                let away = |blend| {
                    let view = camera.on_arm(&body, look, blend, &level, Layers::ALL);
                    view.eye.distance(body.pose(blend).position)
                };
                let now = [away(0.0), away(1.0)];
                let grown = before.map_or(0.0, |before| now[0] - before);
                assert!(grown < 36.0 * dt, "out by {grown} m in tick {tick}, {hull:?} at {rate}/s");
                before = Some(now[1]);
            }
        }
    }
}

#[test]
fn eyes_follow_crouching_smoothly_and_shaking_turns_but_does_not_move_them() {
    let level = floor::<Vec3>(50.0);
    let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8).unwrap(), Vec3::ZERO);
    body.find_footing(&level);
    let mut camera = Camera::new(CameraKnobs::default(), &body);
    let look = Look { yaw: 0.4, pitch: -0.2 };
    let high = camera.from_eyes(&body, look, 1.0);
    assert!((high.eye.y - 0.93 * 1.8).abs() < 1e-3 && high.ahead.distance(look.direction()) < 1e-6);
    let mut last = high.eye.y;
    for _ in 0..60 {
        body.tick(&Intent::default().holding(Actions::CROUCH), &level, DT);
        camera.tick(&body, DT);
        let now = camera.from_eyes(&body, look, 1.0).eye.y;
        assert!(now <= last + 1e-4 && last - now < 0.12, "from {last} to {now}");
        last = now;
    }
    assert!((last - 0.93 * body.present_hull().height()).abs() < 0.01, "{last}");
    let still = camera.from_eyes(&body, look, 1.0);
    camera.shake(1.0);
    let shaken = camera.from_eyes(&body, look, 0.5);
    assert!(shaken.eye.distance(still.eye) < 1e-3);
    assert!(shaken.ahead.angle_between(still.ahead) > 1e-3);
    for _ in 0..45 {
        body.tick(&Intent::default().holding(Actions::CROUCH), &level, DT);
        camera.tick(&body, DT);
    }
    assert!(camera.from_eyes(&body, look, 1.0).ahead.angle_between(still.ahead) < 1e-5, "it has ended");
}

#[test]
fn bad_numbers_do_not_reach_the_picture() {
    let level = floor::<Vec2>(50.0);
    let mut body = body(&level);
    let mut camera = Camera::new(CameraKnobs::default(), &body);
    for dt in [f32::NAN, 0.0, -1.0, f32::INFINITY] {
        camera.tick(&body, dt);
    }
    camera.shake(f32::NAN);
    body.tick(&Intent::steering(1.0, 0.0), &level, DT);
    camera.tick(&body, DT);
    for blend in [f32::NAN, -3.0, 0.0, 1.0, 9.0] {
        assert!(camera.focus(blend).is_finite(), "at {blend}");
    }
}

/// A camera beside a wall in a world with another up shows the rotated picture of the one with y up.
#[test]
fn a_picture_is_the_same_whatever_is_up() {
    use std::f32::consts::{FRAC_PI_2, PI};
    let turns = [Quat::from_rotation_x(FRAC_PI_2), Quat::from_rotation_x(PI), Quat::IDENTITY];
    let looks = [(0.0, 0.0), (0.7, -0.4), (2.6, 0.3), (-1.2, -1.5)].map(|(yaw, pitch)| Look { yaw, pitch });
    let views = |turn: Quat| {
        let up = (turn * Vec3::Y).round();
        let piece = |min: Vec3, max: Vec3| {
            let [a, b] = [turn * min, turn * max].map(|corner| (corner * 1e3).round() / 1e3);
            Piece::block(a.min(b), a.max(b)).unwrap()
        };
        let mut builder = Level::builder();
        builder.add(piece(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0)));
        builder.add(piece(Vec3::new(-20.0, 0.0, 2.0), Vec3::new(20.0, 5.0, 3.0)));
        let level = builder.build().unwrap();
        let mut body = Controller::new(Tuning::default(), capsule(), Vec3::ZERO).with_up(up);
        body.find_footing(&level);
        let mut camera = Camera::new(CameraKnobs { shake_length: 0.3, ..CameraKnobs::default() }, &body);
        camera.shake(0.8);
        let mut all = Vec::new();
        for tick in 0..60 {
            let look = looks[tick / 15];
            let intent = Intent { look, ..Intent::steering(0.3, 1.0) };
            body.tick(&intent, &level, DT);
            camera.tick_on_arm(&body, DT, look, &level, Layers::ALL);
            all.push(camera.on_arm(&body, look, 0.5, &level, Layers::ALL));
            all.push(camera.from_eyes(&body, look, 0.5));
        }
        all
    };
    let plain = views(Quat::IDENTITY);
    for turn in turns {
        for (view, other) in plain.iter().zip(views(turn)) {
            for (own, there) in [(view.eye, other.eye), (view.ahead, other.ahead), (view.up, other.up)] {
                let off = (turn * own).distance(there);
                assert!(off < 2e-3, "{turn}: {} instead of {}", there, turn * own);
            }
            assert!(other.ahead.dot(other.up).abs() < 1e-5);
        }
    }
}
