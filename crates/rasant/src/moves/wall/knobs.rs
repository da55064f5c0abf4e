//! The knobs of walls.

crate::knobs! {
    /// Sliding down walls and jumping off them. The body slides down the wall beside it while it
    /// sinks and the wall holds it.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct WallSlide {
        /// Switches the move on: it can slide down walls and jump off them.
        enabled: "wall.enabled", Switch, 1.0, 0.0..1.0;
        /// The speed of a slide down a wall; 0 for no slide.
        slide_speed: "wall.slide_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Slides at every touch. Off, only while steering into the wall.
        by_touch: "wall.by_touch", Switch, 0.0, 0.0..1.0;
        /// The height of a jump off a wall; 0 for none.
        jump_height: "wall.jump_height", Metres, 0.0, 0.0..100.0;
        /// The speed away from the wall at the take-off.
        jump_away: "wall.jump_away", MetresPerSecond, 5.0, 0.0..100.0;
        /// How long after leaving a wall a jump off it still takes off.
        grace_time: "wall.grace_time", Seconds, 0.08, 0.0..2.0;
        /// How long after the take-off steering back is weak.
        back_time: "wall.back_time", Seconds, 0.2, 0.0..10.0;
        /// The factor on steering toward the wall during that time.
        back: "wall.back", Factor, 0.1, 0.0..1.0;
        /// The maximum number of jumps in a row off walls that face the same direction.
        in_a_row: "wall.in_a_row", Count, 9.0, 0.0..99.0;
        /// Restores the jumps in the air with a jump off a wall.
        gives_jumps: "wall.gives_jumps", Switch, 0.0, 0.0..1.0;
    }
}
