//! Prints what the ticks of a crowd cost, as a ratio of the same ticks of bodies that do not meet,
//! and how much two threads gain.
//!
//! `cargo bench -p rasant --features rayon --bench crowd`
#![allow(missing_docs)]

#[path = "../tests/common/mod.rs"]
mod common;

use std::time::Instant;

use common::{Dice, capsule};
use rasant::glam::Vec3;
use rasant::{Controller, Crowd, CrowdBody, Intent, Level, Piece, Tuning};

const DT: f32 = 1.0 / 60.0;
/// Ticks before anything is measured, and ticks that are measured.
const TICKS: [usize; 2] = [60, 60];

/// A square floor with some low blocks, and bodies on it, this many square metres for each.
fn scene(count: usize, area: f32) -> (Level<Vec3>, Vec<CrowdBody<Vec3>>) {
    let mut dice = Dice(36);
    let per_side = (count as f32).sqrt().ceil() as usize;
    let pitch = area.sqrt();
    let side = pitch * per_side as f32;
    let mut builder = Level::builder();
    let (low, high) = (Vec3::new(-9.0, -1.0, -9.0), Vec3::new(side + 9.0, 0.0, side + 9.0));
    builder.add(Piece::block(low, high).unwrap());
    for _ in 0..count / 20 {
        let at = Vec3::new(dice.number(0.0, side), -0.1, dice.number(0.0, side));
        builder.add(Piece::block(at, at + Vec3::new(1.0, 0.2, 1.0)).unwrap());
    }
    let level = builder.build().unwrap();
    let bodies = (0..count)
        .map(|number| {
            let cell = Vec3::new((number % per_side) as f32, 0.0, (number / per_side) as f32);
            let free = 0.5 * (pitch - 0.75).max(0.0);
            let off = Vec3::new(dice.number(-free, free), 0.2, dice.number(-free, free));
            CrowdBody::new(Tuning::default(), capsule(), cell * pitch + off)
        })
        .collect();
    (level, bodies)
}

/// Where everyone walks: each in a direction of its own, which changes now and then.
fn intents(count: usize, tick: usize) -> Vec<Intent> {
    (0..count)
        .map(|number| {
            let angle = (number * 37 + (tick / 40) * 101) as f32;
            Intent::steering(angle.sin(), angle.cos())
        })
        .collect()
}

enum How {
    Alone,
    Crowd,
    Threads,
    /// In the crowd, without steering.
    Still,
}

/// The seconds per tick.
fn run(count: usize, area: f32, how: &How) -> f64 {
    let (level, bodies) = scene(count, area);
    let mut alone: Vec<Controller<Vec3>> = bodies.iter().map(|body| body.body.clone()).collect();
    let mut crowd = Crowd::new();
    for body in bodies {
        crowd.add(body).unwrap();
    }
    let all: Vec<Vec<Intent>> = (0..TICKS[0] + TICKS[1]).map(|tick| intents(count, tick)).collect();
    let mut start = Instant::now();
    for (tick, wants) in all.iter().enumerate() {
        // The crowd calls for one body after another, in their order.
        let mut next = wants.iter();
        let mut want = || *next.next().unwrap();
        if tick == TICKS[0] {
            start = Instant::now();
        }
        match how {
            How::Alone => {
                for (body, intent) in alone.iter_mut().zip(wants) {
                    body.tick(intent, &level, DT);
                }
            }
            How::Crowd => crowd.tick(&level, DT, |_, _| want()),
            How::Threads => crowd.tick_parallel(&level, DT, |_, _| want()),
            How::Still => crowd.tick(&level, DT, |_, _| Intent::default()),
        }
    }
    start.elapsed().as_secs_f64() / TICKS[1] as f64
}

/// The middle one of five measurements.
fn middle(mut measure: impl FnMut() -> f64) -> f64 {
    let mut all: Vec<f64> = (0..5).map(|_| measure()).collect();
    all.sort_by(f64::total_cmp);
    all[2]
}

fn main() {
    for (name, area) in [("loose, one in 25 m2", 25.0), ("dense, one in 1 m2", 1.0)] {
        let ratio = middle(|| run(2000, area, &How::Crowd) / run(2000, area, &How::Alone));
        println!("2,000 bodies, {name}: {ratio:.2} of a tick without others");
    }
    let gain = middle(|| run(10_000, 1.0, &How::Crowd) / run(10_000, 1.0, &How::Threads));
    println!("10,000 bodies, dense: two threads {gain:.2} times as fast as one");
    let frame = middle(|| run(10_000, 1.0, &How::Threads));
    println!("10,000 bodies, dense, on two threads: {:.1} ms a tick", 1000.0 * frame);
    let rest = middle(|| run(2000, 25.0, &How::Still) / run(2000, 25.0, &How::Crowd));
    println!("2,000 bodies at rest: {rest:.3} of walking");
}
