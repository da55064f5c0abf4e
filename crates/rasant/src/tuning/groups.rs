//! The groups of knobs that belong to no move.

crate::knobs! {
    /// Walking on firm footing.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct WalkKnobs {
        /// Top speed along the surface while steering fully. Below 0, steering leads
        /// the opposite way in every move; up and down, and turning, stay.
        speed: "walk.speed", MetresPerSecond, 4.0, -100.0..100.0;
        /// Time from standing to the walking speed. Running and crouching speed
        /// up at the same rate.
        reach_time: "walk.reach_time", Seconds, 0.1, 0.0..10.0;
        /// Time from the walking speed to standing after letting go.
        stop_time: "walk.stop_time", Seconds, 0.08, 0.0..10.0;
        /// Time from the walking speed to standing while steering the other way.
        turn_time: "walk.turn_time", Seconds, 0.06, 0.0..10.0;
        /// A factor on the speed backwards, against the look.
        back: "walk.back", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed sideways to the look.
        side: "walk.side", Factor, 1.0, 0.0..2.0;
        /// The distance between two footfalls; 0 for none.
        stride: "walk.stride", Metres, 0.8, 0.0..10.0;
    }
}

crate::knobs! {
    /// Running: while run is held.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct RunKnobs {
        /// Top speed while running.
        speed: "run.speed", MetresPerSecond, 6.5, 0.0..100.0;
    }
}

crate::knobs! {
    /// Crouching: while crouch is held on the ground, and for as long as there
    /// is no room to stand up.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct CrouchKnobs {
        /// How high the hull is then; that of the hull itself, or more, for none.
        height: "crouch.height", Metres, 1.1, 0.01..100.0;
        /// Top speed while crouching.
        speed: "crouch.speed", MetresPerSecond, 2.0, 0.0..100.0;
    }
}

crate::knobs! {
    /// Moving sideways while airborne.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct AirKnobs {
        /// Time from no sideways speed to the walking speed, airborne.
        reach_time: "air.reach_time", Seconds, 0.25, 0.0..10.0;
        /// Time from the walking speed to none after letting go, airborne.
        stop_time: "air.stop_time", Seconds, 0.6, 0.0..60.0;
        /// Time from the walking speed to none while steering the other way, airborne.
        turn_time: "air.turn_time", Seconds, 0.2, 0.0..10.0;
        /// Whether a speed above the top speed is kept while steering along it.
        /// Off sheds it at the rate of the stop time.
        keep: "air.keep", Switch, 0.0, 0.0..1.0;
    }
}

crate::knobs! {
    /// Falling.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct FallKnobs {
        /// Gravity on the way down, as a factor on that of the rise.
        gravity: "fall.gravity", Factor, 1.0, 0.05..20.0;
        /// The speed that falling never exceeds.
        terminal_speed: "fall.terminal_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// Slower than this up or down, gravity is that of the top; 0 for none.
        apex_speed: "fall.apex_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Gravity round the top, as a factor on that of the rise: on the way up while
        /// jump is held, on the way down always. A jump still rises to its height: its
        /// take-off is slower for it.
        apex_gravity: "fall.apex_gravity", Factor, 1.0, 0.05..1.0;
        /// Gravity of a fast fall, while steering down or holding crouch on the
        /// way down, as a factor on that of the fall.
        fast_gravity: "fall.fast_gravity", Factor, 1.0, 1.0..50.0;
        /// The terminal speed of a fast fall; below the usual one, that counts.
        fast_speed: "fall.fast_speed", MetresPerSecond, 0.0, 0.0..1000.0;
    }
}

crate::knobs! {
    /// Slopes, steps and crests.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct SlopeKnobs {
        /// The largest angle of a surface that can be walked and stood on. A round
        /// foot over an edge rests on the ground behind it while it touches the edge
        /// at no more than this angle; further out it slips off, unless ground to
        /// stand on is no further below than the feet step up or follow down.
        max_angle: "slope.max_angle_deg", Degrees, 50.0, 0.0..85.0;
        /// The highest step that walking takes without a jump.
        step_height: "slope.step_height", Metres, 0.3, 0.0..10.0;
        /// How far down the feet follow the ground over a crest or down stairs. A fast body
        /// leaves a crest where the ground over the next 1/60 s is further below.
        ground_snap: "slope.ground_snap", Metres, 0.35, 0.0..10.0;
        /// A factor on the speed straight up the steepest slope; less of it on
        /// gentler ones, by the rise a metre along the slope.
        uphill: "slope.uphill", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed straight down the steepest slope; less of it on gentler ones.
        downhill: "slope.downhill", Factor, 1.0, 0.0..2.0;
        /// The speed along ground too steep to stand on that sliding down it
        /// never exceeds.
        slide_speed: "slope.slide_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// The half-life in which what is drawn follows a step, up or down; 0 for at
        /// once. The body itself is on the step at once.
        soften_time: "slope.soften_time", Seconds, 0.05, 0.0..2.0;
        /// How much of the air's steering works while sliding down steep ground.
        slide_steer: "slope.slide_steer", Factor, 1.0, 0.0..1.0;
    }
}

crate::knobs! {
    /// Riding on carriers.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct RideKnobs {
        /// The acceleration of the ground, downward or in a stop on the way up,
        /// beyond which feet let go of it; 0 for never. That is the default: riders
        /// keep to a lift that falls faster than they would, and one that stops
        /// dead throws nobody. With the acceleration of gravity, the first is left
        /// behind, and the second throws its rider with the velocity it had; less than
        /// that of the fall counts as that.
        let_go: "ride.let_go", MetresPerSecondSquared, 0.0, 0.0..10000.0;
    }
}

crate::knobs! {
    /// Turning the body.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct TurnKnobs {
        /// How quickly it turns; 0 at once. Steering by the body turns at this
        /// rate, and at 180° a second where it is 0.
        rate: "turn.rate_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The time in which half of a turn is done, for turning softly; 0 for
        /// none.
        half_life: "turn.half_life", Seconds, 0.0, 0.0..10.0;
        /// Walking where one looks: past this pitch. Below 0 it is past it
        /// downward.
        gaze: "turn.gaze_deg", Degrees, -25.0, -89.0..89.0;
    }
}
