//! Changes of a level after it was built.

use alloc::format;
use alloc::sync::Arc;
use alloc::vec::Vec;
use core::hash::{Hash as _, Hasher as _};

use crate::space::Vector;
use crate::summer::Summer;

use super::build::{Counts, MOST_PIECES, check_carrier, most_of, placed_bounds};
use super::carrier::{Carrier, CarrierId, ride_of};
use super::index::Index;
use super::layers::Layers;
use super::piece::{Piece, PieceId};
use super::riders::{Riders, rides_on};
use super::surface::{Surface, SurfaceId};
use super::zone::{Zone, ZoneId};
use super::{Level, LevelError};

/// # Editing
/// A level can be edited at any time between two ticks. An id belongs to one piece, carrier or zone
/// for ever. A body that stood on a removed piece falls in the next tick. A piece that is placed
/// over a body pushes it out, or crushes it. Editing a piece takes a time that grows with the
/// logarithm of the number of pieces; one that rides on a carrier, a time that grows with what is on
/// that carrier; a zone, with the number of zones. A level that grows far beyond the bounds that it
/// was built with sorts its pieces again from time to time.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
///
/// let mut builder = Level::builder();
/// let plank = builder.add(Piece::block(Vec2::new(-1.0, -0.2), Vec2::new(1.0, 0.0))?);
/// let mut level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
/// body.find_footing(&level);
///
/// level.remove(plank);
/// body.tick(&Intent::default(), &level, 1.0 / 60.0);
/// assert!(!body.state().footing.is_firm());
///
/// let lower = level.add(Piece::block(Vec2::new(-1.0, -3.0), Vec2::new(1.0, -2.0))?)?;
/// assert_ne!(lower, plank);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
impl<V: Vector> Level<V> {
    /// Adds a piece.
    ///
    /// # Errors
    /// If it refers to a surface or carrier that does not exist, or if all ids are used.
    pub fn add(&mut self, piece: Piece<V>) -> Result<PieceId, LevelError> {
        let id = self.pieces.next();
        if id as usize >= MOST_PIECES {
            return Err(LevelError::TooMany { what: "pieces", count: id as usize + 1, most: MOST_PIECES });
        }
        self.counts().check_piece(id as usize, &piece)?;
        self.put_piece(id, Some(piece));
        Ok(PieceId(id))
    }

    /// Removes a piece. Returns false if there is none with this id.
    pub fn remove(&mut self, id: PieceId) -> bool {
        let is_there = self.pieces.has(id.0);
        if is_there {
            self.put_piece(id.0, None);
        }
        is_there
    }

    /// Puts a piece back that was removed, under the id that it had: a door that closes again, a floor
    /// that has crumbled. Returns false if there never was one with this id, or if it is still there.
    ///
    /// # Errors
    /// If it refers to a surface or carrier that does not exist.
    pub fn put_back(&mut self, id: PieceId, piece: Piece<V>) -> Result<bool, LevelError> {
        if id.0 >= self.pieces.next() || self.pieces.has(id.0) {
            return Ok(false);
        }
        self.counts().check_piece(id.0 as usize, &piece)?;
        self.put_piece(id.0, Some(piece));
        Ok(true)
    }

    /// Replaces a piece by another one, for example by one at another place
    /// ([`Piece::moved_by`]). Its id stays. Returns false if there is none with this id.
    ///
    /// # Errors
    /// If it refers to a surface or carrier that does not exist.
    pub fn replace(&mut self, id: PieceId, piece: Piece<V>) -> Result<bool, LevelError> {
        let is_there = self.pieces.has(id.0);
        if is_there {
            self.counts().check_piece(id.0 as usize, &piece)?;
            self.put_piece(id.0, Some(piece));
        }
        Ok(is_there)
    }

    /// A piece. Its points are relative to its carrier, if it rides on one.
    #[must_use]
    pub fn piece(&self, id: PieceId) -> Option<Piece<V>> {
        self.pieces.get(id.0)
    }

    /// Changes the layers of a piece. With [`Layers::NONE`] it stops nothing, as an open door. Returns
    /// false if there is none with this id.
    pub fn set_layers(&mut self, id: PieceId, layers: Layers) -> bool {
        let Some(piece) = self.piece(id) else { return false };
        self.put_piece(id.0, Some(Piece { layers, ..piece }));
        true
    }

    /// Changes the surface of a piece; of a mesh, that of the triangles without one of their own.
    /// Returns false if there is none with this id.
    ///
    /// # Errors
    /// If there is no such surface.
    pub fn set_surface(&mut self, id: PieceId, surface: SurfaceId) -> Result<bool, LevelError> {
        self.counts().check_surface("piece", id.0 as usize, surface)?;
        let Some(piece) = self.piece(id) else { return Ok(false) };
        self.put_piece(id.0, Some(Piece { surface, ..piece }));
        Ok(true)
    }

    /// Adds a surface.
    ///
    /// # Errors
    /// If there are 65,535 already.
    pub fn add_surface(&mut self, surface: Surface<V>) -> Result<SurfaceId, LevelError> {
        let id = SurfaceId(self.room("surfaces", self.surfaces.len())?);
        Arc::make_mut(&mut self.surfaces).push(surface);
        self.has_changed(|sum| sum.write(format!("{surface:?}").as_bytes()));
        Ok(id)
    }

    /// Adds a carrier. One on a path starts where its path is at the current time.
    ///
    /// # Errors
    /// If there are 32,768 already, if the times of its path do not rise, or if it rides on a carrier
    /// that does not exist.
    pub fn add_carrier(&mut self, mut carrier: Carrier<V>) -> Result<CarrierId, LevelError> {
        let number = self.room("carriers", self.carriers.len())?;
        check_carrier(&self.carriers, &carrier)?;
        carrier.go_to(self.before, self.time, ride_of(&self.carriers, carrier.parent()));
        let carriers = Arc::make_mut(&mut self.carriers);
        carriers.push(carrier);
        Arc::make_mut(&mut self.riders).add_carrier(carriers);
        self.has_changed(|sum| sum.word(u64::from(number)));
        Ok(CarrierId(number))
    }

    /// Removes a carrier with everything on it: its pieces, its zones, and the carriers that ride on
    /// it. Bodies that rode on it fall in the next tick. Returns false if there is none with this id.
    pub fn remove_carrier(&mut self, id: CarrierId) -> bool {
        if self.carriers.get(usize::from(id.0)).is_none_or(Carrier::is_removed) {
            return false;
        }
        let all = (id.0..=u16::MAX).take(self.carriers.len() - usize::from(id.0));
        let all: Vec<u16> =
            all.filter(|&other| other == id.0 || rides_on(&self.carriers, other, id.0)).collect();
        for number in all {
            for piece in self.riders.all_pieces_on(number) {
                self.put_piece(piece, None);
            }
            for zone in self.riders.all_zones_on(number) {
                self.remove_zone(ZoneId(zone));
            }
            Arc::make_mut(&mut self.carriers)[usize::from(number)].remove();
            self.has_changed(|sum| (number, "removed").hash(sum));
        }
        self.index_riders();
        true
    }

    /// Adds a zone.
    ///
    /// # Errors
    /// If there are 65,535 already, if it refers to a surface or carrier that does not exist, or if
    /// it has invalid bounds, numbers or up.
    pub fn add_zone(&mut self, zone: Zone<V>) -> Result<ZoneId, LevelError> {
        let number = self.room("zones", self.zones.len())?;
        self.counts().check_zone(number, &zone)?;
        Arc::make_mut(&mut self.zones).push(zone);
        self.zone_has_changed(number, None);
        Ok(ZoneId(number))
    }

    /// Replaces a zone by another one. Bodies in it notice it in the next tick. A zone that was
    /// removed is there again. Returns false if there never was one with this id.
    ///
    /// # Errors
    /// As [`add_zone`](Self::add_zone).
    pub fn replace_zone(&mut self, id: ZoneId, zone: Zone<V>) -> Result<bool, LevelError> {
        if usize::from(id.0) >= self.zones.len() {
            return Ok(false);
        }
        self.counts().check_zone(id.0, &zone)?;
        let before = self.live_zone(id.0).and_then(|zone| zone.carrier);
        Arc::make_mut(&mut self.zones)[usize::from(id.0)] = zone;
        if let Ok(place) = self.removed_zones.binary_search(&id.0) {
            Arc::make_mut(&mut self.removed_zones).remove(place);
        }
        self.zone_has_changed(id.0, before);
        Ok(true)
    }

    /// Removes a zone, or switches it off until it is [replaced](Self::replace_zone). Bodies leave
    /// it in the next tick. Returns false if there is none with this id.
    pub fn remove_zone(&mut self, id: ZoneId) -> bool {
        let (Some(zone), Err(place)) =
            (self.zones.get(usize::from(id.0)), self.removed_zones.binary_search(&id.0))
        else {
            return false;
        };
        let before = zone.carrier;
        Arc::make_mut(&mut self.removed_zones).insert(place, id.0);
        self.zone_has_changed(id.0, before);
        true
    }

    /// Sets or removes the piece with an id.
    fn put_piece(&mut self, id: u32, piece: Option<Piece<V>>) {
        self.has_changed(|sum| {
            sum.word(u64::from(id));
            sum.option(piece.as_ref(), |sum, piece| piece.add_to(sum));
        });
        if let Some(piece) = &piece {
            self.bounds = self.bounds.joined(placed_bounds(piece, &self.carriers));
        }
        let after =
            piece.as_ref().filter(|piece| piece.carrier.is_some()).map(|piece| Arc::new(piece.clone()));
        let before = self.pieces.set(id, piece);
        let carrier = after.as_ref().and_then(|piece| piece.carrier);
        if let Some(CarrierId(before)) = before.filter(|_| before != carrier) {
            Arc::make_mut(&mut self.riders).set_piece(&self.carriers, before, id, None);
        }
        if let Some(CarrierId(carrier)) = carrier {
            Arc::make_mut(&mut self.riders).set_piece(&self.carriers, carrier, id, after);
        }
    }

    /// Adds a change to the checksum, so that bodies at rest wake.
    fn has_changed(&mut self, add: impl FnOnce(&mut Summer)) {
        let mut sum = Summer::new();
        sum.word(self.sum);
        add(&mut sum);
        self.sum = sum.finish();
    }

    /// Updates the indices and the checksum after a zone was added, replaced or removed, which was
    /// on a carrier before.
    fn zone_has_changed(&mut self, number: u16, before: Option<CarrierId>) {
        let zone = self.live_zone(number).copied();
        self.has_changed(|sum| (number, format!("{zone:?}")).hash(sum));
        let carrier = zone.and_then(|zone| zone.carrier);
        if let Some(CarrierId(before)) = before.filter(|_| before != carrier) {
            Arc::make_mut(&mut self.riders).set_zone(&self.carriers, before, number, None);
        }
        if let (Some(CarrierId(carrier)), Some(zone)) = (carrier, zone) {
            Arc::make_mut(&mut self.riders).set_zone(&self.carriers, carrier, number, Some(zone.bounds));
        }
        if carrier.is_none() || before.is_none() {
            self.index_zones();
        }
    }

    /// A zone as it was added, if it was not removed.
    #[inline]
    pub(super) fn live_zone(&self, number: u16) -> Option<&Zone<V>> {
        self.zones
            .get(usize::from(number))
            .filter(|_| self.removed_zones.is_empty() || self.removed_zones.binary_search(&number).is_err())
    }

    /// The numbers of all zones that were not removed, with their zones.
    fn live_zones(&self) -> impl Iterator<Item = (u16, &Zone<V>)> {
        (0..self.zones.len() as u32).filter_map(|number| {
            let number = number as u16;
            Some((number, self.live_zone(number)?))
        })
    }

    /// Rebuilds the index of the zones that do not ride on a carrier.
    pub(super) fn index_zones(&mut self) {
        let free = self.live_zones().filter(|(_, zone)| zone.carrier.is_none());
        let (free, boxes): (Vec<u16>, Vec<_>) = free.map(|(number, zone)| (number, zone.bounds)).unzip();
        let mut index = Index::new(&boxes);
        index.renumber(|item| u32::from(free[item as usize]));
        self.zone_index = Arc::new(index);
    }

    /// Rebuilds the index of the pieces and zones on carriers.
    pub(super) fn index_riders(&mut self) {
        let zones = self.live_zones().map(|(number, zone)| (number, *zone));
        self.riders = Arc::new(Riders::new(&self.carriers, self.pieces.riding(), zones));
    }

    fn room(&self, what: &'static str, count: usize) -> Result<u16, LevelError> {
        let most = most_of(what);
        match u16::try_from(count) {
            Ok(number) if count < most => Ok(number),
            _ => Err(LevelError::TooMany { what, count: count + 1, most }),
        }
    }

    /// The counts that references are checked against.
    fn counts(&self) -> Counts<'_, V> {
        Counts { surfaces: self.surfaces.len(), carriers: &self.carriers }
    }
}
