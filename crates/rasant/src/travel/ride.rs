//! Taken along, and pushed, by carriers.
//!
//! When a tick begins, the carriers' pieces are already where they are at its
//! end. A rider is moved along first, past the pieces it rides on. A body in
//! the way of another carrier is pushed by what it would meet if the carrier
//! stood still and the body came the other way.

use crate::contact::Geometry;
use crate::level::CarrierId;

use super::{Traveller, resolve};

/// Walls that a carried or pushed body slides along at most.
const SLIDES: usize = 3;

impl<V: Geometry> Traveller<'_, V> {
    /// Takes the body along by `way`, which its carrier moves in this tick.
    /// What is in the way holds it back.
    #[inline(never)]
    pub fn carried(&mut self, way: V, carrier: CarrierId) {
        self.shoved(way, carrier);
    }

    /// Pushes the body out of the way of a carrier that moves by `way` where
    /// the body is, in a tick of `dt` seconds.
    #[inline(never)]
    pub fn pushed(&mut self, way: V, carrier: CarrierId, dt: f32) {
        let from = self.at + way;
        self.reach(self.at, way);
        let others = |tag: &crate::level::Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        let Some(hit) = self.patch.sweep_past(from, -way, None, others).hit else { return };
        let into = way.dot(hit.normal);
        if into <= 0.0 {
            return;
        }
        self.shoved(hit.normal * (into * (1.0 - hit.share)), carrier);
        // The body is at least as fast, away from the carrier, as that is.
        let slower = into / dt - self.velocity.dot(hit.normal);
        if slower > 0.0 {
            self.velocity += hit.normal * slower;
        }
    }

    /// Moves the body by `way`, sliding along what is not of `carrier`.
    fn shoved(&mut self, way: V, carrier: CarrierId) {
        let mut rest = way;
        let mut planes: smallvec::SmallVec<[V; SLIDES]> = smallvec::SmallVec::new();
        for _ in 0..SLIDES {
            self.reach(self.at, rest);
            let own = |tag: &crate::level::Tag| tag.carrier == Some(carrier) || self.is_passed(tag);
            let Some(hit) = self.patch.sweep_past(self.at, rest, None, own).hit else {
                self.at += rest;
                return;
            };
            self.at += rest * hit.share;
            planes.push(hit.normal);
            rest = resolve(rest * (1.0 - hit.share), &planes);
        }
    }
}
