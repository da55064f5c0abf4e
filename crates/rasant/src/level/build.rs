//! Putting a level together.

use alloc::collections::BTreeMap;
use alloc::format;
use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;
use core::hash::Hasher as _;
use glam::{Vec2, Vec3};
use thiserror::Error;

use crate::space::{Bounds, Vector};
use crate::summer::Summer;

use super::carrier::{Carrier, CarrierId, Keyframe, Placement};
use super::index::Index;
use super::layers::Layers;
use super::piece::{Kind, Piece, PieceError, PieceId, Stored, Tag, within_reach};
use super::riders::Riders;
use super::seams;
use super::surface::{Surface, SurfaceId};
use super::zone::{Effect, Zone, ZoneId};
use super::{Level, Triangle};

/// Surfaces, carriers, zones or meshes that a level has at most: their numbers are
/// of 16 bits.
const MOST: usize = 1 << 16;

/// Collects pieces, surfaces and carriers, and makes a [`Level`] of them.
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
    vertices: Vec<V>,
    triangles: Vec<Triangle>,
    mesh_tags: Vec<(Tag, Layers)>,
}

/// Why a mesh or height grid cannot be added, or a level not be made.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum LevelError {
    /// A vertex or triangle is broken.
    #[error(transparent)]
    Piece(#[from] PieceError),
    /// A grid's numbers of rows and columns do not fit its heights.
    #[error("{heights} heights for {columns} columns, expected at least 2 whole rows of at least 2")]
    Grid {
        /// How many heights were given.
        heights: usize,
        /// How many columns were asked for.
        columns: usize,
    },
    /// More than 65,536 of something.
    #[error("{count} {what}, expected at most 65536")]
    TooMany {
        /// What.
        what: &'static str,
        /// How many.
        count: usize,
    },
    /// Something is said to be on, or of, something else that was not added.
    #[error("{what} {number} names {missing}, which was not added")]
    Missing {
        /// What: `"piece"`, `"mesh"` or `"zone"`.
        what: &'static str,
        /// Its number, from 0.
        number: usize,
        /// What it names, as `"carrier 3"`.
        missing: String,
    },
    /// A carrier's path is none.
    #[error(
        "keyframe {keyframe} of carrier {carrier} is at {time} s, expected a later time than the one before it, from 0 on, and finite numbers"
    )]
    Path {
        /// Which carrier, from 0.
        carrier: usize,
        /// Which of its keyframes, from 0.
        keyframe: usize,
        /// The time of that.
        time: f32,
    },
    /// A zone's bounds or numbers are none.
    #[error("zone {zone}: {found}, expected {expected}")]
    Zone {
        /// Which, from 0.
        zone: usize,
        /// What is wrong.
        found: &'static str,
        /// What was expected.
        expected: &'static str,
    },
}

/// Heights over a grid in the x–z plane.
#[derive(Clone, Debug, PartialEq)]
pub struct HeightGrid {
    /// Where the first height is.
    pub corner: Vec3,
    /// The distance between neighbours along x and along z, above 0.
    pub spacing: Vec2,
    /// How many heights there are along x, at least 2.
    pub columns: usize,
    /// The heights above `corner`, row after row along z.
    pub heights: Vec<f32>,
}

impl<V: Vector> Default for LevelBuilder<V> {
    fn default() -> Self {
        Self::new()
    }
}

impl<V: Vector> LevelBuilder<V> {
    /// A builder with nothing in it but the plain surface.
    #[must_use]
    pub fn new() -> Self {
        Self {
            pieces: Vec::new(),
            surfaces: vec![Surface::default()],
            carriers: Vec::new(),
            zones: Vec::new(),
            vertices: Vec::new(),
            triangles: Vec::new(),
            mesh_tags: Vec::new(),
        }
    }

    /// Adds a piece.
    pub fn add(&mut self, piece: Piece<V>) -> PieceId {
        self.pieces.push(piece);
        PieceId(self.pieces.len() as u32 - 1)
    }

    /// Adds a surface that pieces can be made of.
    pub fn add_surface(&mut self, surface: Surface<V>) -> SurfaceId {
        let id = SurfaceId(self.surfaces.len() as u16);
        self.surfaces.push(surface);
        id
    }

    /// Adds a carrier that pieces can ride on.
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

    /// The level.
    ///
    /// # Errors
    /// When there are more than 65,536 surfaces, carriers or zones, a piece, mesh
    /// or zone names a surface or carrier that was not added, the times of a path do not
    /// rise, or a zone has no bounds, no up, or a number that is none.
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
            if count > MOST {
                return Err(LevelError::TooMany { what, count });
            }
        }
        let on = |what, number, carrier: Option<CarrierId>| match carrier {
            Some(CarrierId(id)) if usize::from(id) >= self.carriers.len() => {
                Err(LevelError::Missing { what, number, missing: format!("carrier {id}") })
            }
            _ => Ok(()),
        };
        let of = |what, number, SurfaceId(id): SurfaceId| {
            let is_there = usize::from(id) < self.surfaces.len();
            let missing = || LevelError::Missing { what, number, missing: format!("surface {id}") };
            if is_there { Ok(()) } else { Err(missing()) }
        };
        for (number, piece) in self.pieces.iter().enumerate() {
            on("piece", number, piece.carrier)?;
            of("piece", number, piece.surface)?;
        }
        for (number, (tag, _)) in self.mesh_tags.iter().enumerate() {
            of("mesh", number, tag.surface)?;
        }
        for (carrier, path) in self.carriers.iter().map(Carrier::path).enumerate() {
            let mut last = -1.0;
            for (keyframe, &Keyframe { time, offset, turn }) in path.iter().enumerate() {
                let is_later = if keyframe == 0 { time >= 0.0 } else { time > last };
                if !(is_later && time.is_finite() && offset.is_finite() && turn.is_finite()) {
                    return Err(LevelError::Path { carrier, keyframe, time });
                }
                last = time;
            }
        }
        for (number, zone) in self.zones.iter().enumerate() {
            on("zone", number, zone.carrier)?;
            for effect in zone.effects.iter() {
                if let Effect::Floor { surface } = *effect {
                    of("zone", number, surface)?;
                }
            }
            if let Some((found, expected)) = zone.fault() {
                return Err(LevelError::Zone { zone: number, found, expected });
            }
        }
        Ok(())
    }

    fn built(self) -> Level<V> {
        let (mut points, mut faces) = (Vec::new(), Vec::new());
        let pieces: Vec<Stored> =
            self.pieces.iter().map(|piece| Stored::new(piece, &mut points, &mut faces)).collect();
        let mut riding = Vec::new();
        let mut all = Bounds::empty();
        let mut staying = Vec::with_capacity(pieces.len());
        let mut boxes = Vec::with_capacity(pieces.len());
        for (number, piece) in self.pieces.iter().enumerate() {
            let own = bounds_of(piece);
            match piece.carrier.and_then(|id| self.carriers.get(usize::from(id.0))) {
                Some(carrier) => {
                    let id = piece.carrier.map_or(0, |id| id.0);
                    riding.push((id, number as u32, own));
                    all = all.joined(carrier.at(0.0).moved(&own));
                }
                None => {
                    all = all.joined(own);
                    staying.push(number as u32);
                    boxes.push(own);
                }
            }
        }
        let (vertices, triangles, triangle_index) = index_triangles(&self.vertices, self.triangles);
        all = all.joined(Bounds::around(&vertices));
        let mut index = Index::new(&boxes);
        index.renumber(|item| staying[item as usize]);
        let (mut ridden, mut free, mut free_boxes) = (Vec::new(), Vec::new(), Vec::new());
        for (number, zone) in self.zones.iter().enumerate() {
            match zone.carrier {
                Some(carrier) => ridden.push((carrier.0, number as u16, zone.bounds)),
                None => {
                    free.push(number as u32);
                    free_boxes.push(zone.bounds);
                }
            }
        }
        let mut zone_index = Index::new(&free_boxes);
        zone_index.renumber(|item| free[item as usize]);
        let riders = Riders::new(&self.carriers, riding, ridden);
        let sum = sum_of(&points, &vertices, &triangles, |sum| {
            sum.write(&faces);
            pieces.iter().for_each(|piece| piece.add_to(sum));
            let rest = format!("{:?} {:?} {:?}", self.surfaces, self.zones, self.mesh_tags);
            sum.write(rest.as_bytes());
        });
        Level {
            sum,
            marks: BTreeMap::new(),
            points,
            faces,
            pieces,
            index,
            riders,
            vertices,
            triangles,
            triangle_index,
            mesh_tags: self.mesh_tags,
            surfaces: self.surfaces,
            carriers: self.carriers,
            zones: self.zones,
            zone_index,
            before: 0.0,
            time: 0.0,
            bounds: all,
        }
    }
}

/// The sum of all that stays as it is in a level, by its bits.
fn sum_of<V: Vector>(
    points: &[V],
    vertices: &[V],
    triangles: &[Triangle],
    add_the_rest: impl FnOnce(&mut Summer),
) -> u64 {
    let mut sum = Summer::new();
    for &point in points.iter().chain(vertices) {
        sum.vector(point);
    }
    for Triangle { corners, seams, mesh } in triangles {
        let [a, b, c] = corners.map(u64::from);
        sum.word(a << 32 | b);
        sum.word(c << 32 | u64::from(*mesh) << 16 | u64::from(seams.bits()));
    }
    add_the_rest(&mut sum);
    sum.finish()
}

impl LevelBuilder<Vec3> {
    /// Adds a mesh of triangles, counter-clockwise seen from outside, solid
    /// from both sides. Triangles that share vertices share their edges: a
    /// body never feels a flat or hollow one. Gives the name that contacts and footings
    /// have for it.
    ///
    /// # Errors
    /// When a vertex is not finite or a triangle names one that is not there.
    pub fn add_mesh(
        &mut self,
        vertices: &[Vec3],
        triangles: &[[u32; 3]],
        surface: SurfaceId,
        layers: Layers,
    ) -> Result<PieceId, LevelError> {
        vertices.iter().try_for_each(|vertex| within_reach(*vertex))?;
        for (triangle, corners) in triangles.iter().enumerate() {
            if let Some(&vertex) = corners.iter().find(|&&v| v as usize >= vertices.len()) {
                let vertices = vertices.len();
                return Err(PieceError::NoVertex { triangle, vertex, vertices }.into());
            }
        }
        let mesh = u16::try_from(self.mesh_tags.len())
            .map_err(|_| LevelError::TooMany { what: "meshes", count: MOST + 1 })?;
        let piece = PieceId(1 << 31 | u32::from(mesh));
        self.mesh_tags.push((Tag { piece, surface, carrier: None, one_way: false }, layers));
        let seams = seams::find(vertices, triangles);
        let base = self.vertices.len() as u32;
        self.vertices.extend_from_slice(vertices);
        self.triangles.extend(triangles.iter().zip(seams).map(|(corners, seams)| Triangle {
            corners: corners.map(|corner| corner + base),
            seams,
            mesh,
        }));
        Ok(piece)
    }

    /// Adds a height grid: two triangles a cell. Gives its name, as [`Self::add_mesh`].
    ///
    /// # Errors
    /// When a number is not finite, a spacing is not above 0, or the heights do
    /// not fill whole rows.
    pub fn add_heights(
        &mut self,
        grid: &HeightGrid,
        surface: SurfaceId,
        layers: Layers,
    ) -> Result<PieceId, LevelError> {
        let columns = grid.columns;
        let heights = grid.heights.len();
        if columns < 2 || !heights.is_multiple_of(columns) || heights / columns < 2 {
            return Err(LevelError::Grid { heights, columns });
        }
        for spacing in [grid.spacing.x, grid.spacing.y] {
            if !spacing.is_finite() {
                return Err(PieceError::NotFinite.into());
            }
            if spacing <= 0.0 {
                return Err(PieceError::Size(spacing).into());
            }
        }
        let vertices: Vec<Vec3> = grid
            .heights
            .iter()
            .enumerate()
            .map(|(i, &height)| {
                let (column, row) = ((i % columns) as f32, (i / columns) as f32);
                grid.corner + Vec3::new(column * grid.spacing.x, height, row * grid.spacing.y)
            })
            .collect();
        let mut triangles = Vec::with_capacity(2 * heights);
        for row in 0..heights / columns - 1 {
            for column in 0..columns - 1 {
                let a = (row * columns + column) as u32;
                let (b, c) = (a + 1, a + columns as u32);
                triangles.push([a, c, b]);
                triangles.push([b, c, c + 1]);
            }
        }
        self.add_mesh(&vertices, &triangles, surface, layers)
    }
}

fn bounds_of<V: Vector>(piece: &Piece<V>) -> Bounds<V> {
    let bounds = Bounds::around(&piece.points);
    match piece.kind {
        Kind::Ball => bounds.widened(V::splat(piece.radius)),
        _ => bounds,
    }
}

/// Sorts the triangles as their index does, and the vertices as the triangles
/// use them, so that neighbours in space are neighbours in memory.
fn index_triangles<V: Vector>(vertices: &[V], triangles: Vec<Triangle>) -> (Vec<V>, Vec<Triangle>, Index<V>) {
    let boxes: Vec<Bounds<V>> = triangles
        .iter()
        .map(|triangle| Bounds::around(&triangle.corners.map(|corner| vertices[corner as usize])))
        .collect();
    let index = Index::new(&boxes);
    const UNUSED: u32 = u32::MAX;
    let mut places = vec![UNUSED; vertices.len()];
    let mut near = Vec::with_capacity(vertices.len());
    let mut sorted = Vec::with_capacity(triangles.len());
    for &number in index.order() {
        let triangle = triangles[number as usize];
        let corners = triangle.corners.map(|corner| {
            let place = &mut places[corner as usize];
            if *place == UNUSED {
                *place = near.len() as u32;
                near.push(vertices[corner as usize]);
            }
            *place
        });
        sorted.push(Triangle { corners, ..triangle });
    }
    (near, sorted, index)
}

impl<V: Vector> LevelBuilder<V> {
    /// Where the carrier `id` is at time 0: for placing pieces given in world
    /// coordinates on it.
    ///
    /// # Panics
    /// When there is no such carrier.
    #[must_use]
    pub fn placement(&self, id: CarrierId) -> Placement<V> {
        self.carriers[usize::from(id.0)].at(0.0)
    }
}
