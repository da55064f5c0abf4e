//! Balls and capsules: hulls whose core is a point or an upright segment.
//!
//! Such a hull touches a flat facet in one of these forms, tried from the most to the least likely:
//! an end of the core above the inside of the facet; the upright side against an edge; a round end
//! against an edge; the side or a round end against a corner. Each is a ray against a plane, a
//! cylinder or a ball.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec3;

use crate::space::TINY;

use super::facet::{EDGE_SLACK, Facet, Place};
use super::fence::{Course, EDGES};
use super::{Core, Gap, Obstacle, Patch, Ray, Reach, Touch, more_upward, reach_round};

/// Returns true if a core is a point or an upright segment.
pub(super) fn is_upright(core: &Core<Vec3>) -> bool {
    core.half.x == 0.0 && core.half.z == 0.0
}

impl Facet<'_> {
    /// The touch of a ball or capsule with a facet whose plane it reaches.
    #[inline(never)]
    pub(super) fn touch_upright(
        patch: &Patch<Vec3>,
        obstacle: &Obstacle<Vec3>,
        place: &Place,
        ray: &Ray<Vec3>,
        limit: f32,
    ) -> Option<Touch<Vec3>> {
        let (facet, half) = (Facet::of(patch, obstacle), patch.core.half.y);
        let course = facet.fence.course(ray);
        if facet.any_course(&course, ray, |course| course.passes(half, ray.reach)) {
            return None;
        }
        let at_once = || {
            let gap = facet.gap_upright_within(half, ray.from, ray.reach)?;
            (gap.distance <= ray.reach).then(|| gap.touch(ray)).flatten()
        };
        let &Place { normal, distance, .. } = place;
        let inside = facet.is_seen_from_inside(normal);
        if place.beyond > 0.0 {
            if !inside && let Some(touch) = facet.touch_face(place, &course, half, ray) {
                return Some(touch);
            }
        } else if !inside {
            // Near the plane: within reach at once if over the inside.
            let end = if normal.y >= 0.0 { -half } else { half };
            let height = distance - (normal.y * half).abs();
            if height < 0.0 {
                if let Some(touch) = at_once() {
                    return Some(touch);
                }
            } else if facet.is_below(&course, ray, end, 0.0) {
                let point = ray.from + Vec3::Y * end - normal * height;
                return Gap { distance: height, normal, point, face: normal, edge: false }.touch(ray);
            }
        }
        let rim = facet.touch_rim_upright(normal, &course, half, ray, limit);
        let within = if rim.within && !inside { at_once() } else { None };
        within.or(rim.touch)
    }

    /// Returns true if a point of the core, `end` above its centre, is over the inside of the facet
    /// after `time`.
    #[inline]
    fn is_below(&self, course: &Course, ray: &Ray<Vec3>, end: f32, time: f32) -> bool {
        !self.any_course(course, ray, |course| course.is_outside(end, time, EDGE_SLACK))
    }

    /// Returns true if `test` holds for the motion along any of the edges. `first` is the motion
    /// along the first four.
    #[inline]
    fn any_course(&self, first: &Course, ray: &Ray<Vec3>, test: impl Fn(&Course) -> bool) -> bool {
        test(first) || self.further_fences().any(|fence| test(&fence.course(ray)))
    }

    /// The touch of the nearer end of the core with the inside of the facet; of both ends if the
    /// facet is upright.
    #[inline]
    fn touch_face(&self, place: &Place, course: &Course, half: f32, ray: &Ray<Vec3>) -> Option<Touch<Vec3>> {
        /// Facets within 0.06 degrees of upright are tested with both ends.
        const UPRIGHT: f32 = 1e-3;
        let &Place { normal, distance, approach, .. } = place;
        let lower = if normal.y >= 0.0 { -half } else { half };
        let ends = [lower, -lower];
        let count = if normal.y.abs() < UPRIGHT && half > 0.0 { 2 } else { 1 };
        ends[..count].iter().find_map(|&end| {
            let time = (distance + normal.y * end - ray.reach) / approach;
            if time > 1.0 || !self.is_below(course, ray, end, time) {
                return None;
            }
            let point = ray.from + Vec3::Y * end + ray.motion * time - normal * ray.reach;
            Some(Touch { time, normal, face: normal, point, edge: false, depth: 0.0 })
        })
    }

    /// The touch of a ball or capsule with the facet's edges and corners.
    fn touch_rim_upright(&self, face: Vec3, course: &Course, half: f32, ray: &Ray<Vec3>, limit: f32) -> Rim {
        let mut rim = Rim { limit, touch: None, within: false, face };
        let to = ray.from + ray.motion;
        let reach = Vec3::splat(ray.reach);
        let (least, most) = (ray.from.min(to) - reach, ray.from.max(to) + reach);
        // Only the lower end can touch a facet that is lower than the centre of that end.
        let is_low = self.top < ray.from.y.min(to.y) - half;
        let n = self.points.len();
        let (height, rising) = (self.normal.dot(ray.from - self.points[0]), self.normal.dot(ray.motion));
        let hides = self.hidden_over(height, rising, half);
        let mut outside = [0; 2];
        for i in 0..n {
            if i % EDGES == 0 {
                // A round end can only touch an edge where its centre is outside of the facet,
                // beyond that edge.
                let beyond = |course: &Course| [-half, half].map(|end| course.beyond(end, -EDGE_SLACK));
                outside = if i == 0 { beyond(course) } else { beyond(&self.fence_from(i).course(ray)) };
            }
            let [lower, upper] = outside.map(|edges| edges >> (i % EDGES) & 1 == 1);
            let hidden = hides >> (i & 7) & 1 == 1;
            if is_low && (hidden || !lower) {
                continue;
            }
            let hidden_before = hides >> ((if i == 0 { n - 1 } else { i - 1 }) & 7) & 1 == 1;
            if hidden && (hidden_before || half == 0.0) {
                continue;
            }
            let (start, along) = self.edge(i);
            let end = start + along;
            let (low, high) = (start.min(end), start.max(end));
            if (low.x > most.x) | (high.x < least.x) | (low.z > most.z) | (high.z < least.z) {
                continue;
            }
            // Which of the core's ends, and its side between them, reach the edge's height.
            let at_lower = (low.y <= most.y - half) & (high.y >= least.y - half);
            let at_upper = (half > 0.0) & (low.y <= most.y + half) & (high.y >= least.y + half);
            let beside =
                (half > 0.0) & (high.y >= least.y + ray.reach - half) & (low.y <= most.y - ray.reach + half);
            let arm = ray.from - start;
            for (near, end) in [(at_lower & lower & !hidden, -half), (at_upper & upper & !hidden, half)] {
                if near {
                    let met = touch_edge_with_end(arm + Vec3::Y * end, along, ray);
                    rim.offer(met.map(|(normal, fraction)| (normal, start + along * fraction)));
                }
            }
            if beside && !hidden {
                rim.offer(touch_edge_with_side(start, along, half, ray));
            }
            if beside {
                rim.offer(touch_side(arm, half, ray).map(|normal| (normal, start)));
            }
        }
        rim
    }
}

/// The earliest touch of a rim so far.
struct Rim {
    limit: f32,
    touch: Option<Touch<Vec3>>,
    /// True if some part of it is within reach from the start.
    within: bool,
    face: Vec3,
}

impl Rim {
    /// Takes a touch with its normal and point, if it is the earliest.
    #[inline]
    fn offer(&mut self, met: Met<(Vec3, Vec3)>) {
        match met {
            Met::At(time, (normal, point)) if time <= self.limit => {
                self.limit = time;
                let face = more_upward(normal, self.face);
                self.touch = Some(Touch { time, normal, face, point, edge: true, depth: 0.0 });
            }
            Met::Within => self.within = true,
            _ => {}
        }
    }
}

/// How a part of a hull touches a part of an obstacle on its path.
#[derive(Clone, Copy, Debug)]
pub(super) enum Met<T> {
    Never,
    /// The fraction of the path, and details.
    At(f32, T),
    /// The two are within reach from the start.
    Within,
}

impl<T> Met<T> {
    pub(super) fn at(self) -> Option<(f32, T)> {
        match self {
            Self::At(time, what) => Some((time, what)),
            _ => None,
        }
    }

    pub(super) fn map<U>(self, f: impl FnOnce(T) -> U) -> Met<U> {
        match self {
            Self::Never => Met::Never,
            Self::At(time, what) => Met::At(time, f(what)),
            Self::Within => Met::Within,
        }
    }
}

/// The touch of the upright side of a capsule with a point `arm` away from its centre: the normal.
#[inline]
pub(super) fn touch_side(arm: Vec3, half: f32, ray: &Ray<Vec3>) -> Met<Vec3> {
    if half <= 0.0 {
        return Met::Never;
    }
    let flat = |v: Vec3| Vec3::new(v.x, 0.0, v.z);
    match reach_round(flat(arm), flat(ray.motion), ray.reach) {
        Reach::Within if arm.y.abs() <= half => Met::Within,
        Reach::At(time) => {
            let at = arm + ray.motion * time;
            if at.y.abs() <= half { Met::At(time, flat(at) * (1.0 / ray.reach)) } else { Met::Never }
        }
        _ => Met::Never,
    }
}

/// The touch of a round end of a capsule with a point `arm` away from its centre: the normal.
#[inline]
pub(super) fn touch_end(arm: Vec3, end: f32, ray: &Ray<Vec3>) -> Met<Vec3> {
    let arm = arm + Vec3::Y * end;
    match reach_round(arm, ray.motion, ray.reach) {
        Reach::Never => Met::Never,
        Reach::Within => Met::Within,
        Reach::At(time) => Met::At(time, (arm + ray.motion * time) * (1.0 / ray.reach)),
    }
}

/// The touch of the upright side of a capsule with an edge, as a ray against the upright
/// parallelogram over the edge: the normal and the touched point.
#[inline]
pub(super) fn touch_edge_with_side(
    start: Vec3,
    along: Vec3,
    half: f32,
    ray: &Ray<Vec3>,
) -> Met<(Vec3, Vec3)> {
    let width = along.x * along.x + along.z * along.z;
    if width <= TINY * TINY {
        return Met::Never;
    }
    let arm = ray.from - start;
    let normal = Vec3::new(-along.z, 0.0, along.x) * (1.0 / width.sqrt());
    let normal = if normal.dot(arm) < 0.0 { -normal } else { normal };
    let approach = -normal.dot(ray.motion);
    let beyond = normal.dot(arm) - ray.reach;
    let touched = |time: f32| {
        let at = arm + ray.motion * time;
        let fraction = (at.x * along.x + at.z * along.z) / width;
        let on_side = (0.0..=1.0).contains(&fraction) && (at.y - fraction * along.y).abs() <= half;
        on_side.then_some((normal, start + along * fraction))
    };
    if beyond <= 0.0 {
        return if touched(0.0).is_some() { Met::Within } else { Met::Never };
    }
    if approach <= 0.0 || beyond > approach {
        return Met::Never;
    }
    let time = beyond / approach;
    touched(time).map_or(Met::Never, |what| Met::At(time, what))
}

/// The touch of a ball `arm` away from the start of an edge with the edge and its ends: the normal
/// and the fraction along the edge.
///
/// Whatever comes within reach of an end comes within reach of the whole line first. If that is
/// beyond an end, only that end can be touched.
#[inline]
pub(super) fn touch_edge_with_end(arm: Vec3, along: Vec3, ray: &Ray<Vec3>) -> Met<(Vec3, f32)> {
    let fraction_at = |at: Vec3| at.dot(along) * (1.0 / along.length_squared());
    let across = |v: Vec3| v - along * fraction_at(v);
    let met = reach_round(across(arm), across(ray.motion), ray.reach);
    let at = match met {
        Reach::Never => return Met::Never,
        Reach::Within => arm,
        Reach::At(time) => arm + ray.motion * time,
    };
    let fraction = fraction_at(at);
    if !(0.0..=1.0).contains(&fraction) {
        let end = if fraction < 0.0 { 0.0 } else { 1.0 };
        return touch_end(arm - along * end, 0.0, ray).map(|normal| (normal, end));
    }
    match met {
        Reach::At(time) => Met::At(time, ((at - along * fraction) * (1.0 / ray.reach), fraction)),
        _ => Met::Within,
    }
}
