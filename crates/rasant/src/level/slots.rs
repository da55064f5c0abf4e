//! A persistent list that is found by number.
//!
//! It is a radix tree with 32 children per node (P. Bagwell, "Ideal hash trees", 2001, without the
//! hashing). Nodes are shared between clones, and copied when one of them changes.

use alloc::sync::Arc;
use alloc::vec::Vec;

/// The number of bits of a number that choose a child.
const BITS: u32 = 5;
const FAN: usize = 1 << BITS;

/// Values by number. Numbers without a value cost nothing.
#[derive(Clone, Debug)]
pub(super) struct Slots<T> {
    root: Option<Arc<Node<T>>>,
    /// The number of levels of nodes below the root.
    depth: u32,
}

#[derive(Clone, Debug)]
#[expect(clippy::large_enum_variant, reason = "nodes are only found behind a pointer")]
enum Node<T> {
    Inner([Option<Arc<Node<T>>>; FAN]),
    Leaf([Option<T>; FAN]),
}

impl<T> Default for Slots<T> {
    fn default() -> Self {
        Self { root: None, depth: 0 }
    }
}

impl<T: Clone> Slots<T> {
    /// The child of a node at `depth` above the leaves in which a number is.
    fn child(number: u32, depth: u32) -> usize {
        (number >> (BITS * depth)) as usize % FAN
    }

    /// Returns true if a number is within the reach of a tree with some levels below the root.
    fn fits(number: u32, depth: u32) -> bool {
        let bits = BITS * (depth + 1);
        bits >= u32::BITS || number >> bits == 0
    }

    pub fn get(&self, number: u32) -> Option<&T> {
        if !Self::fits(number, self.depth) {
            return None;
        }
        let mut node = self.root.as_deref()?;
        let mut depth = self.depth;
        loop {
            match node {
                Node::Inner(children) => node = children[Self::child(number, depth)].as_deref()?,
                Node::Leaf(values) => return values[Self::child(number, 0)].as_ref(),
            }
            depth -= 1;
        }
    }

    /// Sets or removes the value of a number. Returns the value before.
    pub fn set(&mut self, number: u32, value: Option<T>) -> Option<T> {
        while !Self::fits(number, self.depth) {
            if let Some(root) = self.root.take() {
                let mut children = [const { None }; FAN];
                children[0] = Some(root);
                self.root = Some(Arc::new(Node::Inner(children)));
            }
            self.depth += 1;
        }
        let root = self.root.get_or_insert_with(|| Self::empty(self.depth));
        Self::set_in(Arc::make_mut(root), number, self.depth, value)
    }

    fn empty(depth: u32) -> Arc<Node<T>> {
        Arc::new(if depth == 0 {
            Node::Leaf([const { None }; FAN])
        } else {
            Node::Inner([const { None }; FAN])
        })
    }

    fn set_in(node: &mut Node<T>, number: u32, depth: u32, value: Option<T>) -> Option<T> {
        let place = Self::child(number, depth);
        match node {
            Node::Leaf(values) => core::mem::replace(&mut values[place], value),
            Node::Inner(children) => {
                let child = children[place].get_or_insert_with(|| Self::empty(depth - 1));
                Self::set_in(Arc::make_mut(child), number, depth - 1, value)
            }
        }
    }

    /// Calls `found` with every value, in the order of the numbers.
    pub fn each(&self, mut found: impl FnMut(u32, &T)) {
        if let Some(root) = &self.root {
            Self::each_in(root, 0, self.depth, &mut found);
        }
    }

    fn each_in(node: &Node<T>, first: u32, depth: u32, found: &mut impl FnMut(u32, &T)) {
        let number = |place: usize| first | (place as u32) << (BITS * depth);
        match node {
            Node::Leaf(values) => {
                let values = values.iter().enumerate();
                values.for_each(|(place, value)| {
                    if let Some(value) = value {
                        found(number(place), value);
                    }
                });
            }
            Node::Inner(children) => {
                for (place, child) in children.iter().enumerate() {
                    if let Some(child) = child {
                        Self::each_in(child, number(place), depth - 1, found);
                    }
                }
            }
        }
    }

    /// Returns true if the two are clones, with no change since.
    pub fn is_same(&self, other: &Self) -> bool {
        match (&self.root, &other.root) {
            (Some(one), Some(other)) => Arc::ptr_eq(one, other),
            (None, None) => true,
            _ => false,
        }
    }

    /// The numbers whose values may differ from those of a relative of this list: nodes that the two
    /// share are passed over.
    pub fn differences(&self, other: &Self) -> Vec<u32> {
        let mut numbers = Vec::new();
        let depth = self.depth.max(other.depth);
        let [own, other] = [self, other].map(|list| list.raised(depth));
        Self::compare(own.as_ref(), other.as_ref(), 0, depth, &mut numbers);
        numbers
    }

    /// The root, as that of a tree with more levels.
    fn raised(&self, depth: u32) -> Option<Arc<Node<T>>> {
        let mut root = self.root.clone();
        for _ in self.depth..depth {
            root = root.map(|root| {
                let mut children = [const { None }; FAN];
                children[0] = Some(root);
                Arc::new(Node::Inner(children))
            });
        }
        root
    }

    fn compare(
        one: Option<&Arc<Node<T>>>,
        other: Option<&Arc<Node<T>>>,
        first: u32,
        depth: u32,
        numbers: &mut Vec<u32>,
    ) {
        match (one, other) {
            (None, None) => return,
            (Some(one), Some(other)) if Arc::ptr_eq(one, other) => return,
            _ => {}
        }
        let child = |node: Option<&Arc<Node<T>>>, place: usize| match node.map(|node| &**node) {
            Some(Node::Inner(children)) => children[place].clone(),
            _ => None,
        };
        let has = |node: Option<&Arc<Node<T>>>, place: usize| match node.map(|node| &**node) {
            Some(Node::Leaf(values)) => values[place].is_some(),
            _ => false,
        };
        for place in 0..FAN {
            let number = first | (place as u32) << (BITS * depth);
            if depth > 0 {
                let (one, other) = (child(one, place), child(other, place));
                Self::compare(one.as_ref(), other.as_ref(), number, depth - 1, numbers);
            } else if has(one, place) || has(other, place) {
                numbers.push(number);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use alloc::collections::BTreeMap;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_history_equals_a_map(
            edits in prop::collection::vec((prop_oneof![0..2000u32, any::<u32>()], any::<Option<u8>>()), 0..300)
        ) {
            let (mut slots, mut map) = (Slots::default(), BTreeMap::new());
            let mut kept = Vec::new();
            for (step, &(number, value)) in edits.iter().enumerate() {
                let before = match value {
                    Some(value) => map.insert(number, value),
                    None => map.remove(&number),
                };
                prop_assert_eq!(slots.set(number, value), before);
                if step % 40 == 0 {
                    kept.push((slots.clone(), map.clone()));
                }
            }
            for (older, older_map) in kept.into_iter().chain([(slots.clone(), map.clone())]) {
                let mut all = Vec::new();
                older.each(|number, value| all.push((number, *value)));
                prop_assert!(all.into_iter().eq(older_map.iter().map(|(number, value)| (*number, *value))));
                let differences = slots.differences(&older);
                prop_assert!(differences.is_sorted());
                for number in older_map.keys().chain(map.keys()) {
                    prop_assert_eq!(older.get(*number), older_map.get(number));
                    let differs = older_map.get(number) != map.get(number);
                    prop_assert!(!differs || differences.binary_search(number).is_ok());
                }
            }
        }
    }
}
