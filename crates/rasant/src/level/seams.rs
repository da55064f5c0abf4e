//! The edges of a mesh's triangles that are not edges of its surface.
//!
//! The triangles that meet at an edge divide the space around it into sectors. Seen from within a
//! sector of at most half a turn, the edge is hollow or flat: a hull there touches a triangle
//! before it touches the edge. From a wider sector the edge sticks out and must be felt. Each
//! triangle hides the edge, or not, on the side of each sector that it bounds. A hull in a wide
//! sector is on that side of the plane of at least one of its two triangles, so one of them feels
//! the edge for both. A side that is judged by one triangle alone would leave holes.
//!
//! A duplicate of a triangle, in any orientation, lies on it and bounds no sector of its own. A
//! triangle without an area is no neighbour.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use alloc::vec;
use alloc::vec::Vec;
use core::cmp::Ordering;
use glam::{DVec3, Vec3};

use super::piece::Seams;

/// Smaller angles are flat, in radians: 0.006 degrees.
const FLAT: f64 = 1e-4;
/// The smallest cosine between the normals at a gentle crest: 25 degrees.
const GENTLE: f64 = 0.906;
/// A triangle has no area if its height is below this fraction of its longest edge.
const THIN: f64 = 1e-7;

/// Returns for each triangle the edges that are hidden from the front and from behind.
pub(super) fn find(vertices: &[Vec3], triangles: &[[u32; 3]]) -> Vec<Seams> {
    let mut seams = vec![Seams::NONE; triangles.len()];
    let mut edges = edges_of(triangles);
    edges.retain(|edge| normal_of(vertices, triangles[edge.triangle as usize]).is_some());
    edges.sort_unstable_by_key(|edge| (edge.ends, edge.triangle, edge.number));
    for shared in edges.chunk_by(|a, b| a.ends == b.ends) {
        if shared.len() > 1 {
            hide(vertices, triangles, shared, &mut seams);
        }
    }
    seams
}

/// An edge of a triangle.
#[derive(Clone, Copy)]
struct Edge {
    /// The smaller of its vertices, and the other.
    ends: (u32, u32),
    triangle: u32,
    /// Which edge of the triangle.
    number: u8,
}

fn edges_of(triangles: &[[u32; 3]]) -> Vec<Edge> {
    let of = |(triangle, corners): (usize, &[u32; 3])| {
        let corners = *corners;
        (0..3u8).map(move |number| {
            let (a, b) = (corners[usize::from(number)], corners[usize::from(number + 1) % 3]);
            Edge { ends: (a.min(b), a.max(b)), triangle: triangle as u32, number }
        })
    };
    triangles.iter().enumerate().flat_map(of).filter(|edge| edge.ends.0 != edge.ends.1).collect()
}

fn at(vertices: &[Vec3], corner: u32) -> DVec3 {
    vertices[corner as usize].as_dvec3()
}

/// The normal of a triangle, or `None` if it has no area.
fn normal_of(vertices: &[Vec3], corners: [u32; 3]) -> Option<DVec3> {
    let [a, b, c] = corners.map(|corner| at(vertices, corner));
    let across = (b - a).cross(c - a);
    let longest = (b - a).length_squared().max((c - b).length_squared()).max((a - c).length_squared());
    (across.length() > THIN * longest).then(|| across.normalize())
}

/// A triangle that meets others at an edge.
struct Leaf {
    edge: Edge,
    /// The angle at which it leaves the edge, from 0 to a whole turn.
    angle: f64,
    /// True if its front is toward greater angles.
    front_is_ahead: bool,
    normal: DVec3,
}

/// Hides the sides of an edge that several triangles share.
fn hide(vertices: &[Vec3], triangles: &[[u32; 3]], shared: &[Edge], seams: &mut [Seams]) {
    use core::f64::consts::{PI, TAU};
    let Some(mut leaves) = leaves_of(vertices, triangles, shared) else { return };
    leaves.sort_by(|a, b| a.angle.total_cmp(&b.angle));
    // The gaps to the next leaf that does not coincide with this one, and to the last such leaf.
    let count = leaves.len();
    let apart = |from: f64, to: f64| (to - from).rem_euclid(TAU);
    let is_other = |gap: &f64| (FLAT..TAU - FLAT).contains(gap);
    let ahead = |place: usize| {
        let next = (1..count).map(|steps| leaves[(place + steps) % count].angle);
        next.map(|other| apart(leaves[place].angle, other)).find(is_other).unwrap_or(TAU)
    };
    let behind = |place: usize| {
        let last = (1..count).map(|steps| leaves[(place + count - steps) % count].angle);
        last.map(|other| apart(other, leaves[place].angle)).find(is_other).unwrap_or(TAU)
    };
    let crest = gentle_crest(&leaves, ahead(0));
    for (place, leaf) in leaves.iter().enumerate() {
        let (ahead, behind) = (ahead(place), behind(place));
        let (front, back) = if leaf.front_is_ahead { (ahead, behind) } else { (behind, ahead) };
        let number = usize::from(leaf.edge.number);
        let own = &mut seams[leaf.edge.triangle as usize];
        let (front, back) = match crest {
            // The edge is felt once, by one of the two, from wherever it is touched.
            Some(felt) => (felt != place, felt != place),
            None => (front <= PI + FLAT, back <= PI + FLAT),
        };
        if front {
            *own = own.with_front(number);
        }
        if back {
            *own = own.with_back(number);
        }
    }
}

fn leaves_of(vertices: &[Vec3], triangles: &[[u32; 3]], shared: &[Edge]) -> Option<Vec<Leaf>> {
    let ends = shared[0].ends;
    let from = at(vertices, ends.0);
    let axis = (at(vertices, ends.1) - from).try_normalize()?;
    let right = axis.any_orthonormal_vector();
    let up = axis.cross(right);
    let leaf = |&edge: &Edge| {
        let corners = triangles[edge.triangle as usize];
        let far = corners[(usize::from(edge.number) + 2) % 3];
        let arm = at(vertices, far) - from;
        let away = (arm - axis * arm.dot(axis)).try_normalize()?;
        let normal = normal_of(vertices, corners)?;
        let angle = libm::atan2(away.dot(up), away.dot(right));
        Some(Leaf {
            edge,
            angle: if angle < 0.0 { angle + core::f64::consts::TAU } else { angle },
            front_is_ahead: normal.dot(axis.cross(away)) > 0.0,
            normal,
        })
    };
    Some(shared.iter().filter_map(leaf).collect())
}

/// The triangle that feels a crest with a small angle: the one that points further up, or else the
/// first. A flat seam is no crest.
fn gentle_crest(leaves: &[Leaf], gap: f64) -> Option<usize> {
    let [a, b] = leaves else { return None };
    let bend = (gap - core::f64::consts::PI).abs();
    // Both have the same orientation: the front of one continues as that of the other.
    let same_front = a.front_is_ahead != b.front_is_ahead;
    let gentle =
        same_front && a.normal.dot(b.normal) >= GENTLE && bend > FLAT && bend < core::f64::consts::FRAC_PI_2;
    let front_gap = if a.front_is_ahead { gap } else { core::f64::consts::TAU - gap };
    let second = match b.normal.y.total_cmp(&a.normal.y) {
        Ordering::Equal => b.edge.triangle < a.edge.triangle,
        higher => higher == Ordering::Greater,
    };
    (gentle && front_gap > core::f64::consts::PI).then(|| usize::from(second))
}
