//! The pieces near a body, gathered once per tick.

use alloc::boxed::Box;
use alloc::vec::Vec;
use core::any::Any;
use smallvec::SmallVec;

use crate::level::{Found, PieceId, RoundBox, Shape, Surroundings, Tag};
use crate::space::{Bounds, Frame, Vector};

use super::{Core, Gap, Geometry, Hull, Obstacle, ObstacleKind, Ray, Touch, more_upward};

/// The fraction of the clearance within which a piece does not stop a motion: see the
/// [module](super).
const SLACK: f32 = 0.2;
/// The number of obstacles that fit without the heap.
const OBSTACLES: usize = 384;
/// Touches that are no further apart than this fraction of the core's size are on the same edge.
const TOGETHER: f32 = 2e-5;
/// The rounding of a piece, as a fraction of half the height of the hull, from which on it counts as
/// a surface of its own and not as an edge: 0.1 m for a hull of 1.6 m.
const ROUND_EDGE: f32 = 0.125;
/// The smallest cosine between a touch and the front of a one-sided piece at which it is solid: 72
/// degrees.
const FRONT: f32 = 0.3;

/// The pieces near a body, in the body's own frame: its position is the origin, its up the second
/// axis.
///
/// All motion of a tick is computed on this short list. `at` in the methods is the displacement of
/// the body from that origin.
pub struct Patch<V: Geometry> {
    pub(super) frame: Frame<V>,
    pub(super) core: Core<V>,
    clearance: f32,
    /// The region of the obstacles that are stored, in the core's coordinates.
    region: Bounds<V>,
    /// The displacements for which it was gathered.
    reach: Bounds<V>,
    /// The corners of all obstacles, one after another.
    pub(super) corners: SmallVec<V::Room>,
    pub(super) obstacles: SmallVec<[Obstacle<V>; OBSTACLES]>,
    /// Heap memory for more obstacles than fit.
    spare: Option<Box<Spare<V>>>,
}

/// Memory of earlier ticks for places with very many pieces, kept so that a tick there allocates
/// nothing. A copy starts without any.
#[derive(Default)]
pub(crate) struct Scratch(Option<Box<dyn Any + Send + Sync>>);

impl Clone for Scratch {
    fn clone(&self) -> Self {
        Self::default()
    }
}

impl core::fmt::Debug for Scratch {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_struct("Scratch").finish_non_exhaustive()
    }
}

/// Lists that obstacles are moved to when the arrays are full.
struct Spare<V: Geometry> {
    obstacles: Vec<Obstacle<V>>,
    corners: Vec<V::Corner>,
}

impl<V: Geometry> Default for Spare<V> {
    fn default() -> Self {
        Self { obstacles: Vec::new(), corners: Vec::new() }
    }
}

/// Where a motion of the hull is stopped.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hit<V> {
    /// The time of impact: the fraction of the motion that keeps the clearance, 0 to 1.
    pub time: f32,
    /// From the piece to the hull, of length 1.
    pub normal: V,
    /// The most upward face that meets at the touched point: what a foot would rest on there.
    pub face: V,
    /// The touched point of the piece, in the body's frame.
    pub point: V,
    /// True if an edge or corner is touched, not a face.
    pub edge: bool,
    /// The piece.
    pub tag: Tag,
}

/// The result of a sweep.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Swept<V> {
    /// Where the motion is stopped, if it is.
    pub hit: Option<Hit<V>>,
    /// How far the hull is, at the start, within the slack-reduced clearance of something that is
    /// solid from all sides, in metres. More than a hair means that something has moved into the
    /// gap.
    pub depth: f32,
}

/// A touch that is found by a ray.
struct Touches<'a, V> {
    first: Option<(Touch<V>, &'a Obstacle<V>)>,
    depth: f32,
}

impl<V: Vector> Obstacle<V> {
    /// How deep a touch starts in something that is solid from all sides.
    fn depth_of(&self, touch: &Touch<V>) -> f32 {
        if self.front == V::ZERO { touch.depth } else { 0.0 }
    }
}

/// The piece nearest to the hull.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Nearest<V> {
    /// The distance from the hull. If the two overlap, minus the length of the shortest
    /// displacement out.
    pub distance: f32,
    /// From the piece to the hull, of length 1: the direction out.
    pub normal: V,
    /// The nearest point of the piece, in the body's frame.
    pub point: V,
    /// The nearest point of the hull, in the body's frame.
    pub own_point: V,
    /// The piece.
    pub tag: Tag,
}

impl<V: Geometry> Patch<V> {
    /// An empty patch for a hull in `frame`. It stores what overlaps `region`, relative to the
    /// body's position.
    #[must_use]
    #[inline(always)] // built in place: it is large, and copying it would show
    pub fn empty(frame: Frame<V>, hull: &Hull, region: Bounds<V>) -> Self {
        let core = hull.core::<V>();
        Self {
            frame,
            core,
            clearance: hull.clearance(),
            region: Bounds { min: region.min - core.middle, max: region.max - core.middle },
            reach: Bounds::empty(),
            corners: SmallVec::new(),
            obstacles: SmallVec::new(),
            spare: None,
        }
    }

    /// Lends the patch memory for more obstacles than fit: see [`Self::give_back`].
    #[inline]
    pub(crate) fn lend(&mut self, scratch: &mut Scratch) {
        if let Some(kept) = scratch.0.take() {
            self.spare = kept.downcast().ok();
        }
    }

    /// Returns the memory that was lent, and what the patch allocated itself.
    #[inline]
    pub(crate) fn give_back(&mut self, scratch: &mut Scratch) {
        let Some(mut spare) = self.spare.take() else { return };
        if self.obstacles.spilled() {
            spare.obstacles = core::mem::take(&mut self.obstacles).into_vec();
        }
        if self.corners.spilled() {
            spare.corners = core::mem::take(&mut self.corners).into_vec();
        }
        scratch.0 = Some(spare);
    }

    /// Reserves memory for more corners.
    #[inline]
    pub(super) fn reserve_corners(&mut self, more: usize) {
        if self.corners.len() + more > self.corners.capacity() {
            self.move_corners_out(more);
        }
    }

    #[cold]
    #[inline(never)]
    fn move_corners_out(&mut self, more: usize) {
        move_out(&mut self.corners, &mut self.spare.get_or_insert_default().corners, more);
    }

    #[cold]
    #[inline(never)]
    fn move_obstacles_out(&mut self) {
        move_out(&mut self.obstacles, &mut self.spare.get_or_insert_default().obstacles, 1);
    }

    /// Gathers from `surroundings` everything that the hull can touch for a displacement within
    /// `reach`.
    #[must_use]
    #[inline(always)] // see `empty`
    pub fn gather(
        frame: Frame<V>,
        hull: &Hull,
        reach: Bounds<V>,
        surroundings: &impl Surroundings<V>,
    ) -> Self {
        let mut patch = Self::empty(frame, hull, reach);
        patch.refill(hull, reach, surroundings);
        patch
    }

    /// Gathers again, for another reach, and discards the earlier obstacles.
    pub fn refill(&mut self, hull: &Hull, reach: Bounds<V>, surroundings: &impl Surroundings<V>) {
        self.corners.clear();
        self.obstacles.clear();
        let region = self.prepare(reach);
        surroundings.pieces(&region, hull.mask(), self);
    }

    /// Sets the reach, and returns the region in the world from which the pieces are needed.
    pub(super) fn prepare(&mut self, reach: Bounds<V>) -> Bounds<V> {
        let margin = V::splat(self.margin()) + self.core.half;
        self.region = reach.widened(margin);
        self.reach = reach;
        let middle = self.core.middle;
        let region = Bounds { min: self.region.min + middle, max: self.region.max + middle };
        self.frame.world_bounds(region)
    }

    /// The margin around the core that is gathered beyond its reach.
    fn margin(&self) -> f32 {
        self.core.radius + 2.0 * self.clearance
    }

    /// The frame of its coordinates.
    #[must_use]
    pub fn frame(&self) -> &Frame<V> {
        &self.frame
    }

    /// The number of obstacles.
    #[must_use]
    pub fn len(&self) -> usize {
        self.obstacles.len()
    }

    /// Returns true if there are no obstacles.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.obstacles.is_empty()
    }

    /// The clearance of the hull.
    #[must_use]
    pub fn clearance(&self) -> f32 {
        self.clearance
    }

    /// The radius of the hull's rounding: a capsule's radius, 0 for a sharp box.
    #[must_use]
    pub fn radius(&self) -> f32 {
        self.core.radius
    }

    /// Returns true if the hull has a flat underside, as a box has.
    #[must_use]
    pub(crate) fn is_flat_below(&self) -> bool {
        self.core.half.component(0) > 0.0
    }

    /// The centre of the hull from its position, and half the length of its core.
    pub(crate) fn upright_middle(&self) -> (V, f32) {
        (self.core.middle, self.core.half.component(1))
    }

    /// The extents of the hull along the axes, from its centre.
    pub(crate) fn ends(&self) -> [V; 3] {
        let Core { half, radius, .. } = self.core;
        [0, 1, 2].map(|axis| {
            let mut end = [0.0; 3];
            end[axis] = if axis < V::DIMENSION { half.component(axis) + radius } else { 0.0 };
            V::from_array(end)
        })
    }

    /// Returns true if every displacement within `reach` stays within the gathered region.
    #[must_use]
    pub fn covers(&self, reach: &Bounds<V>) -> bool {
        self.reach.min.all_at_most(reach.min) && reach.max.all_at_most(self.reach.max)
    }

    /// The bounds of the displacements that stay within the gathered region.
    #[must_use]
    #[inline]
    pub fn reach(&self) -> Bounds<V> {
        self.reach
    }

    /// Returns true if a start at this [`Swept::depth`] is an overlap to be resolved: nearer than
    /// half the clearance, which nothing that moves by itself reaches.
    #[must_use]
    pub fn is_overlap(&self, depth: f32) -> bool {
        depth > 0.5 * self.clearance - self.slack()
    }

    /// The part of the clearance that a motion may use up without being stopped.
    #[must_use]
    pub fn slack(&self) -> f32 {
        self.clearance * SLACK
    }

    /// The first piece that the bare hull, without clearance, touches on its path from `at` by
    /// `motion`. `time` is the exact time of impact.
    #[must_use]
    pub fn cast(&self, at: V, motion: V) -> Option<Hit<V>> {
        let ray = Ray { from: at, motion, reach: self.core.radius };
        let (touch, obstacle) = self.first_touch(&ray, None, |_| true).first?;
        Some(self.hit(touch.time, &touch, obstacle))
    }

    /// Where the hull is stopped on its path from `at` by `motion`, at the clearance measured along
    /// the normal.
    #[must_use]
    pub fn sweep(&self, at: V, motion: V) -> Option<Hit<V>> {
        self.sweep_past(at, motion, None, |_| false).hit
    }

    /// As [`Self::sweep`], ignoring the pieces for which `ignored` returns true. With `over`, the
    /// path is along a plane with that normal, and obstacles wholly below it are skipped quickly.
    #[must_use]
    pub fn sweep_past(&self, at: V, motion: V, over: Option<V>, ignored: impl Fn(&Tag) -> bool) -> Swept<V> {
        let ray = self.moving(at, motion);
        let Touches { first, depth } = self.first_touch(&ray, over, |tag| !ignored(tag));
        let hit = first.map(|(touch, obstacle)| self.hit(self.stop(&touch, motion), &touch, obstacle));
        Swept { hit, depth }
    }

    /// The piece that the hull comes to rest on when lowered by `drop` from `at`: as
    /// [`Self::sweep`], but of all pieces that it touches at once, the one with the most upward
    /// face.
    #[must_use]
    pub fn support(&self, at: V, drop: f32, ignored: impl Fn(&Tag) -> bool) -> Swept<V> {
        self.support_where(at, drop, |tag, _| !ignored(tag))
    }

    /// [`Self::support`] among the touches that `counts` accepts, by their piece and normal.
    #[must_use]
    pub(crate) fn support_where(&self, at: V, drop: f32, counts: impl Fn(&Tag, V) -> bool) -> Swept<V> {
        let motion = V::UP * -drop;
        let ray = self.moving(at, motion);
        let together = self.slack() / drop.max(self.slack());
        let swept = self.swept(&ray);
        // What stops the hull, and what it then rests on.
        let mut first: Option<f32> = None;
        let mut rest: Option<(Touch<V>, &Obstacle<V>)> = None;
        let mut depth = 0.0f32;
        for obstacle in &self.obstacles {
            let earliest = first.unwrap_or(1.0);
            if !obstacle.bounds.overlaps(&swept) {
                continue;
            }
            let limit = (earliest + together).min(1.0);
            let Some(touch) = V::touch(self, obstacle, &ray, limit) else { continue };
            if !counts(&obstacle.tag, touch.normal) {
                continue;
            }
            depth = depth.max(obstacle.depth_of(&touch));
            if touch.time > limit || !self.is_solid_to(obstacle, &touch) {
                continue;
            }
            let better = rest
                .as_ref()
                .is_none_or(|(held, _)| held.time > touch.time + together || rests_better(&touch, held));
            if touch.time < earliest || first.is_none() {
                first = Some(touch.time);
            }
            if better {
                rest = Some((touch, obstacle));
            }
        }
        // At the clearance of what it rests on, which is no lower than where the slack of the first
        // touch is used up.
        let hit = rest.map(|(touch, obstacle)| self.hit(self.stop(&touch, motion), &touch, obstacle));
        Swept { hit, depth }
    }

    /// The piece nearest to the hull, or deepest in it, among those whose bounds are within
    /// `within` of it.
    #[must_use]
    pub fn nearest(&self, at: V, within: f32) -> Option<Nearest<V>> {
        let around = self.around(at, within);
        let mut best: Option<(Gap<V>, &Obstacle<V>)> = None;
        for obstacle in &self.obstacles {
            // The solid stands for its faces.
            if obstacle.kind == ObstacleKind::Face || !obstacle.bounds.overlaps(&around) {
                continue;
            }
            let gap = V::gap(self, obstacle, at);
            if best.as_ref().is_none_or(|(held, _)| gap.distance < held.distance) {
                best = Some((gap, obstacle));
            }
        }
        best.map(|(gap, obstacle)| self.named(&gap, obstacle))
    }

    /// Every piece within `within` of the hull at `at`.
    pub fn all_near(&self, at: V, within: f32) -> impl Iterator<Item = Nearest<V>> {
        self.obstacles.iter().filter(|obstacle| obstacle.kind != ObstacleKind::Face).filter_map(
            move |obstacle| {
                let near = self.named(&V::gap(self, obstacle, at), obstacle);
                (near.distance <= within).then_some(near)
            },
        )
    }

    /// The piece that the hull at `at` overlaps most, among those that are solid from all sides and
    /// not ignored. A gap below half the clearance counts as an overlap: nothing that moves by
    /// itself comes that near.
    #[must_use]
    pub fn overlap(&self, at: V, ignored: impl Fn(&Tag) -> bool) -> Option<Nearest<V>> {
        let limit = self.core.radius + 0.5 * self.clearance;
        let around = self.around(at, 0.5 * self.clearance);
        let mut best: Option<(Gap<V>, &Obstacle<V>)> = None;
        for obstacle in &self.obstacles {
            if obstacle.kind == ObstacleKind::Face
                || !obstacle.bounds.overlaps(&around)
                || obstacle.front != V::ZERO
                || ignored(&obstacle.tag)
            {
                continue;
            }
            let nearest = best.as_ref().map_or(limit, |(held, _)| held.distance);
            if let Some(gap) = V::gap_within(self, obstacle, at, nearest) {
                best = Some((gap, obstacle));
            }
        }
        best.map(|(gap, obstacle)| self.named(&gap, obstacle))
    }

    /// Returns true if a piece is within `within` of the hull at `at`.
    #[must_use]
    pub fn is_near(&self, piece: PieceId, at: V, within: f32) -> bool {
        self.obstacles.iter().any(|obstacle| {
            obstacle.tag.piece == piece
                && obstacle.kind != ObstacleKind::Face
                && V::gap(self, obstacle, at).distance - self.core.radius < within
        })
    }

    /// The motion of the hull, grown by the clearance minus the slack.
    fn moving(&self, at: V, motion: V) -> Ray<V> {
        Ray { from: at, motion, reach: self.core.radius + self.clearance - self.slack() }
    }

    /// The fraction of the motion at which a touch at the reduced reach still had the full
    /// clearance.
    fn stop(&self, touch: &Touch<V>, motion: V) -> f32 {
        let into = -motion.dot(touch.normal);
        (touch.time - self.slack() / into.max(1e-12)).clamp(0.0, 1.0)
    }

    fn first_touch(
        &self,
        ray: &Ray<V>,
        over: Option<V>,
        considered: impl Fn(&Tag) -> bool,
    ) -> Touches<'_, V> {
        let swept = self.swept(ray);
        let mut all = Touches { first: None, depth: 0.0 };
        let mut limit = 1.0f32;
        let together = TOGETHER * self.core.size();
        let floor = over.map(|normal| (normal, self.lowest(ray, normal)));
        for obstacle in &self.obstacles {
            if !obstacle.bounds.overlaps(&swept) || !considered(&obstacle.tag) {
                continue;
            }
            if floor.is_some_and(|(normal, lowest)| self.is_below(obstacle, normal, lowest)) {
                continue;
            }
            let Some(touch) = V::touch(self, obstacle, ray, limit) else { continue };
            all.depth = all.depth.max(obstacle.depth_of(&touch));
            if touch.time > limit || !self.is_solid_to(obstacle, &touch) {
                continue;
            }
            let mut touch = touch;
            if let Some((held, _)) = &mut all.first {
                // Two pieces may share the touched edge: one foot rests on it.
                if touch.edge
                    && held.edge
                    && (touch.point - held.point).length_squared() < together * together
                {
                    touch.face = more_upward(touch.face, held.face);
                    held.face = touch.face;
                }
                if touch.time >= held.time && touch.depth <= held.depth {
                    continue;
                }
            }
            limit = (touch.time + together / ray.motion.length().max(together)).min(1.0);
            all.first = Some((touch, obstacle));
        }
        all
    }

    /// The lowest point of the grown core along `normal` on its path.
    fn lowest(&self, ray: &Ray<V>, normal: V) -> f32 {
        let at = ray.from.dot(normal).min((ray.from + ray.motion).dot(normal));
        at - normal.abs().dot(V::beside_obstacles(&self.core)) - ray.reach
    }

    fn is_below(&self, obstacle: &Obstacle<V>, normal: V, lowest: f32) -> bool {
        V::is_below(self, obstacle, normal, lowest - obstacle.rounding)
    }

    /// Returns true if the touch is on the side from which the obstacle is solid, for a body that
    /// came from there: one that is still outside, even if within its clearance.
    fn is_solid_to(&self, obstacle: &Obstacle<V>, touch: &Touch<V>) -> bool {
        let outside = self.clearance - 0.9 * self.slack();
        obstacle.front == V::ZERO || (touch.normal.dot(obstacle.front) > FRONT && touch.depth <= outside)
    }

    /// The bounds of everything that the grown core passes through.
    fn swept(&self, ray: &Ray<V>) -> Bounds<V> {
        let to = ray.from + ray.motion;
        Bounds { min: ray.from.min(to), max: ray.from.max(to) }.widened(self.bounds_reach(ray.reach))
    }

    fn around(&self, at: V, within: f32) -> Bounds<V> {
        Bounds { min: at, max: at }.widened(self.bounds_reach(self.core.radius + within))
    }

    /// The largest distance of obstacles' bounds from the core's centre.
    fn bounds_reach(&self, reach: f32) -> V {
        V::beside_obstacles(&self.core) + V::splat(reach)
    }

    fn hit(&self, time: f32, touch: &Touch<V>, obstacle: &Obstacle<V>) -> Hit<V> {
        Hit {
            time,
            normal: touch.normal,
            face: touch.face,
            point: V::touched_point(self, obstacle, touch) + self.core.middle,
            edge: touch.edge,
            tag: obstacle.tag,
        }
    }

    fn named(&self, gap: &Gap<V>, obstacle: &Obstacle<V>) -> Nearest<V> {
        let distance = gap.distance - self.core.radius;
        let point = gap.point + self.core.middle;
        Nearest {
            distance,
            normal: gap.normal,
            point,
            own_point: point + gap.normal * distance,
            tag: obstacle.tag,
        }
    }

    /// A world point, relative to the core's centre.
    #[inline]
    pub(super) fn seen_from_core(&self, point: V) -> V {
        self.frame.local_point(point) - self.core.middle
    }

    /// Returns true if something with these bounds is within the patch's region.
    #[inline]
    pub(super) fn is_within_reach(&self, bounds: &Bounds<V>) -> bool {
        bounds.overlaps(&self.region)
    }

    /// Returns true if the rounding of an obstacle is so large that a foot rests on it as on a round
    /// surface. Less counts as an edge: a foot rests on the faces that meet there.
    pub(super) fn is_round(&self, obstacle: &Obstacle<V>) -> bool {
        obstacle.rounding > ROUND_EDGE * self.core.size()
    }

    /// Adds an obstacle with its bounds, made of the points or corners from `start` on.
    #[inline(always)] // once for each piece that is near
    pub(super) fn add(&mut self, start: usize, obstacle: Obstacle<V>) {
        if self.obstacles.len() == self.obstacles.capacity() {
            self.move_obstacles_out();
        }
        let corners = (start as u32, self.corners.len() as u32);
        self.obstacles.push(Obstacle { corners, ..obstacle });
    }

    /// An obstacle with a kind and a tag, without points.
    pub(super) fn blank(&self, kind: ObstacleKind, tag: Tag) -> Obstacle<V> {
        Obstacle {
            bounds: Bounds::empty(),
            corners: (0, 0),
            kind,
            seams: crate::level::Seams::NONE,
            rounding: 0.0,
            normal: V::ZERO,
            anchor: V::ZERO,
            front: if tag.one_way { V::UP } else { V::ZERO },
            tag,
        }
    }

    pub(super) fn corners_of(&self, obstacle: &Obstacle<V>) -> &[V::Corner] {
        &self.corners[obstacle.corners.0 as usize..obstacle.corners.1 as usize]
    }
}

/// Moves a list to `spare`, with memory for `more` and as much again.
fn move_out<A: smallvec::Array>(list: &mut SmallVec<A>, spare: &mut Vec<A::Item>, more: usize) {
    let mut larger = core::mem::take(spare);
    larger.clear();
    larger.reserve(2 * (list.len() + more));
    larger.extend(list.drain(..));
    *list = SmallVec::from_vec(larger);
}

/// Returns true if the first of two simultaneous touches is the better footing: its face points
/// further up, or as far and is no edge, or else is touched sooner.
fn rests_better<V: Vector>(touch: &Touch<V>, held: &Touch<V>) -> bool {
    /// Cosines that differ by less are the same.
    const SAME: f32 = 1e-6;
    let higher = touch.face.height() - held.face.height();
    let same = higher > -SAME;
    let sooner = held.edge == touch.edge && touch.time < held.time;
    higher > SAME || (same && ((held.edge && !touch.edge) || sooner))
}

impl<V: Geometry> Found<V> for Patch<V> {
    #[inline]
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag) {
        V::collect(self, shape, tag);
    }

    #[inline]
    fn block(&mut self, min: V, max: V, tag: Tag) {
        V::collect_block(self, min, max, tag);
    }

    fn round_box(&mut self, round_box: &RoundBox<V>, tag: Tag) {
        let RoundBox { centre, right, up, half, radius } = *round_box;
        // An upright post is the same about its axis.
        let sides = half.to_array();
        let is_post = V::DIMENSION == 3 && sides[0] == 0.0 && sides[2] == 0.0;
        if self.frame.has_axes(right, up) || (is_post && self.frame.is_upright_to(up)) {
            let centre = self.seen_from_core(centre);
            V::collect_round_block(self, Bounds { min: centre - half, max: centre + half }, radius, tag);
        } else {
            round_box.with_shape(|shape| V::collect(self, shape, tag));
        }
    }
}

impl<V: Geometry> core::fmt::Debug for Patch<V> {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_struct("Patch")
            .field("frame", &self.frame)
            .field("obstacles", &self.obstacles)
            .finish_non_exhaustive()
    }
}
