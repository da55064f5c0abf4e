//! Outlines of shapes, for drawing.

use alloc::vec::Vec;

use glam::Vec3;

use crate::space::Vector;

use super::piece::{Shape, faces_round};

/// The number of sides of a whole circle.
const SIDES: usize = 24;

impl<V: Vector> Shape<'_, V> {
    /// Calls `seen` with the outlines of the shape, for drawing: in two dimensions with its one
    /// outline (a segment has two points), in three with its faces. What is round is drawn with 24
    /// sides around; round edges and corners of solids are drawn with flat ones. The faces of a mesh
    /// are its triangles.
    ///
    /// ```
    /// use rasant::Piece;
    /// use rasant::glam::{Vec2, Vec3};
    ///
    /// let log = Piece::capsule(Vec2::ZERO, Vec2::X * 3.0, 0.5)?;
    /// log.shape().each_outline(|points| assert_eq!(points.len(), 26));
    /// let mut faces = 0;
    /// let crate_like = Piece::rounded_block(Vec3::ZERO, Vec3::ONE, 0.1)?;
    /// crate_like.shape().each_outline(|_| faces += 1);
    /// assert!(faces > 6);
    /// # Ok::<(), rasant::level::PieceError>(())
    /// ```
    pub fn each_outline(&self, mut seen: impl FnMut(&[V])) {
        match *self {
            Self::Ball { centre, radius } if V::DIMENSION == 2 => seen(&round_all(&[centre], radius)),
            Self::Capsule { ends, radius } if V::DIMENSION == 2 => seen(&round_all(&ends, radius)),
            Self::Polygon { points, rounding } if rounding > 0.0 => seen(&round_all(points, rounding)),
            Self::Polygon { points, .. } => seen(points),
            Self::Segment { ends, .. } => seen(&ends),
            Self::Ball { centre, radius } => each_face_of_capsule(deep(centre), Vec3::ZERO, radius, seen),
            Self::Capsule { ends: [from, to], radius } => {
                each_face_of_capsule(deep(from), deep(to) - deep(from), radius, seen);
            }
            Self::Solid { points, faces, rounding } if rounding > 0.0 => {
                each_rounded_face(points, faces, rounding, seen);
            }
            Self::Facet { .. } | Self::Solid { .. } | Self::Mesh { .. } => self.each_face(seen),
        }
    }
}

fn deep<V: Vector>(point: V) -> Vec3 {
    Vec3::from_array(point.to_array())
}

/// The outline around discs at the corners of a convex outline that runs counter-clockwise.
fn round_all<V: Vector>(corners: &[V], radius: f32) -> Vec<V> {
    let count = corners.len();
    let step = core::f32::consts::TAU / SIDES as f32;
    let mut points = Vec::new();
    for (place, &corner) in corners.iter().enumerate() {
        let before = corner - corners[(place + count - 1) % count];
        let after = corners[(place + 1) % count] - corner;
        // From the outside of the edge before to that of the edge after.
        let (out, turn) = match (before.direction(), after.direction()) {
            (Some(before), Some(after)) => {
                let turn = if count == 2 { core::f32::consts::PI } else { before.turn_to(after) };
                (before.turned(-core::f32::consts::FRAC_PI_2), turn)
            }
            _ => (V::RIGHT, core::f32::consts::TAU - step),
        };
        let parts = libm::ceilf(turn / step - 1e-3).max(1.0);
        for part in 0..=parts as usize {
            points.push(corner + out.turned(turn * part as f32 / parts) * radius);
        }
    }
    points
}

/// The faces of everything within `radius` of a line.
fn each_face_of_capsule<V: Vector>(from: Vec3, along: Vec3, radius: f32, mut seen: impl FnMut(&[V])) {
    const RINGS: usize = SIDES / 2;
    let axis = along.try_normalize().unwrap_or(Vec3::Y);
    let right = Vec3::right_for(axis, Vec3::X);
    let ahead = axis.cross(right);
    // Rings from the start to the end, the middle one twice: once around each end.
    let at = |ring: usize, side: usize| {
        let (ring, end) = if ring > RINGS / 2 { (ring - 1, along) } else { (ring, Vec3::ZERO) };
        let (sin, cos) = libm::sincosf(core::f32::consts::PI * ring as f32 / RINGS as f32);
        let (across, around) = libm::sincosf(core::f32::consts::TAU * side as f32 / SIDES as f32);
        from + end - axis * (cos * radius) + (right * around + ahead * across) * (sin * radius)
    };
    for ring in 0..=RINGS {
        for side in 0..SIDES {
            let next = (side + 1) % SIDES;
            let corners = [at(ring, side), at(ring, next), at(ring + 1, next), at(ring + 1, side)];
            let is_flat = ring == RINGS / 2 && along == Vec3::ZERO;
            if !is_flat {
                seen(&corners.map(|corner| V::from_array(corner.to_array())));
            }
        }
    }
}

/// The faces of a solid, moved out, and flat ones between them.
fn each_rounded_face<V: Vector>(points: &[V], faces: &[u8], rounding: f32, mut seen: impl FnMut(&[V])) {
    let mut moved: Vec<Vec3> = Vec::new();
    let mut rest = faces;
    while let Some((&count, tail)) = rest.split_first() {
        let (face, tail) = tail.split_at(usize::from(count));
        let corners: Vec<Vec3> = face.iter().map(|&corner| deep(points[usize::from(corner)])).collect();
        let across = (2..corners.len()).map(|i| (corners[i - 1] - corners[0]).cross(corners[i] - corners[0]));
        let out = across.sum::<Vec3>().normalize_or_zero() * rounding;
        moved.extend(corners.iter().map(|&corner| corner + out));
        rest = tail;
    }
    moved.sort_by(|a, b| a.to_array().partial_cmp(&b.to_array()).unwrap_or(core::cmp::Ordering::Equal));
    moved.dedup();
    let around = if moved.len() <= usize::from(u8::MAX) { faces_round(&moved) } else { Vec::new() };
    if around.is_empty() {
        return Shape::Solid { points, faces, rounding: 0.0 }.each_face(seen);
    }
    let moved: Vec<V> = moved.iter().map(|point| V::from_array(point.to_array())).collect();
    Shape::Solid { points: &moved, faces: &around, rounding: 0.0 }.each_face(&mut seen);
}
