//! A bounding-volume hierarchy that is only an array.
//!
//! Items are sorted along a Z-order curve (G. M. Morton, "A computer oriented
//! geodetic data base", 1966) and packed eight to a node, the nodes again
//! eight to a node, and so on to a single root. Children need no pointers:
//! those of node `n` are `8n` to `8n + 7` one level down. Building is one sort;
//! a question touches a few short runs of memory and allocates nothing.

use crate::space::{Bounds, Vector};

const FAN: usize = 8;
/// 8¹¹ items are more than 2³².
const MOST_LEVELS: usize = 12;

/// Answers which of many boxes overlap a region.
#[derive(Clone, Debug)]
pub struct Index<V> {
    /// Boxes of all levels, the items' own first, the root's last.
    boxes: Vec<Bounds<V>>,
    /// Where each level starts in `boxes`, and the end of the last.
    starts: Vec<usize>,
    /// The item behind each box of the lowest level.
    order: Vec<u32>,
}

impl<V: Vector> Index<V> {
    /// An index over `items`, whose numbers are their places in the slice.
    ///
    /// # Panics
    /// When there are 2³² items or more.
    #[must_use]
    pub fn new(items: &[Bounds<V>]) -> Self {
        assert!(u32::try_from(items.len()).is_ok(), "an index holds fewer than 2^32 items");
        let order = z_order(items);
        let mut boxes: Vec<Bounds<V>> = Vec::with_capacity(items.len() * 8 / 7 + MOST_LEVELS);
        boxes.extend(order.iter().map(|&item| items[item as usize]));
        let mut starts = vec![0];
        let mut level = 0..boxes.len();
        while level.len() > 1 {
            let start = boxes.len();
            starts.push(start);
            for first in level.clone().step_by(FAN) {
                let children = &boxes[first..(first + FAN).min(level.end)];
                let joined = children.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
                boxes.push(joined);
            }
            level = start..boxes.len();
        }
        starts.push(boxes.len());
        Self { boxes, starts, order }
    }

    /// The order in which items lie in memory: the lowest level's items.
    pub(super) fn order(&self) -> &[u32] {
        &self.order
    }

    /// Gives the items other numbers: `number` is asked with the place of each
    /// in [`Self::order`] and its number up to now.
    pub(super) fn renumber(&mut self, number: impl Fn(usize, u32) -> u32) {
        for (place, item) in self.order.iter_mut().enumerate() {
            *item = number(place, *item);
        }
    }

    /// Calls `found` with the number of every item whose box overlaps
    /// `region`.
    #[inline]
    pub fn query(&self, region: &Bounds<V>, mut found: impl FnMut(u32)) {
        if self.order.is_empty() {
            return;
        }
        // At most FAN − 1 siblings wait on each level.
        let mut waiting = [(0u8, 0u32); MOST_LEVELS * FAN];
        let mut count = 0;
        let root = self.starts.len() - 2;
        if self.boxes[self.starts[root]].overlaps(region) {
            waiting[0] = (root as u8, 0);
            count = 1;
        }
        while count > 0 {
            count -= 1;
            let (level, node) = waiting[count];
            if level == 0 {
                found(self.order[node as usize]);
                continue;
            }
            let below = usize::from(level) - 1;
            let (start, end) = (self.starts[below], self.starts[below + 1]);
            let first = start + node as usize * FAN;
            let children = &self.boxes[first..(first + FAN).min(end)];
            for (child, bounds) in children.iter().enumerate().rev() {
                if bounds.overlaps(region) {
                    let number = (first - start + child) as u32;
                    if below == 0 {
                        found(self.order[number as usize]);
                    } else {
                        waiting[count] = (below as u8, number);
                        count += 1;
                    }
                }
            }
        }
    }
}

/// The items' numbers, sorted along the curve.
fn z_order<V: Vector>(items: &[Bounds<V>]) -> Vec<u32> {
    let all = items.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
    let bits = 32 / V::DIMENSION as u32;
    let cells = ((1u32 << bits.min(16)) - 1) as f32;
    let mut scale = [0.0; 3];
    for (axis, scale) in scale.iter_mut().enumerate().take(V::DIMENSION) {
        let span = all.max.component(axis) - all.min.component(axis);
        *scale = if span > 0.0 { cells / span } else { 0.0 };
    }
    let mut keyed: Vec<u64> = items
        .iter()
        .enumerate()
        .map(|(number, item)| {
            let centre = item.centre() - all.min;
            let mut key = 0u64;
            for (axis, scale) in scale.iter().enumerate().take(V::DIMENSION) {
                let cell = (centre.component(axis) * scale) as u32;
                key |= spread(cell, V::DIMENSION as u32) << axis;
            }
            key << 32 | number as u64
        })
        .collect();
    keyed.sort_unstable();
    keyed.into_iter().map(|key| key as u32).collect()
}

/// The bits of `cell`, each followed by `apart` − 1 zeros.
fn spread(cell: u32, apart: u32) -> u64 {
    let cell = u64::from(cell);
    if apart == 2 {
        let x = (cell | cell << 8) & 0x00FF_00FF;
        let x = (x | x << 4) & 0x0F0F_0F0F;
        let x = (x | x << 2) & 0x3333_3333;
        (x | x << 1) & 0x5555_5555
    } else {
        let x = (cell | cell << 16) & 0x0300_00FF;
        let x = (x | x << 8) & 0x0300_F00F;
        let x = (x | x << 4) & 0x030C_30C3;
        (x | x << 2) & 0x0924_9249
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::{Vec2, Vec3};
    use proptest::prelude::*;

    fn agrees_with_a_plain_search<V: Vector>(corners: &[([f32; 3], [f32; 3])]) {
        let items: Vec<Bounds<V>> =
            corners.iter().map(|&(a, b)| Bounds::around(&[V::from_array(a), V::from_array(b)])).collect();
        let index = Index::new(&items);
        for region in &items {
            let region = region.widened(V::splat(0.5));
            let mut found = Vec::new();
            index.query(&region, |item| found.push(item));
            found.sort_unstable();
            let expected: Vec<u32> =
                (0..items.len() as u32).filter(|&item| items[item as usize].overlaps(&region)).collect();
            assert_eq!(found, expected);
        }
    }

    proptest! {
        #[test]
        fn the_index_finds_what_a_plain_search_finds(
            corners in prop::collection::vec(
                (prop::array::uniform3(-50f32..50.0), prop::array::uniform3(-50f32..50.0)),
                0..150,
            )
        ) {
            agrees_with_a_plain_search::<Vec2>(&corners);
            agrees_with_a_plain_search::<Vec3>(&corners);
        }
    }
}
