//! Knobs of a game's own moves, beside those of the tuning.

use alloc::borrow::ToOwned;
use alloc::vec::Vec;
use core::any::Any;
use core::fmt;

use super::knob::{Knob, KnobError};
use super::{KNOBS, Tuning};

/// The knobs of one move: what [`own_knobs!`](crate::own_knobs) writes for a struct.
pub trait OwnKnobs: Copy + 'static {
    /// What they are, in the order of the fields.
    const KNOBS: &'static [Knob];

    /// Reads them from the beginning of `values`, in the units of code.
    fn read(values: &[f32]) -> Self;

    /// Writes them to the beginning of `values`.
    fn write(&self, values: &mut [f32]);
}

/// The knobs of all moves of a list, one move after another.
pub struct KnobTable {
    pub(crate) head: Option<&'static [Knob]>,
    pub(crate) rest: [Option<&'static KnobTable>; 2],
}

impl KnobTable {
    pub(crate) fn for_each(&'static self, visit: &mut impl FnMut(&'static Knob)) {
        self.head.into_iter().flatten().for_each(&mut *visit);
        for part in self.rest.into_iter().flatten() {
            part.for_each(visit);
        }
    }

    pub(crate) const fn len(&self) -> usize {
        let mut len = match self.head {
            Some(knobs) => knobs.len(),
            None => 0,
        };
        let mut part = 0;
        while part < self.rest.len() {
            if let Some(table) = self.rest[part] {
                len += table.len();
            }
            part += 1;
        }
        len
    }
}

/// What a tuning has of a game's own: a list of moves, and the numbers of their knobs.
#[derive(Clone, Copy)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Own {
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) table: Option<&'static KnobTable>,
    /// What the moves of the list do, in the plane and in space: known to those who
    /// run them.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) moves: [Option<&'static (dyn Any + Send + Sync)>; 2],
    /// A number for the names of the moves; 0 for no list.
    list: u32,
    values: [f32; Own::MOST],
}

impl Own {
    /// The most knobs that all moves of a list have together. A list with more does
    /// not compile.
    pub const MOST: usize = 24;

    pub(super) const NONE: Self = Self { table: None, moves: [None; 2], list: 0, values: [0.0; Self::MOST] };

    /// Whether the numbers are those of a list of moves that is not here: serde cannot read the
    /// moves themselves.
    pub(crate) fn is_detached(&self) -> bool {
        self.list != 0 && self.table.is_none()
    }

    /// Those from the place `at` on.
    #[inline]
    pub(crate) fn values(&self, at: usize) -> &[f32] {
        &self.values[at..]
    }

    /// Returns true if there is no list of moves beside those of the library.
    #[inline]
    pub(crate) fn is_empty(&self) -> bool {
        self.table.is_none() && self.moves[0].is_none() && self.moves[1].is_none()
    }

    fn knobs(&self) -> Vec<&'static Knob> {
        let mut knobs = Vec::new();
        if let Some(table) = self.table {
            table.for_each(&mut |knob| knobs.push(knob));
        }
        knobs
    }

    fn place(&self, path: &str) -> Option<(usize, &'static Knob)> {
        self.knobs().into_iter().enumerate().find(|(_, knob)| knob.path == path)
    }

    pub(super) fn knob(&self, path: &str) -> Option<&'static Knob> {
        self.place(path).map(|(_, knob)| knob)
    }

    pub(super) fn slot(&mut self, path: &str) -> Option<&mut f32> {
        let (place, _) = self.place(path)?;
        self.values.get_mut(place)
    }
}

impl Default for Own {
    fn default() -> Self {
        Self::NONE
    }
}

impl PartialEq for Own {
    fn eq(&self, other: &Self) -> bool {
        // Without a list there are no values.
        self.list == other.list
            && (self.list == 0 || (self.is_detached() == other.is_detached() && self.values == other.values))
    }
}

impl fmt::Debug for Own {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let knobs = self.knobs();
        f.debug_map().entries(knobs.iter().zip(&self.values).map(|(knob, value)| (knob.path, value))).finish()
    }
}

impl Tuning {
    /// A tuning for another list of moves: knobs that both lists have keep their
    /// values, others begin with their defaults.
    pub(crate) fn with_table(
        mut self,
        table: &'static KnobTable,
        moves: [Option<&'static (dyn Any + Send + Sync)>; 2],
        list: u32,
    ) -> Self {
        let before = self.own;
        if before.is_detached() && before.list == list {
            self.own = Own { table: Some(table), moves, ..before };
            return self;
        }
        let known = before.knobs();
        self.own = Own { table: Some(table), moves, list, ..Own::NONE };
        let knobs = self.own.knobs();
        for (value, knob) in self.own.values.iter_mut().zip(knobs) {
            let kept = known.iter().position(|other| other.path == knob.path);
            *value = kept.map_or(knob.default * knob.unit.in_code(), |place| before.values[place]);
        }
        self
    }

    /// Returns true if the tuning was read by serde and is for a list of moves that serde could not
    /// read. Its own numbers are kept: [`Tuning::with_moves`] with that list puts both together
    /// again. Until then it plays by the moves of the library, and [`Tuning::checked`] is an error.
    #[must_use]
    pub fn is_detached(&self) -> bool {
        self.own.is_detached()
    }

    /// Every knob of this tuning: those of [`KNOBS`], and those of its own moves.
    #[must_use]
    pub fn knobs(&self) -> Vec<&'static Knob> {
        KNOBS.iter().chain(self.own.knobs()).collect()
    }

    /// The knobs of an own move; their defaults if it is not in the list.
    #[must_use]
    pub fn own<K: OwnKnobs>(&self) -> K {
        let mut values: Vec<f32> = K::KNOBS.iter().map(|knob| knob.default * knob.unit.in_code()).collect();
        if let Some((place, _)) = K::KNOBS.first().and_then(|first| self.own.place(first.path)) {
            values.copy_from_slice(&self.own.values[place..place + K::KNOBS.len()]);
        }
        K::read(&values)
    }

    /// Sets the knobs of an own move.
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when it is not in the tuning's list of moves.
    pub fn set_own<K: OwnKnobs>(&mut self, knobs: K) -> Result<(), KnobError> {
        let Some(first) = K::KNOBS.first() else { return Ok(()) };
        let (place, _) =
            self.own.place(first.path).ok_or_else(|| KnobError::Unknown(first.path.to_owned()))?;
        knobs.write(&mut self.own.values[place..]);
        Ok(())
    }
}

/// Writes a struct whose fields are knobs of a game's own move, each with its path, unit,
/// default and range (in the unit of files) under its meaning, with its
/// [`OwnKnobs`](crate::tuning::OwnKnobs). Paths are of the shape `group.name`; angles end in
/// `_deg`.
///
/// ```
/// rasant::own_knobs! {
///     /// Swinging on a rope.
///     pub struct Swing {
///         /// How far a hook reaches.
///         reach: "swing.reach", Metres, 6.0, 0.0..50.0;
///     }
/// }
/// assert_eq!(Swing::default().reach, 6.0);
/// ```
#[macro_export]
macro_rules! own_knobs {
    (
        $(#[doc = $doc:literal])*
        $vis:vis struct $Name:ident {
            $(
                $(#[doc = $meaning:literal])*
                $field:ident: $path:literal, $unit:ident, $default:literal, $least:literal..$most:literal;
            )*
        }
    ) => {
        $(#[doc = $doc])*
        #[derive(Clone, Copy, Debug, PartialEq)]
        $vis struct $Name {
            $(
                $(#[doc = $meaning])*
                pub $field: f32,
            )*
        }

        impl $crate::tuning::OwnKnobs for $Name {
            const KNOBS: &'static [$crate::tuning::Knob] = &[$(
                $crate::tuning::Knob {
                    path: $path,
                    meaning: concat!($($meaning),*),
                    unit: $crate::tuning::Unit::$unit,
                    min: $least,
                    max: $most,
                    default: $default,
                },
            )*];

            fn read(values: &[f32]) -> Self {
                let mut values = values.iter().copied();
                let mut next = || values.next().unwrap_or_default();
                Self { $($field: next(),)* }
            }

            fn write(&self, values: &mut [f32]) {
                for (slot, value) in values.iter_mut().zip([$(self.$field),*]) {
                    *slot = value;
                }
            }
        }

        impl Default for $Name {
            fn default() -> Self {
                Self { $($field: $default * $crate::tuning::Unit::$unit.in_code(),)* }
            }
        }
    };
}
