//! Every move, one file or folder each, and the list in which they are consulted.
//!
//! A move reads the [`Senses`] of a tick and its own memory, and answers: nothing, a refusal, or a
//! [`Proposal`] with which it takes charge. The first proposal gets the tick. After the tick each
//! move sees the [`Outcome`] and updates its memory. A move changes nothing else, and consulting it
//! twice changes nothing.
//!
//! The list is a type: [`Standard`] is the library's, [`moves!`](macro@crate::moves) writes others.
//! A tuning says which list it is for ([`Tuning::with_moves`](crate::Tuning::with_moves)). Moves
//! that are not in it cost nothing.
//!
//! ```
//! use rasant::moves::{Answer, Fall, Law, Move, MoveSet, Proposal, Senses, Standard, Then};
//! use rasant::state::Name;
//! use rasant::{Geometry, Tuning};
//!
//! rasant::knobs! {
//!     /// An umbrella that opens in a fall.
//!     pub struct Umbrella {
//!         /// The speed of a fall under it.
//!         fall_speed: "umbrella.fall_speed", MetresPerSecond, 1.5, 0.1..25.0;
//!     }
//! }
//!
//! impl<V: Geometry> Move<V> for Umbrella {
//!     const NAME: Name = Name::new("umbrella");
//!     type Memory = ();
//!
//!     fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
//!         if senses.standing() || senses.velocity.height() > -self.fall_speed {
//!             return Answer::Nothing;
//!         }
//!         let fall = Fall { terminal_speed: Some(self.fall_speed), ..Fall::default() };
//!         Proposal { law: Law::Fall(fall), ..Proposal::of(<Self as Move<V>>::NAME) }.into()
//!     }
//! }
//!
//! static MOVES: MoveSet = MoveSet::of::<Then<Standard, Umbrella>>();
//! let mut tuning = Tuning::default().with_moves(&MOVES);
//! tuning.set("umbrella.fall_speed", 2.0)?;
//! assert_eq!(tuning.group::<Umbrella>(), Umbrella { fall_speed: 2.0 });
//! # Ok::<(), rasant::tuning::KnobError>(())
//! ```

pub(crate) mod dash;
mod drop_down;
pub(crate) mod glide;
pub(crate) mod hop;
pub(crate) mod jump;
pub(crate) mod ladder;
pub(crate) mod ledge;
pub(crate) mod roll;
pub(crate) mod slam;
pub(crate) mod swim;
pub(crate) mod wall;

mod list;
mod maneuver;
mod proposal;
mod senses;
mod words;

pub use crate::memory::Memory;
pub use crate::travel::Stand;
pub use dash::{Dash, Dashes};
pub use drop_down::DropDown;
pub use glide::Glide;
pub use hop::{Heading, Hop, Hops};
pub use jump::{Jump, Jumps};
pub use ladder::{Ladder, LadderRest};
pub use ledge::{Holding, Ledge};
pub(crate) use list::{Chosen, Decision, Refusals, TickOutcome, arrange, decide, remember};
pub use list::{MoveSet, Moves, Standard, Then};
pub(crate) use maneuver::{Turning, under_way};
pub use proposal::{Answer, Fall, Law, Outcome, Proposal, SetMotion, Toward};
pub use roll::Roll;
pub(crate) use senses::{Host, UnderWay};
pub use senses::{Rungs, Sensed, Senses};
pub use slam::{Slam, Slamming};
pub use swim::Swim;
pub use wall::WallSlide;
pub(crate) use wall::{beside, holds, kicked};
pub use words::{MoveWords, Words};

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::Name;
use crate::tuning::{Knobs, Tuning};

/// A move: something that can take charge of a body. Its fields are its knobs.
///
/// The moves of the library implement this trait with nothing that a game's own move cannot use.
///
/// ```
/// use rasant::moves::{Answer, Law, Move, MoveSet, Proposal, Senses, Standard, Toward, Words};
/// use rasant::state::Name;
/// use rasant::{Actions, Geometry, Tuning};
///
/// rasant::knobs! {
///     /// Holds the body in the air while its action is held.
///     pub struct Hover {
///         /// 1 if the body can hover.
///         allowed: "hover.allowed", Switch, 1.0, 0.0..1.0;
///     }
/// }
///
/// impl<V: Geometry> Move<V> for Hover {
///     const NAME: Name = Name::new("hover");
///     const WORDS: Words = Words::MODE;
///     type Memory = ();
///
///     fn propose(&self, senses: &Senses<'_, V>, _memory: &()) -> Answer<V> {
///         if self.allowed == 0.0 || !senses.intent.held.contains(Actions::own(3)) {
///             return Answer::Nothing;
///         }
///         let still = Toward { velocity: V::ZERO, time: 0.2, speed: 5.0, lands: false };
///         Proposal { law: Law::Toward(still), ..Proposal::of(Name::new("hover")) }.into()
///     }
/// }
///
/// static MOVES: MoveSet = MoveSet::of::<(Hover, Standard)>();
/// let tuning = Tuning::default().with_moves(&MOVES);
/// assert_eq!(tuning.get("hover.allowed").unwrap(), 1.0);
/// ```
pub trait Move<V: Geometry>: Knobs {
    /// The name, in modes, gaits, traces and scripts.
    const NAME: Name;

    /// Its other words: for scripts, expectations and documents.
    const WORDS: Words = Words::NONE;

    /// Where a tuning stores its knobs.
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::List;

    /// What it stores from tick to tick; `()` for nothing.
    type Memory: Memory;

    /// The actions that start or sustain this move with the knobs of `tuning`. Empty for a move
    /// that needs no action, or that these knobs switch off. For screens that show the controls:
    /// see [`Tuning::controls`](crate::Tuning::controls).
    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::NONE
    }

    /// Returns false if the knobs switch the move off, as for an ability that the player has not
    /// found yet. The move is then not consulted, and its memory is the initial one. A maneuver that
    /// it has begun continues to its end.
    fn is_enabled(&self) -> bool {
        true
    }

    /// Proposes what to do in the coming tick.
    fn propose(&self, senses: &Senses<'_, V>, memory: &Self::Memory) -> Answer<V>;

    /// Updates the memory after a tick, whichever move had charge of it. The senses are those with
    /// which the tick was decided.
    fn remember(&self, _senses: &Senses<'_, V>, _outcome: &Outcome<'_, V>, _memory: &mut Self::Memory) {}
}

/// Where a tuning stores the knobs of a move.
#[derive(Clone, Copy, Debug)]
pub enum KnobsIn<M: 'static> {
    /// With the tuning's list of moves, reached by path: `tuning.get("swing.reach")`.
    List,
    /// In a field of the tuning. A game's own move that replaces one of the library can use the
    /// same knobs.
    Field(fn(&Tuning) -> &M),
}
