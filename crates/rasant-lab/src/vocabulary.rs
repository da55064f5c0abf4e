//! The words of a list of moves, as scripts, expectations and documents use them.

use rasant::glam::{Vec2, Vec3};
use rasant::moves::MoveWords;
use rasant::state::{Departure, Refusal};
use rasant::{Gait, Tuning};

/// The maneuver of a knockback by the host.
const KNOCKBACK: &str = "knockback";

/// All words of bodies with a list of moves.
///
/// ```
/// use rasant::Tuning;
/// use rasant_lab::Vocabulary;
///
/// let words = Vocabulary::of(&Tuning::default());
/// assert!(words.states().contains(&"swim") && words.jumps().contains(&"wall"));
/// assert_eq!(words.causes("dash"), ["empty", "air-limit", "cooldown"]);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Vocabulary {
    moves: Vec<MoveWords>,
}

impl Default for Vocabulary {
    /// The words of the moves of the library.
    fn default() -> Self {
        Self::of(&Tuning::default())
    }
}

impl Vocabulary {
    /// States beside the modes.
    const STATES: [&'static str; 5] = ["maneuver", "rising", "falling", "crouched", "at wall"];

    /// The words of the moves of a tuning's list.
    #[must_use]
    pub fn of(tuning: &Tuning) -> Self {
        let mut moves = tuning.words::<Vec2>();
        for known in tuning.words::<Vec3>() {
            if !moves.contains(&known) {
                moves.push(known);
            }
        }
        Self { moves }
    }

    /// The moves, in the order in which they are consulted.
    #[must_use]
    pub fn moves(&self) -> &[MoveWords] {
        &self.moves
    }

    fn names(&self, is: impl Fn(&MoveWords) -> bool) -> impl Iterator<Item = &str> {
        self.moves.iter().filter(move |known| is(known)).map(|known| known.name.as_str())
    }

    /// The modes of a body.
    #[must_use]
    pub fn modes(&self) -> Vec<&str> {
        let core = ["grounded", "airborne"];
        let of_moves = self.names(|known| known.words.is_mode || known.words.is_maneuver);
        core.into_iter().chain(of_moves).chain([KNOCKBACK]).collect()
    }

    /// The states that a script can test: modes, and others.
    #[must_use]
    pub fn states(&self) -> Vec<&str> {
        self.modes().into_iter().chain(Self::STATES).collect()
    }

    /// The details of the event `jumped`.
    #[must_use]
    pub fn jumps(&self) -> Vec<&str> {
        self.moves.iter().flat_map(|known| known.words.jumps.iter().copied()).collect()
    }

    /// The details of the event `left-ground`.
    #[must_use]
    pub fn departures(&self) -> Vec<String> {
        // Moves appear with their own names.
        let core = Departure::NAMED.iter().filter(|by| **by != Departure::Move);
        let core = core.map(|by| by.name().to_string());
        core.chain(self.names(|known| known.words.leaves_ground).map(str::to_owned)).collect()
    }

    /// The first words of the details of the event `maneuver-phase`.
    #[must_use]
    pub fn maneuvers(&self) -> Vec<&str> {
        self.names(|known| known.words.is_maneuver).chain([KNOCKBACK]).collect()
    }

    /// The details of the events `move-began` and `move-ended`.
    #[must_use]
    pub fn announced(&self) -> Vec<&str> {
        self.names(|known| known.words.is_announced).collect()
    }

    fn refusals(&self) -> impl Iterator<Item = &Refusal> {
        self.moves.iter().flat_map(|known| known.words.refusals).chain(Refusal::OF_CORE)
    }

    /// What can be refused: the first words of the details of the event `refused`.
    #[must_use]
    pub fn refused(&self) -> Vec<&str> {
        let mut all: Vec<&str> = Vec::new();
        for what in self.refusals() {
            if !all.contains(&what.action.as_str()) {
                all.push(what.action.as_str());
            }
        }
        all
    }

    /// The reasons for a refusal: the second words of those details. Empty if there is only one
    /// reason.
    #[must_use]
    pub fn causes(&self, action: &str) -> Vec<&str> {
        let of = self.refusals().filter(|what| what.action == *action);
        of.filter_map(|what| what.cause.as_ref().map(|cause| cause.as_str())).collect()
    }

    /// The gaits for animations.
    #[must_use]
    pub fn gaits(&self) -> Vec<String> {
        let core = Gait::NAMED.iter().map(|gait| gait.name().to_string());
        let of_moves = self.moves.iter().flat_map(|known| {
            let name = Some(known.name.as_str()).filter(|_| known.words.is_mode || known.words.is_maneuver);
            name.into_iter().chain(known.words.gaits.iter().copied())
        });
        core.chain(of_moves.map(str::to_owned)).chain([KNOCKBACK.to_owned()]).collect()
    }
}
