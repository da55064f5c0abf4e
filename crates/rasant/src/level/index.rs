//! A bounding volume hierarchy stored in arrays.
//!
//! Items are sorted along a Z-order curve (G. M. Morton, "A computer oriented geodetic data base",
//! 1966) and packed eight per node. The nodes are again packed eight per node, and so on to a
//! single root. Children need no pointers: those of node `n` are `8n` to `8n + 7` one level down.
//! Building is one sort. A query reads a few short runs of memory and allocates nothing.

use crate::space::{Bounds, Vector};
use alloc::vec::Vec;

use super::grid::{Cells, Grid, longest_side, lowest_bits};

const FAN: usize = 8;
/// The number of nodes of a level that are visited together.
const ROOM: usize = 32;

/// Finds which of many boxes overlap a region.
#[derive(Clone, Debug)]
pub struct Index<V> {
    /// The nodes of all levels, those of the items first, the root last.
    nodes: Vec<Node>,
    /// The index in `nodes` at which each level starts.
    starts: Vec<usize>,
    /// The item in each place of the lowest level.
    order: Vec<u32>,
    grid: Grid<V>,
    /// True if an item has left the grid.
    outgrown: bool,
}

/// The boxes of eight children, compared together. Unused places hold a box that nothing overlaps.
#[derive(Clone, Copy, Debug)]
#[repr(align(32))]
struct Node {
    axes: [Spans; 3],
}

/// The beginnings and ends of eight boxes along an axis, in cells.
#[derive(Clone, Copy, Debug)]
struct Spans {
    least: [i16; FAN],
    most: [i16; FAN],
}

impl Node {
    fn of<V: Vector>(grid: &Grid<V>, boxes: &[Bounds<V>]) -> Self {
        let mut least = [[i16::MAX; FAN]; 3];
        let mut most = [[i16::MIN; FAN]; 3];
        for (place, bounds) in boxes.iter().enumerate() {
            let cells = grid.cells(bounds);
            for axis in 0..3 {
                least[axis][place] = cells.least[axis];
                most[axis][place] = cells.most[axis];
            }
        }
        let spans = |axis: usize| Spans { least: least[axis], most: most[axis] };
        Self { axes: [0, 1, 2].map(spans) }
    }

    /// Replaces the box in a place. Returns true if it changed.
    fn replace(&mut self, place: usize, cells: &Cells) -> bool {
        let mut other = false;
        for (axis, spans) in self.axes.iter_mut().enumerate() {
            other |= spans.least[place] != cells.least[axis] || spans.most[place] != cells.most[axis];
            (spans.least[place], spans.most[place]) = (cells.least[axis], cells.most[axis]);
        }
        other
    }

    /// The box around all children.
    fn all(&self) -> Cells {
        let least = |spans: &Spans| spans.least.iter().copied().fold(i16::MAX, i16::min);
        let most = |spans: &Spans| spans.most.iter().copied().fold(i16::MIN, i16::max);
        Cells {
            least: core::array::from_fn(|i| least(&self.axes[i])),
            most: core::array::from_fn(|i| most(&self.axes[i])),
        }
    }

    /// The children that overlap a region, one bit each.
    #[inline]
    fn overlapping(&self, region: &Region, dimension: usize) -> u32 {
        // Lane by lane without a branch, so that it compiles to a few instructions for all eight.
        let mut apart = [0u8; FAN];
        for (own, other) in self.axes.iter().zip(&region.axes).take(dimension) {
            let beyond = own.least.iter().zip(&other.most).zip(other.least.iter().zip(&own.most));
            for (apart, ((least, most), (other_least, own_most))) in apart.iter_mut().zip(beyond) {
                *apart |= u8::from(least > most) | u8::from(other_least > own_most);
            }
        }
        !lowest_bits(apart) & ((1 << FAN) - 1)
    }
}

/// The region of a query, prepared for comparing with eight boxes.
struct Region {
    axes: [Spans; 3],
}

impl Region {
    #[inline]
    fn of<V: Vector>(grid: &Grid<V>, bounds: &Bounds<V>) -> Self {
        let Cells { least, most } = grid.cells(bounds);
        let spans = |axis: usize| Spans { least: [least[axis]; FAN], most: [most[axis]; FAN] };
        Self { axes: [0, 1, 2].map(spans) }
    }
}

impl<V: Vector> Index<V> {
    /// An index over `items`, numbered by their index in the slice.
    ///
    /// # Panics
    /// If there are 2³² items or more.
    #[must_use]
    pub fn new(items: &[Bounds<V>]) -> Self {
        Self::within(&items.iter().fold(Bounds::empty(), |all, &one| all.joined(one)), items)
    }

    /// An index whose cells cover `all`.
    fn within(all: &Bounds<V>, items: &[Bounds<V>]) -> Self {
        assert!(u32::try_from(items.len()).is_ok(), "an index holds fewer than 2^32 items");
        let grid = Grid::over(all);
        let order = z_order(items, all);
        let mut boxes: Vec<Bounds<V>> = order.iter().map(|&item| items[item as usize]).collect();
        let mut nodes = Vec::with_capacity(items.len() / (FAN - 1) + 12);
        let mut starts = Vec::new();
        while !boxes.is_empty() {
            starts.push(nodes.len());
            nodes.extend(boxes.chunks(FAN).map(|boxes| Node::of(&grid, boxes)));
            if boxes.len() <= FAN {
                break;
            }
            let join =
                |children: &[Bounds<V>]| children.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
            boxes = boxes.chunks(FAN).map(join).collect();
        }
        Self { nodes, starts, order, grid, outgrown: false }
    }

    /// An index over items that move, with a margin around them all, so that they can [be
    /// refitted](Self::refit).
    #[must_use]
    pub(super) fn with_room(items: &[Bounds<V>]) -> Self {
        let all = items.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
        let room = if items.is_empty() { all } else { all.widened(V::splat(0.5 * longest_side(&all))) };
        Self::within(&room, items)
    }

    /// Replaces the bounds in a place of the lowest level.
    pub(super) fn refit(&mut self, place: u32, bounds: &Bounds<V>) {
        let mut child = place as usize;
        let mut cells = self.grid.cells(bounds);
        self.outgrown |= !self.grid.covers(bounds);
        for &start in &self.starts {
            let node = &mut self.nodes[start + child / FAN];
            if !node.replace(child % FAN, &cells) {
                return;
            }
            cells = node.all();
            child /= FAN;
        }
    }

    /// Returns true if an item has moved beyond the cells of the index. Such an item is found by
    /// every query that finds another one beyond them.
    pub(super) fn is_outgrown(&self) -> bool {
        self.outgrown
    }

    /// The order in which items are stored: the items of the lowest level.
    pub(super) fn order(&self) -> &[u32] {
        &self.order
    }

    /// Renumbers the items: `number` maps each old number to the new one.
    pub(super) fn renumber(&mut self, number: impl Fn(u32) -> u32) {
        for item in &mut self.order {
            *item = number(*item);
        }
    }

    /// Calls `found` with the number of every item whose box overlaps `region`, and of some that
    /// miss it by less than a cell (the longest side of the whole over 65,534).
    #[inline]
    pub fn query(&self, region: &Bounds<V>, mut found: impl FnMut(u32)) {
        self.query_places(region, |places| {
            places.iter().for_each(|&place| found(self.order[place as usize]))
        });
    }

    /// As [`Self::query`] for items that are stored in the order of the index: calls `found` with
    /// their places, several at a time.
    #[inline]
    pub(super) fn query_places(&self, region: &Bounds<V>, mut found: impl FnMut(&[u32])) {
        let Some(root) = self.starts.len().checked_sub(1) else { return };
        let region = Region::of(&self.grid, region);
        let mut places = [[0; ROOM]; 2];
        match self.descend(&region, &mut places) {
            Some(places) => found(places),
            None => self.visit(root, 0, &region, &mut found),
        }
    }

    /// Descends level by level from the root to the items. `None` if a level has more overlapping
    /// nodes than the buffer holds.
    ///
    /// No step depends on a branch prediction of an earlier one, so that the processor can fetch
    /// many nodes at once.
    #[inline]
    fn descend<'a>(&self, region: &Region, places: &'a mut [[u32; ROOM]; 2]) -> Option<&'a [u32]> {
        let [parents, children] = places;
        let (mut parents, mut children) = (parents, children);
        let mut count = 1;
        for &start in self.starts.iter().rev() {
            let mut held = 0;
            for &parent in &parents[..count] {
                if held > ROOM - FAN {
                    return None;
                }
                let mut overlapping = self.nodes[start + parent as usize].overlapping(region, V::DIMENSION);
                while overlapping != 0 {
                    children[held] = parent * FAN as u32 + overlapping.trailing_zeros();
                    overlapping &= overlapping - 1;
                    held += 1;
                }
            }
            count = held;
            core::mem::swap(&mut parents, &mut children);
        }
        Some(&parents[..count])
    }

    /// Descends branch by branch, for any number of nodes.
    fn visit(&self, level: usize, place: u32, region: &Region, found: &mut impl FnMut(&[u32])) {
        let mut children = self.nodes[self.starts[level] + place as usize].overlapping(region, V::DIMENSION);
        while children != 0 {
            let child = place * FAN as u32 + children.trailing_zeros();
            children &= children - 1;
            if level == 0 {
                found(&[child]);
            } else {
                self.visit(level - 1, child, region, found);
            }
        }
    }
}

/// Calls `found` with the numbers that `query` gives, in ascending order and each once, from a
/// list of no more than `N`: where there are more, `query` is asked again for those that follow.
pub(super) fn in_order<const N: usize>(query: impl Fn(&mut dyn FnMut(u32)), mut found: impl FnMut(u32)) {
    let mut next = Some(0);
    while let Some(from) = next {
        let (mut least, mut count, mut is_more) = ([0u32; N], 0, false);
        query(&mut |number| {
            if number < from || least[..count].contains(&number) {
                return;
            }
            let place = least[..count].partition_point(|&held| held < number);
            if count < N {
                count += 1;
            } else {
                is_more = true;
                if place == N {
                    return;
                }
            }
            least.copy_within(place..count - 1, place + 1);
            least[place] = number;
        });
        least[..count].iter().for_each(|&number| found(number));
        next = if is_more { least[N - 1].checked_add(1) } else { None };
    }
}

/// The items' numbers, sorted along the curve.
fn z_order<V: Vector>(items: &[Bounds<V>], all: &Bounds<V>) -> Vec<u32> {
    let bits = 32 / V::DIMENSION as u32;
    let cells = ((1u32 << bits.min(16)) - 1) as f32;
    // One scale for all axes, so that a node is about as wide as it is long.
    let span = longest_side(all);
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
            let within = |region: Bounds<V>| -> Vec<u32> {
                (0..items.len() as u32).filter(|&item| items[item as usize].overlaps(&region)).collect()
            };
            let has_all = within(region).iter().all(|item| found.binary_search(item).is_ok());
            assert!(has_all, "of {:?} found {found:?}", within(region));
            // The corners are within 100 m, so a cell is at most 1.6 mm.
            let nearly = within(region.widened(V::splat(2.0 * 1.6e-3)));
            assert!(found.iter().all(|item| nearly.binary_search(item).is_ok()), "{found:?} of {nearly:?}");
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
