//! Figures, and the courses that measure them.

use rasant::{Hull, Tuning};
use serde::Serialize;

/// The default ticks per second on the courses. Times are measured to within a tick or better.
pub const RATE: u32 = 960;

/// The default ticks per second of the game, at which figures in ticks are measured.
pub const GAME_RATE: u32 = 60;

/// The fraction by which a figure may differ from the number that sets it. For lengths under a
/// metre it is this fraction of a metre, which is a clearance.
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
    /// The rate of the courses. Most figures do not depend on it; times are measured to within a
    /// tick of it.
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
    /// The name, as `jump-height`.
    pub name: &'static str,
    /// The unit: m, s, m/s, m/s², /s, °, °/s, ×, ticks, or what is counted.
    pub unit: &'static str,
    /// The measured value.
    pub measured: f64,
    /// The value that the tuning sets, if one number of it does.
    pub target: Option<f64>,
    /// True if the two differ by more than [`SLACK`] and by more than the course resolves.
    pub differs: bool,
}

/// A figure that can be measured.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FigureKind {
    /// The name.
    pub name: &'static str,
    /// The unit.
    pub unit: &'static str,
    /// The meaning, in a sentence.
    pub meaning: &'static str,
    /// The groups of knobs that affect it most.
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

/// The values of a course's figures, each with its name. Empty if the course does not apply to the
/// tuning.
pub(crate) type Measured = Vec<(&'static str, Value)>;

/// A figure as a course measured it.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Value {
    measured: Option<f64>,
    target: Option<f64>,
    /// The error of the course: half of the last step of a search, or a tick.
    resolution: f64,
}

/// A measured value; none for a figure that the tuning does not have.
pub(crate) fn value(measured: impl Into<Option<f64>>) -> Value {
    Value { measured: measured.into(), ..Value::default() }
}

impl Value {
    /// The value with the number that the tuning sets, if there is one.
    pub fn target(self, target: impl Into<Option<f64>>) -> Self {
        Self { target: target.into(), ..self }
    }

    /// The value with the number of a knob.
    pub fn knob(self, target: f32) -> Self {
        self.target(f64::from(target))
    }

    /// The value, known to within `resolution` in its unit.
    pub fn within(self, resolution: f64) -> Self {
        Self { resolution, ..self }
    }

    /// The reading of this value on a sheet, if it is finite.
    pub fn reading(self, kind: &FigureKind) -> Option<Reading> {
        let measured = self.measured.filter(|number| number.is_finite())?;
        let least = if kind.unit == "m" { 1.0 } else { 1e-3 };
        let is_off = |target: f64| {
            let slack = SLACK * target.abs().max(least);
            (measured - target).abs() > slack.max(self.resolution)
        };
        let differs = self.target.is_some_and(is_off);
        Some(Reading { name: kind.name, unit: kind.unit, measured, target: self.target, differs })
    }
}

/// Lists the figures of a course: the groups of knobs that affect them, then name, unit and meaning
/// of each.
macro_rules! kinds {
    (of $($group:literal)*; $($name:literal, $unit:literal, $meaning:literal;)*) => {
        kinds!(@each [&[$($group),*]] $($name, $unit, $meaning;)*)
    };
    (@each [$groups:expr] $($name:literal, $unit:literal, $meaning:literal;)*) => {
        &[$(crate::sheet::figure::FigureKind { name: $name, unit: $unit, meaning: $meaning, groups: $groups }),*]
    };
}
pub(crate) use kinds;
