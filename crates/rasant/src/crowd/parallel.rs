//! The work of a tick on several threads.

use alloc::vec::Vec;
use rayon::prelude::*;

use crate::contact::Geometry;
use crate::level::Surroundings;

use super::tick::{Lane, Pass, Workers};

/// The threads of the present `rayon` pool.
pub(super) struct Parallel;

/// The least number of bodies or pairs that one thread takes at once.
const LEAST: usize = 32;

impl<S: Sync> Workers<S> for Parallel {
    fn wave<V: Geometry>(&self, lanes: &mut [Lane<'_, V>], wave: u16, pass: &Pass<V>, surroundings: &S)
    where
        S: Surroundings<V>,
    {
        let numbered = lanes.par_iter_mut().enumerate().with_min_len(LEAST);
        let due = numbered.filter(|(number, _)| pass.is_in_wave(*number, wave));
        due.for_each(|(number, lane)| lane.step(number, pass, surroundings));
    }

    fn map<T: Send>(&self, count: usize, work: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
        (0..count).into_par_iter().with_min_len(LEAST).map(work).collect()
    }
}
