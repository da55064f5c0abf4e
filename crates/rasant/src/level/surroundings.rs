//! The interface through which a host describes its world.

use crate::space::{Bounds, Vector};

use super::Level;
use super::carrier::CarrierId;
use super::layers::Layers;
use super::piece::{RoundBox, Shape, Tag};
use super::placement::Ride;
use super::surface::{Surface, SurfaceId};
use super::zone::{Zone, ZoneId};

/// A world that bodies move in.
///
/// Only [`Surroundings::pieces`] must be implemented. The other methods have defaults for a world
/// of plain surfaces in which nothing moves. The answers must not change within a tick.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::{Found, Tag};
/// use rasant::space::Bounds;
/// use rasant::{Controller, Hull, Intent, Layers, Surroundings, Tuning};
///
/// /// A floor without an end.
/// struct Plain;
///
/// impl Surroundings<Vec2> for Plain {
///     fn pieces(&self, region: &Bounds<Vec2>, _mask: Layers, found: &mut impl Found<Vec2>) {
///         if region.min.y < 0.0 {
///             let (left, right) = (region.min.x - 1.0, region.max.x + 1.0);
///             found.block(Vec2::new(left, -1.0), Vec2::new(right, 0.0), Tag::default());
///         }
///     }
/// }
///
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::Y);
/// for _ in 0..90 {
///     body.tick(&Intent::steering(1.0, 0.0), &Plain, 1.0 / 60.0);
/// }
/// assert!(body.state().footing.is_firm());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub trait Surroundings<V: Vector> {
    /// Calls `found` with every piece that overlaps `region` and is on a layer of `mask`. Further
    /// pieces are allowed; they only cost time.
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>);

    /// The properties of a surface.
    fn surface(&self, _id: SurfaceId) -> Surface<V> {
        Surface::default()
    }

    /// The motion of a carrier in this tick.
    fn ride(&self, _id: CarrierId) -> Ride<V> {
        Ride::still()
    }

    /// Calls `found` with every carrier that moves in this tick and has a piece that overlaps
    /// `region` before or after it. Duplicates are allowed.
    fn moving(&self, _region: &Bounds<V>, _found: impl FnMut(CarrierId)) {}

    /// A zone at the end of this tick.
    fn zone(&self, _id: ZoneId) -> Option<Zone<V>> {
        None
    }

    /// Calls `found` with every zone that overlaps `region`, always in the same order.
    fn zones(&self, _region: &Bounds<V>, _found: impl FnMut(ZoneId)) {}

    /// A world position that the host stores for its own moves: an anchor, a target, a corner of a
    /// rail. `kind` is the host's own number for what it is; the positions of a kind are numbered
    /// from 0. Moves read them by [`Senses::marks`](crate::moves::Senses::marks).
    fn mark(&self, _kind: u16, _number: u32) -> Option<V> {
        None
    }

    /// A number that is equal in two ticks only if everything that overlaps `region` is the same in
    /// both (pieces, surfaces, carriers and zones) and none of it moves, except with a probability
    /// of 1 in 2⁶⁴. `None`, the default, if something there moves or it is not known. A
    /// [`Controller`](crate::Controller) uses it to detect that a body at rest stays so.
    fn stamp(&self, _region: &Bounds<V>) -> Option<u64> {
        None
    }

    /// A displacement of this tick, in the world, by which something other than a piece pushes the
    /// body, such as another body. It slides along pieces like any other displacement and changes no
    /// velocity.
    fn shove(&self) -> V {
        V::ZERO
    }

    /// Returns true if there are no carriers and no zones. They are then not queried.
    fn is_plain(&self) -> bool {
        false
    }

    /// Runs a visitor on these surroundings. For a [`Level`] its code is compiled once, with the
    /// library. There is nothing to gain by implementing this method.
    #[doc(hidden)]
    fn accept(&self, visitor: impl Visitor<V>)
    where
        Self: Sized,
    {
        visitor.visit(self);
    }
}

/// An operation on surroundings of any type, with a version for [`Level`].
#[doc(hidden)]
pub trait Visitor<V: Vector> {
    fn visit(self, surroundings: &impl Surroundings<V>);
    fn visit_level(self, level: &Level<V>);
}

/// Receives the pieces that [`Surroundings::pieces`] finds.
pub trait Found<V: Vector> {
    /// Receives a piece, in world coordinates.
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag);

    /// Receives an axis-aligned box.
    fn block(&mut self, min: V, max: V, tag: Tag) {
        Shape::block(min, max, |shape| self.piece(shape, tag));
    }

    /// Receives a box with axes of its own and a rounding, such as the hull of another body.
    fn round_box(&mut self, round_box: &RoundBox<V>, tag: Tag) {
        round_box.with_shape(|shape| self.piece(shape, tag));
    }
}

/// A reference to surroundings is surroundings.
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

    fn shove(&self) -> V {
        (**self).shove()
    }

    fn is_plain(&self) -> bool {
        (**self).is_plain()
    }
}

/// Surroundings whose type is known at run time only: for a host with worlds of several types.
/// Every type that implements [`Surroundings`] implements this trait, and a reference to this trait
/// implements [`Surroundings`].
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
    /// [`Surroundings::shove`].
    fn any_shove(&self) -> V;
    /// [`Surroundings::is_plain`].
    fn is_any_plain(&self) -> bool;
}

/// Forwards what is found.
struct Through<'a, V>(&'a mut dyn Found<V>);

impl<V: Vector> Found<V> for Through<'_, V> {
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag) {
        self.0.piece(shape, tag);
    }

    fn block(&mut self, min: V, max: V, tag: Tag) {
        self.0.block(min, max, tag);
    }

    fn round_box(&mut self, round_box: &RoundBox<V>, tag: Tag) {
        self.0.round_box(round_box, tag);
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

    fn any_shove(&self) -> V {
        self.shove()
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

    fn shove(&self) -> V {
        self.any_shove()
    }

    fn is_plain(&self) -> bool {
        self.is_any_plain()
    }
}
