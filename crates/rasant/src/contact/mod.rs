//! Exact geometry: hulls, sweeps, gaps, and the patch of nearby pieces.
//!
//! A hull is a *core* (a point, an upright segment or an upright box) and a
//! radius. Sweeping it against a convex piece is the same as sending a ray
//! from its centre against the sum of the piece and the core, rounded by the
//! radius; that sum's faces, edges and corners are all met in closed form.
//! Nothing here iterates toward an answer, so nothing can fail to reach one.
//!
//! ```text
//!          ╭───────╮
//!        ╭─╯   ·   ╰─╮       · to ·     the core of a capsule
//!        │     ┊     │
//!        │     ┊     │
//!        │     ·─────│       ·─────     its radius
//!        ╰─╮       ╭─╯
//!          ╰───────╯         ─────      the underside of the hull ───────────┐
//!                                                                            │ clearance
//!        ┄┄┄┄┄┄┄┄┄┄┄┄┄       what sticks out no higher than this is not met ─┤┐
//!        ═════════════       the ground, at rest ────────────────────────────┘┘ slack
//! ```
//!
//! A moving hull keeps a *clearance* from every piece. To be sure that a floor
//! of many flush pieces feels like one, a motion is stopped only by what comes
//! closer than the clearance less a small *slack*; when it is, the stop is
//! at the full clearance again. What sticks out by less than the slack, as a
//! seam does, is never met at all.

mod block;
mod boxed;
mod brick;
mod facet;
mod fence;
mod hull;
mod patch;
mod plane;
mod solid;
mod upright;

pub(crate) use hull::Core;
pub use hull::{Hull, HullError, HullShape};
pub(crate) use patch::Scratch;
pub use patch::{Hit, Nearest, Patch, Swept};

use crate::level::{Seams, Shape, Tag};
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::{Bounds, Sealed, Vector};

/// The dimension-specific part of contact: a file for the plane, a file for
/// space. It is [`glam::Vec2`] or [`glam::Vec3`],
/// and nobody else's.
pub trait Geometry: Vector + Sealed {
    /// A corner of an obstacle, as the patch keeps it.
    #[doc(hidden)]
    type Corner: Copy + Send + Sync;

    /// Room for those of a crowded place without the heap.
    #[doc(hidden)]
    type Room: smallvec::Array<Item = Self::Corner>;

    /// The part of a core's half extents that obstacles do not have in them.
    #[doc(hidden)]
    fn beside_obstacles(core: &Core<Self>) -> Self;

    /// Adds the obstacles that a shape makes for this patch's core.
    #[doc(hidden)]
    fn collect(patch: &mut Patch<Self>, shape: Shape<'_, Self>, tag: Tag);

    /// The same of a box along the world's axes.
    #[doc(hidden)]
    #[inline]
    fn collect_block(patch: &mut Patch<Self>, min: Self, max: Self, tag: Tag) {
        Shape::block(min, max, |shape| Self::collect(patch, shape, tag));
    }

    /// The first touch of the core, grown by `reach`, with an obstacle, when
    /// its centre moves from `from` by `motion`; only if before `limit`, a
    /// share of the motion.
    #[doc(hidden)]
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>>;

    /// The touched point of the obstacle, which is worked out for the touch that counts
    /// only.
    #[doc(hidden)]
    #[inline]
    fn touched_point(_patch: &Patch<Self>, _obstacle: &Obstacle<Self>, touch: &Touch<Self>) -> Self {
        touch.point
    }

    /// Whether all of an obstacle is below `lowest` along `normal`.
    #[doc(hidden)]
    fn is_below(patch: &Patch<Self>, obstacle: &Obstacle<Self>, normal: Self, lowest: f32) -> bool;

    /// The gap between the core (without its radius) at `at` and an obstacle.
    #[doc(hidden)]
    fn gap(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self) -> Gap<Self>;

    /// The gap to an obstacle if it is less than `reach`; what is further away is found out
    /// sooner.
    #[doc(hidden)]
    #[inline]
    fn gap_within(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self, reach: f32) -> Option<Gap<Self>> {
        Some(Self::gap(patch, obstacle, at)).filter(|gap| gap.distance < reach)
    }
}

/// A convex obstacle in a patch.
#[doc(hidden)]
#[derive(Clone, Copy, Debug)]
pub struct Obstacle<V> {
    /// Bounds of the points, with the rounding.
    pub(crate) bounds: Bounds<V>,
    /// The points' range in the patch.
    pub(crate) corners: (u32, u32),
    pub(crate) kind: ObstacleKind,
    pub(crate) seams: Seams,
    /// What the points are rounded by: the radius of a ball.
    pub(crate) rounding: f32,
    /// The normal of a flat obstacle.
    pub(crate) normal: V,
    /// A point of its plane.
    pub(crate) anchor: V,
    /// The only direction from which it is solid, or zero.
    pub(crate) front: V,
    pub(crate) tag: Tag,
}

#[doc(hidden)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum ObstacleKind {
    /// A single point.
    Point,
    /// Two dimensions: the sum of a polygon or segment and the core.
    Outline,
    /// A box along the body's axes, which is its bounds: in two dimensions those of
    /// its sum with the core, in three its own.
    Block,
    /// Three dimensions: a facet solid from both sides.
    Facet,
    /// Three dimensions: a face of a solid, seen only from outside; the solid
    /// itself follows its faces.
    Face,
    /// Three dimensions: a solid; its faces are the obstacles just before it,
    /// as many as this says.
    Solid(u8),
}

/// A motion of the core's centre, and how far around the core it touches.
#[doc(hidden)]
#[derive(Clone, Copy, Debug)]
pub struct Ray<V> {
    pub(crate) from: V,
    pub(crate) motion: V,
    pub(crate) reach: f32,
}

/// Where a ray first touches an obstacle.
#[doc(hidden)]
#[derive(Clone, Copy, Debug)]
pub struct Touch<V> {
    /// The share of the motion before the touch; infinite when it starts within
    /// reach and leads away.
    pub(crate) time: f32,
    /// From the obstacle to the core, of length 1.
    pub(crate) normal: V,
    /// The most upward face that meets at the touched feature.
    pub(crate) face: V,
    /// The touched point of the obstacle.
    pub(crate) point: V,
    /// Whether an edge or corner was touched, not a face.
    pub(crate) edge: bool,
    /// How far inside the reach the motion starts; 0 when it starts outside.
    pub(crate) depth: f32,
}

/// The gap between a core and an obstacle.
#[doc(hidden)]
#[derive(Clone, Copy, Debug)]
pub struct Gap<V> {
    /// The distance; below 0 when the core is inside, by the length of the
    /// shortest way out.
    pub(crate) distance: f32,
    /// From the obstacle to the core, of length 1.
    pub(crate) normal: V,
    /// The nearest point of the obstacle.
    pub(crate) point: V,
    /// The most upward face that meets at the nearest feature.
    pub(crate) face: V,
    pub(crate) edge: bool,
}

impl<V: Vector> Gap<V> {
    /// The touch of a motion that starts within reach: at once when it goes
    /// further in, and never when it does not, for the distance to a convex
    /// obstacle then only grows.
    pub(crate) fn touch(self, ray: &Ray<V>) -> Option<Touch<V>> {
        let inward = ray.motion.dot(self.normal) < 0.0;
        Some(Touch {
            time: if inward { 0.0 } else { f32::INFINITY },
            normal: self.normal,
            face: self.face,
            point: self.point,
            edge: self.edge,
            depth: ray.reach - self.distance,
        })
    }

    pub(crate) fn nearer(self, other: Self) -> Self {
        if other.distance < self.distance { other } else { self }
    }
}

/// Of two normals the one that points further up.
pub(crate) fn more_upward<V: Vector>(a: V, b: V) -> V {
    if b.height() > a.height() { b } else { a }
}

/// When a point that starts `from` the middle of a box of `half` its sides comes into
/// it, grown by the ray's reach, and across which axis; before 0 when it starts there.
#[inline]
pub(crate) fn enter_box<V: Vector>(from: V, half: V, ray: &Ray<V>, limit: f32) -> Option<(f32, usize)> {
    let (mut enter, mut leave) = (-1.0f32, f32::INFINITY);
    let mut entered = 0;
    for axis in 0..V::DIMENSION {
        let (at, speed) = (from.component(axis), ray.motion.component(axis));
        let reach = half.component(axis) + ray.reach;
        let beyond = at.abs() - reach;
        if beyond > 0.0 {
            let approach = if at > 0.0 { -speed } else { speed };
            if approach <= 0.0 {
                return None;
            }
            let time = beyond / approach;
            if time > enter {
                (enter, entered) = (time, axis);
            }
        }
        if speed != 0.0 {
            let left = if speed > 0.0 { reach - at } else { reach + at };
            leave = leave.min(left / speed.abs());
        }
    }
    (enter <= leave && enter <= limit).then_some((enter, entered))
}

/// When a moving point comes within reach of something round.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Reach {
    /// Not on this way.
    Never,
    /// After this share of the way.
    At(f32),
    /// It is so from the start.
    Within,
}

/// When a point that starts `arm` away from a centre and moves by `motion`
/// comes within `reach` of it. To ask of an axis instead of a centre, pass
/// vectors without their parts along the axis.
///
/// The closest approach is found first, and the touch counted back from it,
/// which loses far fewer digits than the textbook's quadratic.
#[inline]
pub(crate) fn reach_round<V: Vector>(arm: V, motion: V, reach: f32) -> Reach {
    let reach_squared = reach * reach;
    if arm.length_squared() <= reach_squared {
        return Reach::Within;
    }
    let speed = motion.length_squared();
    let approach = arm.dot(motion);
    if approach >= 0.0 || speed <= 0.0 {
        return Reach::Never;
    }
    let nearest = -approach / speed;
    let miss = (arm + motion * nearest).length_squared();
    let half_chord = reach_squared - miss;
    if half_chord < 0.0 {
        return Reach::Never;
    }
    Reach::At((nearest - (half_chord / speed).sqrt()).max(0.0))
}
