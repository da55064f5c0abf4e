//! The pieces of a level: those that stay where they are in a tree, all of them by id.

use alloc::sync::Arc;
use alloc::vec::Vec;

use crate::space::{Bounds, Vector};

use super::carrier::CarrierId;
use super::layers::Layers;
use super::piece::{Piece, PieceId, Tag};
use super::slots::Slots;
use super::surface::SurfaceId;
use super::tree::{Boxed, Tree, key_of};

/// The pieces of a level. A clone costs two reference counts.
#[derive(Clone, Debug)]
pub(super) struct Pieces<V> {
    /// Those that do not ride on a carrier.
    tree: Tree<V, Item<V>>,
    slots: Slots<Slot<V>>,
    /// The next id.
    next: u32,
    /// The number of pieces, where each triangle of a mesh counts as one.
    count: usize,
}

/// A piece that was added, changed or removed, with its id.
pub(super) type Change<V> = (u32, Option<Piece<V>>);

/// Where a piece is found by its id.
#[derive(Clone, Debug)]
enum Slot<V> {
    /// In the tree, by its key.
    Staying(u64),
    Riding(Arc<Piece<V>>),
}

/// A piece in the tree.
#[derive(Clone, Debug)]
pub(super) struct Item<V> {
    id: u32,
    pub layers: Layers,
    surface: SurfaceId,
    one_way: bool,
    pub form: Form<V>,
}

/// The shape of a piece in the tree.
#[derive(Clone, Debug)]
pub(super) enum Form<V> {
    /// An axis-aligned box.
    Block(Bounds<V>),
    Other(Arc<Piece<V>>),
}

impl<V: Vector> Item<V> {
    fn new(id: u32, piece: Piece<V>) -> Self {
        let Piece { layers, surface, one_way, .. } = piece;
        let form = match piece.as_block() {
            Some(bounds) => Form::Block(bounds),
            None => Form::Other(Arc::new(piece)),
        };
        Self { id, layers, surface, one_way, form }
    }

    #[inline]
    pub fn tag(&self) -> Tag {
        let Self { id, surface, one_way, .. } = *self;
        Tag { piece: PieceId(id), surface, carrier: None, one_way }
    }

    fn count(&self) -> usize {
        match &self.form {
            Form::Block(_) => 1,
            Form::Other(piece) => piece.count(),
        }
    }

    fn piece(&self) -> Option<Piece<V>> {
        match &self.form {
            Form::Other(piece) => Some(Piece::clone(piece)),
            Form::Block(Bounds { min, max }) => {
                let Self { layers, surface, one_way, .. } = *self;
                Some(Piece { layers, surface, one_way, ..Piece::block(*min, *max).ok()? })
            }
        }
    }
}

impl<V: Vector> Boxed<V> for Item<V> {
    fn bounds(&self) -> Bounds<V> {
        match &self.form {
            Form::Block(bounds) => *bounds,
            Form::Other(piece) => piece.bounds(),
        }
    }

    fn id(&self) -> u32 {
        self.id
    }
}

impl<V: Vector> Pieces<V> {
    /// Pieces whose ids are their places.
    pub fn new(pieces: Vec<Piece<V>>) -> Self {
        let (mut slots, mut staying) = (Slots::default(), Vec::with_capacity(pieces.len()));
        let (mut next, mut count) = (0, 0);
        for piece in pieces {
            count += piece.count();
            if piece.carrier.is_some() {
                slots.set(next, Some(Slot::Riding(Arc::new(piece))));
            } else {
                let item = Item::new(next, piece);
                slots.set(next, Some(Slot::Staying(key_of(&item.bounds(), next).0)));
                staying.push(item);
            }
            next += 1;
        }
        Self { tree: Tree::new(staying), slots, next, count }
    }

    /// The next id: all ids so far are below it.
    pub fn next(&self) -> u32 {
        self.next
    }

    /// The number of pieces, where each triangle of a mesh counts as one.
    pub fn count(&self) -> usize {
        self.count
    }

    /// Returns true if there is a piece with this id.
    pub fn has(&self, id: u32) -> bool {
        self.slots.get(id).is_some()
    }

    pub fn get(&self, id: u32) -> Option<Piece<V>> {
        self.of_slot(id, self.slots.get(id)?)
    }

    fn of_slot(&self, id: u32, slot: &Slot<V>) -> Option<Piece<V>> {
        match slot {
            Slot::Staying(key) => self.tree.get((*key, id))?.piece(),
            Slot::Riding(piece) => Some(Piece::clone(piece)),
        }
    }

    /// Every piece in the order of the ids.
    pub fn all(&self) -> Vec<(u32, Piece<V>)> {
        let mut all = Vec::new();
        self.slots.each(|id, slot| all.extend(self.of_slot(id, slot).map(|piece| (id, piece))));
        all
    }

    /// Every piece that rides on a carrier, in the order of the ids.
    pub fn riding(&self) -> Vec<(u32, Arc<Piece<V>>)> {
        let mut riding = Vec::new();
        self.slots.each(|id, slot| {
            if let Slot::Riding(piece) = slot {
                riding.push((id, Arc::clone(piece)));
            }
        });
        riding
    }

    /// Calls `found` with the pieces whose bounds overlap a region, or nearly, and that do not ride.
    #[inline]
    pub fn query(&self, region: &Bounds<V>, found: impl FnMut(&Item<V>)) {
        self.tree.query(region, found);
    }

    /// Sets or removes the piece with an id. Returns the carrier that it was on before.
    pub fn set(&mut self, id: u32, piece: Option<Piece<V>>) -> Option<CarrierId> {
        let mut carrier = None;
        match self.slots.get(id) {
            Some(Slot::Riding(old)) => {
                self.count -= old.count();
                carrier = old.carrier;
            }
            Some(Slot::Staying(key)) => {
                if let Some(item) = self.tree.get((*key, id)) {
                    self.count -= item.count();
                    let bounds = item.bounds();
                    self.tree.remove(&bounds, id);
                }
            }
            None => {}
        }
        self.next = self.next.max(id.saturating_add(1));
        let slot = piece.map(|piece| {
            self.count += piece.count();
            if piece.carrier.is_some() {
                return Slot::Riding(Arc::new(piece));
            }
            let item = Item::new(id, piece);
            let key = key_of(&item.bounds(), id).0;
            self.tree.insert(item);
            Slot::Staying(key)
        });
        self.slots.set(id, slot);
        carrier
    }

    /// The pieces that differ from those of a relative of this list, with `None` for those that are
    /// not here.
    pub fn changes_since(&self, other: &Self) -> Vec<Change<V>> {
        let differences = self.slots.differences(&other.slots).into_iter();
        differences
            .filter_map(|id| {
                let own = self.get(id);
                (own != other.get(id)).then_some((id, own))
            })
            .collect()
    }

    /// The same pieces with some changes, as [`Self::changes_since`] lists them.
    pub fn with_changes(&self, changes: &[Change<V>], next: u32) -> Self {
        let mut pieces = self.clone();
        for (id, piece) in changes {
            pieces.set(*id, piece.clone());
        }
        Self { next: pieces.next.max(next), ..pieces }
    }

    /// Returns true if both are clones of one list, with no edit since.
    pub fn is_same(&self, other: &Self) -> bool {
        self.next == other.next && self.slots.is_same(&other.slots)
    }
}
