//! The movement sheet: figures measured by simulating little courses with the
//! tuning at hand.
//!
//! Each figure is measured, not computed: a body with the tuning is put on a
//! course of its own and driven over it. Beside it stands what the tuning asks
//! for, where one number does; where the two part by more than
//! [`SLACK`], something else in the tuning is in the way.

mod airborne;
mod course;
mod ground;
mod listed;
mod moves;

use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, Hull, Tuning};
use serde::Serialize;

use crate::files::TuningFile;
use crate::game::{OwnFigure, game};

/// Ticks a second on the courses, unless asked otherwise. Times are measured to
/// within a tick or better.
pub const RATE: u32 = 960;

/// The share by which a figure may be off what is asked for; a length under a
/// metre, by that share of a metre: a clearance.
pub const SLACK: f64 = 0.005;

/// What a tuning comes to.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Sheet {
    /// What the tuning is called.
    pub title: String,
    /// 2 or 3.
    pub dimensions: usize,
    /// Ticks a second on the courses.
    pub rate: u32,
    /// The figures, those that the tuning has.
    pub readings: Vec<Reading>,
}

/// One figure of a sheet.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reading {
    /// Its name: `jump-height`.
    pub name: &'static str,
    /// Its unit: m, s, m/s, °, °/s, or ticks.
    pub unit: &'static str,
    /// What was measured.
    pub measured: f64,
    /// What the tuning asks for, where one number of it does.
    pub asked: Option<f64>,
    /// Whether the two part by more than [`SLACK`].
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
struct Subject {
    tuning: Tuning,
    hull: Hull,
    rate: u32,
}

/// A course: the figures it gives, and how they are measured.
struct Course {
    kinds: &'static [FigureKind],
    measure: fn(&Subject) -> Measured,
}

/// What a course gave: each figure measured and asked, in their order; empty if
/// the course is not for the tuning.
type Measured = Vec<(Option<f64>, Option<f64>)>;

/// Every figure of a sheet, in its order.
pub fn figure_kinds() -> impl Iterator<Item = &'static FigureKind> {
    let own = game().figures.iter().map(|figure| &figure.kind);
    courses::<Vec2>().into_iter().flat_map(|course| course.kinds).chain(own)
}

/// The figure of that name.
#[must_use]
pub fn figure_kind(name: &str) -> Option<&'static FigureKind> {
    figure_kinds().find(|kind| kind.name == name)
}

/// The names of figures nearest to a word that is none of them.
#[must_use]
pub fn nearest_figure(word: &str) -> Option<&'static str> {
    crate::files::nearest(word, figure_kinds().map(|kind| kind.name))
}

/// The sheet of a tuning in a world of two or three dimensions.
#[must_use]
pub fn sheet(file: &TuningFile, dimensions: usize, rate: u32) -> Sheet {
    sheet_of(file, dimensions, rate, &|_| true)
}

/// The part of a sheet whose figures are `wanted`: no other course is run.
#[must_use]
pub fn sheet_of(
    file: &TuningFile,
    dimensions: usize,
    rate: u32,
    wanted: &dyn Fn(&FigureKind) -> bool,
) -> Sheet {
    let subject = Subject { tuning: file.tuning, hull: file.hull, rate };
    let mut readings = match dimensions {
        2 => readings::<Vec2>(&subject, wanted),
        _ => readings::<Vec3>(&subject, wanted),
    };
    for OwnFigure { kind, measure } in game().figures.iter().filter(|figure| wanted(&figure.kind)) {
        if let Some(measured) = measure(file, dimensions, rate).filter(|number| number.is_finite()) {
            let FigureKind { name, unit, .. } = *kind;
            readings.push(Reading { name, unit, measured, asked: None, parts: false });
        }
    }
    Sheet { title: file.title.clone(), dimensions, rate, readings }
}

/// How far a jump goes across until it comes down `rise` metres over its take-off, with
/// a run-up, jump held: at a run where the tuning runs. Below the take-off for a `rise`
/// under 0. Nothing where it does not come so high, or where nobody jumps.
#[must_use]
pub fn reach(file: &TuningFile, dimensions: usize, rate: u32, rise: f64) -> Option<f64> {
    let subject = Subject { tuning: file.tuning, hull: file.hull, rate };
    match dimensions {
        2 => airborne::reach::<Vec2>(&subject, rise),
        _ => airborne::reach::<Vec3>(&subject, rise),
    }
}

impl Sheet {
    /// The measured value of a figure, if the tuning has it.
    #[must_use]
    pub fn get(&self, name: &str) -> Option<f64> {
        self.readings.iter().find(|reading| reading.name == name).map(|reading| reading.measured)
    }
}

fn readings<V: Geometry>(subject: &Subject, wanted: &dyn Fn(&FigureKind) -> bool) -> Vec<Reading> {
    let mut readings = Vec::new();
    for course in courses::<V>() {
        if !course.kinds.iter().any(wanted) {
            continue;
        }
        let measured = (course.measure)(subject);
        for (kind, (number, asked)) in course.kinds.iter().zip(measured) {
            let Some(number) = number.filter(|number| number.is_finite() && wanted(kind)) else { continue };
            let least = if kind.unit == "m" { 1.0 } else { 1e-3 };
            let parts = asked.is_some_and(|asked| (number - asked).abs() > SLACK * asked.abs().max(least));
            readings.push(Reading { name: kind.name, unit: kind.unit, measured: number, asked, parts });
        }
    }
    readings
}

fn courses<V: Geometry>() -> Vec<Course> {
    [ground::courses::<V>(), airborne::courses::<V>(), moves::courses::<V>(), listed::courses::<V>()]
        .into_iter()
        .flatten()
        .collect()
}

/// Writes the figures of a course: the groups of knobs that move them, then of each
/// its name, unit, meaning.
macro_rules! kinds {
    (of $($group:literal)*; $($name:literal, $unit:literal, $meaning:literal;)*) => {
        kinds!(@each [&[$($group),*]] $($name, $unit, $meaning;)*)
    };
    (@each [$groups:expr] $($name:literal, $unit:literal, $meaning:literal;)*) => {
        &[$(crate::sheet::FigureKind { name: $name, unit: $unit, meaning: $meaning, groups: $groups }),*]
    };
}
use kinds;
