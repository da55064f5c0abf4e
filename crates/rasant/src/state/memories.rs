//! What moves keep from tick to tick, each under its name.

use crate::memory::Memory;
use crate::name::Name;

/// Words of 4 bytes for the memories of all moves in the list, each found by the name of its move.
/// They are copied, compared, summed and kept with the state. When the list of a tuning changes,
/// moves of both lists keep theirs.
///
/// [`State::memory`](crate::State::memory) reads that of a move.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Memories {
    tags: Tags,
    words: [u32; Self::WORDS],
}

impl Memories {
    /// How many words there are for all moves together. A list whose moves need more
    /// does not compile.
    pub const WORDS: usize = 18;

    /// How many of these words the moves of the library take; the others are free for a game's own.
    pub const OURS: usize = 9;

    /// How many moves of a list can have a memory at most, those of the library among them.
    pub const MOVES: usize = 14;

    /// The memory that begins at the word `at`.
    #[inline]
    pub(crate) fn read<M: Memory>(&self, at: usize) -> M {
        M::read(&self.words[at..])
    }

    /// Keeps a memory that begins at the word `at`.
    #[inline]
    pub(crate) fn write<M: Memory>(&mut self, at: usize, memory: &M) {
        memory.write(&mut self.words[at..]);
    }

    /// The memory of a move, wherever it is; as it is at first if there is none.
    pub(crate) fn find<M: Memory>(&self, tag: Tag) -> M {
        match self.tags.place(tag) {
            Some(at) => self.read(at),
            None => M::read(&[0; Self::WORDS]),
        }
    }

    /// Replaces the memory of a move, wherever it is. Returns false if there is none.
    pub(crate) fn replace<M: Memory>(&mut self, tag: Tag, memory: &M) -> bool {
        let place = self.tags.place(tag);
        if let Some(at) = place {
            self.write(at, memory);
        }
        place.is_some()
    }

    /// The same memories, as they are at first.
    pub(crate) fn cleared(&self) -> Self {
        Self { tags: self.tags, words: [0; Self::WORDS] }
    }

    /// Returns true if a list of moves has put its memories in order.
    pub(crate) fn is_arranged(&self) -> bool {
        self.tags != Tags::NONE
    }

    /// Puts the memories where a list of moves has them: those of moves that are not in it are
    /// forgotten, and those of new ones are as at first.
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

/// Names a memory: by the name of its move, shortened to 12 bits, and by its size.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Tag(u16);

impl Tag {
    const NONE: Self = Self(0);
    const SIZE_BITS: u32 = 4;

    /// The tag of a memory of `words` words, at most 15; none for a memory of no size.
    pub const fn of(name: Name, words: usize) -> Self {
        assert!(words < 1 << Self::SIZE_BITS, "a move keeps at most 15 words");
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
    /// When there are too many, or two are the same.
    pub(crate) const fn with(mut self, tag: Tag) -> Self {
        if tag.0 == Tag::NONE.0 {
            return self;
        }
        let mut at = 0;
        while at < Memories::MOVES && self.0[at].0 != Tag::NONE.0 {
            assert!(
                self.0[at].0 != tag.0,
                "two moves of a list have the same name, or names that are too alike: rename one"
            );
            at += 1;
        }
        assert!(at < Memories::MOVES, "more moves of a list have a memory than a state has room for");
        self.0[at] = tag;
        self
    }

    /// These tags, and others after them.
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
        assert_eq!(memories.find::<u32>(tag("glide", 1)), 0, "it is gone");
        assert_eq!(memories.read::<[u32; 2]>(2), [5, 6], "in the order of the list");
    }
}
