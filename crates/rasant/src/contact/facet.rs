//! A flat convex facet: its plane, its edges, and the gap to it.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec3;

use crate::level::Seams;
use crate::space::{Bounds, TINY};

use super::fence::{EDGES, Fence};
use super::{Gap, Obstacle, ObstacleKind, Patch, Ray, more_upward};

/// How far outside an edge, as a fraction of its length, a point still counts as on a facet.
pub(super) const EDGE_SLACK: f32 = 1e-5;

/// A facet of a patch, prepared for sweeps.
pub(super) struct Facet<'a> {
    pub(super) points: &'a [Vec3],
    /// Its first edges. Further edges are prepared as needed.
    pub(super) fence: Fence,
    pub(super) normal: Vec3,
    pub(super) seams: Seams,
    /// The height of its highest point.
    pub(super) top: f32,
    /// True if it is only solid from the front.
    pub(super) outward: bool,
}

impl<'a> Facet<'a> {
    #[inline]
    pub(super) fn of(patch: &'a Patch<Vec3>, obstacle: &Obstacle<Vec3>) -> Self {
        let points = patch.corners_of(obstacle);
        Self {
            points,
            fence: Fence::of(points, 0, obstacle.normal),
            normal: obstacle.normal,
            seams: obstacle.seams,
            top: obstacle.bounds.max.y,
            outward: obstacle.kind == ObstacleKind::Face,
        }
    }

    /// The facet's normal on the side of `at`, and the distance from its plane.
    #[inline]
    pub(super) fn side(&self, at: Vec3) -> (Vec3, f32) {
        let distance = self.normal.dot(at - self.points[0]);
        if distance >= 0.0 { (self.normal, distance) } else { (-self.normal, -distance) }
    }

    /// Returns true if `at` is behind a face of a solid. The inside of such a face stops nothing,
    /// but its rim may still be touched from where its neighbours are.
    #[inline]
    pub(super) fn is_seen_from_inside(&self, normal: Vec3) -> bool {
        self.outward && normal.dot(self.normal) < 0.0
    }

    /// The edges: number, start and displacement.
    pub(super) fn edges(&self) -> impl Iterator<Item = (usize, Vec3, Vec3)> {
        (0..self.points.len()).map(|i| {
            let (start, along) = self.edge(i);
            (i, start, along)
        })
    }

    /// The start and displacement of an edge.
    #[inline]
    pub(super) fn edge(&self, i: usize) -> (Vec3, Vec3) {
        let next = if i + 1 == self.points.len() { 0 } else { i + 1 };
        (self.points[i], self.points[next] - self.points[i])
    }

    /// Returns true if a point of the facet's plane is within its outline.
    #[inline]
    pub(super) fn holds(&self, point: Vec3) -> bool {
        // A line has no inside.
        if self.points.len() < 3 {
            return false;
        }
        let excludes = |fence: &Fence| fence.excludes(point, EDGE_SLACK);
        !excludes(&self.fence) && !self.further_fences().any(|fence| excludes(&fence))
    }

    /// The edges after the first four.
    #[inline]
    pub(super) fn further_fences(&self) -> impl Iterator<Item = Fence> {
        (EDGES..self.points.len()).step_by(EDGES).map(|edge| self.fence_from(edge))
    }

    #[inline(never)]
    pub(super) fn fence_from(&self, edge: usize) -> Fence {
        Fence::of(self.points, edge, self.normal)
    }

    /// The edges that are hidden from a core with half length `half`, whose centre starts at a
    /// signed `height` over the plane and moves toward its front by `rising`: by the positions of
    /// all of the core along all of its path.
    #[inline]
    pub(super) fn hidden_over(&self, height: f32, rising: f32, half: f32) -> u8 {
        let core = self.normal.y.abs() * half;
        let (least, most) = (height.min(height + rising) - core, height.max(height + rising) + core);
        self.seams.hidden_from(least >= 0.0, most <= 0.0)
    }

    /// The gap to an upright segment.
    pub(super) fn gap_upright(&self, half: f32, at: Vec3) -> Gap<Vec3> {
        self.gap_upright_within(half, at, f32::INFINITY).unwrap_or(Gap {
            distance: f32::INFINITY,
            normal: self.normal,
            point: self.points[0],
            face: self.normal,
            edge: true,
        })
    }

    /// The gap to an upright segment, unless it is certainly more than `reach`.
    pub(super) fn gap_upright_within(&self, half: f32, at: Vec3, reach: f32) -> Option<Gap<Vec3>> {
        let (normal, distance) = self.side(at);
        let rise = normal.y * half;
        if distance < rise.abs() {
            // The core crosses the plane. Within the facet, it leaves on the side of its centre.
            let crossing = at - Vec3::Y * (distance / normal.y);
            if self.holds(crossing) {
                let distance = distance - rise.abs();
                return Some(Gap { distance, normal, point: crossing, face: normal, edge: false });
            }
        }
        let mut best: Option<Gap<Vec3>> = None;
        let mut offer = |gap: Gap<Vec3>| best = Some(best.map_or(gap, |held| held.nearer(gap)));
        // The end that is nearer to the plane, if it is over the inside of the facet, is nearest of
        // all.
        let nearer = if normal.y >= 0.0 { -half } else { half };
        for end in [nearer, -nearer] {
            let distance = distance + normal.y * end;
            let point = at + Vec3::Y * end - normal * distance;
            if distance >= 0.0 && distance <= reach && self.holds(point) {
                let gap = Gap { distance, normal, point, face: normal, edge: false };
                if end == nearer {
                    return Some(gap);
                }
                offer(gap);
            }
        }
        let hidden = self.hidden_over(self.normal.dot(at - self.points[0]), 0.0, half);
        let around = Bounds { min: at, max: at }.widened(Vec3::new(reach, reach + half, reach));
        for (i, start, along) in self.edges() {
            let end = start + along;
            let bounds = Bounds { min: start.min(end), max: start.max(end) };
            // At a hidden edge, the facet beyond is as near.
            if hidden >> (i & 7) & 1 == 1 || !bounds.overlaps(&around) {
                continue;
            }
            let own = at - Vec3::Y * half;
            let (own, point) = nearest_of_segments(own, Vec3::Y * (2.0 * half), start, along);
            offer(gap_between(own, point, normal));
        }
        best
    }
}

/// The position and motion of a ball or capsule relative to the plane of a facet.
pub(super) struct Place {
    /// The facet's normal on the side of the core's centre.
    pub(super) normal: Vec3,
    /// The centre's distance from the plane.
    pub(super) distance: f32,
    /// The hull's distance from the plane minus its reach; below 0 within reach.
    pub(super) beyond: f32,
    /// How far the motion approaches the plane.
    pub(super) approach: f32,
}

impl Place {
    #[inline]
    pub(super) fn over(facet: &Obstacle<Vec3>, half: f32, ray: &Ray<Vec3>) -> Self {
        let distance = facet.normal.dot(ray.from - facet.anchor);
        let side = if distance >= 0.0 { 1.0 } else { -1.0 };
        let (normal, distance) = (facet.normal * side, distance.abs());
        let beyond = distance - (normal.y * half).abs() - ray.reach;
        Self { normal, distance, beyond, approach: -normal.dot(ray.motion) }
    }

    /// Returns true if the plane is not reached before `limit`. All of the facet is behind its
    /// plane, so nothing of it is touched earlier.
    #[inline]
    pub(super) fn comes_too_late(&self, limit: f32) -> bool {
        self.beyond > 0.0 && (self.approach <= 0.0 || self.beyond > self.approach * limit)
    }
}

/// The gap between two nearest points, beside a face with `normal`.
pub(super) fn gap_between(own: Vec3, point: Vec3, face: Vec3) -> Gap<Vec3> {
    let off = own - point;
    let distance = off.length_squared().sqrt();
    let normal = if distance > TINY { off * (1.0 / distance) } else { face };
    Gap { distance, normal, point, face: more_upward(normal, face), edge: true }
}

/// The nearest points of two segments, each given by start and displacement; after C. Ericson,
/// "Real-Time Collision Detection", 2005, 5.1.9.
pub(super) fn nearest_of_segments(p: Vec3, d: Vec3, q: Vec3, e: Vec3) -> (Vec3, Vec3) {
    let r = p - q;
    let (dd, ee) = (d.length_squared(), e.length_squared());
    let er = e.dot(r);
    let fraction_on = |x: f32, y: f32| if y > TINY * TINY { (x / y).clamp(0.0, 1.0) } else { 0.0 };
    let (s, t);
    if dd <= TINY * TINY {
        s = 0.0;
        t = fraction_on(er, ee);
    } else {
        let dr = d.dot(r);
        if ee <= TINY * TINY {
            t = 0.0;
            s = fraction_on(-dr, dd);
        } else {
            let de = d.dot(e);
            let apart = dd * ee - de * de;
            let first = if apart > 1e-7 * dd * ee { fraction_on(de * er - dr * ee, apart) } else { 0.0 };
            let other = (de * first + er) / ee;
            t = other.clamp(0.0, 1.0);
            s = if other == t { first } else { fraction_on(de * t - dr, dd) };
        }
    }
    (p + d * s, q + e * t)
}
