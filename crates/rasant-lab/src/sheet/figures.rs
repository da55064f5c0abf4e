//! The list of figures: those of the library, and a game's own.

use rasant::glam::{Vec2, Vec3};
use rasant_files::{TuningFile, unit_in};

use super::figure::{FigureKind, Rates, Reading, Subject};
use super::{Sheet, courses, readings};

/// A figure that a game measures itself.
#[derive(Clone, Copy, Debug)]
pub struct OwnFigure {
    /// The name, unit and meaning of the figure.
    pub kind: FigureKind,
    /// Measures the figure in a world of 2 or 3 dimensions at a number of ticks per second. `None`
    /// if the tuning has no such figure.
    pub measure: fn(&TuningFile, usize, u32) -> Option<f64>,
}

/// All figures that a program can measure. The default has those of the library only.
///
/// ```
/// use rasant_lab::sheet::Figures;
///
/// let figures = Figures::default();
/// assert_eq!(figures.kind("jump-height").unwrap().unit, "m");
/// assert_eq!(figures.nearest("jump-hight"), Some("jump-height"));
/// ```
#[derive(Clone, Copy, Debug, Default)]
pub struct Figures {
    own: &'static [OwnFigure],
}

impl Figures {
    /// The figures of the library, followed by these.
    #[must_use]
    pub fn with(own: &'static [OwnFigure]) -> Self {
        Self { own }
    }

    /// Every figure, in the order of the sheet.
    pub fn kinds(self) -> impl Iterator<Item = &'static FigureKind> {
        let own = self.own.iter().map(|figure| &figure.kind);
        courses::<Vec2>().into_iter().flat_map(|course| course.kinds).chain(own)
    }

    /// The figure with this name.
    #[must_use]
    pub fn kind(self, name: &str) -> Option<&'static FigureKind> {
        self.kinds().find(|kind| kind.name == name)
    }

    /// The name of the figure that is spelled most like an unknown word.
    #[must_use]
    pub fn nearest(self, word: &str) -> Option<&'static str> {
        rasant_files::nearest(word, self.kinds().map(|kind| kind.name))
    }

    /// Measures all figures of a tuning in a world of 2 or 3 dimensions.
    #[must_use]
    pub fn sheet(self, file: &TuningFile, dimensions: usize, rates: impl Into<Rates>) -> Sheet {
        self.sheet_of(file, dimensions, rates, &|_| true)
    }

    /// Measures the figures of a tuning that are `chosen`. Only the courses that give them are run.
    #[must_use]
    pub fn sheet_of(
        self,
        file: &TuningFile,
        dimensions: usize,
        rates: impl Into<Rates>,
        chosen: &dyn Fn(&FigureKind) -> bool,
    ) -> Sheet {
        let rates = rates.into();
        let subject = Subject::new(file, rates);
        let mut readings = match dimensions {
            2 => readings::<Vec2>(&subject, chosen),
            _ => readings::<Vec3>(&subject, chosen),
        };
        for OwnFigure { kind, measure } in self.own.iter().filter(|figure| chosen(&figure.kind)) {
            let measured = measure(file, dimensions, rates.course).filter(|number| number.is_finite());
            if let Some(measured) = measured {
                let FigureKind { name, unit, .. } = *kind;
                readings.push(Reading { name, unit, measured, target: None, differs: false });
            }
        }
        for reading in &mut readings {
            reading.unit = unit_in(reading.unit, file.tuning.scale);
        }
        Sheet { title: file.title.clone(), dimensions, rate: rates.course, game_rate: rates.game, readings }
    }
}
