//! Riding, being pushed, being crushed.

use crate::common::{RATES, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::level::Placement;
use rasant::state::{Crushed, FootingKind};
use rasant::{
    Actions, Carrier, CarrierId, Event, Geometry, Intent, Keyframe, Level, Mode, PathEnd, Piece, Tuning,
    Vector,
};

fn path<V: Vector>(keys: &[(f32, [f32; 3], f32)]) -> Vec<Keyframe<V>> {
    keys.iter().map(|&(time, offset, turn)| Keyframe::new(time, V::from_array(offset)).turned(turn)).collect()
}

/// A raft, 4 m wide with its top at 0, on a path; and what else there is.
fn raft<V: Geometry>(
    keys: &[(f32, [f32; 3], f32)],
    end: PathEnd,
    fixed: &[([f32; 3], [f32; 3])],
) -> Level<V> {
    let mut builder = Level::builder();
    let carrier = builder.add_carrier(Carrier::on_path(path(keys), end));
    let (min, max) = ([-2.0, -0.5, -2.0], [2.0, 0.0, 2.0]);
    builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap().riding(carrier));
    for &(min, max) in fixed {
        builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
    }
    builder.build().unwrap()
}

fn tick<V: Geometry>(run: &mut Run<V>, level: &mut Level<V>, intent: Intent) {
    level.advance(1.0 / run.rate as f32);
    run.tick(level, intent);
}

#[test]
fn a_rider_keeps_its_place_on_a_raft_moving_in_any_direction() {
    fn stays<V: Geometry>(offset: [f32; 3]) {
        for hull in [capsule(), upright_box()] {
            let keys = [(0.0, [0.0; 3], 0.0), (2.0, offset, 0.0), (3.0, offset, 0.0)];
            let mut level = raft::<V>(&keys, PathEnd::BackAndForth, &[]);
            let start = V::from_array([0.7, 0.0, -0.4]);
            let mut run = Run::new(Tuning::default(), hull, start, 60);
            run.body.find_footing(&level);
            for _ in 0..60 * 12 {
                tick(&mut run, &mut level, Intent::default());
                let raft = level.carrier(CarrierId(0)).ride().to.offset();
                let place = run.body.position() - raft - start;
                assert!(place.flat().length() < 1e-3, "{place:?} after {} s", run.seconds());
                assert!((place.height() - 0.005).abs() < 6e-4, "{place:?} after {} s", run.seconds());
                assert_eq!(run.body.state().mode, Mode::Grounded);
            }
            assert!(run.events.is_empty(), "{:?}", run.events);
        }
    }
    for offset in [[6.0, 0.0, 0.0], [0.0, 8.0, 0.0], [0.0, -8.0, 0.0], [-5.0, 3.0, 2.0]] {
        stays::<Vec2>(offset);
        stays::<Vec3>(offset);
    }
}

#[test]
fn a_turning_raft_turns_its_rider_round_and_about() {
    let keys = [(0.0, [0.0; 3], 0.0), (4.0, [0.0; 3], std::f32::consts::TAU)];
    let mut level = raft::<Vec3>(&keys, PathEnd::Loop, &[]);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::new(1.5, 0.0, 0.0), 60);
    run.body.find_footing(&level);
    for _ in 0..60 {
        tick(&mut run, &mut level, Intent::default());
    }
    // A quarter turn counter-clockwise from above: +x becomes -z, forward becomes -x.
    let at = run.body.position();
    assert!((at - Vec3::new(0.0, 0.005, -1.5)).length() < 0.01, "{at}");
    let facing = run.body.state().facing;
    assert!((facing - Vec3::NEG_X).length() < 0.01, "{facing}");
}

#[test]
fn a_jump_takes_the_rafts_velocity_along() {
    let keys = [(0.0, [0.0; 3], 0.0), (10.0, [30.0, 0.0, 0.0], 0.0)];
    let mut level = raft::<Vec2>(&keys, PathEnd::Stop, &[]);
    let mut tuning = Tuning::default();
    tuning.air.stop_time = 1e6;
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    for _ in 0..30 {
        tick(&mut run, &mut level, Intent::default());
    }
    tick(&mut run, &mut level, Intent::default().pressing(Actions::JUMP));
    let velocity = run.body.velocity();
    assert!((velocity.x - 3.0).abs() < 0.01, "{velocity}");
    while run.body.state().mode == Mode::Airborne {
        tick(&mut run, &mut level, Intent::default());
    }
    let drift = run.body.position().x - level.carrier(CarrierId(0)).ride().to.offset().x;
    assert!(drift.abs() < 0.002, "comes down where it took off, {drift} m off");
}

/// A body that walks off the edge of a moving carrier starts to fall when the back side of its box
/// is past the edge, not at the end of that tick: the distance past the edge and the depth of the
/// fall agree at every rate.
#[test]
fn a_fall_off_an_edge_begins_at_the_edge() {
    fn falls<V: Geometry>(raft_velocity: [f32; 3], rate: u32) {
        let mut tuning = Tuning::default();
        (tuning.air.reach_time, tuning.air.stop_time, tuning.air.turn_time) = (1e6, 1e6, 1e6);
        let hull = upright_box();
        let keys = [(0.0, [0.0; 3], 0.0), (10.0, raft_velocity.map(|v| v * 10.0), 0.0)];
        let mut level = raft::<V>(&keys, PathEnd::Stop, &[]);
        let mut run = Run::new(tuning, hull, V::ZERO, rate);
        run.body.find_footing(&level);
        while run.seconds() < 1.3 {
            tick(&mut run, &mut level, Intent::steering(1.0, 0.0));
            let raft = V::from_array(raft_velocity) * run.seconds();
            let at = run.body.position() - raft - V::UP * hull.clearance();
            let drop = -at.height();
            if drop > 0.1 {
                let past = at.component(0) - hull.half_width() - 2.0;
                let fell_over = tuning.walk.speed * (2.0 * drop / tuning.gravity()).sqrt();
                let off = past - fell_over;
                // The corner leans on the edge while it is within the clearance.
                assert!((-5e-4..5e-3).contains(&off), "{off} m, {rate} Hz, raft at {raft_velocity:?}");
            }
        }
        assert_eq!(run.count("left-ground"), 1);
        assert!(run.body.position().height() < -2.0, "fell far");
    }
    for rate in RATES {
        for velocity in [[0.0; 3], [3.0, 0.0, 0.0], [0.0, -2.0, 0.0], [-1.0, 2.0, 0.0]] {
            falls::<Vec2>(velocity, rate);
            falls::<Vec3>(velocity, rate);
        }
    }
}

/// In no tick is it moved further than the faster of the two.
#[test]
fn a_body_walking_ahead_of_a_moving_wall_is_not_thrown_forward() {
    fn keeps_ahead<V: Geometry>(wall_speed: f32, rate: u32) {
        let mut builder = Level::builder();
        let keys = [(0.0, [0.0; 3], 0.0), (5.0, [5.0 * wall_speed, 0.0, 0.0], 0.0)];
        let carrier = builder.add_carrier(Carrier::on_path(path(&keys), PathEnd::Stop));
        let block = |min, max| Piece::block(V::from_array(min), V::from_array(max)).unwrap();
        builder.add(block([-3.0, 0.2, -2.0], [-1.0, 3.0, 2.0]).riding(carrier));
        builder.add(block([-9.0, -1.0, -9.0], [30.0, 0.0, 9.0]));
        let mut level = builder.build().unwrap();
        let tuning = Tuning::default();
        let mut run = Run::new(tuning, upright_box(), V::ZERO, rate);
        run.body.find_footing(&level);
        let most = wall_speed.max(tuning.walk.speed) / rate as f32;
        while run.seconds() < 2.0 {
            let steer = if run.seconds() < 1.0 { 0.0 } else { 1.0 };
            let before = run.body.position();
            tick(&mut run, &mut level, Intent::steering(steer, 0.0));
            let left = (run.body.position() - before).component(0);
            assert!(left < most + 2e-4, "{left} m in a tick at {rate} Hz, wall at {wall_speed} m/s");
        }
        let front = -1.0 + wall_speed * run.seconds();
        assert!(run.body.position().component(0) > front + 0.35, "kept ahead");
    }
    for rate in RATES {
        for speed in [1.5, 3.0, 6.0] {
            keeps_ahead::<Vec2>(speed, rate);
            keeps_ahead::<Vec3>(speed, rate);
        }
    }
}

#[test]
fn a_raft_rising_under_a_falling_body_is_landed_on_at_the_speed_between_them() {
    let keys = [(0.0, [0.0; 3], 0.0), (10.0, [0.0, 20.0, 0.0], 0.0)];
    let mut level = raft::<Vec3>(&keys, PathEnd::Stop, &[]);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 3.0, 60);
    while run.body.state().mode == Mode::Airborne {
        tick(&mut run, &mut level, Intent::default());
        assert!(run.ticks < 300);
    }
    let Some((_, Event::Landed { speed, .. })) = run.events.last() else { panic!("{:?}", run.events) };
    // By hand: 3 m apart, closing at 2 m/s + g t.
    let gravity = Tuning::default().gravity();
    let closing = (4.0 + 2.0 * gravity * 3.0f32).sqrt();
    assert!((speed - closing).abs() < 0.03 * closing, "{speed} against {closing}");
    for _ in 0..60 {
        tick(&mut run, &mut level, Intent::default());
        assert_eq!(run.body.state().footing.kind, FootingKind::Firm);
    }
}

#[test]
fn a_moving_wall_pushes_the_body_along() {
    let mut builder = Level::<Vec3>::builder();
    let keys = [(0.0, [0.0; 3], 0.0), (4.0, [8.0, 0.0, 0.0], 0.0)];
    let carrier = builder.add_carrier(Carrier::on_path(path(&keys), PathEnd::Stop));
    builder.add(Piece::block(Vec3::new(-2.0, 0.0, -2.0), Vec3::new(-1.0, 3.0, 2.0)).unwrap().riding(carrier));
    builder.add(Piece::block(Vec3::new(-9.0, -1.0, -9.0), Vec3::new(9.0, 0.0, 9.0)).unwrap());
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::ZERO, 60);
    run.body.find_footing(&level);
    for _ in 0..180 {
        tick(&mut run, &mut level, Intent::default());
        let wall = level.carrier(CarrierId(0)).ride().to.offset().x - 1.0;
        let gap = run.body.position().x - 0.35 - wall;
        assert!(gap > 0.002, "the wall is {gap} m away after {} s", run.seconds());
        assert_eq!(run.body.state().footing.kind, FootingKind::Firm);
    }
    assert!(run.body.position().x > 5.0);
    assert_eq!(run.count("crushed"), 0);
}

#[test]
fn a_body_between_two_closing_walls_is_reported_crushed() {
    let mut builder = Level::<Vec2>::builder();
    let carrier = builder.add_carrier(Carrier::set_by_host());
    builder.add(Piece::block(Vec2::new(-3.0, 0.0), Vec2::new(-2.0, 3.0)).unwrap().riding(carrier));
    builder.add(Piece::block(Vec2::new(1.0, 0.0), Vec2::new(2.0, 30.0)).unwrap());
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(-9.0, 1.9), Vec2::new(9.0, 2.5)).unwrap());
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    let mut tight = None;
    for step in 0..160 {
        level.place(CarrierId(0), Placement::new(Vec2::X * (step as f32 * 0.02), 0.0));
        level.advance(1.0 / 60.0);
        run.tick(&level, Intent::default());
        assert!(run.body.position().is_finite());
        if tight.is_none() && run.count("crushed") > 0 {
            tight = Some(step as f32 * 0.02 - 2.0);
        }
    }
    // The wall's face is at -2 plus its displacement; the body needs 0.7 m before the wall at 1.
    let face = tight.expect("it is crushed");
    assert!((face - 0.3).abs() < 0.04, "crushed when the wall came to {face}");
}

#[test]
fn a_fast_wall_does_not_pass_through_a_body() {
    for speed in [5.0, 40.0, 300.0] {
        let mut builder = Level::<Vec3>::builder();
        let carrier = builder.add_carrier(Carrier::set_by_host());
        builder.add(
            Piece::block(Vec3::new(-0.01, 0.0, -2.0), Vec3::new(0.0, 3.0, 2.0)).unwrap().riding(carrier),
        );
        builder.add(Piece::block(Vec3::new(-99.0, -1.0, -9.0), Vec3::new(99.0, 0.0, 9.0)).unwrap());
        let mut level = builder.build().unwrap();
        level.place(CarrierId(0), Placement::new(Vec3::X * -20.0, 0.0));
        let mut run = Run::new(Tuning::default(), capsule(), Vec3::ZERO, 60);
        run.body.find_footing(&level);
        let mut at = -20.0;
        while at < 20.0 {
            at += speed / 60.0;
            level.place(CarrierId(0), Placement::new(Vec3::X * at, 0.0));
            level.advance(1.0 / 60.0);
            run.tick(&level, Intent::default());
            assert!(run.body.position().x - 0.35 > at, "a wall at {speed} m/s passed through");
        }
    }
}

#[test]
fn a_jump_off_a_raft_moves_no_further_in_its_first_tick_than_the_raft() {
    for hull in [capsule(), upright_box()] {
        takes_off_with_the_raft::<Vec2>(hull);
        takes_off_with_the_raft::<Vec3>(hull);
    }
}

fn takes_off_with_the_raft<V: Geometry>(hull: rasant::Hull) {
    for (x, y) in [(10.0, 0.0), (-7.3, 0.0), (3.1, 6.0), (0.0, -4.0)] {
        for rate in RATES {
            let keys = [(0.0, [0.0; 3], 0.0), (10.0, [x * 10.0, y * 10.0, 0.0], 0.0)];
            let mut level = raft::<V>(&keys, PathEnd::Stop, &[]);
            let mut tuning = Tuning::default();
            tuning.air.stop_time = 1e6;
            let mut run = Run::new(tuning, hull, V::ZERO, rate);
            run.body.find_footing(&level);
            for _ in 0..rate {
                tick(&mut run, &mut level, Intent::default());
            }
            let raft = |level: &Level<V>| level.carrier(CarrierId(0)).ride().to.offset();
            let place = run.body.position() - raft(&level);
            let jump = Intent::default().holding(Actions::JUMP);
            tick(&mut run, &mut level, jump.pressing(Actions::JUMP));
            let dt = 1.0 / rate as f32;
            let off = run.body.position() - raft(&level) - place;
            let rise = tuning.take_off_speed() * dt - 0.5 * tuning.gravity() * dt * dt;
            let case = format!("({x}, {y}) at {rate}/s");
            assert!(off.component(0).abs() < 1e-4, "{case}: {} m ahead", off.component(0));
            assert!(
                (off.height() - rise).abs() < 0.01 * rise + 6e-3,
                "{case}: rose {} of {rise}",
                off.height()
            );
        }
    }
}

/// A press: the middle, half extents, displacement and speed of its plate, and the static pieces
/// around it.
struct Press<V> {
    plate: (V, V),
    displacement: V,
    speed: f32,
    fixed: Vec<(V, V)>,
}

/// There and back, with a second's wait where it is closed.
fn pressing<V: Geometry>(press: &Press<V>) -> Level<V> {
    let mut builder = Level::builder();
    let time = press.displacement.length() / press.speed;
    let keys =
        [(0.0, V::ZERO), (0.5, V::ZERO), (0.5 + time, press.displacement), (1.5 + time, press.displacement)];
    let keys = keys.into_iter().chain([(1.5 + 2.0 * time, V::ZERO)]);
    let path = keys.map(|(time, offset)| Keyframe::new(time, offset)).collect();
    let carrier = builder.add_carrier(Carrier::on_path(path, PathEnd::Stop));
    let (middle, half) = press.plate;
    builder.add(Piece::block(middle - half, middle + half).unwrap().riding(carrier));
    for &(min, max) in &press.fixed {
        builder.add(Piece::block(min, max).unwrap());
    }
    builder.build().unwrap()
}

/// A body between closing pieces is crushed, keeps its position, and continues when there is room.
fn is_crushed_and_stays<V: Geometry>(press: &Press<V>, hull: rasant::Hull, rate: u32, case: &str) {
    let mut level = pressing(press);
    let mut run = Run::new(Tuning::default(), hull, V::ZERO, rate);
    run.body.find_footing(&level);
    let mut jumps = true;
    let most = 1.01 * press.speed / rate as f32 + 0.02;
    for _ in 0..((4.0 + 2.0 * press.displacement.length() / press.speed) * rate as f32) as usize {
        let before = run.body.position();
        // Whatever the player does, and at once.
        let intent = if jumps { Intent::default().pressing(Actions::JUMP) } else { Intent::default() };
        let crushed = run.body.state().carry_over.crushed == Some(Crushed::Held);
        jumps = crushed && !jumps;
        tick(&mut run, &mut level, if crushed { intent } else { Intent::default() });
        let went = (run.body.position() - before).length();
        let falls = run.body.velocity().length().max(1.0) / rate as f32;
        assert!(went <= most + falls, "{case}: {went} m in a tick at {} s", run.seconds());
        if run.body.state().carry_over.crushed == Some(Crushed::Held) && crushed {
            assert_eq!(run.body.position(), before, "{case}");
        }
    }
    assert!(run.count("crushed") > 0, "{case}: not crushed");
    assert_eq!(run.count("jumped"), 0, "{case}");
    let state = run.body.state();
    assert!(state.carry_over.crushed.is_none() && state.mode == Mode::Grounded, "{case}: {state:?}");
    assert!(state.position.length() < 0.1 + press.displacement.flat().length(), "{case}: {state:?}");
    let (before, aside) =
        (run.body.position(), if press.displacement.component(0) > 0.0 { -1.0 } else { 1.0 });
    run.run(&level, 0.3, Intent::steering(aside, 0.0));
    assert!((run.body.position() - before).component(0) * aside > 0.3, "{case}: {:?}", run.body.state());
}

fn presses<V: Geometry>() {
    let v = V::from_array;
    let floor = (v([-9.0, -1.0, -9.0]), v([9.0, 0.0, 9.0]));
    let rounded = rasant::HullShape::Box { width: 0.8, depth: 0.6, height: 1.5, rounding: 0.1 };
    let hulls =
        [capsule(), upright_box(), rasant::Hull::ball(0.5).unwrap(), rasant::Hull::new(rounded).unwrap()];
    for hull in hulls {
        let top = hull.height();
        for rate in [24, 30, 60, 144] {
            for speed in [0.7, 3.3, 19.0] {
                for closed in [0.05, 0.6 * top] {
                    for thick in [0.05, 0.3, 2.0] {
                        // From above, from below with the floor on a lift, from the side.
                        let down = Press {
                            plate: (v([0.1, 2.5 + thick, 0.0]), v([2.0, thick, 2.0])),
                            displacement: V::UP * (closed - 2.5),
                            speed,
                            fixed: vec![floor],
                        };
                        let rise = top + 0.4 - closed;
                        let up = Press {
                            plate: (v([0.1, -thick, 0.0]), v([2.0, thick, 2.0])),
                            displacement: V::UP * rise,
                            speed,
                            fixed: vec![(v([-9.0, top + 0.4, -9.0]), v([9.0, 9.0, 9.0]))],
                        };
                        let shut = 2.0 + hull.half_width() - 0.25 * closed.min(hull.half_width());
                        let aside = Press {
                            plate: (v([-2.0 - thick - hull.half_width(), 2.0, 0.0]), v([thick, 1.9, 2.0])),
                            displacement: V::RIGHT * shut,
                            speed,
                            fixed: vec![
                                floor,
                                (v([hull.half_width() + 0.02, 0.0, -9.0]), v([9.0, 9.0, 9.0])),
                            ],
                        };
                        for (name, press) in [("down", &down), ("up", &up), ("aside", &aside)] {
                            let case =
                                format!("{name} to {closed} at {speed} by {thick}, {rate}/s, {hull:?}");
                            is_crushed_and_stays(press, hull, rate, &case);
                        }
                    }
                }
            }
        }
    }
}

#[test]
fn a_crushed_body_stays_until_there_is_room_in_2d() {
    presses::<Vec2>();
}

#[test]
fn a_crushed_body_stays_until_there_is_room_in_3d() {
    presses::<Vec3>();
}

/// A body on a lift that the host moves: its height and that of the lift after
/// each tick of two seconds.
fn on_a_lift<V: Geometry>(let_go: f32, rate: u32, height: impl Fn(f32) -> f32) -> (Run<V>, Vec<(f32, f32)>) {
    let mut builder = Level::builder();
    let lift = builder.add_carrier(Carrier::set_by_host().starting_at(Placement::default()));
    let (min, max) = (V::from_array([-2.0, -0.5, -2.0]), V::from_array([2.0, 0.0, 2.0]));
    builder.add(Piece::block(min, max).unwrap().riding(lift));
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), V::ZERO, rate);
    run.body.tuning.ride.let_go = let_go;
    run.body.find_footing(&level);
    let ticks = 2 * rate as usize;
    let heights = (1..=ticks)
        .map(|tick| {
            let at = height(tick as f32 / rate as f32);
            level.place(lift, Placement::new(V::UP * at, 0.0));
            level.advance(1.0 / rate as f32);
            run.tick(&level, Intent::default());
            (run.body.position().height(), at)
        })
        .collect();
    (run, heights)
}

#[test]
fn feet_stay_on_every_lift_unless_configured_to_leave_it() {
    fn keeps<V: Geometry>() {
        let gravity = Tuning::default().gravity();
        for rate in [24, 60, 144] {
            // Three times gravity down after half a second; then up, stopping dead.
            for displacement in [&|time: f32| -1.5 * gravity * (time - 0.5).max(0.0).powi(2), &|time: f32| {
                4.0 * time.min(1.0)
            }] as [&dyn Fn(f32) -> f32; 2]
            {
                let (run, heights) = on_a_lift::<V>(0.0, rate, displacement);
                assert!(run.events.is_empty(), "{:?}", run.events);
                assert!(heights.iter().all(|(own, lift)| (own - lift - 0.005).abs() < 2e-3));
            }
            let fall = |time: f32| -1.5 * gravity * (time - 0.5).max(0.0).powi(2);
            let (run, heights) = on_a_lift::<V>(1.05 * gravity, rate, fall);
            assert_eq!(run.count("left-ground"), 1, "{:?}", run.events);
            // It falls freely, with the velocity that the lift had at the release.
            for (tick, (own, _)) in heights.iter().enumerate() {
                let time = (tick + 1) as f32 / rate as f32 - 0.5;
                let free = -0.5 * gravity * time.max(0.0).powi(2);
                assert!((own - free).abs() < 0.1, "{rate}/s at {time} s: {own} of {free}");
                if own < &-10.0 {
                    break;
                }
            }
            let (run, heights) = on_a_lift::<V>(1.05 * gravity, rate, |time| 4.0 * time.min(1.0));
            let top = heights.iter().map(|heights| heights.0).fold(0.0, f32::max);
            let thrown = 4.0 + 16.0 / (2.0 * gravity);
            assert!((top - thrown).abs() < 0.02, "{rate}/s: {top} of {thrown}");
            assert_eq!((run.count("left-ground"), run.count("landed")), (1, 1), "{:?}", run.events);
        }
    }
    keeps::<Vec2>();
    keeps::<Vec3>();
}

/// A host places, the level begins its tick, the bodies tick: riders go along from the first
/// tick on, and stand still when their carrier does.
#[test]
fn riders_of_placed_carriers_move_along_from_the_first_tick() {
    fn check<V: Geometry>(is_started: bool) {
        let mut builder = Level::builder();
        let start = Placement::new(V::RIGHT * 50.0, 0.0);
        let carrier = Carrier::set_by_host();
        let raft = builder.add_carrier(if is_started { carrier.starting_at(start) } else { carrier });
        let (min, max) = (V::from_array([-2.0, -0.5, -2.0]), V::from_array([2.0, 0.0, 2.0]));
        builder.add(Piece::block(min, max).unwrap().riding(raft));
        let mut level = builder.build().unwrap();
        // A raft that has been nowhere yet does not come sweeping from the origin.
        level.place(raft, start);
        level.advance(1.0 / 60.0);
        let mut run = Run::new(Tuning::default(), capsule(), V::RIGHT * 50.0, 60);
        run.body.find_footing(&level);
        for tick in 1..=120u16 {
            let at = 50.0 + 0.02 * f32::from(tick.min(60));
            level.place(raft, Placement::new(V::RIGHT * at, 0.0));
            level.advance(1.0 / 60.0);
            run.tick(&level, Intent::default());
            let off = run.body.position().component(0) - at;
            assert!(off.abs() < 1e-3, "{off} m from where it stood in tick {tick}");
        }
        assert_eq!(run.count("left-ground"), 0);
    }
    for is_started in [true, false] {
        check::<Vec2>(is_started);
        check::<Vec3>(is_started);
    }
}

/// A level and a body put back together go on to the same bits, with carriers on paths and
/// such as the host sets.
#[test]
fn a_level_put_back_with_its_bodies_replays_to_the_same_bits() {
    let mut builder = Level::<Vec2>::builder();
    let key = |time: f32, x: f32| Keyframe::new(time, Vec2::X * x);
    let ferry =
        builder.add_carrier(Carrier::on_path(vec![key(0.0, 0.0), key(1.7, 2.0)], PathEnd::BackAndForth));
    let raft = builder.add_carrier(Carrier::set_by_host());
    for (carrier, x) in [(ferry, 0.0), (raft, 3.9)] {
        let block = Piece::block(Vec2::new(x - 2.0, -0.5), Vec2::new(x + 2.0, 0.0)).unwrap();
        builder.add(block.riding(carrier));
    }
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    let place =
        |tick: u32| Placement::new(Vec2::new((tick as f32 * 0.05).sin(), (tick as f32 * 0.03).cos()), 0.0);
    let steer = |tick: u32| Intent::steering((tick as f32 * 0.02).cos(), 0.0);
    let mut kept = Vec::new();
    let mut after = Vec::new();
    for tick in 0..400u32 {
        kept.push((level.snapshot(), *run.body.state()));
        level.place(raft, place(tick));
        level.advance(1.0 / 60.0);
        run.tick(&level, steer(tick));
        after.push(*run.body.state());
    }
    for from in [0u32, 1, 57, 200, 399] {
        let (snapshot, state) = &kept[from as usize];
        level.restore(snapshot);
        assert_eq!(level.snapshot(), *snapshot);
        run.body.restore(*state);
        for tick in from..400 {
            level.place(raft, place(tick));
            level.advance(1.0 / 60.0);
            run.tick(&level, steer(tick));
            assert_eq!(*run.body.state(), after[tick as usize], "tick {tick}, from {from}");
        }
    }
}

/// A one-way piece that a lift lowers past a standing body is no ground for it.
#[test]
fn a_one_way_piece_that_sinks_past_a_standing_body_does_not_move_it() {
    fn leaves_alone<V: Geometry>() {
        let corner = |x, y, z| V::from_array([x, y, z]);
        for (rate, speed) in
            [30, 60, 100, 144, 240].into_iter().flat_map(|rate| [0.3, 1.0, 8.0].map(|speed| (rate, speed)))
        {
            let mut builder = Level::<V>::builder();
            builder.add(Piece::block(corner(-9.0, -1.0, -9.0), corner(9.0, 0.0, 9.0)).unwrap());
            let keys = path(&[(0.0, [0.0, 3.0, 0.0], 0.0), (6.0 / speed, [0.0, -3.0, 0.0], 0.0)]);
            let lift = builder.add_carrier(Carrier::on_path(keys, PathEnd::Stop));
            let plate = Piece::block(corner(-1.0, -0.1, -1.0), corner(1.0, 0.1, 1.0)).unwrap();
            builder.add(plate.one_way().riding(lift));
            let mut level = builder.build().unwrap();
            for hull in [capsule(), upright_box(), rasant::Hull::ball(0.45).unwrap()] {
                level.set_time(0.0, 1.0 / rate as f32);
                let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), rate);
                run.body.find_footing(&level);
                let before = run.body.position();
                for _ in 0..(7.0 / speed * rate as f32) as usize {
                    tick(&mut run, &mut level, Intent::default());
                    assert_eq!(run.body.position(), before, "{rate}/s, {speed} m/s, {hull:?}");
                }
                assert!(run.events.is_empty(), "{rate}/s, {speed} m/s, {hull:?}: {:?}", run.events);
            }
        }
    }
    leaves_alone::<Vec2>();
    leaves_alone::<Vec3>();
}

/// The speed of a landing on a lift is that at which body and lift come together.
#[test]
fn a_landing_on_a_rising_lift_has_the_speed_of_the_two() {
    fn check<V: Geometry>() {
        for hull in [capsule(), upright_box(), rasant::Hull::ball(0.45).unwrap()] {
            for rate in [24, 30, 60, 144] {
                for (height, rises) in
                    [2.0, 2.7, 4.0].into_iter().flat_map(|h| [0.0, 3.0, 4.3, 6.0].map(|v| (h, v)))
                {
                    let keys = [(0.0, [0.0; 3], 0.0), (2.0, [0.0, 2.0 * rises, 0.0], 0.0)];
                    let mut level = raft::<V>(&keys, PathEnd::Stop, &[]);
                    let tuning = Tuning::default();
                    let mut run = Run::new(tuning, hull, V::UP * height, rate);
                    let landed = (0..2 * rate).find_map(|_| {
                        let before = run.body.velocity().height();
                        tick(&mut run, &mut level, Intent::default());
                        let speed = run.body.events().iter().find_map(|event| match event {
                            Event::Landed { speed, .. } => Some(*speed),
                            _ => None,
                        })?;
                        Some((speed, rises - before))
                    });
                    let Some((speed, least)) = landed else {
                        panic!(
                            "{rate}/s, {height} m, {rises} m/s, {hull:?}: {:?} {:?} raft {:?}",
                            run.events,
                            run.body.position(),
                            level.carrier(CarrierId(0)).ride().to.offset()
                        )
                    };
                    // Within the tick it has fallen on.
                    let most = least + tuning.gravity() * tuning.fall.gravity / rate as f32;
                    let case = format!("{rate}/s, {height} m, {rises} m/s, {hull:?}");
                    assert!(
                        (least - 0.02..=most + 0.02).contains(&speed),
                        "{case}: {speed} of {least} to {most}"
                    );
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
