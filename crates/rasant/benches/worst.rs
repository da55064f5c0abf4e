//! Prints the second table of `docs/benchmarks.md`: the longest ticks, and the cost of crowded
//! places and of large levels.
//!
//! `cargo bench -p rasant --bench worst`
#![allow(missing_docs)]

#[path = "../tests/common/mod.rs"]
mod common;
mod scenes;

use std::hint::black_box;
use std::time::Instant;

use common::Dice;
use common::surfaces::{SURFACES, Surface};
use rasant::contact::Patch;
use rasant::glam::{Vec2, Vec3};
use rasant::level::Placement;
use rasant::space::Bounds;
use rasant::state::Events;
use rasant::{
    Actions, Carrier, CarrierId, Effect, Hull, Intent, Keyframe, Layers, Level, PathEnd, Piece, State,
    SurfaceId, Tuning, Zone,
};
use scenes::{BODIES, Crowd, DT, rolling};

fn mesh_level(surface: Surface, width: f32) -> Level<Vec3> {
    let (corners, triangles) = surface.mesh(width);
    let mut builder = Level::builder();
    builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    builder.build().unwrap()
}

/// Returns the shortest of several measurements of one tick, in nanoseconds. A tick that is slow by
/// itself is slow each time; disturbances by the machine are not repeated.
fn time_of(tick: impl Fn(&mut State<Vec3>, &mut Events<Vec3>), state: &mut State<Vec3>) -> f64 {
    const TRIES: usize = 4;
    let before = *state;
    let mut events = Events::new();
    let mut best = f64::INFINITY;
    for _ in 0..TRIES {
        *state = before;
        let start = Instant::now();
        tick(black_box(state), &mut events);
        best = best.min(start.elapsed().as_secs_f64() * 1e9);
    }
    best
}

/// Returns the times of all ticks of bodies that walk and jump on closed meshes.
fn tail(hull: Hull, bodies: usize) -> Vec<f64> {
    let tuning = Tuning::default();
    let mut dice = Dice(11);
    let mut times = Vec::new();
    for surface in SURFACES {
        let width = 40.0;
        let level = mesh_level(surface, width);
        for body in 0..bodies {
            let mut state = loop {
                let state = State::at(dice.vector::<Vec3>(0.48 * width));
                let here = Bounds { min: Vec3::ZERO, max: Vec3::ZERO };
                let patch = Patch::gather(state.frame(), &hull, here, &level);
                if patch.nearest(Vec3::ZERO, 0.05).is_none_or(|near| near.distance > 0.01) {
                    break state;
                }
            };
            let rate = [30.0, 60.0, 144.0][body % 3];
            let mut intent = Intent::default();
            for tick in 0..(8.0 * rate) as usize {
                if tick % (0.5 * rate) as usize == 0 {
                    let angle = dice.number(0.0, 6.3);
                    intent = Intent::steering(angle.cos(), angle.sin());
                }
                let now = if dice.bits().is_multiple_of(rate as u64) {
                    intent.pressing(Actions::JUMP)
                } else {
                    intent
                };
                times.push(time_of(
                    |state, events| {
                        rasant::controller::tick_into(&tuning, &hull, state, &now, &level, 1.0 / rate, events)
                    },
                    &mut state,
                ));
                if state.position.length() > 2.0 * width {
                    break;
                }
            }
        }
    }
    times.sort_by(f64::total_cmp);
    times
}

fn tails() {
    println!("| ticks on closed meshes | count | median | 99th percentile | worst | of the median |");
    println!("| --- | --- | --- | --- | --- | --- |");
    let hulls =
        [("capsule", Hull::capsule(0.35, 1.8).unwrap()), ("box", Hull::upright_box(0.7, 1.8).unwrap())];
    for (name, hull) in hulls {
        let times = tail(hull, 60);
        let median = times[times.len() / 2];
        let p99 = times[times.len() * 99 / 100];
        let worst = times[times.len() - 1];
        let ratios = format!("{:.1} x, {:.0} x", p99 / median, worst / median);
        println!("| {name} | {} | {median:.0} ns | {p99:.0} ns | {worst:.0} ns | {ratios} |", times.len());
    }
    println!();
}

/// Returns the nanoseconds per tick of a crowd on a level, in the fastest round.
fn crowd_tick(level: &Level<Vec3>, crowd: &Crowd<Vec3>) -> f64 {
    const TICKS: usize = 8;
    let mut walking = crowd.clone();
    (0..8)
        .map(|_| {
            walking.bodies.clone_from_slice(&crowd.bodies);
            let start = Instant::now();
            for _ in 0..TICKS {
                walking.tick(level);
            }
            start.elapsed().as_secs_f64() * 1e9 / (BODIES * TICKS) as f64
        })
        .fold(f64::INFINITY, f64::min)
}

/// A floor with small boxes all round a body at the origin.
fn clutter(count: usize) -> Level<Vec3> {
    let mut dice = Dice(3);
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec3::new(-50.0, -1.0, -50.0), Vec3::new(50.0, 0.0, 50.0)).unwrap());
    for _ in 0..count {
        let (angle, far) = (dice.number(0.0, 6.3), dice.number(0.42, 0.6));
        let at = Vec3::new(far * angle.cos(), dice.number(0.1, 1.5), far * angle.sin());
        let half = Vec3::splat(0.02);
        builder.add(Piece::block(at - half, at + half).unwrap());
    }
    builder.build().unwrap()
}

fn crowded() {
    println!("| small boxes within reach | tick | of a plain tick |");
    println!("| --- | --- | --- |");
    let tuning = Tuning::default();
    for (name, hull) in
        [("capsule", Hull::capsule(0.35, 1.8).unwrap()), ("box", Hull::upright_box(0.55, 1.8).unwrap())]
    {
        let mut plain = 0.0;
        for count in [0, 16, 64, 256] {
            let level = clutter(count);
            let mut state = State::at(Vec3::Y * 0.005);
            let mut events = Events::new();
            let mut total = 0.0;
            for tick in 0..400 {
                let angle = tick as f32 * 0.7;
                let intent = Intent::steering(0.5 * angle.cos(), 0.5 * angle.sin());
                rasant::controller::tick_into(&tuning, &hull, &mut state, &intent, &level, DT, &mut events);
                total += time_of(
                    |state, events| {
                        rasant::controller::tick_into(&tuning, &hull, state, &intent, &level, DT, events)
                    },
                    &mut state.clone(),
                );
            }
            let tick = total / 400.0;
            if count == 0 {
                plain = tick;
            }
            println!("| {name}, {count} | {tick:.0} ns | {:.1} |", tick / plain);
        }
    }
    println!();
}

/// The rolling ground, with carriers and zones all over it, far above the bodies.
fn with_elsewhere(carriers: usize, zones: usize) -> Level<Vec3> {
    let (vertices, triangles) = rolling(128);
    let mut dice = Dice(5);
    let mut builder = Level::builder();
    builder.add_mesh(&vertices, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    for _ in 0..carriers {
        let at = dice.vector::<Vec3>(60.0) + Vec3::Y * 90.0;
        let key = |time, offset| Keyframe::new(time, offset);
        let path = vec![key(0.0, at), key(2.0, at + dice.vector::<Vec3>(3.0))];
        let carrier = builder.add_carrier(Carrier::on_path(path, PathEnd::BackAndForth));
        let half = Vec3::new(1.0, 0.1, 1.0);
        builder.add(Piece::block(-half, half).unwrap().riding(carrier));
    }
    for _ in 0..zones {
        let at = dice.vector::<Vec3>(60.0) + Vec3::Y * 90.0;
        builder.add_zone(Zone::new(at, at + Vec3::ONE, Effect::Goal));
    }
    builder.build().unwrap()
}

fn elsewhere() {
    println!("| elsewhere | tick | of a plain tick |");
    println!("| --- | --- | --- |");
    let plain = with_elsewhere(0, 0);
    let crowd = Crowd::on(&plain, 55.0);
    let base = crowd_tick(&plain, &crowd);
    for (carriers, zones) in [(0, 0), (100, 0), (1000, 0), (10_000, 0), (0, 100), (0, 1000), (0, 10_000)] {
        let mut level = with_elsewhere(carriers, zones);
        level.advance(DT);
        let again = crowd_tick(&plain, &crowd).min(base);
        let tick = crowd_tick(&level, &crowd);
        println!("| {carriers} carriers, {zones} zones | {tick:.0} ns | {:.2} |", tick / again);
    }
    println!();
    let mut level = with_elsewhere(10_000, 0);
    let rounds: Vec<f64> = (0..40)
        .map(|_| {
            let start = Instant::now();
            for _ in 0..20 {
                level.advance(DT);
            }
            start.elapsed().as_secs_f64() * 1e9 / (20.0 * 10_000.0)
        })
        .collect();
    let mut sorted = rounds.clone();
    sorted.sort_by(f64::total_cmp);
    println!("`advance`: {:.1} ns a moving carrier, {:.1} at worst.", sorted[20], sorted[39]);
    let mut builder = Level::<Vec2>::builder();
    for _ in 0..10_000 {
        let carrier = builder.add_carrier(Carrier::set_by_host());
        builder.add(Piece::block(-Vec2::ONE, Vec2::ONE).unwrap().riding(carrier));
    }
    let mut level = builder.build().unwrap();
    let mut best = f64::INFINITY;
    for tick in 0..200 {
        let start = Instant::now();
        for number in 0..10_000u16 {
            let at = Vec2::new(f32::from(number) * 3.0, (tick as f32 * 0.1 + f32::from(number)).sin() * 4.0);
            level.place(CarrierId(number), Placement::new(at, 0.0));
        }
        level.advance(DT);
        best = best.min(start.elapsed().as_secs_f64() * 1e9 / 10_000.0);
    }
    println!("`place` and `advance`: {best:.1} ns a carrier that the host moves.");
}

fn main() {
    tails();
    crowded();
    elsewhere();
}
