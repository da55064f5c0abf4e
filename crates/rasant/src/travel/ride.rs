//! Taken along, and pushed, by carriers.
//!
//! When a tick begins, the carriers' pieces are already where they are at its
//! end. A rider is moved along first, past the pieces it rides on. A body in
//! the way of another carrier is pushed by what it would meet if the carrier
//! stood still and the body came the other way.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit, Nearest};
use crate::level::{CarrierId, Tag};
use crate::thresholds::room;

use super::{Among, Contact, ContactKind, Traveller, off, resolve};

/// Walls that a carried or pushed body slides along at most.
const SLIDES: usize = 3;
/// Pushes by one carrier in a tick, at most.
const PUSHES: usize = 3;
/// How often the displacement of the point that meets the body is looked for.
const ROUNDS: usize = 4;

impl<V: Geometry> Traveller<'_, V> {
    /// Takes the body along by `way`, which its carrier moves in this tick.
    /// What is in the way holds it back.
    #[inline(never)]
    pub fn carried(&mut self, way: V, carrier: CarrierId) {
        self.rides = Some((way, carrier));
        self.shoved(way, carrier);
    }

    /// The velocity of a piece: that of its carrier where it is touched.
    pub(super) fn velocity_of(&self, hit: &Hit<V>) -> V {
        match hit.tag.carrier {
            Some(carrier) => self.moved_to(carrier, hit.point) * (1.0 / self.among.dt),
            None => V::ZERO,
        }
    }

    /// Finds the one-way pieces that carriers take down past the body: above its feet when the tick
    /// began, or beside them. They are no ground for it, though their tops may be just below now.
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

    /// Pushes the body out of the way of the carriers nearby.
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

    /// Pushes the body by what of a carrier would meet it first. Returns true if something did.
    ///
    /// A carrier that turns moves by another displacement at each place. The one that counts is
    /// that of the point which meets the body.
    #[inline(never)]
    fn pushed_by(&mut self, carrier: CarrierId) -> bool {
        let Some((hit, moved)) = self.met_by(carrier) else { return false };
        let into = moved.dot(hit.normal);
        let push = into * (1.0 - hit.time);
        if push <= self.patch.slack() * room::MIN_PUSH {
            return false;
        }
        let at = self.at;
        self.shoved(hit.normal * push, carrier);
        // The body is at least as fast, away from the carrier, as that is.
        let slower = into / self.among.dt - self.velocity.dot(hit.normal);
        if slower > 0.0 {
            if self.velocity.height() > 0.0 && self.kind_of(hit.normal) == ContactKind::Ceiling {
                // A head that rises is bumped by what comes down on it.
                let Hit { normal, point, tag, .. } = hit;
                self.contacts.push(Contact { normal, point, kind: ContactKind::Ceiling, speed: slower, tag });
            }
            self.velocity += hit.normal * slower;
        }
        self.at != at
    }

    /// What of a carrier meets the body where it stands, and how far that has come in the tick.
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

    /// How much further, at most, a carrier that turns moves at one end of the body than at its
    /// middle.
    fn turn_about_the_body(&self, carrier: CarrierId) -> f32 {
        let moved_to = self.among.moved_to;
        let (middle, _) = self.patch.upright_middle();
        let middle = self.at + middle;
        let moved = moved_to(carrier, middle);
        let further = |end: V| (moved_to(carrier, middle + end) - moved).length();
        self.patch.ends().into_iter().map(further).fold(0.0, f32::max)
    }

    /// What of a carrier, moving by `moved`, meets the body where it stands.
    ///
    /// As seen from a carrier that turns, the body turns the other way, so that it may begin in
    /// what it touched, by `turns_by` at most.
    fn met_on(&mut self, carrier: CarrierId, moved: V, turns_by: f32) -> Option<Hit<V>> {
        let from = self.at + moved;
        self.reach(self.at, moved);
        let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        let swept = self.patch.sweep_past(from, -moved, None, others);
        let hit = swept.hit?;
        // What it is inside of already goes on through it.
        (moved.dot(hit.normal) > 0.0 && !self.patch.is_overlap(swept.depth - turns_by)).then_some(hit)
    }

    /// What stops a motion of the last `left` seconds of the tick that takes `time`
    /// of them.
    ///
    /// Pieces on carriers are where they are at the end of the tick. One that gets
    /// there only behind the body, as the edge does that it has just walked off, is
    /// not met: seen from that carrier, the motion leads past it.
    pub(super) fn sweep_among(&mut self, motion: V, left: f32, time: f32) -> Option<Hit<V>> {
        let hit = self.sweep(self.at, motion)?;
        let moves = self.among.carriers.iter().any(|&(_, carrier)| hit.tag.carrier == Some(carrier));
        if moves { self.sweep_past_outrun(hit, motion, left, time) } else { Some(hit) }
    }

    /// What a motion that meets `hit`, on a carrier, is stopped by.
    #[inline(never)]
    fn sweep_past_outrun(&mut self, hit: Hit<V>, motion: V, left: f32, time: f32) -> Option<Hit<V>> {
        let Among { carriers, dt, .. } = self.among;
        let mut outrun: SmallVec<[CarrierId; 32]> = SmallVec::new();
        for &(way, carrier) in carriers {
            let (from, seen) = (self.at + way * (left / dt), motion - way * (time / dt));
            self.reach(from, seen);
            let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
            if self.patch.sweep_past(from, seen, None, others).hit.is_none() {
                outrun.push(carrier);
            }
        }
        let is_outrun = |tag: &Tag| tag.carrier.is_some_and(|carrier| outrun.contains(&carrier));
        let ignored = |tag: &Tag| is_outrun(tag) || self.is_passed(tag);
        let next = self.patch.sweep_past(self.at, motion, None, ignored).hit;
        // Nobody stops where a piece has yet to come to.
        let end = self.at + motion * next.map_or(1.0, |hit| hit.time);
        let stops_inside = self.patch.overlap(end, |tag| !is_outrun(tag)).is_some();
        if stops_inside { Some(hit) } else { next }
    }

    /// Moves the body by `way`, sliding along what is not of `carrier`.
    fn shoved(&mut self, way: V, carrier: CarrierId) {
        let (mut wanted, mut rest) = (way, way);
        let mut planes: SmallVec<[V; SLIDES]> = SmallVec::new();
        for _ in 0..SLIDES {
            self.reach(self.at, rest);
            let own = |tag: &Tag| tag.carrier == Some(carrier) || self.is_passed(tag);
            let Some(hit) = self.patch.sweep_past(self.at, rest, None, own).hit else {
                self.at += rest;
                return;
            };
            self.at += rest * hit.time;
            planes.push(hit.normal);
            wanted *= 1.0 - hit.time;
            rest = off(resolve(wanted, &planes), &planes);
        }
    }
}
