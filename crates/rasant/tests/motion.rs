//! Standing, walking, falling, jumping: what must always hold.

use crate::common::{RATES, Run, Slope, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::state::FootingKind;
use rasant::{Actions, Event, Geometry, Hull, Intent, Level, Mode, Piece, Tuning};

fn for_both_hulls(f: impl Fn(Hull)) {
    f(capsule());
    f(upright_box());
}

fn jump_height<V: Geometry>(hull: Hull, height: f32, rise: f32, rate: u32) -> f32 {
    let mut tuning = Tuning::default();
    tuning.jump.height = height;
    tuning.jump.rise_time = rise;
    let level = floor::<V>(20.0);
    let mut run = Run::new(tuning, hull, V::UP * 0.02, rate);
    run.run(&level, 0.5, Intent::default());
    let start = run.body.position().height();
    run.tick(&level, Intent::default().pressing(Actions::JUMP));
    run.run(&level, 2.0 * rise + 0.5, Intent::default().holding(Actions::JUMP));
    run.apex().expect("the jump has a top").height() - start
}

#[test]
fn a_jump_reaches_the_set_height_at_any_tick_rate() {
    for rate in RATES {
        for (height, rise) in [(1.8, 0.36), (3.2, 0.4), (0.4, 0.2), (12.0, 1.1)] {
            for_both_hulls(|hull| {
                for reached in [
                    jump_height::<Vec2>(hull, height, rise, rate),
                    jump_height::<Vec3>(hull, height, rise, rate),
                ] {
                    let off = (reached - height).abs() / height;
                    assert!(off < 1e-3, "{height} m at {rate} Hz reached {reached} m");
                }
            });
        }
    }
}

#[test]
fn the_top_of_a_jump_and_a_ceiling_are_no_footing() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([-9.0, 2.5, 0.0], [9.0, 3.0, 0.0])]);
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::Y * 0.005, 60);
    run.run(&level, 0.2, Intent::default());
    let press = Intent::default().pressing(Actions::JUMP);
    run.tick(&level, press);
    while run.body.state().mode == Mode::Airborne {
        run.tick(&level, press); // a press in every tick of the flight
    }
    assert_eq!(run.count("jumped"), 1);
    assert_eq!(run.count("bumped-head"), 1);
    assert_eq!(run.count("apex"), 0, "a rise that a ceiling ends has no top of its own");
}

#[test]
fn walking_off_an_edge_falls_from_zero_and_takes_the_same_time_at_any_rate() {
    let drop = 6.0;
    let level = blocks::<Vec2>(&[
        ([-20.0, 0.0, 0.0], [0.0, 1.0, 0.0]),
        ([-20.0, -9.0, 0.0], [40.0, 1.0 - drop, 0.0]),
    ]);
    for_both_hulls(|hull| {
        for rate in RATES {
            let tuning = Tuning::default();
            let mut run = Run::new(tuning, hull, Vec2::new(-3.0, 1.005), rate);
            run.run(&level, 10.0, Intent::steering(1.0, 0.0));
            let left = run.events.iter().find(|(_, e)| matches!(e, Event::LeftGround { .. }));
            let left = left.unwrap().0;
            let landed = run.events.iter().filter(|(_, e)| matches!(e, Event::Landed { .. })).nth(1);
            let (landed, event) = *landed.expect("the fall ends on the lower floor");
            // v = g t, capped, and h = g t² / 2 by hand.
            let expected = (2.0 * drop / tuning.gravity()).sqrt();
            let taken = (landed - left) as f32 / rate as f32;
            // A round hull still leans on the edge while it rolls off it.
            let rolling = if hull == upright_box() { 0.0 } else { 0.1 };
            assert!(
                (taken - expected).abs() <= 1.01 / rate as f32 + rolling,
                "{taken} s at {rate} Hz, expected {expected} s"
            );
            let Event::Landed { speed, .. } = event else { unreachable!() };
            let free = (2.0 * drop * tuning.gravity()).sqrt();
            assert!((speed - free).abs() < 0.03 * free, "landed at {speed} m/s, expected {free}");
        }
    });
}

#[test]
fn falling_ends_at_the_terminal_speed() {
    let mut tuning = Tuning::default();
    tuning.fall.terminal_speed = 11.0;
    let level = floor::<Vec2>(5.0);
    let mut run = Run::new(tuning, capsule(), Vec2::Y * 500.0, 60);
    run.run(&level, 5.0, Intent::default());
    assert_eq!(run.body.velocity(), Vec2::new(0.0, -11.0));
}

#[test]
fn standing_builds_up_no_gravity() {
    let level = floor::<Vec3>(5.0);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.3, 60);
    run.run(&level, 10.0, Intent::default());
    assert_eq!(run.body.velocity(), Vec3::ZERO);
    assert_eq!(run.body.state().footing.kind, FootingKind::Firm);
    assert!((run.body.position().y - 0.005).abs() < 1e-4, "{}", run.body.position());
    assert!(run.body.pose(1.0).position.y.abs() < 1e-4, "drawn touching");
}

fn dropped_fast<V: Geometry>(hull: Hull, rate: u32) -> (f32, FootingKind) {
    let mut tuning = Tuning::default();
    tuning.fall.terminal_speed = 1000.0;
    let level = blocks::<V>(&[([-1.0, -0.01, -1.0], [1.0, 0.0, 1.0])]);
    let mut run = Run::new(tuning, hull, V::UP * 777.7, rate);
    let mut state = *run.body.state();
    state.velocity = V::UP * -500.0;
    run.body.restore(state);
    run.run(&level, 2.0, Intent::default());
    (run.body.position().height(), run.body.state().footing.kind)
}

#[test]
fn a_one_centimetre_floor_stops_a_fall_at_500_metres_a_second() {
    for rate in RATES {
        for_both_hulls(|hull| {
            for (height, footing) in [dropped_fast::<Vec2>(hull, rate), dropped_fast::<Vec3>(hull, rate)] {
                assert_eq!(footing, FootingKind::Firm, "{hull:?} at {rate} Hz");
                assert!((height - 0.005).abs() < 2e-4, "{height}");
            }
        });
    }
}

#[test]
fn walking_reaches_its_speed_and_stops_in_the_set_times() {
    let level = floor::<Vec2>(50.0);
    let mut tuning = Tuning::default();
    tuning.walk.reach_time = 0.4;
    tuning.walk.stop_time = 0.25;
    tuning.walk.turn_time = 0.2;
    for rate in RATES {
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 0.005, rate);
        run.run(&level, 0.2, Intent::default());
        let ticks_until = |run: &mut Run<Vec2>, intent, done: &dyn Fn(f32) -> bool| {
            let start = run.ticks;
            while !done(run.body.velocity().x) {
                run.tick(&level, intent);
                assert!(run.ticks - start < 10 * rate as usize, "never done");
            }
            (run.ticks - start) as f32 / rate as f32
        };
        let right = Intent::steering(1.0, 0.0);
        let tick = 1.0 / rate as f32 + 1e-4;
        let reach = ticks_until(&mut run, right, &|v| v >= 4.0);
        assert!((reach - 0.4).abs() < tick, "{reach}");
        let turn = ticks_until(&mut run, Intent::steering(-1.0, 0.0), &|v| v <= 0.0);
        assert!((turn - 0.2).abs() < tick, "{turn}");
        ticks_until(&mut run, right, &|v| v >= 4.0);
        let before = run.body.position().x;
        let stop = ticks_until(&mut run, Intent::default(), &|v| v == 0.0);
        assert!((stop - 0.25).abs() < tick, "{stop}");
        // Braking evenly from v takes v t / 2.
        let distance = run.body.position().x - before;
        assert!((distance - 0.5).abs() < 0.0025, "{distance} m to stop at {rate} Hz");
    }
}

fn speed_on_slope<V: Slope>(hull: Hull, degrees: f32, steer: f32) -> f32 {
    let level = V::slope(degrees.to_radians());
    let mut run = Run::new(Tuning::default(), hull, V::UP * 1.0, 60);
    run.run(&level, 1.0, Intent::default());
    run.run(&level, 0.5, Intent::steering(steer, 0.0));
    let from = run.body.position();
    run.run(&level, 1.0, Intent::steering(steer, 0.0));
    assert_eq!(run.body.state().mode, Mode::Grounded, "{degrees} degrees");
    (run.body.position() - from).length()
}

#[test]
fn the_speed_along_a_slope_is_the_set_speed_up_and_down() {
    for_both_hulls(|hull| {
        for degrees in [0.0, 10.0, 25.0, 40.0, 49.0] {
            for steer in [1.0, -1.0] {
                for speed in [
                    speed_on_slope::<Vec2>(hull, degrees, steer),
                    speed_on_slope::<Vec3>(hull, degrees, steer),
                ] {
                    assert!(
                        (speed - 4.0).abs() < 0.01,
                        "{speed} m/s on {degrees} degrees, steering {steer}, {hull:?}"
                    );
                }
            }
        }
    });
}

#[test]
fn a_diagonal_is_no_faster() {
    let level = floor::<Vec3>(50.0);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.005, 60);
    run.run(&level, 1.0, Intent::steering(1.0, 1.0));
    assert!((run.body.velocity().length() - 4.0).abs() < 1e-4);
}

#[test]
fn a_wall_stops_the_motion_into_it_and_the_body_slides_along() {
    let level = blocks::<Vec3>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]), ([1.0, 0.0, -9.0], [1.2, 3.0, 9.0])]);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.005, 60);
    run.run(&level, 2.0, Intent::steering(0.8, 0.6));
    let at = run.body.position();
    assert!((at.x - (1.0 - 0.355)).abs() < 1e-3, "{at}");
    let velocity = run.body.velocity();
    assert!((velocity - Vec3::new(0.0, 0.0, -2.4)).length() < 1e-3, "{velocity}");
    assert_eq!(run.count("wall-met"), 1, "met once, not in every tick");
}

#[test]
fn letting_go_keeps_the_facing() {
    let level = floor::<Vec2>(50.0);
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::Y * 0.005, 60);
    run.run(&level, 0.3, Intent::steering(-0.4, 0.0));
    run.run(&level, 1.0, Intent::default());
    assert_eq!(run.body.state().facing, Vec2::NEG_X);
}

#[test]
fn a_snapshot_put_back_replays_to_the_same_bits() {
    let level =
        blocks::<Vec3>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]), ([1.0, 0.0, -9.0], [2.0, 0.25, 9.0])]);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.3, 60);
    run.run(&level, 0.3, Intent::steering(0.7, 0.3));
    let snapshot = *run.body.state();
    let mut replay = || {
        run.body.restore(snapshot);
        run.run(&level, 0.5, Intent::steering(0.9, -0.2));
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        run.run(&level, 1.0, Intent::steering(-0.5, 0.5));
        *run.body.state()
    };
    assert_eq!(replay(), replay());
}

#[test]
fn a_screen_with_y_down_moves_like_one_with_y_up() {
    let up = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([2.0, 0.0, 0.0], [3.0, 0.25, 0.0])]);
    let down = blocks::<Vec2>(&[([-9.0, 0.0, 0.0], [9.0, 1.0, 0.0]), ([2.0, -0.25, 0.0], [3.0, 0.0, 0.0])]);
    let mut a = Run::new(Tuning::default(), capsule(), Vec2::Y * 0.1, 60);
    let mut b = Run::new(Tuning::default(), capsule(), Vec2::Y * -0.1, 60);
    let flipped = b.body.state().with_up(Vec2::NEG_Y);
    b.body.restore(flipped);
    for tick in 0..180 {
        let mut intent = Intent::steering(1.0, 0.0);
        if tick == 70 {
            intent = intent.pressing(Actions::JUMP);
        }
        a.tick(&up, intent);
        b.tick(&down, intent);
        let mirrored = b.body.position() * Vec2::new(1.0, -1.0);
        assert!((a.body.position() - mirrored).length() < 1e-4, "tick {tick}");
    }
    assert!(a.body.position().x > 4.0);
}

#[test]
fn broken_intents_do_no_harm() {
    let level = floor::<Vec3>(9.0);
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.1, 60);
    let mut intent = Intent::steering(f32::NAN, f32::INFINITY);
    intent.look.yaw = f32::NAN;
    run.run(&level, 1.0, intent);
    assert!(run.body.position().is_finite());
    assert_eq!(run.body.velocity(), Vec3::ZERO);
}

#[test]
fn a_level_with_nothing_in_it_is_a_long_fall() {
    let level = Level::<Vec2>::builder().build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.run(&level, 1.0, Intent::steering(1.0, 0.0));
    assert!(run.body.position().y < -5.0);
    assert!(Piece::block(Vec2::ZERO, Vec2::NAN).is_err());
}

#[test]
fn poses_follow_stairs_smoothly_and_end_on_them() {
    for rate in [60, 144] {
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(2.0, 0.0)).unwrap());
        for step in 0..8 {
            let (x, y) = (2.0 + 0.4 * step as f32, 0.2 * (step + 1) as f32);
            builder.add(Piece::block(Vec2::new(x, -1.0), Vec2::new(x + 9.0, y)).unwrap());
        }
        let level = builder.build().unwrap();
        let most = |soften: f32| {
            let mut tuning = Tuning::default();
            tuning.slope.soften_time = soften;
            let mut run = Run::new(tuning, upright_box(), Vec2::ZERO, rate);
            run.run(&level, 0.2, Intent::default());
            let (mut most, mut before) = (0.0f32, run.body.pose(1.0).position.y);
            for _ in 0..3 * rate {
                run.tick(&level, Intent::steering(1.0, 0.0));
                let now = run.body.pose(1.0).position.y;
                most = most.max((now - before).abs());
                before = now;
            }
            run.run(&level, 1.0, Intent::default());
            let ground = run.body.position().y - 0.005;
            assert!(
                (run.body.pose(1.0).position.y - ground).abs() < 1e-5,
                "in the end it is drawn where it is"
            );
            most
        };
        let (hard, soft) = (most(0.0), most(0.05));
        assert!(hard > 0.19 && soft < 0.6 * hard, "{hard} m and {soft} m in a tick at {rate}");
    }
}

/// On flat ground and on slopes, down and up: by the length of its path along the ground.
#[test]
fn a_ball_is_drawn_rolled_by_its_path() {
    fn check<V: Geometry>() {
        for rate in [30, 60, 240] {
            for (radius, degrees) in [(0.5, 0.0f32), (0.5, 25.0), (0.3, -13.0), (0.4, 41.0), (0.4, -41.0)] {
                // It is the body's up that leans over a level floor.
                let (sine, cosine) = degrees.to_radians().sin_cos();
                let level = floor::<V>(60.0);
                let mut run = Run::new(Tuning::default(), Hull::ball(radius).unwrap(), V::UP * 0.2, rate);
                let leaning = run.body.state().with_up(V::UP * cosine + V::RIGHT * sine);
                run.body.restore(leaning);
                run.run(&level, 1.5, Intent::steering(1.0, 0.0));
                assert!(run.body.state().footing.is_firm(), "{radius} m at {rate}, {degrees} degrees");
                let (start, mut rolled) = (run.body.position(), 0.0);
                for _ in 0..3 * rate {
                    let before = run.body.pose(1.0).rolled;
                    run.tick(&level, Intent::steering(1.0, 0.0));
                    let turned = run.body.pose(1.0).rolled - before;
                    rolled += turned.rem_euclid(std::f32::consts::TAU);
                }
                let distance = (run.body.position() - start).length() / radius;
                let what = format!("{rolled} of {distance} rad, {radius} m at {rate}, {degrees} degrees");
                assert!(distance > 10.0 && (rolled - distance).abs() < 0.005 * distance, "{what}");
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
