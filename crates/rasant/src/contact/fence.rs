//! The edges of a facet, four compared at once.
//!
//! Across the plane of a facet, each edge has an outward side. What is beyond
//! one edge is not over the facet; a hull that stays further beyond one than it
//! reaches passes the facet by.

use glam::{Mat4, Vec3, Vec4};

use super::Ray;

/// Edges in a fence.
pub(super) const EDGES: usize = 4;

/// Up to four edges of a flat outline that follow each other. Places without an
/// edge have nothing beyond them.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Fence {
    /// The outward directions, as long as the edges.
    x: Vec4,
    y: Vec4,
    z: Vec4,
    /// How far the edges are along them from the origin.
    at: Vec4,
    /// The edges' lengths, squared.
    squared: Vec4,
}

/// Four points by coordinate: their x, their y and their z.
#[inline]
fn by_coordinate(points: [Vec3; 4]) -> [Vec4; 3] {
    let [a, b, c, d] = points.map(|point| point.extend(0.0));
    let all = Mat4::from_cols(a, b, c, d).transpose();
    [all.x_axis, all.y_axis, all.z_axis]
}

impl Fence {
    /// The edges from the corner `first` on, of an outline with this normal
    /// about which it runs.
    #[inline]
    pub fn of(points: &[Vec3], first: usize, normal: Vec3) -> Self {
        // Past the last edge, from the first corner to itself.
        let corner = |place: usize| *points.get(first + place).unwrap_or(&points[0]);
        let [a, b, c, d, e] = [0, 1, 2, 3, 4].map(corner);
        let [sx, sy, sz] = by_coordinate([a, b, c, d]);
        let [ex, ey, ez] = by_coordinate([b, c, d, e]);
        let (ax, ay, az) = (ex - sx, ey - sy, ez - sz);
        let (nx, ny, nz) = (Vec4::splat(normal.x), Vec4::splat(normal.y), Vec4::splat(normal.z));
        let (x, y, z) = (ay * nz - az * ny, az * nx - ax * nz, ax * ny - ay * nx);
        let at = sx * x + sy * y + sz * z;
        Self { x, y, z, at, squared: ax * ax + ay * ay + az * az }
    }

    #[inline]
    fn along(&self, way: Vec3) -> Vec4 {
        self.x * way.x + self.y * way.y + self.z * way.z
    }

    /// Whether a point is beyond any of the edges by more than this share of
    /// its length.
    #[inline]
    pub fn excludes(&self, point: Vec3, share: f32) -> bool {
        (self.along(point) - self.at).cmpgt(self.squared * share).any()
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
    before: Vec4,
    going: Vec4,
    fence: Fence,
}

impl Course {
    /// Whether a capsule with a core of `half` its length stays further beyond
    /// one of the edges than `reach` all along its way.
    #[inline]
    pub fn passes(&self, half: f32, reach: f32) -> bool {
        let nearest = self.before.min(self.before + self.going);
        let least = nearest - self.fence.y.abs() * half;
        let apart = least.cmpgt(Vec4::ZERO) & (least * least).cmpgt(self.fence.squared * (reach * reach));
        apart.any()
    }

    /// Whether a point of the core, `end` above its centre, is beyond any of the
    /// edges by more than this share of its length after `time`.
    #[inline]
    pub fn is_outside(&self, end: f32, time: f32, share: f32) -> bool {
        let at = self.before + self.fence.y * end + self.going * time;
        at.cmpgt(self.fence.squared * share).any()
    }

    /// Which edges a point of the core, `end` above its centre, comes beyond on
    /// its way, by more than this share of their length: a bit each.
    #[inline]
    pub fn beyond(&self, end: f32, share: f32) -> u32 {
        let furthest = self.before.max(self.before + self.going) + self.fence.y * end;
        furthest.cmpge(self.fence.squared * share).bitmask()
    }
}
