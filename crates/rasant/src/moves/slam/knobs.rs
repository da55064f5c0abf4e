//! The knobs of the slam.

crate::knobs! {
    /// Slamming down from the air, by one of the game's own actions. The body stops in the air for
    /// a moment, moves straight down until its feet are on ground, and stays there for another
    /// moment.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Slam {
        /// Switches the move on: it can slam.
        enabled: "slam.enabled", Switch, 1.0, 0.0..1.0;
        /// The number of the game's own action that begins it, 0 to 27; -1 for no slam.
        action: "slam.action", Count, -1.0, -1.0..27.0;
        /// The time of hanging in the air before it.
        startup: "slam.startup", Seconds, 0.12, 0.0..10.0;
        /// The downward speed.
        speed: "slam.speed", MetresPerSecond, 20.0, 0.1..1000.0;
        /// The time on the ground after it.
        recovery: "slam.recovery", Seconds, 0.25, 0.0..10.0;
    }
}
