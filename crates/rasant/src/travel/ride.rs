//! Being carried and pushed by carriers.
//!
//! At the start of a tick, the pieces of carriers are already where they are at its end. A rider is
//! moved along first, ignoring the pieces that it rides on. Another carrier that moves into the
//! body pushes it by what would be touched if the carrier stood still and the body moved in the
//! opposite direction.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit, Nearest};
use crate::level::{CarrierId, Tag};
use crate::thresholds::room;

use super::{Among, Contact, ContactKind, Mover, off, resolve};

/// The maximum number of walls that a carried or pushed body slides along.
const SLIDES: usize = 3;
/// The maximum number of pushes by one carrier in a tick.
const PUSHES: usize = 3;
/// The number of iterations for the displacement of the touching point.
const ROUNDS: usize = 4;

impl<V: Geometry> Mover<'_, V> {
    /// Carries the body along by `displacement`, the motion of its carrier in this tick. Other
    /// pieces stop it.
    #[inline(never)]
    pub fn carried(&mut self, displacement: V, carrier: CarrierId) {
        self.rides = Some((displacement, carrier));
        self.shoved(displacement, Some(carrier));
    }

    /// The velocity of a piece: that of its carrier at the touched point.
    pub(super) fn velocity_of(&self, hit: &Hit<V>) -> V {
        match hit.tag.carrier {
            Some(carrier) => self.moved_to(carrier, hit.point) * (1.0 / self.among.dt),
            None => V::ZERO,
        }
    }

    /// Finds the one-way pieces that carriers take down past the body: those above its feet when
    /// the tick began, or beside them. They are no ground for it, though their tops may now be just
    /// below.
    #[inline(never)]
    fn find_sinking(&mut self) {
        let near = 2.0 * self.patch.clearance();
        let Among { carriers, moved_to, .. } = self.among;
        let sinks = |near: &Nearest<V>| {
            let Some(carrier) = near.tag.carrier.filter(|_| near.tag.one_way) else { return false };
            let down = -moved_to(carrier, near.point).height();
            let was_above = self.patch.clearance() - room::ABOVE_FEET * self.patch.slack();
            carriers.iter().any(|moving| moving.1 == carrier)
                && down > 0.0
                && near.distance - down < was_above
        };
        self.sinking = self.patch.all_near(self.at, near).filter(sinks).map(|near| near.tag.piece).collect();
    }

    /// Pushes the body away from nearby carriers.
    pub fn pushed(&mut self) {
        let Among { carriers, .. } = self.among;
        if !carriers.is_empty() {
            self.find_sinking();
        }
        for &(_, carrier) in carriers {
            for _ in 0..PUSHES {
                if !self.pushed_by(carrier) {
                    break;
                }
            }
        }
    }

    /// Pushes the body by the part of a carrier that touches it first. Returns true if there is
    /// one.
    ///
    /// A rotating carrier has another displacement at each point. The one that counts is that of
    /// the point which touches the body.
    #[inline(never)]
    fn pushed_by(&mut self, carrier: CarrierId) -> bool {
        let Some((hit, moved)) = self.met_by(carrier) else { return false };
        let into = moved.dot(hit.normal);
        let push = into * (1.0 - hit.time);
        if push <= self.patch.slack() * room::MIN_PUSH {
            return false;
        }
        let at = self.at;
        self.shoved(hit.normal * push, Some(carrier));
        // Makes the body at least as fast as the carrier, away from it.
        let slower = into / self.among.dt - self.velocity.dot(hit.normal);
        if slower > 0.0 {
            if self.velocity.height() > 0.0 && self.kind_of(hit.normal) == ContactKind::Ceiling {
                // A rising head is bumped by what comes down on it.
                let Hit { normal, point, tag, .. } = hit;
                self.contacts.push(Contact { normal, point, kind: ContactKind::Ceiling, speed: slower, tag });
            }
            self.velocity += hit.normal * slower;
        }
        self.at != at
    }

    /// The part of a carrier that touches the body where it is, and the displacement of that part
    /// in the tick.
    fn met_by(&mut self, carrier: CarrierId) -> Option<(Hit<V>, V)> {
        let moved_to = self.among.moved_to;
        let (middle, half) = self.patch.upright_middle();
        let turns_by = self.turn_about_the_body(carrier);
        let mut best: Option<(Hit<V>, V)> = None;
        let places = [0.0, -half, half];
        for &height in &places[..if half > 0.0 { 3 } else { 1 }] {
            let mut moved = moved_to(carrier, self.at + middle + V::UP * height);
            let mut met = None;
            for _ in 0..ROUNDS {
                let Some(hit) = self.met_on(carrier, moved, turns_by) else { break };
                met = Some((hit, moved));
                let there = moved_to(carrier, hit.point);
                if (there - moved).length() <= self.patch.slack() {
                    break;
                }
                moved = there;
            }
            let push = |(hit, moved): &(Hit<V>, V)| moved.dot(hit.normal) * (1.0 - hit.time);
            if let Some(met) = met
                && best.as_ref().is_none_or(|held| push(&met) > push(held))
            {
                best = Some(met);
            }
        }
        best
    }

    /// The largest difference between a rotating carrier's displacement at one end of the body and
    /// at its centre.
    fn turn_about_the_body(&self, carrier: CarrierId) -> f32 {
        let moved_to = self.among.moved_to;
        let (middle, _) = self.patch.upright_middle();
        let middle = self.at + middle;
        let moved = moved_to(carrier, middle);
        let further = |end: V| (moved_to(carrier, middle + end) - moved).length();
        self.patch.ends().into_iter().map(further).fold(0.0, f32::max)
    }

    /// The part of a carrier with displacement `moved` that touches the body where it is. Seen from
    /// a rotating carrier, the body rotates in the opposite direction, so it may start inside what it touched,
    /// by at most `turns_by`.
    fn met_on(&mut self, carrier: CarrierId, moved: V, turns_by: f32) -> Option<Hit<V>> {
        let from = self.at + moved;
        self.reach(self.at, moved);
        let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        let swept = self.patch.sweep_past(from, -moved, None, others);
        let hit = swept.hit?;
        // A piece that it overlapped before continues through it.
        (moved.dot(hit.normal) > 0.0 && !self.patch.is_overlap(swept.depth - turns_by)).then_some(hit)
    }

    /// What stops a motion in the last `left` seconds of the tick that takes `time` of them.
    ///
    /// The pieces of carriers are where they are at the end of the tick. A piece that only gets
    /// there behind the body, such as an edge that it has just walked off, is ignored: relative to
    /// that carrier, the motion leads past it.
    pub(super) fn sweep_among(&mut self, motion: V, left: f32, time: f32) -> Option<Hit<V>> {
        let hit = self.sweep(self.at, motion)?;
        let moves = self.among.carriers.iter().any(|&(_, carrier)| hit.tag.carrier == Some(carrier));
        if moves { self.sweep_past_outrun(hit, motion, left, time) } else { Some(hit) }
    }

    /// What stops a motion that touches `hit`, a piece on a carrier.
    #[inline(never)]
    fn sweep_past_outrun(&mut self, hit: Hit<V>, motion: V, left: f32, time: f32) -> Option<Hit<V>> {
        let Among { carriers, dt, .. } = self.among;
        let mut outrun: SmallVec<[CarrierId; 32]> = SmallVec::new();
        for &(displacement, carrier) in carriers {
            let (from, seen) = (self.at + displacement * (left / dt), motion - displacement * (time / dt));
            self.reach(from, seen);
            let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
            if self.patch.sweep_past(from, seen, None, others).hit.is_none() {
                outrun.push(carrier);
            }
        }
        let is_outrun = |tag: &Tag| tag.carrier.is_some_and(|carrier| outrun.contains(&carrier));
        let ignored = |tag: &Tag| is_outrun(tag) || self.is_passed(tag);
        let next = self.patch.sweep_past(self.at, motion, None, ignored).hit;
        // The body must not stop where a piece has yet to arrive.
        let end = self.at + motion * next.map_or(1.0, |hit| hit.time);
        let stops_inside = self.patch.overlap(end, |tag| !is_outrun(tag)).is_some();
        if stops_inside { Some(hit) } else { next }
    }

    /// Moves the body by `displacement`, sliding along pieces that are not on `carrier`.
    pub fn shoved(&mut self, displacement: V, carrier: Option<CarrierId>) {
        let (mut intended, mut rest) = (displacement, displacement);
        let mut planes: SmallVec<[V; SLIDES]> = SmallVec::new();
        for _ in 0..SLIDES {
            self.reach(self.at, rest);
            let own = |tag: &Tag| (carrier.is_some() && tag.carrier == carrier) || self.is_passed(tag);
            let Some(hit) = self.patch.sweep_past(self.at, rest, None, own).hit else {
                self.at += rest;
                return;
            };
            self.at += rest * hit.time;
            planes.push(hit.normal);
            intended *= 1.0 - hit.time;
            rest = off(resolve(intended, &planes), &planes);
        }
    }
}
