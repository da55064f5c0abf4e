//! A tick takes nothing from the heap, and a state is small.

mod common;

use std::alloc::System;

use common::lives::{any_intent, any_tuning, meddle};
use common::{Dice, Run, blocks, hulls};
use rasant::contact::Queries;
use rasant::glam::{Vec2, Vec3};
use rasant::{
    Actions, Carrier, Controller, Effect, Geometry, Hull, Intent, Keyframe, Layers, Level, PathEnd, Piece,
    State, SurfaceId, Tuning, Zone,
};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static HEAP: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

fn cluttered<V: Geometry>() -> Level<V> {
    let mut corners = vec![([-40.0, -1.0, -40.0], [40.0, 0.0, 40.0])];
    for i in 0..40 {
        let (x, z) = ((i * 7 % 40) as f32 - 20.0, (i * 13 % 40) as f32 - 20.0);
        let height = 0.2 + (i % 9) as f32 * 0.2;
        corners.push(([x, 0.0, z], [x + 0.8, height, z + 0.8]));
    }
    blocks(&corners)
}

/// A closed mesh, like a sack with a hollow floor, whose cells are `cell` wide.
fn dense(cell: f32) -> Level<Vec3> {
    let count = (12.0 / cell) as u32;
    let height = |x: f32, z: f32| 0.25 * (1.7 * x).sin() * (1.3 * z).cos();
    let (mut corners, mut triangles) = (Vec::new(), Vec::new());
    for side in [0.0, 3.0] {
        let first = corners.len() as u32;
        for i in 0..=count {
            for k in 0..=count {
                let (x, z) = (i as f32 * cell - 6.0, k as f32 * cell - 6.0);
                let edge = i == 0 || k == 0 || i == count || k == count;
                corners.push(Vec3::new(x, if edge { 1.5 } else { height(x, z) + side }, z));
                if i > 0 && k > 0 {
                    let at = |i: u32, k: u32| first + i * (count + 1) + k;
                    let [a, b, c, d] = [at(i - 1, k - 1), at(i, k - 1), at(i - 1, k), at(i, k)];
                    triangles.extend([[a, c, b], [b, c, d]]);
                }
            }
        }
    }
    let mut builder = Level::builder();
    builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    builder.build().unwrap()
}

/// Many pieces, carriers and zones at one place, and outlines of many corners.
fn crowded<V: Crowded>() -> Level<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    builder.add(Piece::block(corner(-40.0, -1.0, -40.0), corner(40.0, 0.0, 40.0)).unwrap());
    for number in 0..30 {
        let x = number as f32 * 0.2 - 3.0;
        let path = [0.0, 2.0].map(|time| Keyframe::new(time, V::UP * (0.3 * time)).turned(0.2 * time));
        let carrier = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth));
        builder.add(Piece::block(corner(x, 0.0, -1.0), corner(x + 0.15, 0.3, 1.0)).unwrap().riding(carrier));
        builder.add_zone(Zone::new(corner(x, 0.0, -2.0), corner(x + 2.0, 3.0, 2.0), Effect::Own(number)));
        builder.add(V::round(corner(5.0 * x, -0.3, 0.0), 0.8));
    }
    builder.build().unwrap()
}

trait Crowded: Geometry {
    /// A round piece of as many corners as a piece can have.
    fn round(at: Self, size: f32) -> Piece<Self>;
}

impl Crowded for Vec2 {
    fn round(at: Vec2, size: f32) -> Piece<Vec2> {
        let corner = |i: u8| at + Vec2::from_angle(f32::from(i) * std::f32::consts::TAU / 64.0) * size;
        Piece::polygon(&(0..64).map(corner).collect::<Vec<_>>()).unwrap()
    }
}

impl Crowded for Vec3 {
    fn round(at: Vec3, size: f32) -> Piece<Vec3> {
        let corner = |i: u8| {
            let (sine, cosine) = (f32::from(i / 2) * std::f32::consts::TAU / 24.0).sin_cos();
            at + Vec3::new(cosine, f32::from(i % 2) - 0.5, sine) * size
        };
        Piece::solid(&(0..48).map(corner).collect::<Vec<_>>()).unwrap()
    }
}

fn takes_nothing<V: Geometry>(name: &str, mut level: Level<V>) {
    for (number, hull) in hulls().into_iter().enumerate() {
        let mut usual = Tuning::default();
        usual.ledge.reach = 0.3;
        usual.jump.corner = 0.2;
        // All moves, with numbers at random.
        let any = any_tuning(&mut Dice(number as u64 + 7), V::DIMENSION);
        for tuning in [usual, any] {
            // The test runner's own thread allocates now and then; allocations by ticks would occur
            // each time.
            let is_none = (0..5).any(|_| allocations_in_ticks(&mut level, tuning, hull) == 0);
            assert!(is_none, "{name}, {} dimensions, {hull:?}, {tuning:?}", V::DIMENSION);
        }
    }
}

/// A place for every move: a pool, a ladder, a ledge, wind, mud and something that moves.
fn harbour<V: Geometry>() -> Level<V> {
    let corner = |x, y, z| V::from_array([x, y, z]);
    let mut builder = Level::builder();
    for (from, to) in [
        (corner(-40.0, -3.0, -40.0), corner(40.0, -2.0, 40.0)),
        (corner(-40.0, -2.0, -40.0), corner(3.0, 0.0, 40.0)),
        (corner(-8.0, 0.0, -40.0), corner(-6.0, 2.4, 40.0)),
        (corner(9.0, -2.0, -40.0), corner(40.0, 0.3, 40.0)),
    ] {
        builder.add(Piece::block(from, to).unwrap());
    }
    let path = [0.0, 2.0].map(|time| Keyframe::new(time, V::RIGHT * time));
    let ferry = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth));
    builder.add(Piece::block(corner(4.0, -0.4, -2.0), corner(6.0, -0.1, 2.0)).unwrap().riding(ferry));
    let ladder = Effect::Ladder { front: V::ZERO };
    builder.add_zone(Zone::new(corner(-6.0, 0.0, -1.0), corner(-5.0, 2.4, 1.0), ladder));
    builder.add_zone(Zone::new(corner(3.0, -2.0, -40.0), corner(9.0, -0.1, 40.0), Effect::Water));
    builder.add_zone(Zone::new(corner(-3.0, 0.0, -4.0), corner(-1.0, 1.0, 4.0), Effect::Slow { pace: 0.5 }));
    builder.build().unwrap()
}

/// Returns the number of allocations in three thousand ticks. Where more pieces are near than a
/// tick has room for, the body allocates once and keeps the memory; it has been everywhere before.
fn allocations_in_ticks<V: Geometry>(level: &mut Level<V>, tuning: Tuning, hull: Hull) -> usize {
    let mut body = Run::new(tuning, hull, V::UP * 1.2, 60).body;
    let start = *body.state();
    live(&mut body, level);
    body.restore(start);
    level.set_time(0.0, 1.0 / 60.0);
    live(&mut body, level)
}

fn live<V: Geometry>(body: &mut Controller<V>, level: &mut Level<V>) -> usize {
    let (mut taken, mut dice) = (0, Dice(3));
    let mut random = Intent::default();
    for tick in 0..3000 {
        let angle = tick as f32 * 0.013;
        let mut intent = Intent::steering(angle.cos(), angle.sin());
        if tick % 50 == 0 {
            intent = intent.pressing(Actions::JUMP);
        }
        if tick % 300 > 200 {
            intent = intent.holding(Actions::CROUCH);
        }
        // Steered round in the first half, and anything at random in the second.
        if tick >= 1500 {
            random = any_intent(&mut dice, &random);
            intent = random;
            meddle(body, &mut dice);
        }
        level.advance(1.0 / 60.0);
        let region = Region::new(HEAP);
        body.tick(&intent, level, 1.0 / 60.0);
        let change = region.change();
        taken += change.allocations + change.reallocations;
    }
    assert!(body.position().is_finite());
    taken
}

/// Rays, sweeps, overlaps and closest points, in all directions.
fn queries_take_nothing<V: Geometry>(level: &Level<V>) {
    let mut dice = Dice(35);
    for hull in hulls() {
        let mut found = 0;
        let is_none = (0..5).any(|_| {
            let region = Region::new(HEAP);
            for _ in 0..300 {
                let (at, displacement): (V, V) = (dice.vector(20.0), dice.vector(60.0));
                found += usize::from(level.ray(at, displacement, 90.0, Layers::ALL).is_some());
                found += usize::from(level.sweep(&hull, at, displacement, Layers::ALL).is_some());
                found += usize::from(level.closest(at, 9.0, Layers::ALL).is_some());
                level.overlaps(&hull, at, Layers::ALL, |_| found += 1);
            }
            let change = region.change();
            change.allocations + change.reallocations == 0
        });
        assert!(is_none, "{hull:?}");
        assert!(found > 100, "{found}");
    }
}

// One test, so that no other thread uses the heap meanwhile.
#[test]
fn a_tick_takes_nothing_from_the_heap_and_a_state_is_small() {
    takes_nothing("clutter", cluttered::<Vec2>());
    takes_nothing("clutter", cluttered::<Vec3>());
    takes_nothing("harbour", harbour::<Vec2>());
    takes_nothing("harbour", harbour::<Vec3>());
    queries_take_nothing(&harbour::<Vec2>());
    queries_take_nothing(&harbour::<Vec3>());
    queries_take_nothing(&dense(0.5));
    takes_nothing("crowd", crowded::<Vec2>());
    takes_nothing("crowd", crowded::<Vec3>());
    for cell in [0.5, 0.25, 0.15] {
        takes_nothing(&format!("mesh of {cell} m"), dense(cell));
    }
    assert!(size_of::<State<Vec2>>() <= 512);
    assert!(size_of::<State<Vec3>>() <= 512);
    assert!(!std::mem::needs_drop::<State<Vec3>>());
}
