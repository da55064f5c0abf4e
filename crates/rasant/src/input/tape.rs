//! Recorded intents.

use super::Intent;

/// Recorded intents, one a tick. Replayed from the same state they give the
/// same bits.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Tape {
    intents: Vec<Intent>,
}

impl Tape {
    /// An empty tape.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Adds the intent of the next tick.
    pub fn record(&mut self, intent: Intent) {
        self.intents.push(intent);
    }

    /// The intents, first tick first.
    #[must_use]
    pub fn intents(&self) -> &[Intent] {
        &self.intents
    }

    /// The intent of a tick, from 0; at rest beyond the end.
    #[must_use]
    pub fn at(&self, tick: usize) -> Intent {
        self.intents.get(tick).copied().unwrap_or_default()
    }

    /// How many ticks are recorded.
    #[must_use]
    pub fn len(&self) -> usize {
        self.intents.len()
    }

    /// Whether nothing is recorded.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.intents.is_empty()
    }
}

impl FromIterator<Intent> for Tape {
    fn from_iter<I: IntoIterator<Item = Intent>>(intents: I) -> Self {
        Self { intents: intents.into_iter().collect() }
    }
}
