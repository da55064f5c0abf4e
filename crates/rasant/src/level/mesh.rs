//! Triangle meshes as obstacles.

use alloc::sync::Arc;
use alloc::vec;
use alloc::vec::Vec;

use glam::{Vec2, Vec3};

use crate::space::{Bounds, Vector};
use crate::summer::Summer;

use super::index::Index;
use super::piece::{PieceError, Seams, Shape, within_reach};
use super::seams;
use super::surface::SurfaceId;

/// A triangle mesh, prepared as the shape of a piece: counter-clockwise seen from outside, solid
/// from both sides. Triangles that share vertices share their edges: a body never feels an edge that
/// is flat or hollow.
///
/// Preparing one takes a time of n log n for n triangles; do it on another thread where that is too
/// long. A clone shares memory. [`Piece::mesh`](super::Piece::mesh) makes a piece of it, which can
/// be added, moved and removed at any time.
///
/// ```
/// use rasant::glam::Vec3;
/// use rasant::level::MeshShape;
/// use rasant::{Level, Piece};
///
/// let corners = [(-2.0, 0.0), (2.0, 0.0), (0.0, -3.0)].map(|(x, z)| Vec3::new(x, 0.0, z));
/// let shape = MeshShape::new(&corners, &[[0, 1, 2]])?;
/// let mut level = Level::builder().build()?;
/// let near = level.add(Piece::mesh(shape.clone()))?;
/// let _far = level.add(Piece::mesh(shape).moved_by(Vec3::X * 10.0)?)?;
/// assert_eq!(level.len(), 2); // two triangles
/// assert!(level.remove(near));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct MeshShape<V>(Arc<Mesh<V>>);

#[derive(Clone, Debug)]
struct Mesh<V> {
    /// The triangles in the order of the index, so that neighbours in space are neighbours in memory.
    triangles: Vec<Triangle<V>>,
    index: Index<V>,
    bounds: Bounds<V>,
    /// The checksum of the triangles.
    sum: u64,
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Triangle<V> {
    pub points: [V; 3],
    pub seams: Seams,
    /// The surface, or [`OF_PIECE`].
    surface: u16,
}

impl<V: Vector> Triangle<V> {
    /// The surface, if it has one of its own.
    #[inline]
    pub fn surface(&self) -> Option<SurfaceId> {
        (self.surface != OF_PIECE).then_some(SurfaceId(self.surface))
    }

    pub fn shape(&self) -> Shape<'_, V> {
        Shape::Facet { points: &self.points, seams: self.seams }
    }
}

/// Stands for the surface of the piece.
const OF_PIECE: u16 = u16::MAX;

impl<V: PartialEq> PartialEq for MeshShape<V> {
    fn eq(&self, other: &Self) -> bool {
        let (one, other) = (&self.0, &other.0);
        Arc::ptr_eq(one, other) || (one.sum == other.sum && one.triangles == other.triangles)
    }
}

impl MeshShape<Vec3> {
    /// Prepares a mesh. The triangles have the surface of the piece.
    ///
    /// # Errors
    /// If a vertex is not finite, or a triangle refers to a vertex that does not exist.
    pub fn new(vertices: &[Vec3], triangles: &[[u32; 3]]) -> Result<Self, PieceError> {
        Self::prepared(vertices, triangles, &vec![None; triangles.len()])
    }

    /// Prepares a mesh with a surface per triangle: `None` for that of the piece.
    ///
    /// # Errors
    /// As [`new`](Self::new), and if there are not as many surfaces as triangles.
    pub fn with_surfaces(
        vertices: &[Vec3],
        triangles: &[[u32; 3]],
        surfaces: &[Option<SurfaceId>],
    ) -> Result<Self, PieceError> {
        Self::prepared(vertices, triangles, surfaces)
    }
}

impl<V: Vector> MeshShape<V> {
    fn prepared(
        vertices: &[V],
        triangles: &[[u32; 3]],
        surfaces: &[Option<SurfaceId>],
    ) -> Result<Self, PieceError> {
        vertices.iter().try_for_each(|vertex| within_reach(*vertex))?;
        for (triangle, corners) in triangles.iter().enumerate() {
            if let Some(&vertex) = corners.iter().find(|&&vertex| vertex as usize >= vertices.len()) {
                return Err(PieceError::NoVertex { triangle, vertex, vertices: vertices.len() });
            }
        }
        if surfaces.len() != triangles.len() {
            let (surfaces, triangles) = (surfaces.len(), triangles.len());
            return Err(PieceError::Surfaces { surfaces, triangles });
        }
        let deep: Vec<Vec3> = vertices.iter().map(|vertex| Vec3::from_array(vertex.to_array())).collect();
        let all = triangles.iter().zip(seams::find(&deep, triangles)).zip(surfaces);
        let all = all.map(|((&corners, seams), surface)| {
            let surface = surface.map_or(OF_PIECE, |surface| surface.0);
            Triangle { points: corners.map(|corner| vertices[corner as usize]), seams, surface }
        });
        Ok(Self(Arc::new(Mesh::sorted(all.collect()))))
    }

    /// The bounds of all vertices that a triangle uses.
    #[must_use]
    pub fn bounds(&self) -> Bounds<V> {
        self.0.bounds
    }

    /// The number of triangles.
    #[must_use]
    pub fn len(&self) -> usize {
        self.0.triangles.len()
    }

    /// Returns true if there are no triangles.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.triangles.is_empty()
    }

    /// A checksum of the vertices and triangles.
    pub(super) fn sum(&self) -> u64 {
        self.0.sum
    }

    /// The highest number of a surface that a triangle has of its own.
    pub(super) fn highest_surface(&self) -> Option<SurfaceId> {
        self.0.triangles.iter().filter_map(Triangle::surface).max_by_key(|surface| surface.0)
    }

    /// Calls `seen` with every triangle, and its surface if it has one of its own.
    pub fn each(&self, mut seen: impl FnMut(Shape<'_, V>, Option<SurfaceId>)) {
        self.0.triangles.iter().for_each(|triangle| seen(triangle.shape(), triangle.surface()));
    }

    /// Calls `found` with every triangle that overlaps `region`.
    #[inline]
    pub(super) fn query(&self, region: &Bounds<V>, mut found: impl FnMut(&Triangle<V>)) {
        let Mesh { triangles, index, .. } = &*self.0;
        index.query_places(region, |places| {
            places.iter().for_each(|&place| found(&triangles[place as usize]))
        });
    }
}

impl<V: Vector> Mesh<V> {
    /// Sorts the triangles in the order of their index.
    fn sorted(triangles: Vec<Triangle<V>>) -> Self {
        let boxes: Vec<Bounds<V>> =
            triangles.iter().map(|triangle| Bounds::around(&triangle.points)).collect();
        let bounds = boxes.iter().fold(Bounds::empty(), |all, &one| all.joined(one));
        let index = Index::new(&boxes);
        let triangles: Vec<Triangle<V>> =
            index.order().iter().map(|&item| triangles[item as usize]).collect();
        let mut sum = Summer::new();
        for Triangle { points, seams, surface } in &triangles {
            points.iter().for_each(|&point| sum.vector(point));
            sum.word(u64::from(seams.bits()) << 16 | u64::from(*surface));
        }
        Self { triangles, index, bounds, sum: core::hash::Hasher::finish(&sum) }
    }
}

#[cfg(feature = "serde")]
mod saved {
    use super::{Arc, Mesh, MeshShape, PieceError, Seams, Triangle, Vec, Vector, within_reach};

    /// A triangle as serde writes it: its corners, its hidden edges and its surface.
    type Saved<V> = ([V; 3], (u8, u8), u16);

    impl<V: Vector + serde::Serialize> serde::Serialize for MeshShape<V> {
        fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
            let saved = |triangle: &Triangle<V>| {
                let Triangle { points, seams, surface } = *triangle;
                let [front, back] = seams.bits().to_be_bytes();
                (points, (front, back), surface)
            };
            serializer.collect_seq(self.0.triangles.iter().map(saved))
        }
    }

    impl<'de, V: Vector + serde::Deserialize<'de>> serde::Deserialize<'de> for MeshShape<V> {
        fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
            let read: Vec<Saved<V>> = Vec::deserialize(deserializer)?;
            let triangle = |(points, (front, back), surface): Saved<V>| {
                points.into_iter().try_for_each(within_reach)?;
                let seams = Seams::of_bits(u16::from_be_bytes([front, back]));
                Ok(Triangle { points, seams, surface })
            };
            let triangles: Result<Vec<_>, PieceError> = read.into_iter().map(triangle).collect();
            let triangles = triangles.map_err(serde::de::Error::custom)?;
            Ok(Self(Arc::new(Mesh::sorted(triangles))))
        }
    }
}

/// A grid of heights in the x–z plane.
///
/// ```
/// use rasant::glam::{Vec2, Vec3};
/// use rasant::level::HeightGrid;
/// use rasant::{Layers, Level, SurfaceId};
///
/// let heights = vec![0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0]; // a hill in the middle
/// let grid = HeightGrid { corner: Vec3::ZERO, spacing: Vec2::splat(4.0), columns: 3, heights };
/// let mut builder = Level::builder();
/// builder.add_heights(&grid, SurfaceId::default(), Layers::default())?;
/// assert_eq!(builder.build()?.len(), 8); // two triangles per cell
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct HeightGrid {
    /// The position of the first height.
    pub corner: Vec3,
    /// The distances between neighbours along x and along z, above 0.
    pub spacing: Vec2,
    /// The number of heights along x, at least 2.
    pub columns: usize,
    /// The heights above `corner`, row by row along z.
    pub heights: Vec<f32>,
}

impl HeightGrid {
    /// The grid as a mesh: two triangles per cell.
    ///
    /// # Errors
    /// If a number is not finite, a spacing is not above 0, or the heights do not fill whole rows.
    pub fn shape(&self) -> Result<MeshShape<Vec3>, PieceError> {
        self.shape_along(Vec3::Y)
    }

    /// The grid as a mesh in a world with another up: heights are along `up`, columns along x, and rows
    /// along the third axis. A direction between axes counts as the axis next to it.
    ///
    /// # Errors
    /// As [`Self::shape`].
    pub fn shape_along(&self, up: Vec3) -> Result<MeshShape<Vec3>, PieceError> {
        let (rows, high) = if up.z.abs() > up.y.abs() {
            (Vec3::Y, Vec3::Z * up.z.signum())
        } else {
            (Vec3::Z, Vec3::Y * up.y.signum())
        };
        let is_mirrored = rows.cross(Vec3::X).dot(high) < 0.0;
        let columns = self.columns;
        let heights = self.heights.len();
        if columns < 2 || !heights.is_multiple_of(columns) || heights / columns < 2 {
            return Err(PieceError::Grid { heights, columns });
        }
        for spacing in [self.spacing.x, self.spacing.y] {
            if !spacing.is_finite() {
                return Err(PieceError::NotFinite);
            }
            if spacing <= 0.0 {
                return Err(PieceError::Size(spacing));
            }
        }
        let vertices: Vec<Vec3> = self
            .heights
            .iter()
            .enumerate()
            .map(|(i, &height)| {
                let (column, row) = ((i % columns) as f32, (i / columns) as f32);
                self.corner
                    + Vec3::X * (column * self.spacing.x)
                    + rows * (row * self.spacing.y)
                    + high * height
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
        if is_mirrored {
            triangles.iter_mut().for_each(|corners| corners.swap(1, 2));
        }
        MeshShape::new(&vertices, &triangles)
    }
}
