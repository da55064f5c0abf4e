//! The edges of a facet, four compared at once.
//!
//! Across the plane of a facet, each edge has an outward side. What is beyond
//! one edge is not over the facet; a hull that stays further beyond one than it
//! reaches passes the facet by.

use glam::Vec3;
use wide::f32x4;

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

/// A point as a row of four, the last place unused.
#[inline]
fn row(point: Vec3) -> f32x4 {
    f32x4::new([point.x, point.y, point.z, 0.0])
}

impl Fence {
    /// The edges from the corner `first` on, of an outline with this normal
    /// about which it runs.
    #[inline]
    pub fn of(points: &[Vec3], first: usize, normal: Vec3) -> Self {
        // Past the last edge, from the first corner to itself.
        let corner = |place: usize| row(*points.get(first + place).unwrap_or(&points[0]));
        let [a, b, c, d, e] = [0, 1, 2, 3, 4].map(corner);
        let [sx, sy, sz, _] = f32x4::transpose([a, b, c, d]);
        let [ex, ey, ez, _] = f32x4::transpose([b, c, d, e]);
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

    /// How the core's centre passes along these edges.
    #[inline]
    pub fn course(&self, ray: &Ray<Vec3>) -> Course {
        Course { before: self.along(ray.from) - self.at, going: self.along(ray.motion), fence: *self }
    }
}

/// How far beyond each edge of a fence a core's centre is, times the edge's
/// length: where it starts, and what its motion adds.
pub(crate) struct Course {
    before: f32x4,
    going: f32x4,
    fence: Fence,
}

impl Course {
    /// Whether a capsule with a core of `half` its length stays further beyond
    /// one of the edges than `reach` all along its way.
    #[inline]
    pub fn passes(&self, half: f32, reach: f32) -> bool {
        let nearest = self.before.fast_min(self.before + self.going);
        let least = nearest - self.fence.y.abs() * f32x4::splat(half);
        let apart = least.simd_gt(f32x4::ZERO)
            & (least * least).simd_gt(self.fence.squared * f32x4::splat(reach * reach));
        apart.any()
    }

    /// Whether a point of the core, `end` above its centre, is beyond any of the
    /// edges by more than this share of its length after `time`.
    #[inline]
    pub fn is_outside(&self, end: f32, time: f32, share: f32) -> bool {
        let at = self.before + self.fence.y * f32x4::splat(end) + self.going * f32x4::splat(time);
        at.simd_gt(self.fence.squared * f32x4::splat(share)).any()
    }

    /// Which edges a point of the core, `end` above its centre, comes beyond on
    /// its way, by more than this share of their length: a bit each.
    #[inline]
    pub fn beyond(&self, end: f32, share: f32) -> u32 {
        let furthest = self.before.fast_max(self.before + self.going) + self.fence.y * f32x4::splat(end);
        furthest.simd_ge(self.fence.squared * f32x4::splat(share)).to_bitmask()
    }
}
