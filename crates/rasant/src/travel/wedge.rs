//! Wedged: held from several sides by slopes that are too steep to stand on.
//!
//! In the valley between two steep slopes, or where one meets a wall, a body has nothing walkable
//! under it and yet cannot fall. It stands there: on the line along which it could still slide, if
//! that is walkable, and on a level plane if there is none.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hit};
use crate::thresholds::{feet, rounding};

use super::{Mover, resolve};

/// The maximum number of planes that are considered: those that hold a body, and some that it only
/// passes.
const MOST: usize = 12;

impl<V: Geometry> Mover<'_, V> {
    /// The normal of what a body at `at` stands on that leans on `hit` and is held by something
    /// else less than a clearance away. `None` if it can slide.
    #[inline(never)]
    pub(super) fn wedge(&mut self, hit: &Hit<V>, at: V) -> Option<V> {
        let mut planes: SmallVec<[V; MOST]> = SmallVec::new();
        planes.push(hit.normal);
        while planes.len() < MOST {
            let down = resolve(-V::UP, &planes).direction()?;
            let look = down * (feet::NEAR * self.patch.clearance());
            let next = self.sweep(at, look)?;
            let gap = -look.dot(next.normal) * next.time;
            // It can stand on walkable ground without this.
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
