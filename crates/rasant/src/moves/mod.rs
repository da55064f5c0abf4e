//! Every move, a file each, and the list in which they are asked.
//!
//! A move sees the [`Senses`] of a tick and its own memory and answers: nothing, a
//! refusal, or a [`Proposal`] with which it takes charge. The first that does has the
//! tick. After the tick each sees the [`Outcome`] and keeps what it has to remember.
//! Neither changes anything else, and asking twice changes nothing.
//!
//! The list is a type: [`Standard`] is ours, [`moves!`](macro@crate::moves) writes others. A
//! tuning says which it is for ([`Tuning::with_moves`](crate::Tuning::with_moves));
//! what is not in it costs nothing.
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
pub(crate) use list::{Chosen, Decision, Refusals, Taken, arrange, decide, remember};
pub use list::{MoveSet, Moves, Standard, Then};
pub(crate) use maneuver::{Turning, under_way};
pub use proposal::{Answer, Fall, Law, Outcome, Proposal, SetWay, Toward};
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

/// Something that can take charge of a body. Its fields are its knobs.
///
/// The moves of the library implement this trait with nothing that a game's own move cannot use.
pub trait Move<V: Geometry>: Knobs {
    /// Its name, in modes, gaits, traces and scripts.
    const NAME: Name;

    /// The other words that it says: for scripts, expectations and documents.
    const WORDS: Words = Words::NONE;

    /// Where a tuning keeps its knobs.
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::List;

    /// What it keeps from tick to tick; `()` for nothing.
    type Memory: Memory;

    /// The actions that begin this move or keep it going, with the numbers of `tuning`;
    /// empty for a move that needs no action, or that these numbers switch off. For
    /// screens that say which key does what: see [`Tuning::controls`](crate::Tuning::controls).
    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::NONE
    }

    /// What it asks for in the tick to come.
    fn propose(&self, senses: &Senses<'_, V>, memory: &Self::Memory) -> Answer<V>;

    /// Keeps what it has to remember of the tick that was, whoever had charge of it.
    /// The senses are those by which it was decided.
    fn remember(&self, _senses: &Senses<'_, V>, _outcome: &Outcome<'_, V>, _memory: &mut Self::Memory) {}
}

/// Where a tuning keeps the knobs of a move.
#[derive(Clone, Copy, Debug)]
pub enum KnobsIn<M: 'static> {
    /// Among the numbers of the tuning's list of moves, by path: `tuning.get("swing.reach")`.
    List,
    /// In a field of the tuning. A game's own move that takes the place of one of the library can
    /// have the same knobs.
    Field(fn(&Tuning) -> &M),
}
