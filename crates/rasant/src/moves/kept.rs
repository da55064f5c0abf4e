//! Where a move's memory is kept in a state.

use crate::contact::Geometry;
use crate::memory::Memory;
use crate::state::{Name, State, Tag};

/// What a move can have as its memory: anything that is [`Memory`]. It is kept among
/// [`State::memories`].
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

    /// Writes that of the move with a name. Returns false if there is no place for it.
    #[doc(hidden)]
    fn replace(&self, state: &mut State<V>, of: Name) -> bool;
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

    fn replace(&self, state: &mut State<V>, of: Name) -> bool {
        state.memories.replace(Tag::of(of, M::WORDS), self)
    }
}
