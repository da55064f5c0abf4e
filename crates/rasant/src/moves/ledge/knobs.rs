//! The knobs of the ledge.

crate::knobs! {
    /// Grabbing ledges from the air, hanging from them and climbing up.
    ///
    /// The body grabs the edge of a wall that it falls past while it is steered into the wall. When
    /// it hangs, jump or steering up climbs, jump while steering away jumps off, and crouch or
    /// steering down lets go.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Ledge {
        /// Switches the move on: it can grab ledges.
        enabled: "ledge.enabled", Switch, 1.0, 0.0..1.0;
        /// How far in front of a wall hands reach its edge; 0 for no ledges.
        reach: "ledge.reach", Metres, 0.0, 0.0..10.0;
        /// The height of the held edge above the feet.
        height: "ledge.height", Metres, 1.6, 0.05..100.0;
        /// How far above or below the hands an edge may be to be grabbed.
        window: "ledge.window", Metres, 0.25, 0.01..10.0;
        /// The speed at which the body moves to its hanging position.
        pull_speed: "ledge.pull_speed", MetresPerSecond, 6.0, 0.1..100.0;
        /// The speed along the ledge while steering sideways; 0 for none. Only in three dimensions.
        along_speed: "ledge.along_speed", MetresPerSecond, 1.2, 0.0..100.0;
        /// The duration of a climb. If there is only room to crouch, the body climbs into a crouch.
        climb_time: "ledge.climb_time", Seconds, 0.4, 0.01..10.0;
        /// The height of a jump off a ledge; 0 for none.
        jump_height: "ledge.jump_height", Metres, 1.2, 0.0..100.0;
        /// The speed away from the wall of that jump.
        jump_away: "ledge.jump_away", MetresPerSecond, 4.0, 0.0..100.0;
        /// The time after letting go before a ledge can be grabbed again.
        wait_time: "ledge.wait_time", Seconds, 0.3, 0.0..10.0;
    }
}
