//! Boxes along the body's axes, in three dimensions.
//!
//! The sum of such a box and the core (a point, an upright segment or another such box) is again a
//! box. So only the piece's bounds are stored, and a sweep is a ray against a box with round edges
//! and corners.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec3;

use crate::space::Bounds;

use super::{Gap, Ray, Reach, Touch, enter_box, more_upward, reach_round};

/// The sum of a box and the core, relative to its centre.
pub(super) struct Brick {
    middle: Vec3,
    /// Half its sides.
    half: Vec3,
    /// Half the sides of the piece itself.
    own: Vec3,
}

impl Brick {
    /// The sum for a piece with these bounds and a core with half extents `core_half`.
    #[inline]
    pub(super) fn of(bounds: &Bounds<Vec3>, core_half: Vec3) -> Self {
        let own = (bounds.max - bounds.min) * 0.5;
        Self { middle: (bounds.min + bounds.max) * 0.5, half: own + core_half, own }
    }

    /// Returns true if corners with these bounds are those of such a box.
    #[inline]
    pub(super) fn is_one(corners: &[Vec3], bounds: &Bounds<Vec3>) -> bool {
        let mut seen = 0u32;
        for corner in corners {
            let (low, high) = (corner.cmpeq(bounds.min), corner.cmpeq(bounds.max));
            if !(low | high).all() {
                return false;
            }
            seen |= 1 << high.bitmask();
        }
        corners.len() == 8 && seen == 0xff
    }

    #[inline]
    pub(super) fn touch(&self, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
        let from = ray.from - self.middle;
        let (enter, entered) = enter_box(from, self.half, ray, limit)?;
        if enter < 0.0 {
            // The motion starts within reach, or off a round edge.
            let gap = self.gap_from(from);
            return if gap.distance <= ray.reach {
                gap.touch(ray)
            } else {
                self.touch_edges(from, ray, limit)
            };
        }
        let at = from + ray.motion * enter;
        let beside = at.abs().cmpgt(self.half).bitmask() & !(1 << entered);
        if beside != 0 {
            return self.touch_edges(from, ray, limit);
        }
        let mut normal = Vec3::ZERO;
        normal[entered] = from[entered].signum();
        let point = self.on_face(at, entered);
        Some(Touch { time: enter, normal, face: normal, point, edge: false, depth: 0.0 })
    }

    /// The touch of the round edges and corners.
    #[inline(never)]
    fn touch_edges(&self, from: Vec3, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
        let to = from + ray.motion;
        let reach = Vec3::splat(ray.reach);
        let (least, most) = (from.min(to) - reach, from.max(to) + reach);
        let mut best: Option<(f32, Vec3)> = None;
        let mut offer = |arm: Vec3, motion: Vec3| {
            let earliest = best.map_or(limit, |(time, _)| time);
            if let Reach::At(time) = reach_round(arm, motion, ray.reach)
                && time <= earliest
            {
                best = Some((time, (arm + motion * time) * (1.0 / ray.reach)));
            }
        };
        for axis in 0..3 {
            // Of a post or a point, one edge is enough.
            if self.half[axis] == 0.0 && (axis != 1 || self.half != Vec3::ZERO) {
                continue;
            }
            let is_flat = [1, 2].map(|next| self.half[(axis + next) % 3] == 0.0);
            let without = |mut v: Vec3| {
                v[axis] = 0.0;
                v
            };
            for side in 0..4 {
                if (is_flat[0] && side & 1 == 0) || (is_flat[1] && side & 2 == 0) {
                    continue;
                }
                let sign = |bit: usize| if side >> bit & 1 == 1 { 1.0 } else { -1.0 };
                let mut edge = self.half;
                edge[(axis + 1) % 3] *= sign(0);
                edge[(axis + 2) % 3] *= sign(1);
                let (mut low, high) = (edge, edge);
                low[axis] = -low[axis];
                if low.cmpgt(most).any() || high.cmplt(least).any() {
                    continue;
                }
                // Across the edge first: whatever touches an end of it touches its line before,
                // beyond that end.
                let (arm, motion) = (without(from - edge), without(ray.motion));
                let at = match reach_round(arm, motion, ray.reach) {
                    Reach::Never => continue,
                    Reach::Within => from[axis],
                    Reach::At(time) => from[axis] + ray.motion[axis] * time,
                };
                if at.abs() <= self.half[axis] {
                    offer(arm, motion);
                } else {
                    let mut corner = edge;
                    corner[axis] = corner[axis].copysign(at);
                    offer(from - corner, ray.motion);
                }
            }
        }
        let (time, normal) = best?;
        let at = from + ray.motion * time;
        let face = self.face_at(at, normal);
        Some(Touch { time, normal, face, point: self.on_piece(at), edge: true, depth: 0.0 })
    }

    /// The gap to a point.
    pub(super) fn gap(&self, at: Vec3) -> Gap<Vec3> {
        self.gap_from(at - self.middle)
    }

    fn gap_from(&self, from: Vec3) -> Gap<Vec3> {
        let beyond = from.abs() - self.half;
        let off = beyond.max(Vec3::ZERO);
        let squared = off.length_squared();
        let axis = if beyond.y >= beyond.x && beyond.y >= beyond.z {
            1
        } else if beyond.x >= beyond.z {
            0
        } else {
            2
        };
        // Beyond more than one side, an edge or corner is nearest.
        if squared > beyond[axis] * beyond[axis] && beyond[axis] > 0.0 {
            let distance = squared.sqrt();
            let normal = from.signum() * off * (1.0 / distance);
            let face = self.face_at(from, normal);
            return Gap { distance, normal, point: self.on_piece(from), face, edge: true };
        }
        let mut normal = Vec3::ZERO;
        normal[axis] = from[axis].signum();
        Gap { distance: beyond[axis], normal, point: self.on_face(from, axis), face: normal, edge: false }
    }

    /// The point of the piece nearest to a point, relative to the centre.
    fn on_piece(&self, at: Vec3) -> Vec3 {
        self.middle + at.clamp(-self.own, self.own)
    }

    /// The gap to the face across `axis`, for a point that may be inside.
    fn on_face(&self, at: Vec3, axis: usize) -> Vec3 {
        let mut on = at.clamp(-self.own, self.own);
        on[axis] = self.own[axis].copysign(at[axis]);
        self.middle + on
    }

    /// The most upward of the normal of an edge or corner and the normals of the faces that meet
    /// there.
    fn face_at(&self, at: Vec3, normal: Vec3) -> Vec3 {
        let sides = at.signum();
        (0..3).filter(|&axis| normal[axis] != 0.0).fold(normal, |face, axis| {
            let mut side = Vec3::ZERO;
            side[axis] = sides[axis];
            more_upward(face, side)
        })
    }

    /// Returns true if all of the piece is below `lowest` along `normal`.
    #[inline]
    pub(super) fn is_below(bounds: &Bounds<Vec3>, normal: Vec3, lowest: f32) -> bool {
        let (middle, own) = ((bounds.min + bounds.max) * 0.5, (bounds.max - bounds.min) * 0.5);
        middle.dot(normal) + own.dot(normal.abs()) < lowest
    }
}
