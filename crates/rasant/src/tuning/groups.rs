//! The groups of knobs that belong to no move.

crate::knobs! {
    /// Walking on firm footing.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct WalkKnobs {
        /// Top speed along the surface with full steering. Below 0, steering is reversed in every
        /// move, except up and down and turning.
        speed: "walk.speed", MetresPerSecond, 4.0, -100.0..100.0;
        /// Seconds from standing to the walking speed. Running and crouching accelerate at the same
        /// rate.
        reach_time: "walk.reach_time", Seconds, 0.1, 0.0..10.0;
        /// Seconds from the walking speed to standing after letting go.
        stop_time: "walk.stop_time", Seconds, 0.08, 0.0..10.0;
        /// Seconds from the walking speed to standing while steering backwards.
        turn_time: "walk.turn_time", Seconds, 0.06, 0.0..10.0;
        /// A factor on the speed backwards, relative to the look.
        back: "walk.back", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed sideways, relative to the look.
        side: "walk.side", Factor, 1.0, 0.0..2.0;
        /// The distance between two footfalls; 0 for no footfalls.
        stride: "walk.stride", Metres, 0.8, 0.0..10.0;
        /// The half-life with which the lean of the pose follows the acceleration; 0 for at once.
        lean_time: "walk.lean_time", Seconds, 0.08, 0.0..2.0;
    }
}

crate::knobs! {
    /// Running: while run is held.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct RunKnobs {
        /// Switches running on. Off, the body walks while run is held.
        enabled: "run.enabled", Switch, 1.0, 0.0..1.0;
        /// Top speed while running.
        speed: "run.speed", MetresPerSecond, 6.5, 0.0..100.0;
    }
}

crate::knobs! {
    /// Crouching: while crouch is held on the ground, and as long as there is no room to stand up.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct CrouchKnobs {
        /// Switches crouching on.
        enabled: "crouch.enabled", Switch, 1.0, 0.0..1.0;
        /// The height of the crouched hull. No crouching if it is at least that of the hull itself.
        height: "crouch.height", Metres, 1.1, 0.01..100.0;
        /// Top speed while crouching.
        speed: "crouch.speed", MetresPerSecond, 2.0, 0.0..100.0;
    }
}

crate::knobs! {
    /// Moving sideways while airborne.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct AirKnobs {
        /// Seconds from no sideways speed to the walking speed in the air.
        reach_time: "air.reach_time", Seconds, 0.25, 0.0..10.0;
        /// Seconds from the walking speed to none after letting go in the air.
        stop_time: "air.stop_time", Seconds, 0.6, 0.0..60.0;
        /// Seconds from the walking speed to none while steering backwards in the air.
        turn_time: "air.turn_time", Seconds, 0.2, 0.0..10.0;
        /// Keeps a speed above the top speed while steering along it. Off, the excess is braked at
        /// the rate of the stop time.
        keep: "air.keep", Switch, 0.0, 0.0..1.0;
    }
}

crate::knobs! {
    /// Falling.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct FallKnobs {
        /// Gravity while falling, as a factor on that of the rise.
        gravity: "fall.gravity", Factor, 1.0, 0.05..20.0;
        /// The highest speed of a fall.
        terminal_speed: "fall.terminal_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// Gravity is that of the apex while the vertical speed is below this; 0 for never.
        apex_speed: "fall.apex_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Gravity around the apex, as a factor on that of the rise: while rising only with jump
        /// held, while falling always. The take-off is slower for it, so that a jump still
        /// reaches its height.
        apex_gravity: "fall.apex_gravity", Factor, 1.0, 0.05..1.0;
        /// Gravity of a fast fall, while steering down or holding crouch during a fall, as a
        /// factor on that of the fall.
        fast_gravity: "fall.fast_gravity", Factor, 1.0, 1.0..50.0;
        /// The terminal speed of a fast fall. Ignored if below the usual one.
        fast_speed: "fall.fast_speed", MetresPerSecond, 0.0, 0.0..1000.0;
        /// The half-life with which the strength of a landing fades from the pose.
        landing_time: "fall.landing_time", Seconds, 0.12, 0.0..2.0;
    }
}

crate::knobs! {
    /// Slopes, steps and crests.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct SlopeKnobs {
        /// The steepest surface that can be walked and stood on. A round foot over an edge rests on
        /// the ground behind it while it touches the edge at no more than this angle. Further out
        /// it slips off, unless there is ground no further below than the feet step up or snap
        /// down.
        max_angle: "slope.max_angle_deg", Degrees, 50.0, 0.0..85.0;
        /// The highest step that walking climbs without a jump.
        step_height: "slope.step_height", Metres, 0.3, 0.0..10.0;
        /// How far down the feet follow the ground over a crest or down stairs. A fast body leaves
        /// a crest where the ground drops by more over the next 1/60 s.
        ground_snap: "slope.ground_snap", Metres, 0.35, 0.0..10.0;
        /// A factor on the speed straight up the steepest slope. On gentler slopes it applies in
        /// proportion to the rise per metre.
        uphill: "slope.uphill", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed straight down the steepest slope. On gentler slopes it applies in
        /// proportion.
        downhill: "slope.downhill", Factor, 1.0, 0.0..2.0;
        /// The highest speed of sliding down ground that is too steep to stand on.
        slide_speed: "slope.slide_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// The half-life with which the drawn body follows a step up or down; 0 for at once. The
        /// body itself is on the step at once.
        soften_time: "slope.soften_time", Seconds, 0.05, 0.0..2.0;
        /// The fraction of the steering in the air that applies while sliding down steep ground.
        slide_steer: "slope.slide_steer", Factor, 1.0, 0.0..1.0;
    }
}

crate::knobs! {
    /// Riding on carriers.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct RideKnobs {
        /// The downward acceleration of the ground (falling, or braking while it rises) beyond which
        /// the feet leave it; 0, the default, for never. By default riders stay on a lift that
        /// falls faster than they would, and a lift that stops abruptly does not throw its riders. With the
        /// acceleration of gravity, the first leaves its rider behind, and the second throws its
        /// rider with the velocity that it had. Less than the gravity of the fall counts as that.
        let_go: "ride.let_go", MetresPerSecondSquared, 0.0, 0.0..10000.0;
    }
}

crate::knobs! {
    /// Turning the body.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct TurnKnobs {
        /// The turning rate; 0 for at once. Steering by the body's own axes turns at this rate, or
        /// at 180° per second if it is 0.
        rate: "turn.rate_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The time in which half of a turn is done, for turning smoothly; 0 for none.
        half_life: "turn.half_life", Seconds, 0.0, 0.0..10.0;
        /// The pitch past which a body walks where the player looks. Below 0, past it means further
        /// down.
        gaze: "turn.gaze_deg", Degrees, -25.0, -89.0..89.0;
    }
}
