//! Long random lives give the same bits everywhere. Their checksums are kept as data.
//!
//! They are the same in debug and release builds, with serde and without, and for the
//! processor at hand. Two numbers are kept for each life: one of its motion (positions,
//! velocities, gaits and events in every tick), and one of its states with everything in
//! them. A change of how a state is stored changes only the second. `RASANT_BLESS=1` writes
//! both again, for a change that is meant to move bodies differently.

use std::fmt::Write;

use crate::common::lives::{any_intent, any_tuning, meddle};
use crate::common::{Dice, capsule, upright_box};
use crate::everything::town;
use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Event, Geometry, Hull, HullShape, Intent};

const KEPT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/golden.txt");

/// Mixes more bytes into a checksum (FNV-1a).
fn mix(sum: &mut u64, bytes: &[u8]) {
    for &byte in bytes {
        *sum = (*sum ^ u64::from(byte)).wrapping_mul(0x0000_0100_0000_01B3);
    }
}

/// Mixes in what a player would see or hear of a tick.
fn mix_motion<V: Geometry>(sum: &mut u64, body: &Controller<V>) {
    let state = body.state();
    let vectors =
        [state.position, state.remainder, state.velocity, state.ground_velocity, state.up, state.facing];
    for vector in vectors {
        for part in vector.to_array().as_ref() {
            mix(sum, &part.to_bits().to_le_bytes());
        }
    }
    mix(sum, state.animation.gait.name().as_bytes());
    mix(sum, state.velocity_owner.name().as_bytes());
    mix(sum, state.facing_owner.name().as_bytes());
    for event in body.events() {
        mix(sum, event.name().as_bytes());
        if let Event::Refused { what } = event {
            mix(sum, what.action.as_bytes());
            mix(sum, what.cause.as_deref().unwrap_or_default().as_bytes());
            mix(sum, &what.missed_by.unwrap_or_default().to_bits().to_le_bytes());
        }
    }
}

/// Checksums of the motion and of the states, for each hull.
fn live<V: Geometry>(seed: u64) -> Vec<[u64; 2]> {
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
            let (mut motion, mut all) = (0xCBF2_9CE4_8422_2325, 0u64);
            for tick in 0..1500 {
                intent = any_intent(&mut dice, &intent);
                meddle(&mut body, &mut dice);
                level.advance(1.0 / 60.0);
                body.tick(&intent, &level, 1.0 / 60.0);
                mix_motion(&mut motion, &body);
                if tick % 100 == 99 {
                    all = all.rotate_left(7) ^ body.state().checksum();
                }
            }
            [motion, all]
        })
        .collect()
}

#[test]
fn long_lives_end_on_the_bits_that_they_always_did() {
    let mut text =
        String::from("# Checksums of random lives: dimension, seed, of what, and a number for each hull.\n");
    for seed in [11u64, 12, 13] {
        for (dimension, sums) in [(2, live::<Vec2>(seed)), (3, live::<Vec3>(seed))] {
            for (number, of) in ["motion", "states"].into_iter().enumerate() {
                let sums: Vec<String> = sums.iter().map(|sums| format!("{:016x}", sums[number])).collect();
                writeln!(text, "{dimension} {seed} {of} {}", sums.join(" ")).unwrap();
            }
        }
    }
    if std::env::var_os("RASANT_BLESS").is_some() {
        std::fs::write(KEPT, &text).unwrap();
    }
    assert_eq!(text, std::fs::read_to_string(KEPT).unwrap());
}
