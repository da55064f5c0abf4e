//! The edges of a facet, four compared at once.
//!
//! In the plane of a facet, each edge has an outward side. A point beyond an edge is not over the
//! facet. A hull that stays further beyond an edge than its reach misses the facet.

use glam::{Mat4, Vec3, Vec4};

use super::Ray;

/// The number of edges that are compared at once.
pub(super) const EDGES: usize = 4;

/// Up to four consecutive edges of a flat outline. Unused places have nothing beyond them.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Fence {
    /// The outward directions, as long as the edges.
    x: Vec4,
    y: Vec4,
    z: Vec4,
    /// The positions of the edges along these directions.
    at: Vec4,
    /// The squared lengths of the edges.
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
    /// The edges from the corner `first` on, of an outline that runs counter-clockwise around this
    /// normal.
    #[inline]
    pub fn of(points: &[Vec3], first: usize, normal: Vec3) -> Self {
        // Unused places have an edge from the first corner to itself.
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
    fn along(&self, direction: Vec3) -> Vec4 {
        self.x * direction.x + self.y * direction.y + self.z * direction.z
    }

    /// Returns true if a point is beyond any of the edges by more than this fraction of its length.
    #[inline]
    pub fn excludes(&self, point: Vec3, fraction: f32) -> bool {
        (self.along(point) - self.at).cmpgt(self.squared * fraction).any()
    }

    /// The motion of the core's centre relative to these edges.
    #[inline]
    pub fn course(&self, ray: &Ray<Vec3>) -> Course {
        Course { before: self.along(ray.from) - self.at, motion: self.along(ray.motion), fence: *self }
    }
}

/// The distance of a core's centre beyond each edge, times the edge's length: at the start, and
/// what the motion adds.
pub(crate) struct Course {
    before: Vec4,
    motion: Vec4,
    fence: Fence,
}

impl Course {
    /// Returns true if a capsule with half length `half` stays further beyond one of the edges than
    /// `reach` on all of its path.
    #[inline]
    pub fn passes(&self, half: f32, reach: f32) -> bool {
        let nearest = self.before.min(self.before + self.motion);
        let least = nearest - self.fence.y.abs() * half;
        let apart = least.cmpgt(Vec4::ZERO) & (least * least).cmpgt(self.fence.squared * (reach * reach));
        apart.any()
    }

    /// Returns true if a point of the core, `end` above its centre, is beyond any of the edges by
    /// more than this fraction of its length after `time`.
    #[inline]
    pub fn is_outside(&self, end: f32, time: f32, fraction: f32) -> bool {
        let at = self.before + self.fence.y * end + self.motion * time;
        at.cmpgt(self.fence.squared * fraction).any()
    }

    /// The edges that a point of the core, `end` above its centre, passes beyond on its path by
    /// more than this fraction of their length: one bit each.
    #[inline]
    pub fn beyond(&self, end: f32, fraction: f32) -> u32 {
        let furthest = self.before.max(self.before + self.motion) + self.fence.y * end;
        furthest.cmpge(self.fence.squared * fraction).bitmask()
    }
}
