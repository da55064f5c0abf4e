//! The interfaces of the library: input is checked, and any host can implement its surroundings.

use std::time::Duration;

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, Run, capsule, floor};
use crate::everything::town;
use rasant::glam::{Vec2, Vec3};
use rasant::level::{AnySurroundings, PieceError, Placement};
use rasant::{
    Actions, Carrier, CarrierId, Clock, Controller, Effect, Geometry, Intent, Keyframe, Level, Look, PathEnd,
    Piece, Steering, Tuning, Zone,
};

#[test]
fn a_reference_and_surroundings_found_out_at_run_time_give_the_same_bits() {
    fn check<V: Geometry>(seed: u64) {
        let mut dice = Dice(seed);
        let mut level = town::<V>();
        let tuning = any_tuning(&mut dice, V::DIMENSION);
        let mut bodies = [(); 3].map(|()| Controller::new(tuning, capsule(), V::UP * 2.0));
        let mut intent = Intent::default();
        for tick in 0..900 {
            intent = any_intent(&mut dice, &intent);
            level.advance(1.0 / 60.0);
            let any: &dyn AnySurroundings<V> = &level;
            bodies[0].tick(&intent, &level, 1.0 / 60.0);
            bodies[1].tick(&intent, &&level, 1.0 / 60.0);
            bodies[2].tick(&intent, &any, 1.0 / 60.0);
            for other in &bodies[1..] {
                assert_eq!(other.state(), bodies[0].state(), "tick {tick}, seed {seed}");
                assert_eq!(other.events(), bodies[0].events());
            }
        }
    }
    for seed in 1..6 {
        check::<Vec2>(seed);
        check::<Vec3>(seed);
    }
}

#[test]
fn an_invalid_level_is_refused_with_its_place() {
    let key = |time: f32, x: f32| Keyframe::new(time, Vec2::X * x);
    let on_path = |path: Vec<Keyframe<Vec2>>| {
        let mut builder = Level::builder();
        builder.add_carrier(Carrier::on_path(vec![key(0.0, 0.0)], PathEnd::Loop));
        builder.add_carrier(Carrier::on_path(path, PathEnd::Loop));
        builder.build().map(|_| ()).map_err(|error| error.to_string())
    };
    assert_eq!(on_path(vec![key(0.0, 0.0), key(1.0, 2.0)]), Ok(()));
    for (path, keyframe) in [
        (vec![key(0.0, 0.0), key(1.0, 2.0), key(1.0, 3.0)], "keyframe 2 of carrier 1 is at 1 s"),
        (vec![key(0.0, 0.0), key(-1.0, 2.0)], "keyframe 1 of carrier 1 is at -1 s"),
        (vec![key(-0.5, 0.0)], "keyframe 0 of carrier 1"),
        (vec![key(0.0, f32::NAN)], "keyframe 0 of carrier 1"),
        (vec![key(0.0, 0.0), key(f32::INFINITY, 1.0)], "keyframe 1 of carrier 1"),
    ] {
        let error = on_path(path).unwrap_err();
        assert!(error.contains(keyframe) && error.contains("expected"), "{error}");
    }
    for (effect, expected) in [
        (Effect::Gravity { up: Vec2::ZERO }, "zone 0: an up without a direction"),
        (Effect::Gravity { up: Vec2::NAN }, "zone 0: an up"),
        (Effect::Wind { push: Vec2::new(f32::INFINITY, 0.0) }, "zone 0: a push"),
        (Effect::Slow { pace: -1.0 }, "zone 0: a pace"),
    ] {
        let mut builder = Level::builder();
        builder.add_zone(Zone::new(Vec2::ZERO, Vec2::ONE, effect));
        let error = builder.build().unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }
    let mut builder = Level::builder();
    builder.add_zone(Zone::new(Vec2::ZERO, Vec2::NAN, Effect::Goal));
    assert!(builder.build().unwrap_err().to_string().contains("bounds that are not finite"));
}

#[test]
fn a_facet_is_flat_and_convex_or_refused_at_its_corner() {
    let square = [Vec3::ZERO, Vec3::X * 4.0, Vec3::new(4.0, 0.0, 4.0), Vec3::Z * 4.0];
    assert!(Piece::facet(&square).is_ok());
    let mut bent = square;
    bent[3].y = 0.5;
    assert!(
        matches!(Piece::facet(&bent), Err(PieceError::NotFlat { corner: 3, off }) if (off - 0.5).abs() < 1e-5)
    );
    let mut hollow = square;
    hollow[3] = Vec3::new(3.0, 0.0, 1.0);
    assert!(matches!(Piece::facet(&hollow), Err(PieceError::NotConvex { corner: 3 })));
    // Rotated by any angle and scaled down, flat pieces stay flat.
    let mut dice = Dice(3);
    for _ in 0..500 {
        let (across, along): (Vec3, Vec3) = (dice.direction(), dice.direction());
        let normal = across.cross(along);
        if normal.length() < 0.1 {
            continue;
        }
        let (u, v) = (across, normal.cross(across).normalize());
        let (size, at) = (dice.number(0.05, 30.0), dice.vector::<Vec3>(100.0));
        let corners: Vec<Vec3> = (0..7)
            .map(|corner| (corner as f32 * std::f32::consts::TAU / 7.0).sin_cos())
            .map(|(sin, cos)| at + (u * cos + v * sin) * size)
            .collect();
        assert!(Piece::facet(&corners).is_ok(), "{corners:?}");
    }
}

#[test]
#[should_panic(expected = "the level has no carrier 7: it has 1")]
fn a_carrier_that_is_not_there_is_named() {
    let mut builder = Level::<Vec2>::builder();
    builder.add_carrier(Carrier::set_by_host());
    builder.build().unwrap().place(CarrierId(7), Placement::default());
}

#[test]
fn a_look_and_its_direction_are_the_same() {
    let mut dice = Dice(9);
    for _ in 0..1000 {
        let look = Look { yaw: dice.number(-3.1, 3.1), pitch: dice.number(-1.5, 1.5) };
        let direction = look.direction();
        assert!((direction.length() - 1.0).abs() < 1e-5);
        let again = Look::toward(direction * dice.number(0.01, 100.0));
        assert!((again.yaw - look.yaw).abs() < 1e-3 && (again.pitch - look.pitch).abs() < 1e-3, "{look:?}");
    }
    assert_eq!(Look::toward(Vec3::ZERO), Look::default());
    // To the left is a positive yaw, as of a body that faces where it looks.
    assert!((Look::toward(Vec3::NEG_X).yaw - std::f32::consts::FRAC_PI_2).abs() < 1e-6);
}

#[test]
fn a_clocks_tick_times_are_evenly_apart_whatever_the_frames() {
    let mut dice = Dice(4);
    for rate in [24u32, 30, 59, 60, 144, 240] {
        let mut clock = Clock::new(rate).unwrap().with_max_ticks(10_000);
        let (mut now, mut ticked) = (Duration::ZERO, 0u32);
        for _ in 0..400 {
            let frame = Duration::from_nanos(dice.bits() % 90_000_000);
            now += frame;
            let due = clock.frame(frame);
            let times: Vec<Duration> = due.times().collect();
            assert_eq!(times.len(), due.ticks as usize);
            for time in times {
                ticked += 1;
                let exact = f64::from(ticked) / f64::from(rate);
                assert!((time.as_secs_f64() - exact).abs() < 1e-6, "{time:?}, not {exact} s at {rate}");
                assert!(time <= now);
            }
        }
    }
    // Dropped time belongs to no tick: the next tick is at the current time.
    let mut clock = Clock::new(10).unwrap();
    let frame = clock.frame(Duration::from_secs(5));
    assert_eq!((frame.ticks, frame.last), (2, Duration::from_secs(5)));
    assert_eq!(
        clock.frame(Duration::from_millis(100)).times().collect::<Vec<_>>(),
        [Duration::from_millis(5100)]
    );
}

#[test]
fn two_steps_are_hopped_in_the_time_of_one_where_that_is_requested() {
    for (run_time, ticks) in [(0.0, 24), (0.2, 12)] {
        let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
        tuning.set("hop.run_time", run_time).unwrap();
        let level = floor::<Vec3>(20.0);
        let mut run = Run::new(tuning, capsule(), Vec3::ZERO, 60);
        run.body.find_footing(&level);
        let mut taken = 0;
        run.tick(&level, Intent::steering(1.0, 0.0).holding(Actions::RUN));
        while run.body.state().maneuver.is_some() {
            run.tick(&level, Intent::default());
            taken += 1;
        }
        assert_eq!(taken + 1, ticks);
        assert!((run.body.position().x - 2.0).abs() < 1e-6);
    }
}
