//! The knobs of the jump.

crate::knobs! {
    /// Jumping from firm footing, and the gravity that goes with it.
    ///
    /// Takes off where a press, new or waiting, meets footing, footing just left by
    /// walking, a wall to jump off, or a jump left in the air. Neither the top of a
    /// jump nor a ceiling is footing, and a held button is no press.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Jump {
        /// How high the feet rise above the take-off.
        height: "jump.height", Metres, 1.8, 0.01..100.0;
        /// Time from the take-off to the top. Height and time give the
        /// gravity, 2 × height / time², and the take-off speed, 2 × height / time.
        rise_time: "jump.rise_time", Seconds, 0.36, 0.02..10.0;
        /// Gravity given as such, in place of the rise time; 0 to use that.
        gravity: "jump.gravity", MetresPerSecondSquared, 0.0, 0.0..10000.0;
        /// The take-off speed given as such, in place of the height; 0 to use that.
        take_off_speed: "jump.take_off_speed", MetresPerSecond, 0.0, 0.0..1000.0;
        /// How many times heavier gravity is for the rest of a rise once jump is
        /// let go: 1 lets every jump reach its height, but for lighter gravity round
        /// the top, which is for who holds jump.
        cut_gravity: "jump.cut_gravity", Factor, 1.0, 1.0..50.0;
        /// Coyote time: how long after walking off an edge a jump still takes off.
        coyote_time: "jump.coyote_time", Seconds, 0.08, 0.0..2.0;
        /// Jump buffer: how long a press in the air waits for the ground.
        buffer_time: "jump.buffer_time", Seconds, 0.1, 0.0..2.0;
        /// How many more jumps there are in the air; given back by landing, and by
        /// ladders and jumps off walls where their knobs `gives_jumps` say so.
        air_count: "jump.air_count", Count, 0.0, 0.0..9.0;
        /// How high a jump in the air rises.
        air_height: "jump.air_height", Metres, 1.2, 0.01..100.0;
        /// How high each jump in the air rises beside the one before it, as a
        /// factor.
        air_change: "jump.air_change", Factor, 1.0, 0.05..4.0;
        /// Whether holding jump jumps again at every landing.
        repeat: "jump.repeat", Switch, 0.0, 0.0..1.0;
        /// How far to the side a rising head is nudged round the corner of a
        /// ceiling.
        corner: "jump.corner", Metres, 0.0, 0.0..10.0;
        /// How far below a lip the feet may be to be nudged onto it.
        lip: "jump.lip", Metres, 0.0, 0.0..10.0;
        /// How far the body spins in the air of a jump, ending flat on landing.
        spin: "jump.spin_deg", Degrees, 0.0, -3600.0..3600.0;
    }
}
