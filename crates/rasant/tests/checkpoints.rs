//! Checkpoints: where a hazard puts a body back to is a place that it can stand at.

use crate::common::{Dice, RATES, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{
    Actions, Carrier, Effect, Geometry, Hull, Intent, Keyframe, Level, PathEnd, Piece, Tuning, Zone,
};

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::ball(0.45).unwrap()]
}

fn corner<V: Geometry>(x: f32, y: f32) -> V {
    V::from_array([x, y, -6.0])
}

fn opposite<V: Geometry>(x: f32, y: f32) -> V {
    V::from_array([x, y, 6.0])
}

/// Two roofs with a pit of `width` between them that is deadly, and a checkpoint over the far roof,
/// from its very edge on.
fn pit<V: Geometry>(width: f32) -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::block(corner(-9.0, -9.0), opposite(0.0, 0.0)).unwrap());
    builder.add(Piece::block(corner(width, -9.0), opposite(width + 9.0, 0.0)).unwrap());
    builder.add_zone(Zone::new(corner(width, -1.0), opposite(width + 2.0, 4.0), Effect::Checkpoint));
    builder.add_zone(Zone::new(corner(0.0, -9.0), opposite(width, -4.0), Effect::Hazard));
    builder.build().unwrap()
}

/// After a respawn nothing is done, and nothing happens.
#[test]
fn a_body_that_touches_a_checkpoint_over_a_pit_does_not_die_again() {
    fn check<V: Geometry>() {
        let mut dice = Dice(11);
        let (mut died, mut arrived) = (0, 0);
        for hull in hulls() {
            for rate in RATES {
                for _ in 0..12 {
                    let level = pit::<V>(4.0);
                    let from = V::RIGHT * dice.number(-3.0, -1.0);
                    let mut tuning = Tuning::default();
                    tuning.air.keep = 1.0;
                    let mut run = Run::new(tuning, hull, from + V::UP * hull.clearance(), rate);
                    run.body.find_footing(&level);
                    run.tick(&level, Intent::default());
                    run.body.throw(V::RIGHT * dice.number(4.0, 12.0) + V::UP * dice.number(4.0, 11.0));
                    run.run(&level, 1.5, Intent::steering(1.0, 0.0));
                    let deaths = run.count("respawned");
                    let state = run.body.state();
                    assert!(deaths <= 1, "{deaths} deaths at {rate}/s with {hull:?}");
                    if deaths == 0 && state.position.component(0) > 4.0 {
                        assert!(state.checkpoint.component(0) > 4.0 - hull.half_width(), "{state:?}");
                        arrived += 1;
                    }
                    died += deaths;
                    run.body.respawn();
                    run.run(&level, 1.0, Intent::default());
                    assert!(run.body.state().footing.is_firm(), "{:?}", run.body.state());
                    assert_eq!(run.count("respawned"), deaths + 1, "it dies again");
                }
            }
        }
        assert!(died > 20 && arrived > 20, "{died} died, {arrived} arrived");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_checkpoint_that_is_walked_through_in_a_tick_is_set_where_the_body_came_in() {
    fn check<V: Geometry>() {
        let mut builder = Level::builder();
        builder.add(Piece::block(corner(-99.0, -1.0), opposite(99.0, 0.0)).unwrap());
        builder.add_zone(Zone::new(corner(5.0, 0.0), opposite(5.05, 2.0), Effect::Checkpoint));
        let level = builder.build().unwrap();
        let mut tuning = Tuning::default();
        (tuning.walk.speed, tuning.walk.reach_time) = (60.0, 0.0);
        for hull in hulls() {
            for rate in [20, 24, 30] {
                let mut run = Run::new(tuning, hull, V::UP * hull.clearance(), rate);
                run.body.find_footing(&level);
                run.run(&level, 0.4, Intent::steering(1.0, 0.0));
                let at = run.body.state().checkpoint.component(0);
                let came_in = 5.0 - hull.half_width();
                assert!((at - came_in).abs() < 0.01, "{rate}/s: {at}, not {came_in}");
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_checkpoint_can_have_a_place() {
    fn check<V: Geometry>() {
        let mut builder = Level::builder();
        builder.add(Piece::block(corner(-9.0, -1.0), opposite(9.0, 0.0)).unwrap());
        let place = V::RIGHT * -3.0 + V::UP * 0.005;
        builder.add_zone(Zone::new(corner(2.0, 0.0), opposite(3.0, 9.0), Effect::CheckpointAt { place }));
        builder.add_zone(Zone::new(corner(5.0, 0.0), opposite(6.0, 9.0), Effect::Hazard));
        let level = builder.build().unwrap();
        for (rate, jumps) in [(30, false), (60, true), (240, false)] {
            let mut run = Run::new(Tuning::default(), capsule(), V::UP * 0.005, rate);
            run.body.find_footing(&level);
            let press = if jumps { Actions::JUMP } else { Actions::NONE };
            while run.count("respawned") == 0 && run.seconds() < 4.0 {
                run.tick(&level, Intent::steering(1.0, 0.0).pressing(press));
            }
            assert_eq!(run.body.position(), place);
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Where a lift was when the body rode on it is no place to be put back to.
#[test]
fn a_checkpoint_is_not_set_on_a_lift() {
    let mut builder = Level::<Vec2>::builder();
    let path = |time, offset| Keyframe::new(time, offset);
    let path = vec![path(0.0, Vec2::ZERO), path(2.0, Vec2::new(0.0, 4.0)), path(60.0, Vec2::new(0.0, 4.0))];
    let lift = builder.add_carrier(Carrier::on_path(path, PathEnd::Stop));
    builder.add(Piece::block(Vec2::new(-1.0, -1.0), Vec2::new(1.0, 0.0)).unwrap().riding(lift));
    builder.add(Piece::block(Vec2::new(1.0, -1.0), Vec2::new(9.0, 4.0)).unwrap());
    builder.add_zone(Zone::new(Vec2::new(-1.0, 1.0), Vec2::new(1.0, 3.0), Effect::Checkpoint));
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::new(0.0, 0.005), 60);
    run.body.find_footing(&level);
    for tick in 0..180 {
        level.advance(1.0 / 60.0);
        run.tick(&level, if tick > 130 { Intent::steering(1.0, 0.0) } else { Intent::default() });
    }
    let state = run.body.state();
    assert!(
        !state.carry_over.checkpoint_pending && state.checkpoint.x > 0.9 && state.checkpoint.y > 3.9,
        "{state:?}"
    );
}
