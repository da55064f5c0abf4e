//! Fits knobs to figures: finds values of the free knobs for which figures of the sheet reach their
//! targets.
//!
//! Closed forms are tried first: figures that a knob sets directly, and the distance of an even
//! ramp, v·t/2. If those do not reach all targets, the knobs are searched for, from their current
//! values and from other places in their ranges, each on a scale of factors around its value, or of
//! steps around 0: a single knob by bisection, several by M. J. D. Powell's "The BOBYQA algorithm
//! for bound constrained optimization without derivatives", 2009. Knobs with whole numbers are
//! tried in every combination. Everything is measured at the sheet's own rate, on all cores; the
//! result does not depend on their number.

use bobyqa::{Bobyqa, Config};
use rasant::tuning::{Knob, Unit};
use rayon::prelude::*;
use serde::Serialize;
use thiserror::Error as ThisError;

use crate::sheet::{Figures, RATE, SLACK, Sheet};
use rasant_files::{NumberError, TuningFile, unit_in};

/// A figure of the sheet, with its target value.
#[derive(Clone, Debug, PartialEq)]
pub struct Target {
    /// The figure's name.
    pub figure: &'static str,
    /// The target value, in the unit of the figure.
    pub value: f64,
}

/// Why a fit cannot begin.
#[derive(Clone, Debug, PartialEq, ThisError)]
pub enum FitError {
    /// There is no figure of that name.
    #[error("there is no figure `{0}`{near}", near = suggestion(*.1))]
    Figure(String, Option<&'static str>),
    /// A target is not a number.
    #[error("found `{0}`, expected FIGURE=NUMBER, as in jump-height=3.2")]
    Target(String),
    /// A knob cannot be set.
    #[error(transparent)]
    Number(#[from] NumberError),
    /// The bounds of a knob have the wrong form.
    #[error("found `{0}`, expected KNOB or KNOB=FROM:TO, as in fall.gravity=1.2:2")]
    Bounds(String),
    /// The bounds of a knob are outside its range.
    #[error("{0}: found {1} to {2}, expected two numbers from {3} to {4}, the smaller first")]
    Range(&'static str, f32, f32, f32, f32),
    /// There is no whole number between the bounds of a knob that needs one.
    #[error("{0}: found {1} to {2}, expected a whole number between them")]
    NoWhole(&'static str, f32, f32),
    /// The whole-number knobs have too many combinations.
    #[error("the whole-number knobs have {0} combinations, expected at most {most}: give some of them bounds", most = MOST_SETS)]
    Combinations(u64),
}

/// A knob that may be changed, with bounds.
#[derive(Clone, Debug, PartialEq)]
pub struct Free {
    /// The path of the knob.
    pub knob: &'static str,
    /// The smallest and the largest value that it may get, in the unit of files. `None` for its
    /// range.
    pub bounds: Option<[f32; 2]>,
}

impl Free {
    /// Parses `KNOB` or `KNOB=FROM:TO`, where the knob is a number of `file`.
    ///
    /// # Errors
    /// A [`FitError`] if there is no such knob, or the bounds are not two numbers of its range.
    ///
    /// ```
    /// use rasant_lab::files::TuningFile;
    /// use rasant_lab::fit::Free;
    ///
    /// let file = TuningFile::default();
    /// let free = Free::parse(&file, "fall.gravity=1.2:2").unwrap();
    /// assert_eq!(free.bounds, Some([1.2, 2.0]));
    /// assert!(Free::parse(&file, "fall.gravity=2:1.2").is_err());
    /// ```
    pub fn parse(file: &TuningFile, text: &str) -> Result<Self, FitError> {
        let (path, bounds) = text.split_once('=').map_or((text, None), |(path, bounds)| (path, Some(bounds)));
        let knob = file.knob(path.trim()).map_err(NumberError::from)?;
        let Some(bounds) = bounds else { return Ok(Self { knob: knob.path, bounds: None }) };
        let form = || FitError::Bounds(text.to_owned());
        let (from, to) = bounds.split_once(':').ok_or_else(form)?;
        let number = |text: &str| text.trim().parse::<f32>().map_err(|_| form());
        let (from, to) = (number(from)?, number(to)?);
        let Knob { min, max, .. } = knob.scaled(file.tuning.scale);
        if !(min <= from && from <= to && to <= max) {
            return Err(FitError::Range(knob.path, from, to, min, max));
        }
        if is_whole(knob) && from.ceil() > to.floor() {
            return Err(FitError::NoWhole(knob.path, from, to));
        }
        Ok(Self { knob: knob.path, bounds: Some([from, to]) })
    }
}

impl From<&'static str> for Free {
    /// A knob with this path, free in its whole range.
    fn from(knob: &'static str) -> Self {
        Self { knob, bounds: None }
    }
}

fn suggestion(near: Option<&str>) -> String {
    near.map_or(String::new(), |near| format!(", expected `{near}`?"))
}

impl Target {
    /// Parses `FIGURE=NUMBER`, optionally with the figure's unit. The figure is one of `figures`.
    ///
    /// # Errors
    /// A [`FitError`] if there is no such figure, or no number.
    pub fn parse(figures: Figures, text: &str) -> Result<Self, FitError> {
        let bad = || FitError::Target(text.to_owned());
        let (name, number) = text.split_once('=').ok_or_else(bad)?;
        let kind = figures
            .kind(name.trim())
            .ok_or_else(|| FitError::Figure(name.trim().to_owned(), figures.nearest(name.trim())))?;
        let number = number.trim();
        let number = number.strip_suffix(kind.unit).unwrap_or(number).trim_end();
        let value: f64 = number.parse().map_err(|_| bad())?;
        if value.is_finite() { Ok(Self { figure: kind.name, value }) } else { Err(bad()) }
    }
}

/// The targets of a fit, and the knobs that it may change.
#[derive(Clone, Copy, Debug)]
pub struct Goal<'a> {
    /// 2 or 3.
    pub dimensions: usize,
    /// The available figures.
    pub figures: Figures,
    /// The figures with their target values.
    pub targets: &'a [Target],
    /// The knobs that may be changed.
    pub free: &'a [Free],
}

/// The result of a fit.
#[derive(Clone, Debug, PartialEq)]
pub struct Fit {
    /// The tuning that was found.
    pub file: TuningFile,
    /// The targets, and what was reached.
    pub reached: Vec<Reached>,
    /// The free knobs, with their values before and after.
    pub turned: Vec<Turned>,
}

/// The result for a target.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reached {
    /// The figure.
    pub figure: &'static str,
    /// Its unit.
    pub unit: &'static str,
    /// The target value.
    pub value: f64,
    /// The measured value; `None` if the tuning does not have the figure.
    pub measured: Option<f64>,
    /// The result.
    pub ending: Ending,
    /// If it is out of reach, the nearest value that these knobs were found to give without any
    /// other target.
    pub nearest: Option<f64>,
}

/// The result for a target.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Ending {
    /// Reached, to within [`SLACK`].
    Reached,
    /// These knobs reach it alone, but were not found to do so together with the other targets.
    NotTogether,
    /// These knobs were not found to reach it, even alone.
    OutOfReach,
}

/// A free knob.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Turned {
    /// The path.
    pub knob: &'static str,
    /// The unit.
    pub unit: &'static str,
    /// The value before.
    pub before: f32,
    /// The value after.
    pub after: f32,
    /// True if a closed form gave it.
    pub solved: bool,
}

/// Distances of even ramps, with the times that determine them.
const RAMPS: &[(&str, &str)] = &[
    ("walk-reach-distance", "walk.reach_time"),
    ("walk-stop-distance", "walk.stop_time"),
    ("walk-turn-distance", "walk.turn_time"),
    ("air-stop-distance", "air.stop_time"),
    ("air-turn-distance", "air.turn_time"),
];

/// The maximum number of combinations of whole numbers.
const MOST_SETS: u64 = 100_000;

/// Changes the free knobs so that the figures of a tuning reach their targets. `measured` is called
/// after each measurement, from any thread.
///
/// # Errors
/// A [`FitError`] if the file has no such knob, or there are too many combinations of whole
/// numbers.
pub fn fit(file: &TuningFile, goal: Goal<'_>, measured: &(dyn Fn() + Sync)) -> Result<Fit, FitError> {
    let Goal { dimensions, figures, targets, free } = goal;
    let knobs = free.iter().map(|free| turnable(file, free)).collect::<Result<Vec<_>, _>>()?;
    let within = within_bounds(file, &knobs);
    let task = Task { file: &within, dimensions, figures, targets, knobs: &knobs, tell: measured };
    let Found { file: mut found, solved } = task.best()?;
    found.title = file.title.clone();
    let sheet = task.measured(&found);
    let reached = targets.iter().map(|target| {
        let measured = sheet.get(target.figure);
        let unit = figures.kind(target.figure).map_or("", |kind| unit_in(kind.unit, file.tuning.scale));
        let (ending, nearest) = match is_met(&sheet, target) {
            true => (Ending::Reached, None),
            false => task.alone(target, measured)?,
        };
        Ok(Reached { figure: target.figure, unit, value: target.value, measured, ending, nearest })
    });
    let reached = reached.collect::<Result<_, FitError>>()?;
    let turned = knobs.iter().map(|turned| Turned {
        knob: turned.knob.path,
        unit: turned.knob.unit.sign(),
        before: value(file, turned.knob),
        after: value(&found, turned.knob),
        solved: solved.contains(&turned.knob.path),
    });
    Ok(Fit { reached, turned: turned.collect(), file: found })
}

/// A knob that is changed, within bounds.
#[derive(Clone, Copy)]
struct Turning {
    knob: &'static Knob,
    bounds: [f32; 2],
}

impl Turning {
    /// The smallest and the largest value in `file`, where the sizes of a hull limit each other.
    fn range(&self, file: &TuningFile) -> [f32; 2] {
        let [least, most] = file.range_of(self.knob.path).unwrap_or(self.bounds);
        let [from, to] = self.bounds;
        [least.max(from).min(most), most.min(to).max(least)]
    }

    fn is_whole(&self) -> bool {
        is_whole(self.knob)
    }
}

fn is_whole(knob: &Knob) -> bool {
    matches!(knob.unit, Unit::Count | Unit::Switch)
}

fn turnable(file: &TuningFile, free: &Free) -> Result<Turning, FitError> {
    let knob = file.knob(free.knob).map_err(NumberError::from)?;
    // Setting a size that the hull's shape does not have is an error.
    let mut tried = file.clone();
    tried.set_number(free.knob, file.number(free.knob).unwrap_or(knob.default))?;
    let Knob { min, max, .. } = knob.scaled(file.tuning.scale);
    let bounds = free.bounds.unwrap_or([min, max]);
    Ok(Turning { knob, bounds })
}

/// The tuning with every free knob within its bounds.
fn within_bounds(file: &TuningFile, knobs: &[Turning]) -> TuningFile {
    let mut within = file.clone();
    for turning in knobs {
        let [least, most] = turning.range(&within);
        let stands = value(&within, turning.knob);
        if stands < least || stands > most {
            // It is within the range.
            let _ = within.set_number(turning.knob.path, stands.clamp(least, most));
        }
    }
    within
}

fn value(file: &TuningFile, knob: &Knob) -> f32 {
    file.number(knob.path).unwrap_or(knob.default)
}

/// A tuning that was found, and the knobs that closed forms gave.
struct Found {
    file: TuningFile,
    solved: Vec<&'static str>,
}

/// The targets and the knobs of a search.
#[derive(Clone, Copy)]
struct Task<'a> {
    file: &'a TuningFile,
    dimensions: usize,
    figures: Figures,
    targets: &'a [Target],
    knobs: &'a [Turning],
    tell: &'a (dyn Fn() + Sync),
}

impl Task<'_> {
    fn measured(&self, file: &TuningFile) -> Sheet {
        let value = |name: &str| self.targets.iter().any(|target| target.figure == name);
        let sheet = self.figures.sheet_of(file, self.dimensions, RATE, &|kind| value(kind.name));
        (self.tell)();
        sheet
    }

    fn is_met_by(&self, file: &TuningFile) -> bool {
        let sheet = self.measured(file);
        self.targets.iter().all(|target| is_met(&sheet, target))
    }

    /// The best tuning over all combinations of whole numbers.
    fn best(&self) -> Result<Found, FitError> {
        let (whole, real): (Vec<Turning>, Vec<Turning>) = self.knobs.iter().partition(|knob| knob.is_whole());
        let sets = sets_of_whole(&whole, self.file)?;
        // Each with the other knobs unchanged. The best first, and of equal ones the nearest.
        let mut tried: Vec<(f64, Vec<Option<f64>>, TuningFile)> = sets
            .par_iter()
            .map(|set| {
                let mut file = self.file.clone();
                for (turning, number) in whole.iter().zip(set) {
                    // It is within its range.
                    let _ = file.set_number(turning.knob.path, *number);
                }
                let sheet = self.measured(&file);
                let figures = self.targets.iter().map(|target| sheet.get(target.figure)).collect();
                (self.cost_from(&sheet), figures, file)
            })
            .collect();
        tried.sort_by(|a, b| a.0.total_cmp(&b.0));
        let nearest = tried[0].2.clone();
        if real.is_empty() || tried[0].0 <= REACHED {
            return Ok(Found { file: nearest, solved: Vec::new() });
        }
        // Combinations with the same figures differ in what the targets do not measure.
        tried.dedup_by(|a, b| a.1 == b.1);
        tried.truncate(MOST_SEARCHED);
        let mut best: Option<(f64, Found)> = None;
        for some in tried.chunks(SEARCHED_AT_ONCE) {
            let found: Vec<(f64, bool, Found)> = some
                .par_iter()
                .map(|(_, _, file)| {
                    let task = Task { file, knobs: &real, ..*self };
                    let found = task.solved_or_searched();
                    (self.cost_of(&found.file), self.is_met_by(&found.file), found)
                })
                .collect();
            for (cost, is_met, found) in found {
                if is_met {
                    return Ok(found);
                }
                if best.as_ref().is_none_or(|(least, _)| cost < *least) {
                    best = Some((cost, found));
                }
            }
        }
        Ok(best.map_or_else(|| Found { file: nearest, solved: Vec::new() }, |(_, found)| found))
    }

    fn solved_or_searched(&self) -> Found {
        let (file, solved) = self.solved();
        if self.knobs.is_empty() || self.is_met_by(&file) {
            return Found { file, solved };
        }
        // The remaining knobs, if they suffice. Otherwise another knob spoils a closed form, and
        // all are searched for.
        let left: Vec<Turning> =
            self.knobs.iter().filter(|turning| !solved.contains(&turning.knob.path)).copied().collect();
        if !solved.is_empty() && !left.is_empty() {
            let found = Task { file: &file, knobs: &left, ..*self }.found();
            if self.is_met_by(&found) {
                return Found { file: found, solved };
            }
        }
        Found { file: self.found(), solved: Vec::new() }
    }

    fn found(&self) -> TuningFile {
        let found = match self.knobs {
            [turning] => self.narrowed_down(turning),
            _ => self.searched(&self.solved().0),
        };
        self.rounded(found)
    }

    /// The tuning with each knob rounded to as few digits as give the same figures, to a fiftieth
    /// of the tolerance.
    fn rounded(&self, mut file: TuningFile) -> TuningFile {
        let least = self.cost_of(&file).max(PRECISE);
        for turning in self.knobs {
            let stands = value(&file, turning.knob);
            for digits in 1..6 {
                let mut tried = file.clone();
                let [low, high] = turning.range(&file);
                let number = with_digits(stands, digits).clamp(low, high);
                if tried.set_number(turning.knob.path, number).is_ok() && self.cost_of(&tried) <= least {
                    file = tried;
                    break;
                }
            }
        }
        file
    }

    /// The tuning with the values of closed forms, and the knobs that they set.
    fn solved(&self) -> (TuningFile, Vec<&'static str>) {
        let mut found = self.file.clone();
        let mut solved: Vec<&'static str> = Vec::new();
        for target in self.targets {
            if let Some(knob) = self.own_knob(target, &found, &solved) {
                // It was tried before.
                let _ = found.set_number(knob, target.value as f32);
                solved.push(knob);
            }
        }
        for Target { figure, value } in self.targets {
            let ramp = RAMPS.iter().find(|ramp| ramp.0 == *figure);
            let free = |turning: &&Turning| {
                ramp.is_some_and(|ramp| ramp.1 == turning.knob.path) && !solved.contains(&turning.knob.path)
            };
            let Some(turning) = self.knobs.iter().find(free) else { continue };
            let time = (2.0 * value / f64::from(found.tuning.walk.speed.abs())) as f32;
            let [least, most] = turning.range(&found);
            if (least..=most).contains(&time) && found.set_number(turning.knob.path, time).is_ok() {
                solved.push(turning.knob.path);
            }
        }
        (found, solved)
    }

    /// The knob that sets the figure of a target directly: one with the same unit that reaches the
    /// target when it is set to it.
    fn own_knob(&self, target: &Target, found: &TuningFile, solved: &[&str]) -> Option<&'static str> {
        let unit = self.figures.kind(target.figure)?.unit;
        let wished = target.value as f32;
        let task = Task { targets: std::slice::from_ref(target), ..*self };
        let before = task.measured(found).get(target.figure);
        self.knobs.iter().find_map(|turning| {
            let [least, most] = turning.range(found);
            let path = turning.knob.path;
            let is_free = !turning.is_whole() && !solved.contains(&path);
            if !is_free || turning.knob.unit.sign() != unit || !(least..=most).contains(&wished) {
                return None;
            }
            let mut tried = found.clone();
            tried.set_number(path, wished).ok()?;
            let sheet = task.measured(&tried);
            // Not a knob that has no effect on it.
            let is_moved = sheet.get(target.figure) != before || value(found, turning.knob) == wished;
            (is_met(&sheet, target) && is_moved).then_some(path)
        })
    }

    /// Whether the knobs reach a target without the others, and how near they come if not.
    fn alone(&self, target: &Target, measured: Option<f64>) -> Result<(Ending, Option<f64>), FitError> {
        let task = Task { targets: std::slice::from_ref(target), ..*self };
        let sheet = task.measured(&task.best()?.file);
        if is_met(&sheet, target) {
            return Ok((Ending::NotTogether, None));
        }
        let all = [measured, sheet.get(target.figure)];
        let nearest = all.into_iter().flatten().min_by(|a, b| off(*a, target).total_cmp(&off(*b, target)));
        Ok((Ending::OutOfReach, nearest))
    }

    fn cost_of(&self, file: &TuningFile) -> f64 {
        self.cost_from(&self.measured(file))
    }
}

/// The maximum number of combinations of whole numbers, those nearest to the targets, for which the
/// other knobs are searched for.
const MOST_SEARCHED: usize = 512;
/// The number of combinations of whole numbers that are searched at a time.
const SEARCHED_AT_ONCE: usize = 16;

/// A number rounded to this many significant digits.
fn with_digits(number: f32, digits: i32) -> f32 {
    if number == 0.0 || !number.is_finite() {
        return number;
    }
    let number = f64::from(number);
    let scale = 10f64.powi(digits - 1 - number.abs().log10().floor() as i32);
    ((number * scale).round() / scale) as f32
}

/// Every combination of whole numbers, one for each knob, those nearest to the current values
/// first.
fn sets_of_whole(knobs: &[Turning], file: &TuningFile) -> Result<Vec<Vec<f32>>, FitError> {
    let ends = |turning: &Turning| {
        let [least, most] = turning.bounds;
        (least.ceil() as i32, most.floor() as i32)
    };
    let count = |turning: &Turning| u64::try_from(ends(turning).1 - ends(turning).0 + 1).unwrap_or(0);
    let combinations = knobs.iter().fold(1u64, |product, turning| product.saturating_mul(count(turning)));
    if combinations > MOST_SETS {
        return Err(FitError::Combinations(combinations));
    }
    let mut sets: Vec<Vec<f32>> = vec![Vec::new()];
    for turning in knobs {
        let (low, high) = ends(turning);
        let longer = |set: &Vec<f32>| -> Vec<Vec<f32>> {
            (low..=high).map(|number| [&set[..], &[number as f32]].concat()).collect()
        };
        sets = sets.iter().flat_map(longer).collect();
    }
    let away = |set: &Vec<f32>| -> f32 {
        set.iter().zip(knobs).map(|(number, turning)| (number - value(file, turning.knob)).abs()).sum()
    };
    sets.sort_by(|a, b| away(a).total_cmp(&away(b)));
    Ok(sets)
}

/// Returns true if a figure reaches its target: it is measured so, or the tuning sets it and the
/// course measures it as well as it can.
fn is_met(sheet: &Sheet, target: &Target) -> bool {
    let Some(reading) = sheet.readings.iter().find(|reading| reading.name == target.figure) else {
        return false;
    };
    let is_set = reading.target.is_some_and(|set| off(set, target) < 1e-6);
    (is_set && !reading.differs) || off(reading.measured, target) <= SLACK
}

/// The error of a figure, as a fraction of its target.
fn off(measured: f64, target: &Target) -> f64 {
    (measured - target.value).abs() / target.value.abs().max(0.01)
}

/// The step of the search for a knob whose value is 0.
fn step(knob: &Knob) -> f64 {
    match knob.unit {
        Unit::MetresPerSecond => 4.0,
        Unit::MetresPerSecondSquared => 20.0,
        Unit::Seconds => 0.2,
        Unit::Degrees => 20.0,
        Unit::DegreesPerSecond => 360.0,
        _ => 1.0,
    }
}

/// The exponent of e by which a knob is multiplied at most.
const FURTHEST: f64 = 5.0;

impl Task<'_> {
    /// The tuning at a point: a coordinate for each knob, 0 for its value in `about`.
    fn at(&self, about: &TuningFile, point: &[f64]) -> TuningFile {
        let mut file = about.clone();
        for (turning, by) in self.knobs.iter().zip(point) {
            let knob = turning.knob;
            let stands = f64::from(value(about, knob));
            // Around 0 in growing steps.
            let turned = if stands == 0.0 { step(knob) * by * by.abs() } else { stands * by.exp() };
            let [min, max] = turning.range(&file);
            // It is within the range now.
            let _ = file.set_number(knob.path, (turned as f32).clamp(min, max));
        }
        file
    }

    /// How far a knob may be changed from its value in `about`, down and up.
    fn bounds(&self, about: &TuningFile, turning: &Turning) -> (f64, f64) {
        let knob = turning.knob;
        let stands = f64::from(value(about, knob));
        let [least, most] = turning.range(about).map(f64::from);
        if stands == 0.0 {
            let [least, most] = [least, most].map(|end| (end.abs() / step(knob)).sqrt().copysign(end));
            return (least.max(-FURTHEST), most.min(FURTHEST));
        }
        let factor = |end: f64| if end / stands > 0.0 { (end / stands).ln() } else { -FURTHEST };
        let ends = [factor(least), factor(most)].map(|end| end.clamp(-FURTHEST, FURTHEST));
        (ends[0].min(ends[1]), ends[0].max(ends[1]))
    }

    /// The value of one knob that comes nearest: over its range in steps, and by bisection between
    /// two steps with errors of opposite sign.
    fn narrowed_down(&self, turning: &Turning) -> TuningFile {
        /// The number of steps over the range.
        const STEPS: usize = 40;
        /// The number of bisections of a step.
        const HALVINGS: usize = 26;
        let (low, high) = self.bounds(self.file, turning);
        let by = |step: usize| low + (high - low) * step as f64 / STEPS as f64;
        // A measurement at a point: the cost, and the error of the first target that is not met
        // precisely.
        let look = |by: f64| -> Look {
            let file = self.at(self.file, &[by]);
            let sheet = self.measured(&file);
            let first = self.targets.iter().find_map(|target| {
                let measured = sheet.get(target.figure)?;
                (off(measured, target).powi(2) > PRECISE).then_some(measured - target.value)
            });
            Look { cost: self.cost_from(&sheet), off: first, file }
        };
        let mut looks: Vec<Look> = (0..=STEPS).into_par_iter().map(|step| look(by(step))).collect();
        looks.push(Look { cost: self.cost_of(self.file), off: None, file: self.file.clone() });
        // The ends of the range, further away than factors reach.
        for end in turning.range(self.file) {
            let mut file = self.file.clone();
            if file.set_number(turning.knob.path, end).is_ok() {
                looks.push(Look { cost: self.cost_of(&file), off: None, file });
            }
        }
        let crossings = (0..STEPS).filter(|&step| match (looks[step].off, looks[step + 1].off) {
            (Some(from), Some(to)) => (from > 0.0) != (to > 0.0),
            _ => false,
        });
        let bisect = |step: usize| -> Vec<Look> {
            let (mut low, mut high) = (by(step), by(step + 1));
            let rises = looks[step].off.is_some_and(|off| off > 0.0);
            let mut seen = Vec::new();
            for _ in 0..HALVINGS {
                let middle = 0.5 * (low + high);
                let at = look(middle);
                let off = at.off;
                seen.push(at);
                match off {
                    Some(off) if (off > 0.0) == rises => low = middle,
                    Some(_) => high = middle,
                    None => break,
                }
            }
            seen
        };
        let crossings: Vec<usize> = crossings.collect();
        let more: Vec<Look> = crossings.par_iter().flat_map_iter(|&step| bisect(step)).collect();
        looks.extend(more);
        // Of points that reach it equally well, the one nearest to the current value.
        let stands = value(self.file, turning.knob);
        let turned = |look: &Look| (value(&look.file, turning.knob) - stands).abs();
        let best = looks.into_iter().min_by(|a, b| {
            let [one, other] = [a, b].map(|look| look.cost.max(PRECISE));
            one.total_cmp(&other).then(turned(a).total_cmp(&turned(b)))
        });
        best.map_or_else(|| self.file.clone(), |look| look.file)
    }

    fn cost_from(&self, sheet: &Sheet) -> f64 {
        /// The cost of a missing figure.
        const MISSING: f64 = 100.0;
        let costs = self.targets.iter().map(|target| match sheet.get(target.figure) {
            Some(measured) => off(measured, target).powi(2),
            None => MISSING,
        });
        costs.sum()
    }

    /// Searches for the knobs within their ranges: from the values of closed forms, from the
    /// current values, and from the best of many places in their ranges.
    fn searched(&self, solved: &TuningFile) -> TuningFile {
        /// The number of places that are measured.
        const PLACES: u32 = 48;
        /// The number of those from which a search starts.
        const BEGUN: usize = 4;
        let bounds: Vec<(f64, f64)> =
            self.knobs.iter().map(|turning| self.bounds(self.file, turning)).collect();
        let place = |number: u32| -> TuningFile {
            let fractions = (0..).map(|axis| halton(number, axis));
            let point: Vec<f64> = bounds
                .iter()
                .zip(fractions)
                .map(|((low, high), fraction)| low + (high - low) * fraction)
                .collect();
            self.at(self.file, &point)
        };
        let starts = [solved.clone(), self.file.clone()];
        let near: Vec<(f64, TuningFile)> = starts.par_iter().map(|start| self.search_from(start)).collect();
        let best = least(near);
        if best.0 <= REACHED {
            return best.1;
        }
        let mut places: Vec<(f64, TuningFile)> = (1..=PLACES)
            .into_par_iter()
            .map(|number| {
                let file = place(number);
                (self.cost_of(&file), file)
            })
            .collect();
        places.sort_by(|a, b| a.0.total_cmp(&b.0));
        places.truncate(BEGUN);
        let far: Vec<(f64, TuningFile)> =
            places.par_iter().map(|(_, start)| self.search_from(start)).collect();
        least([vec![best], far].concat()).1
    }

    /// The best tuning near another one, and its cost.
    fn search_from(&self, start: &TuningFile) -> (f64, TuningFile) {
        /// The initial sizes of the search, each time from the best point.
        const ROUNDS: [f64; 3] = [0.4, 0.1, 1.0];
        /// The maximum number of steps of a round, per knob.
        const STEPS: usize = 60;
        let bounds: Vec<(f64, f64)> = self.knobs.iter().map(|turning| self.bounds(start, turning)).collect();
        let (lower, upper): (Vec<f64>, Vec<f64>) = bounds.into_iter().unzip();
        let narrowest = lower.iter().zip(&upper).map(|(low, high)| high - low).fold(f64::INFINITY, f64::min);
        // Of two tunings that reach it, the one that changes the knobs less.
        let cost = |point: &[f64]| {
            self.cost_of(&self.at(start, point)) + 1e-9 * point.iter().map(|by| by * by).sum::<f64>()
        };
        let mut best = vec![0.0; self.knobs.len()];
        let mut least = cost(&best);
        for size in ROUNDS {
            if least <= REACHED || self.knobs.is_empty() {
                break;
            }
            let size = size.min(0.45 * narrowest);
            let mut config = Config::new(self.knobs.len());
            config.rho_begin = size;
            config.rho_end = size * 1e-7;
            config.max_fun = STEPS * (1 + self.knobs.len());
            config.f_target = REACHED;
            let Ok(mut solver) = Bobyqa::new(self.knobs.len(), config) else { break };
            let mut point = best.clone();
            let found = solver.minimize(|point| cost(point), &mut point, &lower, &upper);
            if found.f < least {
                (best, least) = (point, found.f);
            }
        }
        (least, self.at(start, &best))
    }
}

/// A value of a knob, and what is measured there.
struct Look {
    cost: f64,
    /// The error of the first target that is not exactly met; `None` if it has no such figure.
    off: Option<f64>,
    file: TuningFile,
}

/// The first of those with the lowest cost.
fn least(found: Vec<(f64, TuningFile)>) -> (f64, TuningFile) {
    let mut all = found.into_iter();
    let Some(first) = all.next() else { return (f64::INFINITY, TuningFile::default()) };
    all.fold(first, |best, other| if other.0 < best.0 { other } else { best })
}

/// A cost at which every target is reached to a fiftieth of its tolerance.
const PRECISE: f64 = (0.02 * SLACK) * (0.02 * SLACK);
/// A cost at which every target is reached.
const REACHED: f64 = (0.2 * SLACK) * (0.2 * SLACK);

/// A number of Halton's sequence on an axis, 0 to 1: J. H. Halton, "On the efficiency of certain
/// quasi-random sequences of points", 1960.
fn halton(mut number: u32, axis: usize) -> f64 {
    const PRIMES: [u32; 8] = [2, 3, 5, 7, 11, 13, 17, 19];
    let base = PRIMES[axis % PRIMES.len()];
    let (mut fraction, mut digit) = (0.0, 1.0 / f64::from(base));
    while number > 0 {
        fraction += f64::from(number % base) * digit;
        number /= base;
        digit /= f64::from(base);
    }
    fraction
}
