//! Contact in two dimensions.
//!
//! Each polygon or segment is summed with the hull's core once, when it is gathered. The sum is
//! again a small convex polygon, and the hull is then a point with a radius. A ray touches such a
//! rounded polygon on one of its edges, offset by the radius, or on the disc around one of its
//! corners.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec2;
use smallvec::SmallVec;

use crate::level::{Shape, Sides, Tag};
use crate::space::{Bounds, TINY};

use super::block::Block;
use super::{
    Core, Gap, Geometry, Obstacle, ObstacleKind, Patch, Ray, Reach, Touch, more_upward, reach_round,
};

/// The number of corners that fit without the heap.
const CORNERS: usize = 1024;

/// A corner of an outline, which is the sum of a piece and the core.
#[derive(Clone, Copy, Debug)]
pub struct Corner {
    /// Its position.
    at: Vec2,
    /// The outward normal of the edge after it.
    normal: Vec2,
    /// The corner of the piece that it comes from.
    anchor: Vec2,
}

impl Geometry for Vec2 {
    type Corner = Corner;
    type Room = [Corner; CORNERS];

    /// Outlines are summed with the core when they are gathered.
    #[inline]
    fn beside_obstacles(_core: &Core<Self>) -> Self {
        Vec2::ZERO
    }

    #[inline]
    fn collect(patch: &mut Patch<Self>, shape: Shape<'_, Self>, tag: Tag) {
        let mut obstacle = patch.blank(ObstacleKind::Outline, tag);
        match shape {
            Shape::Ball { centre, radius } => {
                obstacle.rounding = radius;
                collect_sum(patch, &[centre], obstacle);
            }
            Shape::Capsule { ends, radius } => {
                obstacle.rounding = radius;
                collect_sum(patch, &ends, obstacle);
            }
            Shape::Segment { ends, sides } => {
                if sides == Sides::Left {
                    let left = (ends[1] - ends[0]).perp().normalize_or_zero();
                    obstacle.front = patch.frame.local(left);
                }
                collect_sum(patch, &ends, obstacle);
            }
            Shape::Polygon { points, rounding } => {
                if rounding != 0.0 || !collect_block(patch, points, tag) {
                    obstacle.rounding = rounding;
                    collect_sum(patch, points, obstacle);
                }
            }
            Shape::Facet { .. } | Shape::Solid { .. } | Shape::Mesh { .. } => {}
        }
    }

    #[inline]
    fn collect_block(patch: &mut Patch<Self>, min: Self, max: Self, tag: Tag) {
        if !patch.frame.is_aligned() {
            return Shape::block(min, max, |shape| Self::collect(patch, shape, tag));
        }
        let (min, max) = (patch.seen_from_core(min), patch.seen_from_core(max));
        add_block(patch, Bounds { min, max }, 0.0, tag);
    }

    fn collect_round_block(patch: &mut Patch<Self>, own: Bounds<Self>, rounding: f32, tag: Tag) {
        add_block(patch, own, rounding, tag);
    }

    #[inline]
    fn is_below(patch: &Patch<Self>, obstacle: &Obstacle<Self>, normal: Self, lowest: f32) -> bool {
        match obstacle.kind {
            ObstacleKind::Block => block_of(patch, obstacle).is_below(normal, lowest),
            _ => patch.corners_of(obstacle).iter().all(|corner| corner.at.dot(normal) < lowest),
        }
    }

    #[inline]
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>> {
        if obstacle.kind == ObstacleKind::Block && obstacle.rounding == 0.0 {
            return block_of(patch, obstacle).touch(ray, limit);
        }
        if obstacle.kind == ObstacleKind::Block {
            return touch_round_block(patch, obstacle, ray, limit);
        }
        let outline = Outline::of(patch, obstacle);
        let reach = ray.reach + obstacle.rounding;
        let mut touch = outline.touch(&Ray { reach, ..*ray }, limit)?;
        touch.point += touch.normal * obstacle.rounding;
        if touch.edge && outline.is_round(patch, obstacle) {
            (touch.edge, touch.face) = (false, touch.normal);
        }
        Some(touch)
    }

    fn gap(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self) -> Gap<Self> {
        if obstacle.kind == ObstacleKind::Block {
            let mut gap = block_of(patch, obstacle).gap(at);
            gap.distance -= obstacle.rounding;
            gap.point += gap.normal * obstacle.rounding;
            if gap.edge && patch.is_round(obstacle) {
                (gap.edge, gap.face) = (false, gap.normal);
            }
            return gap;
        }
        let outline = Outline::of(patch, obstacle);
        let mut gap = outline.gap(at, outline.furthest_edge(at));
        gap.distance -= obstacle.rounding;
        gap.point += gap.normal * obstacle.rounding;
        if gap.edge && outline.is_round(patch, obstacle) {
            (gap.edge, gap.face) = (false, gap.normal);
        }
        gap
    }
}

/// The sum of a box without its rounding and the core.
fn block_of(patch: &Patch<Vec2>, obstacle: &Obstacle<Vec2>) -> Block {
    if obstacle.rounding == 0.0 {
        return Block::of(&obstacle.bounds, patch.core.half);
    }
    Block::of(&obstacle.bounds.widened(Vec2::splat(-obstacle.rounding)), patch.core.half)
}

/// The touch with a rounded box: as without the rounding, from further away.
#[inline(never)]
fn touch_round_block(
    patch: &Patch<Vec2>,
    obstacle: &Obstacle<Vec2>,
    ray: &Ray<Vec2>,
    limit: f32,
) -> Option<Touch<Vec2>> {
    let reach = ray.reach + obstacle.rounding;
    let mut touch = block_of(patch, obstacle).touch(&Ray { reach, ..*ray }, limit)?;
    touch.point += touch.normal * obstacle.rounding;
    if touch.edge && patch.is_round(obstacle) {
        (touch.edge, touch.face) = (false, touch.normal);
    }
    Some(touch)
}

/// The sum of a piece and the core: corners counter-clockwise, each with the outward normal of the
/// edge after it. A single corner has no edges.
struct Outline<'a> {
    corners: &'a [Corner],
}

/// The feature of an outline that a point is beside.
enum Beside {
    /// An edge, by its number, and the position along it times its length.
    Edge(usize, f32),
    /// A corner, by its number.
    Corner(usize),
}

impl<'a> Outline<'a> {
    #[inline]
    fn of(patch: &'a Patch<Vec2>, obstacle: &Obstacle<Vec2>) -> Self {
        Self { corners: patch.corners_of(obstacle) }
    }

    /// Returns true if the round side of a corner counts as a face of its own, not as an edge.
    fn is_round(&self, patch: &Patch<Vec2>, obstacle: &Obstacle<Vec2>) -> bool {
        self.corners.len() == 1 || patch.is_round(obstacle)
    }

    fn touch(&self, ray: &Ray<Vec2>, limit: f32) -> Option<Touch<Vec2>> {
        if self.corners.len() == 1 {
            return self.touch_corner(0, ray, limit);
        }
        // The polygon with its edges offset and its corners still sharp: what misses it misses the
        // rounded one.
        let (mut enter, mut leave) = (-1.0f32, f32::INFINITY);
        let mut entered = 0;
        let mut furthest = (f32::NEG_INFINITY, 0);
        for (edge, &Corner { at: corner, normal, .. }) in self.corners.iter().enumerate() {
            let distance = normal.dot(ray.from - corner);
            let speed = normal.dot(ray.motion);
            if distance > furthest.0 {
                furthest = (distance, edge);
            }
            let beyond = distance - ray.reach;
            if beyond > 0.0 {
                if speed >= 0.0 {
                    return None;
                }
                let time = beyond / -speed;
                if time > enter {
                    (enter, entered) = (time, edge);
                }
            } else if speed > 0.0 {
                leave = leave.min(beyond / -speed);
            }
        }
        if enter > leave || enter > limit {
            return None;
        }
        if enter < 0.0 {
            return self.touch_from_within(ray, limit, furthest.1);
        }
        match self.beside(ray.from + ray.motion * enter, entered) {
            Beside::Corner(corner) => self.touch_corner(corner, ray, limit),
            Beside::Edge(edge, place) => {
                let normal = self.corners[edge].normal;
                Some(Touch {
                    time: enter,
                    normal,
                    face: normal,
                    point: self.on_piece(edge, place),
                    edge: false,
                    depth: 0.0,
                })
            }
        }
    }

    /// The feature of the outline that a point is beside, given the `edge` that it is furthest
    /// outside of: that edge, or one of its corners.
    ///
    /// Where the outline hardly bends, rounding decides which of two edges a point is further
    /// outside of. If it is beyond the end of that edge, it is beside the next.
    fn beside(&self, at: Vec2, edge: usize) -> Beside {
        /// The cosine above which two edges have the same direction, except for rounding: 0.08
        /// degrees.
        const STRAIGHT: f32 = 1.0 - 1e-6;
        let place_on = |edge: usize| {
            let (start, end) = self.edge(edge);
            ((at - start).dot(end - start), (end - start).length_squared())
        };
        let (mut edge, (mut place, mut length_squared)) = (edge, place_on(edge));
        let goes_back = place < 0.0;
        for _ in 0..self.corners.len() {
            let is_beyond = if goes_back { place < 0.0 } else { place > length_squared };
            if !is_beyond {
                break;
            }
            let next = if goes_back { self.before(edge) } else { self.after(edge) };
            if self.corners[edge].normal.dot(self.corners[next].normal) < STRAIGHT {
                return Beside::Corner(if goes_back { edge } else { next });
            }
            edge = next;
            (place, length_squared) = place_on(edge);
        }
        Beside::Edge(edge, place)
    }

    /// A motion that starts inside the sharp outline: within reach, or just off a rounded corner.
    fn touch_from_within(&self, ray: &Ray<Vec2>, limit: f32, furthest: usize) -> Option<Touch<Vec2>> {
        let gap = self.gap(ray.from, furthest);
        if gap.distance <= ray.reach {
            return gap.touch(ray);
        }
        match self.beside(ray.from, furthest) {
            Beside::Corner(corner) => self.touch_corner(corner, ray, limit),
            Beside::Edge(..) => None,
        }
    }

    fn touch_corner(&self, corner: usize, ray: &Ray<Vec2>, limit: f32) -> Option<Touch<Vec2>> {
        let arm = ray.from - self.corners[corner].at;
        let time = match reach_round(arm, ray.motion, ray.reach) {
            Reach::Within => return self.gap_to_corner(ray.from, corner).touch(ray),
            Reach::At(time) if time <= limit => time,
            _ => return None,
        };
        let normal = (arm + ray.motion * time) * (1.0 / ray.reach);
        Some(Touch {
            time,
            normal,
            face: self.face_at(corner, normal),
            point: self.corners[corner].anchor,
            edge: true,
            depth: 0.0,
        })
    }

    /// The edge that a point is furthest outside of, or least inside.
    fn furthest_edge(&self, at: Vec2) -> usize {
        let mut furthest = (f32::NEG_INFINITY, 0);
        for (edge, &Corner { at: corner, normal, .. }) in self.corners.iter().enumerate() {
            let distance = normal.dot(at - corner);
            if distance > furthest.0 {
                furthest = (distance, edge);
            }
        }
        furthest.1
    }

    /// The gap to a point. The edge that it is furthest outside of is the nearest, or one of that
    /// edge's corners is.
    fn gap(&self, at: Vec2, furthest: usize) -> Gap<Vec2> {
        if self.corners.len() == 1 {
            return self.gap_to_corner(at, 0);
        }
        let distance = self.corners[furthest].normal.dot(at - self.corners[furthest].at);
        match self.beside(at, furthest) {
            Beside::Corner(corner) if distance >= 0.0 => self.gap_to_corner(at, corner),
            // Inside, however far beyond the edge's end.
            Beside::Corner(_) => {
                let (start, end) = self.edge(furthest);
                let place = (at - start).dot(end - start);
                self.gap_to_edge(distance, furthest, place)
            }
            Beside::Edge(edge, place) => self.gap_to_edge(distance, edge, place),
        }
    }

    fn gap_to_edge(&self, distance: f32, edge: usize, place: f32) -> Gap<Vec2> {
        let normal = self.corners[edge].normal;
        Gap { distance, normal, point: self.on_piece(edge, place), face: normal, edge: false }
    }

    fn gap_to_corner(&self, at: Vec2, corner: usize) -> Gap<Vec2> {
        let arm = at - self.corners[corner].at;
        let distance = arm.length();
        let normal = if distance > TINY { arm * (1.0 / distance) } else { Vec2::Y };
        Gap {
            distance,
            normal,
            point: self.corners[corner].anchor,
            face: self.face_at(corner, normal),
            edge: true,
        }
    }

    /// The point of the piece for a point on an edge of the sum. `place` is the position along the
    /// edge, times the edge's length.
    fn on_piece(&self, edge: usize, place: f32) -> Vec2 {
        let (start, end) = self.edge(edge);
        let fraction = (place / (end - start).length_squared()).clamp(0.0, 1.0);
        self.corners[edge].anchor.lerp(self.corners[self.after(edge)].anchor, fraction)
    }

    /// The most upward of the touch's own normal and the normals of the two edges that meet at a
    /// corner.
    fn face_at(&self, corner: usize, normal: Vec2) -> Vec2 {
        if self.corners.len() == 1 {
            return normal;
        }
        more_upward(
            normal,
            more_upward(self.corners[self.before(corner)].normal, self.corners[corner].normal),
        )
    }

    fn edge(&self, edge: usize) -> (Vec2, Vec2) {
        (self.corners[edge].at, self.corners[self.after(edge)].at)
    }

    fn before(&self, corner: usize) -> usize {
        if corner == 0 { self.corners.len() - 1 } else { corner - 1 }
    }

    fn after(&self, corner: usize) -> usize {
        if corner + 1 == self.corners.len() { 0 } else { corner + 1 }
    }
}

/// Adds the sum of an outline and the core, if the outline is a box along the body's axes. Returns
/// true if it is.
#[inline]
fn collect_block(patch: &mut Patch<Vec2>, world: &[Vec2], tag: Tag) -> bool {
    let &[a, b, c, d] = world else { return false };
    let own = [a, b, c, d].map(|point| patch.seen_from_core(point));
    if !Block::is_one(&own) {
        return false;
    }
    let [one, _, other, _] = own;
    add_block(patch, Bounds { min: one.min(other), max: one.max(other) }, 0.0, tag);
    true
}

/// Adds the sum of a box along the body's axes and the core.
#[inline]
fn add_block(patch: &mut Patch<Vec2>, own: Bounds<Vec2>, rounding: f32, tag: Tag) {
    let mut bounds = own.widened(patch.core.half);
    if rounding != 0.0 {
        bounds = bounds.widened(Vec2::splat(rounding));
    }
    if patch.is_within_reach(&bounds) {
        let block = patch.blank(ObstacleKind::Block, tag);
        patch.add(patch.corners.len(), Obstacle { bounds, rounding, ..block });
    }
}

/// Adds the sum of a convex outline (in world coordinates, counter-clockwise) and the core.
#[inline(never)]
fn collect_sum(patch: &mut Patch<Vec2>, world: &[Vec2], obstacle: Obstacle<Vec2>) {
    /// Outlines with up to this many corners use a plain array.
    const FEW: usize = 12;
    /// The maximum number of corners of a level's outlines.
    const MANY: usize = 64;
    let mut few = [Vec2::ZERO; FEW];
    let mut many: SmallVec<[Vec2; MANY]> = SmallVec::new();
    let own = match few.get_mut(..world.len()) {
        Some(few) => few,
        None => {
            many.resize(world.len(), Vec2::ZERO);
            &mut many[..]
        }
    };
    let (mut least, mut most) = (Vec2::INFINITY, Vec2::NEG_INFINITY);
    for (own, &point) in own.iter_mut().zip(world) {
        *own = patch.seen_from_core(point);
        (least, most) = (least.min(*own), most.max(*own));
    }
    let half = patch.core.half;
    let bounds = Bounds { min: least, max: most }.widened(half + Vec2::splat(obstacle.rounding));
    if !patch.is_within_reach(&bounds) {
        return;
    }
    if patch.frame.mirrors() {
        own.reverse();
    }
    let start = patch.corners.len();
    let nothing = Corner { at: Vec2::ZERO, normal: Vec2::ZERO, anchor: Vec2::ZERO };
    patch.reserve_corners(world.len() + 4);
    patch.corners.resize(start + world.len() + 4, nothing);
    let mut count = 0;
    let corners = &mut patch.corners[start..];
    let mut push = |at, anchor| {
        corners[count] = Corner { at, normal: Vec2::ZERO, anchor };
        count += 1;
    };
    if half.x == 0.0 && is_wide(own) {
        sum_with_upright(own, half.y, &mut push);
    } else {
        sum_with_box(own, half, &mut push);
    }
    let corners = &mut corners[..count];
    let mut next = corners[0].at;
    for corner in corners.iter_mut().rev() {
        corner.normal = outward(next - corner.at);
        next = corner.at;
    }
    patch.corners.truncate(start + count);
    patch.add(start, Obstacle { bounds, ..obstacle });
}

/// The outward normal of an edge; zero for an edge without a length. Horizontal and vertical edges,
/// the most common, need no square root.
#[inline]
fn outward(along: Vec2) -> Vec2 {
    if along.y == 0.0 {
        return if along.x == 0.0 { Vec2::ZERO } else { Vec2::new(0.0, -along.x.signum()) };
    }
    if along.x == 0.0 {
        return Vec2::new(along.y.signum(), 0.0);
    }
    Vec2::new(along.y, -along.x) * (1.0 / along.length_squared().sqrt())
}

/// Returns true if an outline has edges that go left and right.
fn is_wide(outline: &[Vec2]) -> bool {
    outline.iter().any(|point| point.x != outline[0].x)
}

/// The corners of the sum of a wide convex outline and an upright segment with half length `half`:
/// the lower side moved down, the upper side moved up.
#[inline]
fn sum_with_upright(outline: &[Vec2], half: f32, corner: &mut impl FnMut(Vec2, Vec2)) {
    let rise = Vec2::new(0.0, half);
    let mut before = outline[0].x - outline[outline.len() - 1].x;
    for (i, &point) in outline.iter().enumerate() {
        let next = if i + 1 == outline.len() { outline[0] } else { outline[i + 1] };
        let ahead = next.x - point.x;
        let (lower, upper) = (before > 0.0 || ahead > 0.0, before < 0.0 || ahead < 0.0);
        // Going right the lower side comes first, going left it comes last.
        if lower && upper && half > 0.0 && before < 0.0 {
            corner(point + rise, point);
            corner(point - rise, point);
        } else {
            if lower {
                corner(point - rise, point);
            }
            if upper && (half > 0.0 || !lower) {
                corner(point + rise, point);
            }
        }
        before = ahead;
    }
}

/// The corners of the sum of a convex outline and a box of `half` extents around the origin,
/// counter-clockwise, each with the outline's corner that it comes from.
///
/// Both outlines are walked together in the order of their edges' directions.
fn sum_with_box(outline: &[Vec2], half: Vec2, corner: &mut impl FnMut(Vec2, Vec2)) {
    let n = outline.len();
    // Starts where both are lowest, and leftmost of that.
    let first = (0..n)
        .min_by(|&a, &b| {
            let (a, b) = (outline[a], outline[b]);
            a.y.total_cmp(&b.y).then(a.x.total_cmp(&b.x))
        })
        .unwrap_or(0);
    let box_edges = [
        Vec2::new(2.0 * half.x, 0.0),
        Vec2::new(0.0, 2.0 * half.y),
        Vec2::new(-2.0 * half.x, 0.0),
        Vec2::new(0.0, -2.0 * half.y),
    ];
    let own_edge = |i: usize| outline[(first + i + 1) % n] - outline[(first + i) % n];
    let own_count = if n > 1 { n } else { 0 };
    let (mut i, mut j) = (0, 0);
    let mut at = outline[first] - half;
    while i < own_count || j < 4 {
        if j < 4 && box_edges[j] == Vec2::ZERO {
            j += 1;
            continue;
        }
        corner(at, outline[(first + i) % n]);
        let turn = match (i < own_count, j < 4) {
            (true, true) => own_edge(i).perp_dot(box_edges[j]),
            (true, false) => 1.0,
            _ => -1.0,
        };
        if turn >= 0.0 {
            at += own_edge(i);
            i += 1;
        }
        if turn <= 0.0 {
            at += box_edges[j];
            j += 1;
        }
    }
    if n == 1 && half == Vec2::ZERO {
        corner(at, outline[first]);
    }
}

#[cfg(test)]
mod tests {
    use std::prelude::rust_2024::*;

    use super::*;

    fn sum(outline: &[Vec2], half: Vec2) -> Vec<Vec2> {
        let mut corners = Vec::new();
        let mut push = |corner, _| corners.push(corner);
        if half.x == 0.0 && is_wide(outline) {
            sum_with_upright(outline, half.y, &mut push);
        } else {
            sum_with_box(outline, half, &mut push);
        }
        corners
    }

    #[test]
    fn the_sum_with_a_point_is_the_outline_itself() {
        let triangle = [Vec2::ZERO, Vec2::X, Vec2::Y];
        assert_eq!(sum(&triangle, Vec2::ZERO), triangle);
        assert_eq!(sum(&[Vec2::ONE], Vec2::ZERO), [Vec2::ONE]);
    }

    #[test]
    fn the_sum_of_two_boxes_is_a_box_without_doubled_corners() {
        let square = [Vec2::ZERO, Vec2::X, Vec2::ONE, Vec2::Y];
        let corners = sum(&square, Vec2::new(0.5, 1.0));
        assert_eq!(
            corners,
            [Vec2::new(-0.5, -1.0), Vec2::new(1.5, -1.0), Vec2::new(1.5, 2.0), Vec2::new(-0.5, 2.0)]
        );
    }

    #[test]
    fn the_sum_with_an_upright_segment_adds_its_two_sides() {
        let slope = [Vec2::ZERO, Vec2::new(2.0, 1.0)];
        let corners = sum(&slope, Vec2::new(0.0, 1.0));
        assert_eq!(
            corners,
            [Vec2::new(0.0, 1.0), Vec2::new(0.0, -1.0), Vec2::new(2.0, 0.0), Vec2::new(2.0, 2.0)]
        );
    }
}
