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
pub(crate) mod figure;
mod gaps;
mod ground;
mod ladder;
mod ledge;
mod maneuvers;
mod search;
mod slam;
mod turn;
mod wall;
mod water;
mod windows;

use rasant::Geometry;
use rasant::glam::{Vec2, Vec3};
use serde::Serialize;

use figure::{Course, Subject};
pub use figure::{FigureKind, GAME_RATE, RATE, Rates, Reading, SLACK};
use rasant_files::TuningFile;

use crate::game::{OwnFigure, own_figures};

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

/// Every figure of a sheet, in its order.
pub fn figure_kinds() -> impl Iterator<Item = &'static FigureKind> {
    let own = own_figures().iter().map(|figure| &figure.kind);
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
    rasant_files::nearest(word, figure_kinds().map(|kind| kind.name))
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
    for OwnFigure { kind, measure } in own_figures().iter().filter(|figure| wanted(&figure.kind)) {
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
        for kind in course.kinds.iter().filter(|kind| wanted(kind)) {
            let value = measured.iter().find(|(name, _)| *name == kind.name);
            readings.extend(value.and_then(|(_, value)| value.reading(kind)));
        }
        let is_known = |name: &str| course.kinds.iter().any(|kind| kind.name == name);
        debug_assert!(
            measured.iter().all(|(name, _)| is_known(name)),
            "a course measures what it does not list"
        );
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
