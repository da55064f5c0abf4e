//! The knobs of the roll.

crate::knobs! {
    /// A roll along the ground, by one of the game's own actions: begins when the action is pressed
    /// on the ground, or in the air with `roll.in_air`.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Roll {
        /// Switches the move on: it can roll.
        enabled: "roll.enabled", Switch, 1.0, 0.0..1.0;
        /// The number of the game's own action that begins it, 0 to 27; -1 for no roll.
        action: "roll.action", Count, -1.0, -1.0..27.0;
        /// Lets a roll begin in the air as well.
        in_air: "roll.in_air", Switch, 0.0, 0.0..1.0;
        /// The distance of a roll.
        distance: "roll.distance", Metres, 3.0, 0.0..1000.0;
        /// The duration of the active phase.
        active: "roll.active", Seconds, 0.4, 0.01..10.0;
        /// The time of standing still before it.
        startup: "roll.startup", Seconds, 0.05, 0.0..10.0;
        /// The time after it in which the roll keeps control of the body.
        recovery: "roll.recovery", Seconds, 0.15, 0.0..10.0;
        /// The time after that until the next may begin.
        cooldown: "roll.cooldown", Seconds, 0.2, 0.0..60.0;
        /// The speed curve, as of a dash.
        curve: "roll.curve", Factor, 0.3, -1.0..1.0;
        /// The rate at which steering turns it.
        turn: "roll.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed that is kept at its end; at most that of the roll itself.
        end_speed: "roll.end_speed", MetresPerSecond, 2.0, 0.0..1000.0;
        /// The height of the hull during the roll.
        height: "roll.height", Metres, 0.9, 0.01..100.0;
        /// What the startup mutes: the sum of 1 for steering, 2 for jumping and 4 for turning.
        startup_mutes: "roll.startup_mutes", Count, 7.0, 0.0..7.0;
        /// What the active phase mutes, likewise.
        active_mutes: "roll.active_mutes", Count, 7.0, 0.0..7.0;
        /// What the recovery mutes, likewise.
        recovery_mutes: "roll.recovery_mutes", Count, 3.0, 0.0..7.0;
    }
}
