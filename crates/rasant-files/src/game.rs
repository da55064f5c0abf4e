//! What a game adds to files: moves with their knobs, and names of zones.

use std::sync::OnceLock;

use rasant::Tuning;
use rasant::moves::MoveSet;
use rasant::tuning::Knob;

/// What a game adds to files.
#[derive(Clone, Copy, Debug, Default)]
pub struct Game {
    /// Its list of moves: tunings have their knobs, bodies do what they do.
    pub moves: Option<&'static MoveSet>,
    /// Names for the numbers of its own zones, as a level's files may call them.
    pub zones: &'static [(&'static str, u16)],
}

/// Set once, before any file is read: what files may say follows from it.
static GAME: OnceLock<(Game, Tuning)> = OnceLock::new();

/// Makes all that is read, made and measured from here on a game's: once, as a program
/// begins. Says whether it was the first time; a second changes nothing.
pub fn set_game(game: Game) -> bool {
    let tuning = Tuning::default();
    let tuning = game.moves.map_or(tuning, |moves| tuning.with_moves(moves));
    GAME.set((game, tuning)).is_ok()
}

fn known() -> &'static (Game, Tuning) {
    GAME.get_or_init(Default::default)
}

/// The game that the program is for.
#[must_use]
pub fn game() -> &'static Game {
    &known().0
}

/// The tuning that all others begin with: the default, with the moves of the program.
#[must_use]
pub fn base_tuning() -> Tuning {
    known().1
}

/// Every knob there is in this program.
#[must_use]
pub fn knobs() -> Vec<&'static Knob> {
    base_tuning().knobs()
}
