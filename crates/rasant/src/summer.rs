//! Checksums over the bits of numbers, the same on every platform.

use core::hash::Hasher;

use crate::space::Vector;

/// A checksum in four lanes. Each lane uses the step of FNV-1a (G. Fowler, L. C. Noll and K.-P. Vo,
/// 1991) on 8 bytes at a time, rotated so that high bits move down. The lanes are mixed by the last
/// step of MurmurHash3 (A. Appleby, 2011).
pub(crate) struct Summer {
    /// Lane 0 is the next to be used.
    lanes: [u64; 4],
    /// A pending half word.
    half: Option<u32>,
}

const START: u64 = 0xcbf2_9ce4_8422_2325;
const PRIME: u64 = 0x0000_0100_0000_01b3;

impl Summer {
    pub fn new() -> Self {
        Self { lanes: [START, START ^ 1, START ^ 2, START ^ 3], half: None }
    }

    #[inline(always)] // so that the lanes stay in registers
    pub fn word(&mut self, word: u64) {
        let [lane, second, third, fourth] = self.lanes;
        self.lanes = [second, third, fourth, (lane ^ word).wrapping_mul(PRIME).rotate_left(29)];
    }

    #[inline(always)]
    pub fn number(&mut self, number: f32) {
        let bits = number.to_bits();
        match self.half.take() {
            Some(half) => self.word(u64::from(half) << 32 | u64::from(bits)),
            None => self.half = Some(bits),
        }
    }

    #[inline(always)]
    pub fn vector<V: Vector>(&mut self, vector: V) {
        vector.to_array().into_iter().take(V::DIMENSION).for_each(|part| self.number(part));
    }

    #[inline(always)]
    pub fn option<T>(&mut self, option: Option<T>, sum: impl FnOnce(&mut Self, T)) {
        self.word(u64::from(option.is_some()));
        if let Some(one) = option {
            sum(self, one);
        }
    }
}

impl Hasher for Summer {
    #[inline(always)]
    fn write(&mut self, bytes: &[u8]) {
        for part in bytes.chunks(8) {
            let mut word = [0; 8];
            word[..part.len()].copy_from_slice(part);
            self.word(u64::from_le_bytes(word));
        }
    }

    #[inline(always)]
    fn write_u8(&mut self, number: u8) {
        self.word(number.into());
    }

    #[inline(always)]
    fn write_u16(&mut self, number: u16) {
        self.word(number.into());
    }

    #[inline(always)]
    fn write_u32(&mut self, number: u32) {
        self.word(number.into());
    }

    #[inline(always)]
    fn write_usize(&mut self, number: usize) {
        self.word(number as u64);
    }

    #[inline(always)]
    fn write_isize(&mut self, number: isize) {
        self.word(number as u64);
    }

    fn finish(&self) -> u64 {
        let half = self.half.map_or(0, u64::from);
        let all = self.lanes.iter().fold(half, |all, &lane| mixed(all ^ lane));
        mixed(all)
    }
}

fn mixed(mut word: u64) -> u64 {
    word = (word ^ word >> 33).wrapping_mul(0xff51_afd7_ed55_8ccd);
    word = (word ^ word >> 33).wrapping_mul(0xc4ce_b9fe_1a85_ec53);
    word ^ word >> 33
}
