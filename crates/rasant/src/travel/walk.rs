//! On foot: along the ground, up steps, down after it.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::space::Vector;

use super::{BUMPS, Stand, Traveller, laid_on, resolve, turned_onto};

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
}

impl<V: Geometry> Traveller<'_, V> {
    /// Walks `way`, a displacement along the ground that `ground` is, and
    /// follows the ground down at the end. Gives what the feet are on then;
    /// nothing when the ground has fallen away.
    pub fn walk(&mut self, way: V, ground: Stand<V>) -> Option<Stand<V>> {
        let mut rest = way;
        let mut ground = ground;
        let mut walls: SmallVec<[V; BUMPS]> = SmallVec::new();
        for _ in 0..BUMPS {
            if rest.length_squared() <= 0.0 {
                break;
            }
            let met = self.sweep_over(self.at, rest, Some(ground.normal));
            let Some(hit) = met.or_else(|| self.still_against(rest)) else {
                self.at += rest;
                break;
            };
            self.at += rest * hit.share;
            rest *= 1.0 - hit.share;
            if self.rules.walkable(hit.normal) {
                rest = onto(rest, &hit);
                ground.normal = hit.normal;
            } else if let Some((left, stand)) = self.step_up(rest, &ground) {
                rest = left;
                ground = stand;
            } else {
                rest = self.along_wall(rest, &hit, &ground, &mut walls);
            }
        }
        self.follow_down()
    }

    /// Walks `way` as far as there is ground.
    #[inline]
    pub fn walk_to_edge(&mut self, way: V, ground: Stand<V>) -> Walk<V> {
        let start = Start { at: self.at, velocity: self.velocity, met: self.contacts.len() };
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
        (self.at, self.velocity) = (start.at, start.velocity);
        self.contacts.truncate(start.met);
    }

    /// The rest of a way after a wall: along it, without leaving the ground.
    #[inline(never)]
    fn along_wall(
        &mut self,
        rest: V,
        hit: &Hit<V>,
        ground: &Stand<V>,
        walls: &mut SmallVec<[V; BUMPS]>,
    ) -> V {
        self.note(hit, self.velocity);
        // A wall to walk into, however it leans: only its direction from above
        // counts. An underside that comes down ahead blocks the same way.
        let against = rest.flat().direction().map_or(V::ZERO, |ahead| -ahead);
        let wall = hit.normal.flat().direction().unwrap_or(against);
        walls.push(wall);
        self.velocity = resolve(self.velocity.flat(), walls);
        let free = resolve(rest, walls);
        match ground.normal.crease(hit.normal) {
            Some(crease) if walls.len() == 1 => crease * free.dot(crease),
            _ => laid_on(free, ground.normal),
        }
    }

    /// Climbs what blocks `rest` if it is no higher than a curb. Gives what is
    /// left of the way, and the ground on top.
    #[inline(never)]
    fn step_up(&mut self, rest: V, ground: &Stand<V>) -> Option<(V, Stand<V>)> {
        let curb = self.rules.curb;
        if curb <= 0.0 || !ground.firm {
            return None;
        }
        self.step_onto(rest, curb, ground.point.height())
    }

    /// Climbs what blocks `rest` if its top is at most `curb` above `foot`.
    pub(super) fn step_onto(&mut self, rest: V, curb: f32, foot: f32) -> Option<(V, Stand<V>)> {
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
        let stand = Stand { firm: true, normal: hit.face, point: hit.point, tag: hit.tag };
        Some((laid_on(ahead * left, hit.face), stand))
    }

    /// Lowers the feet onto the ground if it is near enough below.
    fn follow_down(&mut self) -> Option<Stand<V>> {
        let reach = self.rules.cling.max(self.patch.clearance());
        let (stand, lowered) = self.ground_below(reach)?;
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

/// The rest of a way, turned onto walkable ground that rises ahead: as long as
/// it was on a face, and as far seen from above over an edge.
fn onto<V: Vector>(rest: V, hit: &Hit<V>) -> V {
    if hit.edge { laid_on(rest, hit.normal) } else { turned_onto(rest, hit.normal) }
}
