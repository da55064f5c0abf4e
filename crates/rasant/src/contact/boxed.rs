//! Boxes: an upright box for a core.
//!
//! It meets a facet through the axes along which the two can be apart: the
//! facet's normal, the box's own three, and the products of their edges. Cutting
//! the motion by each of them gives the sum with sharp edges exactly; a rounded
//! one is then met on the balls and cylinders round the sum's corners and edges.

use glam::Vec3;
use smallvec::SmallVec;

use super::facet::{Facet, gap_between, nearest_of_segments};
use super::upright::{touch_edge_with_end, touch_end};
use super::{Gap, Ray, Touch, more_upward};

pub(super) fn box_corners(half: Vec3) -> [Vec3; 8] {
    std::array::from_fn(|corner| {
        let sign = |bit: usize| if corner >> bit & 1 == 1 { 1.0 } else { -1.0 };
        half * Vec3::new(sign(0), sign(1), sign(2))
    })
}

/// The twelve edges of a box of `half` extents: start and whole length.
fn box_edges(half: Vec3) -> impl Iterator<Item = (Vec3, Vec3)> {
    let corners = box_corners(half);
    (0..8).flat_map(move |corner: usize| {
        (0..3)
            .filter(move |bit| corner >> bit & 1 == 0)
            .map(move |bit| (corners[corner], corners[corner | 1 << bit] - corners[corner]))
    })
}

impl Facet<'_> {
    /// Every direction in which the facet and a box can be apart.
    fn axes(&self) -> SmallVec<[Vec3; 16]> {
        let mut axes: SmallVec<[Vec3; 16]> = SmallVec::new();
        axes.extend([self.normal, Vec3::X, Vec3::Y, Vec3::Z]);
        for (_, _, along) in self.edges() {
            for own in [Vec3::X, Vec3::Y, Vec3::Z] {
                let across = along.cross(own);
                let length = across.length_squared().sqrt();
                if length > 1e-6 * along.length_squared().sqrt() {
                    axes.push(across * (1.0 / length));
                }
            }
        }
        axes
    }

    /// The least and greatest place of the facet, joined with a box, along an
    /// axis.
    fn span(&self, half: Vec3, axis: Vec3) -> (f32, f32) {
        let reach = axis.abs().dot(half);
        let (least, most) = self
            .points
            .iter()
            .map(|point| point.dot(axis))
            .fold((f32::INFINITY, f32::NEG_INFINITY), |(l, m), p| (l.min(p), m.max(p)));
        (least - reach, most + reach)
    }

    #[inline(never)]
    pub(super) fn touch_box(&self, half: Vec3, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
        let (face, _) = self.side(ray.from);
        let gap = self.gap_to_box(half, ray.from);
        if gap.distance <= ray.reach {
            return if self.is_seen_from_inside(face) { None } else { gap.touch(ray) };
        }
        let axes = self.axes();
        let (enter, normal) = enter_by_axes(&axes, |axis| self.span(half, axis), ray, limit)?;
        if enter >= 0.0 {
            let point = ray.from + ray.motion * enter - normal * ray.reach;
            let on_sum = axes.iter().all(|&axis| {
                let (least, most) = self.span(half, axis);
                let place = point.dot(axis);
                let slack = 1e-5 * (1.0 + least.abs().max(most.abs()));
                place >= least - slack && place <= most + slack
            });
            if on_sum && self.is_seen_from_inside(face) && normal.dot(face) > 0.999 {
                return None;
            }
            if on_sum {
                let own =
                    point + (-normal).map(|part| if part.abs() > 1e-6 { part.signum() } else { 0.0 }) * half;
                return Some(Touch {
                    time: enter,
                    normal,
                    face: more_upward(normal, face),
                    point: self.nearest_to(own),
                    edge: normal.dot(self.normal).abs() < 0.9999,
                    depth: 0.0,
                });
            }
        }
        let corners: SmallVec<[Vec3; 64]> =
            self.points.iter().flat_map(|&point| box_corners(half).map(|corner| point + corner)).collect();
        let mut touch = touch_box_sum(self.points, &corners, half, ray, 0.0, limit)?;
        touch.face = more_upward(touch.normal, face);
        touch.point = self.nearest_to(touch.point - touch.normal * ray.reach);
        Some(touch)
    }

    /// The point of the facet nearest to `at`.
    fn nearest_to(&self, at: Vec3) -> Vec3 {
        self.gap_upright(0.0, at).point
    }

    pub(super) fn gap_to_box(&self, half: Vec3, at: Vec3) -> Gap<Vec3> {
        let (face, _) = self.side(at);
        // Overlapping along every axis is overlapping; the least is the way out.
        let mut out = f32::NEG_INFINITY;
        let mut way = face;
        for axis in self.axes() {
            let (least, most) = self.span(half, axis);
            let place = at.dot(axis);
            for (distance, direction) in [(place - most, axis), (least - place, -axis)] {
                if distance > out {
                    (out, way) = (distance, direction);
                }
            }
        }
        if out <= 0.0 {
            let point = self.nearest_to(at);
            return Gap { distance: out, normal: way, point, face: more_upward(way, face), edge: false };
        }
        let mut best: Option<Gap<Vec3>> = None;
        let mut offer = |own: Vec3, point: Vec3, edge: bool| {
            let gap = Gap { edge, ..gap_between(own, point, face) };
            best = Some(best.map_or(gap, |held| held.nearer(gap)));
        };
        for corner in box_corners(half) {
            let own = at + corner;
            let signed = self.normal.dot(own - self.points[0]);
            let point = own - self.normal * signed;
            if self.holds(point) {
                offer(own, point, false);
            }
        }
        for &point in self.points {
            offer(at + (point - at).clamp(-half, half), point, true);
        }
        for (_, start, along) in self.edges() {
            for (own_start, own_along) in box_edges(half) {
                let (own, point) = nearest_of_segments(at + own_start, own_along, start, along);
                offer(own, point, true);
            }
        }
        best.unwrap_or_else(|| gap_between(at, self.points[0], face))
    }
}

/// When a ray enters the body that `axes` and their spans, grown by the ray's
/// reach, cut out; before 0 when it starts inside.
fn enter_by_axes(
    axes: &[Vec3],
    span: impl Fn(Vec3) -> (f32, f32),
    ray: &Ray<Vec3>,
    limit: f32,
) -> Option<(f32, Vec3)> {
    let (mut enter, mut leave) = (-1.0f32, f32::INFINITY);
    let mut normal = Vec3::Y;
    for &axis in axes {
        let (least, most) = span(axis);
        let place = ray.from.dot(axis);
        let speed = ray.motion.dot(axis);
        for (beyond, speed, direction) in
            [(place - most - ray.reach, speed, axis), (least - place - ray.reach, -speed, -axis)]
        {
            if beyond > 0.0 {
                if speed >= 0.0 {
                    return None;
                }
                let time = beyond / -speed;
                if time > enter {
                    (enter, normal) = (time, direction);
                }
            } else if speed > 0.0 {
                leave = leave.min(beyond / -speed);
            }
        }
    }
    (enter <= leave && enter <= limit).then_some((enter, normal))
}

/// The sum of some points' hull and a box, rounded by the ray's reach and
/// `rounding`: its faces along the box's own axes, and the cylinders and balls
/// round all edges and corners that the sum can have. Those that lie inside
/// are touched later than those outside, so they do no harm.
pub(super) fn touch_box_sum(
    points: &[Vec3],
    corners: &[Vec3],
    half: Vec3,
    ray: &Ray<Vec3>,
    rounding: f32,
    limit: f32,
) -> Option<Touch<Vec3>> {
    let ray = Ray { reach: ray.reach + rounding, ..*ray };
    let mut best: Option<(f32, Vec3, Vec3)> = None;
    let mut offer = |time: f32, normal: Vec3, point: Vec3| {
        if time <= limit && best.as_ref().is_none_or(|held| time < held.0) {
            best = Some((time, normal, point));
        }
    };
    for &corner in corners {
        if let Some((time, normal)) = touch_end(ray.from - corner, 0.0, &ray).at() {
            offer(time, normal, corner);
        }
    }
    for &point in points {
        for (own_start, own_along) in box_edges(half).filter(|edge| edge.1 != Vec3::ZERO) {
            let start = point + own_start;
            if let Some((time, (normal, share))) = touch_edge_with_end(ray.from - start, own_along, &ray).at()
            {
                offer(time, normal, start + own_along * share);
            }
        }
    }
    let n = points.len();
    for i in 0..if n > 1 { n } else { 0 } {
        let along = points[(i + 1) % n] - points[i];
        for corner in box_corners(half) {
            let start = points[i] + corner;
            if let Some((time, (normal, share))) = touch_edge_with_end(ray.from - start, along, &ray).at() {
                offer(time, normal, start + along * share);
            }
        }
    }
    if n == 1 {
        // A lone point's sum is the box itself; its faces count too.
        let span = |axis: Vec3| {
            let reach = axis.abs().dot(half);
            (points[0].dot(axis) - reach, points[0].dot(axis) + reach)
        };
        if let Some((time, normal)) = enter_by_axes(&[Vec3::X, Vec3::Y, Vec3::Z], span, &ray, limit)
            && time >= 0.0
        {
            let point = ray.from + ray.motion * time - normal * ray.reach;
            if (point - points[0]).abs().cmple(half + Vec3::splat(1e-5)).all() {
                offer(time, normal, point);
            }
        }
    }
    best.map(|(time, normal, point)| Touch { time, normal, face: normal, point, edge: true, depth: 0.0 })
}
