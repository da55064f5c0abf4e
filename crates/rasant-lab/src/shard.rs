//! A part of a lot of work, so that several machines can share it.

use std::str::FromStr;

use thiserror::Error;

/// One part of so many: every so-manieth piece of work.
///
/// ```
/// use rasant_lab::Shard;
///
/// let second: Shard = "2/3".parse().unwrap();
/// assert_eq!((0..7).filter(|number| second.has(*number)).collect::<Vec<_>>(), [1, 4]);
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

    /// Whether it has the piece of that number, from 0.
    #[must_use]
    pub fn has(self, number: usize) -> bool {
        number % self.of == self.part - 1
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
