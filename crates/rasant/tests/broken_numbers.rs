//! Numbers from outside that are none: each has a rule, and the state stays finite.

use crate::common::{Dice, capsule, floor};
use rasant::controller::has_room;
use rasant::glam::{Vec2, Vec3};
use rasant::tuning::KNOBS;
use rasant::{
    Actions, Carrier, Controller, Geometry, Hull, Intent, Keyframe, Level, Look, PathEnd, Piece, State,
    Tuning,
};

const BROKEN: [f32; 7] = [0.0, -0.0, -1.0 / 60.0, f32::NAN, f32::INFINITY, f32::NEG_INFINITY, 1e30];

/// A floor and a moving raft beside it.
fn harbour<V: Geometry>() -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::block(V::from_array([-9.0, -1.0, -9.0]), V::from_array([2.0, 0.0, 9.0])).unwrap());
    let keys = [(0.0, 0.0), (1.0, 3.0), (2.0, 0.0)].map(|(time, x)| Keyframe::new(time, V::RIGHT * x));
    let raft = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Loop));
    let block = Piece::block(V::from_array([-1.0, 0.0, -1.0]), V::from_array([1.0, 0.5, 1.0])).unwrap();
    builder.add(block.riding(raft));
    builder.build().unwrap()
}

fn a_tick_of_no_length_changes_nothing<V: Geometry>() {
    let mut level = harbour::<V>();
    for dt in BROKEN.into_iter().take(6) {
        let mut body = Controller::new(Tuning::default(), capsule(), V::from_array([0.0, 3.0, 0.0]));
        for tick in 0..200 {
            level.advance(1.0 / 60.0);
            let jump = if tick % 20 == 0 {
                Intent::default().pressing(Actions::JUMP)
            } else {
                Intent::steering(0.7, 0.0)
            };
            body.tick(&jump, &level, 1.0 / 60.0);
            let before = *body.state();
            assert_eq!(body.tick(&jump, &level, dt), &[], "dt {dt}");
            assert_eq!(*body.state(), before, "dt {dt}");
        }
        assert!(body.state().is_finite());
    }
}

#[test]
fn a_tick_of_no_length_or_a_broken_one_changes_nothing() {
    a_tick_of_no_length_changes_nothing::<Vec2>();
    a_tick_of_no_length_changes_nothing::<Vec3>();
}

fn stays_finite<V: Geometry>(seed: u64) {
    let mut dice = Dice(seed);
    let mut level = harbour::<V>();
    for _ in 0..1000 {
        let mut tuning = Tuning::default();
        // Through the public fields, past every range: as a file's reader never would.
        let knob = KNOBS[dice.below(KNOBS.len())];
        let _ = tuning.set(knob.path, knob.min);
        match dice.below(6) {
            0 => tuning.air.stop_time = BROKEN[dice.below(7)],
            1 => tuning.fall.apex_gravity = BROKEN[dice.below(7)],
            2 => tuning.jump.rise_time = BROKEN[dice.below(7)],
            3 => tuning.jump.height = BROKEN[dice.below(7)],
            4 => tuning.walk.speed = BROKEN[dice.below(7)],
            _ => tuning.slope.max_angle = BROKEN[dice.below(7)],
        }
        let mut body = Controller::new(tuning, capsule(), V::from_array([0.0, 2.0, 0.0]));
        if dice.below(3) == 0 {
            let broken = V::splat(BROKEN[3 + dice.below(3)]);
            let mut state = *body.state();
            match dice.below(5) {
                0 => state.position = broken,
                1 => state.velocity = broken,
                2 => state.facing = broken,
                3 => state.up = broken,
                _ => state.carry_over.uncounted = f32::NAN,
            }
            body.restore(state);
        }
        for tick in 0..30 {
            level.advance(1.0 / 60.0);
            let number = |dice: &mut Dice| {
                if dice.below(9) == 0 { BROKEN[dice.below(7)] } else { dice.number(-1.0, 1.0) }
            };
            let mut intent = Intent::steering(number(&mut dice), number(&mut dice));
            intent.look = Look { yaw: number(&mut dice), pitch: number(&mut dice) };
            if tick % 7 == 0 {
                intent = intent.pressing(Actions::JUMP).holding(Actions::JUMP);
            }
            match dice.below(40) {
                0 => body.throw(V::splat(number(&mut dice))),
                1 => body.knock_back(V::splat(number(&mut dice)), number(&mut dice)),
                2 => body.root_motion(V::splat(number(&mut dice))),
                _ => {}
            }
            let dt = if dice.below(9) == 0 { BROKEN[dice.below(7)] } else { 1.0 / 60.0 };
            body.tick(&intent, &level, dt);
            if dt.is_finite() && dt > 0.0 {
                assert!(body.state().is_finite(), "{knob:?} {:?}", body.state());
                assert!(body.position().is_finite() && body.velocity().is_finite());
            }
        }
    }
}

#[test]
fn any_input_gives_a_finite_state() {
    stays_finite::<Vec2>(3);
    stays_finite::<Vec3>(4);
}

#[test]
fn nowhere_is_no_room() {
    let level = floor::<Vec3>(5.0);
    let state =
        State { position: Vec3::NAN, ..*Controller::new(Tuning::default(), capsule(), Vec3::Y).state() };
    assert!(!has_room(&capsule(), &state, &level));
}

/// Numbers that are finite, but whose sums are not.
#[test]
fn positions_and_velocities_at_the_end_of_the_range_are_ticked_and_stay_finite() {
    fn check<V: Geometry>() {
        let level = harbour::<V>();
        for far in [1e20f32, 1e30, 1.1e38, 1.7e38, 3.4e38, f32::MAX] {
            for axis in 0..V::DIMENSION {
                for sign in [-1.0, 1.0] {
                    let mut parts = [0.0; 3];
                    parts[axis] = sign * far;
                    let place = V::from_array(parts);
                    let here = State::at(V::UP * 0.01);
                    let states = [
                        State::at(place),
                        State { velocity: place, ..here },
                        State { remainder: place, ..here },
                        State { checkpoint: place, ..here },
                        State { position: place, velocity: place, ..State::at(place) },
                    ];
                    for (number, state) in states.into_iter().enumerate() {
                        for hull in
                            [capsule(), Hull::ball(0.4).unwrap(), Hull::upright_box(0.6, 1.7).unwrap()]
                        {
                            let mut body = Controller::new(Tuning::default(), hull, V::ZERO);
                            body.restore(state);
                            for _ in 0..3 {
                                let intent = Intent::steering(1.0, 0.3).pressing(Actions::JUMP);
                                body.tick(&intent, &level, 1.0 / 60.0);
                                assert!(body.state().is_finite(), "{far} on axis {axis} of state {number}");
                                assert!(body.pose(0.5).position.is_finite());
                            }
                        }
                    }
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
