//! Walking: along the ground, up steps, down after the ground.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::space::Vector;
use crate::thresholds::{feet, rounding};

#[cfg(not(feature = "std"))]
use crate::real::Real as _;

use super::{BUMPS, Landings, Leg, Mover, Stand, laid_on, off, resolve, resolve_beside, turned_onto};

/// The maximum number of planes that a walk slides along: two for each part of it.
const WALLS: usize = 2 * BUMPS;
/// The maximum number of steps up in a walk.
const STEPS: usize = 6;
/// How often an advance onto a step is halved at most.
const HALVINGS: usize = 6;

/// The result of a walk to where the ground ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Walk<V> {
    /// The whole displacement, on walkable ground.
    OnGround(Stand<V>),
    /// To the end of the ground, after this fraction of the displacement.
    ToEdge(f32),
}

/// A straight part of a walk.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stretch<V> {
    from: V,
    to: V,
    /// The velocity on it.
    velocity: V,
    /// The fractions of the walk's time before and after it.
    walked: (f32, f32),
    /// The number of contacts before it.
    met: usize,
    /// How far steps had put the body ahead of its path.
    ahead: f32,
}

/// The position of a body in a walk.
#[derive(Clone, Copy, Debug)]
struct Passage<V> {
    at: V,
    velocity: V,
    ahead: f32,
}

/// The straight parts of a walk.
pub(super) type Trail<V> = SmallVec<[Stretch<V>; BUMPS]>;

impl<V: Geometry> Mover<'_, V> {
    /// Walks `displacement`, which is along the ground `ground`, and follows the ground down at the
    /// end. Returns what the feet are on then, or `None` if the ground has fallen away.
    pub fn walk(&mut self, displacement: V, ground: Stand<V>) -> Option<Stand<V>> {
        self.walk_along(displacement, ground, &mut Trail::new())
    }

    fn walk_along(&mut self, displacement: V, ground: Stand<V>, trail: &mut Trail<V>) -> Option<Stand<V>> {
        // The rest of the displacement and the velocity as intended, and the displacement as the
        // walls allow it.
        let (mut intended, mut rest, mut heading) = (displacement, displacement, self.velocity);
        let mut ground = ground;
        let mut walls: SmallVec<[V; WALLS]> = SmallVec::new();
        let mut walked = 0.0;
        let mut steps = 0;
        // The speed of the last wall along its normal, relative to the ground.
        let mut recedes = (0.0, V::ZERO);
        for _ in 0..BUMPS {
            if rest.length_squared() <= 0.0 {
                break;
            }
            let (from, met_before) = (self.at, self.contacts.len());
            let met = if walls.is_empty() {
                self.sweep_over(self.at, rest, Some(ground.normal))
            } else {
                self.sweep_beside(rest, Some(ground.normal))
            };
            let soft = || if walls.is_empty() { self.still_against(rest) } else { None };
            let hit = met.or_else(soft);
            let fraction = hit.map_or(1.0, |hit| hit.time);
            self.at += rest * fraction;
            let over = walked + (1.0 - walked) * fraction;
            trail.push(Stretch {
                from,
                to: self.at,
                velocity: self.velocity,
                walked: (walked, over),
                met: met_before,
                ahead: self.ahead,
            });
            let Some(hit) = hit else { break };
            walked = over;
            intended *= 1.0 - hit.time;
            rest *= 1.0 - hit.time;
            if self.rules.walkable(hit.normal) {
                // Between walls the next face may turn it back onto the last, which then holds it
                // as well.
                if !walls.is_empty() {
                    walls.push(ground.normal);
                }
                ground.normal = hit.normal;
                (intended, heading) = (onto(intended, &hit), turned_onto(heading, hit.normal));
                if walls.is_empty() {
                    rest = intended;
                    continue;
                }
            } else if steps < STEPS
                && let Some((fraction, stand)) = {
                    steps += 1;
                    self.step_up(rest, &ground)
                }
            {
                ground = stand;
                walked = 1.0 - (1.0 - walked) * fraction;
                intended = laid_on(intended.flat() * fraction, ground.normal);
                if walls.is_empty() {
                    rest = intended;
                    continue;
                }
            } else {
                self.note(&hit, self.velocity);
                walls.push(hit.normal);
                let velocity = self.velocity_of(&hit) - self.ground_velocity;
                recedes = (velocity.dot(hit.normal), hit.normal);
            }
            let beside = along_ground(&walls, ground.normal, intended);
            // Against a leaning wall, the body needs more speed along the ground to keep up with
            // it.
            let leans = beside.first().map_or(0.0, |along| along.dot(recedes.1));
            let recedes = if leans > feet::MIN_ANGLE { recedes.0 / leans } else { 0.0 };
            self.velocity = resolve_beside(heading, &beside, recedes);
            rest = off(resolve(intended, &beside), &beside);
        }
        self.follow_down()
    }

    /// Walks `displacement`, which takes `time` seconds, as far as there is ground.
    ///
    /// Where the ground turns down, a body follows it unless it is so fast that the ground at the
    /// position of the next 1/60 s is further below than its feet follow. So the result does not
    /// depend on the length of the tick.
    #[inline]
    pub fn walk_to_edge(&mut self, displacement: V, time: f32, ground: Stand<V>) -> Walk<V> {
        let (start, met) = (self.passage(), self.contacts.len());
        let walk = self.walk_part(displacement, time, ground);
        if matches!(walk, Walk::ToEdge(_))
            && time > feet::LONG_TICK * feet::AHEAD
            && self.may_turn_down(displacement, &ground)
        {
            self.go_back_to(&start);
            self.contacts.truncate(met);
            return self.walk_in_parts(displacement, time, ground);
        }
        walk
    }

    /// Walks `displacement`, which takes `time` seconds, with a body that is not subject to
    /// gravity: past the end of the ground it continues straight on. Returns the ground at the end.
    pub fn walk_straight_on(&mut self, displacement: V, time: f32, ground: Stand<V>) -> Option<Stand<V>> {
        if !self.may_turn_down(displacement * (feet::AHEAD / time), &ground) {
            return self.walk(displacement, ground);
        }
        match self.walk_to_edge(displacement, time, ground) {
            Walk::OnGround(stand) => Some(stand),
            Walk::ToEdge(over) => {
                let (rest, velocity) = (displacement.flat() * (1.0 - over), self.velocity);
                let leg = Leg { displacement: rest, from: velocity, to: velocity, time: (1.0 - over) * time };
                self.glide(&leg, Landings::None);
                None
            }
        }
    }

    /// Walks `displacement` in one part.
    #[inline]
    fn walk_part(&mut self, displacement: V, time: f32, ground: Stand<V>) -> Walk<V> {
        let start = self.at;
        let mut trail = Trail::new();
        let stand = self.walk_along(displacement, ground, &mut trail).filter(|stand| stand.firm);
        if let Some(end) = stand
            && end.normal == ground.normal
            && (start - self.at).dot(ground.normal) <= 2.0 * self.patch.clearance()
        {
            // Usually on the same plane.
            return Walk::OnGround(end);
        }
        let ahead = displacement * (feet::AHEAD / time);
        let is_fast = self.may_turn_down(ahead, &ground);
        match stand {
            Some(stand) if !(is_fast && self.turns_down(start, &ground, &stand)) => Walk::OnGround(stand),
            None if !is_fast => Walk::ToEdge(self.find_edge(&trail, self.follows())),
            _ => self.over_a_crest(&trail, stand, ahead),
        }
    }

    /// Walks the displacement of a long tick in parts no longer than 1/60 s.
    #[inline(never)]
    fn walk_in_parts(&mut self, displacement: V, time: f32, mut ground: Stand<V>) -> Walk<V> {
        let count = libm::ceilf((time / feet::AHEAD).min(feet::MAX_PARTS));
        let part = 1.0 / count;
        for number in 0..count as u32 {
            match self.walk_part(turned_onto(displacement * part, ground.normal), time * part, ground) {
                Walk::OnGround(stand) => ground = stand,
                Walk::ToEdge(over) => return Walk::ToEdge((number as f32 + over) * part),
            }
        }
        Walk::OnGround(ground)
    }

    /// Returns true if walkable ground could turn down, over a displacement of `ahead` on `ground`,
    /// by more than the feet follow it.
    #[inline]
    fn may_turn_down(&self, ahead: V, ground: &Stand<V>) -> bool {
        let cosine = self.rules.cos_steepest.max(rounding::OF_COSINE);
        let steepest = (1.0 - cosine * cosine).max(0.0).sqrt() / cosine;
        let drop = ahead.flat().length() * steepest + laid_on(ahead, ground.normal).height();
        drop > self.rules.ground_snap
    }

    /// Returns true if a walk that began at `start` on `ground` ends below its plane, or on ground
    /// that leads down from it.
    fn turns_down(&self, start: V, ground: &Stand<V>, end: &Stand<V>) -> bool {
        let moved = self.at - start;
        let along = moved.flat();
        let drop = laid_on(moved, ground.normal).height() - moved.height();
        let tilts = end.normal.dot(along) > ground.normal.dot(along) + feet::MIN_ANGLE * along.length();
        drop > 2.0 * self.patch.clearance() || (tilts && drop > 0.0)
    }

    /// Follows the ground over a crest, to `end` where the body is now, or leaves it there.
    #[inline(never)]
    fn over_a_crest(&mut self, trail: &Trail<V>, end: Option<Stand<V>>, ahead: V) -> Walk<V> {
        let (end_of_walk, contacts) = (self.passage(), self.contacts.clone());
        let over = self.find_edge(trail, 2.0 * self.patch.clearance());
        let crest = self.passage();
        let start = trail.first().map_or(crest.at, |stretch| stretch.from);
        let ahead = self.along_the_ground_behind(start, ahead).unwrap_or(ahead);
        // As far as nothing stops it.
        let free = self.sweep(self.at, ahead).map_or(1.0, |hit| hit.time);
        self.at += ahead * free;
        let is_ground_ahead = self.rests_here(self.follows());
        match end {
            Some(stand) if is_ground_ahead => {
                self.go_back_to(&end_of_walk);
                self.contacts = contacts;
                Walk::OnGround(stand)
            }
            _ => {
                self.go_back_to(&crest);
                Walk::ToEdge(over)
            }
        }
    }

    /// `ahead`, in the direction of the ground behind `start`, for a body with a flat underside. On
    /// ground of many facets such a body is level whenever it rests on an edge between two.
    fn along_the_ground_behind(&mut self, start: V, ahead: V) -> Option<V> {
        if !self.patch.is_flat_below() {
            return None;
        }
        let at = core::mem::replace(&mut self.at, start);
        let found = self.slope_behind(ahead);
        self.at = at;
        found
    }

    /// `ahead`, in the direction of the ground behind the body, if that is higher. Moves the body
    /// elsewhere.
    fn slope_behind(&mut self, ahead: V) -> Option<V> {
        let (_, lowered) = self.look_down(2.0 * self.patch.clearance())?;
        let back = ahead.flat().direction()? * -(feet::BEHIND * self.patch.clearance());
        // As high as the steepest ground could rise there, and as low.
        let reach = 2.0 * feet::BEHIND * self.patch.clearance();
        self.at += back + V::UP * reach;
        let (_, below) = self.look_down(2.0 * reach)?;
        let rise = reach - below + lowered;
        let level = ahead.flat();
        (rise > 0.0).then(|| level - V::UP * (rise / back.length() * level.length()))
    }

    /// How far below the ground may be for the feet to follow it.
    fn follows(&self) -> f32 {
        self.rules.ground_snap.max(self.patch.clearance())
    }

    fn passage(&self) -> Passage<V> {
        Passage { at: self.at, velocity: self.velocity, ahead: self.ahead }
    }

    fn go_back_to(&mut self, passage: &Passage<V>) {
        (self.at, self.velocity, self.ahead) = (passage.at, passage.velocity, passage.ahead);
    }

    /// After a walk that led off the ground, moves the body back to where the ground ends: where
    /// the feet would have to be lowered by more than `drop`. Returns the fraction of the time that
    /// has then passed.
    ///
    /// The straight part is found first, then the position on it by bisection: to within a tenth of
    /// the clearance, or a 250th of the part if that is more.
    #[inline(never)]
    fn find_edge(&mut self, trail: &Trail<V>, drop: f32) -> f32 {
        /// The length, in clearances, and the fraction of the part at which the bisection ends.
        const NEAR: (f32, f32) = (0.1, 4e-3);
        const MOST: f32 = 1.0 - 1.0 / 1024.0;
        // There was ground where it started.
        let stands = |at: V, this: &mut Self| {
            this.at = at;
            this.rests_here(drop)
        };
        let first = (1..trail.len()).rev().find(|&i| stands(trail[i].from, self)).unwrap_or(0);
        let Some(stretch) = trail.get(first) else { return 0.0 };
        let (mut on, mut off) = (0.0, 1.0);
        let length = (stretch.to - stretch.from).length();
        while off - on > NEAR.1 && (off - on) * length > NEAR.0 * self.patch.clearance() {
            let fraction = 0.5 * (on + off);
            let stands = stands(stretch.from.lerp(stretch.to, fraction), self);
            *(if stands { &mut on } else { &mut off }) = fraction;
        }
        self.at = stretch.from.lerp(stretch.to, on);
        (self.velocity, self.ahead) = (stretch.velocity, stretch.ahead);
        self.contacts.truncate(stretch.met);
        self.follow_down();
        let (before, after) = stretch.walked;
        // Some time must be left to fall in.
        (before + (after - before) * on).min(MOST)
    }

    /// Returns true if the feet rest on walkable ground no more than `drop` below.
    fn rests_here(&mut self, drop: f32) -> bool {
        let Some((hit, lowered)) = self.look_down(drop) else { return false };
        self.rests_on(&hit, self.at - V::UP * lowered)
    }

    /// Climbs what blocks `rest`, if it is no higher than a step. Returns the fraction of it that
    /// is left, and the ground on top.
    #[inline(never)]
    fn step_up(&mut self, rest: V, ground: &Stand<V>) -> Option<(f32, Stand<V>)> {
        let height = self.rules.step_height;
        if height <= 0.0 || !ground.firm {
            return None;
        }
        self.step_onto(rest, height, ground.point.height())
    }

    /// Climbs what blocks `rest`, if its top is at most `height` above `foot`. Returns the fraction
    /// of `rest` that is left, and the ground on top.
    ///
    /// If a long displacement would lead past the top, as from the first tread of stairs into the
    /// third, the body advances only by as much of it as ends on the top.
    pub(super) fn step_onto(&mut self, rest: V, height: f32, foot: f32) -> Option<(f32, Stand<V>)> {
        let ahead = rest.flat();
        let direction = ahead.direction()?;
        let up = V::UP * height;
        let lifted = height * self.sweep(self.at, up).map_or(1.0, |hit| hit.time);
        let start = self.at + V::UP * lifted;
        // However slow the walk, it looks far enough to stand on the step's edge.
        let least = feet::MIN_ADVANCE * self.patch.clearance();
        let length = ahead.length().max(least);
        let mut advanced = length * self.sweep(start, direction * length).map_or(1.0, |hit| hit.time);
        if advanced <= self.patch.slack() {
            return None;
        }
        let mut found = self.top_below(start + direction * advanced, lifted, foot + height);
        for _ in 0..HALVINGS {
            if found.is_some() || advanced < 2.0 * least {
                break;
            }
            advanced *= 0.5;
            found = self.top_below(start + direction * advanced, lifted, foot + height);
        }
        let (stand, rise) = found?;
        self.at = self.at + direction * advanced + V::UP * rise;
        let left = (1.0 - advanced / ahead.length()).max(0.0);
        self.ahead += (advanced - ahead.length()).max(0.0);
        Some((left, stand))
    }

    /// The walkable top on which a body lands that was lifted by `lifted` to `over`, and how much
    /// it rises to it. `highest` is the maximum height of that top.
    fn top_below(&mut self, over: V, lifted: f32, highest: f32) -> Option<(Stand<V>, f32)> {
        let slack = self.patch.slack();
        let hit = self.support(over, lifted + slack)?;
        let rise = lifted - (lifted + slack) * hit.time;
        let is_low_enough = hit.point.height() <= highest + slack;
        let stand = Stand { firm: true, normal: hit.face, point: hit.point, tag: hit.tag };
        (rise > slack && is_low_enough && self.rules.walkable(hit.face)).then_some((stand, rise))
    }

    /// The ground that the feet follow down.
    pub(super) fn ground_to_follow(&mut self) -> Option<(Stand<V>, f32)> {
        self.ground_below(self.follows())
    }

    /// Lowers the feet onto the ground, if it is near enough below.
    fn follow_down(&mut self) -> Option<Stand<V>> {
        let (stand, lowered) = self.ground_to_follow()?;
        if stand.firm {
            // Within a twentieth of the clearance the feet stay where they are.
            if lowered.abs() > 0.25 * self.patch.slack() {
                self.at -= V::UP * lowered;
            }
            self.velocity = turned_onto(self.velocity, stand.normal);
            Some(stand)
        } else {
            (lowered <= self.patch.clearance()).then_some(stand)
        }
    }
}

/// The normals of walls for a body that keeps to the ground: the component of each along the
/// ground.
///
/// Every wall counts, however it leans. An underside that comes down ahead, without such a
/// component, blocks the path on which it is touched.
fn along_ground<V: Vector>(walls: &[V], ground: V, displacement: V) -> SmallVec<[V; WALLS]> {
    let ahead = displacement.direction().unwrap_or(V::ZERO);
    let beside = |wall: &V| {
        let along = wall.slid_along(ground);
        if along.length_squared() > feet::MIN_ANGLE * feet::MIN_ANGLE {
            along * (1.0 / along.length())
        } else {
            -ahead
        }
    };
    walls.iter().map(beside).collect()
}

/// The rest of a displacement, turned onto walkable ground that rises ahead: with the same length
/// on a face, and with the same length seen from above over an edge.
fn onto<V: Vector>(rest: V, hit: &Hit<V>) -> V {
    if hit.edge { laid_on(rest, hit.normal) } else { turned_onto(rest, hit.normal) }
}
