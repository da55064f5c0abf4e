//! A part of a lot of work, so that several machines can share it.

use std::fmt;
use std::str::FromStr;

use thiserror::Error;

/// One part of so many: every so-manieth piece of work.
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

/// Why a text is no shard.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("found `{0}`, expected K/N, a part from 1 to N of so many, as in 2/4")]
pub struct ShardError(String);

impl Shard {
    /// All of it.
    pub const ALL: Self = Self { part: 1, of: 1 };

    /// Returns the number of the part, from 1, and of how many.
    #[must_use]
    pub fn part_of(self) -> (usize, usize) {
        (self.part, self.of)
    }

    /// Returns the number, in the whole, of the piece at a place in this part, both from 0.
    #[must_use]
    pub fn number_at(self, place: usize) -> usize {
        place * self.of + self.part - 1
    }

    /// Whether it has the piece of that number, from 0.
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
