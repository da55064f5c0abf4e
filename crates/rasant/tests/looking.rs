//! Keeping a target in view, and the gaits shown meanwhile.

use crate::common::{RATES, Run, capsule, floor};
use rasant::glam::{Vec2, Vec3};
use rasant::{Face, Gait, Intent, Look, Steering, Tuning};

#[test]
fn a_circle_round_a_target_does_not_grow() {
    let level = floor::<Vec3>(30.0);
    for rate in RATES {
        for radius in [2.0, 5.0] {
            for side in [1.0, -1.0] {
                let tuning = Tuning { face: Face::Eyes, ..Tuning::default() };
                let mut run = Run::new(tuning, capsule(), Vec3::new(radius, 0.005, 0.0), rate);
                run.body.find_footing(&level);
                let start = run.body.position().with_y(0.0).length();
                for _ in 0..20 * rate {
                    let dt = 1.0 / rate as f32;
                    let (at, velocity) = (run.body.position(), run.body.velocity());
                    let look = match radius {
                        2.0 => run.body.look_at(Vec3::ZERO, dt),
                        _ => Look::at(Vec3::ZERO, at, velocity, dt),
                    };
                    run.tick(&level, Intent { look, ..Intent::steering(side, 0.0) });
                }
                let now = run.body.position().with_y(0.0).length();
                assert!((now - start).abs() < 0.02 * radius, "{rate}/s, {radius} m: now {now} m");
                assert_eq!(run.body.state().animation.gait, Gait::Strafe);
            }
        }
    }
}

#[test]
fn a_body_that_faces_its_look_strafes_and_walks_back() {
    let level = floor::<Vec3>(60.0);
    let tuning = Tuning { face: Face::Eyes, ..Tuning::default() };
    for (steer, gait) in [
        ([0.0, 1.0], Gait::Walk),
        ([0.7, 0.7], Gait::Walk),
        ([1.0, 0.0], Gait::Strafe),
        ([-1.0, 0.0], Gait::Strafe),
        ([0.0, -1.0], Gait::Back),
        ([0.2, -0.9], Gait::Back),
    ] {
        let mut run = Run::new(tuning, capsule(), Vec3::Y * 0.005, 60);
        run.body.find_footing(&level);
        run.run(&level, 0.5, Intent::steering(steer[0], steer[1]));
        assert_eq!(run.body.state().animation.gait, gait, "{steer:?}");
        // With the course as its facing, it walks forward.
        run.body.tuning.face = Face::Course;
        run.run(&level, 0.5, Intent::steering(steer[0], steer[1]));
        assert_eq!(run.body.state().animation.gait, Gait::Walk, "{steer:?}");
    }
    let level = floor::<Vec2>(60.0);
    let drives = Tuning { steering: Steering::Body, ..Tuning::default() };
    let mut run = Run::new(drives, capsule(), Vec2::ZERO, 60);
    run.run(&level, 0.5, Intent::steering(0.0, -1.0));
    assert_eq!(run.body.state().animation.gait, Gait::Back, "backwards, seen from above");
}
