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
//! rasant::own_knobs! {
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
//! assert_eq!(tuning.own::<Umbrella>(), Umbrella { fall_speed: 2.0 });
//! # Ok::<(), rasant::tuning::KnobError>(())
//! ```

mod dash;
mod drop;
mod glide;
mod hop;
mod jump;
mod kept;
mod ladder;
mod ledge;
mod list;
mod maneuver;
mod proposal;
mod roll;
mod senses;
mod slam;
mod swim;
mod wall;

pub use crate::memory::Memory;
pub use dash::Dash;
pub use drop::Drop;
pub use glide::Glide;
pub use hop::Hop;
pub use jump::Jump;
pub use kept::Kept;
pub use ladder::Ladder;
pub use ledge::{Holding, Ledge};
pub(crate) use list::{Decision, Refusals, Taken, arrange, decide, remember};
pub use list::{MoveSet, Moves, Standard, Then};
pub(crate) use maneuver::{Turning, under_way};
pub use proposal::{Answer, Fall, Law, Outcome, Proposal, SetWay, Toward};
pub use roll::Roll;
pub(crate) use senses::{Host, Rungs, UnderWay};
pub use senses::{Sensed, Senses};
pub use slam::{Slam, Slamming};
pub use swim::Swim;
pub use wall::WallSlide;
pub(crate) use wall::{beside, holds, kicked};

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::Name;
use crate::tuning::{OwnKnobs, Tuning};

/// Something that can take charge of a body. Its fields are its knobs.
pub trait Move<V: Geometry>: OwnKnobs {
    /// Its name, in traces and gaits.
    const NAME: Name;

    /// What it keeps from tick to tick; `()` for nothing.
    type Memory: Kept<V>;

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
    #[inline]
    fn remember(&self, _senses: &Senses<'_, V>, _outcome: &Outcome<'_, V>, _memory: &mut Self::Memory) {}
}

/// A move without knobs of its own: those of ours are in the tuning.
macro_rules! no_knobs {
    ($Move:ident) => {
        impl crate::tuning::OwnKnobs for $Move {
            const KNOBS: &'static [crate::tuning::Knob] = &[];

            #[inline]
            fn read(_values: &[f32]) -> Self {
                Self
            }

            fn write(&self, _values: &mut [f32]) {}
        }
    };
}
use no_knobs;
