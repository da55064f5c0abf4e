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

/// A direction in which a facet and a box can be apart, and from where to where the
/// facet, joined with the box, reaches along it.
#[derive(Clone, Copy)]
struct Cut {
    axis: Vec3,
    least: f32,
    most: f32,
}

/// Cuts of a triangle and a box; outlines with more corners have more.
type Cuts = SmallVec<[Cut; 13]>;

/// How a box is apart from a facet, or would come to it.
struct Apart {
    /// How far along the axis along which they are furthest apart; below 0 when they
    /// overlap.
    distance: f32,
    /// That axis, from the facet to the box.
    normal: Vec3,
}

impl Facet<'_> {
    /// Calls `each` with every direction in which the facet and a box can be apart,
    /// until it says that this is enough: the facet's own, the box's, and across an
    /// edge of each.
    #[inline]
    fn each_axis(&self, mut each: impl FnMut(Vec3) -> bool) {
        /// Edges whose sine to a box's edge is less than this add nothing to the
        /// other directions.
        const ACROSS: f32 = 1e-6;
        if [self.normal, Vec3::Y, Vec3::X, Vec3::Z].into_iter().any(&mut each) {
            return;
        }
        for (_, _, along) in self.edges() {
            let [x, y, z] = along.to_array();
            let least = ACROSS * ACROSS * along.length_squared();
            for across in [Vec3::new(0.0, z, -y), Vec3::new(-z, 0.0, x), Vec3::new(y, -x, 0.0)] {
                let squared = across.length_squared();
                if squared > least && each(across * (1.0 / squared.sqrt())) {
                    return;
                }
            }
        }
    }

    #[inline]
    fn cut(&self, half: Vec3, axis: Vec3) -> Cut {
        let reach = axis.abs().dot(half);
        let first = self.points[0].dot(axis);
        let (mut least, mut most) = (first, first);
        for point in &self.points[1..] {
            let place = point.dot(axis);
            (least, most) = (least.min(place), most.max(place));
        }
        Cut { axis, least: least - reach, most: most + reach }
    }

    /// How far apart the two are with the box's middle at `at`; nothing if by more
    /// than `reach`.
    #[inline]
    fn apart(&self, half: Vec3, at: Vec3, reach: f32) -> Option<Apart> {
        let mut all = Apart { distance: f32::NEG_INFINITY, normal: self.normal };
        self.each_axis(|axis| {
            let Cut { least, most, .. } = self.cut(half, axis);
            let place = at.dot(axis);
            for (distance, normal) in [(place - most, axis), (least - place, -axis)] {
                if distance > all.distance {
                    all = Apart { distance, normal };
                }
            }
            all.distance > reach
        });
        (all.distance <= reach).then_some(all)
    }

    /// A box against the facet.
    ///
    /// The two are cut apart along each axis in turn, and the latest cut is the touch.
    /// A sharp box keeps its distance along these axes: what it keeps of it round a
    /// corner is a hair more. A rounded one is then met where it is round.
    #[inline(never)]
    pub(super) fn touch_box(
        &self,
        half: Vec3,
        rounding: f32,
        ray: &Ray<Vec3>,
        limit: f32,
    ) -> Option<Touch<Vec3>> {
        let (face, _) = self.side(ray.from);
        let mut cuts = Cuts::new();
        let (mut enter, mut leave) = (-1.0f32, f32::INFINITY);
        let mut normal = face;
        let mut start = Apart { distance: f32::NEG_INFINITY, normal: face };
        let mut misses = false;
        self.each_axis(|axis| {
            let cut = self.cut(half, axis);
            let (place, speed) = (ray.from.dot(axis), ray.motion.dot(axis));
            for (apart, speed, direction) in
                [(place - cut.most, speed, axis), (cut.least - place, -speed, -axis)]
            {
                if apart > start.distance {
                    start = Apart { distance: apart, normal: direction };
                }
                let beyond = apart - ray.reach;
                if beyond > 0.0 {
                    let time = beyond / -speed;
                    misses |= speed >= 0.0 || time > limit;
                    if time > enter {
                        (enter, normal) = (time, direction);
                    }
                } else if speed > 0.0 {
                    leave = leave.min(beyond / -speed);
                }
            }
            misses |= enter > leave;
            cuts.push(cut);
            misses
        });
        if misses {
            return None;
        }
        let inside = self.is_seen_from_inside(face);
        if rounding > 0.0 {
            return self.touch_rounded_box(half, ray, limit, &start, (enter, normal), &cuts);
        }
        if start.distance <= ray.reach {
            return if inside { None } else { self.gap_along(&start, half, ray.from).touch(ray) };
        }
        if inside && normal.dot(face) > 0.999 {
            return None;
        }
        Some(self.touch_along(half, ray, enter, normal, face))
    }

    /// The touch of the whole side of a box that faces along `-normal`.
    fn touch_along(&self, half: Vec3, ray: &Ray<Vec3>, time: f32, normal: Vec3, face: Vec3) -> Touch<Vec3> {
        let own = ray.from + ray.motion * time + supporting(half, -normal);
        Touch {
            time,
            normal,
            face: more_upward(normal, face),
            point: self.nearest_to(own),
            edge: normal.dot(self.normal).abs() < 0.9999,
            depth: 0.0,
        }
    }

    /// The gap to a box that is nearest along an axis.
    fn gap_along(&self, apart: &Apart, half: Vec3, at: Vec3) -> Gap<Vec3> {
        let (face, _) = self.side(at);
        let &Apart { distance, normal } = apart;
        let point = self.nearest_to(at + supporting(half, -normal));
        let edge = normal.dot(self.normal).abs() < 0.9999;
        Gap { distance, normal, point, face: more_upward(normal, face), edge }
    }

    #[inline(never)]
    fn touch_rounded_box(
        &self,
        half: Vec3,
        ray: &Ray<Vec3>,
        limit: f32,
        start: &Apart,
        (enter, normal): (f32, Vec3),
        cuts: &Cuts,
    ) -> Option<Touch<Vec3>> {
        let (face, _) = self.side(ray.from);
        let inside = self.is_seen_from_inside(face);
        if start.distance <= ray.reach {
            let gap = self.gap_to_box(half, ray.from);
            if gap.distance <= ray.reach {
                return if inside { None } else { gap.touch(ray) };
            }
        }
        if enter >= 0.0 {
            let point = ray.from + ray.motion * enter - normal * ray.reach;
            let on_sum = cuts.iter().all(|cut| {
                let place = point.dot(cut.axis);
                let slack = 1e-5 * (1.0 + cut.least.abs().max(cut.most.abs()));
                place >= cut.least - slack && place <= cut.most + slack
            });
            if on_sum {
                let behind = inside && normal.dot(face) > 0.999;
                return (!behind).then(|| self.touch_along(half, ray, enter, normal, face));
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

    /// The gap to a box if it is less than `reach`.
    pub(super) fn gap_to_box_within(&self, half: Vec3, at: Vec3, reach: f32) -> Option<Gap<Vec3>> {
        let apart = self.apart(half, at, reach)?;
        if apart.distance <= 0.0 {
            return Some(self.gap_along(&apart, half, at));
        }
        Some(self.gap_to_box(half, at)).filter(|gap| gap.distance <= reach)
    }

    pub(super) fn gap_to_box(&self, half: Vec3, at: Vec3) -> Gap<Vec3> {
        let (face, _) = self.side(at);
        // Overlapping along every axis is overlapping; the least is the way out.
        if let Some(apart) = self.apart(half, at, 0.0) {
            let point = self.nearest_to(at);
            let (distance, normal) = (apart.distance, apart.normal);
            return Gap { distance, normal, point, face: more_upward(normal, face), edge: false };
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

/// The middle of what of a box lies furthest along a direction: a corner, the middle
/// of an edge or of a side.
fn supporting(half: Vec3, along: Vec3) -> Vec3 {
    along.map(|part| if part.abs() > 1e-6 { part.signum() } else { 0.0 }) * half
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
