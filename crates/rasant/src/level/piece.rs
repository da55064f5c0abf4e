//! Convex obstacles.

use alloc::vec;
use alloc::vec::Vec;
use core::hash::Hash as _;
use glam::{DVec2, DVec3, Quat, Vec2, Vec3};
use thiserror::Error;

use crate::space::{Bounds, MAX_LENGTH, Vector};
use crate::summer::Summer;

use super::carrier::CarrierId;
use super::layers::Layers;
use super::mesh::MeshShape;
use super::placement::Placement;
use super::surface::SurfaceId;

/// The id of a piece of a level. All triangles of a mesh have the id of the mesh.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct PieceId(pub u32);

/// The properties of a piece beside its shape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Tag {
    /// The piece, or the host's own number for it.
    pub piece: PieceId,
    /// The material.
    pub surface: SurfaceId,
    /// The carrier that it rides on.
    pub carrier: Option<CarrierId>,
    /// True if it is solid only to feet that come down on it.
    pub one_way: bool,
}

/// The sides of a segment that are solid.
///
/// ```
/// use rasant::Piece;
/// use rasant::glam::Vec2;
/// use rasant::level::Sides;
///
/// // A wall that bodies on its right can pass.
/// let wall = Piece::segment(Vec2::ZERO, Vec2::new(0.0, 3.0), Sides::Left)?;
/// # let _ = wall;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Sides {
    /// Both.
    #[default]
    Both,
    /// Only the left side, seen along the segment from its first end. For ground drawn from left to
    /// right, that is the upper side.
    Left,
}

/// The edges of a facet that are not edges of the surface: the flat or hollow seams between a
/// triangle and its neighbours. Edge `i` goes from corner `i` to the next. Contact never answers
/// with an edge that is hidden from the side where the hull is.
///
/// An edge that is hollow in front is sharp behind, so each edge is hidden from the front (from
/// where the corners run counter-clockwise) and from behind separately. Hide an edge only where the
/// surface continues at an angle of at most half a turn, measured through the space on that side.
///
/// ```
/// use rasant::level::Seams;
///
/// let seams = Seams::NONE.with_front(0).with_back(2); // a valley, and a crest
/// assert!(seams.hides_front(0) && !seams.hides_back(0));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Seams {
    front: u8,
    back: u8,
}

impl Seams {
    /// Both sides as one number.
    pub(super) fn bits(self) -> u16 {
        u16::from(self.front) << 8 | u16::from(self.back)
    }

    /// The inverse of [`Self::bits`].
    #[cfg(feature = "serde")]
    pub(super) fn of_bits(bits: u16) -> Self {
        let [front, back] = bits.to_be_bytes();
        Self { front, back }
    }

    /// Every edge is exposed.
    pub const NONE: Self = Self { front: 0, back: 0 };

    /// These, with edge `edge` hidden from both sides, as between two facets in one plane.
    #[must_use]
    pub fn with(self, edge: usize) -> Self {
        self.with_front(edge).with_back(edge)
    }

    /// These, with edge `edge` hidden from the front.
    #[must_use]
    pub fn with_front(self, edge: usize) -> Self {
        Self { front: self.front | 1 << (edge & 7), ..self }
    }

    /// These, with edge `edge` hidden from behind.
    #[must_use]
    pub fn with_back(self, edge: usize) -> Self {
        Self { back: self.back | 1 << (edge & 7), ..self }
    }

    /// Returns true if edge `edge` is hidden from the front.
    #[must_use]
    #[inline]
    pub fn hides_front(self, edge: usize) -> bool {
        self.front >> (edge & 7) & 1 == 1
    }

    /// Returns true if edge `edge` is hidden from behind.
    #[must_use]
    #[inline]
    pub fn hides_back(self, edge: usize) -> bool {
        self.back >> (edge & 7) & 1 == 1
    }

    /// The hidden edges, one bit each, for a hull that is wholly in front of the facet's plane,
    /// wholly behind it, or on both sides.
    #[inline]
    pub(crate) fn hidden_from(self, front: bool, back: bool) -> u8 {
        match (front, back) {
            (true, false) => self.front,
            (false, true) => self.back,
            _ => self.front & self.back,
        }
    }
}

/// A convex shape, as [`Surroundings`](super::Surroundings) returns it.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::Shape;
/// use rasant::{Level, Piece};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::ball(Vec2::Y, 0.5)?);
/// let level = builder.build()?;
/// level.each_shape(|shape, tag| {
///     if let Shape::Ball { centre, radius } = shape {
///         println!("draw piece {:?}: a disc of {radius} m at {centre}", tag.piece);
///     }
/// });
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug)]
pub enum Shape<'a, V> {
    /// A disc in two dimensions, a ball in three.
    Ball {
        /// The centre.
        centre: V,
        /// The radius, above 0.
        radius: f32,
    },
    /// Two dimensions only: a straight line without thickness.
    Segment {
        /// The two ends.
        ends: [V; 2],
        /// The sides that are solid.
        sides: Sides,
    },
    /// Everything within `radius` of the line between two points.
    Capsule {
        /// The two ends of the line, which differ.
        ends: [V; 2],
        /// The radius, above 0.
        radius: f32,
    },
    /// Two dimensions only: a solid convex polygon, counter-clockwise.
    Polygon {
        /// At least three corners.
        points: &'a [V],
        /// How far the outline is moved out, with round corners: 0 for sharp ones.
        rounding: f32,
    },
    /// Three dimensions only: a flat convex facet without thickness, solid from both sides.
    Facet {
        /// At least three corners, counter-clockwise seen from outside.
        points: &'a [V],
        /// Edges that are hidden.
        seams: Seams,
    },
    /// Three dimensions only: a convex solid.
    Solid {
        /// The corners.
        points: &'a [V],
        /// The faces one after the other: the number of corners, then their indices in `points`,
        /// counter-clockwise seen from outside.
        faces: &'a [u8],
        /// How far the faces are moved out, with round edges and corners: 0 for sharp ones.
        rounding: f32,
    },
    /// Three dimensions only: a triangle mesh. A [`Level`](super::Level) passes its triangles as
    /// facets; only [`Piece::shape`] returns it whole.
    Mesh {
        /// The triangles.
        mesh: &'a MeshShape<V>,
        /// The displacement of all vertices.
        offset: V,
    },
}

/// The faces of a box whose corner `i` is at the greater end of x, y and z where bits 0, 1 and 2 of
/// `i` are set.
const BOX_FACES: [u8; 30] =
    [4, 0, 4, 6, 2, 4, 1, 3, 7, 5, 4, 0, 1, 5, 4, 4, 2, 6, 7, 3, 4, 0, 2, 3, 1, 4, 4, 5, 7, 6];

impl<V: Vector> Shape<'_, V> {
    /// Calls `seen` with the corners of each face, counter-clockwise from outside, without the
    /// rounding. A facet is one face; balls, capsules and two-dimensional shapes have none.
    pub fn each_face(&self, mut seen: impl FnMut(&[V])) {
        match *self {
            Self::Facet { points, .. } => seen(points),
            Self::Mesh { mesh, offset } => mesh.each(|triangle, _| {
                if let Shape::Facet { points, .. } = triangle {
                    let moved: Vec<V> = points.iter().map(|&point| point + offset).collect();
                    seen(&moved);
                }
            }),
            Self::Solid { points, mut faces, .. } => {
                while let Some((&count, rest)) = faces.split_first() {
                    let (face, rest) = rest.split_at(usize::from(count));
                    let corners: Vec<V> = face.iter().map(|&corner| points[usize::from(corner)]).collect();
                    seen(&corners);
                    faces = rest;
                }
            }
            Self::Ball { .. } | Self::Capsule { .. } | Self::Segment { .. } | Self::Polygon { .. } => {}
        }
    }

    /// Calls `seen` with an axis-aligned box, as the right kind of shape for the dimension.
    pub fn block<R>(min: V, max: V, seen: impl FnOnce(Shape<'_, V>) -> R) -> R {
        let corner = |index: usize| {
            let mut at = [0.0; 3];
            for (axis, at) in at.iter_mut().enumerate().take(V::DIMENSION) {
                let end = if index >> axis & 1 == 1 { max } else { min };
                *at = end.component(axis);
            }
            V::from_array(at)
        };
        if V::DIMENSION == 2 {
            seen(Shape::Polygon { points: &[0, 1, 3, 2].map(corner), rounding: 0.0 })
        } else {
            let points = [0, 1, 2, 3, 4, 5, 6, 7].map(corner);
            seen(Shape::Solid { points: &points, faces: &BOX_FACES, rounding: 0.0 })
        }
    }
}

/// A box along axes of its own, moved out by a radius: the shape of every hull. It is a ball, a
/// capsule, or a box with round or sharp edges.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::{RoundBox, Shape};
///
/// let (right, up) = (Vec2::X, Vec2::Y);
/// let post = RoundBox { centre: Vec2::Y, right, up, half: Vec2::Y * 0.6, radius: 0.4 };
/// post.with_shape(|shape| assert!(matches!(shape, Shape::Capsule { radius: 0.4, .. })));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RoundBox<V> {
    /// The centre.
    pub centre: V,
    /// The first axis, of length 1.
    pub right: V,
    /// The second axis, of length 1 and perpendicular to the first.
    pub up: V,
    /// Half the sides along the axes, without the radius. Each may be 0.
    pub half: V,
    /// The radius, at least 0.
    pub radius: f32,
}

impl<V: Vector> RoundBox<V> {
    /// Calls `seen` with the shape.
    pub fn with_shape<R>(&self, seen: impl FnOnce(Shape<'_, V>) -> R) -> R {
        /// The thickness of a flat box, as a fraction of its longest half side.
        const THIN: f32 = 1e-4;
        let Self { centre, right, up, half, radius } = *self;
        let sides = half.to_array();
        let is_long = |axis: &usize| sides[*axis] > 0.0;
        let mut long = (0..V::DIMENSION).filter(is_long);
        let along = |local: [f32; 3]| V::from_array(local).out_of_axes(right, up);
        match (long.next(), long.next()) {
            (None, _) => seen(Shape::Ball { centre, radius }),
            (Some(axis), None) => {
                let mut end = [0.0; 3];
                end[axis] = sides[axis];
                let end = along(end);
                seen(Shape::Capsule { ends: [centre - end, centre + end], radius })
            }
            _ => {
                let thin = THIN * sides.into_iter().fold(0.0, f32::max);
                let sides = sides.map(|side| side.max(thin));
                let corner = |index: usize| {
                    let mut local = [0.0; 3];
                    for (axis, local) in local.iter_mut().enumerate().take(V::DIMENSION) {
                        *local = if index >> axis & 1 == 1 { sides[axis] } else { -sides[axis] };
                    }
                    centre + along(local)
                };
                if V::DIMENSION == 2 {
                    // Counter-clockwise, also if the axes are mirrored.
                    let turn = right.turn_to(up) >= 0.0;
                    let order = if turn { [0, 1, 3, 2] } else { [0, 2, 3, 1] };
                    seen(Shape::Polygon { points: &order.map(corner), rounding: radius })
                } else {
                    let points = [0, 1, 2, 3, 4, 5, 6, 7].map(corner);
                    seen(Shape::Solid { points: &points, faces: &BOX_FACES, rounding: radius })
                }
            }
        }
    }

    /// Its world bounds.
    #[must_use]
    pub fn bounds(&self) -> Bounds<V> {
        let Self { centre, right, up, half, radius } = *self;
        let mut reach = V::splat(radius);
        for axis in 0..V::DIMENSION {
            let mut along = [0.0; 3];
            along[axis] = half.component(axis);
            reach += V::from_array(along).out_of_axes(right, up).abs();
        }
        Bounds { min: centre - reach, max: centre + reach }
    }
}

/// Why a piece cannot be made.
///
/// ```
/// use rasant::Piece;
/// use rasant::glam::Vec2;
///
/// let bow_tie = [(0.0, 0.0), (2.0, 2.0), (2.0, 0.0), (0.0, 2.0)].map(|(x, y)| Vec2::new(x, y));
/// println!("{}", Piece::polygon(&bow_tie).unwrap_err());
/// ```
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum PieceError {
    /// A coordinate or size is NaN or infinite.
    #[error("a coordinate or size is NaN or infinite, expected a finite number")]
    NotFinite,
    /// A coordinate or size is beyond [`MAX_LENGTH`].
    #[error("a coordinate or size is {0}, expected at most {MAX_LENGTH} m")]
    TooFar(f32),
    /// A size is not above 0.
    #[error("a size is {0}, expected more than 0")]
    Size(f32),
    /// A polygon, facet or solid has too few corners, or no area or volume.
    #[error("{corners} corners without an area or volume, expected a convex shape")]
    Flat {
        /// The number of corners.
        corners: usize,
    },
    /// The outline is not convex at a corner.
    #[error("corner {corner} turns clockwise, expected a convex outline, counter-clockwise")]
    NotConvex {
        /// The corner, from 0.
        corner: usize,
    },
    /// The outline goes around more than once, as that of a star does.
    #[error("the outline goes around {times} times, expected a convex outline that goes around once")]
    Winds {
        /// How many times it goes around.
        times: u32,
    },
    /// The corners of a facet are not in one plane.
    #[error("corner {corner} is {off} m off the plane of the first three, expected a flat outline")]
    NotFlat {
        /// The corner, from 0.
        corner: usize,
        /// Its distance from the plane, in metres.
        off: f32,
    },
    /// There are more corners than a piece can have.
    #[error("{corners} corners, expected at most {most}")]
    TooMany {
        /// The number of corners.
        corners: usize,
        /// The maximum.
        most: usize,
    },
    /// A triangle refers to a vertex that does not exist.
    #[error("triangle {triangle} refers to vertex {vertex}, but there are only {vertices} vertices")]
    NoVertex {
        /// The triangle, from 0.
        triangle: usize,
        /// The vertex it refers to.
        vertex: u32,
        /// The number of vertices.
        vertices: usize,
    },
    /// A mesh does not have a surface for each triangle.
    #[error("{surfaces} surfaces for {triangles} triangles, expected one for each")]
    Surfaces {
        /// The number of surfaces.
        surfaces: usize,
        /// The number of triangles.
        triangles: usize,
    },
    /// The number of columns of a height grid does not fit the number of heights.
    #[error("{heights} heights for {columns} columns, expected at least 2 whole rows of at least 2")]
    Grid {
        /// The number of heights.
        heights: usize,
        /// The number of columns.
        columns: usize,
    },
    /// The rounding of a box is not less than half its shortest side.
    #[error("a rounding of {rounding}, expected less than {most}: half the shortest side")]
    Rounding {
        /// The rounding.
        rounding: f32,
        /// Half the shortest side.
        most: f32,
    },
    /// A mesh or facet cannot be grown.
    #[error("a mesh or facet cannot be grown, expected a ball, capsule, segment, polygon or solid")]
    NotSolid,
}

/// A convex obstacle with its material.
///
/// ```
/// use rasant::glam::{Vec2, Vec3};
/// use rasant::{Level, Piece};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(0.0, -1.0), Vec2::new(8.0, 0.0))?); // a floor
/// builder.add(Piece::block(Vec2::new(2.0, 2.0), Vec2::new(4.0, 2.2))?.one_way()); // an awning
/// builder.add(Piece::polygon(&[Vec2::new(5.0, 0.0), Vec2::new(8.0, 0.0), Vec2::new(8.0, 2.0)])?); // a ramp
/// let _pillar = Piece::ball(Vec3::Y, 0.5)?;
/// # Ok::<(), rasant::level::PieceError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(bound(
        serialize = "V: Vector + serde::Serialize",
        deserialize = "V: Vector + serde::Deserialize<'de>"
    ))
)]
pub struct Piece<V> {
    pub(super) kind: Kind,
    pub(super) points: Vec<V>,
    pub(super) faces: Vec<u8>,
    pub(super) mesh: Option<MeshShape<V>>,
    pub(super) radius: f32,
    /// The surface. The default is the plain one.
    pub surface: SurfaceId,
    /// The layers it is on. The default is [`Layers::GROUND`].
    pub layers: Layers,
    /// The carrier that it rides on. Its points are then relative to the carrier's origin.
    pub carrier: Option<CarrierId>,
    /// True if it is solid only to feet that come down on it.
    pub one_way: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(super) enum Kind {
    Ball,
    Capsule,
    Segment(Sides),
    Polygon,
    Facet,
    Solid,
    /// The only point is the displacement of the mesh.
    Mesh,
}

/// The maximum number of corners of a piece.
const MOST_CORNERS: usize = 64;

impl<V: Vector> Piece<V> {
    fn new(kind: Kind, points: Vec<V>) -> Result<Self, PieceError> {
        points.iter().try_for_each(|point| within_reach(*point))?;
        if points.len() > MOST_CORNERS {
            return Err(PieceError::TooMany { corners: points.len(), most: MOST_CORNERS });
        }
        Ok(Self {
            kind,
            points,
            faces: Vec::new(),
            mesh: None,
            radius: 0.0,
            surface: SurfaceId::default(),
            layers: Layers::GROUND,
            carrier: None,
            one_way: false,
        })
    }

    /// The shape, relative to the carrier's origin if it rides on one.
    #[must_use]
    pub fn shape(&self) -> Shape<'_, V> {
        self.shape_at(&self.points)
    }

    /// The shape with `points` in place of its own.
    pub(super) fn shape_at<'a>(&'a self, points: &'a [V]) -> Shape<'a, V> {
        let Self { kind, radius, .. } = *self;
        match (kind, &self.mesh) {
            (Kind::Mesh, Some(mesh)) => Shape::Mesh { mesh, offset: points[0] },
            (Kind::Ball | Kind::Mesh, _) => Shape::Ball { centre: points[0], radius },
            (Kind::Capsule, _) => Shape::Capsule { ends: [points[0], points[1]], radius },
            (Kind::Segment(sides), _) => Shape::Segment { ends: [points[0], points[1]], sides },
            (Kind::Polygon, _) => Shape::Polygon { points, rounding: radius },
            (Kind::Facet, _) => Shape::Facet { points, seams: Seams::NONE },
            (Kind::Solid, _) => Shape::Solid { points, faces: &self.faces, rounding: radius },
        }
    }

    /// Calls `seen` with the shape where a carrier at this placement has it. A mesh is not moved.
    pub fn with_shape_at(&self, placement: Placement<V>, seen: impl FnOnce(Shape<'_, V>)) {
        if self.mesh.is_some() {
            return seen(self.shape());
        }
        let points: Vec<V> = self.points.iter().map(|&point| placement.apply(point)).collect();
        seen(self.shape_at(&points));
    }

    /// The bounds of the shape, relative to the carrier's origin if it rides on one.
    #[must_use]
    pub fn bounds(&self) -> Bounds<V> {
        if let Some(mesh) = &self.mesh {
            let Bounds { min, max } = mesh.bounds();
            return Bounds { min: min + self.points[0], max: max + self.points[0] };
        }
        let bounds = Bounds::around(&self.points);
        if self.radius > 0.0 { bounds.widened(V::splat(self.radius)) } else { bounds }
    }

    /// The number of pieces that it counts as: one, or one per triangle of a mesh.
    pub(super) fn count(&self) -> usize {
        self.mesh.as_ref().map_or(1, MeshShape::len)
    }

    /// An axis-aligned box from `min` to `max`.
    ///
    /// # Errors
    /// If a corner is not finite, or a side is not longer than 0.
    pub fn block(min: V, max: V) -> Result<Self, PieceError> {
        if !(min.is_finite() && max.is_finite()) {
            return Err(PieceError::NotFinite);
        }
        let size = max - min;
        for axis in 0..V::DIMENSION {
            positive(size.component(axis))?;
        }
        Shape::block(min, max, |shape| match shape {
            Shape::Solid { points, faces, .. } => {
                Ok(Self { faces: faces.to_vec(), ..Self::new(Kind::Solid, points.to_vec())? })
            }
            Shape::Polygon { points, .. } => Self::new(Kind::Polygon, points.to_vec()),
            _ => Err(PieceError::Flat { corners: 0 }),
        })
    }

    /// A disc in two dimensions, a ball in three.
    ///
    /// # Errors
    /// If the centre is not finite or the radius is not above 0.
    pub fn ball(centre: V, radius: f32) -> Result<Self, PieceError> {
        positive(radius)?;
        Ok(Self { radius, ..Self::new(Kind::Ball, vec![centre])? })
    }

    /// A capsule: everything within `radius` of the line from one point to another.
    ///
    /// # Errors
    /// If an end is not finite, the radius is not above 0, or the two ends are the same.
    pub fn capsule(from: V, to: V, radius: f32) -> Result<Self, PieceError> {
        positive(radius)?;
        let piece = Self { radius, ..Self::new(Kind::Capsule, vec![from, to])? };
        positive((to - from).length())?;
        Ok(piece)
    }

    /// An axis-aligned box from `min` to `max` whose edges and corners are rounded.
    ///
    /// # Errors
    /// As [`block`](Self::block), and if the rounding is below 0 or not less than half the shortest
    /// side. (A box that is round all around is a [`capsule`](Self::capsule) or a
    /// [`ball`](Self::ball).)
    pub fn rounded_block(min: V, max: V, rounding: f32) -> Result<Self, PieceError> {
        Self::block(min, max)?;
        let size = max - min;
        let most = (0..V::DIMENSION).map(|axis| 0.5 * size.component(axis)).fold(f32::INFINITY, f32::min);
        if !(0.0..most).contains(&rounding) {
            return Err(PieceError::Rounding { rounding, most });
        }
        let inner = V::splat(rounding);
        Self::block(min + inner, max - inner)?.grown(rounding)
    }

    /// The piece with its outline moved out by `radius` and round edges and corners: a rounded
    /// polygon from a polygon, a rounded box from a box, a capsule from a segment, a larger ball from
    /// a ball.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::Piece;
    ///
    /// let triangle = [Vec2::ZERO, Vec2::X * 4.0, Vec2::new(2.0, 2.0)];
    /// let hill = Piece::polygon(&triangle)?.grown(0.5)?;
    /// assert_eq!(hill.bounds().min, Vec2::splat(-0.5));
    /// # Ok::<(), rasant::level::PieceError>(())
    /// ```
    ///
    /// # Errors
    /// If the radius is below 0, not finite or too large, or the piece is a mesh or facet.
    pub fn grown(mut self, radius: f32) -> Result<Self, PieceError> {
        if radius == 0.0 {
            return Ok(self);
        }
        positive(radius)?;
        match self.kind {
            Kind::Mesh | Kind::Facet => return Err(PieceError::NotSolid),
            Kind::Segment(_) => self.kind = Kind::Capsule,
            Kind::Ball | Kind::Capsule | Kind::Polygon | Kind::Solid => {}
        }
        self.radius += radius;
        positive(self.radius)?;
        Ok(self)
    }

    /// The piece with its points mapped.
    fn moved(mut self, to: impl Fn(V) -> V) -> Result<Self, PieceError> {
        for point in &mut self.points {
            *point = to(*point);
        }
        self.points.iter().try_for_each(|point| within_reach(*point))?;
        Ok(self)
    }

    /// The piece at another place: its points moved by `offset`, in metres.
    ///
    /// # Errors
    /// If a point would be further than [`MAX_LENGTH`] from the origin, or not finite.
    pub fn moved_by(self, offset: V) -> Result<Self, PieceError> {
        self.moved(|point| point + offset)
    }

    /// Checks a piece that serde has read, by building its shape again.
    #[cfg(feature = "serde")]
    pub(super) fn check(&self) -> Result<(), PieceError> {
        let flat: Vec<Vec2> =
            self.points.iter().map(|point| Vec2::from_slice(&point.to_array()[..2])).collect();
        let deep: Vec<Vec3> = self.points.iter().map(|point| Vec3::from_array(point.to_array())).collect();
        let corners = self.points.len();
        let is_flat = V::DIMENSION == 2;
        if self.radius != 0.0 {
            positive(self.radius)?;
        }
        match (self.kind, &*self.points) {
            (Kind::Ball, &[centre]) => Self::ball(centre, self.radius).map(|_| ()),
            (Kind::Capsule, &[from, to]) => Self::capsule(from, to, self.radius).map(|_| ()),
            (Kind::Mesh, &[offset]) if self.mesh.is_some() => within_reach(offset),
            (Kind::Segment(sides), [_, _]) if is_flat => Piece::segment(flat[0], flat[1], sides).map(|_| ()),
            (Kind::Polygon, _) if is_flat => Piece::polygon(&flat).map(|_| ()),
            (Kind::Facet, _) if !is_flat => Piece::facet(&deep).map(|_| ()),
            (Kind::Solid, _) if !is_flat => {
                Piece::solid(&deep)?;
                let mut faces = &*self.faces;
                while let Some((&count, rest)) = faces.split_first() {
                    let face = rest.get(..usize::from(count)).ok_or(PieceError::Flat { corners })?;
                    if count < 3 || face.iter().any(|&corner| usize::from(corner) >= corners) {
                        return Err(PieceError::Flat { corners });
                    }
                    faces = &rest[usize::from(count)..];
                }
                Ok(())
            }
            _ => Err(PieceError::Flat { corners }),
        }
    }

    /// The bounds, if it is exactly what [`Self::block`] makes of them.
    pub(super) fn as_block(&self) -> Option<Bounds<V>> {
        let Self { kind, points, faces, radius, .. } = self;
        let is_kind = matches!((kind, V::DIMENSION), (Kind::Polygon, 2) | (Kind::Solid, 3));
        if !is_kind || *radius != 0.0 || points.len() != 1 << V::DIMENSION {
            return None;
        }
        let bounds = Bounds::around(points);
        Shape::block(bounds.min, bounds.max, |shape| match shape {
            Shape::Polygon { points: corners, .. } => corners == points.as_slice(),
            Shape::Solid { points: corners, faces: sides, .. } => {
                corners == points.as_slice() && sides == faces.as_slice()
            }
            _ => false,
        })
        .then_some(bounds)
    }

    /// Adds everything to a checksum.
    pub(super) fn add_to(&self, sum: &mut Summer) {
        let Self { kind, points, faces, mesh, radius, surface, layers, carrier, one_way } = self;
        (surface, layers, carrier, one_way, faces).hash(sum);
        kind.hash(sum);
        sum.number(*radius);
        points.iter().for_each(|&point| sum.vector(point));
        sum.option(mesh.as_ref(), |sum, mesh| sum.word(mesh.sum()));
    }

    /// Its tag, with its id.
    pub(super) fn tag(&self, id: u32) -> Tag {
        let Self { surface, carrier, one_way, .. } = *self;
        Tag { piece: PieceId(id), surface, carrier, one_way }
    }

    /// The piece with another surface.
    #[must_use]
    pub fn made_of(mut self, surface: SurfaceId) -> Self {
        self.surface = surface;
        self
    }

    /// The piece on other layers.
    #[must_use]
    pub fn on_layers(mut self, layers: Layers) -> Self {
        self.layers = layers;
        self
    }

    /// The piece on a carrier. Its points are then relative to the carrier's origin.
    #[must_use]
    pub fn riding(mut self, carrier: CarrierId) -> Self {
        self.carrier = Some(carrier);
        self
    }

    /// The piece, solid only to feet that come down on it.
    #[must_use]
    pub fn one_way(mut self) -> Self {
        self.one_way = true;
        self
    }
}

/// Checks that a point is finite and no further out than [`MAX_LENGTH`].
pub(super) fn within_reach<V: Vector>(point: V) -> Result<(), PieceError> {
    if !point.is_finite() {
        return Err(PieceError::NotFinite);
    }
    let far = point.to_array().into_iter().find(|part| part.abs() > MAX_LENGTH);
    far.map_or(Ok(()), |far| Err(PieceError::TooFar(far)))
}

fn positive(size: f32) -> Result<(), PieceError> {
    if !size.is_finite() {
        Err(PieceError::NotFinite)
    } else if size > MAX_LENGTH {
        Err(PieceError::TooFar(size))
    } else if size <= 0.0 {
        Err(PieceError::Size(size))
    } else {
        Ok(())
    }
}

/// Checks that an outline turns by exactly one whole turn. `turn` is the angle from an edge to the
/// next.
fn goes_round_once<E: Copy>(edges: Vec<E>, turn: impl Fn(E, E) -> f64) -> Result<(), PieceError> {
    let count = edges.len();
    let turns: f64 = (0..count).map(|i| turn(edges[i], edges[(i + 1) % count])).sum();
    let times = turns / core::f64::consts::TAU;
    if times > 1.25 { Err(PieceError::Winds { times: (times + 0.5) as u32 }) } else { Ok(()) }
}

/// Corners of an outline are the same if they are nearer than this fraction of its largest half
/// width.
const ONE_CORNER: f64 = 1e-6;
/// An outline has no area if twice its area is below this fraction of its largest half width
/// squared.
const FLAT: f64 = 1e-6;

impl Piece<Vec2> {
    /// A solid convex polygon. The corners may go around in either direction.
    ///
    /// # Errors
    /// If a corner is not finite, there are fewer than 3 or more than 64, or the outline is not
    /// convex or has no area.
    pub fn polygon(points: &[Vec2]) -> Result<Self, PieceError> {
        let mut piece = Self::new(Kind::Polygon, points.to_vec())?;
        // Relative to its own centre and in doubles, so that an outline far from the origin is
        // judged as at the origin.
        let middle = points.iter().map(|point| point.as_dvec2()).sum::<DVec2>() / points.len().max(1) as f64;
        let from_middle = |point: Vec2| point.as_dvec2() - middle;
        let width = points.iter().map(|&point| from_middle(point).length()).fold(0.0, f64::max);
        // Corners that differ by rounding only are merged: the direction of an edge between them
        // would be arbitrary.
        let mut kept: Vec<usize> = Vec::with_capacity(points.len());
        let apart = |one: usize, other: usize| points[one].as_dvec2().distance(points[other].as_dvec2());
        for place in 0..points.len() {
            if kept.last().is_none_or(|&last| apart(last, place) > ONE_CORNER * width) {
                kept.push(place);
            }
        }
        while kept.len() > 1 && apart(kept[0], kept[kept.len() - 1]) <= ONE_CORNER * width {
            kept.pop();
        }
        let corners = kept.len();
        let across =
            |i: usize| from_middle(points[kept[i]]).perp_dot(from_middle(points[kept[(i + 1) % corners]]));
        let area: f64 = (0..corners).map(across).sum();
        if corners < 3 || area.abs() < FLAT * width * width {
            return Err(PieceError::Flat { corners: points.len() });
        }
        if area < 0.0 {
            kept.reverse();
        }
        piece.points = kept.iter().map(|&place| points[place]).collect();
        let at = |i: usize| from_middle(piece.points[i % corners]);
        // A star also turns left at every corner, as a convex outline does.
        let edges = (0..corners).map(|i| at(i + 1) - at(i));
        goes_round_once(edges.collect(), |a, b| libm::atan2(a.perp_dot(b), a.dot(b)))?;
        // Every corner is to the left of every edge. A short edge may turn back slightly, and have
        // most of the outline on its other side.
        let right_of = |i: usize, slack: f64| {
            let edge = at(i + 1) - at(i);
            (2..corners).any(|more| edge.perp_dot(at(i + more) - at(i + 1)) < -slack)
        };
        // The precision with which coordinates of this size can say where a corner is.
        let largest = points.iter().map(|point| point.abs().max_element()).fold(0.0, f32::max);
        let slack = 1e-6 * area.abs() + f64::from(largest * f32::EPSILON) * width;
        if let Some(bad) = (0..corners).find(|&i| right_of(i, slack)) {
            return Err(PieceError::NotConvex { corner: kept[(bad + 1) % corners] });
        }
        Ok(piece)
    }

    /// A rectangle of `half` extents, rotated counter-clockwise by `angle` (in radians) around
    /// `centre`.
    ///
    /// # Errors
    /// If a number is not finite, or a half extent is not above 0.
    pub fn turned_rectangle(centre: Vec2, half: Vec2, angle: f32) -> Result<Self, PieceError> {
        Self::block(-half, half)?.moved(|point| centre + point.turned(angle))
    }

    /// A straight line without thickness.
    ///
    /// # Errors
    /// If an end is not finite, or the two ends are the same.
    pub fn segment(from: Vec2, to: Vec2, sides: Sides) -> Result<Self, PieceError> {
        let piece = Self::new(Kind::Segment(sides), vec![from, to])?;
        positive((to - from).length())?;
        Ok(piece)
    }
}

impl Piece<Vec3> {
    /// A box of `half` extents, rotated by `rotation` around `centre`.
    ///
    /// # Errors
    /// If a number is not finite, or a half extent is not above 0.
    pub fn turned_box(centre: Vec3, half: Vec3, rotation: Quat) -> Result<Self, PieceError> {
        let rotation = rotation.normalize();
        Self::block(-half, half)?.moved(|point| centre + rotation * point)
    }

    /// A cylinder around the line from one point to another, with flat ends: a prism with 32 sides,
    /// whose surface is within 0.25 % of the radius of that of the cylinder.
    ///
    /// # Errors
    /// If an end is not finite, the radius is not above 0, or the two ends are the same.
    pub fn cylinder(from: Vec3, to: Vec3, radius: f32) -> Result<Self, PieceError> {
        const SIDES: usize = 32;
        positive(radius)?;
        within_reach(from)?;
        within_reach(to)?;
        let along = to - from;
        positive(along.length())?;
        let axis = along.direction().ok_or(PieceError::Size(0.0))?;
        // Corners as far outside of the cylinder as the middles of the sides are inside.
        let out = radius * 2.0 / (1.0 + libm::cosf(core::f32::consts::PI / SIDES as f32));
        let right = Vec3::right_for(axis, Vec3::X);
        let rim = (0..SIDES).map(|side| {
            let angle = core::f32::consts::TAU * side as f32 / SIDES as f32;
            right.turned_about(axis, angle) * out
        });
        let rim: Vec<Vec3> = rim.collect();
        let points = rim.iter().map(|&point| from + point).chain(rim.iter().map(|&point| to + point));
        let mut piece = Self::new(Kind::Solid, points.collect())?;
        let sides = SIDES as u8;
        piece.faces.push(sides);
        piece.faces.extend((0..sides).rev());
        piece.faces.push(sides);
        piece.faces.extend(sides..2 * sides);
        for side in 0..sides {
            let next = (side + 1) % sides;
            piece.faces.extend([4, side, next, sides + next, sides + side]);
        }
        Ok(piece)
    }

    /// A triangle mesh. Its vertices are moved by [`Self::moved_by`].
    #[must_use]
    pub fn mesh(shape: MeshShape<Vec3>) -> Self {
        Self {
            kind: Kind::Mesh,
            points: vec![Vec3::ZERO],
            faces: Vec::new(),
            mesh: Some(shape),
            radius: 0.0,
            surface: SurfaceId::default(),
            layers: Layers::GROUND,
            carrier: None,
            one_way: false,
        }
    }

    /// A flat convex facet without thickness, solid from both sides. Counter-clockwise seen from
    /// outside.
    ///
    /// # Errors
    /// If a corner is not finite, or the first three are on a line.
    pub fn facet(points: &[Vec3]) -> Result<Self, PieceError> {
        let piece = Self::new(Kind::Facet, points.to_vec())?;
        let corners = points.len();
        if corners < 3 || is_on_a_line(points[0], points[1], points[2]) {
            return Err(PieceError::Flat { corners });
        }
        flat_and_convex(points)?;
        Ok(piece)
    }

    /// The convex hull of some points, at most 64.
    ///
    /// # Errors
    /// If a point is not finite, there are too many, or they are in one plane.
    pub fn solid(points: &[Vec3]) -> Result<Self, PieceError> {
        let mut piece = Self::new(Kind::Solid, points.to_vec())?;
        piece.faces = faces_round(points);
        if piece.faces.is_empty() {
            return Err(PieceError::Flat { corners: points.len() });
        }
        Ok(piece)
    }
}

/// The triangles of the convex hull of `points`, or none if all are in a plane: grown point by
/// point from a first tetrahedron. Each further point removes the triangles that it sees and is
/// joined to the edges around them, so the solid is closed whatever the rounding.
pub(super) fn faces_round(points: &[Vec3]) -> Vec<u8> {
    let at: Vec<DVec3> = points.iter().map(|point| point.as_dvec3()).collect();
    let Some(first) = first_tetrahedron(&at) else { return Vec::new() };
    let sees = |[a, b, c]: [u8; 3], point: DVec3| {
        let [a, b, c] = [a, b, c].map(|corner| at[usize::from(corner)]);
        (b - a).cross(c - a).dot(point - a) > 0.0
    };
    let [a, b, c, d] = first;
    let base = if sees([a, b, c], at[usize::from(d)]) { [a, c, b] } else { [a, b, c] };
    let [a, b, c] = base;
    let mut faces = vec![[a, b, c], [b, a, d], [c, b, d], [a, c, d]];
    for (number, &point) in at.iter().enumerate() {
        let number = number as u8;
        let (seen, unseen): (Vec<_>, Vec<_>) = faces.iter().copied().partition(|&face| sees(face, point));
        if seen.is_empty() || first.contains(&number) {
            continue;
        }
        let edges = |face: [u8; 3]| [(face[0], face[1]), (face[1], face[2]), (face[2], face[0])];
        let all: Vec<(u8, u8)> = seen.iter().flat_map(|&face| edges(face)).collect();
        let rim = all.iter().filter(|&&(from, to)| !all.contains(&(to, from)));
        faces = unseen;
        faces.extend(rim.map(|&(from, to)| [from, to, number]));
    }
    faces.iter().flat_map(|face| [3, face[0], face[1], face[2]]).collect()
}

/// Four points that are not in a plane: far apart, far from their line, and far from their plane.
fn first_tetrahedron(at: &[DVec3]) -> Option<[u8; 4]> {
    let furthest = |distance: &dyn Fn(DVec3) -> f64| {
        (0..at.len()).max_by(|&i, &j| distance(at[i]).total_cmp(&distance(at[j])))
    };
    let a = 0;
    let b = furthest(&|point| point.distance_squared(*at.first().unwrap_or(&point)))?;
    let along = (at[b] - at[a]).try_normalize()?;
    let c = furthest(&|point| (point - at[a]).cross(along).length_squared())?;
    let across = along.cross(at[c] - at[a]).try_normalize()?;
    let d = furthest(&|point| (point - at[a]).dot(across).abs())?;
    let size = at[b].distance(at[a]);
    let thick = (at[d] - at[a]).dot(across).abs() > 1e-6 * size;
    thick.then_some([a as u8, b as u8, c as u8, d as u8])
}

/// Returns true if three corners have no area: less than a ten-millionth of their longest side
/// squared.
fn is_on_a_line(a: Vec3, b: Vec3, c: Vec3) -> bool {
    const THIN: f32 = 1e-7;
    let sides = [b - a, c - b, a - c].map(Vec3::length_squared);
    (b - a).cross(c - a).length() <= THIN * sides.into_iter().fold(0.0, f32::max)
}

/// Whether the corners of a facet are, but for rounding.
fn flat_and_convex(points: &[Vec3]) -> Result<(), PieceError> {
    /// What rounding may put a corner off, as a share of the facet's size.
    const ROUNDING: f32 = 1e-3;
    let normal = (points[1] - points[0]).cross(points[2] - points[0]).normalize_or_zero();
    let size = points.iter().fold(0.0, |size: f32, point| size.max((*point - points[0]).length()));
    let n = points.len();
    for corner in 0..n {
        let off = (points[corner] - points[0]).dot(normal).abs();
        if off > ROUNDING * size {
            return Err(PieceError::NotFlat { corner, off });
        }
        let (before, after) = (points[(corner + n - 1) % n], points[(corner + 1) % n]);
        let turn = (points[corner] - before).cross(after - points[corner]).dot(normal);
        if turn < -ROUNDING * size * size {
            return Err(PieceError::NotConvex { corner });
        }
    }
    let edges = (0..n).map(|corner| (points[(corner + 1) % n] - points[corner]).as_dvec3());
    let normal = normal.as_dvec3();
    let turn = |a: DVec3, b: DVec3| libm::atan2(a.cross(b).dot(normal), a.dot(b));
    goes_round_once(edges.filter(|edge| edge.length() > 0.0).collect(), turn)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The star {n/times}: every corner is joined to the one `times` further.
    fn star(n: usize, times: usize) -> impl Iterator<Item = (f32, f32)> {
        (0..n).map(move |i| {
            let angle = core::f32::consts::TAU * (i * times) as f32 / n as f32;
            (libm::cosf(angle), libm::sinf(angle))
        })
    }

    #[test]
    fn outlines_that_go_round_more_than_once_are_refused_in_both_dimensions() {
        for n in 3..24usize {
            for times in 1..n.div_ceil(2) {
                let flat: Vec<Vec2> = star(n, times).map(Vec2::from).collect();
                let tilted: Vec<Vec3> = star(n, times).map(|(x, y)| Vec3::new(x, 3.0, x - y)).collect();
                let mut back = flat.clone();
                back.reverse();
                let made = [
                    Piece::polygon(&flat).map(|_| ()),
                    Piece::polygon(&back).map(|_| ()),
                    Piece::facet(&tilted).map(|_| ()),
                ];
                // {n/m} with a common factor is a simpler outline, traversed as often.
                let expected =
                    if times == 1 { Ok(()) } else { Err(PieceError::Winds { times: times as u32 }) };
                assert_eq!(made, [expected.clone(), expected.clone(), expected], "{n}/{times}");
            }
        }
        // Out along a spike and back.
        let spike = [Vec2::ZERO, Vec2::new(4.0, 0.0), Vec2::X, Vec2::new(1.0, 1.0)];
        assert!(Piece::polygon(&spike).is_err());
    }

    #[test]
    fn a_short_edge_that_turns_back_is_no_part_of_a_convex_outline() {
        // As drawings end that close a path only within rounding.
        let outline = [(0.0, 0.0), (24.0, 0.0), (24.0, 20.0), (9.7, 20.0), (9.702, 19.999), (0.0, 12.0)];
        let points = outline.map(Vec2::from);
        assert!(matches!(Piece::polygon(&points), Err(PieceError::NotConvex { .. })));
        let without: Vec<Vec2> = [0, 1, 2, 3, 5].map(|i| points[i]).into();
        let whole = Piece::polygon(&without).unwrap();
        // What rounding tells apart is one corner, at the beginning, in the middle and at the end.
        for (place, off) in [(0, -1e-18), (2, 1e-6), (5, 1e-18), (5, -2e-6)] {
            let mut points = without.clone();
            points.insert(place, points[place % 5] + Vec2::new(off, 0.5 * off));
            assert_eq!(Piece::polygon(&points).unwrap().points.len(), whole.points.len(), "{place}");
        }
    }

    #[test]
    fn numbers_without_end_or_too_far_out_are_refused() {
        let far = Vec2::new(1e10, 0.0);
        assert_eq!(Piece::block(Vec2::ZERO, Vec2::new(1e10, 1.0)), Err(PieceError::TooFar(1e10)));
        assert_eq!(Piece::ball(far, 1.0), Err(PieceError::TooFar(1e10)));
        assert_eq!(Piece::ball(Vec3::ZERO, 1e38), Err(PieceError::TooFar(1e38)));
        assert_eq!(Piece::ball(Vec3::ZERO, f32::INFINITY), Err(PieceError::NotFinite));
        assert_eq!(Piece::polygon(&[Vec2::ZERO, far, far + Vec2::Y]), Err(PieceError::TooFar(1e10)));
        assert!(Piece::block(Vec2::ZERO, Vec2::new(1e9, 1.0)).is_ok());
    }

    #[test]
    fn a_polygon_may_go_round_either_way_but_must_be_convex() {
        let square = [Vec2::ZERO, Vec2::X, Vec2::ONE, Vec2::Y];
        let mut back = square;
        back.reverse();
        assert!(Piece::polygon(&square).is_ok());
        assert_eq!(Piece::polygon(&back).unwrap().points, square);
        let dart = [Vec2::ZERO, Vec2::new(2.0, 0.0), Vec2::new(0.5, 0.5), Vec2::new(0.0, 2.0)];
        assert_eq!(Piece::polygon(&dart), Err(PieceError::NotConvex { corner: 2 }));
        assert_eq!(Piece::polygon(&square[..2]), Err(PieceError::Flat { corners: 2 }));
    }

    #[test]
    fn the_solid_round_the_corners_of_a_box_has_two_triangles_a_side() {
        let block = Piece::block(Vec3::ZERO, Vec3::new(1.0, 2.0, 3.0)).unwrap();
        let mut points = block.points.clone();
        points.push(Vec3::new(0.5, 1.0, 1.5)); // inside
        points.push(Vec3::new(0.5, 0.0, 1.5)); // on a face
        let solid = Piece::solid(&points).unwrap();
        assert_eq!(solid.faces.len(), 12 * 4);
        assert!(is_closed(&solid.faces) && is_closed(&block.faces));
    }

    /// Whether each edge of a face is run through in the opposite direction by another.
    fn is_closed(mut faces: &[u8]) -> bool {
        let mut edges = alloc::collections::BTreeSet::new();
        while let Some((&count, rest)) = faces.split_first() {
            let (face, rest) = rest.split_at(usize::from(count));
            for i in 0..face.len() {
                edges.insert((face[i], face[(i + 1) % face.len()]));
            }
            faces = rest;
        }
        !edges.is_empty() && edges.iter().all(|&(a, b)| edges.contains(&(b, a)))
    }

    /// The greatest volume of four of the points.
    fn thickness(points: &[Vec3]) -> f32 {
        let mut most = 0.0f32;
        for (i, &a) in points.iter().enumerate() {
            for (j, &b) in points.iter().enumerate().skip(i + 1) {
                for (k, &c) in points.iter().enumerate().skip(j + 1) {
                    for &d in &points[k + 1..] {
                        most = most.max((b - a).cross(c - a).dot(d - a).abs() / 6.0);
                    }
                }
            }
        }
        most
    }

    proptest::proptest! {
        #[test]
        fn the_faces_round_any_points_are_closed(
            points in proptest::collection::vec(proptest::array::uniform3(-1f32..1.0), 4..12)
        ) {
            let points: Vec<Vec3> = points.into_iter().map(Vec3::from_array).collect();
            let solid = Piece::solid(&points);
            // Points that are nearly in a plane may be refused, others not.
            assert!(solid.is_ok() || thickness(&points) < 1e-2, "{solid:?} of {points:?}");
            if let Ok(solid) = solid {
                assert!(is_closed(&solid.faces), "{:?}", solid.faces);
            }
        }
    }

    #[test]
    fn broken_sizes_are_refused() {
        assert_eq!(Piece::ball(Vec2::ZERO, -1.0), Err(PieceError::Size(-1.0)));
        assert_eq!(Piece::block(Vec3::ONE, Vec3::ONE), Err(PieceError::Size(0.0)));
        assert_eq!(Piece::ball(Vec2::NAN, 1.0), Err(PieceError::NotFinite));
        assert!(Piece::solid(&[Vec3::ZERO, Vec3::X, Vec3::Z, Vec3::ONE.with_height(0.0)]).is_err());
    }
}
