//! In the air: varying gravity, keeping and losing speed, help past corners, bounces and spins.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::{Actions, Event, Gait, Geometry, Hull, Intent, Level, Mode, Piece, Surface, Tuning};

const JUMP: fn() -> Intent = || Intent::default().pressing(Actions::JUMP);
const HOLD: fn() -> Intent = || Intent::default().holding(Actions::JUMP);

fn jump_of<V: Geometry>(tuning: Tuning, rate: u32) -> Run<V> {
    let level = floor::<V>(9.0);
    let mut run = Run::new(tuning, capsule(), V::ZERO, rate);
    run.body.find_footing(&level);
    run.tick(&level, JUMP());
    while run.body.state().mode == Mode::Airborne {
        run.tick(&level, HOLD());
    }
    run
}

fn height_of<V: Geometry>(run: &Run<V>) -> f32 {
    run.apex().unwrap().height() - 0.005
}

#[test]
fn lighter_gravity_round_the_top_leaves_the_height_and_lengthens_the_air_time() {
    for rate in RATES {
        for (slow, lighter) in [(1.5, 0.5), (4.0, 0.3), (30.0, 0.4)] {
            let mut tuning = Tuning::default();
            tuning.fall.apex_speed = slow;
            tuning.fall.apex_gravity = lighter;
            let run = jump_of::<Vec2>(tuning, rate);
            let height = height_of(&run);
            assert!((height - 1.8).abs() < 0.0018, "{height} m at {rate} Hz, {slow} m/s");
            // By hand: the time at each of the two accelerations, up and down.
            let (gravity, speed) = (tuning.gravity(), tuning.take_off_speed());
            let slow = slow.min(speed);
            let expected = 2.0 * ((speed - slow) / gravity + slow / (lighter * gravity));
            assert!(
                (run.seconds() - expected).abs() <= 1.01 / rate as f32,
                "{} s at {rate} Hz",
                run.seconds()
            );
        }
    }
}

#[test]
fn a_jump_by_gravity_and_take_off_speed_follows_physics() {
    for rate in RATES {
        let mut tuning = Tuning::default();
        tuning.jump.gravity = 25.0;
        tuning.jump.take_off_speed = 9.0;
        let run = jump_of::<Vec3>(tuning, rate);
        let expected = 9.0 * 9.0 / (2.0 * 25.0);
        assert!((height_of(&run) - expected).abs() < 1e-3 * expected);
        assert!((tuning.jump_height() - expected).abs() < 1e-5);
        // Gravity alone reaches the target height.
        tuning.jump.take_off_speed = 0.0;
        assert!((height_of(&jump_of::<Vec3>(tuning, rate)) - 1.8).abs() < 0.0018);
    }
}

#[test]
fn a_fast_fall_is_faster_while_steering_down_and_no_faster_than_its_limit() {
    let mut tuning = Tuning::default();
    tuning.fall.fast_gravity = 3.0;
    tuning.fall.fast_speed = 40.0;
    let level = floor::<Vec2>(9.0);
    let falls = |intent: Intent| {
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 80.0, 60);
        let mut fastest = 0f32;
        while run.body.state().mode == Mode::Airborne {
            run.tick(&level, intent);
            fastest = fastest.max(-run.body.velocity().y);
        }
        (run.seconds(), fastest)
    };
    let (slow, most) = falls(Intent::default());
    let (fast, most_fast) = falls(Intent::steering(0.0, -1.0));
    assert_eq!((most, most_fast), (25.0, 40.0));
    assert!(fast < 0.75 * slow, "{fast} s against {slow} s");
    assert_eq!(falls(Intent::default().holding(Actions::CROUCH)).1, 40.0);
}

#[test]
fn speed_above_the_top_speed_is_kept_or_shed_in_the_air_as_set() {
    for keep in [0.0, 1.0] {
        let mut tuning = Tuning::default();
        tuning.air.keep = keep;
        let level = floor::<Vec3>(99.0);
        let mut run = Run::new(tuning, capsule(), Vec3::ZERO, 60);
        run.body.find_footing(&level);
        run.body.throw(Vec3::new(12.0, 9.0, 0.0));
        run.run(&level, 0.5, Intent::steering(1.0, 0.0));
        let speed = run.body.velocity().x;
        // Shed at the rate of the stop time: the walking speed in 0.6 s.
        let expected = if keep > 0.5 { 12.0 } else { 12.0 - 4.0 / 0.6 * 0.5 };
        assert!((speed - expected).abs() < 0.01, "{speed} m/s, keep {keep}");
        // Letting go and turning back shed it in either case.
        run.run(&level, 0.1, Intent::default());
        assert!(run.body.velocity().x < speed - 0.5);
    }
}

#[test]
fn a_held_button_repeats_only_when_set() {
    for repeat in [0.0, 1.0] {
        let mut tuning = Tuning::default();
        tuning.jump.repeat = repeat;
        let level = floor::<Vec2>(9.0);
        let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        run.body.find_footing(&level);
        run.tick(&level, JUMP());
        run.run(&level, 3.0, HOLD());
        let jumps = run.count("jumped");
        assert_eq!(jumps > 3, repeat > 0.5, "{jumps} jumps");
    }
}

#[test]
fn each_jump_in_the_air_changes_by_its_factor() {
    let mut tuning = Tuning::default();
    tuning.jump.air_count = 3.0;
    tuning.jump.air_height = 1.0;
    tuning.jump.air_change = 0.5;
    let level = floor::<Vec2>(9.0);
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    run.tick(&level, JUMP());
    run.run(&level, 0.5, HOLD());
    for expected in [1.0, 0.5, 0.25] {
        let before = run.body.position().y;
        run.events.clear();
        run.tick(&level, JUMP());
        while run.apex().is_none() {
            run.tick(&level, HOLD());
        }
        let rise = run.apex().unwrap().y - before;
        assert!((rise - expected).abs() < 2e-3, "{rise} m, expected {expected} m");
    }
    run.events.clear();
    run.tick(&level, JUMP());
    run.run(&level, 0.2, HOLD());
    assert_eq!(run.count("jumped"), 0);
    let refused =
        |event: &Event<Vec2>| matches!(event, Event::Refused { what } if what.is("jump", "no-footing"));
    assert!(run.events.iter().any(|(_, event)| refused(event)), "it says why: {:?}", run.events);
}

/// A ceiling whose corner is `over` to the right of the body's left side.
fn under_a_corner(hull: rasant::Hull, over: f32, corner: f32) -> Run<Vec2> {
    let edge = -hull.half_width() + over;
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([-9.0, 2.2, 0.0], [edge, 3.0, 0.0])]);
    let mut tuning = Tuning::default();
    tuning.jump.corner = corner;
    let mut run = Run::new(tuning, hull, Vec2::ZERO, 60);
    run.body.find_footing(&level);
    run.tick(&level, JUMP());
    run.run(&level, 0.36, HOLD());
    run
}

#[test]
fn a_head_is_nudged_round_a_corner_that_is_near_enough_and_no_further_than_needed() {
    for hull in [upright_box(), capsule()] {
        let clean = under_a_corner(hull, 0.1, 0.2);
        assert_eq!(clean.count("bumped-head"), 0, "{hull:?}");
        let height = clean.body.position().y;
        assert!((height - 1.8).abs() < 0.02, "the jump loses nothing: {height} m, {hull:?}");
        let aside = clean.body.position().x;
        assert!((0.0..=0.1 + 0.012).contains(&aside), "{aside} m to the side, {hull:?}");
        // Too far over the corner, or with the knob at 0, it is a bump.
        for (over, corner) in [(0.4, 0.2), (0.1, 0.0)] {
            let run = under_a_corner(upright_box(), over, corner);
            assert_eq!((run.count("bumped-head"), run.body.position().x), (1, 0.0));
        }
    }
}

#[test]
fn feet_that_miss_a_lip_slightly_are_nudged_onto_it() {
    for (lip, below, lands) in [(0.3, 0.2, true), (0.3, 0.4, false), (0.0, 0.05, false)] {
        let level = blocks::<Vec2>(&[([1.0, -9.0, 0.0], [9.0, 0.0, 0.0])]);
        let mut tuning = Tuning::default();
        tuning.jump.lip = lip;
        let mut run = Run::new(tuning, upright_box(), Vec2::new(0.6, -below), 60);
        run.body.throw(Vec2::new(4.0, 0.0));
        run.run(&level, 0.1, Intent::steering(1.0, 0.0));
        assert_eq!(run.body.state().footing.is_firm(), lands, "{below} m below, {lip} m asked for");
        assert_eq!(run.count("landed"), usize::from(lands));
    }
}

/// Jumps straight up beside a block, pressed against it. Feet less than a clearance above its edge
/// used to slip off it, because they meet it at an angle.
#[test]
fn a_jump_gets_onto_every_block_that_is_no_higher_than_itself_and_the_lip() {
    let mut tuning = Tuning::default();
    tuning.jump.lip = 0.04;
    tuning.fall.gravity = 2.5;
    let reach = tuning.jump.height + tuning.jump.lip;
    let mut missed = Vec::new();
    for rate in [60, 240] {
        for hull in [upright_box(), capsule(), Hull::ball(0.4).unwrap()] {
            // As high as the jump, give or take the clearance, and up to the lip.
            let near_the_top = (0..200).map(|step| tuning.jump.height - 0.002 + 4e-5 * step as f32);
            let below = (0..40).map(|step| reach - 0.0395 + 0.001 * step as f32);
            for height in near_the_top.chain(below) {
                let near = hull.half_width() + 0.05;
                let level = blocks::<Vec2>(&[
                    ([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]),
                    ([near, 0.0, 0.0], [9.0, height, 0.0]),
                ]);
                let mut run = Run::new(tuning, hull, Vec2::ZERO, rate);
                run.body.find_footing(&level);
                let ahead = Intent::steering(1.0, 0.0).holding(Actions::JUMP);
                run.run(&level, 1.5 / rate as f32, ahead.pressing(Actions::JUMP));
                run.run(&level, 0.7, ahead);
                let state = run.body.state();
                let is_on = state.footing.is_firm() && state.position.y > height - 0.01;
                if !is_on {
                    missed.push(format!(
                        "{hull:?} at {rate} Hz: {height} m of {reach} m, at {}",
                        state.position
                    ));
                }
            }
        }
    }
    // Of 1,440, one arrives at the edge with zero vertical speed, and slides off it.
    assert!(missed.len() <= 1, "{} missed:\n{}", missed.len(), missed.join("\n"));
}

#[test]
fn springy_ground_gives_back_its_fraction_of_the_speed() {
    for rate in RATES {
        let mut builder = Level::builder();
        let spring = builder.add_surface(Surface { bounce: 0.8, ..Surface::default() });
        builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap().made_of(spring));
        let level = builder.build().unwrap();
        let mut run = Run::new(Tuning::default(), capsule(), Vec2::Y * 3.0, rate);
        run.run(&level, 1.2, Intent::default());
        // A fraction f of the speed gives f² of the height.
        let expected = 0.64 * 2.995;
        let height = run.apex().unwrap().y - 0.005;
        assert!(
            (height - expected).abs() < 0.01 * expected,
            "{height} m at {rate} Hz, expected {expected} m"
        );
        assert_eq!(run.count("landed"), 0);
        run.run(&level, 6.0, Intent::default());
        assert!(run.body.state().footing.is_firm(), "it comes to rest");
    }
}

#[test]
fn a_spin_turns_by_its_degrees_in_a_jump_and_is_flat_on_the_ground() {
    let mut tuning = Tuning::default();
    tuning.jump.spin = 360f32.to_radians();
    let level = floor::<Vec2>(9.0);
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    run.tick(&level, JUMP());
    let mut most = 0f32;
    let mut halfway = 0.0;
    while run.body.state().mode == Mode::Airborne {
        let spin = run.body.pose(1.0).spin;
        assert!(spin >= most, "it never turns back");
        most = spin;
        if run.body.state().animation.gait == Gait::Rise {
            halfway = spin;
        }
        run.tick(&level, HOLD());
    }
    assert!((halfway.to_degrees() - 180.0).abs() < 12.0, "half of it at the top: {}", halfway.to_degrees());
    assert!(most.to_degrees() > 340.0);
    assert_eq!(run.body.pose(1.0).spin, 0.0);
}

#[test]
fn steep_ground_has_its_own_speed_and_steering() {
    use crate::common::Slope;
    let angle = 60f32.to_radians();
    let level = Vec3::slope(angle);
    let slide = |speed: f32, steer: f32| {
        let mut tuning = Tuning::default();
        tuning.slope.slide_speed = speed;
        tuning.slope.slide_steer = steer;
        let at = Vec3::new(10.0, 10.0 * angle.tan() + 0.6, 0.0);
        let mut run = Run::new(tuning, capsule(), at, 60);
        run.run(&level, 2.0, Intent::steering(0.0, 1.0));
        assert_eq!(run.body.state().animation.gait, Gait::Slide, "{:?}", run.body.state());
        run.body.velocity()
    };
    let free = slide(1000.0, 1.0);
    assert!(free.length() > 10.0, "{free}");
    let held = slide(3.0, 1.0);
    let down = held.with_z(0.0).length();
    assert!((down - 3.0).abs() < 0.05, "{down} m/s down the slope");
    assert!((held.z + 4.0).abs() < 0.05, "steered across at the walking speed: {held}");
    assert!((slide(3.0, 0.25).z + 1.0).abs() < 0.05);
}

#[test]
fn a_late_jump_from_a_tuning_in_another_scale_is_the_same_jump() {
    fn path(scale: f32) -> Vec<Vec2> {
        let hull = capsule().scaled(scale).unwrap();
        let mut tuning = Tuning::default().scaled(scale).unwrap();
        tuning.dash.charges = 1.0;
        let level = blocks::<Vec2>(&[
            ([-9.0 * scale, -scale, 0.0], [1.0 * scale, 0.0, 0.0]),
            ([3.0 * scale, -9.0 * scale, 0.0], [9.0 * scale, -0.5 * scale, 0.0]),
        ]);
        let mut run = Run::new(tuning, hull, Vec2::ZERO, 60);
        run.body.find_footing(&level);
        let mut places = Vec::new();
        for tick in 0..120 {
            let intent = Intent::steering(1.0, 0.0);
            let actions = [(25, Actions::JUMP), (40, Actions::DASH)];
            let pressed =
                actions.iter().find(|(at, _)| *at == tick).map_or(Actions::NONE, |(_, action)| *action);
            run.tick(&level, intent.pressing(pressed).holding(Actions::JUMP));
            places.push(run.body.position() * (1.0 / scale));
        }
        assert_eq!(run.jumps(), [Jump::LATE], "at a scale of {scale}");
        assert!(run.count("maneuver-phase") > 0 && run.count("landed") > 0);
        places
    }
    // Pixels: a power of two changes no bit but the exponent.
    assert_eq!(path(1.0), path(16.0));
    for (metres, pixels) in path(1.0).iter().zip(path(21.0)) {
        assert!((*metres - pixels).length() < 1e-4, "{metres} {pixels}");
    }
}

#[test]
fn a_slow_top_that_is_wider_than_the_limit_of_a_fall_does_not_pass_it() {
    let open = rasant::Level::<rasant::glam::Vec2>::builder().build().unwrap();
    for rate in [24, 30, 60, 144, 240] {
        for (slow, limit, lighter) in [(9.0, 5.0, 0.5), (3.0, 1.1, 0.8), (20.0, 0.8, 0.3)] {
            let mut tuning = rasant::Tuning::default();
            tuning.fall.apex_speed = slow;
            tuning.fall.apex_gravity = lighter;
            tuning.fall.terminal_speed = limit;
            let mut run = Run::new(tuning, capsule(), rasant::glam::Vec2::ZERO, rate);
            for _ in 0..rate * 3 {
                run.tick(&open, rasant::Intent::default());
                let falls = -run.body.velocity().y;
                assert!(falls <= limit * 1.000_001, "{rate}/s: {falls} of {limit}");
            }
            // From rest to the limit at an even rate, and on at the limit.
            let rate_of = tuning.gravity() * lighter;
            let fallen = limit * 3.0 - 0.5 * limit * limit / rate_of;
            let depth = -run.body.position().y;
            assert!((depth - fallen).abs() < 2e-3 * fallen, "{rate}/s: fell {depth} of {fallen}");
        }
    }
}
