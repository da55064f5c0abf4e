//! Boxes along the body's axes, in two dimensions.
//!
//! The sum of such a box and the core (a point, an upright segment or another such box) is again a
//! box: the bounds of the obstacle. So only the bounds are stored, and a sweep is a ray against a
//! box with round corners.

use glam::Vec2;

use crate::space::Bounds;

use super::{Gap, Ray, Reach, Touch, enter_box, more_upward, reach_round};

/// The sum of a box and the core, relative to its centre.
pub(super) struct Block {
    middle: Vec2,
    /// Half its sides.
    half: Vec2,
    /// Half the sides of the piece itself.
    own: Vec2,
}

impl Block {
    /// The sum with these bounds, for a core with half extents `core_half`.
    #[inline]
    pub(super) fn of(bounds: &Bounds<Vec2>, core_half: Vec2) -> Self {
        let half = (bounds.max - bounds.min) * 0.5;
        Self { middle: (bounds.min + bounds.max) * 0.5, half, own: half - core_half }
    }

    /// Returns true if an outline is such a box.
    #[inline]
    pub(super) fn is_one(outline: &[Vec2]) -> bool {
        let &[a, b, c, d] = outline else { return false };
        let level = a.y == b.y && b.x == c.x && c.y == d.y && d.x == a.x;
        let upright = a.x == b.x && b.y == c.y && c.x == d.x && d.y == a.y;
        level || upright
    }

    #[inline]
    pub(super) fn touch(&self, ray: &Ray<Vec2>, limit: f32) -> Option<Touch<Vec2>> {
        let from = ray.from - self.middle;
        let (enter, entered) = enter_box(from, self.half, ray, limit)?;
        if enter < 0.0 {
            return self.touch_from_within(from, ray, limit);
        }
        let at = from + ray.motion * enter;
        let other = 1 - entered;
        if at[other].abs() > self.half[other] {
            return self.touch_corner(at, from, ray, limit);
        }
        let mut normal = Vec2::ZERO;
        normal[entered] = from[entered].signum();
        Some(Touch { time: enter, normal, face: normal, point: self.on_piece(at), edge: false, depth: 0.0 })
    }

    /// A motion that starts within reach of the sharp box, or just off a rounded corner.
    fn touch_from_within(&self, from: Vec2, ray: &Ray<Vec2>, limit: f32) -> Option<Touch<Vec2>> {
        let gap = self.gap_from(from);
        if gap.distance <= ray.reach { gap.touch(ray) } else { self.touch_corner(from, from, ray, limit) }
    }

    /// The touch of the corner on the side of `toward`.
    fn touch_corner(&self, toward: Vec2, from: Vec2, ray: &Ray<Vec2>, limit: f32) -> Option<Touch<Vec2>> {
        let side = toward.signum();
        let arm = from - side * self.half;
        let time = match reach_round(arm, ray.motion, ray.reach) {
            Reach::Within => return self.gap_from(from).touch(ray),
            Reach::At(time) if time <= limit => time,
            _ => return None,
        };
        let normal = (arm + ray.motion * time) * (1.0 / ray.reach);
        let point = self.middle + side * self.own;
        Some(Touch { time, normal, face: face_at(side, normal), point, edge: true, depth: 0.0 })
    }

    /// The gap to a point.
    pub(super) fn gap(&self, at: Vec2) -> Gap<Vec2> {
        self.gap_from(at - self.middle)
    }

    fn gap_from(&self, from: Vec2) -> Gap<Vec2> {
        let side = from.signum();
        let beyond = from.abs() - self.half;
        if beyond.x > 0.0 && beyond.y > 0.0 {
            let distance = beyond.length();
            let normal = side * beyond * (1.0 / distance);
            let point = self.middle + side * self.own;
            return Gap { distance, normal, point, face: face_at(side, normal), edge: true };
        }
        let axis = usize::from(beyond.y >= beyond.x);
        let mut normal = Vec2::ZERO;
        normal[axis] = side[axis];
        Gap { distance: beyond[axis], normal, point: self.on_face(from, axis), face: normal, edge: false }
    }

    /// The point of the piece nearest to a point, relative to the centre.
    fn on_piece(&self, at: Vec2) -> Vec2 {
        self.middle + at.clamp(-self.own, self.own)
    }

    /// The gap to the face across `axis`, for a point that may be inside.
    fn on_face(&self, at: Vec2, axis: usize) -> Vec2 {
        let mut on = at.clamp(-self.own, self.own);
        on[axis] = self.own[axis].copysign(at[axis]);
        self.middle + on
    }

    /// Returns true if all of it is below `lowest` along `normal`.
    #[inline]
    pub(super) fn is_below(&self, normal: Vec2, lowest: f32) -> bool {
        self.middle.dot(normal) + self.half.dot(normal.abs()) < lowest
    }
}

/// The most upward of a corner's own normal and the normals of the faces that meet there.
fn face_at(side: Vec2, normal: Vec2) -> Vec2 {
    more_upward(normal, more_upward(Vec2::new(side.x, 0.0), Vec2::new(0.0, side.y)))
}
