//! The units and axes of a world: the direction of up, and the number of units of length per metre.

use std::fmt;

use rasant::Geometry;

use crate::Problem;
use crate::table::{Table, Value};
use crate::{LevelFile, TuningFile, World};

/// The axis of a world that points up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum UpAxis {
    /// +y, as in most worlds.
    #[default]
    Y,
    /// −y: y points down, as on a screen.
    MinusY,
    /// +z, in three dimensions.
    Z,
    /// −z, in three dimensions.
    MinusZ,
}

impl UpAxis {
    /// Every axis with its name in files. Those of two dimensions come first.
    pub const NAMES: [(&'static str, Self); 4] =
        [("y", Self::Y), ("-y", Self::MinusY), ("z", Self::Z), ("-z", Self::MinusZ)];

    /// The name in files.
    #[must_use]
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, axis)| *axis == self).map_or("y", |(name, _)| *name)
    }

    /// The direction, of length 1. In two dimensions, `Z` and `MinusZ` give +y.
    #[must_use]
    pub fn direction<V: Geometry>(self) -> V {
        match self {
            Self::Z if V::DIMENSION == 3 => V::from_array([0.0, 0.0, 1.0]),
            Self::MinusZ if V::DIMENSION == 3 => V::from_array([0.0, 0.0, -1.0]),
            Self::MinusY => -V::UP,
            _ => V::UP,
        }
    }

    /// Returns true if a world of this dimension, 2 or 3, has this axis.
    #[must_use]
    pub fn is_in(self, dimension: usize) -> bool {
        dimension == 3 || matches!(self, Self::Y | Self::MinusY)
    }

    /// Reads `up` from a table of a world of this dimension.
    pub(crate) fn read(table: &mut Table<'_>, dimension: usize) -> Result<Option<Self>, Problem> {
        let known: Vec<_> = Self::NAMES.into_iter().filter(|(_, axis)| axis.is_in(dimension)).collect();
        table.get("up").map(|value| value.choice(&known)).transpose()
    }
}

/// The scales that a file can have, in units of length per metre.
const SCALES: std::ops::RangeInclusive<f32> = 1e-3..=1e4;

/// Reads `scale` from a table: units of length per metre.
pub(crate) fn scale_of(table: &mut Table<'_>) -> Result<Option<f32>, Problem> {
    table.get("scale").map(|value| value.number_in(SCALES, "units of length per metre")).transpose()
}

/// Reads a length within a range in metres, in a world with `scale` units per metre.
pub(crate) fn length_in(
    value: Value<'_>,
    range: std::ops::RangeInclusive<f32>,
    scale: f32,
) -> Result<f32, Problem> {
    value.number_in(range.start() * scale..=range.end() * scale, unit_of(scale))
}

/// The name of the unit of length in a world with `scale` units per metre: `m`, or `units`.
#[must_use]
pub fn unit_of(scale: f32) -> &'static str {
    if scale == 1.0 { "m" } else { "units" }
}

/// The sign of a unit in a world with `scale` units of length per metre: `m/s` becomes `units/s`. Units
/// without a length, as `s`, stay.
///
/// ```
/// use rasant_files::unit_in;
///
/// assert_eq!([unit_in("m/s²", 1.0), unit_in("m/s²", 32.0), unit_in("s", 32.0)], ["m/s²", "units/s²", "s"]);
/// ```
#[must_use]
pub fn unit_in(sign: &'static str, scale: f32) -> &'static str {
    match sign {
        _ if scale == 1.0 => sign,
        "m" => unit_of(scale),
        "m/s" => "units/s",
        "m/s²" => "units/s²",
        _ => sign,
    }
}

/// A tuning and a level are in different units, or have different directions of up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum OtherWorld {
    /// They differ in the direction of up.
    Up {
        /// That of the level.
        level: UpAxis,
        /// That of the tuning.
        tuning: UpAxis,
    },
    /// They differ in the number of units of length per metre.
    Scale {
        /// That of the level.
        level: f32,
        /// That of the tuning.
        tuning: f32,
    },
}

impl OtherWorld {
    /// Describes what the tuning should say instead.
    #[must_use]
    pub fn expected(&self) -> String {
        match self {
            Self::Up { level, .. } => format!("`up = \"{}\"` in the tuning, or none", level.name()),
            Self::Scale { level, .. } => {
                format!("`scale = {level}` in the tuning, with its numbers in units of the level")
            }
        }
    }
}

impl fmt::Display for OtherWorld {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Up { level, tuning } => {
                write!(
                    f,
                    "in the tuning, \"{}\" is up, and in the level, \"{}\"",
                    tuning.name(),
                    level.name()
                )
            }
            Self::Scale { level, tuning } => {
                let unit = |scale: f32| match scale {
                    1.0 => "metres".to_owned(),
                    _ => format!("units of which {scale} are a metre"),
                };
                let [tuning, level] = [*tuning, *level].map(unit);
                write!(f, "the numbers of the tuning are in {tuning}, and those of the level in {level}")
            }
        }
    }
}

impl std::error::Error for OtherWorld {}

impl World {
    /// 2 or 3.
    #[must_use]
    pub fn dimension(&self) -> usize {
        match self {
            Self::Plane(_) => 2,
            Self::Space(_) => 3,
        }
    }

    /// The axis that points up.
    #[must_use]
    pub fn up_axis(&self) -> UpAxis {
        match self {
            Self::Plane(file) => file.up.unwrap_or_default(),
            Self::Space(file) => file.up.unwrap_or_default(),
        }
    }

    /// Units of length per metre.
    #[must_use]
    pub fn scale(&self) -> f32 {
        match self {
            Self::Plane(file) => file.scale(),
            Self::Space(file) => file.scale(),
        }
    }

    /// Checks that the up and the scale of a tuning are those of this level. If the level file states
    /// none, the level adopts those of the tuning.
    ///
    /// # Errors
    /// An [`OtherWorld`] if both state an up, or a scale, and differ.
    pub fn suit(&mut self, tuning: &TuningFile) -> Result<(), OtherWorld> {
        match self {
            Self::Plane(file) => file.suit(tuning),
            Self::Space(file) => file.suit(tuning),
        }
    }
}

impl<V: Geometry> LevelFile<V> {
    /// The direction of up for bodies in this level, of length 1. [`V::UP`](rasant::Vector::UP) unless the
    /// file states another.
    #[must_use]
    pub fn up(&self) -> V {
        self.up.unwrap_or_default().direction()
    }

    /// Units of length per metre. 1 unless the file states another number.
    #[must_use]
    pub fn scale(&self) -> f32 {
        self.scale.unwrap_or(1.0)
    }

    /// As [`World::suit`].
    ///
    /// # Errors
    /// An [`OtherWorld`] if both state an up, or a scale, and differ.
    pub fn suit(&mut self, tuning: &TuningFile) -> Result<(), OtherWorld> {
        let scale = tuning.tuning.scale;
        if let Some(up) = tuning.up
            && (self.up.is_some_and(|own| own != up) || !up.is_in(V::DIMENSION))
        {
            return Err(OtherWorld::Up { level: self.up.unwrap_or_default(), tuning: up });
        }
        if let Some(own) = self.scale
            && own != scale
        {
            return Err(OtherWorld::Scale { level: own, tuning: scale });
        }
        (self.up, self.scale) = (self.up.or(tuning.up), Some(scale));
        Ok(())
    }
}
