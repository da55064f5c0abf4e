//! The knobs of walls.

crate::knobs! {
    /// Sliding down walls and jumping off them.
    ///
    /// Slides down the wall that the body is beside, while it sinks and is held.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct WallSlide {
        /// The speed of a slide down a wall; 0 for no slide.
        slide_speed: "wall.slide_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Whether a touch is enough. Off asks for steering into the wall.
        by_touch: "wall.by_touch", Switch, 0.0, 0.0..1.0;
        /// How high a jump off a wall rises; 0 for none.
        jump_height: "wall.jump_height", Metres, 0.0, 0.0..100.0;
        /// The speed away from the wall at the take-off.
        jump_away: "wall.jump_away", MetresPerSecond, 5.0, 0.0..100.0;
        /// How long after leaving a wall a jump off it still takes off.
        grace_time: "wall.grace_time", Seconds, 0.08, 0.0..2.0;
        /// How long after the take-off steering back is weak.
        back_time: "wall.back_time", Seconds, 0.2, 0.0..10.0;
        /// How weak it is then: a factor on steering toward the wall.
        back: "wall.back", Factor, 0.1, 0.0..1.0;
        /// How many jumps in a row there are off walls that face the same way.
        in_a_row: "wall.in_a_row", Count, 9.0, 0.0..99.0;
        /// Whether a jump off a wall gives back the jumps in the air.
        gives_jumps: "wall.gives_jumps", Switch, 0.0, 0.0..1.0;
    }
}
