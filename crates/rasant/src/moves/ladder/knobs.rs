//! The knobs of the ladder.

crate::knobs! {
    /// Ladders: the body grabs a ladder, climbs it, and lets go.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Ladder {
        /// Switches the move on: it can grab ladders.
        enabled: "ladder.enabled", Switch, 1.0, 0.0..1.0;
        /// The speed of climbing up.
        up_speed: "ladder.up_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed of climbing down.
        down_speed: "ladder.down_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed of sliding down, while steering down with crouch held.
        slide_speed: "ladder.slide_speed", MetresPerSecond, 6.0, 0.0..100.0;
        /// The height of a jump off a ladder; with 0, jump only lets go.
        jump_height: "ladder.jump_height", Metres, 0.8, 0.0..100.0;
        /// The time after letting go before a ladder can be grabbed again.
        wait_time: "ladder.wait_time", Seconds, 0.25, 0.0..10.0;
        /// Restores the jumps in the air on a ladder.
        gives_jumps: "ladder.gives_jumps", Switch, 1.0, 0.0..1.0;
    }
}
