//! What the program that runs the lab has of its own: a list of moves.

use std::sync::OnceLock;

use rasant::{Knob, MoveSet, Tuning};

/// The tuning that all others begin with. A program sets it once, before it reads any
/// file: what files may say follows from it.
static BASE: OnceLock<Tuning> = OnceLock::new();

/// Makes every tuning that is read or made from here on one for these moves: once, as a
/// program begins. Says whether it was the first time; a second changes nothing.
pub fn set_moves(moves: &MoveSet) -> bool {
    BASE.set(Tuning::default().with_moves(moves)).is_ok()
}

/// The tuning that all others begin with: the default, with the moves of the program.
#[must_use]
pub fn base_tuning() -> Tuning {
    *BASE.get_or_init(Tuning::default)
}

/// Every knob there is in this program.
#[must_use]
pub fn knobs() -> Vec<&'static Knob> {
    base_tuning().knobs()
}
