//! The surroundings of one body in a crowd: the level, and the bodies that it sees in this tick.

use core::hash::Hasher as _;

use crate::contact::Geometry;
use crate::level::{
    AnySurroundings, BodyId, CarrierId, Found, Layers, Placement, Ride, RoundBox, Seams, Shape, Surface,
    SurfaceId, Surroundings, Tag, Zone, ZoneId,
};
use crate::space::{Bounds, Vector};
use crate::summer::Summer;

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

/// The surroundings of one body.
pub(super) struct View<'a, V: Geometry> {
    pub base: &'a dyn AnySurroundings<V>,
    pub seen: &'a [Seen<V>],
    pub shove: V,
}

impl<V: Geometry> View<'_, V> {
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

impl<V: Geometry> Surroundings<V> for View<'_, V> {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.base.any_pieces(region, mask, found);
        for seen in self.seen {
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
        for seen in self.seen {
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
