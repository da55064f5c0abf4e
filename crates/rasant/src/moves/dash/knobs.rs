//! The knobs of the dash.

crate::knobs! {
    /// A dash, by the action `dash`: begins when the action is pressed and a charge is left.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Dash {
        /// Switches the move on: it can dash.
        enabled: "dash.enabled", Switch, 1.0, 0.0..1.0;
        /// The maximum number of charges; 0 for no dash.
        charges: "dash.charges", Count, 0.0, 0.0..9.0;
        /// The distance of a dash.
        distance: "dash.distance", Metres, 3.5, 0.0..1000.0;
        /// The duration of the active phase.
        active: "dash.active", Seconds, 0.18, 0.01..10.0;
        /// The time of standing still before it.
        startup: "dash.startup", Seconds, 0.0, 0.0..10.0;
        /// The time after it in which the dash keeps control of the body.
        recovery: "dash.recovery", Seconds, 0.0, 0.0..10.0;
        /// The time after that until the next may begin.
        cooldown: "dash.cooldown", Seconds, 0.3, 0.0..60.0;
        /// The speed curve: 0 for a constant speed, 1 from twice the mean speed down to zero, -1
        /// the reverse.
        curve: "dash.curve", Factor, 0.0, -1.0..1.0;
        /// The rate at which steering turns it.
        turn: "dash.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed that is kept at its end; at most that of the dash itself.
        end_speed: "dash.end_speed", MetresPerSecond, 4.0, 0.0..1000.0;
        /// Applies gravity during the dash.
        gravity: "dash.gravity", Switch, 0.0, 0.0..1.0;
        /// Dashes where the body faces. Off, where it is steered, or else where it faces.
        by_facing: "dash.by_facing", Switch, 0.0, 0.0..1.0;
        /// Restricts the direction to eight; in a side view these include up and down.
        eight_directions: "dash.eight_directions", Switch, 0.0, 0.0..1.0;
        /// The maximum number of dashes between leaving the ground and landing.
        air_count: "dash.air_count", Count, 1.0, 0.0..9.0;
        /// Restores all charges while standing.
        from_ground: "dash.from_ground", Switch, 1.0, 0.0..1.0;
        /// The time in which one charge is restored; 0 for never.
        recharge_time: "dash.recharge_time", Seconds, 0.0, 0.0..600.0;
    }
}
