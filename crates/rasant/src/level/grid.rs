//! The grid whose cells stand for coordinates in the indices of a level.

use crate::space::{Bounds, Vector};

/// A box in cells of the grid.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Cells {
    pub least: [i16; 3],
    pub most: [i16; 3],
}

/// A grid of 65,535 cells along the longest side of the whole index. Points that coincide are in
/// the same cell, so boxes become slightly too large, never too small.
#[derive(Clone, Copy, Debug)]
pub(super) struct Grid<V> {
    centre: V,
    cells_a_metre: f32,
}

impl<V: Vector> Grid<V> {
    pub fn over(all: &Bounds<V>) -> Self {
        let half = longest_side(all) * 0.5;
        let cells_a_metre = if half > 0.0 { f32::from(i16::MAX) / half } else { 0.0 };
        Self { centre: all.centre(), cells_a_metre }
    }

    /// Returns true if there are cells for all of these bounds.
    pub fn covers(&self, bounds: &Bounds<V>) -> bool {
        let most = V::splat(f32::from(i16::MAX));
        let [low, high] = [bounds.min, bounds.max].map(|point| (point - self.centre) * self.cells_a_metre);
        self.cells_a_metre > 0.0 && (-most).all_at_most(low) && high.all_at_most(most)
    }

    #[inline]
    pub fn cells(&self, bounds: &Bounds<V>) -> Cells {
        let cell = |point: V| ((point - self.centre) * self.cells_a_metre).to_array().map(cell);
        Cells { least: cell(bounds.min), most: cell(bounds.max) }
    }
}

/// The cell of a coordinate that is counted in cells. The lowest cell is never returned, because it
/// is below all others; coordinates beyond the ends are in the last cell.
#[inline]
fn cell(coordinate: f32) -> i16 {
    let most = f32::from(i16::MAX);
    // Truncation merges the two cells around 0, and keeps the order as rounding does.
    coordinate.clamp(-most, most) as i16
}

pub(super) fn longest_side<V: Vector>(bounds: &Bounds<V>) -> f32 {
    let side = |axis| bounds.max.component(axis) - bounds.min.component(axis);
    (0..V::DIMENSION).map(side).fold(0.0, f32::max)
}

/// The lowest bit of each of eight bytes, side by side.
#[inline]
pub(super) fn lowest_bits(bytes: [u8; 8]) -> u32 {
    /// Moves the lowest bit of byte `n` to bit `56 + n`.
    const GATHER: u64 = 0x0102_0408_1020_4080;
    (u64::from_le_bytes(bytes).wrapping_mul(GATHER) >> 56) as u32
}
