//! Prints the table of `docs/benchmarks.md`: times of this run, as ratios of the cast of a general
//! library measured in the same run.
//!
//! `cargo bench -p rasant --bench budgets`
#![allow(missing_docs)]

mod scenes;

use std::hint::black_box;
use std::time::Instant;

use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, Level, State};
use scenes::{
    BODIES, Crowd, General2, General3, boxes_level, displacement, everything, rolling_level, sweep_once,
};

/// The number of rounds. The compared works alternate, so a slow period of the machine affects
/// both.
const ROUNDS: usize = 40;
/// The number of ticks of each body in a round.
const TICKS: usize = 16;

/// A work to measure: the number of its items in a round, and the round.
type Work<'a> = (usize, Box<dyn FnMut() + 'a>);

/// Nanoseconds per item of a work, for each round.
struct Times(Vec<f64>);

impl Times {
    /// Returns the time of the fastest round, which other programs disturbed least.
    fn best(&self) -> f64 {
        self.0.iter().copied().fold(f64::INFINITY, f64::min)
    }

    /// Returns the median of the ratios to another work, each within its round. A machine that
    /// changes its speed between rounds changes both.
    fn ratio(&self, to: &Self) -> f64 {
        let mut ratios: Vec<f64> = self.0.iter().zip(&to.0).map(|(own, other)| own / other).collect();
        ratios.sort_by(f64::total_cmp);
        ratios[ratios.len() / 2]
    }
}

/// Measures works in alternation, each after a warm-up round.
fn times<const N: usize>(mut works: [Work<'_>; N]) -> [Times; N] {
    let mut all = [const { Times(Vec::new()) }; N];
    for _ in 0..ROUNDS {
        for (times, (count, work)) in all.iter_mut().zip(&mut works) {
            work();
            let start = Instant::now();
            work();
            times.0.push(start.elapsed().as_secs_f64() * 1e9 / *count as f64);
        }
    }
    all
}

fn ticks<'a, V: Geometry>(level: &'a Level<V>, crowd: &'a Crowd<V>) -> Work<'a> {
    let grounded = crowd.grounded();
    assert!(grounded * 100 > BODIES * 95, "only {grounded} of {BODIES} walk");
    let mut walking = crowd.clone();
    let work = move || {
        walking.bodies.clone_from_slice(&crowd.bodies);
        for _ in 0..TICKS {
            walking.tick(level);
        }
    };
    (BODIES * TICKS, Box::new(work))
}

fn casts<'a, V: Geometry>(crowd: &'a Crowd<V>, cast: impl Fn(&State<V>) -> f32 + 'a) -> Work<'a> {
    let work = move || {
        for body in &crowd.bodies {
            black_box(cast(body));
        }
    };
    (BODIES, Box::new(work))
}

fn main() {
    let mesh = rolling_level(128);
    let crowd = Crowd::on(&mesh, 55.0);
    let general = General3::new(128);
    let start = Instant::now();
    let large = rolling_level(1000);
    let build = start.elapsed().as_secs_f64();
    let large_crowd = Crowd::on(&large, 450.0);
    let able_crowd = Crowd::tuned(everything(), &mesh, 55.0);
    let [tick, able_tick, large_tick, own_cast, general_cast] = times([
        ticks(&mesh, &crowd),
        ticks(&mesh, &able_crowd),
        ticks(&large, &large_crowd),
        casts(&crowd, |body| sweep_once(&mesh, body, displacement(body))),
        casts(&crowd, |body| general.cast(body.position, displacement(body))),
    ]);

    let plane = boxes_level();
    let flat_crowd = Crowd::<Vec2>::on(&plane, 370.0);
    let general2 = General2::new();
    let able_flat_crowd = Crowd::<Vec2>::tuned(everything(), &plane, 370.0);
    let [tick2, able_tick2, own_cast2, general_cast2] = times([
        ticks(&plane, &flat_crowd),
        ticks(&plane, &able_flat_crowd),
        casts(&flat_crowd, |body| sweep_once(&plane, body, displacement(body))),
        casts(&flat_crowd, |body| general2.cast(body.position, displacement(body))),
    ]);

    let row = |work: &str, times: &Times, of: &str, base: &Times, budget: &str| {
        let (best, ratio) = (times.best(), times.ratio(base));
        println!("| {work} | {best:.0} ns | {of}: {:.0} ns | {ratio:.3} | {budget} |", base.best());
    };
    println!("| work | time | measured against | ratio | budget |");
    println!("| --- | --- | --- | --- | --- |");
    row("3D tick, walking, 32,768 triangles", &tick, "general capsule cast", &general_cast, "0.125");
    row("3D tick, every move switched on", &able_tick, "general capsule cast", &general_cast, "0.125");
    row("3D gather and sweep", &own_cast, "general capsule cast", &general_cast, "-");
    row("2D tick, walking, 512 boxes", &tick2, "general capsule cast", &general_cast2, "0.4");
    row("2D tick, every move switched on", &able_tick2, "general capsule cast", &general_cast2, "0.4");
    row("2D gather and sweep", &own_cast2, "general capsule cast", &general_cast2, "-");
    row("3D tick, 2,000,000 triangles", &large_tick, "tick on 32,768", &tick, "2");
    println!();
    println!("Building the level of 2,000,000 triangles: {build:.2} s, mesh generation included.");
    println!(
        "A state is {} bytes in three dimensions and {} in two; budget 512.",
        size_of::<State<Vec3>>(),
        size_of::<State<Vec2>>()
    );
    println!(
        "Bodies in one 60 Hz frame on one core: {:.0} in three dimensions, {:.0} in two.",
        1e9 / 60.0 / tick.best(),
        1e9 / 60.0 / tick2.best()
    );
}
