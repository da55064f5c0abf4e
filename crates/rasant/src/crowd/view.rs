//! The surroundings of one body among others: the level, and the bodies that it sees in this tick.

use core::hash::Hasher as _;

use smallvec::SmallVec;

use crate::contact::Geometry;
use crate::controller::Controller;
use crate::level::{
    AnySurroundings, BodyId, CarrierId, Found, Layers, Placement, Ride, RoundBox, Seams, Shape, Surface,
    SurfaceId, Surroundings, Tag, Zone, ZoneId,
};
use crate::space::{Bounds, Vector};
use crate::summer::Summer;

use super::solid::Solid;

/// Another body, or the plane that stands for it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Seen<V> {
    pub id: BodyId,
    pub what: Sight<V>,
}

/// The form in which a body sees another one.
#[derive(Clone, Copy, Debug)]
pub(super) enum Sight<V> {
    /// A hull, and the displacement of that body in this tick.
    Hull(RoundBox<V>, V),
    /// Everything beyond a plane.
    Beyond(Beyond<V>),
}

/// Everything beyond a plane.
#[derive(Clone, Copy, Debug)]
pub(super) struct Beyond<V> {
    /// A point of the plane.
    pub point: V,
    /// Its normal, which points to the body.
    pub normal: V,
    /// How far from the point it must extend, in metres.
    pub size: f32,
    /// True if the body is on the near side.
    pub is_thin: bool,
}

/// The surroundings of one body with other bodies in them: for a game that ticks its bodies by
/// itself, one after another, and not in a [`Crowd`](super::Crowd).
///
/// Each of the other bodies stops the body at its present place, and carries it by its displacement.
/// A body that ticks later without these surroundings can still move into this one: tick each body
/// with all others, or use a crowd.
///
/// ```
/// use rasant::crowd::{BodyId, WithBodies};
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
///
/// # let mut builder = Level::builder();
/// # builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0))?);
/// # let level = builder.build()?;
/// let hull = Hull::capsule(0.35, 1.8)?;
/// let guard = Controller::new(Tuning::default(), hull, Vec2::X * 2.0);
/// let mut player = Controller::new(Tuning::default(), hull, Vec2::ZERO);
/// let id = BodyId::numbered(1).ok_or("a number below BodyId::MAX")?;
/// for _ in 0..120 {
///     let around = WithBodies::new(&level).with(id, &guard, Vec2::ZERO);
///     player.tick(&Intent::steering(1.0, 0.0), &around, 1.0 / 60.0);
/// }
/// assert!(player.position().x < 1.3, "the guard stops it");
/// assert_eq!(player.state().touching.beside.unwrap().piece.body(), Some(id));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct WithBodies<'a, V: Geometry> {
    base: &'a dyn AnySurroundings<V>,
    seen: SmallVec<[Seen<V>; 8]>,
    shove: V,
}

impl<'a, V: Geometry> WithBodies<'a, V> {
    /// The surroundings without other bodies.
    #[must_use]
    pub fn new(surroundings: &'a impl Surroundings<V>) -> Self {
        Self { base: surroundings, seen: SmallVec::new(), shove: V::ZERO }
    }

    /// Adds another body, which has moved by `displacement` (in metres, in the world) since the last
    /// tick of the body that reads these surroundings. The id names it in events and in the state.
    #[must_use]
    pub fn with(mut self, id: BodyId, body: &Controller<V>, displacement: V) -> Self {
        let shape = Solid::of(body).shape(body.hull.clearance());
        self.seen.push(Seen { id, what: Sight::Hull(shape, displacement) });
        self
    }

    /// The surroundings of a body of a crowd that is pushed by `shove`.
    pub(super) fn of(
        base: &'a dyn AnySurroundings<V>,
        seen: impl Iterator<Item = Seen<V>>,
        shove: V,
    ) -> Self {
        Self { base, seen: seen.collect(), shove }
    }
}

impl<V: Geometry> core::fmt::Debug for WithBodies<'_, V> {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_struct("WithBodies").field("bodies", &self.seen).finish_non_exhaustive()
    }
}

impl<V: Geometry> WithBodies<'_, V> {
    fn tag(seen: &Seen<V>, carries: bool) -> Tag {
        let carrier = carries.then(|| seen.id.carrier());
        Tag { piece: seen.id.piece(), surface: SurfaceId(0), carrier, one_way: false }
    }
}

/// Passes everything beyond a plane. For a body on its near side, in space, one large facet is
/// enough; else it is a large box.
fn find_beyond<V: Vector>(beyond: &Beyond<V>, tag: Tag, found: &mut impl Found<V>) {
    let Beyond { point, normal, size, is_thin } = *beyond;
    let right = V::right_for(normal, V::RIGHT);
    if V::DIMENSION == 3 && is_thin {
        let corner =
            |x: f32, z: f32| point + V::from_array([x * size, 0.0, z * size]).out_of_axes(right, normal);
        let points = [corner(-1.0, -1.0), corner(-1.0, 1.0), corner(1.0, 1.0), corner(1.0, -1.0)];
        return found.piece(Shape::Facet { points: &points, seams: Seams::NONE }, tag);
    }
    let half = V::splat(size).with_height(0.5 * size);
    let centre = point - normal * (0.5 * size);
    let solid = RoundBox { centre, right, up: normal, half, radius: 0.0 };
    solid.with_shape(|shape: Shape<'_, V>| found.piece(shape, tag));
}

impl<V: Geometry> Surroundings<V> for WithBodies<'_, V> {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.base.any_pieces(region, mask, found);
        for seen in &self.seen {
            match &seen.what {
                Sight::Hull(hull, _) => {
                    if hull.bounds().overlaps(region) {
                        found.round_box(hull, Self::tag(seen, true));
                    }
                }
                Sight::Beyond(beyond) => find_beyond(beyond, Self::tag(seen, false), found),
            }
        }
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.base.any_surface(id)
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        let Some(place) = id.body_place() else { return self.base.any_ride(id) };
        let rides = |seen: &&Seen<V>| seen.id.place() == place;
        match self.seen.iter().find(rides).map(|seen| seen.what) {
            // Relative to where it was, so that nothing is lost to rounding far from the origin.
            Some(Sight::Hull(_, displacement)) if displacement != V::ZERO => {
                Ride { from: Placement::new(V::ZERO, 0.0), to: Placement::new(displacement, 0.0) }
            }
            _ => Ride::still(),
        }
    }

    fn moving(&self, region: &Bounds<V>, mut found: impl FnMut(CarrierId)) {
        self.base.any_moving(region, &mut found);
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.base.any_zone(id)
    }

    fn zones(&self, region: &Bounds<V>, mut found: impl FnMut(ZoneId)) {
        self.base.any_zones(region, &mut found);
    }

    fn mark(&self, kind: u16, number: u32) -> Option<V> {
        self.base.any_mark(kind, number)
    }

    fn stamp(&self, region: &Bounds<V>) -> Option<u64> {
        if self.shove != V::ZERO {
            return None;
        }
        let mut sum = Summer::new();
        sum.word(self.base.any_stamp(region)?);
        for seen in &self.seen {
            let Sight::Hull(hull, displacement) = seen.what else { return None };
            if !hull.bounds().overlaps(region) {
                continue;
            }
            if displacement != V::ZERO {
                return None;
            }
            sum.word(u64::from(seen.id.piece().0));
            [hull.centre, hull.right, hull.up, hull.half].into_iter().for_each(|part| sum.vector(part));
            sum.word(u64::from(hull.radius.to_bits()));
        }
        Some(sum.finish())
    }

    fn shove(&self) -> V {
        self.shove
    }

    fn is_plain(&self) -> bool {
        self.base.is_any_plain() && self.seen.is_empty()
    }
}
