//! What the ground is made of.

use crate::common::{Run, capsule};
use rasant::glam::{Vec2, Vec3};
use rasant::{
    Actions, Effect, Event, Geometry, Intent, Level, Mode, Piece, Steering, Surface, SurfaceId, Tuning, Zone,
};

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
        assert_eq!(run.body.state().mode, Mode::Airborne);
        let speed = run.body.velocity().component(0);
        assert!((speed + 1.5).abs() < 0.15, "{speed} m/s taken along");
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Bodies seen from above walk on the floors of zones.
#[test]
fn from_above_a_floor_grips_slows_drifts_and_sounds() {
    let with = |surface: Option<Surface<Vec2>>| {
        let mut builder = Level::<Vec2>::builder();
        if let Some(surface) = surface {
            let surface = builder.add_surface(surface);
            let far = Vec2::splat(90.0);
            builder.add_zone(Zone::new(-far, far, Effect::Floor { surface }));
        }
        let level = builder.build().unwrap();
        let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
        let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        run.tick(&level, Intent::default());
        run.run(&level, 0.05, Intent::steering(1.0, 0.0));
        let early = run.body.velocity().x;
        run.run(&level, 2.0, Intent::steering(1.0, 0.0));
        let late = run.body.velocity().x;
        let sounds: Vec<_> = run
            .events
            .iter()
            .filter_map(
                |(_, event)| if let Event::Footfall { surface } = event { Some(*surface) } else { None },
            )
            .collect();
        assert!(!sounds.is_empty());
        (early, late, run.body.position(), sounds[0])
    };
    let plain = with(None);
    let wet = with(Some(Surface { traction: 0.1, ..Surface::default() }));
    assert!(wet.0 < 0.2 * plain.0 && (wet.1 - plain.1).abs() < 1e-3, "{wet:?} on the wet, {plain:?} else");
    assert_eq!((plain.3, wet.3), (None, Some(SurfaceId(1))));
    let mud = with(Some(Surface { pace: 0.5, ..Surface::default() }));
    assert!((mud.1 - 0.5 * plain.1).abs() < 1e-3);
    let belt = with(Some(Surface { drift: Vec2::Y * 2.0, ..Surface::default() }));
    assert!((belt.2.y - 2.0 * 2.05).abs() < 0.05 && (belt.2.x - plain.2.x).abs() < 1e-3, "{belt:?}");
    // To a body that is not seen from above it is nothing.
    let mut builder = Level::<Vec2>::builder();
    let ice = builder.add_surface(Surface { traction: 0.1, ..Surface::default() });
    builder.add_zone(Zone::new(Vec2::splat(-90.0), Vec2::splat(90.0), Effect::Floor { surface: ice }));
    builder.add(Piece::block(Vec2::new(-90.0, -1.0), Vec2::new(90.0, 0.0)).unwrap());
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    run.run(&level, 0.15, Intent::steering(1.0, 0.0));
    assert!((run.body.velocity().x - 4.0).abs() < 1e-3);
}
