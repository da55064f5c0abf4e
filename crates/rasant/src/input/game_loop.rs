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
        Self { clock, sampler, now: Duration::ZERO, blend: 0.0, dropped: Duration::ZERO }
    }

    /// Adds a device event with its time.
    pub fn event(&mut self, time: Duration, event: DeviceEvent) {
        self.sampler.event(time, event);
    }

    /// Begins a frame at a time. Returns the intent of each tick that is due, in order. Intents
    /// that the caller does not take are lost, as is time that was discarded. A time before the
    /// last frame's counts as that of the last frame.
    pub fn frame(&mut self, now: Duration) -> impl Iterator<Item = Intent> + use<'_> {
        let due = self.due(now);
        due.times().map(|time| self.sampler.tick(time))
    }

    fn due(&mut self, now: Duration) -> FrameTicks {
        let due = self.clock.frame(now.saturating_sub(self.now));
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
