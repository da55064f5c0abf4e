//! What a game adds: moves with their knobs, figures, names of zones.

use rasant::moves::MoveSet;
use rasant_files::{GameFiles, OnDisk};

use crate::sheet::{Figures, OwnFigure};

/// What a game adds to files and to what is measured. The default adds nothing.
///
/// ```
/// use rasant::moves::MoveSet;
/// use rasant_lab::Game;
/// use rasant_lab::files::Files;
///
/// static MOVES: MoveSet = MoveSet::of::<rasant::moves::Standard>();
/// let game = Game { moves: Some(&MOVES), zones: &[("anchor", 1)], ..Game::default() };
/// assert_eq!(game.on_disk().game().zone_name(1), Some("anchor"));
/// ```
#[derive(Clone, Copy, Debug, Default)]
pub struct Game {
    /// The game's list of moves. Tunings have the knobs of these moves. `None` for the moves of the
    /// library.
    pub moves: Option<&'static MoveSet>,
    /// Figures of the game's own, measured after those of the sheet.
    pub figures: &'static [OwnFigure],
    /// Names for the numbers of the game's own zones, as level files call them.
    pub zones: &'static [(&'static str, u16)],
}

impl Game {
    /// What the game adds to files. Wrap the files of a reader in [`rasant_files::GameFiles`] with
    /// it.
    #[must_use]
    pub fn in_files(&self) -> rasant_files::Game {
        rasant_files::Game { moves: self.moves, zones: self.zones }
    }

    /// Files on the disk, with what the game adds.
    #[must_use]
    pub fn on_disk(&self) -> GameFiles<OnDisk> {
        GameFiles { files: OnDisk, game: self.in_files() }
    }

    /// The figures of the sheet, and the game's own.
    #[must_use]
    pub fn figures(&self) -> Figures {
        Figures::with(self.figures)
    }
}
