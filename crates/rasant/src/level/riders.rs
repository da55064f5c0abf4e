//! What rides on carriers, found by where the carriers are.
//!
//! Each carrier is one box in an index: that of all that rides on it, with room
//! for some ticks of its motion. While it stays inside, nothing is touched; when
//! it leaves, its box is made anew. So what is far away costs nothing.

use alloc::boxed::Box;
use alloc::vec::Vec;

use crate::space::{Bounds, Vector};

use super::carrier::{Carrier, Placement, Ride};
use super::index::{Index, in_order};

/// Ticks of its present motion that a carrier's box has room for.
const AHEAD: f32 = 12.0;
/// Pieces on a carrier that are looked through one by one; more have an index of
/// their own.
const FEW: usize = 24;
const NOWHERE: u32 = u32::MAX;

/// Pieces and zones on carriers.
#[derive(Clone, Debug)]
pub(super) struct Riders<V> {
    carried: Vec<Carried<V>>,
    /// Pieces, each with its bounds about its carrier's origin, carrier by carrier.
    pieces: Vec<(u32, Bounds<V>)>,
    /// Zones, the same.
    zones: Vec<(u16, Bounds<V>)>,
    index: Index<V>,
    /// Carriers that may be elsewhere after the next tick.
    moving: Vec<u16>,
    /// Boxes made anew since the index was built, and how many are let pass before
    /// it is built again: they wear out how well it is sorted.
    refits: usize,
    most_refits: usize,
}

/// What rides on one carrier.
#[derive(Clone, Debug)]
struct Carried<V> {
    /// Bounds of it all about the carrier's origin.
    own: Bounds<V>,
    /// Those in the index.
    room: Bounds<V>,
    /// Its place in the index.
    place: u32,
    pieces: (u32, u32),
    zones: (u32, u32),
    /// Over its pieces, where there are many.
    index: Option<Box<Index<V>>>,
}

impl<V: Vector> Riders<V> {
    /// What rides on `carriers`: the numbers of pieces and zones, each with its
    /// carrier and its bounds about that.
    pub fn new(
        carriers: &[Carrier<V>],
        mut pieces: Vec<(u16, u32, Bounds<V>)>,
        mut zones: Vec<(u16, u16, Bounds<V>)>,
    ) -> Self {
        pieces.sort_by_key(|&(carrier, number, _)| (carrier, number));
        zones.sort_by_key(|&(carrier, number, _)| (carrier, number));
        let carried = |number: usize| {
            let carrier = number as u16;
            let pieces_of = range(&pieces, |piece| piece.0, carrier);
            let zones_of = range(&zones, |zone| zone.0, carrier);
            let boxes: Vec<Bounds<V>> =
                pieces[pieces_of.0 as usize..pieces_of.1 as usize].iter().map(|piece| piece.2).collect();
            let ridden = zones[zones_of.0 as usize..zones_of.1 as usize].iter().map(|zone| zone.2);
            let own = boxes.iter().copied().chain(ridden).fold(Bounds::empty(), Bounds::joined);
            let index = (boxes.len() > FEW).then(|| Box::new(Index::new(&boxes)));
            Carried { own, room: own, place: NOWHERE, pieces: pieces_of, zones: zones_of, index }
        };
        let carried: Vec<Carried<V>> = (0..carriers.len()).map(carried).collect();
        let mut riders = Self {
            carried,
            pieces: pieces.into_iter().map(|(_, number, own)| (number, own)).collect(),
            zones: zones.into_iter().map(|(_, number, own)| (number, own)).collect(),
            index: Index::new(&[]),
            moving: Vec::new(),
            refits: 0,
            most_refits: 0,
        };
        riders.all_may_move();
        riders.sort_anew(carriers);
        riders
    }

    /// Whether no piece rides on anything.
    #[inline]
    pub fn has_no_pieces(&self) -> bool {
        self.pieces.is_empty()
    }

    /// Moves the carriers that move to where they are at `time`.
    pub fn advance(&mut self, carriers: &mut [Carrier<V>], time: f64) {
        let mut moving = core::mem::take(&mut self.moving);
        moving.retain(|&number| {
            let carrier = &mut carriers[usize::from(number)];
            carrier.follow(time);
            self.has_moved(number, &carrier.ride());
            carrier.moves_on(time)
        });
        self.moving = moving;
        self.sort_if_worn(carriers);
    }

    /// The host has put a carrier somewhere.
    pub fn placed(&mut self, carriers: &[Carrier<V>], number: u16) {
        self.has_moved(number, &carriers[usize::from(number)].ride());
        if let Err(place) = self.moving.binary_search(&number) {
            self.moving.insert(place, number);
        }
        self.sort_if_worn(carriers);
    }

    /// The carriers have been put elsewhere.
    pub fn put(&mut self, carriers: &[Carrier<V>]) {
        self.all_may_move();
        for (number, carrier) in carriers.iter().enumerate() {
            self.has_moved(number as u16, &carrier.ride());
        }
        self.sort_if_worn(carriers);
    }

    /// Every carrier may move in the next tick: time has been set.
    fn all_may_move(&mut self) {
        self.moving = (0..self.carried.len() as u32).map(|number| number as u16).collect();
    }

    #[inline]
    fn has_moved(&mut self, number: u16, ride: &Ride<V>) {
        let carried = &mut self.carried[usize::from(number)];
        if carried.place == NOWHERE {
            return;
        }
        let to = ride.to.moved(&carried.own);
        let passed = if ride.from == ride.to { to } else { to.joined(ride.from.moved(&carried.own)) };
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
            self.sort_anew(carriers);
        }
    }

    /// Builds the index from where the carriers are now.
    #[cold]
    fn sort_anew(&mut self, carriers: &[Carrier<V>]) {
        let mut numbers = Vec::new();
        let mut boxes = Vec::new();
        for (number, (carried, carrier)) in self.carried.iter_mut().zip(carriers).enumerate() {
            if carried.pieces.0 == carried.pieces.1 && carried.zones.0 == carried.zones.1 {
                continue;
            }
            let ride = carrier.ride();
            let to = ride.to.moved(&carried.own);
            carried.room = to.joined(ride.from.moved(&carried.own)).joined(ahead(&to, &ride));
            numbers.push(number as u32);
            boxes.push(carried.room);
        }
        self.index = Index::with_room(&boxes);
        for (place, &item) in self.index.order().iter().enumerate() {
            self.carried[numbers[item as usize] as usize].place = place as u32;
        }
        self.index.renumber(|item| numbers[item as usize]);
        self.refits = 0;
        // At first soon, for carriers that were yet to be placed; then seldom.
        self.most_refits = (2 * self.most_refits).clamp(boxes.len() / 2, 16 * boxes.len());
    }

    /// Calls `found` with the carriers whose riders may be within `region`, in
    /// order.
    #[inline]
    pub fn near(&self, region: &Bounds<V>, mut found: impl FnMut(u16)) {
        if self.carried.is_empty() {
            return;
        }
        in_order::<16>(|seen| self.index.query(region, seen), |number| found(number as u16));
    }

    /// Calls `found` with the number of every piece of a carrier, placed there, that
    /// is within `region`.
    pub fn pieces_on(
        &self,
        carrier: u16,
        placement: Placement<V>,
        region: &Bounds<V>,
        mut found: impl FnMut(u32),
    ) {
        let carried = &self.carried[usize::from(carrier)];
        let pieces = &self.pieces[carried.pieces.0 as usize..carried.pieces.1 as usize];
        let is_near = |own: &Bounds<V>| placement.moved(own).overlaps(region);
        let Some(index) = &carried.index else {
            pieces.iter().filter(|(_, own)| is_near(own)).for_each(|&(number, _)| found(number));
            return;
        };
        let region = placement.unmoved(region);
        in_order::<32>(
            |seen| index.query(&region, seen),
            |item| {
                let (number, own) = &pieces[item as usize];
                if is_near(own) {
                    found(*number);
                }
            },
        );
    }

    /// Calls `found` with the number of every zone of a carrier, placed there, that
    /// is within `region`.
    pub fn zones_on(
        &self,
        carrier: u16,
        placement: Placement<V>,
        region: &Bounds<V>,
        mut found: impl FnMut(u16),
    ) {
        let carried = &self.carried[usize::from(carrier)];
        for &(number, own) in &self.zones[carried.zones.0 as usize..carried.zones.1 as usize] {
            if placement.moved(&own).overlaps(region) {
                found(number);
            }
        }
    }
}

/// Which of a sorted list are of a carrier.
fn range<T>(all: &[T], of: impl Fn(&T) -> u16, carrier: u16) -> (u32, u32) {
    let start = all.partition_point(|one| of(one) < carrier);
    let end = all.partition_point(|one| of(one) <= carrier);
    (start as u32, end as u32)
}

/// Where a carrier with these bounds gets to if it goes on; it is where it is if it
/// has jumped.
fn ahead<V: Vector>(to: &Bounds<V>, ride: &Ride<V>) -> Bounds<V> {
    let way = to.centre() - ride.from.apply(ride.to.undo(to.centre()));
    let size = (to.max - to.min).length();
    if way.length_squared() > size * size {
        return *to;
    }
    let far = way * AHEAD;
    Bounds { min: to.min + far, max: to.max + far }
}
