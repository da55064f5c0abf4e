//! What a knob is, and the macro that makes one of each field.
//!
//! A tuning is a tree of plain structs. [`knobs!`] writes the struct, its
//! defaults and its table of knobs from one declaration, so that a file, a
//! document and a slider cannot disagree about a range or a unit.

use alloc::string::String;
use core::fmt;

use thiserror::Error;

use crate::space::ScaleError;

/// What a knob's number counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Unit {
    /// Metres.
    Metres,
    /// Seconds.
    Seconds,
    /// Metres a second.
    MetresPerSecond,
    /// Degrees in files and documents, radians in code.
    Degrees,
    /// Metres a second, a second.
    MetresPerSecondSquared,
    /// Degrees a second in files and documents, radians a second in code.
    DegreesPerSecond,
    /// One a metre.
    PerMetre,
    /// A factor without a unit.
    Factor,
    /// A whole number of things.
    Count,
    /// 0 for off, 1 for on.
    Switch,
}

impl Unit {
    /// The sign written behind a number; empty for a factor.
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

    /// What a number of it is multiplied by in a world whose lengths are `factor` times as large.
    pub(super) fn scale(self, factor: f32) -> f32 {
        match self {
            Self::Metres | Self::MetresPerSecond | Self::MetresPerSecondSquared => factor,
            Self::PerMetre => 1.0 / factor,
            _ => 1.0,
        }
    }

    /// Whether only whole numbers make sense.
    #[must_use]
    pub fn is_whole(self) -> bool {
        matches!(self, Self::Count | Self::Switch)
    }

    /// What a file's number is multiplied by to give the code's.
    #[must_use]
    pub fn in_code(self) -> f32 {
        match self {
            Self::Degrees | Self::DegreesPerSecond => core::f32::consts::PI / 180.0,
            _ => 1.0,
        }
    }
}

/// One number a designer turns.
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
    /// Where it stands in a tuning: `walk.speed`. Angles end in `_deg`.
    pub path: &'static str,
    /// What it means, in a sentence or two.
    pub meaning: &'static str,
    /// What it counts.
    pub unit: Unit,
    /// The least value, in the file's unit.
    pub min: f32,
    /// The greatest value, in the file's unit.
    pub max: f32,
    /// The value of a tuning that does not say, in the file's unit.
    pub default: f32,
}

/// Why a knob cannot be read or turned.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum KnobError {
    /// There is no knob of that path.
    #[error("there is no knob `{0}`")]
    Unknown(String),
    /// The tuning's scale is not a finite number above 0.
    #[error(transparent)]
    Scale(#[from] ScaleError),
    /// The tuning was read without its list of moves: see
    /// [`Tuning::is_detached`](crate::Tuning::is_detached).
    #[error(
        "the tuning is for a list of moves that it was read without, expected `with_moves` with that list"
    )]
    Detached,
    /// The value is outside the knob's range, or not a number.
    #[error("`{}` is {value}, expected {}", knob.path, knob.range())]
    Range {
        /// The knob.
        knob: Knob,
        /// The value refused, in the file's unit.
        value: f32,
    },
}

impl Knob {
    /// The knob in a world whose lengths are `factor` times as large: range and default of
    /// lengths, speeds and accelerations are multiplied by it.
    #[must_use]
    pub fn scaled(mut self, factor: f32) -> Self {
        for value in [&mut self.min, &mut self.max, &mut self.default] {
            *value *= self.unit.scale(factor);
        }
        self
    }

    /// The range as people write it: `0 to 100 m/s`.
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

/// Writes [`Tuning`](super::Tuning) and its groups from one declaration:
/// `field: "path", unit, default, least..most;` under the doc of each field,
/// which is also the knob's meaning.
macro_rules! knobs {
    (
        $(#[doc = $tuning_doc:literal])*
        $tuning:ident;
        rules {
            $(
                $(#[doc = $rule_doc:literal])*
                $rule:ident: $Rule:ty;
            )*
        }
        $(
            $(#[doc = $group_doc:literal])*
            $group:ident: $Group:ident {
                $(
                    $(#[doc = $doc:literal])*
                    $field:ident: $path:literal, $unit:ident, $default:literal, $least:literal..$most:literal;
                )*
            }
        )*
    ) => {
        $(
            $(#[doc = $group_doc])*
            #[derive(Clone, Copy, Debug, PartialEq)]
            #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
            pub struct $Group {
                $(
                    $(#[doc = $doc])*
                    #[doc = ""]
                    #[doc = concat!(" Knob `", $path, "`: ", stringify!($least), " to ", stringify!($most), " (", stringify!($unit), "), default ", stringify!($default), ".")]
                    pub $field: f32,
                )*
            }
        )*

        $(#[doc = $tuning_doc])*
        #[derive(Clone, Copy, Debug, PartialEq)]
        #[cfg_attr(
            feature = "serde",
            derive(serde::Serialize, serde::Deserialize),
            serde(try_from = "unchecked::Unchecked")
        )]
        pub struct $tuning {
            $(
                $(#[doc = $rule_doc])*
                pub $rule: $Rule,
            )*
            $(
                $(#[doc = $group_doc])*
                pub $group: $Group,
            )*
            /// Units of length in a metre: 1, or what [`Self::scaled`] was given. The ranges of
            /// lengths, speeds and accelerations are multiplied by it.
            pub scale: f32,
            /// The list of moves, and the numbers of those of a game's own.
            pub own: $crate::tuning::Own,
        }

        #[cfg(feature = "serde")]
        mod unchecked {
            use super::*;

            /// A tuning as it is read, before it is checked.
            #[derive(serde::Deserialize)]
            pub struct Unchecked {
                $($rule: $Rule,)*
                $($group: $Group,)*
                #[serde(default = "one")]
                scale: f32,
                own: $crate::tuning::Own,
            }

            fn one() -> f32 {
                1.0
            }

            impl TryFrom<Unchecked> for $tuning {
                type Error = KnobError;

                fn try_from(read: Unchecked) -> Result<Self, KnobError> {
                    let Unchecked { $($rule,)* $($group,)* scale, own } = read;
                    let tuning = Self { $($rule,)* $($group,)* scale, own };
                    tuning.in_range().map(|()| tuning)
                }
            }
        }

        /// Every knob, in the order of the declaration, but for those of a game's own
        /// moves.
        pub const KNOBS: &[Knob] = &[
            $($(
                Knob {
                    path: $path,
                    meaning: concat!($($doc),*),
                    unit: Unit::$unit,
                    min: $least,
                    max: $most,
                    default: $default,
                },
            )*)*
        ];

        impl $tuning {
            fn slot(&mut self, path: &str) -> Option<&mut f32> {
                match path {
                    $($($path => Some(&mut self.$group.$field),)*)*
                    _ => self.own.slot(path),
                }
            }
        }

        impl Default for $tuning {
            #[allow(clippy::neg_multiply)] // of whatever default is below 0
            fn default() -> Self {
                Self {
                    $($rule: <$Rule>::default(),)*
                    $($group: $Group {
                        $($field: $default * Unit::$unit.in_code(),)*
                    },)*
                    scale: 1.0,
                    own: $crate::tuning::Own::NONE,
                }
            }
        }
    };
}

pub(super) use knobs;
