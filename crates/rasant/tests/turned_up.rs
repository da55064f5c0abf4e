//! Zones of another up turn a body only where it has room.

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, Run, capsule, upright_box};
use rasant::contact::Patch;
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::space::Bounds;
use rasant::{
    Actions, Controller, Effect, Event, Geometry, Hull, HullShape, Intent, Level, Piece, Refusal, Tuning,
    Zone,
};

fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.6, depth: 0.5, height: 1.6, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()]
}

/// How deep the body is in a piece, in metres; below 0 outside.
pub fn depth<V: Geometry>(body: &Controller<V>, level: &Level<V>) -> f32 {
    let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
    let patch = Patch::gather(body.state().frame(), &body.present_hull(), nowhere, level);
    patch.overlap(V::ZERO, |_| false).map_or(f32::NEG_INFINITY, |overlap| -overlap.distance)
}

/// A corridor along x, `width` m wide, with zones in it.
pub fn corridor<V: Geometry>(height: f32, zones: &[(f32, f32, V)]) -> Level<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    let mut block = |min, max| {
        builder.add(Piece::block(min, max).unwrap());
    };
    block(corner(-30.0, -1.0, -3.0), corner(30.0, 0.0, 3.0));
    block(corner(-30.0, height, -3.0), corner(30.0, height + 1.0, 3.0));
    if V::DIMENSION == 3 {
        block(corner(-30.0, -1.0, -1.5), corner(30.0, height + 1.0, -0.5));
        block(corner(-30.0, -1.0, 0.5), corner(30.0, height + 1.0, 1.5));
    }
    block(corner(-31.0, -1.0, -3.0), corner(-30.0, height + 1.0, 3.0));
    block(corner(30.0, -1.0, -3.0), corner(31.0, height + 1.0, 3.0));
    for &(from, to, up) in zones {
        let (min, max) = (corner(from, -1.0, -3.0), corner(to, height + 1.0, 3.0));
        builder.add_zone(Zone::new(min, max, Effect::Gravity { up }));
    }
    builder.build().unwrap()
}

#[test]
fn a_body_without_room_to_turn_waits_and_reports_it_once() {
    fn waits<V: Geometry>() {
        // As high as it stands, and not long enough to lie across.
        let across = if V::DIMENSION == 3 { V::from_array([0.0, 0.0, 1.0]) } else { V::UP };
        if V::DIMENSION == 2 {
            return;
        }
        let level = corridor::<V>(2.2, &[(2.0, 6.0, across)]);
        for hull in hulls().into_iter().filter(|hull| hull.height() > 1.0) {
            let mut run = Run::new(Tuning::default(), hull, V::UP * 0.01, 60);
            run.body.find_footing(&level);
            for _ in 0..180 {
                run.tick(&level, Intent::steering(1.0, 0.0));
                assert!(depth(&run.body, &level) < 1e-3, "{hull:?}: {:?}", run.body.state());
            }
            let refused = |event: &&(usize, Event<V>)| event.1 == Event::Refused { what: Refusal::UP };
            assert_eq!(run.events.iter().filter(refused).count(), 1, "{hull:?}");
            assert_eq!((run.count("crushed"), run.body.state().up), (0, V::UP));
            assert!(run.body.position().component(0) > 7.0, "it walks through");
        }
    }
    waits::<Vec3>();
}

#[test]
fn a_body_in_a_corridor_that_is_turned_stays_inside_it() {
    fn stays<V: Geometry>() {
        let mut turned = 0;
        for hull in hulls() {
            for height in [1.0, 1.3, 1.9, 2.2, 4.0] {
                for angle in [30.0f32, 90.0, 135.0, 180.0, 250.0] {
                    if hull.height() > height - 0.02 {
                        continue;
                    }
                    let (sine, cosine) = angle.to_radians().sin_cos();
                    let up = V::RIGHT * sine + V::UP * cosine;
                    let level = corridor::<V>(height, &[(2.0, 6.0, up)]);
                    let mut run = Run::new(Tuning::default(), hull, V::UP * 0.01, 60);
                    run.body.find_footing(&level);
                    for tick in 0..400 {
                        let steer = if tick % 130 < 90 { 1.0 } else { -1.0 };
                        run.tick(&level, Intent::steering(steer, 0.0));
                        let deep = depth(&run.body, &level);
                        assert!(deep < 1e-3, "{hull:?} {height} {angle} tick {tick}: {deep} m");
                        turned += usize::from(run.body.state().up != V::UP);
                    }
                    assert_eq!(run.count("crushed"), 0, "{hull:?} {height} {angle}");
                }
            }
        }
        assert!(turned > 1000, "{turned} ticks turned");
    }
    stays::<Vec2>();
    stays::<Vec3>();
}

/// Rubble that a body hardly fits between.
trait Rubble: Geometry {
    fn rubble(dice: &mut Dice) -> Piece<Self>;
}

impl Rubble for Vec2 {
    fn rubble(dice: &mut Dice) -> Piece<Vec2> {
        let half = Vec2::new(dice.number(0.2, 1.5), dice.number(0.1, 0.8));
        Piece::turned_rectangle(dice.vector::<Vec2>(9.0), half, dice.number(0.0, 3.0)).unwrap()
    }
}

impl Rubble for Vec3 {
    fn rubble(dice: &mut Dice) -> Piece<Vec3> {
        let half = Vec3::splat(0.2) + dice.vector::<Vec3>(1.2).abs();
        let turn = Quat::from_axis_angle(dice.direction(), dice.number(0.0, 3.0));
        Piece::turned_box(dice.vector::<Vec3>(6.0), half, turn).unwrap()
    }
}

#[test]
fn in_rubble_with_zones_of_any_up_no_body_is_inside() {
    fn never<V: Rubble>(seeds: u64) {
        for seed in 0..seeds {
            let mut dice = Dice(seed);
            let mut builder = Level::builder();
            for _ in 0..if V::DIMENSION == 2 { 45 } else { 60 } {
                builder.add(V::rubble(&mut dice));
            }
            for axis in 0..V::DIMENSION {
                for side in [-12.0, 11.0] {
                    let (mut min, mut max) = ([-12.0; 3], [12.0; 3]);
                    (min[axis], max[axis]) = (side, side + 1.0);
                    builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
                }
            }
            for _ in 0..8 {
                let at: V = dice.vector(9.0);
                let effect = Effect::Gravity { up: dice.direction() };
                builder.add_zone(Zone::new(at, at + V::splat(dice.number(1.0, 4.0)), effect));
            }
            let level = builder.build().unwrap();
            let hull = hulls()[dice.below(4)];
            let tuning = any_tuning(&mut dice, V::DIMENSION);
            let mut body = Controller::new(tuning, hull, dice.vector::<V>(8.0));
            let mut intent = Intent::default();
            let mut outside = false;
            for tick in 0..1500 {
                intent = any_intent(&mut dice, &intent);
                body.tick(&intent, &level, 1.0 / 60.0);
                let deep = depth(&body, &level);
                // It may be put into something at first.
                outside |= body.state().carry_over.crushed.is_none() && deep < 0.0;
                let put = body.events().iter().any(|event| matches!(event, Event::Respawned));
                assert!(
                    !outside || put || deep < 1e-3,
                    "seed {seed} tick {tick}: {deep} m, {:?} {:?}",
                    body.state(),
                    body.events()
                );
                assert!(!outside || body.state().carry_over.crushed.is_none(), "seed {seed} tick {tick}");
            }
        }
    }
    never::<Vec2>(60);
    never::<Vec3>(60);
}

/// Round a planet: up is away from its middle in every tick.
#[test]
fn a_body_walks_round_a_planet_and_jumps_on_it() {
    fn round<V: Geometry>() {
        let mut builder = Level::builder();
        builder.add(Piece::ball(V::ZERO, 12.0).unwrap());
        let level: Level<V> = builder.build().unwrap();
        for hull in hulls() {
            for rate in [30, 60, 144] {
                let mut run = Run::new(Tuning::default(), hull, V::UP * (12.0 + hull.clearance()), rate);
                run.body.find_footing(&level);
                let mut went = 0.0;
                for tick in 0..12 * rate {
                    let before = run.body.position();
                    assert!(run.body.turn_up(before, &level));
                    run.tick(&level, Intent::steering(1.0, 0.0));
                    went += (run.body.position() - before).length();
                    let state = run.body.state();
                    assert!(state.footing.is_firm(), "{hull:?} {rate}/s tick {tick}: {:?}", run.events);
                    assert!(depth(&run.body, &level) < 1e-3, "{hull:?} {rate}/s tick {tick}");
                }
                let events = run.events.iter().filter(|(_, event)| event.name() != "footfall").count();
                assert_eq!(events, 0, "{hull:?} {rate}/s: {:?}", run.events);
                assert!((went - 48.0).abs() < 2.0, "{hull:?} {rate}/s: {went} m");
                run.tick(&level, Intent::default().pressing(Actions::JUMP));
                for _ in 0..2 * rate {
                    assert!(run.body.turn_up(run.body.position(), &level));
                    run.tick(&level, Intent::default().holding(Actions::JUMP));
                }
                assert_eq!(
                    (run.count("jumped"), run.count("landed")),
                    (1, 1),
                    "{hull:?} {rate}/s: {:?}",
                    run.events
                );
            }
        }
    }
    round::<Vec2>();
    round::<Vec3>();
}

/// Up turned by any angle at once: through no floor, and never inside it.
#[test]
fn a_sudden_change_of_up_moves_no_body_through_a_floor() {
    fn check<V: Geometry>() {
        let level = crate::common::floor::<V>(30.0);
        for hull in hulls() {
            for degrees in [5.0f32, 20.0, 45.0, 60.0, 90.0, 120.0, 180.0, 250.0] {
                let (sine, cosine) = degrees.to_radians().sin_cos();
                let mut run = Run::new(Tuning::default(), hull, V::UP * hull.clearance(), 60);
                run.body.find_footing(&level);
                let turned = run.body.turn_up(V::RIGHT * sine + V::UP * cosine, &level);
                assert!(turned, "{hull:?} {degrees}");
                for tick in 0..60 {
                    let deep = depth(&run.body, &level);
                    assert!(deep < 1e-3, "{hull:?} {degrees} tick {tick}: {deep} m");
                    let middle = run.body.state().position + run.body.state().up * (0.5 * hull.height());
                    assert!(middle.height() > 0.0, "{hull:?} {degrees} tick {tick}: above the floor");
                    run.tick(&level, Intent::default());
                }
            }
        }
        let mut body = Controller::new(Tuning::default(), capsule(), V::UP * 3.0);
        assert!(!body.turn_up(V::ZERO, &level), "no direction");
    }
    check::<Vec2>();
    check::<Vec3>();
}
