//! What a host tells a body about the world.

use crate::space::{Bounds, Vector};

use super::carrier::{CarrierId, Placement};
use super::layers::Layers;
use super::piece::{Shape, Tag};
use super::surface::{Surface, SurfaceId};

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

/// How a carrier moves in one tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ride<V> {
    /// Where it is before the tick.
    pub from: Placement<V>,
    /// Where it is after the tick, and where its pieces are found.
    pub to: Placement<V>,
}

impl<V: Vector> Ride<V> {
    /// No motion.
    #[must_use]
    pub fn still() -> Self {
        Self { from: Placement::default(), to: Placement::default() }
    }

    /// Where a point that rides along is after the tick.
    #[must_use]
    pub fn carry(&self, point: V) -> V {
        self.to.apply(self.from.undo(point))
    }

    /// How far a point that rides along is moved. Exact for a carrier that does
    /// not turn, however far from the origin.
    #[must_use]
    pub fn displacement(&self, point: V) -> V {
        if self.from.right() == self.to.right() {
            self.to.offset() - self.from.offset()
        } else {
            self.carry(point) - point
        }
    }

    /// The turn of the tick in radians.
    #[must_use]
    pub fn turn(&self) -> f32 {
        self.from.right().turn_to(self.to.right())
    }
}
