//! Knobs, and the macro that makes the fields of a struct into knobs.
//!
//! [`knobs!`](crate::knobs) generates a struct, its defaults and its table of knobs from one
//! declaration, so that files, documents and sliders agree about ranges and units.

use alloc::string::String;
use core::fmt;

use thiserror::Error;

use crate::space::ScaleError;

/// The unit of a knob.
///
/// ```
/// use rasant::Tuning;
///
/// let knob = Tuning::default().knob("slope.max_angle_deg").expect("a knob");
/// assert_eq!((knob.unit.sign(), knob.unit.is_whole()), ("°", false));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Unit {
    /// Metres.
    Metres,
    /// Seconds.
    Seconds,
    /// Metres per second.
    MetresPerSecond,
    /// Degrees in files and documents, radians in code.
    Degrees,
    /// Metres per second squared.
    MetresPerSecondSquared,
    /// Degrees per second in files and documents, radians per second in code.
    DegreesPerSecond,
    /// One per metre.
    PerMetre,
    /// A factor, without a unit.
    Factor,
    /// A whole number.
    Count,
    /// 0 for off, 1 for on.
    Switch,
}

impl Unit {
    /// The unit as it is written after a number; empty for a factor.
    #[must_use]
    pub fn sign(self) -> &'static str {
        match self {
            Self::Metres => "m",
            Self::Seconds => "s",
            Self::MetresPerSecond => "m/s",
            Self::MetresPerSecondSquared => "m/s²",
            Self::PerMetre => "/m",
            Self::Degrees => "°",
            Self::DegreesPerSecond => "°/s",
            Self::Factor | Self::Count | Self::Switch => "",
        }
    }

    /// The factor on a value with this unit in a world whose lengths are `factor` times as large.
    pub(super) fn scale(self, factor: f32) -> f32 {
        match self {
            Self::Metres | Self::MetresPerSecond | Self::MetresPerSecondSquared => factor,
            Self::PerMetre => 1.0 / factor,
            _ => 1.0,
        }
    }

    /// Returns true if only whole numbers make sense.
    #[must_use]
    pub fn is_whole(self) -> bool {
        matches!(self, Self::Count | Self::Switch)
    }

    /// The factor from the unit of files to that of code.
    #[must_use]
    pub fn in_code(self) -> f32 {
        match self {
            Self::Degrees | Self::DegreesPerSecond => core::f32::consts::PI / 180.0,
            _ => 1.0,
        }
    }
}

/// The description of one number of a tuning.
///
/// ```
/// use rasant::Tuning;
/// use rasant::tuning::KNOBS;
///
/// let mut tuning = Tuning::default();
/// tuning.set("slope.max_angle_deg", 40.0)?; // as in files: angles in degrees
/// assert!((tuning.slope.max_angle.to_degrees() - 40.0).abs() < 1e-4);
/// assert!(tuning.set("jump.height", -1.0).is_err());
/// let knob = KNOBS.iter().find(|knob| knob.path == "jump.height").expect("there is one");
/// assert_eq!(knob.range().to_string(), "0.01 to 100 m");
/// # Ok::<(), rasant::tuning::KnobError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Knob {
    /// The path in a tuning, as `walk.speed`. Paths of angles end in `_deg`.
    pub path: &'static str,
    /// The meaning, in a sentence or two.
    pub meaning: &'static str,
    /// The unit.
    pub unit: Unit,
    /// The smallest value, in the unit of files.
    pub min: f32,
    /// The largest value, in the unit of files.
    pub max: f32,
    /// The default, in the unit of files.
    pub default: f32,
}

/// Why a knob cannot be read or set.
///
/// ```
/// use rasant::Tuning;
/// use rasant::tuning::KnobError;
///
/// let mut tuning = Tuning::default();
/// assert!(matches!(tuning.set("jump.hight", 2.0), Err(KnobError::Unknown(_))));
/// assert!(matches!(tuning.set("jump.height", -2.0), Err(KnobError::Range { .. })));
/// ```
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum KnobError {
    /// There is no knob with this path.
    #[error("there is no knob `{0}`")]
    Unknown(String),
    /// The tuning's scale is not a finite number above 0.
    #[error(transparent)]
    Scale(#[from] ScaleError),
    /// The tuning was read without its list of moves: see
    /// [`Tuning::is_detached`](crate::Tuning::is_detached).
    #[error("the tuning was read without its list of moves, expected `with_moves` with that list")]
    Detached,
    /// The value is outside the knob's range, or NaN.
    #[error("`{}` is {value}, expected {}", knob.path, knob.range())]
    Range {
        /// The knob.
        knob: Knob,
        /// The refused value, in the unit of files.
        value: f32,
    },
}

impl Knob {
    /// The knob in a world whose lengths are `factor` times as large: range and default of lengths,
    /// speeds and accelerations are multiplied by it.
    #[must_use]
    pub fn scaled(mut self, factor: f32) -> Self {
        for value in [&mut self.min, &mut self.max, &mut self.default] {
            *value *= self.unit.scale(factor);
        }
        self
    }

    /// The range as text: `0 to 100 m/s`.
    #[must_use]
    pub fn range(&self) -> Range {
        Range(*self)
    }
}

/// Prints a knob's range: `0 to 100 m/s`.
#[derive(Clone, Copy, Debug)]
pub struct Range(Knob);

impl fmt::Display for Range {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Knob { min, max, unit, .. } = self.0;
        write!(f, "{min} to {max}")?;
        match unit {
            Unit::Factor => Ok(()),
            Unit::Count => write!(f, ", whole"),
            Unit::Switch => write!(f, ", off or on"),
            Unit::Degrees | Unit::DegreesPerSecond => write!(f, "{}", unit.sign()),
            _ => write!(f, " {}", unit.sign()),
        }
    }
}

/// Returns the value of a knob that counts as the nearest whole number, 0 to 255.
#[must_use]
pub fn whole(knob: f32) -> u8 {
    (knob + 0.5) as u8
}

/// A group of knobs as the fields of a struct, as [`knobs!`](crate::knobs) generates it.
pub trait Knobs: Copy + Default + 'static {
    /// The descriptions of the knobs, in the order of the fields.
    const KNOBS: &'static [Knob];

    /// Reads the knobs from the beginning of `values`, in the units of code.
    fn read(values: &[f32]) -> Self;

    /// Writes the knobs to the beginning of `values`.
    fn write(&self, values: &mut [f32]);

    /// The value of the knob at `path`, or `None` if it is not in this group.
    fn slot(&mut self, path: &str) -> Option<&mut f32>;
}

/// Defines a struct whose fields are knobs and implements [`Knobs`](crate::tuning::Knobs) for it.
/// Each field has a meaning (its doc comment), a path, a unit, a default and a range, in the unit
/// of files. Paths have the form `group.name`; those of angles end in `_deg`.
///
/// ```
/// rasant::knobs! {
///     /// Swinging on a rope.
///     pub struct Swing {
///         /// How far a hook reaches.
///         reach: "swing.reach", Metres, 6.0, 0.0..50.0;
///     }
/// }
/// assert_eq!(Swing::default().reach, 6.0);
/// ```
#[macro_export]
macro_rules! knobs {
    (
        $(#[$outer:meta])*
        $vis:vis struct $Name:ident {
            $(
                $(#[doc = $meaning:literal])*
                $field:ident: $path:literal, $unit:ident, $default:literal, $min:literal..$max:literal;
            )*
        }
    ) => {
        $(#[$outer])*
        #[derive(Clone, Copy, Debug, PartialEq)]
        $vis struct $Name {
            $(
                $(#[doc = $meaning])*
                #[doc = ""]
                #[doc = concat!(" Knob `", $path, "`: ", stringify!($min), " to ", stringify!($max), " (", stringify!($unit), "), default ", stringify!($default), ".")]
                pub $field: f32,
            )*
        }

        impl $crate::tuning::Knobs for $Name {
            const KNOBS: &'static [$crate::tuning::Knob] = &[$(
                $crate::tuning::Knob {
                    path: $path,
                    meaning: concat!($($meaning),*),
                    unit: $crate::tuning::Unit::$unit,
                    min: $min,
                    max: $max,
                    default: $default,
                },
            )*];

            fn read(values: &[f32]) -> Self {
                let mut values = values.iter().copied();
                let mut _next = || values.next().unwrap_or_default();
                Self { $($field: _next(),)* }
            }

            fn write(&self, values: &mut [f32]) {
                for (slot, value) in values.iter_mut().zip([$(self.$field),*]) {
                    *slot = value;
                }
            }

            fn slot(&mut self, path: &str) -> Option<&mut f32> {
                match path {
                    $($path => Some(&mut self.$field),)*
                    _ => None,
                }
            }
        }

        impl Default for $Name {
            #[allow(clippy::neg_multiply)] // of defaults below 0
            fn default() -> Self {
                Self { $($field: $default * $crate::tuning::Unit::$unit.in_code(),)* }
            }
        }
    };
}
