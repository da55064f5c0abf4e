//! A clock for a fixed timestep: frames in, ticks out.
//!
//! A display draws frames of uneven length; the simulation advances in ticks of one fixed length.
//! [`Clock`] turns the first into the second. The blend is what is left over after the last whole
//! tick: how far the frame is from that tick toward the next, for drawing between the two.

use core::time::Duration;

use thiserror::Error;

/// A fixed-timestep clock.
///
/// ```
/// use rasant::Clock;
/// use std::time::Duration;
///
/// let mut clock = Clock::new(60)?;
/// let frame = clock.frame(Duration::from_millis(40));
/// assert_eq!(frame.ticks, 2);
/// assert!((frame.blend - 0.4).abs() < 1e-6);
/// # Ok::<(), rasant::clock::ClockError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Clock {
    rate: u32,
    /// Time not yet ticked, in units of 1 / (`rate` × 10⁹) seconds, so that no rate loses a
    /// fraction of a nanosecond per tick.
    pending: u64,
    /// The sum of the time of all frames.
    elapsed: Duration,
    most: u32,
}

/// The ticks that a frame needs.
///
/// ```
/// use core::time::Duration;
/// use rasant::Clock;
///
/// let due = Clock::new(60)?.frame(Duration::from_millis(40));
/// assert_eq!((due.ticks, (due.blend * 10.0).round()), (2, 4.0)); // 2.4 ticks
/// for time in due.times() {
///     println!("a tick that ends at {time:?}");
/// }
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FrameTicks {
    /// The number of ticks to simulate now.
    pub ticks: u32,
    /// How far the frame is from the last tick to the next, in [0, 1).
    pub blend: f32,
    /// Time that was discarded because the frame needed more ticks than the cap.
    pub dropped: Duration,
    /// The time of the last tick since the clock began: in this frame, or in an earlier one.
    pub last: Duration,
    /// Ticks per second.
    rate: u32,
}

impl FrameTicks {
    /// The time of each tick since the clock began, for a [`Sampler`](crate::Sampler). Ticks are
    /// evenly spaced, and the frame is later than its last tick by the blend.
    ///
    /// ```
    /// use rasant::{Bindings, Clock, Sampler};
    /// use std::time::Duration;
    ///
    /// let (mut clock, mut sampler) = (Clock::new(50)?, Sampler::new(Bindings::default()));
    /// clock.frame(Duration::from_millis(30));
    /// let frame = clock.frame(Duration::from_millis(31));
    /// let times: Vec<u128> = frame.times().map(|time| time.as_millis()).collect();
    /// assert_eq!(times, [40, 60]);
    /// let intents: Vec<_> = frame.times().map(|time| sampler.tick(time)).collect();
    /// assert_eq!(intents.len(), 2);
    /// # Ok::<(), rasant::clock::ClockError>(())
    /// ```
    pub fn times(&self) -> impl Iterator<Item = Duration> + use<> {
        let Self { ticks, last, rate, .. } = *self;
        (0..ticks).rev().map(move |before| {
            last.saturating_sub(Duration::from_nanos(u64::from(before) * NANOS / u64::from(rate)))
        })
    }
}

/// Why a clock cannot be made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum ClockError {
    /// The tick rate is 0 or above 10,000.
    #[error("found {0} ticks per second, expected 1 to 10000")]
    Rate(u32),
}

const NANOS: u64 = 1_000_000_000;

impl Clock {
    /// A clock with `rate` ticks per second, 1 to 10,000. It catches up at most a quarter of a
    /// second in one frame.
    ///
    /// # Errors
    /// [`ClockError::Rate`] outside that range.
    pub fn new(rate: u32) -> Result<Self, ClockError> {
        if !(1..=10_000).contains(&rate) {
            return Err(ClockError::Rate(rate));
        }
        Ok(Self { rate, pending: 0, elapsed: Duration::ZERO, most: (rate / 4).max(1) })
    }

    /// The same clock with at most `ticks` per frame. 0 counts as 1.
    #[must_use]
    pub fn with_max_ticks(mut self, ticks: u32) -> Self {
        self.most = ticks.max(1);
        self
    }

    /// Ticks per second.
    #[must_use]
    pub fn rate(&self) -> u32 {
        self.rate
    }

    /// The length of a tick in seconds.
    #[must_use]
    pub fn dt(&self) -> f32 {
        1.0 / self.rate as f32
    }

    /// The sum of the time of all frames.
    pub(crate) fn elapsed(&self) -> Duration {
        self.elapsed
    }

    /// Adds the time since the last frame. Returns the ticks that are due.
    pub fn frame(&mut self, elapsed: Duration) -> FrameTicks {
        self.elapsed = self.elapsed.saturating_add(elapsed);
        let elapsed = u64::try_from(elapsed.as_nanos()).unwrap_or(u64::MAX);
        self.pending = self.pending.saturating_add(elapsed.saturating_mul(u64::from(self.rate)));
        let due = self.pending / NANOS;
        let ticks = due.min(u64::from(self.most));
        let given_up = (due - ticks) * NANOS;
        self.pending %= NANOS;
        FrameTicks {
            ticks: ticks as u32,
            blend: (self.pending as f64 / NANOS as f64).min(1.0 - f64::from(f32::EPSILON)) as f32,
            dropped: Duration::from_nanos(given_up / u64::from(self.rate)),
            last: self.elapsed.saturating_sub(Duration::from_nanos(self.pending / u64::from(self.rate))),
            rate: self.rate,
        }
    }
}
