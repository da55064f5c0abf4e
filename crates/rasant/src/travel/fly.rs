//! Motion through the air: slide along what is touched, until the feet land.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::level::Tag;
use crate::thresholds::{rounding, walls};

use super::{BUMPS, ContactKind, Landings, Mover, Stand, off, resolve, resolve_beside};

/// A part of a tick in which the acceleration is constant.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Leg<V> {
    /// The displacement of the leg: the integral of its velocity.
    pub displacement: V,
    /// The velocity at its start.
    pub from: V,
    /// The velocity at its end.
    pub to: V,
    /// The duration, in seconds.
    pub time: f32,
}

impl<V: Geometry> Leg<V> {
    /// The same leg for a body that was made faster by a push, without a further displacement in
    /// this tick: the push has moved it already.
    #[must_use]
    pub(crate) fn faster(&self, by: V) -> Self {
        Self { from: self.from + by, to: self.to + by, ..*self }
    }
}

/// How a leg through the air ended.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Flight<V> {
    /// Still airborne.
    Airborne,
    /// The feet came down on walkable ground.
    Landed {
        /// The ground.
        on: Stand<V>,
        /// The downward speed at the touch, in m/s.
        speed: f32,
        /// The velocity at the touch.
        velocity: V,
        /// The remaining displacement of the leg.
        rest: V,
        /// The remaining time of the leg, in seconds.
        left: f32,
    },
    /// The body came down along a wall that holds it.
    AtWall {
        /// The normal of the wall.
        normal: V,
        /// The wall.
        wall: Tag,
        /// The remaining time of the leg, in seconds.
        left: f32,
    },
}

/// Returns true if a wall with this normal and tag holds a body that comes down along it.
pub type Holds<'a, V> = dyn Fn(V, &Tag) -> bool + 'a;

impl<V: Geometry> Mover<'_, V> {
    /// Flies one leg. Afterwards the velocity is that of the leg's end, without its components into
    /// pieces. `ground` returns the velocity of the ground at a piece: landings are judged relative
    /// to it. A wall that `holds` the body ends the leg. `left` is the time of the tick that
    /// remains when the leg begins.
    pub fn fly(
        &mut self,
        leg: &Leg<V>,
        left: f32,
        ground: &dyn Fn(&Tag) -> V,
        holds: Option<&Holds<'_, V>>,
    ) -> Flight<V> {
        // The rest of the leg's displacement as intended, and as the planes allow it.
        let (mut intended, mut rest) = (leg.displacement, leg.displacement);
        let mut done = 0.0;
        let mut nudged = false;
        let mut planes: SmallVec<[V; BUMPS]> = SmallVec::new();
        self.velocity = leg.to;
        if leg.displacement == V::ZERO {
            self.feel_overlap();
        }
        for _ in 0..BUMPS {
            if rest.length_squared() <= 0.0 {
                break;
            }
            let spent = done * leg.time;
            let met = if planes.is_empty() || !self.among.carriers.is_empty() {
                self.sweep_among(rest, left - spent, leg.time - spent)
            } else {
                self.sweep_beside(rest, None)
            };
            let soft = || if planes.is_empty() { self.still_against(rest) } else { None };
            let Some(hit) = met.or_else(soft) else {
                self.at += rest;
                break;
            };
            self.at += rest * hit.time;
            intended *= 1.0 - hit.time;
            rest *= 1.0 - hit.time;
            done += (1.0 - done) * hit.time;
            let velocity = resolve(leg.from.lerp(leg.to, done), &planes);
            let rises = ground(&hit.tag).height();
            // A body that a lift has pushed has the speed of the lift, except for rounding.
            let sinking = rises - velocity.height() + rounding::OF_LENGTH * rises.abs();
            // A wall holds a body that already leans on something.
            let leans = hit.face.height() > 0.0 || !planes.is_empty();
            if sinking >= 0.0 && leans && self.landings == Landings::Ground {
                let on = self.stand_on(&hit, self.at);
                if on.firm && self.will_stand(&hit) {
                    let left = (1.0 - done) * leg.time;
                    return Flight::Landed { on, speed: sinking, velocity, rest, left };
                }
            }
            if self.landings == Landings::Ground {
                if !nudged && self.nudge_round_corner(&hit, rest) {
                    nudged = true;
                    continue;
                }
                if let Some((on, rest)) = self.nudge_onto_lip(&hit, rest) {
                    let left = (1.0 - done) * leg.time;
                    return Flight::Landed { on, speed: sinking.max(0.0), velocity, rest, left };
                }
            }
            let of_piece = self.velocity_of(&hit);
            self.note(&hit, velocity - of_piece);
            planes.push(hit.normal);
            if let Some(holds) = holds
                && velocity.height() <= 0.0
                && self.kind_of(hit.normal) == ContactKind::Wall
                && holds(hit.normal, &hit.tag)
            {
                self.velocity = resolve(leg.from.lerp(leg.to, done), &planes);
                return Flight::AtWall { normal: hit.normal, wall: hit.tag, left: (1.0 - done) * leg.time };
            }
            let recedes = of_piece.dot(hit.normal);
            self.velocity = resolve_beside(leg.to, &planes, recedes);
            rest = off(resolve(intended, &planes), &planes);
        }
        Flight::Airborne
    }

    /// Returns true if feet that come down on `hit` will be found standing afterwards. Walkable
    /// ground surely holds them. Between slopes too steep to stand on, small differences decide,
    /// and nothing lands on what does not hold it.
    fn will_stand(&mut self, hit: &Hit<V>) -> bool {
        let sure = self.rules.walkable(hit.normal) && self.rules.walkable(hit.face);
        sure || self.ground_to_follow().is_some_and(|(stand, _)| stand.firm)
    }

    /// Records how deep the body is inside something, for a tick in which no sweep does.
    #[inline(never)]
    fn feel_overlap(&mut self) {
        if let Some(overlap) = self.patch.overlap(self.at, |tag| self.is_passed(tag)) {
            self.depth = self.depth.max(self.patch.clearance() - overlap.distance);
        }
    }

    /// Moves along a leg, sliding along what is touched and landing on nothing.
    pub fn glide(&mut self, leg: &Leg<V>, landings: Landings) {
        self.landings = landings;
        self.fly(leg, leg.time, &|_| V::ZERO, None);
        self.landings = Landings::Ground;
    }

    /// The walkable ground just below, if there is some. The body is put on it, at rest.
    pub fn arrive(&mut self) -> Option<Stand<V>> {
        let (stand, lowered) = self.ground_below(2.0 * self.patch.clearance())?;
        if !stand.firm {
            return None;
        }
        self.at -= V::UP * lowered;
        self.velocity = V::ZERO;
        Some(stand)
    }

    /// The steep slope that the body leaned on last, if it touched one, or that it still lies on if
    /// it `lay` on one with this normal before: sliding down at a constant speed presses on
    /// nothing.
    #[must_use]
    pub fn steep(&mut self, lay: Option<V>) -> Option<Stand<V>> {
        match self.contacts.iter().rev().find(|contact| contact.kind == ContactKind::Steep) {
            Some(contact) => {
                Some(Stand { firm: false, normal: contact.normal, point: contact.point, tag: contact.tag })
            }
            None => {
                let normal = lay.filter(|_| self.velocity.height() <= 0.0)?;
                let Hit { normal, point, tag, .. } = self
                    .sweep(self.at, normal * (-2.0 * self.patch.clearance()))
                    .filter(|hit| hit.normal.dot(normal) > walls::ONE_WALL)?;
                let is_steep = self.kind_of(normal) == ContactKind::Steep;
                is_steep.then_some(Stand { firm: false, normal, point, tag })
            }
        }
    }
}
