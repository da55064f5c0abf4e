//! Values for animations: poses, overlays, trails, switched-off moves.

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, Run, Slope, capsule, floor, hulls};
use crate::everything::town;
use rasant::animation::{OverlayPlan, PoseMemory, Step};
use rasant::controller::Trail;
use rasant::glam::{Vec2, Vec3};
use rasant::state::Name;
use rasant::{
    Actions, Controller, Effect, Event, Face, Gait, Geometry, Hull, Intent, Level, Look, Phase, Piece, Pose,
    Steering, Tuning, Zone,
};

fn body<V: Geometry>(tuning: Tuning, level: &Level<V>) -> Controller<V> {
    let mut body = Controller::new(tuning, capsule(), V::UP * 0.005);
    body.find_footing(level);
    body
}

/// Motion is a fraction of the top speed, in the axes of the body, whatever the hull, the rate and the
/// look.
#[test]
fn motion_points_where_the_body_goes_as_it_sees_it() {
    let level = floor::<Vec3>(100.0);
    let tuning = Tuning { steering: Steering::View, face: Face::Eyes, ..Tuning::default() };
    for (hull, rate) in hulls().into_iter().zip([24.0, 30.0, 60.0, 144.0]) {
        for yaw in [0.0f32, 0.7, 2.5, -1.9] {
            for (x, y) in [(0.0, 1.0), (1.0, 0.0), (-1.0, 0.0), (0.0, -1.0), (0.6, 0.8), (-0.2, 0.3)] {
                for run in [false, true] {
                    let mut body = Controller::new(tuning, hull, Vec3::Y * 0.005);
                    body.find_footing(&level);
                    let mut intent = Intent { look: Look { yaw, pitch: 0.0 }, ..Intent::steering(x, y) };
                    if run {
                        intent = intent.pressing(Actions::RUN);
                    }
                    for _ in 0..(0.8 * rate) as usize {
                        body.tick(&intent, &level, 1.0 / rate);
                    }
                    let top = if run { tuning.run.speed } else { tuning.walk.speed };
                    let expected = Vec2::new(x, y) * (top / tuning.run.speed);
                    let motion = body.pose(0.5).motion;
                    assert!(
                        (motion - expected).length() < 2e-3,
                        "{motion} not {expected}, yaw {yaw}, {rate}/s, {hull:?}"
                    );
                }
            }
        }
    }
}

/// In a side view motion is forward or back, along the slope; from above it has both axes.
#[test]
fn motion_in_two_dimensions_is_that_of_the_view() {
    let share = |tuning: &Tuning| tuning.walk.speed / tuning.run.speed;
    for degrees in [-40.0f32, -17.0, 0.0, 17.0, 40.0] {
        let level = Vec2::slope(degrees.to_radians());
        for (face, steer, forward) in
            [(Face::Course, -1.0, 1.0), (Face::Host, -1.0, -1.0), (Face::Host, 1.0, 1.0)]
        {
            for hull in hulls() {
                let tuning = Tuning { face, ..Tuning::default() };
                let mut body = Controller::new(tuning, hull, Vec2::Y * 0.6);
                for _ in 0..90 {
                    body.tick(&Intent::steering(steer, 0.0), &level, 1.0 / 60.0);
                }
                let motion = body.pose(0.3).motion;
                let expected = Vec2::new(0.0, forward * share(&tuning));
                assert!(
                    (motion - expected).length() < 2e-3,
                    "{motion} not {expected} at {degrees}°, {hull:?}"
                );
            }
        }
    }
    let nowhere = Level::<Vec2>::builder().build().unwrap();
    for (x, y) in [(1.0, 0.0), (-0.6, 0.8), (0.3, -0.9)] {
        let tuning = Tuning { steering: Steering::Plan, face: Face::Host, ..Tuning::default() };
        // The host never turns it: it faces to the right of the screen.
        let mut body = Controller::new(tuning, capsule(), Vec2::ZERO);
        for _ in 0..60 {
            body.tick(&Intent::steering(x, y), &nowhere, 1.0 / 60.0);
        }
        let expected = Vec2::new(-y, x) * share(&tuning);
        let motion = body.pose(1.0).motion;
        assert!((motion - expected).length() < 2e-3, "{motion} not {expected}");
    }
}

/// A host that keeps plain states and a memory of poses gets the poses of a controller, to the bit.
#[test]
fn a_host_of_plain_states_gets_the_same_poses() {
    fn same<V: Geometry>(seed: u64) {
        let mut dice = Dice(seed);
        let mut level = town::<V>();
        for hull in hulls() {
            let mut tuning = any_tuning(&mut dice, V::DIMENSION);
            tuning.overlay.action = -1.0;
            let dt = 1.0 / [24.0, 60.0, 144.0][dice.below(3)];
            let mut body = Controller::new(tuning, hull, V::UP * 2.0);
            let (mut now, mut intent) = (*body.state(), Intent::default());
            let mut memory = PoseMemory::new(&now);
            for tick in 0..600 {
                intent = any_intent(&mut dice, &intent);
                level.advance(dt);
                body.tick(&intent, &level, dt);
                let mut before = now;
                let events = rasant::tick(&tuning, &hull, &mut now, &intent, &level, dt);
                memory.tick(&Step { before: &before, now: &now, events: &events, dt }, &tuning, &hull);
                if events.iter().any(Event::is_elsewhere) {
                    before = now;
                }
                let blend = dice.number(0.0, 1.0);
                let pose = Pose::between(&before, &now, &memory, &tuning, &hull, blend);
                assert_eq!(pose, body.pose(blend), "tick {tick} of seed {seed}");
                assert!(pose.motion.is_finite() && pose.lean.is_finite() && pose.orientation.is_normalized());
                assert!((0.0..=1.0).contains(&pose.landing) && pose.mirror.abs() == 1.0);
            }
        }
    }
    for seed in 0..4 {
        same::<Vec2>(seed);
        same::<Vec3>(seed);
    }
}

/// The mirror keeps its side where the facing has none.
#[test]
fn a_sprite_stays_mirrored_while_the_body_faces_up_or_down_the_screen() {
    let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    let level = Level::<Vec2>::builder().build().unwrap();
    let mut body = Controller::new(tuning, capsule(), Vec2::ZERO);
    let mut mirror = |x: f32, y: f32| {
        for _ in 0..20 {
            body.tick(&Intent::steering(x, y), &level, 1.0 / 60.0);
        }
        body.pose(1.0).mirror
    };
    assert_eq!(mirror(-1.0, 0.0), -1.0);
    assert_eq!(mirror(0.0, 1.0), -1.0);
    assert_eq!(mirror(0.0, -1.0), -1.0);
    assert_eq!(mirror(0.3, 1.0), 1.0);
    assert_eq!(mirror(0.0, 1.0), 1.0);
}

/// The turning rate is the knob's, to the left above 0; a body that turns where it stands says so.
#[test]
fn a_body_that_turns_on_the_spot_says_so_and_how_fast() {
    let level = floor::<Vec3>(50.0);
    for rate in [30.0, 60.0, 144.0] {
        for side in [1.0f32, -1.0] {
            let mut tuning = Tuning { steering: Steering::View, face: Face::Eyes, ..Tuning::default() };
            tuning.turn.rate = 2.0;
            let mut body = body(tuning, &level);
            let look = Look { yaw: side * 3.0, pitch: 0.0 };
            for _ in 0..(0.5 * rate) as usize {
                body.tick(&Intent { look, ..Intent::default() }, &level, 1.0 / rate);
            }
            let pose = body.pose(0.5);
            assert_eq!(pose.gait, Gait::Turn, "{rate}/s");
            assert!((pose.turn_rate - side * 2.0).abs() < 1e-2, "{} at {rate}/s", pose.turn_rate);
            for _ in 0..(2.0 * rate) as usize {
                body.tick(&Intent { look, ..Intent::default() }, &level, 1.0 / rate);
            }
            let pose = body.pose(0.5);
            assert_eq!((pose.gait, pose.turn_rate), (Gait::Idle, 0.0));
        }
    }
    // Turning at once, from the side or by a turntable is no turning on the spot.
    let mut body = body(Tuning { face: Face::Eyes, ..Tuning::default() }, &level);
    for tick in 0..60 {
        let look = Look { yaw: tick as f32, pitch: 0.0 };
        body.tick(&Intent { look, ..Intent::default() }, &level, 1.0 / 60.0);
        assert_eq!(body.pose(1.0).gait, Gait::Idle);
    }
}

/// The lean of a body on a circle is that of a pendulum: tan = v²/(r·g) to the inside. It leans forward
/// while it speeds up, and at rest it is upright to the bit.
#[test]
fn a_body_leans_like_a_pendulum_would_hang() {
    let level = floor::<Vec3>(100.0);
    for rate in [30.0, 60.0, 144.0] {
        let mut tuning = Tuning { steering: Steering::Body, ..Tuning::default() };
        tuning.turn.rate = 1.5;
        tuning.walk.reach_time = 1.0;
        let mut body = body(tuning, &level);
        for _ in 0..(0.5 * rate) as usize {
            body.tick(&Intent::steering(0.0, 1.0), &level, 1.0 / rate);
        }
        let expected = (tuning.walk.speed / tuning.gravity()).atan();
        let lean = body.pose(1.0).lean;
        assert!((lean.y - expected).abs() < 0.02 * expected && lean.x.abs() < 1e-3, "{lean} at {rate}/s");
        for _ in 0..(3.0 * rate) as usize {
            body.tick(&Intent::steering(0.7, 0.7), &level, 1.0 / rate);
        }
        // At this steering it turns right at 0.7 of the rate, at 0.7 of the speed.
        let (speed, turn) = (body.velocity().length(), 0.7 * 1.5);
        let expected = (speed * turn / tuning.gravity()).atan();
        let lean = body.pose(1.0).lean;
        assert!((lean.x - expected).abs() < 0.1 * expected, "{lean}, not {expected} at {rate}/s");
        for _ in 0..(3.0 * rate) as usize {
            body.tick(&Intent::default(), &level, 1.0 / rate);
        }
        let pose = body.pose(1.0);
        assert_eq!((pose.lean, pose.turn_rate, pose.landing), (Vec2::ZERO, 0.0, 0.0));
    }
}

/// A landing shows the speed of its touch, and fades by half in each half-life at any rate, with any
/// hull and any numbers.
#[test]
fn a_landing_has_a_strength_that_fades() {
    fn fades<V: Geometry>() {
        let level = floor::<V>(50.0);
        for (hull, rate) in hulls().into_iter().zip([24.0f32, 30.0, 60.0, 144.0]) {
            for (terminal, half_life) in [(25.0, 0.12), (9.0, 0.4), (40.0, 0.05)] {
                let mut last = 0.0;
                for height in [0.5f32, 2.0, 6.0, 90.0] {
                    let mut tuning = Tuning { steering: Steering::Side, ..Tuning::default() };
                    (tuning.fall.terminal_speed, tuning.fall.landing_time) = (terminal, half_life);
                    let mut body = Controller::new(tuning, hull, V::UP * height);
                    while !body.state().footing.is_firm() {
                        body.tick(&Intent::default(), &level, 1.0 / rate);
                    }
                    let strength = body.pose(1.0).landing;
                    let speed = (2.0 * tuning.gravity() * (height - 0.005)).sqrt();
                    let expected = (speed / terminal).min(1.0);
                    assert!(
                        (strength - expected).abs() < 0.01,
                        "{strength}, not {expected}, from {height} m"
                    );
                    assert!(strength >= last);
                    last = strength;
                    let ticks = (half_life * rate).round();
                    for _ in 0..ticks as usize {
                        body.tick(&Intent::default(), &level, 1.0 / rate);
                    }
                    let half = strength * (-ticks / rate / half_life).exp2();
                    let faded = body.pose(1.0).landing;
                    assert!((faded - half).abs() < 1e-3, "{faded}, not {half}");
                }
            }
        }
    }
    fades::<Vec2>();
    fades::<Vec3>();
}

/// A ball that rolls once round, in any direction, is as it was; a wheel that rolls right turns
/// clockwise.
#[test]
fn a_ball_that_has_rolled_its_circumference_has_turned_once() {
    let radius = 0.4;
    let hull = Hull::ball(radius).unwrap();
    let level = floor::<Vec3>(100.0);
    for (x, y) in [(1.0, 0.0), (0.0, 1.0), (-0.6, 0.8)] {
        let mut body =
            Controller::new(Tuning { steering: Steering::Plan, ..Tuning::default() }, hull, Vec3::ZERO);
        body.find_footing(&level);
        let start = body.position();
        let mut quarter = false;
        loop {
            body.tick(&Intent::steering(x, y), &level, 1.0 / 240.0);
            let rolled = (body.position() - start).length();
            let turned = body.pose(1.0).orientation.to_axis_angle();
            let axis = Vec3::Y.cross(Vec3::new(x, 0.0, -y));
            if !quarter && rolled > 0.5 * core::f32::consts::PI * radius {
                assert!((turned.1 - rolled / radius).abs() < 1e-2, "{turned:?}");
                assert!(turned.0.dot(axis) > 0.999, "{turned:?} about {axis}");
                quarter = true;
            }
            if rolled >= core::f32::consts::TAU * radius {
                assert!(body.pose(1.0).orientation.w.abs() > 0.995, "{}", body.pose(1.0).orientation);
                break;
            }
        }
        assert!(quarter);
    }
    let level = floor::<Vec2>(100.0);
    let mut body = Controller::new(Tuning::default(), hull, Vec2::ZERO);
    body.find_footing(&level);
    for _ in 0..12 {
        body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    }
    let pose = body.pose(1.0);
    let angle = 2.0 * pose.orientation.z.atan2(pose.orientation.w);
    assert!((angle + pose.rolled).abs() < 1e-3 && pose.rolled > 0.1, "{angle} and {}", pose.rolled);
}

/// The time to a landing is right at every moment of a jump, at any rate, with any hull, standing and
/// running, on the flat and on slopes.
#[test]
fn the_time_to_a_landing_is_known_beforehand() {
    fn known<V: Geometry + Slope>() {
        for degrees in [-30.0f32, 0.0, 25.0] {
            let level = V::slope(degrees.to_radians());
            for (hull, rate) in hulls().into_iter().zip([30.0, 60.0, 75.0, 120.0]) {
                for steer in [0.0, 1.0] {
                    let tuning = Tuning { steering: Steering::Side, ..Tuning::default() };
                    let mut body = Controller::new(tuning, hull, V::UP * 0.6);
                    let walk = Intent::steering(steer, 0.0);
                    for _ in 0..rate as usize {
                        body.tick(&walk, &level, 1.0 / rate);
                    }
                    assert_eq!(body.time_to_landing(&walk, &level, 2.0), None, "it stands");
                    let jump = walk.pressing(Actions::JUMP);
                    body.tick(&jump, &level, 1.0 / rate);
                    let held = Intent { pressed: Actions::NONE, ..jump };
                    let (mut foreseen, mut time) = (Vec::new(), 0.0);
                    while !body.state().footing.is_firm() {
                        let left = body.time_to_landing(&held, &level, 5.0).expect("a landing");
                        foreseen.push(time + left);
                        assert_eq!(body.time_to_landing(&held, &level, 0.5 * left), None);
                        body.tick(&held, &level, 1.0 / rate);
                        time += 1.0 / rate;
                    }
                    let least = foreseen.iter().copied().fold(f32::MAX, f32::min);
                    let most = foreseen.iter().copied().fold(0.0, f32::max);
                    let place = format!("{hull:?} at {rate}/s, {degrees}°, steer {steer}");
                    assert!(most - least < 0.01, "{least} to {most} s, {place}");
                    assert!(
                        (time - 1.0 / rate - 0.01..time + 0.01).contains(&most),
                        "{most}, by {time}, {place}"
                    );
                }
            }
        }
    }
    known::<Vec2>();
    known::<Vec3>();
}

/// The phases of an overlay come in order and on time; the legs go on at its pace; another one replaces
/// it, and each that began ends.
#[test]
fn an_overlay_has_phases_and_slows_the_legs() {
    let level = floor::<Vec2>(99.0);
    for rate in [30u32, 60, 144] {
        let dt = 1.0 / rate as f32;
        let mut body = body::<Vec2>(Tuning::default(), &level);
        let walk = Intent::steering(1.0, 0.0);
        let mut phases: Vec<(String, Phase, f32)> = Vec::new();
        let (swing, wave) = (Name::new("swing"), Name::new("wave"));
        let plan = OverlayPlan { startup: 0.2, active: 0.1, recovery: 0.3, pace: 0.25 };
        for tick in 0..(2 * rate) {
            if tick == rate / 2 {
                body.begin_overlay(swing, plan);
            }
            if tick == rate * 3 / 2 {
                body.begin_overlay(swing, plan);
                body.tick(&walk, &level, dt);
                body.begin_overlay(wave, OverlayPlan::default());
            }
            for event in body.tick(&walk, &level, dt) {
                if let Event::OverlayPhase { name, phase } = event {
                    phases.push((name.to_string(), *phase, (tick + 1) as f32 * dt));
                }
            }
            let runs = body.overlay().is_some_and(|overlay| overlay.name == swing);
            if runs && body.overlay().unwrap().age > 0.15 {
                assert!((body.velocity().x - 0.25 * body.tuning.walk.speed).abs() < 1e-4);
            }
        }
        let of = |name: &str| -> Vec<Phase> {
            phases.iter().filter(|(other, ..)| other == name).map(|(_, phase, _)| *phase).collect()
        };
        use Phase::{Active, Cooldown, Recovery, Startup};
        // The second one was begun and replaced outside of what is counted here.
        assert_eq!(of("swing"), [Startup, Active, Recovery, Cooldown, Cooldown], "{phases:?}");
        assert_eq!(of("wave"), [Active, Cooldown]);
        for (number, seconds) in [(1, 0.2f32), (2, 0.3), (3, 0.6)] {
            let after = phases[number].2 - phases[0].2;
            assert!((after - seconds).abs() < 1.5 * dt, "phase {number} after {after} s at {rate}/s");
        }
        assert!(body.overlay().is_none_or(|overlay| overlay.name == wave));
    }
}

/// An overlay without an end goes on until the game ends it; broken numbers do no harm.
#[test]
fn a_load_is_carried_until_it_is_put_down() {
    let level = floor::<Vec2>(99.0);
    let mut body = body::<Vec2>(Tuning::default(), &level);
    let carry = OverlayPlan { active: f32::INFINITY, recovery: 0.2, pace: 0.5, ..OverlayPlan::default() };
    body.begin_overlay(Name::new("carry"), carry);
    for _ in 0..3600 {
        body.tick(&Intent::default(), &level, 1.0 / 60.0);
    }
    assert_eq!(body.overlay().unwrap().phase(), Phase::Active);
    body.end_overlay();
    let mut phases = Vec::new();
    for _ in 0..30 {
        for event in body.tick(&Intent::default(), &level, 1.0 / 60.0) {
            if let Event::OverlayPhase { phase, .. } = event {
                phases.push(*phase);
            }
        }
    }
    assert_eq!(phases, [Phase::Recovery, Phase::Cooldown]);
    let broken = OverlayPlan { startup: f32::NAN, active: -1.0, recovery: f32::INFINITY, pace: f32::NAN };
    body.begin_overlay(Name::new("broken"), broken);
    for _ in 0..10 {
        body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
        assert!(body.state().is_finite() && body.pose(0.5).overlay.unwrap().progress.is_finite());
    }
}

/// A trail has a pose for each interval at any rate, and begins again after a teleport.
#[test]
fn a_trail_is_where_the_body_was() {
    let level = floor::<Vec2>(200.0);
    for rate in [24.0, 60.0, 144.0] {
        let mut body = body::<Vec2>(Tuning::default(), &level);
        let mut trail = Trail::new(6, 0.1);
        let walk = Intent::steering(1.0, 0.0);
        for _ in 0..(2.0 * rate) as usize {
            body.tick(&walk, &level, 1.0 / rate);
            trail.tick(&body, 1.0 / rate);
        }
        let speed = body.tuning.walk.speed;
        assert_eq!(trail.poses().len(), 6);
        for (age, pose) in trail.poses() {
            let behind = body.position().x - pose.position.x;
            assert!((behind - speed * age).abs() < speed * 1.1 / rate, "{behind} m after {age} s, {rate}/s");
        }
        body.teleport(Vec2::new(-50.0, 0.005));
        body.tick(&walk, &level, 1.0 / rate);
        trail.tick(&body, 1.0 / rate);
        assert_eq!(trail.poses().len(), 1);
    }
    assert_eq!(Trail::<Vec2>::new(0, 0.1).poses().len(), 0);
}

/// A move that is switched off is never in charge, and its presses cause nothing; switched on again,
/// it works as before, in the middle of anything.
#[test]
fn a_move_that_is_switched_off_does_nothing() {
    fn off<V: Geometry>() {
        let mut builder = Level::<V>::builder();
        let corner = |x: f32, y: f32, z: f32| V::from_array([x, y, if V::DIMENSION == 2 { 0.0 } else { z }]);
        builder.add(Piece::block(corner(-40.0, -1.0, -9.0), corner(40.0, 0.0, 9.0)).unwrap());
        builder.add(Piece::block(corner(4.0, 0.0, -9.0), corner(5.0, 9.0, 9.0)).unwrap());
        builder.add_zone(Zone::new(
            corner(-3.0, 0.0, -9.0),
            corner(-2.0, 5.0, 9.0),
            Effect::Ladder { front: V::ZERO },
        ));
        builder.add_zone(Zone::new(corner(-30.0, 0.0, -9.0), corner(-10.0, 8.0, 9.0), Effect::Water));
        let level = builder.build().unwrap();
        let groups = ["jump", "dash", "roll", "slam", "glide", "wall", "ladder", "swim", "run", "crouch"];
        let able = || {
            let mut tuning = Tuning::default();
            tuning.dash.charges = 3.0;
            tuning.jump.air_count = 2.0;
            tuning.roll.action = 1.0;
            tuning.slam.action = 2.0;
            tuning.glide.fall_speed = 1.0;
            tuning.wall.slide_speed = 2.0;
            tuning.wall.jump_height = 1.0;
            tuning.steering = if V::DIMENSION == 2 { Steering::Side } else { Steering::Plan };
            tuning
        };
        /// What a body does in all of these places: words of modes, gaits and events.
        fn done<V: Geometry>(level: &Level<V>, tuning: Tuning, switch: Option<&str>) -> Vec<String> {
            let mut words = Vec::new();
            let keys = [Actions::JUMP, Actions::DASH, Actions::own(1), Actions::own(2), Actions::RUN];
            for at in [V::RIGHT * 3.0, V::RIGHT * -2.5, V::RIGHT * -20.0, V::RIGHT * 20.0] {
                let mut run = Run::new(tuning, capsule(), at + V::UP * 0.005, 60);
                run.body.find_footing(level);
                for tick in 0..600usize {
                    if let Some(knob) = switch
                        && tick % 70 == 25
                    {
                        let on = run.body.tuning.get(knob).unwrap();
                        run.body.tuning.set(knob, 1.0 - on).unwrap();
                    }
                    let steer = [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, 0.0)][tick / 40 % 4];
                    let mut intent = Intent::steering(steer.0, steer.1);
                    if tick % 20 < 12 {
                        intent = intent.holding(keys[tick / 20 % 5]).holding(Actions::JUMP);
                    }
                    if tick % 20 == 0 {
                        intent = intent.pressing(keys[tick / 20 % 5]);
                    }
                    if tick / 100 % 3 == 2 {
                        intent = intent.holding(Actions::CROUCH);
                    }
                    run.tick(level, intent);
                    words.push(run.body.state().mode.to_string());
                    words.push(run.body.state().animation.gait.to_string());
                    assert!(run.body.state().is_finite());
                }
                words.extend(run.events.iter().map(|(_, event)| match event {
                    Event::Refused { what } => what.action.to_string(),
                    Event::Jumped { kind } => format!("jumped {kind}"),
                    other => other.name().to_owned(),
                }));
            }
            words
        }
        let shown = |group: &str| match group {
            "jump" => "jumped ground".to_owned(),
            "wall" => "wall-slide".to_owned(),
            "crouch" => "crouched".to_owned(),
            other => other.to_owned(),
        };
        let all = done(&level, able(), None);
        for group in groups {
            let word = shown(group);
            assert!(all.contains(&word), "nothing shows `{word}`");
            let knob = format!("{group}.enabled");
            let mut tuning = able();
            tuning.set(&knob, 0.0).unwrap();
            let without = done(&level, tuning, None);
            assert!(!without.contains(&word), "`{word}` without {knob}");
            // On and off in the middle of it: nothing breaks, and it is done while it is on.
            let mut toggled = done(&level, able(), Some(&knob));
            toggled.extend(done(&level, tuning, Some(&knob)));
            assert!(toggled.contains(&word), "{knob} toggled");
        }
    }
    off::<Vec2>();
    off::<Vec3>();
}

/// Gravity in a zone is what its factor says: heights and times follow from it, at any rate.
#[test]
fn a_zone_makes_bodies_lighter_or_heavier() {
    fn lighter<V: Geometry>() {
        for factor in [0.25f32, 0.5, 1.0, 2.0] {
            for rate in [30.0, 60.0, 144.0] {
                let mut builder = Level::<V>::builder();
                builder.add(Piece::block(V::splat(-30.0), V::splat(30.0).with_height(0.0)).unwrap());
                let all = (V::splat(-30.0), V::splat(30.0));
                builder.add_zone(Zone::new(all.0, all.1, Effect::Weight { factor }));
                let level = builder.build().unwrap();
                let mut body = body::<V>(Tuning::default(), &level);
                let start = body.position().height();
                let jump = Intent::default().pressing(Actions::JUMP);
                let mut top = 0.0f32;
                // The first tick enters the zone.
                body.tick(&Intent::default(), &level, 1.0 / rate);
                for tick in 0..(4.0 * rate) as usize {
                    let intent = if tick == 0 { jump } else { Intent { pressed: Actions::NONE, ..jump } };
                    for event in body.tick(&intent, &level, 1.0 / rate) {
                        if let Event::Apex { position } = event {
                            top = top.max(position.height() - start);
                        }
                    }
                }
                let expected = body.tuning.jump.height / factor;
                assert!((top - expected).abs() < 2e-3 * expected, "{top}, not {expected}, {rate}/s");
            }
        }
        // Without gravity a body floats where it is.
        let mut builder = Level::<V>::builder();
        let all = (V::splat(-30.0), V::splat(30.0));
        builder.add_zone(Zone::new(all.0, all.1, Effect::Weight { factor: 0.0 }));
        let level = builder.build().unwrap();
        let mut body = Controller::new(Tuning::default(), capsule(), V::ZERO);
        body.tick(&Intent::default(), &level, 1.0 / 60.0);
        let before = body.velocity().height();
        for _ in 0..60 {
            body.tick(&Intent::default(), &level, 1.0 / 60.0);
        }
        assert!((body.velocity().height() - before).abs() < 1e-5);
    }
    lighter::<Vec2>();
    lighter::<Vec3>();
}

/// One hop for each press, with `hop.repeat` off; the other switches do what they say.
#[test]
fn switches_of_hops_rolls_and_spins() {
    let level = floor::<Vec3>(50.0);
    for repeat in [0.0, 1.0] {
        let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
        tuning.hop.repeat = repeat;
        let mut run = Run::new(tuning, capsule(), Vec3::Y * 0.005, 60);
        run.body.find_footing(&level);
        run.run(&level, 2.0, Intent::steering(1.0, 0.0));
        let steps = run.body.position().x.round();
        assert!(if repeat == 0.0 { steps == 1.0 } else { steps > 5.0 }, "{steps} steps");
        run.run(&level, 0.2, Intent::default());
        let before = run.body.position().x.round();
        run.run(&level, 0.1, Intent::steering(1.0, 0.0));
        run.run(&level, 0.3, Intent::default());
        assert_eq!(run.body.position().x.round(), before + 1.0, "another press");
    }
    for in_air in [0.0, 1.0] {
        let mut tuning = Tuning::default();
        tuning.roll.action = 3.0;
        tuning.roll.in_air = in_air;
        let mut run = Run::new(tuning, capsule(), Vec3::Y * 3.0, 60);
        run.tick(&level, Intent::default());
        run.tick(&level, Intent::default().pressing(Actions::own(3)));
        assert_eq!(run.body.state().maneuver.is_some(), in_air == 1.0);
    }
    for edge_spin in [0.0, 1.0] {
        let mut builder = Level::<Vec2>::builder();
        builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(1.0, 0.0)).unwrap());
        let level = builder.build().unwrap();
        let mut tuning = Tuning::default();
        tuning.jump.spin = 6.0;
        tuning.jump.edge_spin = edge_spin;
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 0.005, 60);
        run.body.find_footing(&level);
        run.run(&level, 0.8, Intent::steering(1.0, 0.0));
        assert_eq!(run.body.pose(1.0).spin > 0.5, edge_spin == 1.0);
    }
}
