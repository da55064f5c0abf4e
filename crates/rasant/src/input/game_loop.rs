//! The clock and the sampler of a game, with one time for both.

use core::time::Duration;

use crate::clock::{Clock, ClockError, FrameTicks};

use super::{Bindings, DeviceEvent, Intent, Sampler};

/// A game's loop: device events and frames in, ticks with their intents out.
///
/// Events and frames carry the time of one monotonic clock, counted from the creation of the loop
/// (as `start.elapsed()`). Ticks get their times on that clock, also after a stall in which more
/// time passes than the clock catches up: the first tick that ends after a press sees it. A loop
/// that counts ticks instead is late from the first stall on, by all the time that was discarded.
///
/// ```
/// use rasant::{Actions, Bindings, DeviceEvent, GameLoop, Key, Press};
/// use std::time::Duration;
///
/// let mut game = GameLoop::new(60, Bindings::default())?;
/// // In an event handler: the time is `start.elapsed()`.
/// let space = Key::named("Space").expect("a key");
/// game.event(Duration::from_millis(20), DeviceEvent::Key(space, Press::Down));
/// // In a frame:
/// let dt = game.dt();
/// let mut jumps = 0;
/// for intent in game.frame(Duration::from_millis(50)) {
///     // level.advance(dt); body.tick(&intent, &level, dt);
///     jumps += u32::from(intent.pressed.contains(Actions::JUMP));
/// }
/// assert_eq!(jumps, 1);
/// // Draw `body.pose(game.blend())`.
/// assert!(game.blend() < 1.0 && dt > 0.0);
/// # Ok::<(), rasant::clock::ClockError>(())
/// ```
#[derive(Clone, Debug)]
pub struct GameLoop {
    clock: Clock,
    sampler: Sampler,
    /// The time of the last frame.
    now: Duration,
    blend: f32,
    dropped: Duration,
    /// Seconds of the game in a second of the clock on the wall.
    speed: f32,
    /// The time of the last tick, on the wall.
    last: Duration,
}

impl GameLoop {
    /// A loop with `rate` ticks per second, 1 to 10,000. A frame catches up at most a quarter of a
    /// second.
    ///
    /// # Errors
    /// [`ClockError::Rate`] outside that range.
    pub fn new(rate: u32, bindings: Bindings) -> Result<Self, ClockError> {
        Ok(Self::of(Clock::new(rate)?, Sampler::new(bindings)))
    }

    /// A loop from a clock that has had no frame yet, and a sampler.
    #[must_use]
    pub fn of(clock: Clock, sampler: Sampler) -> Self {
        let zero = Duration::ZERO;
        Self { clock, sampler, now: zero, blend: 0.0, dropped: zero, speed: 1.0, last: zero }
    }

    /// Makes the game faster or slower from the last frame on: 1 for real time, 0.25 for slow motion,
    /// 0 for a pause. Ticks keep their length, so that the motion is the same to the bit; there are
    /// fewer of them in a second, and a press waits for the next one. Clamped to 0 to
    /// [`Self::MAX_SPEED`]; NaN changes nothing.
    ///
    /// ```
    /// use rasant::{Bindings, GameLoop};
    /// use std::time::Duration;
    ///
    /// let mut game = GameLoop::new(60, Bindings::default())?;
    /// game.set_speed(0.5);
    /// let ticks: usize = (1..=10).map(|frame| game.frame(Duration::from_millis(100 * frame)).count()).sum();
    /// assert_eq!(ticks, 30);
    /// # Ok::<(), rasant::clock::ClockError>(())
    /// ```
    pub fn set_speed(&mut self, speed: f32) {
        if !speed.is_nan() {
            self.speed = speed.clamp(0.0, Self::MAX_SPEED);
        }
    }

    /// Seconds of the game in a second.
    #[must_use]
    pub fn speed(&self) -> f32 {
        self.speed
    }

    /// The highest speed.
    pub const MAX_SPEED: f32 = 16.0;

    /// Adds a device event with its time.
    pub fn event(&mut self, time: Duration, event: DeviceEvent) {
        self.sampler.event(time, event);
    }

    /// Begins a frame at a time. Returns the intent of each tick that is due, in order. Intents
    /// that the caller does not take are lost, as is time that was discarded. A time before the
    /// last frame's counts as that of the last frame.
    pub fn frame(&mut self, now: Duration) -> impl Iterator<Item = Intent> + use<'_> {
        let due = self.due(now);
        let (now, elapsed, speed) = (self.now, self.clock.elapsed(), self.speed);
        due.times().map(move |time| {
            let before = elapsed.saturating_sub(time);
            let before = if speed == 1.0 { before } else { scaled(before, 1.0 / f64::from(speed)) };
            // After a change of the speed, never before the last one.
            self.last = now.saturating_sub(before).max(self.last);
            self.sampler.tick(self.last)
        })
    }

    fn due(&mut self, now: Duration) -> FrameTicks {
        let elapsed = now.saturating_sub(self.now);
        let elapsed = if self.speed == 1.0 { elapsed } else { scaled(elapsed, self.speed.into()) };
        let due = self.clock.frame(elapsed);
        self.now = self.now.max(now);
        (self.blend, self.dropped) = (due.blend, due.dropped);
        due
    }

    /// How far the last frame is from its last tick to the next, from 0 to 1, for drawing between
    /// the two.
    #[must_use]
    pub fn blend(&self) -> f32 {
        self.blend
    }

    /// The time that the last frame discarded because it needed too many ticks.
    #[must_use]
    pub fn dropped(&self) -> Duration {
        self.dropped
    }

    /// The length of a tick in seconds.
    #[must_use]
    pub fn dt(&self) -> f32 {
        self.clock.dt()
    }

    /// Ticks per second.
    #[must_use]
    pub fn rate(&self) -> u32 {
        self.clock.rate()
    }

    /// The sampler, with its bindings and what is held.
    #[must_use]
    pub fn sampler(&self) -> &Sampler {
        &self.sampler
    }

    /// The sampler, for changing its bindings.
    pub fn sampler_mut(&mut self) -> &mut Sampler {
        &mut self.sampler
    }
}

/// A duration times a factor, rounded to nanoseconds.
fn scaled(duration: Duration, factor: f64) -> Duration {
    // The conversion to an integer saturates, and maps NaN to 0.
    Duration::from_nanos((duration.as_secs_f64() * factor * 1e9 + 0.5) as u64)
}
