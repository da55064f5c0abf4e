//! The knobs of the glide.

crate::knobs! {
    /// Gliding: the body falls slowly while jump is held. If jump has been held since the take-off,
    /// the glide begins at the top.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Glide {
        /// Switches the move on: it can glide.
        enabled: "glide.enabled", Switch, 1.0, 0.0..1.0;
        /// The speed of the fall; 0 for no gliding.
        fall_speed: "glide.fall_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Gravity up to that speed, as a factor on that of the fall.
        gravity: "glide.gravity", Factor, 0.5, 0.01..1.0;
        /// The time from the terminal speed to zero when a faster fall is braked.
        brake_time: "glide.brake_time", Seconds, 0.4, 0.0..10.0;
        /// A factor on the speed sideways.
        pace: "glide.pace", Factor, 1.0, 0.0..4.0;
        /// A factor on the times in which steering changes the velocity; slower above 1.
        times: "glide.times", Factor, 1.5, 0.01..20.0;
        /// The longest time of gliding between two landings; 0 for no limit.
        max_time: "glide.max_time", Seconds, 0.0, 0.0..600.0;
    }
}
