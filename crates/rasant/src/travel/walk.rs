//! On foot: along the ground, up steps, down after it.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::space::Vector;

use super::{BUMPS, Stand, Traveller, laid_on, off, resolve, turned_onto};

/// Steps up that are tried in a walk.
const STEPS: usize = 3;

/// How a walk to where the ground ends came out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Walk<V> {
    /// All the way, on ground that can be walked.
    OnGround(Stand<V>),
    /// To where that ended, this share of the way.
    ToEdge(f32),
}

/// A straight stretch of a walk.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stretch<V> {
    from: V,
    to: V,
    /// The velocity on it.
    velocity: V,
    /// The shares of the walk's time that are over before and after it.
    gone: (f32, f32),
    /// How many contacts there were before it.
    met: usize,
    /// How far steps had put the body ahead of its way.
    ahead: f32,
}

/// The stretches of a walk.
pub(super) type Trail<V> = SmallVec<[Stretch<V>; BUMPS]>;

impl<V: Geometry> Traveller<'_, V> {
    /// Walks `way`, a displacement along the ground that `ground` is, and
    /// follows the ground down at the end. Gives what the feet are on then;
    /// nothing when the ground has fallen away.
    pub fn walk(&mut self, way: V, ground: Stand<V>) -> Option<Stand<V>> {
        self.walk_along(way, ground, &mut Trail::new())
    }

    fn walk_along(&mut self, way: V, ground: Stand<V>, trail: &mut Trail<V>) -> Option<Stand<V>> {
        // What is left of the way and the velocity as they were set out, and the
        // way as the walls let it be.
        let (mut wanted, mut rest, mut going) = (way, way, self.velocity);
        let mut ground = ground;
        let mut walls: SmallVec<[V; BUMPS]> = SmallVec::new();
        let mut gone = 0.0;
        let mut steps = 0;
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
            let share = hit.map_or(1.0, |hit| hit.time);
            self.at += rest * share;
            let over = gone + (1.0 - gone) * share;
            trail.push(Stretch {
                from,
                to: self.at,
                velocity: self.velocity,
                gone: (gone, over),
                met: met_before,
                ahead: self.ahead,
            });
            let Some(hit) = hit else { break };
            gone = over;
            wanted *= 1.0 - hit.time;
            rest *= 1.0 - hit.time;
            if self.rules.walkable(hit.normal) {
                // Between walls the next face may turn it back onto the last, which
                // then holds it as they do.
                if !walls.is_empty() {
                    walls.push(ground.normal);
                }
                ground.normal = hit.normal;
                (wanted, going) = (onto(wanted, &hit), turned_onto(going, hit.normal));
                if walls.is_empty() {
                    rest = wanted;
                    continue;
                }
            } else if steps < STEPS
                && let Some((share, stand)) = {
                    steps += 1;
                    self.step_up(rest, &ground)
                }
            {
                ground = stand;
                gone = 1.0 - (1.0 - gone) * share;
                wanted = laid_on(wanted.flat() * share, ground.normal);
                if walls.is_empty() {
                    rest = wanted;
                    continue;
                }
            } else {
                self.note(&hit, self.velocity);
                walls.push(hit.normal);
            }
            let beside = along_ground(&walls, ground.normal, wanted);
            self.velocity = resolve(going, &beside);
            rest = off(resolve(wanted, &beside), &beside);
        }
        self.follow_down()
    }

    /// Walks `way` as far as there is ground.
    #[inline]
    pub fn walk_to_edge(&mut self, way: V, ground: Stand<V>) -> Walk<V> {
        let mut trail = Trail::new();
        match self.walk_along(way, ground, &mut trail) {
            Some(stand) if stand.firm => Walk::OnGround(stand),
            _ => Walk::ToEdge(self.find_edge(&trail)),
        }
    }

    /// Goes back to where the ground ends, after a walk that led off it. Gives the
    /// share of the time that is then over.
    ///
    /// The stretch is found first, then the place on it by halving: to within half a
    /// millimetre, or a 250th of it where that is more.
    #[inline(never)]
    fn find_edge(&mut self, trail: &Trail<V>) -> f32 {
        /// The length, in metres, and the share of it of which one is no longer halved.
        const NEAR: (f32, f32) = (5e-4, 4e-3);
        const MOST: f32 = 1.0 - 1.0 / 1024.0;
        // Where it set out there was ground.
        let stands = |at: V, this: &mut Self| {
            this.at = at;
            this.rests_here()
        };
        let first = (1..trail.len()).rev().find(|&i| stands(trail[i].from, self)).unwrap_or(0);
        let Some(stretch) = trail.get(first) else { return 0.0 };
        let (mut on, mut off) = (0.0, 1.0);
        let length = (stretch.to - stretch.from).length();
        while off - on > NEAR.1 && (off - on) * length > NEAR.0 {
            let share = 0.5 * (on + off);
            let stands = stands(stretch.from.lerp(stretch.to, share), self);
            *(if stands { &mut on } else { &mut off }) = share;
        }
        self.at = stretch.from.lerp(stretch.to, on);
        (self.velocity, self.ahead) = (stretch.velocity, stretch.ahead);
        self.contacts.truncate(stretch.met);
        self.follow_down();
        let (before, after) = stretch.gone;
        // Something is left to fall in.
        (before + (after - before) * on).min(MOST)
    }

    /// Whether the feet, where they are, rest on walkable ground that they follow down
    /// to.
    fn rests_here(&mut self) -> bool {
        let Some((hit, lowered)) = self.look_down(self.rules.ground_snap.max(self.patch.clearance())) else {
            return false;
        };
        self.rests_on(&hit, self.at - V::UP * lowered)
    }

    /// Climbs what blocks `rest` if it is no higher than a step. Gives the share
    /// of it that is left, and the ground on top.
    #[inline(never)]
    fn step_up(&mut self, rest: V, ground: &Stand<V>) -> Option<(f32, Stand<V>)> {
        let height = self.rules.step_height;
        if height <= 0.0 || !ground.firm {
            return None;
        }
        self.step_onto(rest, height, ground.point.height())
    }

    /// Climbs what blocks `rest` if its top is at most `height` above `foot`.
    pub(super) fn step_onto(&mut self, rest: V, height: f32, foot: f32) -> Option<(f32, Stand<V>)> {
        let ahead = rest.flat();
        let direction = ahead.direction()?;
        let up = V::UP * height;
        let lifted = height * self.sweep(self.at, up).map_or(1.0, |hit| hit.time);
        let start = self.at + V::UP * lifted;
        // However slow the walk, look far enough to stand on the step's edge.
        let length = ahead.length().max(3.0 * self.patch.clearance());
        let share = self.sweep(start, direction * length).map_or(1.0, |hit| hit.time);
        let advanced = length * share;
        if advanced <= self.patch.slack() {
            return None;
        }
        let over = start + direction * advanced;
        let hit = self.support(over, lifted + self.patch.slack())?;
        let rise = lifted - (lifted + self.patch.slack()) * hit.time;
        let climbs = rise > self.patch.slack();
        let low_enough = hit.point.height() - foot <= height + self.patch.slack();
        if !(climbs && low_enough && self.rules.walkable(hit.face)) {
            return None;
        }
        self.at = self.at + direction * advanced + V::UP * rise;
        let left = (1.0 - advanced / ahead.length()).max(0.0);
        self.ahead += (advanced - ahead.length()).max(0.0);
        let stand = Stand { firm: true, normal: hit.face, point: hit.point, tag: hit.tag };
        Some((left, stand))
    }

    /// The ground that feet follow down to.
    pub(super) fn ground_to_follow(&mut self) -> Option<(Stand<V>, f32)> {
        self.ground_below(self.rules.ground_snap.max(self.patch.clearance()))
    }

    /// Lowers the feet onto the ground if it is near enough below.
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

/// The normals of walls as they stand in the way of one who keeps to the ground:
/// each one's part along it.
///
/// A wall is one to walk into, however it leans. An underside that comes down
/// ahead, with no such part, blocks the way it is met on.
fn along_ground<V: Vector>(walls: &[V], ground: V, way: V) -> SmallVec<[V; BUMPS]> {
    /// The sine of the least angle between wall and ground: 0.06 degrees.
    const LEAST: f32 = 1e-3;
    let ahead = way.direction().unwrap_or(V::ZERO);
    let beside = |wall: &V| {
        let along = wall.slid_along(ground);
        if along.length_squared() > LEAST * LEAST { along * (1.0 / along.length()) } else { -ahead }
    };
    walls.iter().map(beside).collect()
}

/// The rest of a way, turned onto walkable ground that rises ahead: as long as
/// it was on a face, and as far seen from above over an edge.
fn onto<V: Vector>(rest: V, hit: &Hit<V>) -> V {
    if hit.edge { laid_on(rest, hit.normal) } else { turned_onto(rest, hit.normal) }
}
