//! The movement sheet: figures measured by simulating short courses with a tuning.
//!
//! Each figure is measured, not computed: a body with the tuning is put on a course of its own and
//! driven over it. If one number of the tuning sets the figure, that number is given beside it. If
//! the two differ by more than [`SLACK`] and by more than the course can resolve, something else in
//! the tuning affects the figure.

mod air;
mod airborne;
mod course;
pub(crate) mod figure;
mod figures;
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
pub use figures::{Figures, OwnFigure};
use rasant_files::TuningFile;

/// The measured figures of a tuning.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Sheet {
    /// The title of the tuning.
    pub title: String,
    /// 2 or 3.
    pub dimensions: usize,
    /// Ticks per second on the courses.
    pub rate: u32,
    /// Ticks per second of the game.
    pub game_rate: u32,
    /// The figures that the tuning has.
    pub readings: Vec<Reading>,
}

/// Measures the figures of the library in a world of 2 or 3 dimensions. [`Figures`] measures a
/// game's own as well.
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
    Figures::default().sheet(file, dimensions, rates)
}

/// The horizontal distance of a jump until it comes down `rise` metres above its take-off (below it
/// if negative), after a run-up and with jump held; running if the tuning runs. `None` if the jump
/// does not reach that height, or the tuning has no jump.
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

fn readings<V: Geometry>(subject: &Subject, chosen: &dyn Fn(&FigureKind) -> bool) -> Vec<Reading> {
    let mut readings = Vec::new();
    for course in courses::<V>() {
        if !course.kinds.iter().any(chosen) {
            continue;
        }
        let measured = (course.measure)(subject);
        for kind in course.kinds.iter().filter(|kind| chosen(kind)) {
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
