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
    /// layers of `mask`. Giving more than that is allowed; it only costs
    /// time.
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>);

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

    /// A place that the host keeps for its own moves, in the world: an anchor, a target, a corner of a
    /// rail. `kind` is the host's own number for what it is; places of a kind are numbered from 0.
    /// Moves read them by [`Senses::marks`](crate::moves::Senses::marks).
    fn mark(&self, _kind: u16, _number: u32) -> Option<V> {
        None
    }

    /// A number that two ticks share only if all that overlaps `region` is the same in both:
    /// pieces, surfaces, carriers and zones, none of them moving; but for a chance of 1 in 2⁶⁴.
    /// `None` where something there moves, or where it is not known: the default. By it a
    /// [`Controller`](crate::Controller) finds out that a body at rest stays so.
    fn stamp(&self, _region: &Bounds<V>) -> Option<u64> {
        None
    }

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

/// What is true of surroundings is true of a reference to them.
impl<V: Vector, S: Surroundings<V> + ?Sized> Surroundings<V> for &S {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        (**self).pieces(region, mask, found);
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        (**self).surface(id)
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        (**self).ride(id)
    }

    fn moving(&self, region: &Bounds<V>, found: impl FnMut(CarrierId)) {
        (**self).moving(region, found);
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        (**self).zone(id)
    }

    fn zones(&self, region: &Bounds<V>, found: impl FnMut(ZoneId)) {
        (**self).zones(region, found);
    }

    fn mark(&self, kind: u16, number: u32) -> Option<V> {
        (**self).mark(kind, number)
    }

    fn stamp(&self, region: &Bounds<V>) -> Option<u64> {
        (**self).stamp(region)
    }

    fn is_plain(&self) -> bool {
        (**self).is_plain()
    }
}

/// Surroundings of any kind, found out at run time: for a host whose worlds are of several
/// kinds. Every [`Surroundings`] are these, and a reference to these are [`Surroundings`].
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::AnySurroundings;
/// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-5.0, -1.0), Vec2::new(5.0, 0.0))?);
/// let world: Box<dyn AnySurroundings<Vec2>> = Box::new(builder.build()?);
///
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.8)?, Vec2::Y);
/// for _ in 0..60 {
///     body.tick(&Intent::default(), &&*world, 1.0 / 60.0);
/// }
/// assert!(body.state().footing.is_firm());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub trait AnySurroundings<V: Vector> {
    /// [`Surroundings::pieces`].
    fn any_pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut dyn Found<V>);
    /// [`Surroundings::surface`].
    fn any_surface(&self, id: SurfaceId) -> Surface<V>;
    /// [`Surroundings::ride`].
    fn any_ride(&self, id: CarrierId) -> Ride<V>;
    /// [`Surroundings::moving`].
    fn any_moving(&self, region: &Bounds<V>, found: &mut dyn FnMut(CarrierId));
    /// [`Surroundings::zone`].
    fn any_zone(&self, id: ZoneId) -> Option<Zone<V>>;
    /// [`Surroundings::zones`].
    fn any_zones(&self, region: &Bounds<V>, found: &mut dyn FnMut(ZoneId));
    /// [`Surroundings::mark`].
    fn any_mark(&self, kind: u16, number: u32) -> Option<V>;
    /// [`Surroundings::stamp`].
    fn any_stamp(&self, region: &Bounds<V>) -> Option<u64>;
    /// [`Surroundings::is_plain`].
    fn is_any_plain(&self) -> bool;
}

/// Hands on what is found.
struct Through<'a, V>(&'a mut dyn Found<V>);

impl<V: Vector> Found<V> for Through<'_, V> {
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag) {
        self.0.piece(shape, tag);
    }

    fn block(&mut self, min: V, max: V, tag: Tag) {
        self.0.block(min, max, tag);
    }
}

impl<V: Vector, S: Surroundings<V>> AnySurroundings<V> for S {
    fn any_pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut dyn Found<V>) {
        self.pieces(region, mask, &mut Through(found));
    }

    fn any_surface(&self, id: SurfaceId) -> Surface<V> {
        self.surface(id)
    }

    fn any_ride(&self, id: CarrierId) -> Ride<V> {
        self.ride(id)
    }

    fn any_moving(&self, region: &Bounds<V>, found: &mut dyn FnMut(CarrierId)) {
        self.moving(region, found);
    }

    fn any_zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.zone(id)
    }

    fn any_zones(&self, region: &Bounds<V>, found: &mut dyn FnMut(ZoneId)) {
        self.zones(region, found);
    }

    fn any_mark(&self, kind: u16, number: u32) -> Option<V> {
        self.mark(kind, number)
    }

    fn any_stamp(&self, region: &Bounds<V>) -> Option<u64> {
        self.stamp(region)
    }

    fn is_any_plain(&self) -> bool {
        self.is_plain()
    }
}

impl<V: Vector> Surroundings<V> for dyn AnySurroundings<V> + '_ {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.any_pieces(region, mask, found);
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.any_surface(id)
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        self.any_ride(id)
    }

    fn moving(&self, region: &Bounds<V>, mut found: impl FnMut(CarrierId)) {
        self.any_moving(region, &mut found);
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.any_zone(id)
    }

    fn zones(&self, region: &Bounds<V>, mut found: impl FnMut(ZoneId)) {
        self.any_zones(region, &mut found);
    }

    fn mark(&self, kind: u16, number: u32) -> Option<V> {
        self.any_mark(kind, number)
    }

    fn stamp(&self, region: &Bounds<V>) -> Option<u64> {
        self.any_stamp(region)
    }

    fn is_plain(&self) -> bool {
        self.is_any_plain()
    }
}
