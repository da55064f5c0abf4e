//! Every number a designer turns.
//!
//! [`Tuning`] is plain data: read a field, write a field. The same numbers are
//! reached by path through [`Tuning::get`] and [`Tuning::set`], and described
//! by [`KNOBS`], which files, documents and sliders are made from.

mod knob;

use knob::knobs;
pub use knob::{Knob, KnobError, Range, Unit};

knobs! {
    /// How a body moves. Lengths in metres, times in seconds, angles in
    /// radians.
    Tuning;

    /// Walking on firm footing.
    walk: Walk {
        /// Top speed along the surface while steering fully.
        speed: "walk.speed", MetresPerSecond, 4.0, -100.0..100.0;
        /// Time from standing to top speed.
        reach_time: "walk.reach_time", Seconds, 0.1, 0.0..10.0;
        /// Time from top speed to standing after letting go.
        stop_time: "walk.stop_time", Seconds, 0.08, 0.0..10.0;
        /// Time from top speed to standing while steering the other way.
        turn_time: "walk.turn_time", Seconds, 0.06, 0.0..10.0;
    }

    /// Moving sideways while aloft.
    air: Air {
        /// Time from no sideways speed to the walking speed, aloft.
        reach_time: "air.reach_time", Seconds, 0.25, 0.0..10.0;
        /// Time from the walking speed to none after letting go, aloft.
        stop_time: "air.stop_time", Seconds, 0.6, 0.0..60.0;
        /// Time from the walking speed to none while steering the other way, aloft.
        turn_time: "air.turn_time", Seconds, 0.2, 0.0..10.0;
    }

    /// Jumping from firm footing, and the gravity that goes with it.
    jump: Jump {
        /// How high the feet rise above the take-off.
        height: "jump.height", Metres, 1.8, 0.01..100.0;
        /// Time from the take-off to the top. Height and time give the
        /// gravity, 2 × height / time², and the take-off speed, 2 × height / time.
        rise_time: "jump.rise_time", Seconds, 0.36, 0.02..10.0;
        /// How many times heavier gravity is for the rest of a rise once jump is
        /// let go: 1 lets every jump reach its height.
        cut_gravity: "jump.cut_gravity", Factor, 1.0, 1.0..50.0;
        /// Coyote time: how long after walking off an edge a jump still takes off.
        coyote_time: "jump.coyote_time", Seconds, 0.08, 0.0..2.0;
        /// Jump buffer: how long a press in the air waits for the ground.
        buffer_time: "jump.buffer_time", Seconds, 0.1, 0.0..2.0;
        /// How many more jumps there are in the air; given back only by landing.
        air_count: "jump.air_count", Factor, 0.0, 0.0..9.0;
        /// How high a jump in the air rises.
        air_height: "jump.air_height", Metres, 1.2, 0.01..100.0;
    }

    /// Falling.
    fall: Fall {
        /// Gravity on the way down, as a factor on that of the rise.
        gravity: "fall.gravity", Factor, 1.0, 0.05..20.0;
        /// The speed that falling never exceeds.
        terminal_speed: "fall.terminal_speed", MetresPerSecond, 25.0, 0.1..1000.0;
    }

    /// Slopes, steps and crests.
    slope: Slope {
        /// The largest angle of a surface that can be walked and stood on.
        steepest: "slope.steepest_deg", Degrees, 50.0, 0.0..85.0;
        /// The highest step that walking takes without a jump.
        curb: "slope.curb", Metres, 0.3, 0.0..10.0;
        /// How far down the feet follow the ground over a crest or down stairs.
        cling: "slope.cling", Metres, 0.35, 0.0..10.0;
    }
}

impl Tuning {
    /// Gravity as a rate in m/s²: 2 × jump height / rise time².
    ///
    /// Both that and [`Self::take_off_speed`] follow from uniform
    /// acceleration, v = g·t and h = g·t²/2.
    #[must_use]
    pub fn gravity(&self) -> f32 {
        2.0 * self.jump.height / (self.jump.rise_time * self.jump.rise_time)
    }

    /// The upward speed at the take-off of a jump in m/s: 2 × height / rise
    /// time.
    #[must_use]
    pub fn take_off_speed(&self) -> f32 {
        2.0 * self.jump.height / self.jump.rise_time
    }

    /// The upward speed at the take-off of a jump in the air, in m/s: that which
    /// the rise's gravity uses up over its height, √(2·g·h).
    #[must_use]
    pub fn air_take_off_speed(&self) -> f32 {
        (2.0 * self.gravity() * self.jump.air_height).sqrt()
    }

    /// The value of the knob at `path`, in the unit of files (angles in
    /// degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob.
    pub fn get(&self, path: &str) -> Result<f32, KnobError> {
        let knob = Self::knob(path)?;
        let mut copy = *self;
        let slot = copy.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        Ok(*slot / knob.unit.in_code())
    }

    /// Turns the knob at `path` to `value`, in the unit of files (angles in
    /// degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob, [`KnobError::Range`]
    /// when the value is outside its range or NaN. The tuning is then as it
    /// was.
    pub fn set(&mut self, path: &str, value: f32) -> Result<(), KnobError> {
        let knob = Self::knob(path)?;
        if !(knob.least..=knob.most).contains(&value) {
            return Err(KnobError::Range { knob: *knob, value });
        }
        let slot = self.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        *slot = value * knob.unit.in_code();
        Ok(())
    }

    /// The description of the knob at `path`.
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob.
    pub fn knob(path: &str) -> Result<&'static Knob, KnobError> {
        KNOBS.iter().find(|knob| knob.path == path).ok_or_else(|| KnobError::Unknown(path.to_owned()))
    }

    /// Whether every knob is within its range.
    ///
    /// # Errors
    /// [`KnobError::Range`] naming the first that is not.
    pub fn checked(&self) -> Result<(), KnobError> {
        KNOBS.iter().try_for_each(|knob| {
            let value = self.get(knob.path)?;
            // Degrees to radians and back may be off in the last place.
            let slack = knob.most.abs() * 4.0 * f32::EPSILON;
            if (knob.least - slack..=knob.most + slack).contains(&value) {
                Ok(())
            } else {
                Err(KnobError::Range { knob: *knob, value })
            }
        })
    }
}
