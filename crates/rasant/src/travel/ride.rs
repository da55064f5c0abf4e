//! Taken along, and pushed, by carriers.
//!
//! When a tick begins, the carriers' pieces are already where they are at its
//! end. A rider is moved along first, past the pieces it rides on. A body in
//! the way of another carrier is pushed by what it would meet if the carrier
//! stood still and the body came the other way.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::level::{CarrierId, Tag};

use super::{Among, Traveller, off, resolve};

/// Walls that a carried or pushed body slides along at most.
const SLIDES: usize = 3;

impl<V: Geometry> Traveller<'_, V> {
    /// Takes the body along by `way`, which its carrier moves in this tick.
    /// What is in the way holds it back.
    #[inline(never)]
    pub fn carried(&mut self, way: V, carrier: CarrierId) {
        self.rides = Some((way, carrier));
        self.shoved(way, carrier);
    }

    /// Pushes the body out of the way of the carriers nearby.
    pub fn pushed(&mut self) {
        let Among { carriers, dt } = self.among;
        for &(way, carrier) in carriers {
            self.pushed_by(way, carrier, dt);
        }
    }

    #[inline(never)]
    fn pushed_by(&mut self, way: V, carrier: CarrierId, dt: f32) {
        let from = self.at + way;
        self.reach(self.at, way);
        let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        let swept = self.patch.sweep_past(from, -way, None, others);
        let Some(hit) = swept.hit else { return };
        let into = way.dot(hit.normal);
        // What it is inside of already goes on through it.
        if into <= 0.0 || self.patch.is_overlap(swept.depth) {
            return;
        }
        self.shoved(hit.normal * (into * (1.0 - hit.time)), carrier);
        // The body is at least as fast, away from the carrier, as that is.
        let slower = into / dt - self.velocity.dot(hit.normal);
        if slower > 0.0 {
            self.velocity += hit.normal * slower;
        }
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
        let Among { carriers, dt } = self.among;
        let mut outrun: SmallVec<[CarrierId; 4]> = SmallVec::new();
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
