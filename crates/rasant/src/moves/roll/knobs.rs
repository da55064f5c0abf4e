//! The knobs of the roll.

crate::knobs! {
    /// A roll along the ground, by one of the game's own actions.
    ///
    /// Begins a roll when its action is pressed on the ground.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Roll {
        /// Which of the game's own actions begins it, 0 to 27; -1 for no roll.
        action: "roll.action", Count, -1.0, -1.0..27.0;
        /// How far it goes.
        distance: "roll.distance", Metres, 3.0, 0.0..1000.0;
        /// How long it drives.
        active: "roll.active", Seconds, 0.4, 0.01..10.0;
        /// How long it holds still before.
        startup: "roll.startup", Seconds, 0.05, 0.0..10.0;
        /// How long it keeps the body after.
        recovery: "roll.recovery", Seconds, 0.15, 0.0..10.0;
        /// How long after that the next may begin.
        cooldown: "roll.cooldown", Seconds, 0.2, 0.0..60.0;
        /// How the speed falls off, as of a dash.
        curve: "roll.curve", Factor, 0.3, -1.0..1.0;
        /// How quickly steering turns it on its way.
        turn: "roll.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed kept at its end; that of the roll itself at most.
        end_speed: "roll.end_speed", MetresPerSecond, 2.0, 0.0..1000.0;
        /// How high the hull is meanwhile.
        height: "roll.height", Metres, 0.9, 0.01..100.0;
        /// What the startup locks: the sum of 1 for steering, 2 for jumping and 4
        /// for turning.
        startup_locks: "roll.startup_locks", Count, 7.0, 0.0..7.0;
        /// What the drive locks.
        active_locks: "roll.active_locks", Count, 7.0, 0.0..7.0;
        /// What the recovery locks.
        recovery_locks: "roll.recovery_locks", Count, 3.0, 0.0..7.0;
    }
}
