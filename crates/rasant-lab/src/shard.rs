//! Parts of work, so that several machines can share it.

use std::fmt;
use std::str::FromStr;

use thiserror::Error;

/// One part of several: with part k of n, every n-th item, starting with the k-th.
///
/// ```
/// use rasant_lab::Shard;
///
/// let second: Shard = "2/3".parse().unwrap();
/// assert_eq!((0..7).filter(|number| second.contains(*number)).collect::<Vec<_>>(), [1, 4]);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shard {
    part: usize,
    of: usize,
}

/// The error for a text that is not a shard.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("found `{0}`, expected K/N, with K from 1 to N, as in 2/4")]
pub struct ShardError(String);

impl Shard {
    /// The whole.
    pub const ALL: Self = Self { part: 1, of: 1 };

    /// The number of the part, from 1, and the number of parts.
    #[must_use]
    pub fn part_of(self) -> (usize, usize) {
        (self.part, self.of)
    }

    /// The index in the whole of an item of this part, both from 0.
    #[must_use]
    pub fn number_at(self, place: usize) -> usize {
        place * self.of + self.part - 1
    }

    /// Returns true if the part contains the item with this index, from 0.
    #[must_use]
    pub fn contains(self, number: usize) -> bool {
        number % self.of == self.part - 1
    }
}

impl fmt::Display for Shard {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}/{}", self.part, self.of)
    }
}

impl FromStr for Shard {
    type Err = ShardError;

    fn from_str(text: &str) -> Result<Self, ShardError> {
        let parts = text.split_once('/').and_then(|(part, of)| Some((part.parse().ok()?, of.parse().ok()?)));
        match parts {
            Some((part, of)) if (1..=of).contains(&part) => Ok(Self { part, of }),
            _ => Err(ShardError(text.to_owned())),
        }
    }
}
