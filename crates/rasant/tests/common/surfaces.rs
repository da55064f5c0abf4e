//! Closed curved surfaces, from functions of a place.
#![allow(dead_code, missing_docs)]

use std::sync::OnceLock;

use fast_surface_nets::ndshape::{ConstShape, ConstShape3u32};
use fast_surface_nets::{SurfaceNetsBuffer, surface_nets};
use rasant::glam::Vec3;

const CELLS: u32 = 48;
type Grid = ConstShape3u32<CELLS, CELLS, CELLS>;

/// Corners, and triangles of them.
type Mesh = (Vec<Vec3>, Vec<[u32; 3]>);

/// Which surface: where a function of a place in a cube of side 2 is 0.
#[derive(Clone, Copy, Debug)]
pub enum Surface {
    Blob,
    Knot,
    Cave,
    Shell,
    Folds,
}

pub const SURFACES: [Surface; 5] =
    [Surface::Blob, Surface::Knot, Surface::Cave, Surface::Shell, Surface::Folds];

impl Surface {
    fn at(self, p: Vec3) -> f32 {
        let waves = |p: Vec3, f: f32| (p.x * f).sin() + (p.y * f * 1.13).sin() + (p.z * f * 0.87).sin();
        let blob = p.length() - 0.62 - 0.07 * waves(p + Vec3::splat(0.3), 7.0);
        match self {
            Self::Blob => blob,
            Self::Shell => blob.abs() - 0.05,
            Self::Cave => (-blob).max(p.abs().max_element() - 0.93),
            Self::Folds => {
                let q = p * 6.0;
                let gyroid = q.x.sin() * q.y.cos() + q.y.sin() * q.z.cos() + q.z.sin() * q.x.cos();
                (gyroid.abs() - 0.45).max(p.abs().max_element() - 0.93)
            }
            Self::Knot => {
                let along = (0..160).map(|i| {
                    let t = i as f32 / 160.0 * std::f32::consts::TAU;
                    let r = 0.52 + 0.2 * (3.0 * t).cos();
                    Vec3::new(r * (2.0 * t).cos(), 0.24 * (3.0 * t).sin(), r * (2.0 * t).sin())
                });
                along.map(|q| (p - q).length()).fold(f32::MAX, f32::min) - 0.13
            }
        }
    }

    /// Returns the mesh scaled to a width in metres.
    pub fn mesh(self, width: f32) -> Mesh {
        static MADE: [OnceLock<Mesh>; 5] = [const { OnceLock::new() }; 5];
        let (corners, triangles) = MADE[self as usize].get_or_init(|| self.unit_mesh());
        (corners.iter().map(|&corner| corner * (0.5 * width)).collect(), triangles.clone())
    }

    /// A mesh 2 m wide.
    fn unit_mesh(self) -> Mesh {
        let place = |[x, y, z]: [f32; 3]| Vec3::new(x, y, z) * (2.0 / (CELLS - 1) as f32) - Vec3::ONE;
        let values: Vec<f32> =
            (0..Grid::SIZE).map(|i| self.at(place(Grid::delinearize(i).map(|cell| cell as f32)))).collect();
        let mut surface = SurfaceNetsBuffer::default();
        surface_nets(&values, &Grid {}, [0; 3], [CELLS - 1; 3], &mut surface);
        let corners = surface.positions.iter().map(|&at| place(at)).collect();
        (corners, surface.indices.chunks_exact(3).map(|of| [of[0], of[1], of[2]]).collect())
    }
}
