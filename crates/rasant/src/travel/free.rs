//! Getting free of an overlap.

use crate::contact::Geometry;

use super::{Traveller, resolve};

/// Pieces that are pushed out of one after the other at most.
const PUSHES: usize = 12;

/// How an overlap was dealt with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freed {
    /// There was none.
    Clear,
    /// The body was moved out of it.
    Moved,
    /// There is no way out: the body is crushed.
    Crushed,
}

impl<V: Geometry> Traveller<'_, V> {
    /// Moves the body out of whatever it overlaps, the deepest first, to the
    /// full clearance; where that cannot be, leaves it where it was.
    #[inline(never)]
    pub fn get_free(&mut self) -> Freed {
        let start = self.at;
        let mut freed = Freed::Clear;
        let mut planes: smallvec::SmallVec<[V; PUSHES]> = smallvec::SmallVec::new();
        for _ in 0..PUSHES {
            let Some(overlap) = self.patch.overlap(self.at, |tag| self.is_passed(tag)) else {
                return freed;
            };
            freed = Freed::Moved;
            let depth = self.patch.clearance() - overlap.distance;
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
        Freed::Crushed
    }
}
