//! A persistent tree of boxes, for the pieces of a level.
//!
//! It is a B-tree (R. Bayer and E. McCreight, "Organization and maintenance of large ordered
//! indices", 1972) over keys along a Z-order curve, in which every node also knows the bounds of its
//! children (I. Kamel and C. Faloutsos, "Hilbert R-tree", 1994, with another curve). Nodes are
//! shared between clones, and copied when one of them changes. So a clone costs one reference
//! count, and an edit the depth of the tree.

use alloc::sync::Arc;
use alloc::vec::Vec;

use crate::space::{Bounds, Vector};

use super::grid::{Cells, Grid, longest_side, lowest_bits};

/// The largest number of children of a node.
const MOST: usize = 32;
/// The number of children that are compared at once.
const LANES: usize = 8;
/// The number of children of a node that is built at once: a little room remains for edits.
const FILL: usize = 27;
/// Two neighbours with no more children together become one node.
const FEW: usize = 20;
/// The number of nodes of one depth that are visited together.
const ROOM: usize = 32;
/// The number of items beyond the grid, and the fraction of all as 1 in so many, from which on the
/// tree is built again over a larger grid.
const OUTSIDE: (usize, usize) = (64, 4);

/// The place of an item on the curve, with its id for items at the same place.
pub(super) type Key = (u64, u32);

/// A tree of items with bounds.
#[derive(Clone, Debug)]
pub(super) struct Tree<V, T> {
    root: Arc<Node<T>>,
    /// The number of levels of nodes above the leaves.
    depth: u32,
    len: usize,
    grid: Grid<V>,
    /// The number of items beyond the grid. Such an item is found by every query that finds another
    /// one beyond the grid.
    outside: usize,
}

/// An item of a tree.
pub(super) trait Boxed<V>: Clone {
    /// Its bounds.
    fn bounds(&self) -> Bounds<V>;
    /// Its id, which no other item of the tree has.
    fn id(&self) -> u32;
}

/// A node with the bounds and the first key of each child or item, in the order of the keys.
#[derive(Clone, Debug)]
struct Node<T> {
    boxes: Boxes,
    keys: [Key; MOST],
    kids: Kids<T>,
}

#[derive(Clone, Debug)]
enum Kids<T> {
    Inner(Vec<Arc<Node<T>>>),
    Leaf(Vec<T>),
}

/// The bounds of the children of a node in cells, by axis, so that all are compared at once. Unused
/// places hold bounds that nothing overlaps.
#[derive(Clone, Copy, Debug)]
#[repr(align(64))]
struct Boxes {
    least: [Ends; 3],
    most: [Ends; 3],
}

/// One end of each box along an axis.
type Ends = [[i16; LANES]; MOST / LANES];

impl Boxes {
    const NONE: Self =
        Self { least: [[[i16::MAX; LANES]; MOST / LANES]; 3], most: [[[i16::MIN; LANES]; MOST / LANES]; 3] };

    fn set(&mut self, place: usize, cells: &Cells) {
        for axis in 0..3 {
            self.least[axis].as_flattened_mut()[place] = cells.least[axis];
            self.most[axis].as_flattened_mut()[place] = cells.most[axis];
        }
    }

    fn get(&self, place: usize) -> Cells {
        let at = |ends: &[Ends; 3]| [0, 1, 2].map(|axis| ends[axis].as_flattened()[place]);
        Cells { least: at(&self.least), most: at(&self.most) }
    }

    /// The box around all children.
    fn all(&self) -> Cells {
        let least = |ends: &Ends| ends.as_flattened().iter().copied().fold(i16::MAX, i16::min);
        let most = |ends: &Ends| ends.as_flattened().iter().copied().fold(i16::MIN, i16::max);
        Cells {
            least: [0, 1, 2].map(|axis| least(&self.least[axis])),
            most: [0, 1, 2].map(|axis| most(&self.most[axis])),
        }
    }

    /// Makes room in a place by moving those from there on.
    fn open(&mut self, place: usize) {
        for ends in self.least.iter_mut().chain(&mut self.most) {
            ends.as_flattened_mut().copy_within(place..MOST - 1, place + 1);
        }
    }

    /// Removes a place by moving those after it.
    fn close(&mut self, place: usize) {
        for (all, unused) in [(&mut self.least, i16::MAX), (&mut self.most, i16::MIN)] {
            for ends in all {
                let ends = ends.as_flattened_mut();
                ends.copy_within(place + 1.., place);
                ends[MOST - 1] = unused;
            }
        }
    }

    /// The places whose bounds overlap a region, one bit each.
    #[inline]
    fn overlapping(&self, region: &Region, dimension: usize) -> u32 {
        let mut bits = 0;
        for eight in 0..MOST / LANES {
            // Lane by lane without a branch, so that it compiles to a few instructions for all.
            let mut apart = [0u8; LANES];
            for axis in 0..dimension {
                let [least, most] = [&self.least, &self.most].map(|ends| &ends[axis][eight]);
                let (region_least, region_most) = (&region.least[axis], &region.most[axis]);
                let beyond = least.iter().zip(region_most).zip(region_least.iter().zip(most));
                for (apart, ((least, region_most), (region_least, most))) in apart.iter_mut().zip(beyond) {
                    *apart |= u8::from(least > region_most) | u8::from(region_least > most);
                }
            }
            bits |= lowest_bits(apart) << (LANES * eight);
        }
        !bits
    }
}

/// The region of a query, prepared for comparing with eight boxes.
struct Region {
    least: [[i16; LANES]; 3],
    most: [[i16; LANES]; 3],
}

impl Region {
    #[inline]
    fn of(cells: &Cells) -> Self {
        Self { least: cells.least.map(|end| [end; LANES]), most: cells.most.map(|end| [end; LANES]) }
    }
}

/// The key of an item with these bounds: the class of its size, and its place on the curve. It
/// depends on nothing else, so the order of items does not depend on the history of the tree.
pub(super) fn key_of<V: Vector>(bounds: &Bounds<V>, id: u32) -> Key {
    /// The bits for the class of the size.
    const CLASS: u32 = 3;
    /// Every class has 4 times the size of the one before.
    const FIRST_CLASS: f32 = 4.0;
    let bits = if V::DIMENSION == 2 { 30 } else { 20 };
    // Cells of 1/4096 m for ±131 km in two dimensions, of 1/32 m for ±16 km in three. What is
    // further out is in the last cell.
    let cells_a_metre = if V::DIMENSION == 2 { 4096.0 } else { 32.0 };
    let half = f64::from(1u32 << (bits - 1));
    let centre = bounds.centre().to_array();
    let cells = centre.map(|coordinate| {
        let cell = f64::from(coordinate) * cells_a_metre + half;
        cell.clamp(0.0, 2.0 * half - 1.0) as u32
    });
    let mut key = 0u64;
    let (mut size, mut class) = (longest_side(bounds), 0);
    while size > FIRST_CLASS && class < (1 << CLASS) - 1 {
        (size, class) = (size * 0.25, class + 1);
    }
    for bit in (0..bits).rev() {
        for cell in cells.iter().take(V::DIMENSION) {
            key = key << 1 | u64::from(cell >> bit & 1);
        }
    }
    (key | class << 60, id)
}

impl<V: Vector, T: Boxed<V>> Tree<V, T> {
    /// A tree of some items, with a grid for twice their extents.
    pub fn new(items: Vec<T>) -> Self {
        let all = items.iter().fold(Bounds::empty(), |all, item| all.joined(item.bounds()));
        let grid = match items.is_empty() {
            true => Grid::over(&Bounds { min: V::ZERO, max: V::ZERO }),
            false => Grid::over(&all.widened(V::splat(0.5 * longest_side(&all)))),
        };
        let mut keyed: Vec<(Key, Cells, T)> = items
            .into_iter()
            .map(|item| {
                let bounds = item.bounds();
                (key_of(&bounds, item.id()), grid.cells(&bounds), item)
            })
            .collect();
        keyed.sort_unstable_by_key(|item| item.0);
        let len = keyed.len();
        let mut nodes: Vec<Node<T>> = Vec::with_capacity(len / FILL + 1);
        let mut keyed = keyed.into_iter().peekable();
        while keyed.peek().is_some() || nodes.is_empty() {
            let mut leaf = Node::of(Kids::Leaf(Vec::with_capacity(FILL)));
            for (place, (key, cells, item)) in keyed.by_ref().take(FILL).enumerate() {
                leaf.keys[place] = key;
                leaf.boxes.set(place, &cells);
                if let Kids::Leaf(items) = &mut leaf.kids {
                    items.push(item);
                }
            }
            nodes.push(leaf);
        }
        let mut depth = 0;
        while nodes.len() > 1 {
            let mut below = nodes.into_iter().peekable();
            nodes = Vec::new();
            while below.peek().is_some() {
                let mut node = Node::of(Kids::Inner(Vec::with_capacity(FILL)));
                below.by_ref().take(FILL).enumerate().for_each(|(place, child)| node.put_child(place, child));
                nodes.push(node);
            }
            depth += 1;
        }
        let root = nodes.pop().unwrap_or_else(|| Node::of(Kids::Leaf(Vec::new())));
        Self { root: Arc::new(root), depth, len, grid, outside: 0 }
    }

    /// The number of items.
    #[cfg(test)]
    pub fn len(&self) -> usize {
        self.len
    }

    /// Adds an item whose key is new.
    pub fn insert(&mut self, item: T) {
        let bounds = item.bounds();
        self.len += 1;
        self.outside += usize::from(!self.grid.covers(&bounds));
        if self.outside > OUTSIDE.0.min(self.len / OUTSIDE.1) {
            let mut all = Vec::with_capacity(self.len);
            self.each(&mut |item| all.push(item.clone()));
            all.push(item);
            *self = Self::new(all);
            return;
        }
        let (key, cells) = (key_of(&bounds, item.id()), self.grid.cells(&bounds));
        if let Some(split) = Arc::make_mut(&mut self.root).insert(key, &cells, item) {
            let mut root = Node::of(Kids::Inner(Vec::with_capacity(2)));
            let old = core::mem::replace(&mut self.root, Arc::new(Node::of(Kids::Leaf(Vec::new()))));
            root.put_shared_child(0, old);
            root.put_child(1, split);
            self.root = Arc::new(root);
            self.depth += 1;
        }
    }

    /// Removes the item with these bounds and id. Returns true if there was one.
    pub fn remove(&mut self, bounds: &Bounds<V>, id: u32) -> bool {
        if !Arc::make_mut(&mut self.root).remove(key_of(bounds, id)) {
            return false;
        }
        self.len -= 1;
        self.outside -= usize::from(!self.grid.covers(bounds));
        // A root with one child only is replaced by that child.
        loop {
            let only = match &self.root.kids {
                Kids::Inner(children) if children.len() == 1 => Arc::clone(&children[0]),
                Kids::Inner(children) if children.is_empty() => Arc::new(Node::of(Kids::Leaf(Vec::new()))),
                _ => return true,
            };
            self.root = only;
            self.depth -= 1;
        }
    }

    /// The item with a key.
    pub fn get(&self, key: Key) -> Option<&T> {
        let mut node = &*self.root;
        loop {
            match &node.kids {
                Kids::Inner(children) => node = &children[node.child_for(key)],
                Kids::Leaf(items) => {
                    let place = node.keys[..items.len()].binary_search(&key).ok()?;
                    return Some(&items[place]);
                }
            }
        }
    }

    /// Calls `found` with every item, in the order of the keys.
    pub fn each(&self, found: &mut impl FnMut(&T)) {
        self.root.each(found);
    }

    /// Calls `found` with every item whose bounds overlap `region`, and with some that miss it by
    /// less than a cell (the longest side of the grid over 65,534), in the order of the keys.
    #[inline]
    pub fn query(&self, region: &Bounds<V>, mut found: impl FnMut(&T)) {
        let region = Region::of(&self.grid.cells(region));
        if self.depth > 0 {
            return self.descend(&region, &mut found);
        }
        self.root.each_of(self.root.boxes.overlapping(&region, V::DIMENSION), &mut found);
    }

    /// Descends level by level from the root to the items, so that no step depends on a branch
    /// prediction of an earlier one and the processor can fetch several nodes at once.
    fn descend(&self, region: &Region, found: &mut impl FnMut(&T)) {
        let mut nodes: [&Node<T>; ROOM] = [&self.root; ROOM];
        let mut count = 1;
        for _ in 0..self.depth {
            let mut below: [&Node<T>; ROOM] = [&self.root; ROOM];
            let mut held = 0;
            for node in &nodes[..count] {
                let Kids::Inner(children) = &node.kids else { continue };
                let mut overlapping = node.boxes.overlapping(region, V::DIMENSION);
                while overlapping != 0 {
                    if held == ROOM {
                        return self.root.query::<V>(region, found);
                    }
                    below[held] = &children[overlapping.trailing_zeros() as usize];
                    overlapping &= overlapping - 1;
                    held += 1;
                }
            }
            (nodes, count) = (below, held);
        }
        for leaf in &nodes[..count] {
            leaf.each_of(leaf.boxes.overlapping(region, V::DIMENSION), found);
        }
    }
}

impl<T: Clone> Node<T> {
    fn of(kids: Kids<T>) -> Self {
        Self { boxes: Boxes::NONE, keys: [(0, 0); MOST], kids }
    }

    fn len(&self) -> usize {
        match &self.kids {
            Kids::Inner(children) => children.len(),
            Kids::Leaf(items) => items.len(),
        }
    }

    /// The child in which a key is, or would be.
    fn child_for(&self, key: Key) -> usize {
        self.keys[..self.len()].partition_point(|first| *first <= key).max(1) - 1
    }

    /// Sets the key and bounds of a new place, before the child or item is added there.
    fn open(&mut self, place: usize, key: Key, cells: &Cells) {
        self.keys.copy_within(place..MOST - 1, place + 1);
        self.keys[place] = key;
        self.boxes.open(place);
        self.boxes.set(place, cells);
    }

    /// Removes the key and bounds of a place.
    fn close(&mut self, place: usize) {
        self.keys.copy_within(place + 1.., place);
        self.boxes.close(place);
    }

    fn put_child(&mut self, place: usize, child: Self) {
        self.put_shared_child(place, Arc::new(child));
    }

    fn put_shared_child(&mut self, place: usize, child: Arc<Self>) {
        self.open(place, child.keys[0], &child.boxes.all());
        if let Kids::Inner(children) = &mut self.kids {
            children.insert(place, child);
        }
    }

    fn put_item(&mut self, place: usize, key: Key, cells: &Cells, item: T) {
        self.open(place, key, cells);
        if let Kids::Leaf(items) = &mut self.kids {
            items.insert(place, item);
        }
    }

    /// Moves the second half of the children into a new node.
    fn split(&mut self) -> Self {
        let half = self.len() / 2;
        let mut rest = Self::of(match &mut self.kids {
            Kids::Inner(children) => Kids::Inner(children.split_off(half)),
            Kids::Leaf(items) => Kids::Leaf(items.split_off(half)),
        });
        for place in 0..rest.len() {
            rest.keys[place] = self.keys[half + place];
            rest.boxes.set(place, &self.boxes.get(half + place));
        }
        (half..half + rest.len()).for_each(|_| self.boxes.close(half));
        rest
    }

    /// Adds an item. Returns the second half of this node if it had to be split.
    fn insert(&mut self, key: Key, cells: &Cells, item: T) -> Option<Self> {
        let is_full = self.len() == MOST;
        let Kids::Inner(children) = &mut self.kids else {
            let place = self.keys[..self.len()].partition_point(|held| *held < key);
            if !is_full {
                self.put_item(place, key, cells, item);
                return None;
            }
            let mut rest = self.split();
            match place.checked_sub(self.len()) {
                Some(place) if place > 0 => rest.put_item(place, key, cells, item),
                _ => self.put_item(place, key, cells, item),
            }
            return Some(rest);
        };
        let count = children.len();
        let place = self.keys[..count].partition_point(|first| *first <= key).max(1) - 1;
        let child = Arc::make_mut(&mut children[place]);
        let split = child.insert(key, cells, item);
        self.keys[place] = child.keys[0];
        self.boxes.set(place, &child.boxes.all());
        let split = split?;
        let place = place + 1;
        if !is_full {
            self.put_child(place, split);
            return None;
        }
        let mut rest = self.split();
        match place.checked_sub(self.len()) {
            Some(place) if place > 0 => rest.put_child(place, split),
            _ => self.put_child(place, split),
        }
        Some(rest)
    }

    fn remove(&mut self, key: Key) -> bool {
        if self.len() == 0 {
            return false;
        }
        let place = self.child_for(key);
        match &mut self.kids {
            Kids::Leaf(items) => {
                let Ok(place) = self.keys[..items.len()].binary_search(&key) else { return false };
                items.remove(place);
                self.close(place);
                true
            }
            Kids::Inner(children) => {
                let child = Arc::make_mut(&mut children[place]);
                if !child.remove(key) {
                    return false;
                }
                if child.len() == 0 {
                    children.remove(place);
                    self.close(place);
                } else {
                    self.keys[place] = child.keys[0];
                    self.boxes.set(place, &child.boxes.all());
                    self.merge(place);
                }
                true
            }
        }
    }

    /// Joins a child with the next one, or the one before, if the two are small.
    fn merge(&mut self, place: usize) {
        let Kids::Inner(children) = &mut self.kids else { return };
        let first = if place + 1 < children.len() { place } else { place.saturating_sub(1) };
        if first + 1 >= children.len() || children[first].len() + children[first + 1].len() > FEW {
            return;
        }
        let second = Arc::unwrap_or_clone(children.remove(first + 1));
        let own = Arc::make_mut(&mut children[first]);
        let (count, more) = (own.len(), second.len());
        for place in 0..more {
            own.keys[count + place] = second.keys[place];
            own.boxes.set(count + place, &second.boxes.get(place));
        }
        match (&mut own.kids, second.kids) {
            (Kids::Inner(own), Kids::Inner(more)) => own.extend(more),
            (Kids::Leaf(own), Kids::Leaf(more)) => own.extend(more),
            // All leaves are equally deep.
            (Kids::Inner(_), Kids::Leaf(_)) | (Kids::Leaf(_), Kids::Inner(_)) => unreachable!("one depth"),
        }
        let all = own.boxes.all();
        self.close(first + 1);
        self.boxes.set(first, &all);
    }

    fn each(&self, found: &mut impl FnMut(&T)) {
        match &self.kids {
            Kids::Inner(children) => children.iter().for_each(|child| child.each(found)),
            Kids::Leaf(items) => items.iter().for_each(found),
        }
    }

    /// Calls `found` with the items in some places of a leaf.
    #[inline]
    fn each_of(&self, mut places: u32, found: &mut impl FnMut(&T)) {
        let Kids::Leaf(items) = &self.kids else { return };
        while places != 0 {
            found(&items[places.trailing_zeros() as usize]);
            places &= places - 1;
        }
    }

    /// Descends branch by branch, for any number of nodes.
    fn query<V: Vector>(&self, region: &Region, found: &mut impl FnMut(&T)) {
        let mut overlapping = self.boxes.overlapping(region, V::DIMENSION);
        let Kids::Inner(children) = &self.kids else { return self.each_of(overlapping, found) };
        while overlapping != 0 {
            children[overlapping.trailing_zeros() as usize].query::<V>(region, found);
            overlapping &= overlapping - 1;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::{Vec2, Vec3};
    use proptest::prelude::*;

    type Corners = ([f32; 3], [f32; 3]);
    type Edit = (bool, prop::sample::Index, Corners);

    impl<V: Vector> Boxed<V> for (u32, Bounds<V>) {
        fn bounds(&self) -> Bounds<V> {
            self.1
        }

        fn id(&self) -> u32 {
            self.0
        }
    }

    /// Any history of edits and clones finds what a plain list finds, in the same order as a tree
    /// that is built at once.
    fn a_history_equals_a_plain_list<V: Vector>(built: usize, edits: &[Edit]) {
        let item = |(number, (at, size)): (usize, Corners)| {
            let min = V::from_array(at);
            (number as u32, Bounds { min, max: min + V::from_array(size) })
        };
        let corners: Vec<Corners> = edits.iter().map(|edit| edit.2).collect();
        let mut all: Vec<(u32, Bounds<V>)> = corners[..built].iter().copied().enumerate().map(item).collect();
        let mut tree = Tree::new(all.clone());
        let mut kept = Vec::new();
        for (number, (adds, index, corners)) in edits.iter().enumerate().skip(built) {
            if *adds || all.is_empty() {
                all.push(item((number, *corners)));
                tree.insert(item((number, *corners)));
            } else {
                let (id, bounds) = all.swap_remove(index.index(all.len()));
                assert!(tree.get(key_of(&bounds, id)).is_some());
                assert!(tree.remove(&bounds, id) && !tree.remove(&bounds, id));
                assert!(tree.get(key_of(&bounds, id)).is_none());
            }
            if number % 50 == 0 {
                kept.push((tree.clone(), all.clone()));
            }
        }
        kept.push((tree, all));
        for (tree, all) in kept {
            assert_eq!(tree.len(), all.len());
            let fresh = Tree::new(all.clone());
            for region in all.iter().map(|(_, bounds)| bounds.widened(V::splat(3.0))) {
                let found = |tree: &Tree<V, (u32, Bounds<V>)>| {
                    let mut found = Vec::new();
                    tree.query(&region, |&(id, bounds)| {
                        found.extend(bounds.overlaps(&region).then_some(id));
                    });
                    found
                };
                let mut expected: Vec<_> = all.iter().filter(|item| item.1.overlaps(&region)).collect();
                expected.sort_by_key(|(id, bounds)| key_of(bounds, *id));
                let expected: Vec<u32> = expected.iter().map(|item| item.0).collect();
                assert_eq!(found(&tree), expected);
                assert_eq!(found(&fresh), expected);
            }
        }
    }

    fn corners(far: f32) -> impl Strategy<Value = Corners> {
        (prop::array::uniform3(-far..far), prop::array::uniform3(0f32..9.0))
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

        #[test]
        fn histories_equal_plain_lists(
            built in 0..400usize,
            edits in prop::collection::vec((any::<bool>(), any::<prop::sample::Index>(), corners(50.0)), 400..800),
            far in prop::collection::vec((any::<bool>(), any::<prop::sample::Index>(), corners(5e4)), 0..100),
        ) {
            let edits: Vec<Edit> = edits.into_iter().chain(far).collect();
            a_history_equals_a_plain_list::<Vec2>(built, &edits);
            a_history_equals_a_plain_list::<Vec3>(built, &edits);
        }
    }
}
