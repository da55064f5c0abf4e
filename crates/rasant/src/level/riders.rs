//! Pieces and zones on carriers, found by the positions of the carriers.
//!
//! Each carrier has one box in an index: the bounds of everything on it, with a margin for some
//! ticks of its motion. While it stays inside, the index is unchanged; when it leaves, its box is
//! updated. So carriers that are far away cost nothing.

use alloc::sync::Arc;
use alloc::vec::Vec;

use crate::space::{Bounds, Vector};

use super::carrier::{Carrier, ride_of};
use super::index::{Index, in_order};
use super::piece::Piece;
use super::placement::{Placement, Ride};
use super::zone::Zone;

/// The number of ticks of its current motion for which a carrier's box has a margin.
const AHEAD: f32 = 12.0;
/// The number of pieces on a carrier that are tested one by one. With more, the carrier has its own
/// index.
const FEW: usize = 24;
const NOWHERE: u32 = u32::MAX;

/// Pieces and zones on carriers. A clone costs a few reference counts per carrier.
#[derive(Clone, Debug)]
pub(super) struct Riders<V> {
    carried: Vec<Carried<V>>,
    /// The number of pieces and of zones.
    pieces: usize,
    zones: usize,
    index: Index<V>,
    /// Carriers that may move in the next tick, in order.
    moving: Vec<u16>,
    /// The carriers that ride on others, in order.
    children: Vec<u16>,
    /// The number of boxes that were updated since the index was built, and the number after which
    /// it is rebuilt, because updates degrade its order.
    refits: usize,
    most_refits: usize,
}

/// A piece on a carrier, with its id and its bounds relative to the carrier.
type Carry<V> = (u32, Bounds<V>, Arc<Piece<V>>);

/// The pieces and zones on one carrier.
#[derive(Clone, Debug)]
struct Carried<V> {
    /// Their bounds relative to the carrier.
    own: Bounds<V>,
    /// The box in the index.
    room: Bounds<V>,
    /// The place in the index.
    place: u32,
    /// The pieces with their ids, in the order of the ids.
    pieces: Arc<Vec<Carry<V>>>,
    zones: Arc<Vec<(u16, Bounds<V>)>>,
    /// An index over the pieces, if there are many.
    index: Option<Arc<Index<V>>>,
}

impl<V: Vector> Carried<V> {
    fn none() -> Self {
        let own = Bounds::empty();
        let (pieces, zones) = (Arc::default(), Arc::default());
        Self { own, room: own, place: NOWHERE, pieces, zones, index: None }
    }

    /// Works out the bounds and the index after the pieces or zones have changed.
    fn has_changed(&mut self) {
        let boxes: Vec<Bounds<V>> = self.pieces.iter().map(|piece| piece.1).collect();
        let ridden = self.zones.iter().map(|zone| zone.1);
        self.own = boxes.iter().copied().chain(ridden).fold(Bounds::empty(), Bounds::joined);
        self.index = (boxes.len() > FEW).then(|| Arc::new(Index::new(&boxes)));
    }

    /// The world bounds of everything on the carrier at a placement. They contain the world bounds of
    /// each piece, whatever the rounding.
    fn bounds_at(&self, placement: &Placement<V>) -> Bounds<V> {
        /// The rounding error of a rotated point, relative to the coordinates that it is the sum of.
        const ROUNDING: f32 = 8.0 * f32::EPSILON;
        let Bounds { min, max } = self.own;
        let sum = placement.offset().length() + min.length() + max.length();
        placement.moved(&self.own).widened(V::splat(ROUNDING * sum))
    }

    fn is_empty(&self) -> bool {
        self.pieces.is_empty() && self.zones.is_empty()
    }
}

impl<V: Vector> Riders<V> {
    /// The pieces and zones on carriers, each with its id, in the order of the ids.
    pub fn new(
        carriers: &[Carrier<V>],
        pieces: Vec<(u32, Arc<Piece<V>>)>,
        zones: impl Iterator<Item = (u16, Zone<V>)>,
    ) -> Self {
        let mut carried: Vec<Carried<V>> = carriers.iter().map(|_| Carried::none()).collect();
        let (mut piece_count, mut zone_count) = (0, 0);
        for (id, piece) in pieces {
            if let Some(carrier) = piece.carrier {
                let pieces = Arc::make_mut(&mut carried[usize::from(carrier.0)].pieces);
                pieces.push((id, piece.bounds(), piece));
                piece_count += 1;
            }
        }
        for (id, zone) in zones {
            if let Some(carrier) = zone.carrier {
                Arc::make_mut(&mut carried[usize::from(carrier.0)].zones).push((id, zone.bounds));
                zone_count += 1;
            }
        }
        carried.iter_mut().for_each(Carried::has_changed);
        let mut riders = Self {
            carried,
            pieces: piece_count,
            zones: zone_count,
            index: Index::new(&[]),
            moving: Vec::new(),
            children: numbers_where(carriers, |carrier| carrier.parent().is_some()),
            refits: 0,
            most_refits: 0,
        };
        riders.all_may_move();
        riders.sort_again(carriers);
        riders
    }

    /// Adds a carrier with the next number.
    pub fn add_carrier(&mut self, carriers: &[Carrier<V>]) {
        let number = self.carried.len() as u16;
        self.carried.push(Carried::none());
        self.wake(number);
        if carriers[usize::from(number)].parent().is_some() {
            self.children.push(number);
        }
    }

    /// Adds, replaces or removes a piece on a carrier.
    pub fn set_piece(
        &mut self,
        carriers: &[Carrier<V>],
        carrier: u16,
        id: u32,
        piece: Option<Arc<Piece<V>>>,
    ) {
        let carried = &mut self.carried[usize::from(carrier)];
        let pieces = Arc::make_mut(&mut carried.pieces);
        self.pieces -= pieces.len();
        let place = pieces.partition_point(|held| held.0 < id);
        if pieces.get(place).is_some_and(|held| held.0 == id) {
            pieces.remove(place);
        }
        if let Some(piece) = piece {
            pieces.insert(place, (id, piece.bounds(), piece));
        }
        self.pieces += pieces.len();
        self.load_has_changed(carriers, carrier);
    }

    /// Adds, replaces or removes a zone on a carrier.
    pub fn set_zone(&mut self, carriers: &[Carrier<V>], carrier: u16, id: u16, zone: Option<Bounds<V>>) {
        let carried = &mut self.carried[usize::from(carrier)];
        let zones = Arc::make_mut(&mut carried.zones);
        self.zones -= zones.len();
        let place = zones.partition_point(|held| held.0 < id);
        if zones.get(place).is_some_and(|held| held.0 == id) {
            zones.remove(place);
        }
        if let Some(bounds) = zone {
            zones.insert(place, (id, bounds));
        }
        self.zones += zones.len();
        self.load_has_changed(carriers, carrier);
    }

    fn load_has_changed(&mut self, carriers: &[Carrier<V>], carrier: u16) {
        let carried = &mut self.carried[usize::from(carrier)];
        carried.has_changed();
        if carried.place == NOWHERE || carried.is_empty() {
            self.sort_again(carriers);
            return;
        }
        carried.room = Bounds::empty();
        self.has_moved(carrier, &carriers[usize::from(carrier)].ride());
        self.sort_if_worn(carriers);
    }

    /// Returns true if no piece rides on a carrier.
    #[inline]
    pub fn has_no_pieces(&self) -> bool {
        self.pieces == 0
    }

    /// Moves the carriers to their placements at `time`.
    pub fn advance(&mut self, carriers: &mut [Carrier<V>], time: f64) {
        let mut moving = core::mem::take(&mut self.moving);
        // Parents come before their children.
        moving.retain(|&number| {
            let parent = ride_of(carriers, carriers[usize::from(number)].parent());
            let carrier = &mut carriers[usize::from(number)];
            carrier.follow(time, parent);
            self.has_moved(number, &carrier.ride());
            moves_on(carriers, number, time)
        });
        self.moving = moving;
        self.sort_if_worn(carriers);
    }

    /// Updates the index after the host has placed a carrier.
    pub fn placed(&mut self, carriers: &mut [Carrier<V>], number: u16) {
        self.has_moved(number, &carriers[usize::from(number)].ride());
        self.wake(number);
        for place in 0..self.children.len() {
            let child = self.children[place];
            if child > number && rides_on(carriers, child, number) {
                let parent = ride_of(carriers, carriers[usize::from(child)].parent());
                carriers[usize::from(child)].follow_parent(parent);
                self.has_moved(child, &carriers[usize::from(child)].ride());
                self.wake(child);
            }
        }
        self.sort_if_worn(carriers);
    }

    /// Marks a carrier as one that may move in the next tick.
    fn wake(&mut self, number: u16) {
        if let Err(place) = self.moving.binary_search(&number) {
            self.moving.insert(place, number);
        }
    }

    /// The ids of the pieces on a carrier.
    pub fn all_pieces_on(&self, carrier: u16) -> Vec<u32> {
        self.carried[usize::from(carrier)].pieces.iter().map(|piece| piece.0).collect()
    }

    /// The ids of the zones on a carrier.
    pub fn all_zones_on(&self, carrier: u16) -> Vec<u16> {
        self.carried[usize::from(carrier)].zones.iter().map(|zone| zone.0).collect()
    }

    /// Updates the index after all carriers may have been moved.
    pub fn put(&mut self, carriers: &[Carrier<V>]) {
        self.all_may_move();
        for (number, carrier) in carriers.iter().enumerate() {
            self.has_moved(number as u16, &carrier.ride());
        }
        self.sort_if_worn(carriers);
    }

    /// Marks every carrier as one that may move in the next tick, after the time was set.
    fn all_may_move(&mut self) {
        self.moving = (0..self.carried.len() as u32).map(|number| number as u16).collect();
    }

    #[inline]
    fn has_moved(&mut self, number: u16, ride: &Ride<V>) {
        let carried = &mut self.carried[usize::from(number)];
        if carried.place == NOWHERE {
            return;
        }
        let to = carried.bounds_at(&ride.to);
        let passed = if ride.from == ride.to { to } else { to.joined(carried.bounds_at(&ride.from)) };
        let room = &carried.room;
        if room.min.all_at_most(passed.min) && passed.max.all_at_most(room.max) {
            return;
        }
        carried.room = passed.joined(ahead(&to, ride));
        self.index.refit(carried.place, &carried.room);
        self.refits += 1;
    }

    fn sort_if_worn(&mut self, carriers: &[Carrier<V>]) {
        if self.refits > self.most_refits || self.index.is_outgrown() {
            self.sort_again(carriers);
        }
    }

    /// Rebuilds the index from the current placements.
    #[cold]
    fn sort_again(&mut self, carriers: &[Carrier<V>]) {
        let mut numbers = Vec::new();
        let mut boxes = Vec::new();
        for (number, (carried, carrier)) in self.carried.iter_mut().zip(carriers).enumerate() {
            carried.place = NOWHERE;
            if carried.is_empty() {
                continue;
            }
            let ride = carrier.ride();
            let to = carried.bounds_at(&ride.to);
            carried.room = to.joined(carried.bounds_at(&ride.from)).joined(ahead(&to, &ride));
            numbers.push(number as u32);
            boxes.push(carried.room);
        }
        self.index = Index::with_room(&boxes);
        for (place, &item) in self.index.order().iter().enumerate() {
            self.carried[numbers[item as usize] as usize].place = place as u32;
        }
        self.index.renumber(|item| numbers[item as usize]);
        self.refits = 0;
        // Soon at first, for carriers that were not placed yet; then rarely.
        self.most_refits = (2 * self.most_refits).clamp(boxes.len() / 2, 16 * boxes.len());
    }

    /// Calls `found` with the carriers whose pieces or zones may overlap `region`, in order, and with
    /// some others: which ones depends on how the carriers came to their placements.
    #[inline]
    pub fn near(&self, region: &Bounds<V>, mut found: impl FnMut(u16)) {
        if self.carried.is_empty() {
            return;
        }
        in_order::<16>(|seen| self.index.query(region, seen), |number| found(number as u16));
    }

    /// Returns true if the bounds of everything on a carrier overlap `region` at the beginning or the
    /// end of its ride.
    pub fn is_near(&self, carrier: u16, ride: &Ride<V>, region: &Bounds<V>) -> bool {
        let carried = &self.carried[usize::from(carrier)];
        let passes = |placement| carried.bounds_at(placement).overlaps(region);
        passes(&ride.to) || (ride.from != ride.to && passes(&ride.from))
    }

    /// Calls `found` with every piece of a carrier that overlaps `region` at the carrier's placement,
    /// with its id.
    pub fn pieces_on(
        &self,
        carrier: u16,
        placement: Placement<V>,
        region: &Bounds<V>,
        mut found: impl FnMut(u32, &Piece<V>),
    ) {
        let carried = &self.carried[usize::from(carrier)];
        let mut offer = |(id, own, piece): &Carry<V>| {
            if placement.moved(own).overlaps(region) {
                found(*id, piece);
            }
        };
        let Some(index) = &carried.index else {
            carried.pieces.iter().for_each(offer);
            return;
        };
        let region = placement.unmoved(region);
        in_order::<32>(|seen| index.query(&region, seen), |item| offer(&carried.pieces[item as usize]));
    }

    /// Calls `found` with the number of every zone of a carrier that overlaps `region` at the
    /// carrier's placement.
    pub fn zones_on(
        &self,
        carrier: u16,
        placement: Placement<V>,
        region: &Bounds<V>,
        mut found: impl FnMut(u16),
    ) {
        for &(number, own) in &*self.carried[usize::from(carrier)].zones {
            if placement.moved(&own).overlaps(region) {
                found(number);
            }
        }
    }
}

/// The numbers of some carriers, in order.
fn numbers_where<V>(carriers: &[Carrier<V>], is_one: impl Fn(&Carrier<V>) -> bool) -> Vec<u16> {
    let numbered = carriers.iter().enumerate();
    numbered.filter(|(_, carrier)| is_one(carrier)).map(|(number, _)| number as u16).collect()
}

/// Returns true if a carrier, or one that it rides on, may move in a tick after `time`.
fn moves_on<V: Vector>(carriers: &[Carrier<V>], number: u16, time: f64) -> bool {
    let mut next = Some(number);
    while let Some(number) = next {
        let carrier = &carriers[usize::from(number)];
        if carrier.moves_on(time) {
            return true;
        }
        next = carrier.parent().map(|parent| parent.0);
    }
    false
}

/// Returns true if a carrier rides on another one, directly or not.
pub(super) fn rides_on<V: Vector>(carriers: &[Carrier<V>], number: u16, other: u16) -> bool {
    let mut next = carriers[usize::from(number)].parent();
    while let Some(parent) = next.filter(|parent| parent.0 >= other) {
        if parent.0 == other {
            return true;
        }
        next = carriers[usize::from(parent.0)].parent();
    }
    false
}

/// The bounds that a carrier reaches if its motion continues. Only its current bounds if it was
/// teleported.
fn ahead<V: Vector>(to: &Bounds<V>, ride: &Ride<V>) -> Bounds<V> {
    let displacement = to.centre() - ride.from.apply(ride.to.undo(to.centre()));
    let size = (to.max - to.min).length();
    if displacement.length_squared() > size * size {
        return *to;
    }
    let far = displacement * AHEAD;
    Bounds { min: to.min + far, max: to.max + far }
}
