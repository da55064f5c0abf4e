//! Convex obstacles.

use alloc::vec;
use alloc::vec::Vec;
use core::hash::Hash as _;
use glam::{DVec2, DVec3, Quat, Vec2, Vec3};
use thiserror::Error;

use crate::space::{MAX_LENGTH, Vector};
use crate::summer::Summer;

use super::carrier::CarrierId;
use super::layers::Layers;
use super::surface::SurfaceId;

/// Names a piece of a level. Each triangle of a mesh has the id of its mesh.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct PieceId(pub u32);

/// What a body needs to know of a piece besides its shape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Tag {
    /// Which piece it is; the host's own number.
    pub piece: PieceId,
    /// What it is made of.
    pub surface: SurfaceId,
    /// What it rides on.
    pub carrier: Option<CarrierId>,
    /// Whether it is solid only to feet that come down on it.
    pub one_way: bool,
}

/// Which sides of a segment are solid.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Sides {
    /// Both.
    #[default]
    Both,
    /// Only the left one, seen along the segment from its first end: for
    /// ground drawn from left to right, the upper side.
    Left,
}

/// Edges that are no edges of the surface: the flat or hollow seams between a
/// triangle and its neighbours. Edge `i` goes from corner `i` to the next. Contact
/// never answers with an edge that is hidden from the side where the hull is.
///
/// What is hollow in front is sharp behind, so each edge is hidden from the front
/// (from where the corners run counter-clockwise) and from behind by itself. Hide
/// one only where the surface goes on at an angle of at most half a turn, measured
/// through the space on that side.
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
    /// Both sides in one number.
    pub(super) fn bits(self) -> u16 {
        u16::from(self.front) << 8 | u16::from(self.back)
    }

    /// Every edge is exposed.
    pub const NONE: Self = Self { front: 0, back: 0 };

    /// These, with edge `edge` hidden from both sides, as where two facets are
    /// parts of one plane.
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

    /// Whether edge `edge` is hidden from the front.
    #[must_use]
    #[inline]
    pub fn hides_front(self, edge: usize) -> bool {
        self.front >> (edge & 7) & 1 == 1
    }

    /// Whether edge `edge` is hidden from behind.
    #[must_use]
    #[inline]
    pub fn hides_back(self, edge: usize) -> bool {
        self.back >> (edge & 7) & 1 == 1
    }

    /// The edges hidden from a hull that is wholly in front of the facet's plane,
    /// wholly behind it, or on both sides: a bit each.
    #[inline]
    pub(crate) fn hidden_from(self, front: bool, back: bool) -> u8 {
        match (front, back) {
            (true, false) => self.front,
            (false, true) => self.back,
            _ => self.front & self.back,
        }
    }
}

/// A convex shape, as [`Surroundings`](super::Surroundings) gives it.
#[derive(Clone, Copy, Debug)]
pub enum Shape<'a, V> {
    /// A disc in two dimensions, a ball in three.
    Ball {
        /// The middle.
        centre: V,
        /// Above 0.
        radius: f32,
    },
    /// Two dimensions only: a thin straight line.
    Segment {
        /// Where it begins and ends.
        ends: [V; 2],
        /// Which sides are solid.
        sides: Sides,
    },
    /// Two dimensions only: a solid convex polygon, counter-clockwise.
    Polygon {
        /// Three corners or more.
        points: &'a [V],
    },
    /// Three dimensions only: a thin flat convex facet, solid from both sides.
    Facet {
        /// Three corners or more, counter-clockwise seen from the outside.
        points: &'a [V],
        /// Edges that are not exposed.
        seams: Seams,
    },
    /// Three dimensions only: a convex solid.
    Solid {
        /// The corners.
        points: &'a [V],
        /// The faces one after the other: how many corners, then their places
        /// in `points`, counter-clockwise seen from outside.
        faces: &'a [u8],
    },
}

/// The faces of a box whose corner `i` is at the greater end of x, y and z
/// where bits 0, 1 and 2 of `i` are set.
const BOX_FACES: [u8; 30] =
    [4, 0, 4, 6, 2, 4, 1, 3, 7, 5, 4, 0, 1, 5, 4, 4, 2, 6, 7, 3, 4, 0, 2, 3, 1, 4, 4, 5, 7, 6];

impl<V: Vector> Shape<'_, V> {
    /// Gives `seen` the corners of each face, counter-clockwise from outside: of a solid all
    /// of them, of a facet the one. Of balls and of what is flat there are none.
    pub fn each_face(&self, mut seen: impl FnMut(&[V])) {
        match *self {
            Self::Facet { points, .. } => seen(points),
            Self::Solid { points, mut faces } => {
                while let Some((&count, rest)) = faces.split_first() {
                    let (face, rest) = rest.split_at(usize::from(count));
                    let corners: Vec<V> = face.iter().map(|&corner| points[usize::from(corner)]).collect();
                    seen(&corners);
                    faces = rest;
                }
            }
            Self::Ball { .. } | Self::Segment { .. } | Self::Polygon { .. } => {}
        }
    }

    /// Calls `seen` with a box along the axes, of the right kind for the
    /// dimension.
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
            seen(Shape::Polygon { points: &[0, 1, 3, 2].map(corner) })
        } else {
            seen(Shape::Solid { points: &[0, 1, 2, 3, 4, 5, 6, 7].map(corner), faces: &BOX_FACES })
        }
    }
}

/// Why a piece cannot be made.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum PieceError {
    /// A coordinate or size is NaN or infinite.
    #[error("a coordinate or size is NaN or infinite, expected a finite number")]
    NotFinite,
    /// A coordinate or size is further out than [`MAX_LENGTH`].
    #[error("a coordinate or size is {0}, expected at most {MAX_LENGTH} m")]
    TooFar(f32),
    /// A size is zero or negative.
    #[error("a size is {0}, expected more than 0")]
    Size(f32),
    /// A polygon, facet or solid has too few corners, or no area or volume.
    #[error("{corners} corners without an area or volume, expected a convex shape")]
    Flat {
        /// How many corners were given.
        corners: usize,
    },
    /// The corners turn the wrong way.
    #[error("corner {corner} turns clockwise, expected a convex outline, counter-clockwise")]
    NotConvex {
        /// The place of the corner, from 0.
        corner: usize,
    },
    /// The outline goes round more than once, as that of a star does.
    #[error("the outline goes round {times} times, expected a convex outline that goes round once")]
    Winds {
        /// How often it goes round.
        times: u32,
    },
    /// The corners of a facet do not lie in one plane.
    #[error("corner {corner} is {off} m off the plane of the first three, expected a flat outline")]
    NotFlat {
        /// The place of the corner, from 0.
        corner: usize,
        /// How far off it is, in metres.
        off: f32,
    },
    /// More corners than a piece can have.
    #[error("{corners} corners, expected at most {most}")]
    TooMany {
        /// How many were given.
        corners: usize,
        /// The most there can be.
        most: usize,
    },
    /// A triangle names a vertex that is not there.
    #[error("triangle {triangle} names vertex {vertex}, but there are only {vertices}")]
    NoVertex {
        /// The place of the triangle, from 0.
        triangle: usize,
        /// The vertex it names.
        vertex: u32,
        /// How many vertices there are.
        vertices: usize,
    },
}

/// A convex obstacle and what it is made of.
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
pub struct Piece<V> {
    pub(super) kind: Kind,
    pub(super) points: Vec<V>,
    pub(super) faces: Vec<u8>,
    pub(super) radius: f32,
    /// The surface, plain if nothing is said.
    pub surface: SurfaceId,
    /// The layers it is on, [`Layers::GROUND`] if nothing is said.
    pub layers: Layers,
    /// The carrier it rides on. Its points are then about the carrier's
    /// origin.
    pub carrier: Option<CarrierId>,
    /// Whether it is solid only to feet that come down on it.
    pub one_way: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Hash)]
pub(super) enum Kind {
    Ball,
    Segment(Sides),
    Polygon,
    Facet,
    Solid,
}

impl Kind {
    fn shape<'a, V: Vector>(self, radius: f32, points: &'a [V], faces: &'a [u8]) -> Shape<'a, V> {
        match self {
            Self::Ball => Shape::Ball { centre: points[0], radius },
            Self::Segment(sides) => Shape::Segment { ends: [points[0], points[1]], sides },
            Self::Polygon => Shape::Polygon { points },
            Self::Facet => Shape::Facet { points, seams: Seams::NONE },
            Self::Solid => Shape::Solid { points, faces },
        }
    }
}

/// Corners that one piece can have.
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
            radius: 0.0,
            surface: SurfaceId::default(),
            layers: Layers::GROUND,
            carrier: None,
            one_way: false,
        })
    }

    /// Its shape, about its carrier's origin where it rides on one.
    #[must_use]
    pub fn shape(&self) -> Shape<'_, V> {
        self.kind.shape(self.radius, &self.points, &self.faces)
    }

    /// A box along the axes from `min` to `max`.
    ///
    /// # Errors
    /// When a corner is not finite, or a side is not longer than 0.
    pub fn block(min: V, max: V) -> Result<Self, PieceError> {
        if !(min.is_finite() && max.is_finite()) {
            return Err(PieceError::NotFinite);
        }
        let size = max - min;
        for axis in 0..V::DIMENSION {
            positive(size.component(axis))?;
        }
        Shape::block(min, max, |shape| match shape {
            Shape::Solid { points, faces } => {
                Ok(Self { faces: faces.to_vec(), ..Self::new(Kind::Solid, points.to_vec())? })
            }
            Shape::Polygon { points } => Self::new(Kind::Polygon, points.to_vec()),
            _ => Err(PieceError::Flat { corners: 0 }),
        })
    }

    /// A disc in two dimensions, a ball in three.
    ///
    /// # Errors
    /// When the centre is not finite or the radius not above 0.
    pub fn ball(centre: V, radius: f32) -> Result<Self, PieceError> {
        positive(radius)?;
        Ok(Self { radius, ..Self::new(Kind::Ball, vec![centre])? })
    }

    /// The same piece with its points elsewhere.
    fn moved(mut self, to: impl Fn(V) -> V) -> Result<Self, PieceError> {
        for point in &mut self.points {
            *point = to(*point);
        }
        self.points.iter().try_for_each(|point| within_reach(*point))?;
        Ok(self)
    }

    /// The same piece, made of `surface`.
    #[must_use]
    pub fn made_of(mut self, surface: SurfaceId) -> Self {
        self.surface = surface;
        self
    }

    /// The same piece, on `layers`.
    #[must_use]
    pub fn on_layers(mut self, layers: Layers) -> Self {
        self.layers = layers;
        self
    }

    /// The same piece, riding on `carrier`: its points are about the
    /// carrier's origin.
    #[must_use]
    pub fn riding(mut self, carrier: CarrierId) -> Self {
        self.carrier = Some(carrier);
        self
    }

    /// The same piece, solid only to feet that come down on it.
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

/// Checks that the edges of an outline turn by one whole turn. `turn` is the angle from an edge to
/// the next.
fn goes_round_once<E: Copy>(edges: Vec<E>, turn: impl Fn(E, E) -> f64) -> Result<(), PieceError> {
    let count = edges.len();
    let turns: f64 = (0..count).map(|i| turn(edges[i], edges[(i + 1) % count])).sum();
    let times = turns / core::f64::consts::TAU;
    if times > 1.25 { Err(PieceError::Winds { times: (times + 0.5) as u32 }) } else { Ok(()) }
}

/// Corners of an outline that are nearer than this share of its greatest half width are one.
const ONE_CORNER: f64 = 1e-6;
/// Twice the area of an outline below this share of its greatest half width,
/// squared, is none.
const FLAT: f64 = 1e-6;

impl Piece<Vec2> {
    /// A solid convex polygon; the corners go round either way.
    ///
    /// # Errors
    /// When a corner is not finite, there are fewer than 3 or more than 64, or
    /// the outline is not convex or has no area.
    pub fn polygon(points: &[Vec2]) -> Result<Self, PieceError> {
        let mut piece = Self::new(Kind::Polygon, points.to_vec())?;
        // About its own middle and in doubles: far from the origin an outline is
        // judged as it would be there.
        let middle = points.iter().map(|point| point.as_dvec2()).sum::<DVec2>() / points.len().max(1) as f64;
        let from_middle = |point: Vec2| point.as_dvec2() - middle;
        let width = points.iter().map(|&point| from_middle(point).length()).fold(0.0, f64::max);
        // Corners that rounding tells apart are one: an edge between them would lead anywhere.
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
        // All turns of a star are to the left, as those of a convex outline.
        let edges = (0..corners).map(|i| at(i + 1) - at(i));
        goes_round_once(edges.collect(), |a, b| libm::atan2(a.perp_dot(b), a.dot(b)))?;
        // Every corner is to the left of every edge: an edge that is short may turn back by little,
        // and have most of the outline on its other side.
        let right_of = |i: usize, slack: f64| {
            let edge = at(i + 1) - at(i);
            (2..corners).any(|more| edge.perp_dot(at(i + more) - at(i + 1)) < -slack)
        };
        // A corner is where its coordinates can say it is.
        let largest = points.iter().map(|point| point.abs().max_element()).fold(0.0, f32::max);
        let slack = 1e-6 * area.abs() + f64::from(largest * f32::EPSILON) * width;
        if let Some(bad) = (0..corners).find(|&i| right_of(i, slack)) {
            return Err(PieceError::NotConvex { corner: kept[(bad + 1) % corners] });
        }
        Ok(piece)
    }

    /// A rectangle of `half` extents, turned counter-clockwise by `angle` (in radians)
    /// about `centre`.
    ///
    /// # Errors
    /// When a number is not finite, or a half extent not above 0.
    pub fn turned_rectangle(centre: Vec2, half: Vec2, angle: f32) -> Result<Self, PieceError> {
        Self::block(-half, half)?.moved(|point| centre + point.turned(angle))
    }

    /// A thin straight line.
    ///
    /// # Errors
    /// When an end is not finite, or the two are the same.
    pub fn segment(from: Vec2, to: Vec2, sides: Sides) -> Result<Self, PieceError> {
        let piece = Self::new(Kind::Segment(sides), vec![from, to])?;
        positive((to - from).length())?;
        Ok(piece)
    }
}

impl Piece<Vec3> {
    /// A box of `half` extents, turned by `rotation` about `centre`.
    ///
    /// # Errors
    /// When a number is not finite, or a half extent not above 0.
    pub fn turned_box(centre: Vec3, half: Vec3, rotation: Quat) -> Result<Self, PieceError> {
        let rotation = rotation.normalize();
        Self::block(-half, half)?.moved(|point| centre + rotation * point)
    }

    /// A thin flat convex facet, solid from both sides; counter-clockwise seen
    /// from outside.
    ///
    /// # Errors
    /// When a corner is not finite, or the first three are on a line.
    pub fn facet(points: &[Vec3]) -> Result<Self, PieceError> {
        let piece = Self::new(Kind::Facet, points.to_vec())?;
        let corners = points.len();
        if corners < 3 || is_on_a_line(points[0], points[1], points[2]) {
            return Err(PieceError::Flat { corners });
        }
        flat_and_convex(points)?;
        Ok(piece)
    }

    /// The convex solid round some points, at most 64.
    ///
    /// # Errors
    /// When a point is not finite, there are too many, or they lie in a plane.
    pub fn solid(points: &[Vec3]) -> Result<Self, PieceError> {
        let mut piece = Self::new(Kind::Solid, points.to_vec())?;
        piece.faces = faces_round(points);
        if piece.faces.is_empty() {
            return Err(PieceError::Flat { corners: points.len() });
        }
        Ok(piece)
    }
}

/// The triangles of the convex solid round `points`, or none if all lie in a
/// plane: grown point by point from a first tetrahedron. Each further point
/// takes away the triangles it sees and is joined to the edges round them, so
/// the solid is closed whatever the rounding.
fn faces_round(points: &[Vec3]) -> Vec<u8> {
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

/// Four points that are not in a plane: far apart, far from their line, and far
/// from their plane.
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

/// A piece as a level keeps it: its points and faces are in the level's pools.
#[derive(Clone, Debug)]
pub(super) struct Stored {
    kind: Kind,
    radius: f32,
    points: (u32, u32),
    faces: (u32, u32),
    pub(super) layers: Layers,
    pub(super) tag: TagOf,
    /// Whether it is a box along the axes, in two dimensions.
    is_block: bool,
}

/// A tag but for the piece's number, which is its place.
#[derive(Clone, Copy, Debug)]
pub(super) struct TagOf {
    surface: SurfaceId,
    pub(super) carrier: Option<CarrierId>,
    one_way: bool,
}

impl TagOf {
    pub(super) fn of(self, number: usize) -> Tag {
        Tag {
            piece: PieceId(number as u32),
            surface: self.surface,
            carrier: self.carrier,
            one_way: self.one_way,
        }
    }
}

impl Stored {
    /// Moves the points and faces of `piece` into the pools.
    pub(super) fn new<V: Vector>(piece: &Piece<V>, points: &mut Vec<V>, faces: &mut Vec<u8>) -> Self {
        let point_start = points.len() as u32;
        let face_start = faces.len() as u32;
        points.extend_from_slice(&piece.points);
        faces.extend_from_slice(&piece.faces);
        Self {
            kind: piece.kind,
            radius: piece.radius,
            points: (point_start, points.len() as u32),
            faces: (face_start, faces.len() as u32),
            layers: piece.layers,
            tag: TagOf { surface: piece.surface, carrier: piece.carrier, one_way: piece.one_way },
            is_block: is_block(piece.kind, &piece.points),
        }
    }

    /// Adds it to a sum.
    pub(super) fn add_to(&self, sum: &mut Summer) {
        let Self { kind, radius, points, faces, layers, tag, is_block: _ } = *self;
        let TagOf { surface, carrier, one_way } = tag;
        (points, faces, layers, surface, carrier, one_way).hash(sum);
        kind.hash(sum);
        sum.number(radius);
    }

    /// The piece again.
    pub(super) fn piece<V: Vector>(&self, points: &[V], faces: &[u8]) -> Piece<V> {
        Piece {
            kind: self.kind,
            points: self.points(points).to_vec(),
            faces: faces[self.faces.0 as usize..self.faces.1 as usize].to_vec(),
            radius: self.radius,
            surface: self.tag.surface,
            layers: self.layers,
            carrier: self.tag.carrier,
            one_way: self.tag.one_way,
        }
    }

    pub(super) fn points<'a, V>(&self, pool: &'a [V]) -> &'a [V] {
        &pool[self.points.0 as usize..self.points.1 as usize]
    }

    pub(super) fn shape<'a, V: Vector>(&self, points: &'a [V], faces: &'a [u8]) -> Shape<'a, V> {
        self.shape_of(self.points(points), faces)
    }

    /// The corners of a box along the axes, in two dimensions.
    #[inline]
    pub(super) fn block<V: Vector>(&self, points: &[V]) -> Option<(V, V)> {
        let first = self.points.0 as usize;
        if self.is_block { Some((points[first], points[first + 2])) } else { None }
    }

    /// The shape with `points` in place of its own.
    pub(super) fn shape_of<'a, V: Vector>(&self, points: &'a [V], faces: &'a [u8]) -> Shape<'a, V> {
        self.kind.shape(self.radius, points, &faces[self.faces.0 as usize..self.faces.1 as usize])
    }
}

/// Returns true for the outline of a box along the axes, from its lowest and leftmost corner on.
fn is_block<V: Vector>(kind: Kind, points: &[V]) -> bool {
    let &[a, b, c, d] = points else { return false };
    let [x, y] = [0, 1].map(|axis| move |point: V| point.component(axis));
    let turns = y(a) == y(b) && x(b) == x(c) && y(c) == y(d) && x(d) == x(a);
    kind == Kind::Polygon && turns && x(a) < x(c) && y(a) < y(c)
}

/// Returns true if three corners span no area: less than a ten-millionth of their longest side,
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
                // {n/m} with a common factor is a simpler outline, gone round as often.
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

    /// Whether each edge of a face is run through the other way by another.
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
