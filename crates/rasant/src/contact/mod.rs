//! Exact geometry: hulls, sweeps, gaps, and the patch of nearby pieces.
//!
//! A hull is a *core* (a point, an upright segment or an upright box) and a radius. Sweeping it
//! against a convex piece is the same as casting a ray from its centre against the sum of the piece
//! and the core, rounded by the radius. The touch with the faces, edges and corners of that sum is
//! computed in closed form. Nothing iterates toward an answer, so nothing can fail to converge.
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
//! A moving hull keeps a *clearance* from every piece. So that a floor of many flush pieces feels
//! like one, a motion is stopped only by what is nearer than the clearance minus a small *slack*;
//! the stop is then at the full clearance again. What protrudes by less than the slack, as a seam
//! does, never stops a motion.

mod block;
mod boxed;
mod brick;
mod facet;
mod fence;
mod hull;
mod patch;
mod plane;
mod query;
mod rod;
mod solid;
mod upright;

pub(crate) use hull::Core;
pub use hull::{Hull, HullError, HullShape};
pub(crate) use patch::Scratch;
pub use patch::{Hit, Nearest, Patch, Swept};
pub use query::{Closest, Impact, Queries};

use crate::level::{Seams, Shape, Tag};
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::{Bounds, Sealed, Vector};

/// The part of contact that depends on the dimension: one file for two dimensions, one for three.
/// Implemented for [`glam::Vec2`] and [`glam::Vec3`] only.
pub trait Geometry: Vector + Sealed {
    /// A corner of an obstacle, as the patch stores it.
    #[doc(hidden)]
    type Corner: Copy + Send + Sync;

    /// An array for the corners of a crowded place, without the heap.
    #[doc(hidden)]
    type Room: smallvec::Array<Item = Self::Corner>;

    /// The part of a core's half extents that the obstacles do not include.
    #[doc(hidden)]
    fn beside_obstacles(core: &Core<Self>) -> Self;

    /// Adds the obstacles that a shape makes for this patch's core.
    #[doc(hidden)]
    fn collect(patch: &mut Patch<Self>, shape: Shape<'_, Self>, tag: Tag);

    /// As [`Self::collect`], for a box along the world's axes.
    #[doc(hidden)]
    #[inline]
    fn collect_block(patch: &mut Patch<Self>, min: Self, max: Self, tag: Tag) {
        Shape::block(min, max, |shape| Self::collect(patch, shape, tag));
    }

    /// Adds a box along the body's axes, in the core's coordinates, with a rounding.
    #[doc(hidden)]
    fn collect_round_block(patch: &mut Patch<Self>, own: Bounds<Self>, rounding: f32, tag: Tag);

    /// The first touch of the core, grown by `reach`, with an obstacle, when its centre moves from
    /// `from` by `motion`. `None` if it is not before `limit`, a fraction of the motion.
    #[doc(hidden)]
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>>;

    /// The touched point of the obstacle. It is computed only for the touch that counts.
    #[doc(hidden)]
    #[inline]
    fn touched_point(_patch: &Patch<Self>, _obstacle: &Obstacle<Self>, touch: &Touch<Self>) -> Self {
        touch.point
    }

    /// Returns true if all of an obstacle is below `lowest` along `normal`.
    #[doc(hidden)]
    fn is_below(patch: &Patch<Self>, obstacle: &Obstacle<Self>, normal: Self, lowest: f32) -> bool;

    /// The gap between the core (without its radius) at `at` and an obstacle.
    #[doc(hidden)]
    fn gap(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self) -> Gap<Self>;

    /// The gap to an obstacle, if it is less than `reach`. Faster for what is further away.
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
    /// The bounds of the points, with the rounding.
    pub(crate) bounds: Bounds<V>,
    /// The range of the points in the patch.
    pub(crate) corners: (u32, u32),
    pub(crate) kind: ObstacleKind,
    pub(crate) seams: Seams,
    /// The rounding of the points: the radius of a ball or capsule, or that of a rounded piece.
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
    /// A box along the body's axes, stored as its bounds: in two dimensions those of its sum with
    /// the core, in three its own.
    Block,
    /// Three dimensions: a facet that is solid from both sides.
    Facet,
    /// Three dimensions: a face of a solid, solid from outside only. The solid follows its faces.
    Face,
    /// Three dimensions: a line between two points.
    Rod,
    /// Three dimensions: a solid. Its faces are the obstacles just before it; this is their number.
    Solid(u8),
}

/// A motion of the core's centre, with the distance around the core at which it touches.
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
    /// The fraction of the motion before the touch. Infinite if the motion starts within reach and
    /// leads away.
    pub(crate) time: f32,
    /// From the obstacle to the core, of length 1.
    pub(crate) normal: V,
    /// The most upward face that meets at the touched feature.
    pub(crate) face: V,
    /// The touched point of the obstacle.
    pub(crate) point: V,
    /// True if an edge or corner was touched, not a face.
    pub(crate) edge: bool,
    /// How far inside the reach the motion starts; 0 if it starts outside.
    pub(crate) depth: f32,
}

/// The gap between a core and an obstacle.
#[doc(hidden)]
#[derive(Clone, Copy, Debug)]
pub struct Gap<V> {
    /// The distance. If the core is inside, minus the length of the shortest displacement out.
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
    /// The touch of a motion that starts within reach: at once if it goes further in, and never if
    /// not, because the distance to a convex obstacle then only grows.
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

/// The normal that points further up.
pub(crate) fn more_upward<V: Vector>(a: V, b: V) -> V {
    if b.height() > a.height() { b } else { a }
}

/// The time at which a point that starts `from` the centre of a box of `half` its sides enters it,
/// grown by the ray's reach, and the axis of that face. Below 0 if it starts inside.
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
    /// Not on this path.
    Never,
    /// After this fraction of the path.
    At(f32),
    /// It is within reach from the start.
    Within,
}

/// The time at which a point that starts `arm` away from a centre and moves by `motion` comes
/// within `reach` of it. For an axis instead of a centre, pass vectors without their components
/// along the axis.
///
/// The closest approach is computed first, and the touch relative to it, which loses far fewer
/// digits than the usual quadratic formula.
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
