//! What a game adds to files: moves with their knobs, and names of zones.

use std::path::Path;

use rasant::moves::MoveSet;
use rasant::tuning::Knob;
use rasant::{Effect, Geometry, Hull, Tuning};

use crate::{Files, Problem, TuningFile};

/// What a game adds to files. The default adds nothing.
///
/// Readers ask their [`Files`] for it: wrap those in [`GameFiles`].
#[derive(Clone, Copy, Debug, Default)]
pub struct Game {
    /// The game's list of moves. Tunings have the knobs of these moves. `None` for the moves of the
    /// library.
    pub moves: Option<&'static MoveSet>,
    /// Names for the numbers of the game's own zones, as level files call them.
    pub zones: &'static [(&'static str, u16)],
}

impl Game {
    /// The tuning that all others begin with: every knob at its default, with the game's moves.
    #[must_use]
    pub fn tuning(&self) -> Tuning {
        let tuning = Tuning::default();
        self.moves.map_or(tuning, |moves| tuning.with_moves(moves))
    }

    /// [`TuningFile::default`] with the game's moves.
    #[must_use]
    pub fn tuning_file(&self) -> TuningFile {
        let hull = Hull::capsule(0.3, 1.7).expect("a capsule higher than it is wide");
        TuningFile { title: "The default tuning".to_owned(), tuning: self.tuning(), hull, up: None }
    }

    /// Every number that a tuning file of the game can have: sizes of hulls first, then all knobs.
    #[must_use]
    pub fn numbers(&self) -> Vec<&'static Knob> {
        self.tuning_file().numbers()
    }

    /// The path of the number, or `hull.shape`, that is spelled most like an unknown word.
    #[must_use]
    pub fn nearest_number(&self, word: &str) -> Option<&'static str> {
        let paths = self.numbers().into_iter().map(|knob| knob.path);
        crate::nearest(word, paths.chain(["hull.shape"]))
    }

    /// The kinds of zone that a level file of the game can name, each with its effect.
    #[must_use]
    pub fn zone_kinds<V: Geometry>(&self) -> Vec<(&'static str, Effect<V>)> {
        let own = self.zones.iter().map(|&(name, number)| (name, Effect::Own(number)));
        crate::assembly::zone_kinds::<V>().into_iter().map(|kind| (kind.name(), kind)).chain(own).collect()
    }

    /// The name of one of the game's own zones, if it has one.
    #[must_use]
    pub fn zone_name(&self, number: u16) -> Option<&'static str> {
        self.zones.iter().find(|(_, own)| *own == number).map(|(name, _)| *name)
    }
}

/// Files of a game: what they can say includes the game's own moves, knobs and zones.
///
/// ```
/// use rasant::moves::{MoveSet, Standard};
/// use rasant_files::{Files, Game, GameFiles, OnDisk};
///
/// static MOVES: MoveSet = MoveSet::of::<Standard>(); // and the game's own
///
/// let game = Game { moves: Some(&MOVES), zones: &[("anchor", 1)] };
/// let files = GameFiles { files: OnDisk, game };
/// assert_eq!(files.game().zone_name(1), Some("anchor"));
/// ```
#[derive(Clone, Copy, Debug)]
pub struct GameFiles<F> {
    /// Where the files come from.
    pub files: F,
    /// What the game adds to them.
    pub game: Game,
}

impl<F: Files> Files for GameFiles<F> {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        self.files.read(path)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        self.files.read_bytes(path)
    }

    fn game(&self) -> Game {
        self.game
    }
}
