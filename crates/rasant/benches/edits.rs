//! Prints what edits of a level cost: one edit, a clone, and ticks in an edited level as a ratio of
//! ticks in one that was built at once.
//!
//! `cargo bench -p rasant --bench edits`
#![allow(missing_docs)]

#[path = "../tests/common/mod.rs"]
mod common;
mod scenes;

use std::hint::black_box;
use std::time::Instant;

use common::Dice;
use rasant::glam::Vec3;
use rasant::level::LevelBuilder;
use rasant::{Layers, Level, Piece, PieceId, SurfaceId};
use scenes::Crowd;

/// The side of the square over which the pieces are spread, in metres.
const SIDE: f32 = 120.0;
const EDITS: usize = 10_000;

/// A low block somewhere.
fn block(dice: &mut Dice) -> Piece<Vec3> {
    let at = Vec3::new(dice.number(-SIDE, SIDE), dice.number(-0.4, -0.1), dice.number(-SIDE, SIDE));
    let size = Vec3::new(dice.number(0.5, 2.0), 0.4, dice.number(0.5, 2.0));
    Piece::block(at, at + size).unwrap()
}

fn builder(pieces: usize) -> (LevelBuilder<Vec3>, Dice) {
    let mut dice = Dice(35);
    let mut builder = Level::builder();
    let floor = Vec3::new(SIDE + 9.0, 0.0, SIDE + 9.0);
    builder.add(Piece::block(-floor - Vec3::Y, floor).unwrap());
    for _ in 0..pieces {
        builder.add(block(&mut dice));
    }
    (builder, dice)
}

/// Moves pieces of the first `pieces` about. Returns the seconds per edit.
fn edit(level: &mut Level<Vec3>, pieces: usize, clones: bool, dice: &mut Dice) -> f64 {
    let all: Vec<_> = (0..EDITS).map(|_| (PieceId(1 + dice.below(pieces) as u32), block(dice))).collect();
    let start = Instant::now();
    for (id, piece) in all {
        let kept = clones.then(|| level.clone());
        level.replace(id, piece).unwrap();
        black_box(kept);
    }
    start.elapsed().as_secs_f64() / EDITS as f64
}

fn clone_time(level: &Level<Vec3>) -> f64 {
    let start = Instant::now();
    (0..10_000).for_each(|_| {
        black_box(level.clone());
    });
    start.elapsed().as_secs_f64() / 10_000.0
}

/// The same pieces, built at once.
fn rebuilt(level: &Level<Vec3>) -> Level<Vec3> {
    let mut builder = Level::builder();
    for piece in level.all_pieces() {
        builder.add(piece);
    }
    builder.build().unwrap()
}

fn ticks(level: &Level<Vec3>, crowd: &mut Crowd<Vec3>) -> f64 {
    let start = Instant::now();
    for _ in 0..8 {
        crowd.tick(level);
    }
    start.elapsed().as_secs_f64()
}

fn main() {
    for pieces in [100_000, 1_000_000] {
        let (builder, mut dice) = builder(pieces);
        let mut level = builder.build().unwrap();
        let plain = edit(&mut level, pieces, false, &mut dice);
        let cloned = edit(&mut level, pieces, true, &mut dice);
        println!(
            "{pieces} pieces: an edit {:.2} µs, with a clone before each {:.2} µs; a clone {:.3} µs",
            1e6 * plain,
            1e6 * cloned,
            1e6 * clone_time(&level)
        );
    }
    let (corners, triangles) = scenes::rolling(1000);
    let (mut builder, mut dice) = builder(10_000);
    builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::only(9)).unwrap();
    let mut level = builder.build().unwrap();
    let plain = edit(&mut level, 10_000, false, &mut dice);
    println!(
        "{} triangles and 10000 pieces: an edit {:.2} µs, a clone {:.3} µs",
        triangles.len(),
        1e6 * plain,
        1e6 * clone_time(&level)
    );

    let (builder, mut dice) = self::builder(100_000);
    let mut edited = builder.build().unwrap();
    edit(&mut edited, 100_000, false, &mut dice);
    let fresh = rebuilt(&edited);
    let mut crowds = [Crowd::on(&edited, SIDE), Crowd::on(&fresh, SIDE)];
    let mut ratios: Vec<f64> =
        (0..40).map(|_| ticks(&edited, &mut crowds[0]) / ticks(&fresh, &mut crowds[1])).collect();
    ratios.sort_by(f64::total_cmp);
    println!(
        "walking ticks in a level of 100000 pieces after {EDITS} edits: {:.3} of those in one built at once",
        ratios[ratios.len() / 2]
    );
}
