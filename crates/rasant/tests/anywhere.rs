//! Random levels, random motions, up to 500 m/s: what must hold in every tick.

use crate::common::Dice;
use rasant::contact::Patch;
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::Sides;
use rasant::space::Bounds;
use rasant::{
    Actions, Controller, Geometry, Hull, HullShape, Intent, Layers, Level, Piece, State, SurfaceId, Tuning,
};

/// Levels, runs in each, ticks in each run: 240,000 ticks a dimension.
const LEVELS: usize = 60;
const RUNS: usize = 20;
const TICKS: usize = 200;
const DT: f32 = 1.0 / 60.0;

trait Anywhere: Geometry {
    fn clutter(dice: &mut Dice) -> Level<Self>;
}

impl Anywhere for Vec2 {
    fn clutter(dice: &mut Dice) -> Level<Vec2> {
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec2::new(-20.0, -3.0), Vec2::new(20.0, -2.0)).unwrap());
        for _ in 0..30 {
            let at: Vec2 = dice.vector(9.0);
            let piece = match dice.below(4) {
                0 => Piece::block(at, at + Vec2::new(dice.number(0.05, 3.0), dice.number(0.05, 2.0))),
                1 => Piece::ball(at, dice.number(0.1, 1.5)),
                2 => Piece::segment(at, at + dice.direction::<Vec2>() * dice.number(0.2, 4.0), Sides::Both),
                _ => Piece::polygon(&[
                    at,
                    at + dice.direction::<Vec2>() * 2.0,
                    at + dice.direction::<Vec2>() * 3.0,
                ]),
            };
            if let Ok(piece) = piece {
                builder.add(piece);
            }
        }
        builder.build().unwrap()
    }
}

impl Anywhere for Vec3 {
    fn clutter(dice: &mut Dice) -> Level<Vec3> {
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec3::new(-20.0, -3.0, -20.0), Vec3::new(20.0, -2.0, 20.0)).unwrap());
        for _ in 0..40 {
            let at: Vec3 = dice.vector(7.0);
            let piece = match dice.below(4) {
                0 => Piece::block(at, at + Vec3::splat(0.1) + dice.vector::<Vec3>(2.0).abs()),
                1 => Piece::ball(at, dice.number(0.1, 1.5)),
                2 => {
                    let half = Vec3::splat(0.05) + dice.vector::<Vec3>(1.2).abs();
                    Piece::turned_box(
                        at,
                        half,
                        Quat::from_axis_angle(dice.direction(), dice.number(0.0, 3.0)),
                    )
                }
                _ => {
                    let points: Vec<Vec3> = (0..6).map(|_| at + dice.vector::<Vec3>(1.5)).collect();
                    Piece::solid(&points)
                }
            };
            builder.add(piece.unwrap());
        }
        let columns = 12;
        let grid = rasant::level::HeightGrid {
            corner: Vec3::new(-8.0, -2.5, -8.0),
            spacing: Vec2::splat(1.4),
            columns,
            heights: (0..columns * columns).map(|_| dice.number(0.0, 1.5)).collect(),
        };
        builder.add_heights(&grid, SurfaceId::default(), Layers::GROUND).unwrap();
        builder.build().unwrap()
    }
}

fn hull(dice: &mut Dice) -> Hull {
    let radius = dice.number(0.1, 0.5);
    Hull::new(match dice.below(5) {
        0 | 1 => HullShape::Capsule { radius, height: 2.0 * radius + dice.number(0.0, 1.4) },
        2 => HullShape::Ball { radius },
        3 => HullShape::Box { width: radius, depth: radius * 1.5, height: 1.0, rounding: 0.0 },
        _ => HullShape::Box { width: radius, depth: radius * 1.5, height: 1.0, rounding: 0.4 * radius },
    })
    .unwrap()
}

fn gap<V: Geometry>(state: &State<V>, hull: &Hull, level: &Level<V>) -> f32 {
    let patch = Patch::gather(state.frame(), hull, Bounds { min: V::ZERO, max: V::ZERO }, level);
    patch.nearest(V::ZERO, 0.02).map_or(f32::INFINITY, |nearest| nearest.distance)
}

/// A body somewhere free, with any velocity.
fn somewhere<V: Anywhere>(dice: &mut Dice, hull: Hull, level: &Level<V>) -> Controller<V> {
    let mut tuning = Tuning::default();
    tuning.fall.terminal_speed = 600.0;
    loop {
        let mut body = Controller::new(tuning, hull, dice.vector::<V>(8.0));
        if gap(body.state(), &hull, level) > 0.01 {
            let speed = [0.0, 5.0, 50.0, 500.0][dice.below(4)];
            let state = State { velocity: dice.direction::<V>() * speed, ..*body.state() };
            body.restore(state);
            return body;
        }
    }
}

fn holds_anywhere<V: Anywhere>(seed: u64) {
    let mut dice = Dice(seed);
    let mut nearest = f32::INFINITY;
    for number in 0..LEVELS {
        let level = V::clutter(&mut dice);
        for run in 0..RUNS {
            let hull = hull(&mut dice);
            let mut body = somewhere(&mut dice, hull, &level);
            let mut intent = Intent::default();
            for tick in 0..TICKS {
                if tick % 25 == 0 {
                    let steer: Vec2 = dice.vector(1.0);
                    intent = Intent::steering(steer.x, steer.y);
                }
                let now = if dice.below(30) == 0 { intent.pressing(Actions::JUMP) } else { intent };
                let before = *body.state();
                body.tick(&now, &level, DT);
                let after = *body.state();
                let here = format!("level {number}, run {run}, tick {tick}: {hull:?}\n{before:?}\n{after:?}");
                assert!(after.position.is_finite() && after.velocity.is_finite(), "{here}");
                let gap = gap(&after, &hull, &level);
                nearest = nearest.min(gap);
                assert!(gap > 0.0, "{gap} m inside, {here}");
                not_faster_than_the_limit(&body, &before, &after, &here);
            }
            if body.state().footing.is_firm() {
                moves_where_there_is_a_gap(&mut dice, &mut body, &level);
            }
        }
    }
    println!("nearest gap {nearest} m");
}

fn not_faster_than_the_limit<V: Geometry>(
    body: &Controller<V>,
    before: &State<V>,
    after: &State<V>,
    here: &str,
) {
    let tuning = &body.tuning;
    let asked =
        before.velocity.length().max(tuning.walk.speed) + tuning.take_off_speed() + tuning.gravity() * DT;
    assert!(after.velocity.length() <= asked + 1e-3, "{} m/s gained, {here}", after.velocity.length());
    // Steps lift the feet at once, and put them forward by a hair; eight of
    // them at most in a tick.
    let slope = &tuning.slope;
    let displacement = after.position - before.position;
    let hair = 8.0 * 4.0 * body.hull.clearance();
    assert!(displacement.flat().length() <= asked * DT + hair, "{displacement:?} in a tick, {here}");
    let steps = 8.0 * slope.step_height.max(slope.ground_snap);
    assert!(displacement.height().abs() <= asked * DT + steps, "{displacement:?} in a tick, {here}");
}

/// Steered in one direction for a second, a body on foot moves unless there is an obstacle within a
/// few centimetres.
fn moves_where_there_is_a_gap<V: Anywhere>(dice: &mut Dice, body: &mut Controller<V>, level: &Level<V>) {
    let steer: Vec2 = if V::DIMENSION == 2 { Vec2::X } else { dice.direction() };
    let before = *body.state();
    let mut furthest = 0.0f32;
    for _ in 0..60 {
        body.tick(&Intent::steering(steer.x, steer.y), level, DT);
        furthest = furthest.max((body.position() - before.position).length());
    }
    if furthest < 0.02 {
        let ahead = if V::DIMENSION == 2 { V::RIGHT } else { V::RIGHT * steer.x + V::FORWARD * steer.y };
        let normal = before.footing.normal;
        let along = (ahead - V::UP * (normal.dot(ahead) / normal.height())).direction().unwrap();
        let reach = Bounds { min: V::splat(-0.2), max: V::splat(0.2) };
        let patch = Patch::gather(body.state().frame(), &body.hull, reach, level);
        let free = patch.sweep(V::ZERO, along * 0.1).map_or(1.0, |hit| hit.time);
        assert!(
            free < 0.3,
            "stuck with {} m free ahead: {:?} {steer} {:?}",
            free * 0.1,
            body.hull,
            body.state()
        );
    }
}

#[test]
fn in_the_plane_no_tick_ends_inside_a_piece_or_faster_than_the_limit() {
    holds_anywhere::<Vec2>(21);
}

#[test]
fn in_space_no_tick_ends_inside_a_piece_or_faster_than_the_limit() {
    holds_anywhere::<Vec3>(31);
}
