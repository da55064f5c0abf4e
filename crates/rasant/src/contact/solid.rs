//! Contact in space.
//!
//! A hull with a point or an upright segment for a core, a ball or capsule,
//! meets a flat facet in one of these ways, tried from the likeliest to the
//! rarest: an end of the core above the inside of the facet; the upright side
//! against an edge; a round end against an edge; the side or a round end
//! against a corner. Each is a ray against a plane, a cylinder or a ball.
//!
//! A box for a core is met through the axes along which it and the facet can
//! be apart: the facet's normal, the box's own three, and the products of
//! their edges. Cutting the motion by each of them gives the sum with sharp
//! edges exactly; a rounded one is then met on the balls and cylinders round
//! the sum's corners and edges.

use glam::Vec3;
use smallvec::SmallVec;

use crate::level::{Seams, Shape, Tag};
use crate::space::Bounds;

use super::fence::{Course, EDGES, Fence};
use super::{
    Core, Gap, Geometry, Obstacle, ObstacleKind, Patch, Ray, Reach, Touch, more_upward, reach_round,
};

/// How far outside its edge, as a share of the edge's length, a point still
/// counts as on a facet.
const EDGE_SLACK: f32 = 1e-5;

impl Geometry for Vec3 {
    #[inline]
    fn collect(patch: &mut Patch<Self>, shape: Shape<'_, Self>, tag: Tag) {
        match shape {
            Shape::Ball { centre, radius } => {
                let centre = patch.seen_from_core(centre);
                let bounds = Bounds { min: centre, max: centre }.widened(Vec3::splat(radius));
                if patch.has_room_for(&bounds) {
                    let obstacle = patch.blank(ObstacleKind::Point, tag);
                    let start = patch.points.len();
                    patch.points.push(centre);
                    patch.add(start, Obstacle { bounds, rounding: radius, ..obstacle });
                }
            }
            Shape::Facet { points, seams } => {
                collect_facet(patch, points, seams, tag);
            }
            Shape::Solid { points, faces } => collect_solid(patch, points, faces, tag),
            Shape::Segment { .. } | Shape::Polygon { .. } => {}
        }
    }

    #[inline]
    fn is_below(patch: &Patch<Self>, obstacle: &Obstacle<Self>, normal: Self, lowest: f32) -> bool {
        patch.points_of(obstacle).iter().all(|point| point.dot(normal) < lowest)
    }

    #[inline(always)] // most facets are found out to be too far away at once
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>> {
        match obstacle.kind {
            ObstacleKind::Point => touch_ball(patch, obstacle, ray, limit),
            ObstacleKind::Facet | ObstacleKind::Face => {
                if !is_upright(&patch.core) {
                    return Facet::of(patch, obstacle).touch_box(patch.core.half, ray, limit);
                }
                let place = Place::over(obstacle, patch.core.half.y, ray);
                let late = place.comes_too_late(limit);
                if late { None } else { Facet::touch_upright(patch, obstacle, &place, ray, limit) }
            }
            ObstacleKind::Solid(_) | ObstacleKind::Outline | ObstacleKind::Block => None,
        }
    }

    #[inline]
    fn gap_within(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self, reach: f32) -> Option<Gap<Self>> {
        let gap = if obstacle.kind == ObstacleKind::Facet && is_upright(&patch.core) {
            let half = patch.core.half.y;
            if Place::over(obstacle, half, &Ray { from: at, motion: Vec3::ZERO, reach }).beyond > 0.0 {
                return None;
            }
            Facet::of(patch, obstacle).gap_upright_within(half, at, reach)?
        } else {
            Self::gap(patch, obstacle, at)
        };
        (gap.distance < reach).then_some(gap)
    }

    fn gap(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self) -> Gap<Self> {
        match obstacle.kind {
            ObstacleKind::Point => gap_to_ball(patch, obstacle, at),
            ObstacleKind::Solid(faces) => gap_to_solid(patch, obstacle, usize::from(faces), at),
            _ => Facet::of(patch, obstacle).gap(&patch.core, at),
        }
    }
}

fn is_upright(core: &Core<Vec3>) -> bool {
    core.half.x == 0.0 && core.half.z == 0.0
}

// ---- collecting ----

#[inline]
fn collect_facet(patch: &mut Patch<Vec3>, world: &[Vec3], seams: Seams, tag: Tag) {
    match world {
        // Nearly all facets there are.
        &[a, b, c] => add_facet(patch, &[a, b, c].map(|point| patch.seen_from_core(point)), seams, tag),
        _ => {
            let local: SmallVec<[Vec3; 8]> = world.iter().map(|&point| patch.seen_from_core(point)).collect();
            add_facet(patch, &local, seams, tag);
        }
    }
}

#[inline(always)] // for triangles, once more
fn add_facet(patch: &mut Patch<Vec3>, points: &[Vec3], seams: Seams, tag: Tag) {
    let bounds = Bounds::around(points);
    if !patch.has_room_for(&bounds) {
        return;
    }
    // A facet without an area stops nothing that its neighbours do not.
    let Some(normal) = normal_of(points) else { return };
    let start = patch.points.len();
    for &point in points {
        patch.points.push(point);
    }
    let blank = patch.blank(ObstacleKind::Facet, tag);
    patch.add(start, Obstacle { bounds, normal, seams, anchor: points[0], ..blank });
}

/// The normal of a flat outline, of length 1: of its first corner with whichever
/// two that follow each other span the most.
#[inline]
fn normal_of(points: &[Vec3]) -> Option<Vec3> {
    let span = |i: usize| (points[i] - points[0]).cross(points[i + 1] - points[0]);
    let mut best = span(1);
    for i in 2..points.len() - 1 {
        let other = span(i);
        if other.length_squared() > best.length_squared() {
            best = other;
        }
    }
    let length = best.length_squared().sqrt();
    (length > 1e-12).then(|| best / length)
}

/// Adds the faces of a solid, all of them, and the solid behind them.
fn collect_solid(patch: &mut Patch<Vec3>, points: &[Vec3], mut faces: &[u8], tag: Tag) {
    let local: SmallVec<[Vec3; 64]> = points.iter().map(|&point| patch.seen_from_core(point)).collect();
    let bounds = Bounds::around(&local);
    if !patch.has_room_for(&bounds) {
        return;
    }
    let mut count = 0;
    while let Some((&corners, rest)) = faces.split_first() {
        let (face, rest) = rest.split_at(usize::from(corners));
        faces = rest;
        let start = patch.points.len();
        patch.points.extend(face.iter().map(|&corner| local[usize::from(corner)]));
        let Some(normal) = normal_of(&patch.points[start..]) else {
            patch.points.truncate(start);
            continue;
        };
        let bounds = Bounds::around(&patch.points[start..]);
        let obstacle = patch.blank(ObstacleKind::Face, tag);
        let anchor = patch.points[start];
        patch.add(start, Obstacle { bounds, normal, anchor, ..obstacle });
        count += 1;
    }
    let start = patch.points.len();
    let whole = patch.blank(ObstacleKind::Solid(count), tag);
    patch.add(start, Obstacle { bounds, ..whole });
}

// ---- balls ----

fn touch_ball(
    patch: &Patch<Vec3>,
    obstacle: &Obstacle<Vec3>,
    ray: &Ray<Vec3>,
    limit: f32,
) -> Option<Touch<Vec3>> {
    let centre = patch.points_of(obstacle)[0];
    let mut touch = if is_upright(&patch.core) {
        let reach = ray.reach + obstacle.rounding;
        touch_corner_upright(centre, patch.core.half.y, &Ray { reach, ..*ray }, limit)?
    } else {
        let gap = gap_to_ball(patch, obstacle, ray.from);
        if gap.distance <= ray.reach {
            return gap.touch(ray);
        }
        let corners = box_corners(patch.core.half).map(|corner| centre + corner);
        touch_box_sum(&[centre], &corners, patch.core.half, ray, obstacle.rounding, limit)?
    };
    touch.point = centre + touch.normal * obstacle.rounding;
    touch.face = touch.normal;
    touch.edge = false;
    Some(touch)
}

fn gap_to_ball(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>, at: Vec3) -> Gap<Vec3> {
    let centre = patch.points_of(obstacle)[0];
    let arm = at - centre;
    let nearest = arm - arm.clamp(-patch.core.half, patch.core.half);
    let length = nearest.length_squared().sqrt();
    let normal = if length > 1e-9 { nearest * (1.0 / length) } else { Vec3::Y };
    Gap {
        distance: length - obstacle.rounding,
        normal,
        point: centre + normal * obstacle.rounding,
        face: normal,
        edge: false,
    }
}

/// A ball or capsule against a point.
fn touch_corner_upright(corner: Vec3, half: f32, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
    let arm = ray.from - corner;
    let off = arm - Vec3::Y * arm.y.clamp(-half, half);
    let distance = off.length_squared().sqrt();
    if distance <= ray.reach {
        let normal = if distance > 1e-9 { off * (1.0 / distance) } else { Vec3::Y };
        let gap = Gap { distance, normal, point: corner, face: normal, edge: true };
        return gap.touch(ray);
    }
    let (time, normal) = [touch_side(arm, half, ray), touch_end(arm, half, ray), touch_end(arm, -half, ray)]
        .into_iter()
        .filter_map(Met::at)
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .filter(|&(time, _)| time <= limit)?;
    Some(Touch { time, normal, face: normal, point: corner, edge: true, depth: 0.0 })
}

/// How a part of a hull meets a part of an obstacle on its way.
#[derive(Clone, Copy, Debug)]
enum Met<T> {
    Never,
    /// The share of the way, and the particulars.
    At(f32, T),
    /// The two are within reach from the start.
    Within,
}

impl<T> Met<T> {
    fn at(self) -> Option<(f32, T)> {
        match self {
            Self::At(time, what) => Some((time, what)),
            _ => None,
        }
    }

    fn map<U>(self, f: impl FnOnce(T) -> U) -> Met<U> {
        match self {
            Self::Never => Met::Never,
            Self::At(time, what) => Met::At(time, f(what)),
            Self::Within => Met::Within,
        }
    }
}

/// The upright side of a capsule against a point `arm` away from its centre:
/// the normal.
#[inline]
fn touch_side(arm: Vec3, half: f32, ray: &Ray<Vec3>) -> Met<Vec3> {
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

/// A round end of a capsule against a point `arm` away from its centre: the
/// normal.
#[inline]
fn touch_end(arm: Vec3, end: f32, ray: &Ray<Vec3>) -> Met<Vec3> {
    let arm = arm + Vec3::Y * end;
    match reach_round(arm, ray.motion, ray.reach) {
        Reach::Never => Met::Never,
        Reach::Within => Met::Within,
        Reach::At(time) => Met::At(time, (arm + ray.motion * time) * (1.0 / ray.reach)),
    }
}

// ---- facets ----

/// Where a ball or capsule starts over the plane of a facet, and how it moves.
struct Place {
    /// The facet's normal on the side of the core's centre.
    normal: Vec3,
    /// The centre's distance from the plane.
    distance: f32,
    /// How far the hull is from the plane, less than its reach; below 0 within it.
    beyond: f32,
    /// How far the motion takes it toward the plane.
    approach: f32,
}

impl Place {
    #[inline]
    fn over(facet: &Obstacle<Vec3>, half: f32, ray: &Ray<Vec3>) -> Self {
        let distance = facet.normal.dot(ray.from - facet.anchor);
        let side = if distance >= 0.0 { 1.0 } else { -1.0 };
        let (normal, distance) = (facet.normal * side, distance.abs());
        let beyond = distance - (normal.y * half).abs() - ray.reach;
        Self { normal, distance, beyond, approach: -normal.dot(ray.motion) }
    }

    /// Whether the plane is not reached before `limit`. All of the facet lies
    /// behind its plane: nothing of it is touched before the plane is.
    #[inline]
    fn comes_too_late(&self, limit: f32) -> bool {
        self.beyond > 0.0 && (self.approach <= 0.0 || self.beyond > self.approach * limit)
    }
}

struct Facet<'a> {
    points: &'a [Vec3],
    /// Its first edges; the others, if there are any, are fenced in as needed.
    fence: Fence,
    normal: Vec3,
    seams: Seams,
    /// How high it comes.
    top: f32,
    /// Only touched from in front.
    outward: bool,
}

impl<'a> Facet<'a> {
    #[inline]
    fn of(patch: &'a Patch<Vec3>, obstacle: &Obstacle<Vec3>) -> Self {
        let points = patch.points_of(obstacle);
        Self {
            points,
            fence: Fence::of(points, 0, obstacle.normal),
            normal: obstacle.normal,
            seams: obstacle.seams,
            top: obstacle.bounds.max.y,
            outward: obstacle.kind == ObstacleKind::Face,
        }
    }

    /// The facet's normal on the side of `at`, and the distance from its plane.
    #[inline]
    fn side(&self, at: Vec3) -> (Vec3, f32) {
        let distance = self.normal.dot(at - self.points[0]);
        if distance >= 0.0 { (self.normal, distance) } else { (-self.normal, -distance) }
    }

    /// Whether `at` is behind a face of a solid. Such a face stops nothing with
    /// its inside, but its rim may still be met from where its neighbours are.
    #[inline]
    fn is_seen_from_inside(&self, normal: Vec3) -> bool {
        self.outward && normal.dot(self.normal) < 0.0
    }

    fn edges(&self) -> impl Iterator<Item = (usize, Vec3, Vec3)> {
        (0..self.points.len()).map(|i| {
            let (start, along) = self.edge(i);
            (i, start, along)
        })
    }

    /// Where an edge starts, and how it goes on.
    #[inline]
    fn edge(&self, i: usize) -> (Vec3, Vec3) {
        let next = if i + 1 == self.points.len() { 0 } else { i + 1 };
        (self.points[i], self.points[next] - self.points[i])
    }

    /// Whether a point of the facet's plane is within its outline.
    #[inline]
    fn holds(&self, point: Vec3) -> bool {
        !self.fence.excludes(point, EDGE_SLACK)
            && !(EDGES..self.points.len())
                .step_by(EDGES)
                .any(|edge| self.fence_from(edge).excludes(point, EDGE_SLACK))
    }

    /// A ball or capsule against a facet whose plane it comes to.
    #[inline(never)]
    fn touch_upright(
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

    /// Whether a point of the core, `end` above its centre, is over the inside
    /// of the facet after `time`.
    #[inline]
    fn is_below(&self, course: &Course, ray: &Ray<Vec3>, end: f32, time: f32) -> bool {
        !self.any_course(course, ray, |course| course.is_outside(end, time, EDGE_SLACK))
    }

    /// Whether something is true of the way along any of the edges; `first` is
    /// that along the first of them.
    #[inline]
    fn any_course(&self, first: &Course, ray: &Ray<Vec3>, test: impl Fn(&Course) -> bool) -> bool {
        test(first)
            || (EDGES..self.points.len()).step_by(EDGES).any(|edge| test(&self.fence_from(edge).course(ray)))
    }

    #[inline(never)]
    fn fence_from(&self, edge: usize) -> Fence {
        Fence::of(self.points, edge, self.normal)
    }

    /// The end of the core that is nearer to the plane against the inside of
    /// the facet; both ends when the facet is upright.
    #[inline]
    fn touch_face(&self, place: &Place, course: &Course, half: f32, ray: &Ray<Vec3>) -> Option<Touch<Vec3>> {
        /// Facets within 0.06 degrees of upright are tried with both ends.
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

    /// A ball or capsule against the facet's edges and corners.
    fn touch_rim_upright(&self, face: Vec3, course: &Course, half: f32, ray: &Ray<Vec3>, limit: f32) -> Rim {
        let mut rim = Rim { limit, touch: None, within: false, face };
        let to = ray.from + ray.motion;
        let reach = Vec3::splat(ray.reach);
        let (least, most) = (ray.from.min(to) - reach, ray.from.max(to) + reach);
        // Only the lower end comes to a facet that is lower than that end's middle.
        let is_low = self.top < ray.from.y.min(to.y) - half;
        let n = self.points.len();
        let mut outside = [0; 2];
        for i in 0..n {
            if i % EDGES == 0 {
                // A round end can only touch the edge where its centre is off
                // the facet, beyond that edge.
                let beyond = |course: &Course| [-half, half].map(|end| course.beyond(end, -EDGE_SLACK));
                outside = if i == 0 { beyond(course) } else { beyond(&self.fence_from(i).course(ray)) };
            }
            let [lower, upper] = outside.map(|edges| edges >> (i % EDGES) & 1 == 1);
            let hidden = self.seams.hides(i);
            if is_low && (hidden || !lower) {
                continue;
            }
            let hidden_before = self.seams.hides(if i == 0 { n - 1 } else { i - 1 });
            if hidden && (hidden_before || half == 0.0) {
                continue;
            }
            let (start, along) = self.edge(i);
            let end = start + along;
            let (low, high) = (start.min(end), start.max(end));
            if (low.x > most.x) | (high.x < least.x) | (low.z > most.z) | (high.z < least.z) {
                continue;
            }
            // Which of the core's ends, and its side between them, come to the
            // edge's height.
            let at_lower = (low.y <= most.y - half) & (high.y >= least.y - half);
            let at_upper = (half > 0.0) & (low.y <= most.y + half) & (high.y >= least.y + half);
            let beside =
                (half > 0.0) & (high.y >= least.y + ray.reach - half) & (low.y <= most.y - ray.reach + half);
            let arm = ray.from - start;
            for (near, end) in [(at_lower & lower & !hidden, -half), (at_upper & upper & !hidden, half)] {
                if near {
                    let met = touch_edge_with_end(arm + Vec3::Y * end, along, ray);
                    rim.offer(met.map(|(normal, share)| (normal, start + along * share)));
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

    fn gap(&self, core: &Core<Vec3>, at: Vec3) -> Gap<Vec3> {
        if is_upright(core) { self.gap_upright(core.half.y, at) } else { self.gap_to_box(core.half, at) }
    }

    /// The gap to an upright segment.
    fn gap_upright(&self, half: f32, at: Vec3) -> Gap<Vec3> {
        self.gap_upright_within(half, at, f32::INFINITY).unwrap_or(Gap {
            distance: f32::INFINITY,
            normal: self.normal,
            point: self.points[0],
            face: self.normal,
            edge: true,
        })
    }

    /// The gap to an upright segment, unless it is certainly more than `reach`.
    fn gap_upright_within(&self, half: f32, at: Vec3, reach: f32) -> Option<Gap<Vec3>> {
        let (normal, distance) = self.side(at);
        let rise = normal.y * half;
        if distance - rise.abs() > reach {
            return None;
        }
        if distance < rise.abs() {
            // The core crosses the plane; within the facet, the way out is the
            // way its centre is.
            let crossing = at - Vec3::Y * (distance / normal.y);
            if self.holds(crossing) {
                let distance = distance - rise.abs();
                return Some(Gap { distance, normal, point: crossing, face: normal, edge: false });
            }
        }
        let mut best: Option<Gap<Vec3>> = None;
        let mut offer = |gap: Gap<Vec3>| best = Some(best.map_or(gap, |held| held.nearer(gap)));
        // The end that is nearer to the plane, over the inside of the facet, is
        // nearest of all.
        let nearer = if normal.y >= 0.0 { -half } else { half };
        for end in [nearer, -nearer] {
            let distance = distance + normal.y * end;
            let point = at + Vec3::Y * end - normal * distance;
            if distance >= 0.0 && distance <= reach && self.holds(point) {
                let gap = Gap { distance, normal, point, face: normal, edge: false };
                if end == nearer {
                    return Some(gap);
                }
                offer(gap);
            }
        }
        let around = Bounds { min: at, max: at }.widened(Vec3::new(reach, reach + half, reach));
        for (i, start, along) in self.edges() {
            let end = start + along;
            let bounds = Bounds { min: start.min(end), max: start.max(end) };
            // A hidden edge is as near to the facet beyond.
            if self.seams.hides(i) || !bounds.overlaps(&around) {
                continue;
            }
            let own = at - Vec3::Y * half;
            let (own, point) = nearest_of_segments(own, Vec3::Y * (2.0 * half), start, along);
            offer(gap_between(own, point, normal));
        }
        best
    }
}

/// The earliest touch of a rim so far.
struct Rim {
    limit: f32,
    touch: Option<Touch<Vec3>>,
    /// Whether some part of it is within reach from the start.
    within: bool,
    face: Vec3,
}

impl Rim {
    /// Takes a meeting with its normal and the touched point.
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

/// The gap between two nearest points, beside a face with `normal`.
fn gap_between(own: Vec3, point: Vec3, face: Vec3) -> Gap<Vec3> {
    let off = own - point;
    let distance = off.length_squared().sqrt();
    let normal = if distance > 1e-9 { off * (1.0 / distance) } else { face };
    Gap { distance, normal, point, face: more_upward(normal, face), edge: true }
}

/// The upright side of a capsule against an edge, a ray against the upright
/// parallelogram over the edge: the normal and the touched point.
#[inline]
fn touch_edge_with_side(start: Vec3, along: Vec3, half: f32, ray: &Ray<Vec3>) -> Met<(Vec3, Vec3)> {
    let width = along.x * along.x + along.z * along.z;
    if width < 1e-12 {
        return Met::Never;
    }
    let arm = ray.from - start;
    let normal = Vec3::new(-along.z, 0.0, along.x) * (1.0 / width.sqrt());
    let normal = if normal.dot(arm) < 0.0 { -normal } else { normal };
    let approach = -normal.dot(ray.motion);
    let beyond = normal.dot(arm) - ray.reach;
    let touched = |time: f32| {
        let at = arm + ray.motion * time;
        let share = (at.x * along.x + at.z * along.z) / width;
        let on_side = (0.0..=1.0).contains(&share) && (at.y - share * along.y).abs() <= half;
        on_side.then_some((normal, start + along * share))
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

/// A ball `arm` away from the start of an edge against the edge and its ends:
/// the normal and the share of the edge.
///
/// Whatever comes within reach of an end comes within reach of the whole line
/// first; where that is beyond an end, that end is the only one to be met.
#[inline]
fn touch_edge_with_end(arm: Vec3, along: Vec3, ray: &Ray<Vec3>) -> Met<(Vec3, f32)> {
    let share_at = |at: Vec3| at.dot(along) * (1.0 / along.length_squared());
    let across = |v: Vec3| v - along * share_at(v);
    let met = reach_round(across(arm), across(ray.motion), ray.reach);
    let at = match met {
        Reach::Never => return Met::Never,
        Reach::Within => arm,
        Reach::At(time) => arm + ray.motion * time,
    };
    let share = share_at(at);
    if !(0.0..=1.0).contains(&share) {
        let end = if share < 0.0 { 0.0 } else { 1.0 };
        return touch_end(arm - along * end, 0.0, ray).map(|normal| (normal, end));
    }
    match met {
        Reach::At(time) => Met::At(time, ((at - along * share) * (1.0 / ray.reach), share)),
        _ => Met::Within,
    }
}

/// The nearest points of two segments, each given by its start and its whole
/// length; after C. Ericson, "Real-Time Collision Detection", 2005, 5.1.9.
fn nearest_of_segments(p: Vec3, d: Vec3, q: Vec3, e: Vec3) -> (Vec3, Vec3) {
    let r = p - q;
    let (dd, ee) = (d.length_squared(), e.length_squared());
    let er = e.dot(r);
    let share_on = |x: f32, y: f32| if y > 1e-12 { (x / y).clamp(0.0, 1.0) } else { 0.0 };
    let (s, t);
    if dd <= 1e-12 {
        s = 0.0;
        t = share_on(er, ee);
    } else {
        let dr = d.dot(r);
        if ee <= 1e-12 {
            t = 0.0;
            s = share_on(-dr, dd);
        } else {
            let de = d.dot(e);
            let apart = dd * ee - de * de;
            let first = if apart > 1e-7 * dd * ee { share_on(de * er - dr * ee, apart) } else { 0.0 };
            let other = (de * first + er) / ee;
            t = other.clamp(0.0, 1.0);
            s = if other == t { first } else { share_on(de * t - dr, dd) };
        }
    }
    (p + d * s, q + e * t)
}

// ---- solids ----

fn gap_to_solid(patch: &Patch<Vec3>, solid: &Obstacle<Vec3>, count: usize, at: Vec3) -> Gap<Vec3> {
    let end = patch
        .obstacles
        .iter()
        .position(|other| other.kind == solid.kind && other.points == solid.points)
        .unwrap_or(0);
    let faces = &patch.obstacles[end - count..end];
    let half = patch.core.half;
    // Inside, the way out is through the face that is passed soonest.
    let mut out = f32::NEG_INFINITY;
    let mut way = Vec3::Y;
    let mut nearest: Option<Gap<Vec3>> = None;
    for face in faces {
        let first = patch.points_of(face)[0];
        let distance = face.normal.dot(at - first) - face.normal.abs().dot(half);
        if distance > out {
            (out, way) = (distance, face.normal);
        }
        let facet = Facet::of(patch, face);
        if face.normal.dot(at - first) >= 0.0 || distance < 0.0 {
            let gap = facet.gap(&patch.core, at);
            nearest = Some(nearest.map_or(gap, |held| held.nearer(gap)));
        }
    }
    let centre_inside = faces.iter().all(|face| face.normal.dot(at - patch.points_of(face)[0]) <= 0.0);
    match nearest {
        Some(gap) if !centre_inside && gap.distance > 0.0 => gap,
        _ => Gap {
            distance: out.min(0.0),
            normal: way,
            point: at - way * (out + way.abs().dot(half)),
            face: way,
            edge: false,
        },
    }
}

// ---- boxes for a core ----

fn box_corners(half: Vec3) -> [Vec3; 8] {
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
    fn touch_box(&self, half: Vec3, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
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

    fn gap_to_box(&self, half: Vec3, at: Vec3) -> Gap<Vec3> {
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
fn touch_box_sum(
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
