//! On foot: along the ground, up steps, down after it.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::space::Vector;

use super::{BUMPS, Stand, Traveller, laid_on, off, resolve, turned_onto};

/// How a walk to where the ground ends came out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Walk<V> {
    /// All the way, on ground that can be walked.
    OnGround(Stand<V>),
    /// To where that ended, this share of the way.
    ToEdge(f32),
}

/// Where a traveller set out from.
struct Start<V> {
    at: V,
    velocity: V,
    /// How many contacts it had.
    met: usize,
    /// How far it was ahead of its way.
    ahead: f32,
}

impl<V: Geometry> Traveller<'_, V> {
    /// Walks `way`, a displacement along the ground that `ground` is, and
    /// follows the ground down at the end. Gives what the feet are on then;
    /// nothing when the ground has fallen away.
    pub fn walk(&mut self, way: V, ground: Stand<V>) -> Option<Stand<V>> {
        // What is left of the way and the velocity as they were set out, and the
        // way as the walls let it be.
        let (mut wanted, mut rest, mut going) = (way, way, self.velocity);
        let mut ground = ground;
        let mut walls: SmallVec<[V; BUMPS]> = SmallVec::new();
        for _ in 0..BUMPS {
            if rest.length_squared() <= 0.0 {
                break;
            }
            let met = if walls.is_empty() {
                self.sweep_over(self.at, rest, Some(ground.normal))
            } else {
                self.sweep_beside(rest, Some(ground.normal))
            };
            let soft = || if walls.is_empty() { self.still_against(rest) } else { None };
            let Some(hit) = met.or_else(soft) else {
                self.at += rest;
                break;
            };
            self.at += rest * hit.share;
            wanted *= 1.0 - hit.share;
            rest *= 1.0 - hit.share;
            if self.rules.walkable(hit.normal) {
                ground.normal = hit.normal;
                (wanted, going) = (onto(wanted, &hit), turned_onto(going, hit.normal));
                if walls.is_empty() {
                    rest = wanted;
                    continue;
                }
            } else if let Some((share, stand)) = self.step_up(rest, &ground) {
                ground = stand;
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
        let start =
            Start { at: self.at, velocity: self.velocity, met: self.contacts.len(), ahead: self.ahead };
        match self.walk(way, ground) {
            Some(stand) if stand.firm => Walk::OnGround(stand),
            _ => Walk::ToEdge(self.find_edge(&start, way, ground)),
        }
    }

    /// Walks again, from `start`, a way that led off the ground, and stops where
    /// the ground ends. Gives the share of the way that is then behind.
    ///
    /// The place is found by halving: to within a thousandth of the way.
    #[inline(never)]
    fn find_edge(&mut self, start: &Start<V>, way: V, ground: Stand<V>) -> f32 {
        const HALVINGS: u32 = 10;
        let (mut on, mut off) = (0.0, 1.0);
        for _ in 0..HALVINGS {
            let share = 0.5 * (on + off);
            self.go_back(start);
            let stands = self.walk(way * share, ground).is_some_and(|stand| stand.firm);
            *(if stands { &mut on } else { &mut off }) = share;
        }
        self.go_back(start);
        if on > 0.0 {
            self.walk(way * on, ground);
        }
        on
    }

    fn go_back(&mut self, start: &Start<V>) {
        (self.at, self.velocity, self.ahead) = (start.at, start.velocity, start.ahead);
        self.contacts.truncate(start.met);
    }

    /// Climbs what blocks `rest` if it is no higher than a curb. Gives the share
    /// of it that is left, and the ground on top.
    #[inline(never)]
    fn step_up(&mut self, rest: V, ground: &Stand<V>) -> Option<(f32, Stand<V>)> {
        let curb = self.rules.curb;
        if curb <= 0.0 || !ground.firm {
            return None;
        }
        self.step_onto(rest, curb, ground.point.height())
    }

    /// Climbs what blocks `rest` if its top is at most `curb` above `foot`.
    pub(super) fn step_onto(&mut self, rest: V, curb: f32, foot: f32) -> Option<(f32, Stand<V>)> {
        let ahead = rest.flat();
        let direction = ahead.direction()?;
        let up = V::UP * curb;
        let lifted = curb * self.sweep(self.at, up).map_or(1.0, |hit| hit.share);
        let start = self.at + V::UP * lifted;
        // However slow the walk, look far enough to stand on the step's edge.
        let length = ahead.length().max(3.0 * self.patch.clearance());
        let share = self.sweep(start, direction * length).map_or(1.0, |hit| hit.share);
        let advanced = length * share;
        if advanced <= self.patch.slack() {
            return None;
        }
        let over = start + direction * advanced;
        let hit = self.support(over, lifted + self.patch.slack())?;
        let rise = lifted - (lifted + self.patch.slack()) * hit.share;
        let climbs = rise > self.patch.slack();
        let low_enough = hit.point.height() - foot <= curb + self.patch.slack();
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
        self.ground_below(self.rules.cling.max(self.patch.clearance()))
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
