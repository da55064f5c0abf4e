//! Triangles as a level needs them: without duplicates, with an area, and with equal corners merged
//! into one vertex.

use std::collections::{HashMap, HashSet};

use i_triangle::float::triangulatable::Triangulatable;
use rasant::glam::{DVec3, Vec3};

/// The maximum number of triangles of a level's files.
pub(super) const MOST: usize = 5_000_000;

#[derive(Default)]
pub(super) struct Triangles {
    pub vertices: Vec<Vec3>,
    pub corners: Vec<[u32; 3]>,
    pub degenerate: usize,
    pub duplicates: usize,
    places: HashMap<[u32; 3], u32>,
    seen: HashSet<[u32; 3]>,
}

impl Triangles {
    pub fn add(&mut self, corners: [Vec3; 3]) {
        if is_flat(corners) {
            self.degenerate += 1;
            return;
        }
        let corners = corners.map(|corner| self.vertex(corner));
        let mut sorted = corners;
        sorted.sort_unstable();
        if self.seen.insert(sorted) {
            self.corners.push(corners);
        } else {
            self.duplicates += 1;
        }
    }

    fn vertex(&mut self, place: Vec3) -> u32 {
        // Adding zero turns −0 into 0.
        let place = place + Vec3::ZERO;
        let next = self.vertices.len() as u32;
        let number = *self.places.entry(place.to_array().map(f32::to_bits)).or_insert(next);
        if number == next {
            self.vertices.push(place);
        }
        number
    }

    /// Returns true if they are the whole surface of a convex body.
    pub fn is_convex(&self) -> bool {
        /// The rounding error of a corner, as a fraction of the body's size.
        const ROUNDING: f32 = 1e-5;
        /// The maximum number of corners of a solid.
        const MOST: usize = 64;
        if self.vertices.len() > MOST || self.corners.len() < 4 {
            return false;
        }
        let mut edges: HashMap<(u32, u32), i32> = HashMap::new();
        for [a, b, c] in &self.corners {
            for (from, to) in [(a, b), (b, c), (c, a)] {
                *edges.entry((*from.min(to), *from.max(to))).or_default() += 1;
            }
        }
        let size = self.vertices.iter().map(|vertex| vertex.distance(self.vertices[0])).fold(0.0, f32::max);
        let at = |corner: u32| self.vertices[corner as usize];
        // All corners on one side of each triangle, whatever its orientation.
        let is_outer = |&[a, b, c]: &[u32; 3]| {
            let normal = (at(b) - at(a)).cross(at(c) - at(a)).normalize_or_zero();
            let heights = self.vertices.iter().map(|vertex| (vertex - at(a)).dot(normal));
            let (low, high) =
                heights.fold((0f32, 0f32), |(low, high), height| (low.min(height), high.max(height)));
            high.min(-low) <= ROUNDING * size
        };
        edges.values().all(|count| *count == 2) && self.corners.iter().all(is_outer)
    }
}

/// Triangles that fill a face with any outline that is nearly flat.
pub(super) fn cut(face: &[Vec3]) -> Vec<[Vec3; 3]> {
    let count = face.len();
    let next = |i: usize| face[(i + 1) % count].as_dvec3();
    // Newell's normal, that of the mean plane.
    let across = (0..count).map(|i| face[i].as_dvec3().cross(next(i))).sum::<DVec3>();
    let normal = across.normalize_or_zero();
    let turn = |i: usize| (next(i) - face[i].as_dvec3()).cross(next(i + 1) - next(i)).dot(normal);
    let size = across.length();
    if count == 3 || normal == DVec3::ZERO || (0..count).all(|i| turn(i) >= -1e-9 * size) {
        return (2..count).map(|last| [face[0], face[last - 1], face[last]]).collect();
    }
    let (right, up) = normal.any_orthonormal_pair();
    let on_plane = |corner: Vec3| [corner.as_dvec3().dot(right), corner.as_dvec3().dot(up)];
    let outline: Vec<[f64; 2]> = face.iter().copied().map(on_plane).collect();
    let cut = outline.triangulate_as::<i64>().to_triangulation::<u32>();
    let nearest = |&corner: &u32| {
        let [x, y] = cut.points[corner as usize];
        let distance = |of: &Vec3| {
            let [u, v] = on_plane(*of);
            (u - x).hypot(v - y)
        };
        face.iter().copied().min_by(|a, b| distance(a).total_cmp(&distance(b))).unwrap_or(Vec3::ZERO)
    };
    cut.indices.chunks_exact(3).map(|of| [nearest(&of[0]), nearest(&of[1]), nearest(&of[2])]).collect()
}

/// Returns true if a triangle has no area: its height is below this fraction of its longest edge.
fn is_flat(corners: [Vec3; 3]) -> bool {
    const THIN: f64 = 1e-7;
    let [a, b, c] = corners.map(Vec3::as_dvec3);
    let longest = (b - a).length_squared().max((c - b).length_squared()).max((a - c).length_squared());
    (b - a).cross(c - a).length() <= THIN * longest
}
