//! What the ground is made of.

use crate::common::{Run, capsule};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Intent, Level, Mode, Piece, Surface, Tuning};

fn floor_of<V: Geometry>(surface: Surface<V>) -> Level<V> {
    let mut builder = Level::builder();
    let id = builder.add_surface(surface);
    let piece = Piece::block(V::from_array([-50.0, -1.0, -50.0]), V::from_array([50.0, 0.0, 50.0])).unwrap();
    builder.add(piece.made_of(id));
    builder.build().unwrap()
}

fn on<V: Geometry>(level: &Level<V>) -> Run<V> {
    let mut run = Run::new(Tuning::default(), capsule(), V::ZERO, 60);
    run.body.find_footing(level);
    run
}

#[test]
fn little_traction_makes_starting_and_stopping_as_much_longer() {
    for traction in [1.0, 0.5, 0.1] {
        let level = floor_of(Surface { traction, ..Surface::<Vec2>::default() });
        let mut run = on(&level);
        run.run(&level, 3.0, Intent::steering(1.0, 0.0));
        assert_eq!(run.body.velocity(), Vec2::X * 4.0);
        let before = run.body.position().x;
        run.run(&level, 3.0, Intent::default());
        // Braking evenly from v takes v t / 2, and t is divided by the traction.
        let expected = 4.0 * 0.08 / traction / 2.0;
        let slid = run.body.position().x - before;
        assert!((slid - expected).abs() < 0.002, "{slid} m on traction {traction}, expected {expected}");
    }
}

#[test]
fn pace_is_a_factor_on_the_walking_speed_alone() {
    let level = floor_of(Surface { pace: 0.4, ..Surface::<Vec3>::default() });
    let mut run = on(&level);
    run.run(&level, 1.0, Intent::steering(1.0, 0.0));
    assert!((run.body.velocity().x - 1.6).abs() < 1e-5);
    run.tick(&level, Intent::steering(1.0, 0.0).pressing(Actions::JUMP));
    assert!((run.body.velocity().y - Tuning::default().take_off_speed()).abs() < 0.6);
}

#[test]
fn a_moving_band_takes_along_and_lends_its_speed_to_a_jump() {
    fn check<V: Geometry>() {
        let level = floor_of(Surface { drift: V::RIGHT * -1.5, ..Surface::default() });
        let mut run = on(&level);
        run.run(&level, 2.0, Intent::default());
        let at = run.body.position();
        assert!((at.component(0) + 3.0).abs() < 0.03, "{at:?}");
        assert!(run.events.is_empty());
        run.run(&level, 1.0, Intent::steering(1.0, 0.0));
        assert!((run.body.velocity().component(0) - 2.5).abs() < 1e-4, "4 m/s against 1.5");
        run.run(&level, 0.5, Intent::default());
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        assert_eq!(run.body.state().mode, Mode::Aloft);
        let speed = run.body.velocity().component(0);
        assert!((speed + 1.5).abs() < 0.15, "{speed} m/s taken along");
    }
    check::<Vec2>();
    check::<Vec3>();
}
