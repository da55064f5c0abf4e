//! Late, early, cut and repeated jumps.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::{Actions, Geometry, Hull, Intent, Level, Mode, Piece, Tuning};

const JUMP: fn() -> Intent = || Intent::default().pressing(Actions::JUMP);
const HOLD: fn() -> Intent = || Intent::default().holding(Actions::JUMP);

fn standing<V: Geometry>(tuning: Tuning, level: &Level<V>, hull: Hull, rate: u32) -> Run<V> {
    let mut run = Run::new(tuning, hull, V::ZERO, rate);
    run.body.find_footing(level);
    run
}

/// Walks off an edge and presses after a number of ticks. Returns the time for which its back side
/// was past the edge, from its speed, and whether the jump took off.
fn jumps_late(coyote: f32, wait: usize, rate: u32) -> (f32, bool) {
    let mut tuning = Tuning::default();
    tuning.jump.coyote_time = coyote;
    let (edge, hull) = (1.0, upright_box());
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [edge, 0.0, 0.0])]);
    let mut run = standing(tuning, &level, hull, rate);
    let ahead = Intent::steering(1.0, 0.0);
    while run.body.state().mode == Mode::Grounded {
        run.tick(&level, ahead);
    }
    for _ in 0..wait {
        run.tick(&level, ahead);
    }
    let past = run.body.position().x - hull.half_width() - edge;
    run.tick(&level, ahead.pressing(Actions::JUMP));
    (past / tuning.walk.speed, run.jumps() == [Jump::LATE])
}

#[test]
fn a_jump_takes_off_within_the_coyote_time_after_an_edge_and_not_later() {
    /// Of a millimetre or two past the edge.
    const SLACK: f32 = 1e-3;
    for rate in RATES {
        for coyote in [0.05, 0.1, 0.2] {
            let most = (coyote * rate as f32) as usize + 3;
            let (mut early, mut late) = (0, 0);
            for wait in 0..most {
                let (past, jumped) = jumps_late(coyote, wait, rate);
                if (past - coyote).abs() > SLACK {
                    assert_eq!(jumped, past < coyote, "{past} s of {coyote} s past the edge, {rate} Hz");
                    *(if jumped { &mut early } else { &mut late }) += 1;
                }
            }
            assert!(early > 0 && late > 0, "{rate} Hz");
        }
        assert!(!jumps_late(0.0, 0, rate).1, "no coyote time, {rate} Hz");
    }
}

#[test]
fn a_late_jump_is_as_high_as_any_and_cannot_follow_another() {
    let mut tuning = Tuning::default();
    tuning.jump.coyote_time = 0.5;
    let level = floor::<Vec3>(9.0);
    let mut run = standing(tuning, &level, capsule(), 60);
    run.tick(&level, JUMP());
    run.run(&level, 0.1, HOLD());
    run.tick(&level, JUMP()); // within the coyote time, but it left by a jump
    run.run(&level, 1.5, HOLD());
    assert_eq!(run.jumps(), [Jump::GROUND]);
}

/// Presses `early` seconds before the landing of a fall: whether it jumps then.
fn jumps_early(buffer: f32, early: f32, rate: u32) -> bool {
    let mut tuning = Tuning::default();
    tuning.jump.buffer_time = buffer;
    let level = floor::<Vec2>(9.0);
    let landing = |run: &mut Run<Vec2>| {
        while run.body.state().mode == Mode::Airborne {
            run.tick(&level, Intent::default());
        }
        run.ticks
    };
    let mut first = Run::new(tuning, capsule(), Vec2::Y * 4.0, rate);
    let landed = landing(&mut first);
    let mut run = Run::new(tuning, capsule(), Vec2::Y * 4.0, rate);
    let press = landed - (early * rate as f32).round() as usize;
    while run.ticks < press {
        run.tick(&level, Intent::default());
    }
    run.tick(&level, JUMP());
    run.run(&level, early + 0.1, HOLD());
    run.jumps() == [Jump::GROUND]
}

#[test]
fn a_press_before_the_landing_waits_for_the_buffer_time_and_not_longer() {
    for rate in RATES {
        let tick = 1.0 / rate as f32;
        assert!(jumps_early(0.2, 0.2 - 1.1 * tick, rate), "{rate} Hz");
        assert!(!jumps_early(0.2, 0.2 + 1.6 * tick, rate), "{rate} Hz");
        assert!(!jumps_early(0.0, 2.0 * tick, rate), "{rate} Hz");
    }
}

#[test]
fn a_jump_waiting_for_the_ground_takes_off_once() {
    let mut tuning = Tuning::default();
    tuning.jump.buffer_time = 1.9;
    let level = floor::<Vec2>(9.0);
    let mut run = Run::new(tuning, capsule(), Vec2::Y * 0.5, 60);
    run.tick(&level, JUMP());
    run.run(&level, 4.0, HOLD()); // held all the time, which repeats nothing
    assert_eq!(run.jumps(), [Jump::GROUND]);
}

#[test]
fn letting_go_early_makes_a_lower_jump_by_the_heavier_gravity() {
    for rate in [60, 120, 240] {
        let mut tuning = Tuning::default();
        tuning.jump.cut_gravity = 3.0;
        let level = floor::<Vec2>(9.0);
        let mut run = standing(tuning, &level, capsule(), rate);
        let start = run.body.position().y;
        run.tick(&level, JUMP());
        let held = 0.1;
        run.run(&level, held - 1.0 / rate as f32, HOLD());
        run.run(&level, 1.5, Intent::default());
        // By hand: 0.1 s of the usual rise, then the rest of the speed against three times the
        // gravity.
        let (speed, gravity) = (tuning.take_off_speed(), tuning.gravity());
        let left = speed - gravity * held;
        let expected = speed * held - 0.5 * gravity * held * held + left * left / (2.0 * 3.0 * gravity);
        let reached = run.apex().unwrap().y - start;
        assert!((reached - expected).abs() < 0.002 * expected, "{reached} against {expected} at {rate} Hz");
    }
}

#[test]
fn pressing_again_in_the_rise_does_not_undo_a_cut() {
    let mut tuning = Tuning::default();
    tuning.jump.cut_gravity = 3.0;
    let level = floor::<Vec2>(9.0);
    let height = |again: bool| {
        let mut run = standing(tuning, &level, capsule(), 60);
        run.tick(&level, JUMP());
        run.tick(&level, Intent::default());
        run.tick(&level, if again { JUMP() } else { Intent::default() });
        run.run(&level, 0.3, if again { HOLD() } else { Intent::default() });
        run.apex().unwrap().y
    };
    assert_eq!(height(true), height(false));
}

#[test]
fn jumps_in_the_air_have_their_own_height_and_come_back_only_by_landing() {
    let mut tuning = Tuning::default();
    tuning.jump.air_count = 2.0;
    tuning.jump.air_height = 0.9;
    tuning.jump.buffer_time = 0.0;
    // A ceiling just above the first jump's top.
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([-9.0, 3.9, 0.0], [9.0, 5.0, 0.0])]);
    let mut run = standing(tuning, &level, capsule(), 60);
    run.tick(&level, JUMP());
    run.run(&level, 0.36, HOLD()); // to the top
    let before = run.body.position().y;
    run.tick(&level, JUMP());
    assert_eq!(run.jumps(), [Jump::GROUND, Jump::AIR]);
    run.run(&level, 0.2, HOLD());
    assert_eq!(run.count("bumped-head"), 1, "it rises from {before} to the ceiling");
    run.tick(&level, JUMP());
    run.run(&level, 0.1, HOLD());
    run.tick(&level, JUMP()); // none left, ceiling or not
    assert_eq!(run.jumps().len(), 3);
    while run.body.state().mode == Mode::Airborne {
        run.tick(&level, Intent::default());
    }
    run.tick(&level, JUMP());
    run.tick(&level, JUMP());
    assert_eq!(run.jumps()[3..], [Jump::GROUND, Jump::AIR]);

    // Its height, free of the ceiling.
    let level = floor::<Vec3>(9.0);
    let mut run = standing(tuning, &level, capsule(), 60);
    run.tick(&level, JUMP());
    run.run(&level, 0.5, HOLD());
    let before = run.body.position().y;
    run.events.clear();
    run.tick(&level, JUMP());
    run.run(&level, 0.5, HOLD());
    let rise = run.apex().unwrap().y - before;
    assert!((rise - 0.9).abs() < 0.001, "{rise}");
}

#[test]
fn jump_with_down_falls_through_a_one_way_platform_once_and_through_no_other() {
    fn check<V: Geometry>(down: Intent) {
        let shelf = |top: f32| {
            let (min, max) = ([-5.0, top - 0.2, -5.0], [5.0, top, 5.0]);
            Piece::block(V::from_array(min), V::from_array(max)).unwrap().one_way()
        };
        let mut builder = Level::builder();
        builder.add(Piece::block(V::from_array([-5.0, -1.0, -5.0]), V::from_array([5.0, 0.0, 5.0])).unwrap());
        builder.add(shelf(3.0));
        builder.add(shelf(6.0));
        let level = builder.build().unwrap();
        for hull in [capsule(), upright_box()] {
            let mut run = Run::new(Tuning::default(), hull, V::UP * 6.0, 60);
            run.body.find_footing(&level);
            for expected in [3.0, 0.0, 0.0] {
                run.events.clear();
                run.tick(&level, down.pressing(Actions::JUMP));
                run.run(&level, 1.5, Intent::default());
                let height = run.body.position().height();
                assert!(
                    (height - expected - 0.005).abs() < 1e-3,
                    "{height} m, expected {expected} m, {hull:?}"
                );
                assert_eq!(run.body.state().carry_over.passing(), None);
            }
            // On solid ground it is a jump like any other.
            assert_eq!(run.jumps(), [Jump::GROUND]);
        }
    }
    check::<Vec2>(Intent::steering(0.0, -1.0));
    check::<Vec2>(Intent::default().holding(Actions::CROUCH));
    check::<Vec3>(Intent::default().holding(Actions::CROUCH));
}

#[test]
fn a_heavier_fall_takes_the_computed_time() {
    for rate in RATES {
        let mut tuning = Tuning::default();
        tuning.fall.gravity = 2.25;
        let level = floor::<Vec2>(9.0);
        let mut run = standing(tuning, &level, capsule(), rate);
        run.tick(&level, JUMP());
        while run.body.state().mode == Mode::Airborne {
            run.tick(&level, HOLD());
        }
        // Down with 2.25 times the gravity takes 1 / 1.5 of the time up.
        let expected = tuning.jump.rise_time * (1.0 + 1.0 / 1.5);
        assert!((run.seconds() - expected).abs() <= 1.01 / rate as f32, "{} s at {rate} Hz", run.seconds());
    }
}

#[test]
fn where_a_jump_comes_to_rest_does_not_depend_on_the_tick_rate() {
    // The rest of the tick in which the feet come down is on foot: it brakes.
    let level = floor::<Vec2>(200.0);
    let (rates, mut ends) = ([30, 40, 60, 120, 240], Vec::new());
    for rate in rates {
        let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, rate);
        run.body.find_footing(&level);
        run.run(&level, 0.5, Intent::steering(1.0, 0.0));
        run.tick(&level, Intent::steering(1.0, 0.0).pressing(Actions::JUMP));
        // Released 20 ms before the landing.
        run.run(&level, 0.7 - 1.0 / rate as f32, Intent::steering(1.0, 0.0));
        run.run(&level, 1.0, Intent::default());
        assert_eq!(run.body.velocity(), Vec2::ZERO);
        ends.push(run.body.position().x);
    }
    let (least, most) = ends.iter().fold((f32::MAX, f32::MIN), |(a, b), x| (a.min(*x), b.max(*x)));
    assert!(most - least < 0.002 * most, "{ends:?}");
}
