//! One measured figure, and whether it is what the tuning asks for.

use super::{FigureKind, Reading, SLACK};

/// A figure as a course measured it.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Value {
    measured: Option<f64>,
    asked: Option<f64>,
    /// By how much the course may be off: half of the last step of a search, or a tick.
    resolution: f64,
}

/// Returns a measured value; none for a figure that the tuning does not have.
pub(super) fn value(measured: impl Into<Option<f64>>) -> Value {
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
