//! Getting free of an overlap.

use smallvec::SmallVec;

use crate::contact::{Geometry, Nearest};
use crate::level::{CarrierId, PieceId};

use super::{Among, Traveller, resolve};

/// Pieces that are pushed out of one after the other at most.
const PUSHES: usize = 12;
/// Clearances by which anything may be left, wherever that leads.
const HAIRS: f32 = 4.0;

/// How an overlap was dealt with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freed {
    /// There was none.
    Clear,
    /// The body was moved out of it.
    Moved,
    /// There is no way out.
    Crushed {
        /// Whether something that moves is in it: the body then stays where it is
        /// until that is gone.
        held: bool,
    },
}

impl<V: Geometry> Traveller<'_, V> {
    /// Moves the body out of whatever it overlaps, the deepest first, to the
    /// full clearance. Where that cannot be, or would lead through something,
    /// leaves it where it was.
    #[inline(never)]
    pub fn get_free(&mut self) -> Freed {
        let start = self.at;
        let mut planes: SmallVec<[V; PUSHES]> = SmallVec::new();
        let mut left: SmallVec<[PieceId; PUSHES]> = SmallVec::new();
        let mut held = false;
        for _ in 0..PUSHES {
            let Some(overlap) = self.patch.overlap(self.at, |tag| self.is_passed(tag)) else {
                if left.is_empty() {
                    return Freed::Clear;
                }
                if self.leads_through(start, &left) {
                    break;
                }
                return Freed::Moved;
            };
            held |= overlap.tag.carrier.is_some();
            left.push(overlap.tag.piece);
            let depth = self.patch.clearance() - overlap.distance;
            if !self.may_leave(&overlap, depth) {
                break;
            }
            // Out of the present piece without going back into an earlier one,
            // where the two leave a way.
            let way = resolve(overlap.normal * depth, &planes);
            let along = way.dot(overlap.normal);
            let way = if along > 0.1 * depth { way * (depth / along) } else { overlap.normal * depth };
            self.reach(self.at, way);
            self.at += way;
            planes.push(overlap.normal);
        }
        self.at = start;
        Freed::Crushed { held }
    }

    /// Whether a body `depth` inside a piece goes out of it by the shortest way.
    ///
    /// What a carrier has pushed into a body that was outside it is left no
    /// further than the carrier has come, and not against its motion: that would
    /// be through it. A body that is deeper in was put there, and goes; but one that
    /// was held before waits until the carrier is as good as gone.
    fn may_leave(&self, overlap: &Nearest<V>, depth: f32) -> bool {
        let Some(carrier) = overlap.tag.carrier else { return true };
        let hair = HAIRS * self.patch.clearance();
        let way = self.way_of(carrier);
        let is_pushed = depth <= way.length() + hair;
        let is_against = depth > hair && overlap.normal.dot(way) < 0.0;
        if self.held { is_pushed && !is_against } else { !(is_pushed && is_against) }
    }

    /// How far a carrier moves in this tick where the body is.
    fn way_of(&self, carrier: CarrierId) -> V {
        let Among { carriers, .. } = self.among;
        let of = |ways: &[(V, CarrierId)]| ways.iter().find(|way| way.1 == carrier).map(|way| way.0);
        of(carriers).or_else(|| of(self.rides.as_slice())).unwrap_or(V::ZERO)
    }

    /// Whether something that the body did not overlap is between `start` and where
    /// it is now.
    fn leads_through(&mut self, start: V, left: &[PieceId]) -> bool {
        let way = self.at - start;
        let ignored = |tag: &crate::level::Tag| left.contains(&tag.piece) || self.is_passed(tag);
        let met = self.patch.sweep_past(start, way, None, ignored).hit;
        // It is free where it is now, if not by the whole clearance.
        met.is_some_and(|hit| (1.0 - hit.time) * way.length() > self.patch.clearance())
    }
}
