//! Where a move's memory is kept in a state.

use crate::contact::Geometry;
use crate::memory::Memory;
use crate::state::{Dashes, Hops, Jumps, LadderRest, State};

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
        }
    )*};
}

kept_in! {
    Jumps: jumps;
    Dashes: dashes;
    Hops: hops;
    LadderRest: ladder_rest;
}
