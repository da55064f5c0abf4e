//! The same bits everywhere: checksums of long random lives, kept as data.
//!
//! They are the same in debug and release builds, with serde and without, and for the
//! processor at hand. `RASANT_BLESS=1` writes them anew, for a change that is meant to move
//! bodies otherwise.

use std::fmt::Write;

use crate::common::lives::{any_intent, any_tuning, meddle};
use crate::common::{Dice, capsule, upright_box};
use crate::everything::town;
use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Geometry, Hull, HullShape, Intent};

const KEPT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/golden.txt");

fn live<V: Geometry>(seed: u64) -> Vec<u64> {
    let mut dice = Dice(seed);
    let mut level = town::<V>();
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.5, rounding: 0.1 };
    let hulls = [capsule(), upright_box(), Hull::ball(0.5).unwrap(), Hull::new(rounded).unwrap()];
    hulls
        .into_iter()
        .map(|hull| {
            let tuning = any_tuning(&mut dice, V::DIMENSION);
            let mut body = Controller::new(tuning, hull, V::UP * 2.0);
            let mut intent = Intent::default();
            let mut all = 0u64;
            for tick in 0..1500 {
                intent = any_intent(&mut dice, &intent);
                meddle(&mut body, &mut dice);
                level.advance(1.0 / 60.0);
                body.tick(&intent, &level, 1.0 / 60.0);
                if tick % 100 == 99 {
                    all = all.rotate_left(7) ^ body.state().checksum();
                }
            }
            all
        })
        .collect()
}

#[test]
fn long_lives_end_on_the_bits_that_they_always_did() {
    let mut text = String::from("# Checksums of random lives: dimension, seed, a number a hull.\n");
    for seed in [11u64, 12, 13] {
        for (dimension, sums) in [(2, live::<Vec2>(seed)), (3, live::<Vec3>(seed))] {
            let sums: Vec<String> = sums.iter().map(|sum| format!("{sum:016x}")).collect();
            writeln!(text, "{dimension} {seed} {}", sums.join(" ")).unwrap();
        }
    }
    if std::env::var_os("RASANT_BLESS").is_some() {
        std::fs::write(KEPT, &text).unwrap();
    }
    assert_eq!(text, std::fs::read_to_string(KEPT).unwrap());
}
