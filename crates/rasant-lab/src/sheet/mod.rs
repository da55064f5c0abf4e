//! The movement sheet: figures measured by simulating short courses with a tuning.
//!
//! Each figure is measured, not computed: a body with the tuning is put on a
//! course of its own and driven over it. Where one number of the tuning asks for
//! the figure, that number is given beside it; if the two differ by more than
//! [`SLACK`] and by more than the course can resolve, something else in the tuning
//! is in the way.

mod air;
mod airborne;
mod course;
mod gaps;
mod ground;
mod ladder;
mod ledge;
mod maneuvers;
mod search;
mod slam;
mod turn;
mod value;
mod wall;
mod water;
mod windows;

use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, Hull, Tuning};
use serde::Serialize;

use crate::files::TuningFile;
use crate::game::{OwnFigure, game};

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

/// What a tuning comes to.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Sheet {
    /// What the tuning is called.
    pub title: String,
    /// 2 or 3.
    pub dimensions: usize,
    /// Ticks per second on the courses.
    pub rate: u32,
    /// Ticks per second of the game.
    pub game_rate: u32,
    /// The figures, those that the tuning has.
    pub readings: Vec<Reading>,
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
struct Subject {
    tuning: Tuning,
    hull: Hull,
    rate: u32,
    game_rate: u32,
}

/// A course: the figures it gives, and how they are measured.
struct Course {
    kinds: &'static [FigureKind],
    measure: fn(&Subject) -> Measured,
}

/// The values of a course's figures, in the order of its kinds; empty if the course is not
/// for the tuning.
type Measured = Vec<Value>;

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

/// Measures the sheet of a tuning in a world of two or three dimensions.
///
/// ```
/// use rasant_lab::files::TuningFile;
/// use rasant_lab::sheet::{Rates, sheet};
///
/// let file = TuningFile::default();
/// let sheet = sheet(&file, 2, Rates::default());
/// assert!((sheet.get("jump-height").unwrap() - 1.8).abs() < 0.01);
/// ```
#[must_use]
pub fn sheet(file: &TuningFile, dimensions: usize, rates: impl Into<Rates>) -> Sheet {
    sheet_of(file, dimensions, rates, &|_| true)
}

/// Measures the figures of a sheet that are `wanted`. Only the courses that give them are run.
#[must_use]
pub fn sheet_of(
    file: &TuningFile,
    dimensions: usize,
    rates: impl Into<Rates>,
    wanted: &dyn Fn(&FigureKind) -> bool,
) -> Sheet {
    let rates = rates.into();
    let subject = Subject::new(file, rates);
    let mut readings = match dimensions {
        2 => readings::<Vec2>(&subject, wanted),
        _ => readings::<Vec3>(&subject, wanted),
    };
    for OwnFigure { kind, measure } in game().figures.iter().filter(|figure| wanted(&figure.kind)) {
        if let Some(measured) = measure(file, dimensions, rates.course).filter(|number| number.is_finite()) {
            let FigureKind { name, unit, .. } = *kind;
            readings.push(Reading { name, unit, measured, asked: None, parts: false });
        }
    }
    Sheet { title: file.title.clone(), dimensions, rate: rates.course, game_rate: rates.game, readings }
}

/// How far a jump goes across until it comes down `rise` metres over its take-off, with
/// a run-up, jump held: at a run where the tuning runs. Below the take-off for a `rise`
/// under 0. Nothing where it does not come so high, or where nobody jumps.
#[must_use]
pub fn reach(file: &TuningFile, dimensions: usize, rate: u32, rise: f64) -> Option<f64> {
    let subject = Subject::new(file, rate.into());
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
        for (kind, value) in course.kinds.iter().zip(measured) {
            if wanted(kind) {
                readings.extend(value.reading(kind));
            }
        }
    }
    readings
}

fn courses<V: Geometry>() -> Vec<Course> {
    [
        ground::courses::<V>(),
        gaps::courses::<V>(),
        airborne::courses::<V>(),
        air::courses::<V>(),
        windows::courses::<V>(),
        wall::courses::<V>(),
        ladder::courses::<V>(),
        maneuvers::courses::<V>(),
        turn::courses::<V>(),
        water::courses::<V>(),
        ledge::courses::<V>(),
        slam::courses::<V>(),
    ]
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
use value::{Value, value};
