//! Many runs over one or two knobs, and how each figure responds.

use rayon::prelude::*;
use serde::Serialize;
use thiserror::Error;

use crate::expect::{MEASURES, Measure};
use crate::run::run;
use crate::shard::Shard;
use crate::sheet::{Figures, Rates};
use crate::trial::Trial;
use rasant_files::{NumberError, TuningFile, unit_in};

/// A knob and its values.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Axis {
    /// The path of the knob.
    pub knob: String,
    /// The unit.
    pub unit: &'static str,
    /// The values, in the unit of files.
    pub values: Vec<f32>,
}

/// Why a range cannot be used.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum AxisError {
    /// It has the wrong form.
    #[error("found `{0}`, expected FROM:TO:STEP, as in 1:3:0.5")]
    Form(String),
    /// Its step never reaches the end.
    #[error("the step {0} does not lead from {1} to {2}, expected one that does")]
    Step(f32, f32, f32),
    /// It has too many values.
    #[error("it has {0} values, expected at most {most}", most = Axis::MAX)]
    Many(f64),
    /// A value is not allowed.
    #[error(transparent)]
    Number(#[from] NumberError),
}

impl Axis {
    /// The maximum number of values of a knob.
    pub const MAX: usize = 100_000;

    /// Parses `FROM:TO:STEP` as values of a number of `file`: a knob, or a size of its hull. Both
    /// ends are included if the step reaches them.
    ///
    /// # Errors
    /// An [`AxisError`] if it is not a range, or a value is not allowed in `file`.
    pub fn parse(file: &TuningFile, path: &str, range: &str) -> Result<Self, AxisError> {
        let form = || AxisError::Form(range.to_owned());
        let parts: Vec<f32> =
            range.split(':').map(|part| part.trim().parse()).collect::<Result<_, _>>().map_err(|_| form())?;
        let [from, to, step] = parts[..] else { return Err(form()) };
        let count = (f64::from(to) - f64::from(from)) / f64::from(step);
        if !count.is_finite() || count < 0.0 {
            return Err(AxisError::Step(step, from, to));
        }
        let count = (count + 1e-4).floor() + 1.0;
        if count > Self::MAX as f64 {
            return Err(AxisError::Many(count));
        }
        let count = count as usize;
        let mut tried = file.clone();
        let knob = file.knob(path).map_err(NumberError::from)?;
        let values: Vec<f32> =
            (0..count).map(|number| (f64::from(from) + f64::from(step) * number as f64) as f32).collect();
        values.iter().try_for_each(|value| tried.set_number(path, *value))?;
        Ok(Self { knob: path.to_owned(), unit: unit_in(knob.unit.sign(), file.tuning.scale), values })
    }
}

/// What is measured at each point.
#[derive(Clone, Copy, Debug)]
pub enum Measuring<'a> {
    /// Figures of the movement sheet.
    Sheet {
        /// 2 or 3.
        dimensions: usize,
        /// Ticks per second of the courses and of the game.
        rates: Rates,
        /// The available figures.
        figures: Figures,
    },
    /// Numbers of a trial's summary.
    Trial(&'a Trial),
}

impl Measuring<'_> {
    /// The names and units of everything that can be measured.
    #[must_use]
    pub fn figures(&self) -> Vec<(&'static str, &'static str)> {
        match self {
            Self::Sheet { figures, .. } => figures.kinds().map(|kind| (kind.name, kind.unit)).collect(),
            Self::Trial(_) => MEASURES.iter().map(|one| (one.name, one.unit)).collect(),
        }
    }

    /// The named figures of a tuning, in that order.
    #[must_use]
    pub fn of(&self, file: &TuningFile, names: &[&str]) -> Vec<Option<f64>> {
        match self {
            Self::Sheet { dimensions, rates, figures } => {
                let sheet = figures.sheet_of(file, *dimensions, *rates, &|kind| names.contains(&kind.name));
                names.iter().map(|name| sheet.get(name)).collect()
            }
            Self::Trial(trial) => {
                let done = run(&trial.with_tuning(file.clone()));
                let number = |name: &&str| MEASURES.iter().find(|one| one.name == *name);
                let value = |one: &Measure| Some(one.of(&done.summary)).filter(|value| value.is_finite());
                names.iter().map(|name| number(name).and_then(value)).collect()
            }
        }
    }
}

/// Many runs over one or two knobs.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Variation {
    /// The title of the tuning.
    pub title: String,
    /// The knobs with their values.
    pub axes: Vec<Axis>,
    /// The names and units of the figures.
    pub figures: Vec<(&'static str, &'static str)>,
    /// One point per combination. The last knob changes first.
    pub points: Vec<Point>,
}

/// One combination of values, with its figures.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Point {
    /// The values of the knobs.
    pub values: Vec<f32>,
    /// The figures; `None` if the tuning does not have one.
    pub measured: Vec<Option<f64>>,
}

/// Measures a tuning at every combination of the axes' values, or at those of a part, on all cores.
/// `done` is called after each.
#[must_use]
pub fn vary(
    file: &TuningFile,
    axes: &[Axis],
    figures: &[(&'static str, &'static str)],
    measuring: Measuring<'_>,
    shard: Shard,
    done: &(dyn Fn() + Sync),
) -> Variation {
    let names: Vec<&str> = figures.iter().map(|(name, _)| *name).collect();
    let count: usize = axes.iter().map(|axis| axis.values.len()).product();
    let numbers: Vec<usize> = (0..count).filter(|number| shard.contains(*number)).collect();
    let points = numbers.into_par_iter().map(|number| {
        let values = values_at(axes, number);
        let mut changed = file.clone();
        let set =
            axes.iter().zip(&values).try_for_each(|(axis, value)| changed.set_number(&axis.knob, *value));
        // Each value is allowed alone, but two sizes of a hull may exclude each other.
        let measured = if set.is_ok() { measuring.of(&changed, &names) } else { vec![None; names.len()] };
        let point = Point { measured, values };
        done();
        point
    });
    Variation {
        title: file.title.clone(),
        axes: axes.to_vec(),
        figures: figures.to_vec(),
        points: points.collect(),
    }
}

fn values_at(axes: &[Axis], number: usize) -> Vec<f32> {
    let mut left = number;
    let mut values = vec![0.0; axes.len()];
    for (value, axis) in values.iter_mut().zip(axes).rev() {
        *value = axis.values[left % axis.values.len()];
        left /= axis.values.len();
    }
    values
}

/// The response of a figure to a variation.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Answer {
    /// The name of the figure.
    pub name: &'static str,
    /// The unit.
    pub unit: &'static str,
    /// Its value at the first point.
    pub first: Option<f64>,
    /// Its value at the last point.
    pub last: Option<f64>,
    /// Its smallest value.
    pub least: f64,
    /// Its largest value.
    pub most: f64,
}

impl Variation {
    /// The figures that change over the points by more than a thousandth, with their responses.
    #[must_use]
    pub fn answers(&self) -> Vec<Answer> {
        let answer = |(number, (name, unit)): (usize, &(&'static str, &'static str))| {
            let all = || self.points.iter().map(move |point| point.measured[number]);
            let least = all().flatten().fold(f64::INFINITY, f64::min);
            let most = all().flatten().fold(f64::NEG_INFINITY, f64::max);
            let comes_and_goes = all().any(|one| one.is_none()) && least.is_finite();
            let changes = most - least > 1e-3 * most.abs().max(least.abs()).max(1e-6);
            (changes || comes_and_goes).then(|| Answer {
                name,
                unit,
                first: all().next().flatten(),
                last: all().next_back().flatten(),
                least,
                most,
            })
        };
        self.figures.iter().enumerate().filter_map(answer).collect()
    }
}
