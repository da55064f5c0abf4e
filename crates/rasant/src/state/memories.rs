//! What moves keep from tick to tick, one after another.

use crate::memory::Memory;

/// Words of 4 bytes for the memories of all moves in the list, one after another in
/// its order. They are copied, compared, summed and kept with the state.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Memories([u32; Memories::WORDS]);

impl Memories {
    /// How many words there are for all moves together. A list whose moves need more
    /// does not compile.
    pub const WORDS: usize = 16;

    /// The memory that begins at the word `at`.
    #[inline]
    pub(crate) fn read<M: Memory>(&self, at: usize) -> M {
        M::read(&self.0[at..])
    }

    /// Keeps a memory that begins at the word `at`.
    #[inline]
    pub(crate) fn write<M: Memory>(&mut self, at: usize, memory: &M) {
        memory.write(&mut self.0[at..]);
    }
}
