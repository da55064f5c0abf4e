//! What a figure is, and a course that measures some.

use rasant::{Hull, Tuning};
use serde::Serialize;

/// Ticks per second on the courses, unless another rate is given. Times are measured to
/// within a tick or better.
pub const RATE: u32 = 960;

/// Ticks per second of the game, unless another rate is given: the figures in ticks are
/// measured at it.
pub const GAME_RATE: u32 = 60;

/// The fraction by which a figure may differ from the number that asks for it. For lengths
/// under a metre it is this fraction of a metre, which is a clearance.
pub const SLACK: f64 = 0.005;

/// The tick rates of a sheet, in ticks per second.
///
/// ```
/// use rasant_lab::sheet::{GAME_RATE, Rates};
///
/// assert_eq!(Rates::from(960), Rates { course: 960, game: GAME_RATE });
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Rates {
    /// The rate of the courses. Most figures are the same at any rate; times are measured to
    /// within a tick of this.
    pub course: u32,
    /// The rate of the game. Figures in ticks, and delays, are measured at this rate.
    pub game: u32,
}

impl Default for Rates {
    fn default() -> Self {
        Self { course: RATE, game: GAME_RATE }
    }
}

impl From<u32> for Rates {
    /// Courses at this rate, for a game at [`GAME_RATE`].
    fn from(course: u32) -> Self {
        Self { course, ..Self::default() }
    }
}

/// One figure of a sheet.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reading {
    /// Its name: `jump-height`.
    pub name: &'static str,
    /// Its unit: m, s, m/s, m/s², /s, °, °/s, ×, ticks, or what is counted.
    pub unit: &'static str,
    /// The measured value.
    pub measured: f64,
    /// The value that the tuning asks for, where one number of it does.
    pub asked: Option<f64>,
    /// True if the two differ by more than [`SLACK`] and by more than the course resolves.
    pub parts: bool,
}

/// A figure that can be measured.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FigureKind {
    /// Its name.
    pub name: &'static str,
    /// Its unit.
    pub unit: &'static str,
    /// What it is, in a sentence.
    pub meaning: &'static str,
    /// The groups of knobs that move it, or its like, first of all.
    pub groups: &'static [&'static str],
}

/// A tuning to be measured.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Subject {
    pub(crate) tuning: Tuning,
    pub(crate) hull: Hull,
    pub(crate) rate: u32,
    pub(crate) game_rate: u32,
}

/// A course: the figures it gives, and how they are measured.
pub(crate) struct Course {
    pub(crate) kinds: &'static [FigureKind],
    pub(crate) measure: fn(&Subject) -> Measured,
}

/// The values of a course's figures, each with its name; empty if the course is not for the tuning.
pub(crate) type Measured = Vec<(&'static str, Value)>;

/// A figure as a course measured it.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Value {
    measured: Option<f64>,
    asked: Option<f64>,
    /// By how much the course may be off: half of the last step of a search, or a tick.
    resolution: f64,
}

/// Returns a measured value; none for a figure that the tuning does not have.
pub(crate) fn value(measured: impl Into<Option<f64>>) -> Value {
    Value { measured: measured.into(), ..Value::default() }
}

impl Value {
    /// Returns the value beside the number that the tuning asks for, if one does.
    pub fn asked(self, asked: impl Into<Option<f64>>) -> Self {
        Self { asked: asked.into(), ..self }
    }

    /// Returns the value beside the number of a knob.
    pub fn knob(self, asked: f32) -> Self {
        self.asked(f64::from(asked))
    }

    /// Returns the value, known to within `resolution` in its unit.
    pub fn within(self, resolution: f64) -> Self {
        Self { resolution, ..self }
    }

    /// The reading of this value on a sheet, if there is a finite one.
    pub fn reading(self, kind: &FigureKind) -> Option<Reading> {
        let measured = self.measured.filter(|number| number.is_finite())?;
        let least = if kind.unit == "m" { 1.0 } else { 1e-3 };
        let differs = |asked: f64| {
            let slack = SLACK * asked.abs().max(least);
            (measured - asked).abs() > slack.max(self.resolution)
        };
        let parts = self.asked.is_some_and(differs);
        Some(Reading { name: kind.name, unit: kind.unit, measured, asked: self.asked, parts })
    }
}

/// Writes the figures of a course: the groups of knobs that move them, then of each
/// its name, unit, meaning.
macro_rules! kinds {
    (of $($group:literal)*; $($name:literal, $unit:literal, $meaning:literal;)*) => {
        kinds!(@each [&[$($group),*]] $($name, $unit, $meaning;)*)
    };
    (@each [$groups:expr] $($name:literal, $unit:literal, $meaning:literal;)*) => {
        &[$(crate::sheet::figure::FigureKind { name: $name, unit: $unit, meaning: $meaning, groups: $groups }),*]
    };
}
pub(crate) use kinds;
