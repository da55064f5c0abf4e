//! The knobs of the ledge.

crate::knobs! {
    /// Taking hold of edges from the air, hanging from them and climbing up.
    ///
    /// Takes hold of the edge of a wall that it falls past while it is steered into it.
    /// Hanging, jump or steering up climbs, steering away with jump jumps off, and crouch or
    /// steering down lets go.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Ledge {
        /// How far before a wall hands reach for its edge; 0 for no ledges.
        reach: "ledge.reach", Metres, 0.0, 0.0..10.0;
        /// How high above the feet the edge is that hands hold.
        height: "ledge.height", Metres, 1.6, 0.05..100.0;
        /// How far above or below the hands an edge may be to be taken.
        window: "ledge.window", Metres, 0.25, 0.01..10.0;
        /// How quickly the body comes to hang.
        pull_speed: "ledge.pull_speed", MetresPerSecond, 6.0, 0.1..100.0;
        /// The speed along it, where it is steered sideways; 0 for not at all. Only in space.
        along_speed: "ledge.along_speed", MetresPerSecond, 1.2, 0.0..100.0;
        /// How long climbing up takes. Where there is only room to crouch, the body climbs into a
        /// crouch.
        climb_time: "ledge.climb_time", Seconds, 0.4, 0.01..10.0;
        /// How high a jump off it rises; 0 for none.
        jump_height: "ledge.jump_height", Metres, 1.2, 0.0..100.0;
        /// The speed away from the wall of that jump.
        jump_away: "ledge.jump_away", MetresPerSecond, 4.0, 0.0..100.0;
        /// How long after letting go it takes no other.
        wait_time: "ledge.wait_time", Seconds, 0.3, 0.0..10.0;
    }
}
