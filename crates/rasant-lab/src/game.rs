//! What the program that runs the lab has of its own: moves with their knobs, figures,
//! names of zones.

use std::sync::OnceLock;

use crate::sheet::figure::FigureKind;
use rasant::moves::MoveSet;
use rasant_files::TuningFile;

/// What a game adds to files and measures.
///
/// ```
/// use rasant::moves::MoveSet;
/// use rasant_lab::Game;
///
/// static MOVES: MoveSet = MoveSet::of::<rasant::moves::Standard>();
/// let game = Game { moves: Some(&MOVES), zones: &[("anchor", 1)], ..Game::default() };
/// assert!(rasant_lab::set_game(game));
/// ```
#[derive(Clone, Copy, Debug, Default)]
pub struct Game {
    /// Its list of moves: tunings have their knobs, bodies do what they do.
    pub moves: Option<&'static MoveSet>,
    /// Figures of its own, measured after those of the sheet.
    pub figures: &'static [OwnFigure],
    /// Names for the numbers of its own zones, as a level's files may call them.
    pub zones: &'static [(&'static str, u16)],
}

/// A figure that a game measures.
#[derive(Clone, Copy, Debug)]
pub struct OwnFigure {
    /// What it is called, and what it is.
    pub kind: FigureKind,
    /// Measures it in a world of 2 or 3 dimensions at so many ticks a second; nothing
    /// where the tuning has no such thing.
    pub measure: fn(&TuningFile, usize, u32) -> Option<f64>,
}

/// The figures of the game, set once with it.
static FIGURES: OnceLock<&'static [OwnFigure]> = OnceLock::new();

/// Makes all that is read, made and measured from here on a game's: once, as a program
/// begins. Says whether it was the first time; a second changes nothing.
pub fn set_game(game: Game) -> bool {
    let Game { moves, figures, zones } = game;
    rasant_files::set_game(rasant_files::Game { moves, zones }) && FIGURES.set(figures).is_ok()
}

/// The figures of the game that the program is for.
pub(crate) fn own_figures() -> &'static [OwnFigure] {
    FIGURES.get().copied().unwrap_or_default()
}
