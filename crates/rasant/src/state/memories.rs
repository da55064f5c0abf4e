//! The memories of moves.

use crate::memory::Memory;
use crate::name::Name;

/// Words of 4 bytes for the memories of all moves in the list, found by the names of the moves.
/// They are copied, compared and stored with the state. When the list of a tuning changes, moves of
/// both lists keep their memories.
///
/// [`State::memory`](crate::State::memory) reads the memory of a move.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Memories {
    tags: Tags,
    words: [u32; Self::WORDS],
}

impl Memories {
    /// The number of words for all moves together. A list whose moves need more does not compile.
    pub const WORDS: usize = 18;

    /// The number of words that the moves of the library use. The others are free for a game's own.
    pub const OURS: usize = 9;

    /// The maximum number of moves of a list with a memory, those of the library included.
    pub const MOVES: usize = 14;

    /// The memory that begins at the word `at`.
    #[inline]
    pub(crate) fn read<M: Memory>(&self, at: usize) -> M {
        M::read(&self.words[at..])
    }

    /// Stores a memory at the word `at`.
    #[inline]
    pub(crate) fn write<M: Memory>(&mut self, at: usize, memory: &M) {
        memory.write(&mut self.words[at..]);
    }

    /// The memory of a move, wherever it is stored. Its initial value if there is none.
    pub(crate) fn find<M: Memory>(&self, tag: Tag) -> M {
        match self.tags.place(tag) {
            Some(at) => self.read(at),
            None => M::read(&[0; Self::WORDS]),
        }
    }

    /// Replaces the memory of a move. Returns false if there is none.
    pub(crate) fn replace<M: Memory>(&mut self, tag: Tag, memory: &M) -> bool {
        let place = self.tags.place(tag);
        if let Some(at) = place {
            self.write(at, memory);
        }
        place.is_some()
    }

    /// The same memories, with their initial values.
    pub(crate) fn cleared(&self) -> Self {
        Self { tags: self.tags, words: [0; Self::WORDS] }
    }

    /// Returns true if a list of moves has arranged its memories.
    pub(crate) fn is_arranged(&self) -> bool {
        self.tags != Tags::NONE
    }

    /// Moves the memories to where a list of moves has them. Memories of moves that are not in it
    /// are dropped, and those of new ones get their initial values.
    #[inline]
    pub(crate) fn arrange(&mut self, tags: &Tags) {
        if self.tags != *tags {
            *self = self.arranged(tags);
        }
    }

    #[cold]
    fn arranged(&self, tags: &Tags) -> Self {
        let mut arranged = Self { tags: *tags, words: [0; Self::WORDS] };
        let mut at = 0;
        for tag in tags.0 {
            let size = tag.words();
            if let Some(from) = self.tags.place(tag) {
                arranged.words[at..at + size].copy_from_slice(&self.words[from..from + size]);
            }
            at += size;
        }
        arranged
    }
}

/// Identifies a memory by the name of its move, shortened to 12 bits, and its size.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Tag(u16);

impl Tag {
    const NONE: Self = Self(0);
    const SIZE_BITS: u32 = 4;

    /// The tag of a memory of `words` words, at most 15. A memory without words has none.
    pub const fn of(name: Name, words: usize) -> Self {
        assert!(words < 1 << Self::SIZE_BITS, "the memory of a move has at most 15 words");
        if words == 0 {
            return Self::NONE;
        }
        let hash = name.hash32();
        let short = (hash ^ (hash >> 12) ^ (hash >> 24)) as u16;
        Self(short << Self::SIZE_BITS | words as u16)
    }

    fn words(self) -> usize {
        usize::from(self.0 & ((1 << Self::SIZE_BITS) - 1))
    }
}

/// The tags of all memories of a list, in its order.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[doc(hidden)]
pub struct Tags([Tag; Memories::MOVES]);

impl Tags {
    pub(crate) const NONE: Self = Self([Tag::NONE; Memories::MOVES]);

    /// These tags, and one more.
    ///
    /// # Panics
    /// If there are too many, or two are the same.
    pub(crate) const fn with(mut self, tag: Tag) -> Self {
        if tag.0 == Tag::NONE.0 {
            return self;
        }
        let mut at = 0;
        while at < Memories::MOVES && self.0[at].0 != Tag::NONE.0 {
            assert!(
                self.0[at].0 != tag.0,
                "two moves of a list have the same name, or names that are too similar: rename one"
            );
            at += 1;
        }
        assert!(at < Memories::MOVES, "a list has more moves with memory than a state can store");
        self.0[at] = tag;
        self
    }

    /// These tags, followed by others.
    pub(crate) const fn then(mut self, others: Self) -> Self {
        let mut at = 0;
        while at < Memories::MOVES {
            self = self.with(others.0[at]);
            at += 1;
        }
        self
    }

    /// The word at which a memory begins.
    fn place(&self, tag: Tag) -> Option<usize> {
        let number = self.0.iter().position(|&other| other == tag && tag != Tag::NONE)?;
        Some(self.0[..number].iter().map(|tag| tag.words()).sum())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const fn tag(name: &str, words: usize) -> Tag {
        Tag::of(Name::new(name), words)
    }

    #[test]
    fn memories_are_found_wherever_a_list_puts_them() {
        let before = Tags::NONE.with(tag("rope", 3)).with(tag("glide", 1)).with(tag("rail", 2));
        let mut memories = Memories::default();
        memories.arrange(&before);
        memories.write(0, &[1u32, 2, 3]);
        memories.write(3, &4u32);
        memories.write(4, &[5u32, 6]);
        let after = Tags::NONE.with(tag("charge", 2)).with(tag("rail", 2)).with(tag("rope", 3));
        memories.arrange(&after);
        assert_eq!(memories.find::<[u32; 2]>(tag("rail", 2)), [5, 6]);
        assert_eq!(memories.find::<[u32; 3]>(tag("rope", 3)), [1, 2, 3]);
        assert_eq!(memories.find::<[u32; 2]>(tag("charge", 2)), [0, 0], "it is new");
        assert_eq!(memories.find::<u32>(tag("glide", 1)), 0, "it was removed");
        assert_eq!(memories.read::<[u32; 2]>(2), [5, 6], "in the order of the list");
    }
}
