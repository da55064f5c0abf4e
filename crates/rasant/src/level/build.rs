//! Building a level.

use alloc::format;
use alloc::string::String;
use alloc::sync::Arc;
use alloc::vec;
use alloc::vec::Vec;
use core::hash::Hasher as _;
use glam::Vec3;
use thiserror::Error;

use crate::space::{Bounds, Vector};
use crate::summer::Summer;

use super::Level;
use super::carrier::{Carrier, CarrierId, ride_of};
use super::index::Index;
use super::layers::Layers;
use super::mesh::{HeightGrid, MeshShape};
use super::piece::{Piece, PieceError, PieceId};
use super::pieces::Pieces;
use super::placement::Placement;
use super::riders::Riders;
use super::surface::{Surface, SurfaceId};
use super::zone::{Effect, Zone, ZoneId};

/// The maximum number of surfaces, of carriers and of zones: their ids have 16 bits, and the last one
/// stands for none.
const MOST: usize = (1 << 16) - 1;
/// The number of carriers, and of pieces: the ids above are those of bodies in a crowd.
const MOST_CARRIERS: usize = 1 << 15;
pub(super) const MOST_PIECES: usize = 1 << 31;

/// The number of things of a kind that a level can have.
pub(super) fn most_of(what: &str) -> usize {
    if what == "carriers" { MOST_CARRIERS } else { MOST }
}

/// Collects pieces, surfaces and carriers, and builds a [`Level`] from them.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Level, Piece};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-10.0, -1.0), Vec2::new(10.0, 0.0))?);
/// let level = builder.build()?;
/// assert_eq!(level.len(), 1);
/// # Ok::<(), rasant::level::LevelError>(())
/// ```
#[derive(Clone, Debug)]
pub struct LevelBuilder<V> {
    pieces: Vec<Piece<V>>,
    surfaces: Vec<Surface<V>>,
    carriers: Vec<Carrier<V>>,
    zones: Vec<Zone<V>>,
}

/// Why a mesh or height grid cannot be added, or a level cannot be built.
///
/// ```
/// use rasant::glam::Vec3;
/// use rasant::{Layers, Level, SurfaceId};
///
/// let mut builder = Level::<Vec3>::builder();
/// let corners = [Vec3::ZERO, Vec3::X, Vec3::Z];
/// let mesh = builder.add_mesh(&corners, &[[0, 1, 7]], SurfaceId::default(), Layers::default());
/// println!("{}", mesh.unwrap_err()); // there is no vertex 7
/// ```
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum LevelError {
    /// A vertex or triangle is invalid.
    #[error(transparent)]
    Piece(#[from] PieceError),
    /// There are more of something than a level can have: 65,535 surfaces or zones, 32,768 carriers.
    #[error("{count} {what}, expected at most {most}")]
    TooMany {
        /// The kind of thing.
        what: &'static str,
        /// The number of them.
        count: usize,
        /// The largest number.
        most: usize,
    },
    /// Something refers to a surface or carrier that was not added, was removed, or, for a carrier
    /// that rides on another one, was not added before it.
    #[error("{what} {number} refers to {missing}, which is not there")]
    Missing {
        /// The kind of thing that refers to it: `"piece"`, `"mesh"`, `"zone"` or `"carrier"`.
        what: &'static str,
        /// The number of that thing, from 0.
        number: usize,
        /// What is missing, as `"carrier 3"`.
        missing: String,
    },
    /// The keyframes of a carrier are not in the order of their times.
    #[error(
        "keyframe {keyframe} of carrier {carrier} is at {time} s, expected a later time than the one before it, from 0 on, finite numbers, and an axis with a direction"
    )]
    Path {
        /// The carrier, from 0.
        carrier: usize,
        /// The keyframe, from 0.
        keyframe: usize,
        /// The time of the keyframe.
        time: f32,
    },
    /// The bounds or numbers of a zone are invalid.
    #[error("zone {zone}: {found}, expected {expected}")]
    Zone {
        /// The zone, from 0.
        zone: usize,
        /// What was found.
        found: &'static str,
        /// What was expected.
        expected: &'static str,
    },
}

impl<V: Vector> Default for LevelBuilder<V> {
    fn default() -> Self {
        Self::new()
    }
}

impl<V: Vector> LevelBuilder<V> {
    /// A builder with nothing but the plain surface.
    #[must_use]
    pub fn new() -> Self {
        Self {
            pieces: Vec::new(),
            surfaces: vec![Surface::default()],
            carriers: Vec::new(),
            zones: Vec::new(),
        }
    }

    /// Adds a piece.
    pub fn add(&mut self, piece: Piece<V>) -> PieceId {
        self.pieces.push(piece);
        PieceId(self.pieces.len() as u32 - 1)
    }

    /// Adds a surface.
    pub fn add_surface(&mut self, surface: Surface<V>) -> SurfaceId {
        let id = SurfaceId(self.surfaces.len() as u16);
        self.surfaces.push(surface);
        id
    }

    /// Adds a carrier.
    pub fn add_carrier(&mut self, carrier: Carrier<V>) -> CarrierId {
        let id = CarrierId(self.carriers.len() as u16);
        self.carriers.push(carrier);
        id
    }

    /// Adds a zone.
    pub fn add_zone(&mut self, zone: Zone<V>) -> ZoneId {
        let id = ZoneId(self.zones.len() as u16);
        self.zones.push(zone);
        id
    }

    /// Builds the level.
    ///
    /// # Errors
    /// If there are more than 65,535 surfaces or zones or 32,768 carriers; if a piece, mesh or zone refers
    /// to a surface or carrier that was not added; if the times of a path do not rise; or if a zone
    /// has invalid bounds, numbers or up.
    pub fn build(self) -> Result<Level<V>, LevelError> {
        self.check()?;
        Ok(self.built())
    }

    fn check(&self) -> Result<(), LevelError> {
        let counts = [
            ("surfaces", self.surfaces.len()),
            ("carriers", self.carriers.len()),
            ("zones", self.zones.len()),
        ];
        for (what, count) in counts {
            let most = most_of(what);
            if count > most {
                return Err(LevelError::TooMany { what, count, most });
            }
        }
        let counts = Counts { surfaces: self.surfaces.len(), carriers: &self.carriers };
        for (number, piece) in self.pieces.iter().enumerate() {
            counts.check_piece(number, piece)?;
        }
        for (number, carrier) in self.carriers.iter().enumerate() {
            check_carrier(&self.carriers[..number], carrier)?;
        }
        for (number, zone) in self.zones.iter().enumerate() {
            counts.check_zone(number as u16, zone)?;
        }
        Ok(())
    }

    fn built(self) -> Level<V> {
        let Self { pieces, surfaces, mut carriers, zones } = self;
        for number in 0..carriers.len() {
            let parent = ride_of(&carriers, carriers[number].parent());
            carriers[number].follow_parent(parent);
        }
        let mut bounds = Bounds::empty();
        let mut sum = Summer::new();
        for piece in &pieces {
            bounds = bounds.joined(placed_bounds(piece, &carriers));
            piece.add_to(&mut sum);
        }
        sum.write(format!("{surfaces:?} {zones:?}").as_bytes());
        let pieces = Pieces::new(pieces);
        let mut level = Level {
            sum: sum.finish(),
            marks: Arc::default(),
            built: pieces.clone(),
            riders: Arc::new(Riders::new(&[], Vec::new(), core::iter::empty())),
            pieces,
            surfaces: Arc::new(surfaces),
            carriers: Arc::new(carriers),
            zones: Arc::new(zones),
            removed_zones: Arc::default(),
            zone_index: Arc::new(Index::new(&[])),
            before: 0.0,
            time: 0.0,
            bounds,
        };
        level.index_zones();
        level.index_riders();
        level
    }
}

/// The bounds of a piece where its carrier is.
pub(super) fn placed_bounds<V: Vector>(piece: &Piece<V>, carriers: &[Carrier<V>]) -> Bounds<V> {
    let own = piece.bounds();
    match piece.carrier.and_then(|id| carriers.get(usize::from(id.0))) {
        Some(carrier) => carrier.ride().to.moved(&own),
        None => own,
    }
}

impl LevelBuilder<Vec3> {
    /// Adds a triangle mesh: see [`MeshShape`]. Returns the id that contacts and footings have for
    /// all of its triangles.
    ///
    /// # Errors
    /// If a vertex is not finite or a triangle refers to a vertex that does not exist.
    pub fn add_mesh(
        &mut self,
        vertices: &[Vec3],
        triangles: &[[u32; 3]],
        surface: SurfaceId,
        layers: Layers,
    ) -> Result<PieceId, LevelError> {
        let shape = MeshShape::new(vertices, triangles)?;
        Ok(self.add(Piece::mesh(shape).made_of(surface).on_layers(layers)))
    }

    /// Adds a height grid, as two triangles per cell. Returns its id, as [`Self::add_mesh`].
    ///
    /// # Errors
    /// If a number is not finite, a spacing is not above 0, or the heights do not fill whole rows.
    pub fn add_heights(
        &mut self,
        grid: &HeightGrid,
        surface: SurfaceId,
        layers: Layers,
    ) -> Result<PieceId, LevelError> {
        Ok(self.add(Piece::mesh(grid.shape()?).made_of(surface).on_layers(layers)))
    }
}

/// The surfaces and carriers of a level, which pieces and zones refer to.
#[derive(Clone, Copy)]
pub(super) struct Counts<'a, V> {
    pub surfaces: usize,
    pub carriers: &'a [Carrier<V>],
}

impl<V: Vector> Counts<'_, V> {
    pub fn check_piece(self, number: usize, piece: &Piece<V>) -> Result<(), LevelError> {
        self.check_carrier("piece", number, piece.carrier)?;
        self.check_surface("piece", number, piece.surface)?;
        match piece.mesh.as_ref().and_then(MeshShape::highest_surface) {
            Some(surface) => self.check_surface("mesh", number, surface),
            None => Ok(()),
        }
    }

    pub fn check_surface(self, what: &'static str, number: usize, id: SurfaceId) -> Result<(), LevelError> {
        if usize::from(id.0) < self.surfaces {
            return Ok(());
        }
        Err(LevelError::Missing { what, number, missing: format!("surface {}", id.0) })
    }

    fn check_carrier(
        self,
        what: &'static str,
        number: usize,
        carrier: Option<CarrierId>,
    ) -> Result<(), LevelError> {
        match carrier {
            Some(CarrierId(id)) if self.carriers.get(usize::from(id)).is_none_or(Carrier::is_removed) => {
                Err(LevelError::Missing { what, number, missing: format!("carrier {id}") })
            }
            _ => Ok(()),
        }
    }

    /// Checks the references, bounds, numbers and up of a zone.
    pub fn check_zone(self, number: u16, zone: &Zone<V>) -> Result<(), LevelError> {
        let number = usize::from(number);
        self.check_carrier("zone", number, zone.carrier)?;
        for effect in zone.effects.iter() {
            if let Effect::Floor { surface } = *effect {
                self.check_surface("zone", number, surface)?;
            }
        }
        match zone.fault() {
            Some((found, expected)) => Err(LevelError::Zone { zone: number, found, expected }),
            None => Ok(()),
        }
    }
}

/// # Errors
/// If the times of the path do not rise from 0, a number is not finite, an axis has no direction, or
/// the carrier rides on one that is not before it.
pub(super) fn check_carrier<V: Vector>(
    before: &[Carrier<V>],
    carrier: &Carrier<V>,
) -> Result<(), LevelError> {
    let number = before.len();
    if let Some(CarrierId(parent)) = carrier.parent()
        && before.get(usize::from(parent)).is_none_or(Carrier::is_removed)
    {
        return Err(LevelError::Missing { what: "carrier", number, missing: format!("carrier {parent}") });
    }
    let mut last = -1.0;
    for (keyframe, key) in carrier.path().iter().enumerate() {
        let time = key.time;
        let is_later = if keyframe == 0 { time >= 0.0 } else { time > last };
        if !(is_later && key.is_valid()) {
            return Err(LevelError::Path { carrier: number, keyframe, time });
        }
        last = time;
    }
    Ok(())
}

impl<V: Vector> LevelBuilder<V> {
    /// The placement of the carrier `id` at time 0: for adding pieces to it that are given in world
    /// coordinates.
    ///
    /// # Panics
    /// If there is no such carrier.
    #[must_use]
    pub fn placement(&self, id: CarrierId) -> Placement<V> {
        let carrier = &self.carriers[usize::from(id.0)];
        let own = carrier.at(0.0);
        match carrier.parent().filter(|parent| parent.0 < id.0) {
            Some(parent) => own.on(&self.placement(parent)),
            None => own,
        }
    }
}
