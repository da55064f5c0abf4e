//! Circumstances of a tick: comparisons, states and events.

use std::fmt;
use std::sync::Arc;

use crate::trace::{EventRow, Row};

/// A condition on a tick: several facts that must all hold.
///
/// It prints in the syntax of scripts: `x > 11.4 and not airborne`.
#[derive(Clone, Debug, PartialEq)]
pub struct Circumstance {
    /// The facts.
    pub facts: Vec<Fact>,
}

/// A fact, or its negation.
#[derive(Clone, Debug, PartialEq)]
pub struct Fact {
    /// True if the fact must not hold.
    pub not: bool,
    /// The situation.
    pub situation: Situation,
}

/// A situation in a tick.
#[derive(Clone, Debug, PartialEq)]
pub enum Situation {
    /// An event happened in the tick.
    On(String),
    /// A quantity is below a number.
    Below(Quantity, f32),
    /// A quantity is above a number.
    Above(Quantity, f32),
    /// The gap to the body with this name is below a number of metres.
    NearerThan(Arc<str>, f32),
    /// The gap to the body with this name is above a number of metres.
    FurtherThan(Arc<str>, f32),
    /// A mode, or another state of [`Vocabulary::states`](crate::Vocabulary::states).
    Is(String),
}

/// A number of a tick.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Quantity {
    /// The position of the underside along x, in metres.
    X,
    /// The position along y.
    Y,
    /// The position along z.
    Z,
    /// The speed along the ground or, in the air, perpendicular to up, in m/s.
    Speed,
    /// The speed along up, in m/s.
    Rise,
}

impl Quantity {
    /// Every quantity with its name and unit.
    pub const NAMES: [(&'static str, Self, &'static str); 5] = [
        ("x", Self::X, "m"),
        ("y", Self::Y, "m"),
        ("z", Self::Z, "m"),
        ("speed", Self::Speed, "m/s"),
        ("rise", Self::Rise, "m/s"),
    ];

    /// Its value in a row.
    #[must_use]
    pub fn of(self, row: &Row) -> f32 {
        match self {
            Self::X => row.position[0],
            Self::Y => row.position[1],
            Self::Z => row.position[2],
            Self::Speed => row.speed,
            Self::Rise => row.rise,
        }
    }

    /// The name and unit.
    #[must_use]
    pub fn name(self) -> (&'static str, &'static str) {
        let (name, _, unit) = Self::NAMES[self as usize];
        (name, unit)
    }
}

impl Situation {
    fn holds(&self, row: &Row) -> bool {
        match self {
            Self::On(event) => row.events.iter().any(|one| one.is_called(event)),
            Self::Below(quantity, limit) => quantity.of(row) < *limit,
            Self::Above(quantity, limit) => quantity.of(row) > *limit,
            Self::NearerThan(name, limit) => row.gap_to(name).is_some_and(|gap| gap < *limit),
            Self::FurtherThan(name, limit) => row.gap_to(name).is_some_and(|gap| gap > *limit),
            Self::Is(state) => match state.as_str() {
                "rising" => row.mode == "airborne" && row.rise > 0.0,
                "falling" => row.mode == "airborne" && row.rise < 0.0,
                "at wall" => row.at_wall,
                "crouched" => row.crouched,
                "maneuver" => row.in_maneuver,
                mode => row.mode == *mode,
            },
        }
    }
}

impl Circumstance {
    /// Returns true if it holds in a row.
    #[must_use]
    pub fn holds(&self, row: &Row) -> bool {
        self.facts.iter().all(|fact| fact.situation.holds(row) != fact.not)
    }

    /// Returns true if it contains an event.
    #[must_use]
    pub fn asks_for_events(&self) -> bool {
        self.events().next().is_some()
    }

    /// The events in it, as they are written.
    pub fn events(&self) -> impl Iterator<Item = &str> {
        self.facts.iter().filter_map(|fact| match &fact.situation {
            Situation::On(event) => Some(event.as_str()),
            _ => None,
        })
    }

    /// Returns true if it compares this quantity with a number.
    #[must_use]
    pub fn asks_for_quantity(&self, asked: Quantity) -> bool {
        self.facts.iter().any(|fact| match fact.situation {
            Situation::Below(quantity, _) | Situation::Above(quantity, _) => quantity == asked,
            _ => false,
        })
    }

    /// The bodies to which it needs the gap.
    pub fn gaps(&self) -> impl Iterator<Item = &Arc<str>> {
        self.facts.iter().filter_map(|fact| match &fact.situation {
            Situation::NearerThan(name, _) | Situation::FurtherThan(name, _) => Some(name),
            _ => None,
        })
    }

    /// The states in it.
    pub fn states(&self) -> impl Iterator<Item = &str> {
        self.facts.iter().filter_map(|fact| match &fact.situation {
            Situation::Is(state) => Some(state.as_str()),
            _ => None,
        })
    }

    /// Returns true if both contain the same event of a row.
    pub(super) fn shares_an_event(&self, other: &Self, row: &Row) -> bool {
        row.events.iter().any(|event| self.asks_for(event) && other.asks_for(event))
    }

    fn asks_for(&self, event: &EventRow) -> bool {
        self.facts.iter().any(|fact| match &fact.situation {
            Situation::On(name) => !fact.not && event.is_called(name),
            _ => false,
        })
    }
}

impl fmt::Display for Circumstance {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (number, Fact { not, situation }) in self.facts.iter().enumerate() {
            let (and, not) = (if number > 0 { " and " } else { "" }, if *not { "not " } else { "" });
            write!(f, "{and}{not}")?;
            match situation {
                Situation::On(event) => match event.split_once(' ') {
                    Some((name, detail)) if needs_quotes(detail) => {
                        write!(f, "on {name} \"{detail}\"")?;
                    }
                    _ => write!(f, "on {event}")?,
                },
                Situation::Below(quantity, limit) => write!(f, "{} < {limit}", quantity.name().0)?,
                Situation::Above(quantity, limit) => write!(f, "{} > {limit}", quantity.name().0)?,
                Situation::NearerThan(name, limit) => write!(f, "gap to {} < {limit}", quoted(name))?,
                Situation::FurtherThan(name, limit) => write!(f, "gap to {} > {limit}", quoted(name))?,
                Situation::Is(state) => write!(f, "{state}")?,
            }
        }
        Ok(())
    }
}

/// A name as in scripts: in quotes unless it is one plain word.
fn quoted(name: &str) -> std::borrow::Cow<'_, str> {
    let is_plain = name.chars().all(|sign| sign.is_alphanumeric() || sign == '-' || sign == '_');
    if is_plain { name.into() } else { format!("\"{name}\"").into() }
}

/// Words that end a detail that is not in quotes.
pub(super) const ENDS: [&str; 3] = ["and", "until", "for"];

/// Returns true if a detail must be in quotes.
pub(super) fn needs_quotes(detail: &str) -> bool {
    detail.split(' ').any(|word| word.is_empty() || ENDS.contains(&word))
        || detail.contains([':', '+', ',', '#', '\t'])
}
