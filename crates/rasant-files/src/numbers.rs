//! Every number of a tuning file: the knobs of its tuning, and the sizes of its hull.

use rasant::contact::HullError;
use rasant::tuning::{Knob, KnobError, Unit};
use rasant::{Hull, HullShape};
use thiserror::Error;

use crate::TuningFile;

/// The sizes of a hull, described like knobs. Which of them describe a hull depends on its shape:
/// see [`TuningFile::is_described_by`].
pub static HULL_KNOBS: [Knob; 6] = [
    size("hull.radius", "The radius of a capsule or a ball.", 0.3),
    size("hull.width", "The width of a box, along x.", 0.6),
    size("hull.height", "The height of a capsule or a box, from end to end.", 1.7),
    size("hull.depth", "The depth of a box, along z; not used in two dimensions.", 0.6),
    Knob { min: 0.0, ..size("hull.rounding", "The radius of the edges and corners of a box.", 0.0) },
    Knob {
        min: 1e-5,
        ..size("hull.clearance", "The gap that is kept between the hull and every piece.", 0.005)
    },
];

/// The names of the shapes of hulls in files: the values of `hull.shape`.
pub const HULL_SHAPES: [&str; 3] = ["capsule", "ball", "box"];

const fn size(path: &'static str, meaning: &'static str, default: f32) -> Knob {
    Knob { path, meaning, unit: Unit::Metres, min: 0.001, max: 1000.0, default }
}

/// Why a number of a tuning file cannot be read or changed.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum NumberError {
    /// It is not a knob, or outside the knob's range.
    #[error(transparent)]
    Knob(#[from] KnobError),
    /// The hull has no such size.
    #[error("a {shape} has no `{path}`, expected one of {}", of_shape(shape).join(", "))]
    Shape {
        /// The size.
        path: &'static str,
        /// The hull's shape.
        shape: &'static str,
    },
    /// The hull's other sizes do not allow it.
    #[error("`{path}`: {error}")]
    Hull {
        /// The size.
        path: &'static str,
        /// What is wrong.
        error: HullError,
    },
    /// There is no such shape.
    #[error("`hull.shape` is `{name}`, expected {}", HULL_SHAPES.join(", "))]
    NoShape {
        /// The name.
        name: String,
    },
    /// It is not a number.
    #[error("`{path}` is `{text}`, expected {range}")]
    NoNumber {
        /// The knob's path.
        path: &'static str,
        /// The text.
        text: String,
        /// What was expected.
        range: String,
    },
}

/// The sizes of a hull with this shape.
fn of_shape(shape: &str) -> &'static [&'static str] {
    match shape {
        "capsule" => &["hull.radius", "hull.height", "hull.clearance"],
        "ball" => &["hull.radius", "hull.clearance"],
        _ => &["hull.width", "hull.height", "hull.depth", "hull.rounding", "hull.clearance"],
    }
}

/// The name of a hull's shape, as in files.
#[must_use]
pub fn shape_name(hull: &Hull) -> &'static str {
    match hull.shape() {
        HullShape::Capsule { .. } => HULL_SHAPES[0],
        HullShape::Ball { .. } => HULL_SHAPES[1],
        HullShape::Box { .. } => HULL_SHAPES[2],
    }
}

impl TuningFile {
    /// The description of the number at `path`: a size of a hull, or a knob of the tuning,
    /// including those of a game's own moves.
    ///
    /// # Errors
    /// [`KnobError::Unknown`] if there is no such number.
    pub fn knob(&self, path: &str) -> Result<&'static Knob, KnobError> {
        match HULL_KNOBS.iter().find(|knob| knob.path == path) {
            Some(knob) => Ok(knob),
            None => self.tuning.knob(path),
        }
    }

    /// The descriptions of all numbers: sizes of hulls first, then every knob of the tuning.
    #[must_use]
    pub fn numbers(&self) -> Vec<&'static Knob> {
        HULL_KNOBS.iter().chain(self.tuning.knobs()).collect()
    }

    /// The value of the number at `path`, in the unit of files. `None` for the rounding of a hull
    /// that is not a box, and if there is no such number.
    ///
    /// Sizes that do not describe the hull's shape have values as well: the radius of a box is half
    /// its width, and the width and depth of a capsule and a ball are twice their radius. See
    /// [`Self::is_described_by`].
    ///
    /// ```
    /// use rasant_files::TuningFile;
    ///
    /// let file = TuningFile::default(); // its hull is a capsule
    /// assert_eq!((file.number("hull.radius"), file.number("hull.width")), (Some(0.3), Some(0.6)));
    /// assert_eq!((file.number("hull.rounding"), file.number("jump.height")), (None, Some(1.8)));
    /// ```
    #[must_use]
    pub fn number(&self, path: &str) -> Option<f32> {
        use HullShape::{Ball, Box, Capsule};
        if path == "hull.clearance" {
            return Some(self.hull.clearance());
        }
        match (path, self.hull.shape()) {
            ("hull.radius", Capsule { radius, .. } | Ball { radius }) => Some(radius),
            ("hull.radius", Box { width, .. }) => Some(0.5 * width),
            ("hull.height", Capsule { height, .. } | Box { height, .. }) => Some(height),
            ("hull.width" | "hull.depth", Capsule { radius, .. } | Ball { radius }) => Some(2.0 * radius),
            ("hull.height", Ball { radius }) => Some(2.0 * radius),
            ("hull.width", Box { width, .. }) => Some(width),
            ("hull.depth", Box { depth, .. }) => Some(depth),
            ("hull.rounding", Box { rounding, .. }) => Some(rounding),
            _ => self.tuning.get(path).ok(),
        }
    }

    /// Returns true if files describe this hull by the size at `path`: a capsule by radius and
    /// height, a ball by its radius, a box by width, height, depth and rounding, all of them by
    /// their clearance. True for every knob as well.
    #[must_use]
    pub fn is_described_by(&self, path: &str) -> bool {
        !path.starts_with("hull.") || of_shape(shape_name(&self.hull)).contains(&path)
    }

    /// Sets the number at `path`, in the unit of files.
    ///
    /// ```
    /// use rasant_files::TuningFile;
    ///
    /// let mut file = TuningFile::default();
    /// file.set_number("hull.height", 2.0)?;
    /// assert_eq!(file.hull.height(), 2.0);
    /// assert!(file.set_number("hull.radius", 1.5).is_err(), "wider than high");
    /// # Ok::<(), rasant_files::NumberError>(())
    /// ```
    ///
    /// # Errors
    /// A [`NumberError`] if there is no such number, it is out of its range, or the hull's shape
    /// and other sizes do not allow it. The file is then unchanged.
    pub fn set_number(&mut self, path: &str, value: f32) -> Result<(), NumberError> {
        let Some(knob) = HULL_KNOBS.iter().find(|knob| knob.path == path) else {
            return Ok(self.tuning.set(path, value)?);
        };
        let knob = knob.scaled(self.tuning.scale);
        if !(knob.min..=knob.max).contains(&value) {
            return Err(KnobError::Range { knob, value }.into());
        }
        use HullShape::{Ball, Box, Capsule};
        let wrong = |error| NumberError::Hull { path: knob.path, error };
        if path == "hull.clearance" {
            self.hull = self.hull.with_clearance(value).map_err(wrong)?;
            return Ok(());
        }
        let mut shape = self.hull.shape();
        match (path, &mut shape) {
            ("hull.radius", Capsule { radius, .. } | Ball { radius }) => *radius = value,
            ("hull.radius", Box { width, depth, .. }) => (*width, *depth) = (2.0 * value, 2.0 * value),
            ("hull.height", Capsule { height, .. } | Box { height, .. }) => *height = value,
            ("hull.width" | "hull.depth", Capsule { radius, .. } | Ball { radius })
            | ("hull.height", Ball { radius }) => *radius = 0.5 * value,
            ("hull.width", Box { width, .. }) => *width = value,
            ("hull.depth", Box { depth, .. }) => *depth = value,
            ("hull.rounding", Box { rounding, .. }) => *rounding = value,
            _ => return Err(NumberError::Shape { path: knob.path, shape: shape_name(&self.hull) }),
        }
        self.hull = self.hull.with_shape(shape).map_err(wrong)?;
        Ok(())
    }

    /// Changes the shape of the hull to a capsule, a ball or a box with the same width, and the
    /// same height if the shape has a height.
    ///
    /// # Errors
    /// [`NumberError::NoShape`] if there is no shape with this name.
    pub fn set_shape(&mut self, name: &str) -> Result<(), NumberError> {
        let half = self.hull.half_width();
        let height = self.hull.height();
        let shape = match name {
            "capsule" => HullShape::Capsule { radius: half.min(0.5 * height), height },
            "ball" => HullShape::Ball { radius: half },
            "box" => HullShape::Box { width: 2.0 * half, depth: 2.0 * half, height, rounding: 0.0 },
            _ => return Err(NumberError::NoShape { name: name.to_owned() }),
        };
        if name != shape_name(&self.hull) {
            self.hull = self
                .hull
                .with_shape(shape)
                .map_err(|error| NumberError::Hull { path: "hull.radius", error })?;
        }
        Ok(())
    }

    /// Sets a number, or the shape for `hull.shape`, from a text as on a command line.
    ///
    /// # Errors
    /// As [`Self::set_number`] and [`Self::set_shape`].
    pub fn set_text(&mut self, path: &str, text: &str) -> Result<(), NumberError> {
        if path == "hull.shape" {
            return self.set_shape(text);
        }
        let knob = self.knob(path)?;
        let value = text.parse().map_err(|_| NumberError::NoNumber {
            path: knob.path,
            text: text.to_owned(),
            range: knob.scaled(self.tuning.scale).range().to_string(),
        })?;
        self.set_number(path, value)
    }

    /// The values that a number can be set to without changing others: the knob's range, limited by
    /// the hull's other sizes. `None` if there is no such number.
    #[must_use]
    pub fn range_of(&self, path: &str) -> Option<[f32; 2]> {
        let knob = self.knob(path).ok()?.scaled(self.tuning.scale);
        self.number(path)?;
        let [min, max] = [knob.min, knob.max];
        Some(match (path, self.hull.shape()) {
            ("hull.radius", HullShape::Capsule { height, .. }) => [min, 0.5 * height],
            ("hull.radius", HullShape::Box { rounding, .. }) => [min.max(rounding), max],
            ("hull.width" | "hull.depth", HullShape::Capsule { height, .. }) => [min, height],
            ("hull.height", HullShape::Capsule { radius, .. }) => [2.0 * radius, max],
            ("hull.width" | "hull.height" | "hull.depth", HullShape::Box { rounding, .. }) => {
                [min.max(2.0 * rounding), max]
            }
            ("hull.rounding", HullShape::Box { width, depth, height, .. }) => {
                [min, 0.5 * width.min(depth).min(height)]
            }
            _ => [min, max],
        })
    }
}
