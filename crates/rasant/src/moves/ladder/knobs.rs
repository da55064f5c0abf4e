//! The knobs of the ladder.

crate::knobs! {
    /// Ladders.
    ///
    /// Takes hold of a ladder, climbs it, and lets go.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Ladder {
        /// The speed up a ladder.
        up_speed: "ladder.up_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed down a ladder.
        down_speed: "ladder.down_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed of sliding down it, steering down with crouch held.
        slide_speed: "ladder.slide_speed", MetresPerSecond, 6.0, 0.0..100.0;
        /// How high a jump off a ladder rises; 0 only lets go.
        jump_height: "ladder.jump_height", Metres, 0.8, 0.0..100.0;
        /// How long after letting go a ladder is not taken hold of again.
        wait_time: "ladder.wait_time", Seconds, 0.25, 0.0..10.0;
        /// Whether a ladder gives back the jumps in the air.
        gives_jumps: "ladder.gives_jumps", Switch, 1.0, 0.0..1.0;
    }
}
