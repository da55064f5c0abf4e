//! Wedged: held from several sides by what is too steep to stand on.
//!
//! In the valley between two steep slopes, or where one runs into a wall, a
//! body has nothing walkable under it and yet nowhere to fall. It stands there:
//! on the line along which it could still slide, if that can be walked, and
//! level if there is none.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::thresholds::{feet, rounding};

use super::{Traveller, resolve};

/// Planes looked at: as many as hold a body, and some that it only passes by.
const MOST: usize = 12;

impl<V: Geometry> Traveller<'_, V> {
    /// The normal of what a body at `at` stands on that leans on `hit` and is
    /// held by something else less than a clearance away; nothing if it is free
    /// to slide.
    #[inline(never)]
    pub(super) fn wedge(&mut self, hit: &Hit<V>, at: V) -> Option<V> {
        let mut planes: SmallVec<[V; MOST]> = SmallVec::new();
        planes.push(hit.normal);
        while planes.len() < MOST {
            let down = resolve(-V::UP, &planes).direction()?;
            let look = down * (feet::NEAR * self.patch.clearance());
            let next = self.sweep(at, look)?;
            let gap = -look.dot(next.normal) * next.time;
            // On what can be walked it comes to stand by itself.
            if gap > self.patch.clearance() || self.rules.walkable(next.normal) {
                return None;
            }
            planes.push(next.normal);
            let left = resolve(-V::UP, &planes);
            if left.height() > -rounding::LEVEL {
                return Some(V::UP);
            }
            let normal = V::UP.slid_along(left.direction()?).direction()?;
            if self.rules.walkable(normal) {
                return Some(normal);
            }
        }
        None
    }
}
