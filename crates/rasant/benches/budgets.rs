//! Prints the table of `docs/benchmarks.md`: times of this run, as ratios of a
//! general library's cast measured in the same run.
//!
//! `cargo bench -p rasant --bench budgets`
#![allow(missing_docs)]

mod scenes;

use std::hint::black_box;
use std::time::Instant;

use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Geometry, Level, State};
use scenes::{BODIES, Crowd, General2, General3, boxes_level, rolling_level, sweep_once, way};

/// Rounds of which the quickest counts: the rest is the machine's other work.
const ROUNDS: usize = 15;

/// Nanoseconds for each of `count` things done by `work`.
fn nanos(count: usize, mut work: impl FnMut()) -> f64 {
    work();
    let rounds = (0..ROUNDS).map(|_| {
        let start = Instant::now();
        work();
        start.elapsed().as_secs_f64()
    });
    rounds.fold(f64::INFINITY, f64::min) * 1e9 / count as f64
}

fn tick_time<V: Geometry>(level: &Level<V>, reach: f32) -> f64 {
    let mut crowd = Crowd::on(level, reach);
    let start: Vec<State<V>> = crowd.bodies.iter().map(|body| *body.state()).collect();
    let afoot = crowd.afoot();
    assert!(afoot * 100 > BODIES * 95, "only {afoot} of {BODIES} walk");
    const TICKS: usize = 20;
    nanos(BODIES * TICKS, || {
        for (body, state) in crowd.bodies.iter_mut().zip(&start) {
            body.restore(*state);
        }
        for _ in 0..TICKS {
            crowd.tick(level);
        }
    })
}

fn cast_time<V: Geometry>(crowd: &Crowd<V>, cast: impl Fn(&Controller<V>) -> f32) -> f64 {
    nanos(BODIES, || {
        for body in &crowd.bodies {
            black_box(cast(body));
        }
    })
}

fn main() {
    let mesh = rolling_level(128);
    let crowd = Crowd::on(&mesh, 55.0);
    let general = General3::new(128);
    let general_cast = cast_time(&crowd, |body| general.cast(body.position(), way(body)));
    let own_cast = cast_time(&crowd, |body| sweep_once(&mesh, body, way(body)));
    let tick = tick_time(&mesh, 55.0);

    let plane = boxes_level();
    let flat_crowd = Crowd::<Vec2>::on(&plane, 370.0);
    let general2 = General2::new();
    let general_cast2 = cast_time(&flat_crowd, |body| general2.cast(body.position(), way(body)));
    let own_cast2 = cast_time(&flat_crowd, |body| sweep_once(&plane, body, way(body)));
    let tick2 = tick_time(&plane, 370.0);

    let start = Instant::now();
    let large = rolling_level(1000);
    let build = start.elapsed().as_secs_f64();
    let large_tick = tick_time(&large, 450.0);

    let row = |work: &str, time: f64, of: &str, base: f64, budget: &str| {
        println!("| {work} | {time:.0} ns | {of}: {base:.0} ns | {:.3} | {budget} |", time / base);
    };
    println!("| work | time | measured against | ratio | budget |");
    println!("| --- | --- | --- | --- | --- |");
    row("3D tick, walking, 32,768 triangles", tick, "general capsule cast", general_cast, "0.125");
    row("3D gather and sweep", own_cast, "general capsule cast", general_cast, "-");
    row("2D tick, walking, 512 boxes", tick2, "general capsule cast", general_cast2, "0.4");
    row("2D gather and sweep", own_cast2, "general capsule cast", general_cast2, "-");
    row("3D tick, 2,000,000 triangles", large_tick, "tick on 32,768", tick, "2");
    println!();
    println!("Building the level of 2,000,000 triangles: {build:.2} s, mesh generation included.");
    println!(
        "A state is {} bytes in three dimensions and {} in two; budget 512.",
        size_of::<State<Vec3>>(),
        size_of::<State<Vec2>>()
    );
    println!(
        "Bodies in one 60 Hz frame on one core: {:.0} in three dimensions, {:.0} in two.",
        1e9 / 60.0 / tick,
        1e9 / 60.0 / tick2
    );
}
