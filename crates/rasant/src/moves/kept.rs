//! Where a move's memory is kept in a state.

use crate::contact::Geometry;
use crate::memory::Memory;
use crate::state::{Dashes, Hops, Jumps, LadderRest, Name, State, Tag};

use super::Move;

/// What a move can have as its memory: anything that is [`Memory`], kept among
/// [`State::memories`]; and of our own moves, a field of the state.
pub trait Kept<V: Geometry>: Copy {
    /// How many words it takes of the memories.
    #[doc(hidden)]
    const WORDS: usize;

    /// Reads it, from the word `at` on.
    #[doc(hidden)]
    fn get(state: &State<V>, at: usize) -> Self;

    /// Writes it, from the word `at` on.
    #[doc(hidden)]
    fn put(&self, state: &mut State<V>, at: usize);

    /// Reads that of the move with a name, wherever it is.
    #[doc(hidden)]
    fn find(state: &State<V>, of: Name) -> Self;
}

impl<V: Geometry> State<V> {
    /// What a move of the list keeps from tick to tick: for drawing a rope, or a bar of stamina. As at
    /// first where the last tick was by a list without this move.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::moves::Glide;
    /// use rasant::State;
    /// use rasant::state::Span;
    ///
    /// let state = State::at(Vec2::ZERO);
    /// let glided: Span = state.memory::<Glide>();
    /// assert_eq!(glided.seconds(), 0.0);
    /// ```
    #[must_use]
    pub fn memory<M: Move<V>>(&self) -> M::Memory {
        M::Memory::find(self, M::NAME)
    }
}

impl<V: Geometry, M: Memory> Kept<V> for M {
    const WORDS: usize = M::WORDS;

    #[inline]
    fn get(state: &State<V>, at: usize) -> Self {
        state.memories.read(at)
    }

    #[inline]
    fn put(&self, state: &mut State<V>, at: usize) {
        state.memories.write(at, self);
    }

    fn find(state: &State<V>, of: Name) -> Self {
        state.memories.find(Tag::of(of, M::WORDS))
    }
}

macro_rules! kept_in {
    ($($Type:ty: $field:ident;)*) => {$(
        impl<V: Geometry> Kept<V> for $Type {
            const WORDS: usize = 0;

            #[inline]
            fn get(state: &State<V>, _at: usize) -> Self {
                state.$field
            }

            #[inline]
            fn put(&self, state: &mut State<V>, _at: usize) {
                state.$field = *self;
            }

            fn find(state: &State<V>, _of: Name) -> Self {
                state.$field
            }
        }
    )*};
}

kept_in! {
    Jumps: jumps;
    Dashes: dashes;
    Hops: hops;
    LadderRest: ladder_rest;
}
