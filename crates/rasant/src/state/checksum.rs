//! A number for all the bits of a state.
//!
//! Every number of it goes in as its bits, every name and choice as the derived
//! [`Hash`] gives them: in the order of their declaration, as whole numbers of 8 bytes.
//! Nothing of it depends on the platform. The fields are named one by one, so that none
//! can be forgotten.

use core::hash::{Hash, Hasher};

use crate::space::Vector;

use super::{
    Air, Crushed, Dashes, Footing, Gait, Hops, Jumps, LadderRest, Maneuver, Memories, Mode, Owner, Plan,
    Span, State, Untold, WallKick, WallTouch, Zones,
};

/// Sums words in four lanes, each by the step of FNV-1a (G. Fowler, L. C. Noll and
/// K.-P. Vo, 1991) on 8 bytes at a time, turned so that high bits come down; and mixes
/// them by the last step of MurmurHash3 (A. Appleby, 2011).
pub(super) struct Summer {
    /// The one whose turn it is first.
    lanes: [u64; 4],
    /// Half a word that waits for the other.
    half: Option<u32>,
}

const START: u64 = 0xcbf2_9ce4_8422_2325;
const PRIME: u64 = 0x0000_0100_0000_01b3;

impl Summer {
    pub fn new() -> Self {
        Self { lanes: [START, START ^ 1, START ^ 2, START ^ 3], half: None }
    }

    #[inline(always)] // so that the lanes stay in registers
    fn word(&mut self, word: u64) {
        let [lane, second, third, fourth] = self.lanes;
        self.lanes = [second, third, fourth, (lane ^ word).wrapping_mul(PRIME).rotate_left(29)];
    }

    #[inline(always)]
    fn number(&mut self, number: f32) {
        let bits = number.to_bits();
        match self.half.take() {
            Some(half) => self.word(u64::from(half) << 32 | u64::from(bits)),
            None => self.half = Some(bits),
        }
    }

    #[inline(always)]
    fn vector<V: Vector>(&mut self, vector: V) {
        vector.to_array().into_iter().take(V::DIMENSION).for_each(|part| self.number(part));
    }

    #[inline(always)]
    fn option<T>(&mut self, option: Option<T>, sum: impl FnOnce(&mut Self, T)) {
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

pub(super) fn checksum<V: Vector>(state: &State<V>) -> u64 {
    let mut sum = Summer::new();
    let State {
        position,
        remainder,
        velocity,
        ground_velocity,
        up,
        right,
        facing,
        mode,
        velocity_owner,
        facing_owner,
        footing,
        gait,
        gait_age,
        air,
        jumps,
        passing,
        ahead,
        crushed,
        against_wall,
        against_ceiling,
        wall,
        kick,
        lowered,
        crouched,
        ladder,
        ladder_rest,
        maneuver,
        cooldown,
        dashes,
        hops,
        memories,
        rides,
        asked_height,
        uncounted,
        root_motion,
        untold,
        from_above,
        zones,
        checkpoint,
        home_up,
        stride,
        spin,
        behind,
        rolled,
    } = *state;
    for vector in [position, remainder, velocity, ground_velocity, up, right, facing, checkpoint, home_up] {
        sum.vector(vector);
    }
    let Jumps { wait, air: jumps_left } = jumps;
    let LadderRest { left } = ladder_rest;
    for number in [ahead, lowered, asked_height, uncounted, stride, spin, behind, rolled, wait, left] {
        sum.number(number);
    }
    let Footing { kind, normal, point, surface, carrier, piece, one_way } = footing;
    sum.vector(normal);
    sum.vector(point);
    let choices: (Mode, Owner, Owner, Gait, Option<Crushed>) =
        (mode, velocity_owner, facing_owner, gait, crushed);
    (choices, kind, surface, carrier, piece, jumps_left).hash(&mut sum);
    let flags = [one_way, against_wall, against_ceiling, crouched, from_above];
    sum.write_u8(flags.iter().fold(0, |all, &flag| all << 1 | u8::from(flag)));
    let counted: (Span, Span, Option<Air>, Dashes, Hops) = (gait_age, cooldown, air, dashes, hops);
    counted.hash(&mut sum);
    let held: (Memories, Option<Untold>, Zones) = (memories, untold, zones);
    (passing, ladder, rides, held).hash(&mut sum);
    sum.option(root_motion, Summer::vector);
    sum.option(wall, |sum, WallTouch { normal, surface, away_for }| {
        sum.vector(normal);
        sum.number(away_for);
        surface.hash(sum);
    });
    sum.option(kick, |sum, WallKick { normal, in_a_row, back_for }| {
        sum.vector(normal);
        sum.number(back_for);
        sum.write_u8(in_a_row);
    });
    sum.option(maneuver, |sum, Maneuver { kind, plan, direction, origin, age }| {
        sum.vector(direction);
        sum.vector(origin);
        sum.number(age);
        kind.hash(sum);
        plan_of(sum, &plan);
    });
    sum.finish()
}

fn plan_of(sum: &mut Summer, plan: &Plan) {
    let Plan {
        startup,
        active,
        recovery,
        cooldown,
        distance,
        curve,
        turn_rate,
        end_speed,
        height,
        arc,
        gravity,
        locks,
    } = *plan;
    for number in [startup, active, recovery, cooldown, distance, curve, turn_rate, end_speed, height, arc] {
        sum.number(number);
    }
    (gravity, locks).hash(sum);
}
