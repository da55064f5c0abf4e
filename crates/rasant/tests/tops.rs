//! The end of a rise is reported once: as its apex, or as a bumped head.

use crate::common::{Dice, Run, blocks, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::state::Departure;
use rasant::{
    Actions, Carrier, Effect, Event, Gait, Geometry, Hull, Intent, Keyframe, Level, PathEnd, Piece, Tuning,
    Zone,
};

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::ball(0.45).unwrap()]
}

/// A floor, and a slab at `height` that comes down at 7 m/s.
fn under_a_lift<V: Geometry>(height: f32) -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::block(V::from_array([-9.0, -1.0, -9.0]), V::from_array([9.0, 0.0, 9.0])).unwrap());
    let key = |time, down: f32| Keyframe::new(time, V::UP * -down);
    let lift = builder.add_carrier(Carrier::on_path(vec![key(0.0, 0.0), key(0.4, 2.8)], PathEnd::Stop));
    let slab = Piece::block(V::from_array([-3.0, height, -3.0]), V::from_array([3.0, height + 0.5, 3.0]));
    builder.add(slab.unwrap().riding(lift));
    builder.build().unwrap()
}

#[test]
fn a_lift_that_comes_down_on_a_rising_head_is_reported() {
    fn check<V: Geometry>() {
        let mut dice = Dice(2);
        for hull in hulls() {
            for rate in [24, 30, 60, 144] {
                for _ in 0..8 {
                    let mut level = under_a_lift::<V>(hull.height() + dice.number(3.1, 4.2));
                    let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), rate);
                    run.body.find_footing(&level);
                    let (mut speed, mut before) = (None, 0.0);
                    for tick in 0..rate {
                        level.advance(1.0 / rate as f32);
                        let press = if tick == 0 { Actions::JUMP } else { Actions::NONE };
                        run.tick(&level, Intent { held: Actions::JUMP, ..Intent::default().pressing(press) });
                        let state = run.body.state();
                        if state.velocity.height() < -3.0 && state.air.is_some() {
                            assert_ne!(state.animation.gait, Gait::Rise, "{:?}", state.velocity);
                        }
                        if let Some((_, Event::BumpedHead { speed: events, .. })) = run.events.last()
                            && speed.is_none()
                            && run.seconds() < 0.38
                        {
                            // As fast as the lift and the body are together.
                            speed = Some(*events);
                            let slowest = before - 1.1 * run.body.tuning.gravity() / rate as f32;
                            let together = 7.0 + slowest..7.0 + before + 0.1;
                            assert!(
                                together.contains(events),
                                "{hull:?} {rate}/s: {events}, not {together:?}"
                            );
                        }
                        before = if tick == 0 {
                            run.body.tuning.take_off_speed()
                        } else {
                            state.velocity.height()
                        };
                    }
                    let ends = (run.count("bumped-head"), run.count("apex"));
                    assert_eq!(ends.0 + ends.1, 1, "{hull:?} {rate}/s: {ends:?}");
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_jump_beside_a_wall_has_one_top() {
    fn check<V: Geometry>() {
        for hull in hulls() {
            for rate in [20, 25, 30, 50, 60, 75, 100, 150] {
                for gap in [0.0, 0.1, 0.4] {
                    for steer in [0.0, 1.0] {
                        let level = blocks::<V>(&[
                            ([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]),
                            ([1.0, 0.0, -9.0], [9.0, 9.0, 9.0]),
                        ]);
                        let from = V::RIGHT * (1.0 - gap - hull.clearance() - hull.half_width());
                        let mut run =
                            Run::new(Tuning::default(), hull, from + V::UP * hull.clearance(), rate);
                        run.body.find_footing(&level);
                        let held = Intent { held: Actions::JUMP, ..Intent::steering(steer, 0.0) };
                        run.tick(&level, held.pressing(Actions::JUMP));
                        run.run(&level, 1.2, held);
                        assert_eq!(run.count("apex"), 1, "{hull:?} {rate}/s, {gap} m off, steer {steer}");
                    }
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_head_that_is_driven_up_into_a_ceiling_is_reported_in_its_first_tick() {
    fn check<V: Geometry>() {
        let mut tuning = Tuning::default();
        (tuning.dash.charges, tuning.dash.eight_directions) = (1.0, 1.0);
        for hull in hulls() {
            for rate in [30, 60, 144] {
                for gap in [0.02, 0.1, 0.3] {
                    let top = hull.height() + gap;
                    let level = blocks::<V>(&[
                        ([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]),
                        ([-9.0, top, -9.0], [9.0, top + 1.0, 9.0]),
                    ]);
                    let mut run = Run::new(tuning, hull, V::UP * hull.clearance(), rate);
                    run.body.find_footing(&level);
                    if V::DIMENSION == 2 {
                        run.tick(&level, Intent::steering(0.0, 1.0).pressing(Actions::DASH));
                        run.run(&level, 1.0, Intent::steering(0.0, 1.0));
                    } else {
                        run.body.root_motion(V::UP * 0.4);
                        run.run(&level, 1.0, Intent::default());
                    }
                    assert_eq!(run.count("bumped-head"), 1, "{hull:?} {rate}/s, {gap} m");
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Rises past steep ground, edges and balls: each ends with one event.
#[test]
fn each_rise_at_steep_edges_ends_once() {
    fn check<V: Geometry>() {
        let mut rises = 0;
        for life in 0..400 {
            let mut dice = Dice(life);
            let mut builder = Level::builder();
            for _ in 0..12 {
                let middle =
                    V::from_array([dice.number(-4.0, 4.0), dice.number(-2.0, 3.0), dice.number(-2.0, 2.0)]);
                builder.add(Piece::ball(middle, dice.number(0.2, 1.5)).unwrap());
            }
            let wind = Effect::Wind { push: V::UP * dice.number(0.0, 60.0) };
            builder.add_zone(Zone::new(V::splat(-1.0), V::splat(2.0), wind));
            builder.add(Piece::block(V::splat(-9.0), V::splat(9.0).with_height(-3.0)).unwrap());
            let level = builder.build().unwrap();
            let rate = [24, 30, 60, 144][dice.below(4)];
            let hull = hulls()[dice.below(3)];
            let mut tuning = Tuning::default();
            tuning.jump.air_count = 9.0;
            let mut run = Run::new(tuning, hull, V::UP * 4.8 + V::RIGHT * dice.number(-3.0, 3.0), rate);
            let (mut steer, mut rose) = (0.0, false);
            for tick in 0..rate * 6 {
                if dice.below(20) == 0 {
                    steer = dice.number(-1.0, 1.0);
                }
                let jump = if dice.below(rate as usize / 3) == 0 { Actions::JUMP } else { Actions::NONE };
                let held = if dice.below(2) == 0 { Actions::JUMP } else { Actions::NONE };
                let before = run.events.len();
                let was = run.body.state().velocity.height();
                run.tick(&level, Intent { held, ..Intent::steering(steer, 0.0).pressing(jump) });
                for (_, event) in &run.events[before..] {
                    match event {
                        Event::Jumped { .. } | Event::Bounced { .. } => rose = true,
                        // Wind may lift it and let it sink within one tick.
                        Event::LeftGround { by: Departure::Throw, of: None } => rose = true,
                        Event::Apex { .. } => {
                            rises += 1;
                            assert!(
                                rose || was > 0.0,
                                "life {life}, tick {tick}: {:?} {:?}",
                                &run.events[before..],
                                run.body.state()
                            );
                            rose = false;
                        }
                        _ => {}
                    }
                }
                let state = run.body.state();
                if state.velocity.height() > 0.0 && !state.footing.is_firm() {
                    rose = true;
                }
            }
        }
        assert!(rises > 2000, "{rises}");
    }
    check::<Vec2>();
    check::<Vec3>();
}
