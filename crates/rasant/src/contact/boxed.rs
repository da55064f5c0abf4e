//! Contact between facets and hulls whose core is an upright box.
//!
//! A box and a facet can be separated along these axes: the facet's normal, the three axes of the
//! box, and the cross products of their edges. Clipping the motion by each of them gives the faces
//! of their sum exactly. Around the edges and corners of the sum, which the reach of a sweep
//! rounds, the touch is on balls and cylinders.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::{Vec3, Vec3A, Vec3Swizzles};

use super::facet::{Facet, gap_between, nearest_of_segments};
use super::upright::{touch_edge_with_end, touch_end};
use super::{Gap, Ray, Touch, more_upward};

fn box_corners(half: Vec3) -> [Vec3; 8] {
    core::array::from_fn(|corner| {
        let sign = |bit: usize| if corner >> bit & 1 == 1 { 1.0 } else { -1.0 };
        half * Vec3::new(sign(0), sign(1), sign(2))
    })
}

/// The twelve edges of a box of `half` extents: start and displacement.
fn box_edges(half: Vec3) -> impl Iterator<Item = (Vec3, Vec3)> {
    let corners = box_corners(half);
    (0..8).flat_map(move |corner: usize| {
        (0..3)
            .filter(move |bit| corner >> bit & 1 == 0)
            .map(move |bit| (corners[corner], corners[corner | 1 << bit] - corners[corner]))
    })
}

/// Three possible separating axes of a facet and a box, and the interval that the facet, joined
/// with the box, covers along each.
#[derive(Clone, Copy)]
struct Cuts {
    by: Axes,
    least: Vec3A,
    most: Vec3A,
    /// The lengths of the axes; 0 for an unusable one.
    length: Vec3A,
}

/// The three axes.
#[derive(Clone, Copy)]
enum Axes {
    /// The facet's normal only.
    Normal(Vec3),
    /// The axes of the box.
    Box,
    /// The cross products of this edge of the facet, with its number, and each edge of the box.
    Across(Vec3A, u8),
}

impl Axes {
    /// The positions of a point along the axes.
    #[inline]
    fn places(self, point: Vec3A) -> Vec3A {
        match self {
            Self::Normal(normal) => Vec3A::new(Vec3::from(point).dot(normal), 0.0, 0.0),
            Self::Box => point,
            // The triple product of an edge, a box's edge and a point is a component of the cross
            // product of the point and the edge.
            Self::Across(edge, _) => point.yzx() * edge.zxy() - point.zxy() * edge.yzx(),
        }
    }

    /// One of the axes, not normalised.
    fn axis(self, lane: usize) -> Vec3 {
        match self {
            Self::Normal(normal) => normal,
            Self::Box => [Vec3::X, Vec3::Y, Vec3::Z][lane],
            Self::Across(edge, _) => Vec3::from(edge).cross([Vec3::X, Vec3::Y, Vec3::Z][lane]),
        }
    }
}

impl Cuts {
    /// The time at which a ray enters the interval along all axes, and the time at which it leaves
    /// one; infinite if it starts so or never does.
    #[inline]
    fn times(&self, ray: &Ray<Vec3>) -> (Vec3A, Vec3A) {
        let place = self.by.places(ray.from.into());
        let speed = self.by.places(ray.motion.into());
        // Along an axis on which it does not move, the time is infinite.
        let still = speed.abs().cmplt(Vec3A::splat(1e-30));
        let speed = Vec3A::select(still, Vec3A::splat(1e-30), speed);
        let reach = self.length * ray.reach;
        let low = (self.least - reach - place) / speed;
        let high = (self.most + reach - place) / speed;
        let says_nothing = self.length.cmpeq(Vec3A::ZERO);
        let enter = Vec3A::select(says_nothing, Vec3A::NEG_INFINITY, low.min(high));
        (enter, Vec3A::select(says_nothing, Vec3A::INFINITY, low.max(high)))
    }

    /// The unit direction of an axis from the facet to a box at `at`.
    fn normal(&self, lane: usize, at: Vec3) -> Vec3 {
        let axis = self.by.axis(lane) * (1.0 / self.length[lane]);
        let place = self.by.places(at.into())[lane];
        if place + place >= self.least[lane] + self.most[lane] { axis } else { -axis }
    }
}

/// The separation of a box from a facet.
struct Apart {
    /// The distance along the axis of greatest separation; below 0 if they overlap.
    distance: f32,
    /// That axis, from the facet to the box.
    normal: Vec3,
}

impl Facet<'_> {
    /// Calls `each` with all axes that can separate the facet and a box, until it returns true.
    #[inline(always)] // with a question of its own everywhere
    fn each_cut(&self, half: Vec3, mut each: impl FnMut(&Cuts) -> bool) {
        /// Edges whose sine to a box's edge is less than this add nothing to the other axes.
        const ACROSS: f32 = 1e-6;
        let flat = self.normal.dot(self.points[0]);
        let reach = self.normal.abs().dot(half);
        let lane = |value: f32| Vec3A::new(value, 0.0, 0.0);
        let by = Axes::Normal(self.normal);
        if each(&Cuts { by, least: lane(flat - reach), most: lane(flat + reach), length: Vec3A::X }) {
            return;
        }
        let half = Vec3A::from(half);
        let first = Vec3A::from(self.points[0]);
        let (mut low, mut high) = (first, first);
        for &point in &self.points[1..] {
            (low, high) = (low.min(point.into()), high.max(point.into()));
        }
        if each(&Cuts { by: Axes::Box, least: low - half, most: high + half, length: Vec3A::ONE }) {
            return;
        }
        let n = self.points.len();
        for i in 0..n {
            let (start, next) = (self.points[i], self.points[if i + 1 == n { 0 } else { i + 1 }]);
            let edge = Vec3A::from(next) - Vec3A::from(start);
            let squares = edge * edge;
            let whole = squares.x + squares.y + squares.z;
            let squared = squares.yzx() + squares.zxy();
            let tells = squared.cmpgt(Vec3A::splat(ACROSS * ACROSS * whole));
            let length = Vec3A::select(tells, squared, Vec3A::ZERO).map(f32::sqrt);
            let by = Axes::Across(edge, i as u8);
            // Both ends of the edge have the same position along each axis.
            let place = by.places(start.into());
            let (mut least, mut most) = (place, place);
            for other in 2..n {
                let other = i + other;
                let place = by.places(self.points[if other < n { other } else { other - n }].into());
                (least, most) = (least.min(place), most.max(place));
            }
            // Half the size of a box along the cross product with one of its edges depends on the
            // other two.
            let size = edge.abs();
            let reach = size.zxy() * half.yzx() + size.yzx() * half.zxy();
            if each(&Cuts { by, least: least - reach, most: most + reach, length }) {
                return;
            }
        }
    }

    /// The separation with the box's centre at `at`, or `None` if it is more than `reach`.
    fn apart(&self, half: Vec3, at: Vec3, reach: f32) -> Option<Apart> {
        let mut all = Apart { distance: f32::NEG_INFINITY, normal: self.normal };
        self.each_cut(half, |cuts| {
            let place = cuts.by.places(at.into());
            let apart = (place - cuts.most).max(cuts.least - place);
            for lane in 0..3 {
                let length = cuts.length[lane];
                if length > 0.0 && apart[lane] > all.distance * length {
                    all = Apart { distance: apart[lane] / length, normal: cuts.normal(lane, at) };
                }
            }
            all.distance > reach
        });
        (all.distance <= reach).then_some(all)
    }

    /// The touch of a box, rounded or not, with the facet.
    ///
    /// The two are separated along at least one of the axes. The latest time at which they come
    /// together along any of them is the touch, if it is on a face of their sum. Beyond the faces,
    /// the reach of a sweep is round: there the axes, each with its own reach, would come together
    /// too early, and a neighbouring facet would block a box that slides along this one.
    #[inline(never)]
    pub(super) fn touch_box(&self, half: Vec3, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
        /// Fractions of a displacement that differ by less are the same.
        const SAME: f32 = 1e-6;
        let (mut enter, mut leave) = (f32::NEG_INFINITY, f32::INFINITY);
        let mut last: Option<(Cuts, usize)> = None;
        let mut misses = false;
        self.each_cut(half, |cuts| {
            let (entered, left) = cuts.times(ray);
            leave = leave.min(left.min_element());
            let latest = entered.max_element();
            // Of two that differ by rounding only, the simpler axis is used.
            if latest > enter + SAME {
                enter = latest;
                last = Some((*cuts, entered.max_position()));
            }
            misses = enter > limit || enter > leave || leave < 0.0;
            misses
        });
        if misses {
            return None;
        }
        let (cuts, lane) = last?;
        let (face, _) = self.side(ray.from);
        let inside = self.is_seen_from_inside(face);
        let normal = cuts.normal(lane, ray.from);
        if enter < 0.0 {
            let gap = self.gap_at_start(half, ray.from);
            if gap.distance <= ray.reach {
                return if inside { None } else { gap.touch(ray) };
            }
        } else if self.is_on_sum(half, ray.from + ray.motion * enter - normal * ray.reach) {
            let behind = inside && normal.dot(face) > 0.999;
            let touch = self.touch_along(half, ray, enter, normal, face);
            let touch = if self.is_flat_across(&cuts) { Touch { face, ..touch } } else { touch };
            return (!behind).then_some(touch);
        }
        self.touch_round(half, ray, limit, face)
    }

    /// The touch where the reach is round: on an edge or a corner of the sum.
    #[inline(never)]
    fn touch_round(&self, half: Vec3, ray: &Ray<Vec3>, limit: f32, face: Vec3) -> Option<Touch<Vec3>> {
        let (mut touch, corner, edge) = touch_box_sum(self.points, half, ray, limit)?;
        touch.point -= touch.normal * ray.reach;
        let flat = self.is_flat(corner)
            && (edge || self.is_flat((corner + self.points.len() - 1) % self.points.len()));
        touch.face = if flat { face } else { more_upward(touch.normal, face) };
        Some(touch)
    }

    /// The touch of the whole side of a box that faces along `-normal`. Its point is still the
    /// box's own.
    fn touch_along(&self, half: Vec3, ray: &Ray<Vec3>, time: f32, normal: Vec3, face: Vec3) -> Touch<Vec3> {
        let own = ray.from + ray.motion * time + supporting(half, -normal);
        Touch {
            time,
            normal,
            face: more_upward(normal, face),
            point: own,
            edge: normal.dot(self.normal).abs() < 0.9999,
            depth: 0.0,
        }
    }

    /// The gap to a box that is nearest along an axis. Its point is still the box's own.
    fn gap_along(&self, apart: &Apart, half: Vec3, at: Vec3) -> Gap<Vec3> {
        let (face, _) = self.side(at);
        let &Apart { distance, normal } = apart;
        let point = at + supporting(half, -normal);
        let edge = normal.dot(self.normal).abs() < 0.9999;
        Gap { distance, normal, point, face: more_upward(normal, face), edge }
    }

    /// The gap at the start of a sweep. Beside a face of the sum of facet and box it is along one
    /// of their axes, so its normal has no rounding error; around an edge or a corner it is to the
    /// nearest point.
    fn gap_at_start(&self, half: Vec3, at: Vec3) -> Gap<Vec3> {
        match self.apart(half, at, f32::INFINITY) {
            Some(apart) if self.is_on_sum(half, at - apart.normal * apart.distance) => {
                self.gap_along(&apart, half, at)
            }
            _ => self.gap_to_box(half, at),
        }
    }

    /// Returns true if a point is on the sum of the facet and a box, not only beside it.
    fn is_on_sum(&self, half: Vec3, point: Vec3) -> bool {
        /// The rounding error of a position, as a fraction of the box's size and of the position.
        const ROUNDING: f32 = 1e-5;
        let size = half.max_element();
        let mut is_on = true;
        self.each_cut(half, |cuts| {
            let place = cuts.by.places(point.into());
            let slack = (cuts.length * size + cuts.least.abs().max(cuts.most.abs())) * ROUNDING;
            let tells = cuts.length.cmpgt(Vec3A::ZERO);
            let beyond = place.cmplt(cuts.least - slack) | place.cmpgt(cuts.most + slack);
            is_on = !(tells & beyond).any();
            !is_on
        });
        is_on
    }

    /// Returns true if an edge is a flat seam: the face continues there, and what stands on the
    /// edge stands on the face.
    fn is_flat(&self, edge: usize) -> bool {
        self.seams.hidden_from(false, false) >> (edge & 7) & 1 == 1
    }

    fn is_flat_across(&self, cuts: &Cuts) -> bool {
        matches!(cuts.by, Axes::Across(_, edge) if self.is_flat(edge.into()))
    }

    /// The point of the facet nearest to `at`, on a hidden edge or not.
    pub(super) fn nearest_to(&self, at: Vec3) -> Vec3 {
        let (normal, distance) = self.side(at);
        let over = at - normal * distance;
        if self.holds(over) {
            return over;
        }
        let on_edge = |(_, start, along)| nearest_of_segments(at, Vec3::ZERO, start, along).1;
        let squared = |point: Vec3| (point - at).length_squared();
        let nearer = |a: Vec3, b: Vec3| if squared(b) < squared(a) { b } else { a };
        self.edges().map(on_edge).fold(self.points[0], nearer)
    }

    /// The gap to a box, if it is less than `reach`.
    pub(super) fn gap_to_box_within(&self, half: Vec3, at: Vec3, reach: f32) -> Option<Gap<Vec3>> {
        let apart = self.apart(half, at, reach)?;
        if apart.distance <= 0.0 {
            let gap = self.gap_along(&apart, half, at);
            return Some(Gap { point: self.nearest_to(gap.point), ..gap });
        }
        Some(self.gap_to_box(half, at)).filter(|gap| gap.distance <= reach)
    }

    pub(super) fn gap_to_box(&self, half: Vec3, at: Vec3) -> Gap<Vec3> {
        let (face, _) = self.side(at);
        // If they overlap along every axis they overlap; the axis of least overlap leads out.
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

/// The middle of the part of a box that lies furthest along a direction: a corner, or the middle of
/// an edge or a side.
fn supporting(half: Vec3, along: Vec3) -> Vec3 {
    along.map(|part| if part.abs() > 1e-6 { part.signum() } else { 0.0 }) * half
}

/// The touch with the sum of a box and the convex hull of some points, rounded by the ray's reach,
/// and the number of the point, or of the edge that starts there: the cylinders and balls around
/// all edges and corners that the sum can have. Those inside the sum are touched later than those
/// outside, so they do no harm.
fn touch_box_sum(
    points: &[Vec3],
    half: Vec3,
    ray: &Ray<Vec3>,
    limit: f32,
) -> Option<(Touch<Vec3>, usize, bool)> {
    // Everything that the ray can touch is in the box around it, as wide as its reach on each side.
    // Most edges and corners are not.
    let to = ray.from + ray.motion * limit.max(0.0);
    let (from, to) = (Vec3A::from(ray.from), Vec3A::from(to));
    let reach = Vec3A::splat(ray.reach + 1e-4 * ray.reach);
    let (low, high) = (from.min(to) - reach, from.max(to) + reach);
    let is_near = |start: Vec3, along: Vec3| {
        let (start, end) = (Vec3A::from(start), Vec3A::from(start + along));
        !(start.max(end).cmplt(low) | start.min(end).cmpgt(high)).any()
    };
    let mut best: Option<(f32, Vec3, Vec3, usize, bool)> = None;
    let mut offer = |time: f32, normal: Vec3, point: Vec3, (number, edge): (usize, bool)| {
        if time <= limit && best.as_ref().is_none_or(|held| time < held.0) {
            best = Some((time, normal, point, number, edge));
        }
    };
    let corners = points
        .iter()
        .enumerate()
        .flat_map(|(number, &point)| box_corners(half).map(|corner| (number, point + corner)));
    for (number, corner) in corners.filter(|&(_, corner)| is_near(corner, Vec3::ZERO)) {
        if let Some((time, normal)) = touch_end(ray.from - corner, 0.0, ray).at() {
            offer(time, normal, corner, (number, false));
        }
    }
    for (number, &point) in points.iter().enumerate() {
        for (own_start, own_along) in box_edges(half).filter(|edge| edge.1 != Vec3::ZERO) {
            let start = point + own_start;
            if !is_near(start, own_along) {
                continue;
            }
            if let Some((time, (normal, fraction))) =
                touch_edge_with_end(ray.from - start, own_along, ray).at()
            {
                offer(time, normal, start + own_along * fraction, (number, false));
            }
        }
    }
    let n = points.len();
    for i in 0..n {
        let along = points[(i + 1) % n] - points[i];
        for corner in box_corners(half) {
            let start = points[i] + corner;
            if !is_near(start, along) {
                continue;
            }
            if let Some((time, (normal, fraction))) = touch_edge_with_end(ray.from - start, along, ray).at() {
                offer(time, normal, start + along * fraction, (i, true));
            }
        }
    }
    best.map(|(time, normal, point, number, edge)| {
        (Touch { time, normal, face: normal, point, edge: true, depth: 0.0 }, number, edge)
    })
}
