//! Queries for the game: rays, sweeps, overlaps and closest points.

use crate::level::{CarrierId, Found, Layers, PieceId, Shape, SurfaceId, Surroundings, Tag};
use crate::space::{Bounds, Frame, MIN_LENGTH, Vector};

use super::{Geometry, Hit, Hull, Nearest, Patch};

/// The width of the region that is queried at once along a diagonal, in metres.
const CELL: f32 = 8.0;
/// The largest number of regions along a ray or a sweep.
const MOST_CELLS: f32 = 64.0;
/// The radius of a ray, as a fraction of the length queried at once.
const THIN: f32 = 1e-5;
/// The smallest cosine between a ray and a normal for which the point is computed on the touched
/// plane. At a smaller one, an edge was grazed.
const GRAZING: f32 = 0.02;

/// The first contact of a ray or a moving hull with a piece.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Impact<V> {
    /// The distance covered until the contact, in metres.
    pub distance: f32,
    /// The end of the ray, or the position of the hull, at the contact.
    pub position: V,
    /// The touched point of the piece.
    pub point: V,
    /// The contact normal: from the piece to the hull or the start of the ray, of length 1.
    pub normal: V,
    /// The touched piece, or the host's own number for it.
    pub piece: PieceId,
    /// Its surface.
    pub surface: SurfaceId,
    /// The carrier that it rides on.
    pub carrier: Option<CarrierId>,
}

/// A piece near a point or a hull.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Closest<V> {
    /// The separation in metres. If the two overlap, minus the length of the shortest displacement
    /// that separates them.
    pub distance: f32,
    /// The closest point of the piece.
    pub point: V,
    /// From the piece to the point or the hull, of length 1: the direction in which they separate.
    pub normal: V,
    /// The piece, or the host's own number for it.
    pub piece: PieceId,
    /// Its surface.
    pub surface: SurfaceId,
    /// The carrier that it rides on.
    pub carrier: Option<CarrierId>,
}

/// Queries of a game, for a [`Level`](crate::Level) and for a host's own [`Surroundings`].
///
/// Everything is in metres and world coordinates. Hulls are upright, with up along
/// [`Vector::UP`], and queried without their clearance. `mask` selects the layers; that of a hull
/// is not used. Carriers are where they are at the end of the current tick. One-way pieces are met
/// from above only. Arguments that are not finite find nothing.
///
/// No query allocates, unless a single piece has more corners than fit on the stack.
///
/// ```
/// use rasant::contact::Queries;
/// use rasant::glam::Vec2;
/// use rasant::{Hull, Layers, Level, Piece};
///
/// let mut builder = Level::builder();
/// let floor = builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// let wall = builder.add(Piece::block(Vec2::new(4.0, 0.0), Vec2::new(5.0, 3.0))?);
/// let level = builder.build()?;
///
/// let eye = Vec2::new(0.0, 1.5);
/// let seen = level.ray(eye, Vec2::X, 50.0, Layers::ALL).expect("the wall");
/// assert_eq!((seen.piece, seen.normal), (wall, -Vec2::X));
/// assert!((seen.distance - 4.0).abs() < 1e-5);
///
/// let crate_hull = Hull::upright_box(1.0, 1.0)?;
/// let push = level.sweep(&crate_hull, Vec2::new(0.0, 0.1), Vec2::X * 6.0, Layers::ALL);
/// assert!((push.expect("the wall").distance - 3.5).abs() < 1e-5);
///
/// let below = level.ground_below(&crate_hull, eye, 10.0, Layers::ALL).expect("the floor");
/// assert_eq!(below.piece, floor);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub trait Queries<V: Geometry>: Surroundings<V> {
    /// The first piece on a ray of `length` metres. `direction` may have any length but 0.
    ///
    /// A ray that starts inside a solid piece hits it at the distance 0, with the normal of the
    /// shortest displacement to the outside. A ray that passes an edge closer than 1/100,000 of its
    /// length hits it.
    fn ray(&self, from: V, direction: V, length: f32, mask: Layers) -> Option<Impact<V>> {
        let direction = direction.direction()?;
        let displacement = direction * length;
        if !(from.is_finite() && displacement.is_finite() && length >= 0.0) {
            return None;
        }
        let parts = parts_of(displacement);
        let radius = (THIN * length / parts).max(MIN_LENGTH);
        let thin = Hull::ball(radius).ok()?.centred().with_clearance(0.1 * radius).ok()?.with_mask(mask);
        let impact = first_on(self, &thin, from, displacement, Inside::Hits)?;
        Some(on_the_ray(impact, from, direction, length))
    }

    /// The first piece that a hull touches when it moves by `displacement` in a straight line.
    /// `from` is its position, as of a body: the middle of its underside unless it is centred.
    ///
    /// A hull that starts inside a piece hits it at the distance 0 if it moves further in. It may
    /// move out.
    fn sweep(&self, hull: &Hull, from: V, displacement: V, mask: Layers) -> Option<Impact<V>> {
        if !(from.is_finite() && displacement.is_finite()) {
            return None;
        }
        first_on(self, &hull.with_mask(mask), from, displacement, Inside::MayLeave)
    }

    /// The ground under a hull: a [`sweep`](Self::sweep) down by `depth` metres.
    fn ground_below(&self, hull: &Hull, from: V, depth: f32, mask: Layers) -> Option<Impact<V>> {
        self.sweep(hull, from, V::UP * -depth, mask)
    }

    /// Calls `found` with every piece that overlaps a hull at `at`. A mesh may be found several
    /// times, once for each triangle.
    fn overlaps(&self, hull: &Hull, at: V, mask: Layers, mut found: impl FnMut(Closest<V>)) {
        each_near(self, &hull.with_mask(mask), at, 0.0, |near| {
            if near.distance < 0.0 {
                found(near);
            }
        });
    }

    /// The piece closest to a point, if its distance is at most `within` metres. If the point is
    /// inside pieces, the one that it is deepest in.
    fn closest(&self, point: V, within: f32, mask: Layers) -> Option<Closest<V>> {
        let thin = Hull::ball(MIN_LENGTH).ok()?.centred();
        let radius = thin.half_width();
        let near = closest_to(self, &thin.with_mask(mask), point, within)?;
        Some(Closest { distance: near.distance + radius, ..near }).filter(|near| near.distance <= within)
    }

    /// As [`closest`](Self::closest), for a hull: the distance is between the hull and the piece.
    fn closest_to(&self, hull: &Hull, at: V, within: f32, mask: Layers) -> Option<Closest<V>> {
        closest_to(self, &hull.with_mask(mask), at, within)
    }
}

impl<V: Geometry, S: Surroundings<V> + ?Sized> Queries<V> for S {}

/// Whether a motion that starts inside a piece hits it.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Inside {
    /// At once.
    Hits,
    /// If it leads further in.
    MayLeave,
}

/// Runs a closure on each piece, one at a time, so that the patch never has more than one.
struct OneByOne<'a, V: Geometry, F> {
    patch: &'a mut Patch<V>,
    look: F,
}

impl<V: Geometry, F: FnMut(&Patch<V>)> OneByOne<'_, V, F> {
    fn add(&mut self, collect: impl FnOnce(&mut Patch<V>)) {
        self.patch.corners.clear();
        self.patch.obstacles.clear();
        collect(self.patch);
        if !self.patch.is_empty() {
            (self.look)(self.patch);
        }
    }
}

impl<V: Geometry, F: FnMut(&Patch<V>)> Found<V> for OneByOne<'_, V, F> {
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag) {
        self.add(|patch| V::collect(patch, shape, tag));
    }

    fn block(&mut self, min: V, max: V, tag: Tag) {
        self.add(|patch| V::collect_block(patch, min, max, tag));
    }
}

/// The number of regions in which a displacement is queried: one for a short one, and for one along
/// an axis, whose region is narrow.
fn parts_of<V: Vector>(displacement: V) -> f32 {
    let mut sides = displacement.abs().to_array();
    sides.sort_by(f32::total_cmp);
    libm::ceilf(sides[1] / CELL).clamp(1.0, MOST_CELLS)
}

/// The first impact of a hull on its path.
fn first_on<V: Geometry>(
    surroundings: &(impl Surroundings<V> + ?Sized),
    hull: &Hull,
    from: V,
    displacement: V,
    inside: Inside,
) -> Option<Impact<V>> {
    let parts = parts_of(displacement);
    let part = displacement * (1.0 / parts);
    let length = part.length();
    let mut first: Option<Hit<V>> = None;
    for number in 0..parts as usize {
        let start = from + part * number as f32;
        let reach = Bounds { min: V::ZERO.min(part), max: V::ZERO.max(part) };
        let mut patch = patch_at(hull, start, reach);
        let region = patch.prepare(reach);
        let look = |patch: &Patch<V>| {
            let within = (inside == Inside::Hits && number == 0)
                .then(|| patch.overlap(V::ZERO, |_| false))
                .flatten()
                .filter(|near| near.distance < -2.0 * patch.radius());
            let hit = match within {
                Some(near) => Some(inside_hit(&near)),
                None => patch.cast(V::ZERO, part),
            };
            if let Some(hit) = hit
                && first.is_none_or(|held| hit.time < held.time)
            {
                first = Some(hit);
            }
        };
        surroundings.pieces(&region, hull.mask(), &mut OneByOne { patch: &mut patch, look });
        if let Some(hit) = first {
            return Some(Impact {
                distance: length * (number as f32 + hit.time),
                position: start + part * hit.time,
                point: start + hit.point,
                normal: hit.normal,
                piece: hit.tag.piece,
                surface: hit.tag.surface,
                carrier: hit.tag.carrier,
            });
        }
    }
    None
}

/// The impact of a ray that starts inside a piece.
fn inside_hit<V: Vector>(near: &Nearest<V>) -> Hit<V> {
    Hit { time: 0.0, normal: near.normal, face: near.normal, point: V::ZERO, edge: false, tag: near.tag }
}

/// Moves the impact of a thin ball to the ray itself: to the plane that was touched.
fn on_the_ray<V: Vector>(impact: Impact<V>, from: V, direction: V, length: f32) -> Impact<V> {
    let into = -direction.dot(impact.normal);
    if impact.distance <= 0.0 {
        return Impact { position: from, point: from, ..impact };
    }
    let distance =
        if into > GRAZING { (from - impact.point).dot(impact.normal) / into } else { impact.distance };
    let distance = distance.clamp(0.0, length);
    let position = from + direction * distance;
    Impact { distance, position, point: position, ..impact }
}

/// The piece closest to a hull, up to a distance.
fn closest_to<V: Geometry>(
    surroundings: &(impl Surroundings<V> + ?Sized),
    hull: &Hull,
    at: V,
    within: f32,
) -> Option<Closest<V>> {
    let mut best: Option<Closest<V>> = None;
    each_near(surroundings, hull, at, within, |near| {
        if near.distance <= within && best.is_none_or(|held| near.distance < held.distance) {
            best = Some(near);
        }
    });
    best
}

/// Calls `found` with the pieces whose bounds are within `within` of a hull.
fn each_near<V: Geometry>(
    surroundings: &(impl Surroundings<V> + ?Sized),
    hull: &Hull,
    at: V,
    within: f32,
    mut found: impl FnMut(Closest<V>),
) {
    if !(at.is_finite() && within.is_finite() && within >= 0.0) {
        return;
    }
    let reach = Bounds { min: V::splat(-within), max: V::splat(within) };
    let mut patch = patch_at(hull, at, reach);
    let region = patch.prepare(reach);
    let look = |patch: &Patch<V>| {
        let Some(near) = patch.nearest(V::ZERO, within) else { return };
        found(Closest {
            distance: near.distance,
            point: at + near.point,
            normal: near.normal,
            piece: near.tag.piece,
            surface: near.tag.surface,
            carrier: near.tag.carrier,
        });
    };
    surroundings.pieces(&region, hull.mask(), &mut OneByOne { patch: &mut patch, look });
}

/// An empty patch for an upright hull at a position in the world.
fn patch_at<V: Geometry>(hull: &Hull, at: V, reach: Bounds<V>) -> Patch<V> {
    Patch::empty(Frame::new(at, V::ZERO, V::RIGHT, V::UP), hull, reach)
}
