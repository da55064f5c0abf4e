//! The knobs of swimming.

crate::knobs! {
    /// Swimming: in water deep enough to float in.
    ///
    /// Floats at the surface, swims where it is steered or looks, dives, and jumps out where it floats.
    /// Water brakes what falls into it.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Swim {
        /// The speed of a full wish, in every direction: up and down by the stick in a side view, by
        /// the look in space. 0 for sinking like a stone.
        speed: "swim.speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The time from rest to that speed and back.
        reach_time: "swim.reach_time", Seconds, 0.5, 0.0..10.0;
        /// How deep a body sinks after a low fall, as a fraction of the height of the fall.
        sink: "swim.sink", Factor, 1.0, 0.05..20.0;
        /// How much more strongly water brakes a fast fall, a metre: by this times the square of the
        /// speed. 0 makes every fall as deep as it is high, times `swim.sink`.
        drag: "swim.drag", PerMetre, 0.2, 0.0..100.0;
        /// How much of the hull's height floats under the surface.
        float: "swim.float", Factor, 0.75, 0.05..1.0;
        /// The speed with which it floats up; below 0 it sinks with that.
        float_speed: "swim.float_speed", MetresPerSecond, 1.5, -100.0..100.0;
        /// Deeper than this under where it floats, it stays where it is; 0 for floating up from
        /// everywhere.
        neutral_depth: "swim.neutral_depth", Metres, 0.0, 0.0..1000.0;
        /// Swimming forward goes where one looks, up or down, from this pitch on; 90 for never.
        pitch: "swim.pitch_deg", Degrees, 30.0, 0.0..90.0;
        /// The speed down while crouch is held, and up while jump is.
        dive_speed: "swim.dive_speed", MetresPerSecond, 2.0, 0.0..100.0;
        /// How high above where it floats a jump out of the water rises; 0 for none.
        jump_height: "swim.jump_height", Metres, 1.2, 0.0..100.0;
    }
}
