//! Snapshots of levels.

use alloc::collections::BTreeMap;
use alloc::sync::Arc;
use alloc::vec::Vec;

use crate::space::{Bounds, Vector};

use super::Level;
use super::carrier::Carrier;
use super::pieces::{Change, Pieces};
use super::surface::Surface;
use super::zone::Zone;

/// Everything that changes in a level: see [`Level::snapshot`]. It shares memory with the level, so
/// it costs little. With the feature `serde` it can be saved: of the pieces, those that were added,
/// changed or removed since the level was built. It is checked when it is read.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Level, Piece};
///
/// let mut builder = Level::builder();
/// let plank = builder.add(Piece::block(Vec2::ZERO, Vec2::ONE)?);
/// let mut level = builder.build()?;
/// let snapshot = level.snapshot();
/// level.advance(0.5);
/// level.remove(plank);
/// level.restore(&snapshot);
/// assert_eq!((level.time(), level.len()), (0.0, 1));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(
        try_from = "saved::Snapshot<V>",
        into = "saved::Snapshot<V>",
        bound(
            serialize = "V: Vector + serde::Serialize",
            deserialize = "V: Vector + serde::Deserialize<'de>"
        )
    )
)]
pub struct LevelSnapshot<V: Vector> {
    before: f64,
    time: f64,
    carriers: Arc<Vec<Carrier<V>>>,
    marks: Arc<BTreeMap<u16, Vec<V>>>,
    pieces: Contents<V>,
    surfaces: Arc<Vec<Surface<V>>>,
    zones: Arc<Vec<Zone<V>>>,
    removed_zones: Arc<Vec<u16>>,
    bounds: Bounds<V>,
    sum: u64,
}

/// The pieces of a snapshot.
#[derive(Clone, Debug)]
enum Contents<V> {
    /// Those of the level, and those that it was built with.
    Shared { pieces: Pieces<V>, built: Pieces<V> },
    /// What differs from the pieces that a level was built with, and the next id.
    #[cfg_attr(not(feature = "serde"), expect(dead_code, reason = "only serde reads snapshots"))]
    Read { changes: Vec<Change<V>>, next: u32 },
}

impl<V: Vector> Contents<V> {
    /// What differs from the pieces that the level was built with, and the next id.
    fn changes(&self) -> (Vec<Change<V>>, u32) {
        match self {
            Self::Shared { pieces, built } => (pieces.changes_since(built), pieces.next()),
            Self::Read { changes, next } => (changes.clone(), *next),
        }
    }
}

impl<V: Vector> PartialEq for Contents<V> {
    fn eq(&self, other: &Self) -> bool {
        let is_same = match (self, other) {
            (Self::Shared { pieces: one, .. }, Self::Shared { pieces: other, .. }) => one.is_same(other),
            _ => false,
        };
        is_same || self.changes() == other.changes()
    }
}

impl<V: Vector> LevelSnapshot<V> {
    pub(super) fn of(level: &Level<V>) -> Self {
        Self {
            before: level.before,
            time: level.time,
            carriers: Arc::clone(&level.carriers),
            marks: Arc::clone(&level.marks),
            pieces: Contents::Shared { pieces: level.pieces.clone(), built: level.built.clone() },
            surfaces: Arc::clone(&level.surfaces),
            zones: Arc::clone(&level.zones),
            removed_zones: Arc::clone(&level.removed_zones),
            bounds: level.bounds,
            sum: level.sum,
        }
    }

    pub(super) fn restore_to(&self, level: &mut Level<V>) {
        (level.before, level.time) = (self.before, self.time);
        (level.bounds, level.sum) = (self.bounds, self.sum);
        level.marks = Arc::clone(&self.marks);
        level.surfaces = Arc::clone(&self.surfaces);
        let zones_differ = !Arc::ptr_eq(&level.zones, &self.zones)
            || !Arc::ptr_eq(&level.removed_zones, &self.removed_zones);
        let pieces = match &self.pieces {
            Contents::Shared { pieces, .. } => pieces.clone(),
            Contents::Read { changes, next } => level.built.with_changes(changes, *next),
        };
        let riders_differ = zones_differ
            || !level.pieces.is_same(&pieces)
            || level.carriers.len() != self.carriers.len()
            || level.carriers.iter().zip(&*self.carriers).any(|(own, other)| own.parent() != other.parent());
        level.pieces = pieces;
        level.carriers = Arc::clone(&self.carriers);
        if zones_differ {
            level.zones = Arc::clone(&self.zones);
            level.removed_zones = Arc::clone(&self.removed_zones);
            level.index_zones();
        }
        if riders_differ {
            level.index_riders();
        } else {
            Arc::make_mut(&mut level.riders).put(&level.carriers);
        }
    }
}

/// A snapshot as serde writes it, and reads it before it is checked.
#[cfg(feature = "serde")]
mod saved {
    use alloc::collections::BTreeMap;
    use alloc::format;
    use alloc::string::{String, ToString};
    use alloc::sync::Arc;
    use alloc::vec::Vec;

    use super::{Bounds, Carrier, Change, Contents, LevelSnapshot, Surface, Vector, Zone};
    use crate::level::build::{Counts, check_carrier};
    use crate::level::carrier::Saved;

    #[derive(serde::Serialize, serde::Deserialize)]
    #[serde(bound(
        serialize = "V: Vector + serde::Serialize",
        deserialize = "V: Vector + serde::Deserialize<'de>"
    ))]
    pub(super) struct Snapshot<V: Vector> {
        before: f64,
        time: f64,
        carriers: Vec<Saved<V>>,
        marks: BTreeMap<u16, Vec<V>>,
        pieces: Vec<Change<V>>,
        next: u32,
        surfaces: Vec<Surface<V>>,
        zones: Vec<Zone<V>>,
        removed_zones: Vec<u16>,
        bounds: Bounds<V>,
        sum: u64,
    }

    impl<V: Vector> From<LevelSnapshot<V>> for Snapshot<V> {
        fn from(snapshot: LevelSnapshot<V>) -> Self {
            let LevelSnapshot {
                before,
                time,
                carriers,
                marks,
                pieces,
                surfaces,
                zones,
                removed_zones,
                bounds,
                sum,
            } = snapshot;
            let (pieces, next) = pieces.changes();
            Self {
                before,
                time,
                carriers: carriers.iter().map(Carrier::saved).collect(),
                marks: Arc::unwrap_or_clone(marks),
                pieces,
                next,
                surfaces: Arc::unwrap_or_clone(surfaces),
                zones: Arc::unwrap_or_clone(zones),
                removed_zones: Arc::unwrap_or_clone(removed_zones),
                bounds,
                sum,
            }
        }
    }

    impl<V: Vector> TryFrom<Snapshot<V>> for LevelSnapshot<V> {
        type Error = String;

        fn try_from(read: Snapshot<V>) -> Result<Self, String> {
            let Snapshot {
                before,
                time,
                carriers: saved,
                marks,
                pieces,
                next,
                surfaces,
                zones,
                removed_zones,
                bounds,
                sum,
            } = read;
            if !(before.is_finite() && time.is_finite()) {
                return Err("a time of the level is not finite, expected a number of seconds".to_string());
            }
            let mut carriers = Vec::with_capacity(saved.len());
            for (number, saved) in saved.into_iter().enumerate() {
                let carrier = Carrier::of_saved(saved, &carriers).ok_or_else(|| {
                    let expected = "expected finite offsets, and axes of length 1 at right angles";
                    format!("a placement of carrier {number} is invalid, {expected}")
                })?;
                if !carrier.is_removed() {
                    check_carrier(&carriers, &carrier).map_err(|error| error.to_string())?;
                }
                carriers.push(carrier);
            }
            if !marks.values().flatten().all(|place| place.is_finite()) {
                return Err("a mark is not finite, expected positions in metres".to_string());
            }
            if !removed_zones.is_sorted() {
                return Err("the removed zones are not sorted, expected ascending numbers".to_string());
            }
            let counts = Counts { surfaces: surfaces.len(), carriers: &carriers };
            for (number, zone) in zones.iter().enumerate() {
                let number = number as u16;
                if removed_zones.binary_search(&number).is_err() {
                    counts.check_zone(number, zone).map_err(|error| error.to_string())?;
                }
            }
            let mut last = None;
            for (id, piece) in &pieces {
                if last >= Some(*id) || *id >= next {
                    return Err(format!("piece {id} is out of order, expected ascending ids below {next}"));
                }
                last = Some(*id);
                if let Some(piece) = piece {
                    piece.check().map_err(|error| format!("piece {id}: {error}"))?;
                    counts.check_piece(*id as usize, piece).map_err(|error| error.to_string())?;
                }
            }
            Ok(Self {
                before,
                time,
                carriers: Arc::new(carriers),
                marks: Arc::new(marks),
                pieces: Contents::Read { changes: pieces, next },
                surfaces: Arc::new(surfaces),
                zones: Arc::new(zones),
                removed_zones: Arc::new(removed_zones),
                bounds,
                sum,
            })
        }
    }
}
