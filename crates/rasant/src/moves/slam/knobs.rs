//! The knobs of the slam.

crate::knobs! {
    /// Slamming down from the air, by one of the game's own actions.
    ///
    /// Hangs in the air for a moment, goes straight down until the feet are on ground, and
    /// holds the body there for another.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Slam {
        /// Which of the game's own actions begins it, 0 to 27; -1 for no slam.
        action: "slam.action", Count, -1.0, -1.0..27.0;
        /// How long it hangs in the air before.
        startup: "slam.startup", Seconds, 0.12, 0.0..10.0;
        /// The speed down.
        speed: "slam.speed", MetresPerSecond, 20.0, 0.1..1000.0;
        /// How long the ground keeps the body after.
        recovery: "slam.recovery", Seconds, 0.25, 0.0..10.0;
    }
}
