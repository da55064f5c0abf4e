//! One trial at many tick rates, and how much the runs differ.
//!
//! A run at another rate differs for two reasons: its inputs are seen at other instants, and its
//! motion is divided into other ticks. To separate them, each rate is compared with two runs at a
//! fine rate that is a multiple of all: one with inputs as that rate sees them, which shows the
//! effect of the motion's ticks, and one with inputs as they come.

use serde::Serialize;
use thiserror::Error;

use crate::compare::{distance, telling, what};
use crate::played::Run;
use crate::run::run_at;
use crate::trial::{Inputs, MOST_TICKS, Trial};

/// The default rates, in ticks per second.
pub const USUAL: [u32; 7] = [24, 30, 48, 60, 80, 120, 240];

/// The smallest fine rate.
const FINE: u32 = 240;
/// The largest.
const FINEST: u32 = 9600;

/// Why a trial cannot be run at many rates.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum RatesError {
    /// Its inputs are a recording, which has a rate of its own.
    #[error("the trial's inputs are a tape, which has a fixed rate: expected a script")]
    Tape,
    /// No fine rate is a multiple of all.
    #[error(
        "the rates have no common multiple up to {FINEST} ticks per second: expected rates like 24, 30, 60, 120"
    )]
    Multiple,
    /// The trial is too long for the fine rate.
    #[error(
        "{0:.0} s at {1} ticks/s are more than {MOST_TICKS} ticks: expected a shorter trial, or coarser rates"
    )]
    Long(f32, u32),
}

/// One trial at many tick rates.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Rates {
    /// The title of the trial.
    pub title: String,
    /// The fine rate that each is compared with.
    pub fine: u32,
    /// One row per rate.
    pub rows: Vec<RateRow>,
}

/// A trial at one rate, compared with the fine one.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct RateRow {
    /// Ticks per second.
    pub rate: u32,
    /// The final position, in metres.
    pub end_m: Vec<f32>,
    /// The largest height above the start, in metres; `None` for a body without up.
    pub highest_m: Option<f32>,
    /// The total difference to the fine rate.
    pub all: Apart,
    /// The difference because inputs are seen at other instants.
    pub by_inputs: Apart,
    /// The difference because of the motion's ticks.
    pub by_motion: Apart,
}

/// The differences between two runs.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Apart {
    /// The largest distance at the same time, in metres.
    pub path_m: f32,
    /// The time of that distance, in seconds.
    pub path_at_s: f64,
    /// The distance between their ends, in metres.
    pub end_m: f32,
    /// The difference between their largest heights, in metres.
    pub highest_m: f32,
    /// The largest difference between the times of their events, in seconds; `None` if the events
    /// differ.
    pub events_s: Option<f64>,
}

/// Runs a trial at many rates.
///
/// # Errors
/// A [`RatesError`] when its inputs are a tape, or the rates do not fit.
pub fn rates(trial: &Trial, rates: &[u32]) -> Result<Rates, RatesError> {
    if matches!(trial.inputs, Inputs::Tape(_)) {
        return Err(RatesError::Tape);
    }
    let fine = fine_rate(rates)?;
    if f64::from(trial.duration) * f64::from(fine) > MOST_TICKS as f64 {
        return Err(RatesError::Long(trial.duration, fine));
    }
    let best = run_at(trial, fine, 1);
    let rows = rates.iter().map(|&rate| {
        let own = run_at(trial, rate, 1);
        let seen_so = run_at(trial, fine, (fine / rate) as usize);
        RateRow {
            rate,
            end_m: own.summary.end_m.clone(),
            highest_m: own.summary.highest_m,
            all: apart(&own, &best),
            by_inputs: apart(&seen_so, &best),
            by_motion: apart(&own, &seen_so),
        }
    });
    Ok(Rates { title: trial.title.clone(), fine, rows: rows.collect() })
}

/// The smallest common multiple that is fine, and finer than each rate, so that none is compared
/// with itself.
fn fine_rate(rates: &[u32]) -> Result<u32, RatesError> {
    let fits = |fine: &u32| rates.iter().all(|rate| fine.is_multiple_of(*rate) && fine > rate);
    (FINE..=FINEST).find(fits).ok_or(RatesError::Multiple)
}

fn apart(a: &Run, b: &Run) -> Apart {
    let end = |run: &Run| run.trace.rows.last().map_or([0.0; 3], |row| row.position);
    let (ours, theirs): (Vec<_>, Vec<_>) = (telling(&a.trace).collect(), telling(&b.trace).collect());
    let same = ours.len() == theirs.len() && ours.iter().zip(&theirs).all(|(a, b)| what(a.1) == what(b.1));
    let most = ours.iter().zip(&theirs).map(|(a, b)| (a.0.time - b.0.time).abs()).fold(0.0, f64::max);
    let (path_m, path_at_s) = furthest(a, b);
    Apart {
        path_m,
        path_at_s,
        end_m: distance(end(a), end(b)),
        highest_m: a.summary.highest_m.zip(b.summary.highest_m).map_or(0.0, |(a, b)| (a - b).abs()),
        events_s: same.then_some(most),
    }
}

/// The largest distance between two runs at the ticks that both have, and its time.
fn furthest(a: &Run, b: &Run) -> (f32, f64) {
    let (coarse, fine) = if a.trace.rate <= b.trace.rate { (a, b) } else { (b, a) };
    let ratio = (fine.trace.rate / coarse.trace.rate) as usize;
    let pairs = coarse.trace.rows.iter().zip(fine.trace.rows.iter().step_by(ratio));
    pairs.fold((0.0, 0.0), |(most, at), (row, other)| {
        let apart = distance(row.position, other.position);
        if apart > most { (apart, row.time) } else { (most, at) }
    })
}

impl Apart {
    /// Distances below this, in metres, count as none.
    const SAME: f32 = 1e-3;

    /// Returns true if the paths agree to the millimetre, and the events to within a tick of the
    /// rate.
    #[must_use]
    pub fn is_same(&self, rate: u32) -> bool {
        let tick = 1.01 / f64::from(rate);
        self.path_m < Self::SAME && self.events_s.is_some_and(|apart| apart <= tick)
    }
}

impl RateRow {
    /// The cause of the difference, in words.
    #[must_use]
    pub fn verdict(&self) -> &'static str {
        let (inputs, motion) = (self.by_inputs.path_m, self.by_motion.path_m);
        if self.all.is_same(self.rate) {
            "the same"
        } else if self.by_motion.is_same(self.rate) || motion < 0.1 * inputs {
            "when inputs are seen"
        } else if inputs < 0.1 * motion {
            "the motion's ticks"
        } else {
            "both"
        }
    }
}
