//! The knobs of the dash.

crate::knobs! {
    /// A dash, by the action dash.
    ///
    /// Begins a dash when it is pressed and one is to be had.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Dash {
        /// How many dashes are in store at most; 0 for no dash.
        charges: "dash.charges", Count, 0.0, 0.0..9.0;
        /// How far it goes.
        distance: "dash.distance", Metres, 3.5, 0.0..1000.0;
        /// How long it drives.
        active: "dash.active", Seconds, 0.18, 0.01..10.0;
        /// How long it holds still before.
        startup: "dash.startup", Seconds, 0.0, 0.0..10.0;
        /// How long it keeps the body after.
        recovery: "dash.recovery", Seconds, 0.0, 0.0..10.0;
        /// How long after that the next may begin.
        cooldown: "dash.cooldown", Seconds, 0.3, 0.0..60.0;
        /// How the speed falls off: 0 evenly fast, 1 from twice the mean speed
        /// to none, -1 the other way.
        curve: "dash.curve", Factor, 0.0, -1.0..1.0;
        /// How quickly steering turns it on its way.
        turn: "dash.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed kept at its end; that of the dash itself at most.
        end_speed: "dash.end_speed", MetresPerSecond, 4.0, 0.0..1000.0;
        /// Whether gravity works meanwhile.
        gravity: "dash.gravity", Switch, 0.0, 0.0..1.0;
        /// Whether it goes where the body faces. Off asks the steering first.
        by_facing: "dash.by_facing", Switch, 0.0, 0.0..1.0;
        /// Whether it keeps to eight directions; in a side view, up and down
        /// among them.
        eight_ways: "dash.eight_ways", Switch, 0.0, 0.0..1.0;
        /// How many there are between leaving the ground and landing.
        air_count: "dash.air_count", Count, 1.0, 0.0..9.0;
        /// Whether standing gives all of them back.
        from_ground: "dash.from_ground", Switch, 1.0, 0.0..1.0;
        /// The time that gives one back; 0 for never.
        recharge_time: "dash.recharge_time", Seconds, 0.0, 0.0..600.0;
    }
}
