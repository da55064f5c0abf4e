//! A bounding-volume hierarchy that is only an array.
//!
//! Items are sorted along a Z-order curve (G. M. Morton, "A computer oriented
//! geodetic data base", 1966) and packed eight to a node, the nodes again
//! eight to a node, and so on to a single root. Children need no pointers:
//! those of node `n` are `8n` to `8n + 7` one level down. Building is one sort;
//! a question touches a few short runs of memory and allocates nothing.

use std::marker::PhantomData;

use crate::space::{Bounds, Vector};

const FAN: usize = 8;

/// Answers which of many boxes overlap a region.
#[derive(Clone, Debug)]
pub struct Index<V> {
    /// Nodes of all levels, those of the items first, the root last.
    nodes: Vec<Node>,
    /// Where each level starts in `nodes`.
    starts: Vec<usize>,
    /// The item in each place of the lowest level.
    order: Vec<u32>,
    dimension: PhantomData<V>,
}

/// The boxes of eight children, an axis to a cache line, so that all eight are
/// compared at once. Places without a child hold a box that nothing overlaps.
#[derive(Clone, Copy, Debug)]
#[repr(align(64))]
struct Node {
    axes: [Spans; 3],
}

/// Where eight boxes begin and end along an axis.
#[derive(Clone, Copy, Debug)]
struct Spans {
    least: [f32; FAN],
    most: [f32; FAN],
}

impl Node {
    fn of<V: Vector>(boxes: &[Bounds<V>]) -> Self {
        let nowhere = Spans { least: [f32::INFINITY; FAN], most: [f32::NEG_INFINITY; FAN] };
        let mut node = Self { axes: [nowhere; 3] };
        for (place, bounds) in boxes.iter().enumerate() {
            let (min, max) = (bounds.min.to_array(), bounds.max.to_array());
            for axis in 0..V::DIMENSION {
                node.axes[axis].least[place] = min[axis];
                node.axes[axis].most[place] = max[axis];
            }
        }
        node
    }

    /// Which children overlap a region, a bit each.
    #[inline]
    fn overlapping<V: Vector>(&self, region: &Bounds<V>) -> u32 {
        let (min, max) = (region.min.to_array(), region.max.to_array());
        // How much each box and the region share along the axis where they
        // share least; below 0 where they are apart.
        let mut shared = [f32::INFINITY; FAN];
        for axis in 0..V::DIMENSION {
            shared = self.axes[axis].shared(min[axis], max[axis], shared);
        }
        shared.iter().enumerate().fold(0, |bits, (place, shared)| bits | u32::from(*shared >= 0.0) << place)
    }
}

impl Spans {
    #[inline]
    fn shared(&self, min: f32, max: f32, up_to: [f32; FAN]) -> [f32; FAN] {
        let less = |a: f32, b: f32| if a < b { a } else { b };
        std::array::from_fn(|place| less(less(max - self.least[place], self.most[place] - min), up_to[place]))
    }
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
        let mut boxes: Vec<Bounds<V>> = order.iter().map(|&item| items[item as usize]).collect();
        let mut nodes = Vec::with_capacity(items.len() / (FAN - 1) + 12);
        let mut starts = Vec::new();
        while !boxes.is_empty() {
            starts.push(nodes.len());
            nodes.extend(boxes.chunks(FAN).map(Node::of));
            if boxes.len() <= FAN {
                break;
            }
            let join =
                |children: &[Bounds<V>]| children.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
            boxes = boxes.chunks(FAN).map(join).collect();
        }
        Self { nodes, starts, order, dimension: PhantomData }
    }

    /// The order in which items lie in memory: the lowest level's items.
    pub(super) fn order(&self) -> &[u32] {
        &self.order
    }

    /// Gives the items other numbers: `number` is asked with each one's number
    /// up to now.
    pub(super) fn renumber(&mut self, number: impl Fn(u32) -> u32) {
        for item in &mut self.order {
            *item = number(*item);
        }
    }

    /// Calls `found` with the number of every item whose box overlaps
    /// `region`.
    #[inline]
    pub fn query(&self, region: &Bounds<V>, mut found: impl FnMut(u32)) {
        self.query_places(region, |place| found(self.order[place as usize]));
    }

    /// The same for items that lie in the index's own order: with their places.
    #[inline]
    pub(super) fn query_places(&self, region: &Bounds<V>, mut found: impl FnMut(u32)) {
        if let Some(root) = self.starts.len().checked_sub(1) {
            self.visit(root, 0, region, &mut found);
        }
    }

    fn visit(&self, level: usize, place: u32, region: &Bounds<V>, found: &mut impl FnMut(u32)) {
        let mut children = self.nodes[self.starts[level] + place as usize].overlapping(region);
        while children != 0 {
            let child = place * FAN as u32 + children.trailing_zeros();
            children &= children - 1;
            if level == 0 {
                found(child);
            } else {
                self.visit(level - 1, child, region, found);
            }
        }
    }
}

/// The items' numbers, sorted along the curve.
fn z_order<V: Vector>(items: &[Bounds<V>]) -> Vec<u32> {
    let all = items.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
    let bits = 32 / V::DIMENSION as u32;
    let cells = ((1u32 << bits.min(16)) - 1) as f32;
    // One scale for all axes, so that a node is about as wide as it is long.
    let span =
        (0..V::DIMENSION).map(|axis| all.max.component(axis) - all.min.component(axis)).fold(0.0, f32::max);
    let scale = if span > 0.0 { cells / span } else { 0.0 };
    let mut keyed: Vec<u64> = items
        .iter()
        .enumerate()
        .map(|(number, item)| {
            let centre = item.centre() - all.min;
            let mut key = 0u64;
            for axis in 0..V::DIMENSION {
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
