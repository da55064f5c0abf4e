//! The edges of a facet, four compared at once.
//!
//! Across the plane of a facet, each edge has an outward side. What is beyond
//! one edge is not over the facet; a hull that stays further beyond one than it
//! reaches passes the facet by.

use glam::Vec3;
use wide::f32x4;

use crate::space::Bounds;

use super::Ray;

/// Edges in a fence.
pub(super) const EDGES: usize = 4;

/// Up to four edges of a flat outline that follow each other. Places without an
/// edge have nothing beyond them.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Fence {
    /// The outward directions, as long as the edges.
    x: f32x4,
    y: f32x4,
    z: f32x4,
    /// How far the edges are along them from the origin.
    at: f32x4,
    /// The edges' lengths, squared.
    squared: f32x4,
}

impl Fence {
    /// The edges from the corner `first` on, of an outline with this normal
    /// about which it runs.
    #[inline]
    pub fn of(points: &[Vec3], first: usize, normal: Vec3) -> Self {
        let corner = |place: usize| {
            let place = first + place;
            if place < points.len() { points[place] } else { points[0] }
        };
        let starts = [0, 1, 2, 3].map(corner);
        // Past the last edge, from the first corner to itself.
        let ends = [starts[1], starts[2], starts[3], corner(4)];
        let axis = |of: fn(&Vec3) -> f32, all: &[Vec3; EDGES]| f32x4::new([0, 1, 2, 3].map(|i| of(&all[i])));
        let [sx, sy, sz] = [axis(|p| p.x, &starts), axis(|p| p.y, &starts), axis(|p| p.z, &starts)];
        let [ex, ey, ez] = [axis(|p| p.x, &ends), axis(|p| p.y, &ends), axis(|p| p.z, &ends)];
        let (ax, ay, az) = (ex - sx, ey - sy, ez - sz);
        let (nx, ny, nz) = (f32x4::splat(normal.x), f32x4::splat(normal.y), f32x4::splat(normal.z));
        let (x, y, z) = (ay * nz - az * ny, az * nx - ax * nz, ax * ny - ay * nx);
        let at = sx * x + sy * y + sz * z;
        Self { x, y, z, at, squared: ax * ax + ay * ay + az * az }
    }

    #[inline]
    fn along(&self, way: Vec3) -> f32x4 {
        self.x * f32x4::splat(way.x) + self.y * f32x4::splat(way.y) + self.z * f32x4::splat(way.z)
    }

    /// Whether a point is beyond any of the edges by more than this share of
    /// its length.
    #[inline]
    pub fn excludes(&self, point: Vec3, share: f32) -> bool {
        (self.along(point) - self.at).simd_gt(self.squared * f32x4::splat(share)).any()
    }

    /// Whether a capsule with a core of `half` its length stays beyond one of
    /// the edges all along its way.
    #[inline]
    pub fn is_passed(&self, half: f32, ray: &Ray<Vec3>) -> bool {
        let before = self.along(ray.from) - self.at;
        let after = before + self.along(ray.motion);
        let least = before.fast_min(after) - self.y.abs() * f32x4::splat(half);
        let apart = least.simd_gt(f32x4::ZERO)
            & (least * least).simd_gt(self.squared * f32x4::splat(ray.reach * ray.reach));
        apart.any()
    }

    /// Whether all of a box is beyond one of the edges.
    #[inline]
    pub fn is_clear_of(&self, bounds: &Bounds<Vec3>) -> bool {
        let half = (bounds.max - bounds.min) * 0.5;
        let reach = self.x.abs() * f32x4::splat(half.x)
            + self.y.abs() * f32x4::splat(half.y)
            + self.z.abs() * f32x4::splat(half.z);
        (self.along(bounds.centre()) - self.at).simd_gt(reach).any()
    }

    /// How far the core's centre comes beyond each edge on its way, times the
    /// edge's length.
    #[inline]
    pub fn furthest(&self, ray: &Ray<Vec3>) -> [f32; EDGES] {
        let before = self.along(ray.from) - self.at;
        before.fast_max(before + self.along(ray.motion)).to_array()
    }

    /// How much further beyond each edge what is a metre up is, times the
    /// edge's length.
    #[inline]
    pub fn up(&self) -> [f32; EDGES] {
        self.y.to_array()
    }
}
