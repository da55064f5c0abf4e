//! What a host tells a body about the world.

use crate::space::{Bounds, Vector};

use super::Level;
use super::carrier::{CarrierId, Ride};
use super::layers::Layers;
use super::piece::{Shape, Tag};
use super::surface::{Surface, SurfaceId};
use super::zone::{Zone, ZoneId};

/// A world that bodies move in.
///
/// Only [`Surroundings::pieces`] must be written; the rest has defaults for a
/// world of plain surfaces where nothing moves. The answers must not change
/// within a tick.
pub trait Surroundings<V: Vector> {
    /// Gives `found` every piece that overlaps `region` and is on one of the
    /// layers `stopped_by`. Giving more than that is allowed; it only costs
    /// time.
    fn pieces(&self, region: &Bounds<V>, stopped_by: Layers, found: &mut impl Found<V>);

    /// What a surface is like.
    fn surface(&self, _id: SurfaceId) -> Surface<V> {
        Surface::default()
    }

    /// How a carrier moves in this tick.
    fn ride(&self, _id: CarrierId) -> Ride<V> {
        Ride::still()
    }

    /// Gives `found` every carrier that moves in this tick and has a piece
    /// that overlaps `region` before or after. Naming one twice is allowed.
    fn moving(&self, _region: &Bounds<V>, _found: impl FnMut(CarrierId)) {}

    /// A zone, where it is at the end of this tick.
    fn zone(&self, _id: ZoneId) -> Option<Zone<V>> {
        None
    }

    /// Gives `found` every zone that overlaps `region`, in the same order each
    /// time.
    fn zones(&self, _region: &Bounds<V>, _found: impl FnMut(ZoneId)) {}

    /// Whether there is any carrier or zone at all. Where there is none, none is
    /// asked for.
    fn is_plain(&self) -> bool {
        false
    }

    /// Does something in these surroundings. What is done in a [`Level`] was compiled
    /// once, with the library; there is nothing to gain by writing this.
    #[doc(hidden)]
    fn host(&self, errand: impl Errand<V>)
    where
        Self: Sized,
    {
        errand.among(self);
    }
}

/// Something that is done in surroundings of any kind, and in a level by itself.
#[doc(hidden)]
pub trait Errand<V: Vector> {
    fn among(self, surroundings: &impl Surroundings<V>);
    fn in_level(self, level: &Level<V>);
}

/// Takes the pieces that [`Surroundings::pieces`] finds.
pub trait Found<V: Vector> {
    /// One piece, in world coordinates.
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag);

    /// A box along the axes.
    fn block(&mut self, min: V, max: V, tag: Tag) {
        Shape::block(min, max, |shape| self.piece(shape, tag));
    }
}
