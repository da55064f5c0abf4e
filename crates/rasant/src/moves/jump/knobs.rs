//! The knobs of the jump.

crate::knobs! {
    /// Jumping from firm footing, and the gravity of the rise.
    ///
    /// A jump takes off when a press, new or buffered, meets footing, footing that was just left by
    /// walking, a wall to jump off, or a jump left in the air. Neither the top of a jump nor a
    /// ceiling is footing, and holding the button is not a press.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Jump {
        /// Switches the move on: it can jump, from the ground, late, in the air and off walls.
        enabled: "jump.enabled", Switch, 1.0, 0.0..1.0;
        /// The height of the rise above the take-off.
        height: "jump.height", Metres, 1.8, 0.01..100.0;
        /// The time from the take-off to the top. Height and time give the gravity, 2 × height /
        /// time², and the take-off speed, 2 × height / time.
        rise_time: "jump.rise_time", Seconds, 0.36, 0.02..10.0;
        /// The gravity, instead of the rise time; 0 to use the rise time.
        gravity: "jump.gravity", MetresPerSecondSquared, 0.0, 0.0..10000.0;
        /// The take-off speed, instead of the height; 0 to use the height.
        take_off_speed: "jump.take_off_speed", MetresPerSecond, 0.0, 0.0..1000.0;
        /// The factor on gravity for the rest of a rise once jump is released. With 1 every jump
        /// reaches its height, except that lighter gravity around the apex needs jump to be held.
        cut_gravity: "jump.cut_gravity", Factor, 1.0, 1.0..50.0;
        /// Coyote time: how long after walking off an edge a jump still takes off.
        coyote_time: "jump.coyote_time", Seconds, 0.08, 0.0..2.0;
        /// Jump buffer: how long a press in the air waits for the ground.
        buffer_time: "jump.buffer_time", Seconds, 0.1, 0.0..2.0;
        /// The number of jumps in the air. Landing restores them, and ladders and jumps off walls
        /// do if their knobs `gives_jumps` say so.
        air_count: "jump.air_count", Count, 0.0, 0.0..9.0;
        /// The height of a jump in the air.
        air_height: "jump.air_height", Metres, 1.2, 0.01..100.0;
        /// The height of each jump in the air relative to the one before it, as a factor.
        air_change: "jump.air_change", Factor, 1.0, 0.05..4.0;
        /// Jumps again at every landing while jump is held.
        repeat: "jump.repeat", Switch, 0.0, 0.0..1.0;
        /// How far to the side a rising head is nudged around the corner of a ceiling.
        corner: "jump.corner", Metres, 0.0, 0.0..10.0;
        /// How far below a lip the feet may be to be nudged onto it.
        lip: "jump.lip", Metres, 0.0, 0.0..10.0;
        /// The angle by which the body spins during a jump. It ends upright on landing.
        spin: "jump.spin_deg", Degrees, 0.0, -3600.0..3600.0;
        /// Spins after walking off an edge as well.
        edge_spin: "jump.edge_spin", Switch, 0.0, 0.0..1.0;
    }
}
