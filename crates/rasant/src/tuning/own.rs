//! Knobs of a game's own moves, beside the groups of the tuning.

use alloc::borrow::ToOwned;
use alloc::vec;
use alloc::vec::Vec;
use core::any::Any;
use core::fmt;

use super::knob::{Knob, KnobError, Knobs};
use super::{KNOBS, Tuning};

/// The knobs of all moves of a list, one move after another.
#[derive(Debug)]
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

/// A list of moves that a game chose, and the values of their knobs.
#[derive(Clone, Copy)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Own {
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) table: Option<&'static KnobTable>,
    /// The functions of the list's moves, in two and in three dimensions. Only code that runs them
    /// knows their types.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) moves: [Option<&'static (dyn Any + Send + Sync)>; 2],
    /// A hash of the names of the moves; 0 for no list.
    list: u32,
    values: [f32; Own::MAX],
}

impl Own {
    /// The maximum number of knobs of all moves in a list. A list with more does not compile.
    pub const MAX: usize = 24;

    pub(super) const NONE: Self = Self { table: None, moves: [None; 2], list: 0, values: [0.0; Self::MAX] };

    /// Returns true if the values belong to a list of moves that is not here: serde cannot read the
    /// moves themselves.
    pub(crate) fn is_detached(&self) -> bool {
        self.list != 0 && self.table.is_none()
    }

    /// The values from index `at` on.
    pub(crate) fn values(&self, at: usize) -> &[f32] {
        &self.values[at..]
    }

    /// Returns true if the moves are those of the library.
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
    /// The tuning for another list of moves. Knobs that both lists have keep their values; others
    /// get their defaults.
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

    /// Returns true if serde read the tuning for a list of moves that it could not read. The values
    /// of its own knobs are kept: [`Tuning::with_moves`] with that list restores them. Until then
    /// the tuning uses the moves of the library, and [`Tuning::checked`] returns an error.
    #[must_use]
    pub fn is_detached(&self) -> bool {
        self.own.is_detached()
    }

    /// Every knob of this tuning: [`KNOBS`], and those of its own moves.
    #[must_use]
    pub fn knobs(&self) -> Vec<&'static Knob> {
        KNOBS.iter().chain(self.own.knobs()).collect()
    }

    /// The knobs of a group: a field of the tuning, or those of a move in its list. The defaults if
    /// the group is in neither.
    #[must_use]
    pub fn group<K: Knobs>(&self) -> K {
        let mut copy = *self;
        let values: Vec<f32> = K::KNOBS
            .iter()
            .map(|knob| copy.slot(knob.path).map_or(knob.default * knob.unit.in_code(), |slot| *slot))
            .collect();
        K::read(&values)
    }

    /// Sets the knobs of a group: a field of the tuning, or those of a move in its list.
    ///
    /// # Errors
    /// [`KnobError::Unknown`] if the group is in neither. The tuning is then unchanged.
    pub fn set_group<K: Knobs>(&mut self, knobs: K) -> Result<(), KnobError> {
        let mut values = vec![0.0; K::KNOBS.len()];
        knobs.write(&mut values);
        let mut changed = *self;
        for (knob, value) in K::KNOBS.iter().zip(values) {
            let slot = changed.slot(knob.path).ok_or_else(|| KnobError::Unknown(knob.path.to_owned()))?;
            *slot = value;
        }
        *self = changed;
        Ok(())
    }
}
