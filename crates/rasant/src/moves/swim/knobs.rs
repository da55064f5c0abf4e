//! The knobs of swimming.

crate::knobs! {
    /// Swimming: in water deep enough to float in. The body floats at the surface, swims where it
    /// is steered or looks, dives, and jumps out from the surface. Water brakes what falls into it.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Swim {
        /// Switches the move on: it can swim; off, it sinks and walks on the ground.
        enabled: "swim.enabled", Switch, 1.0, 0.0..1.0;
        /// The speed of full steering, in every direction: up and down by the stick in a side view,
        /// by the look in three dimensions. With 0 the body cannot swim and sinks.
        speed: "swim.speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The time from rest to that speed and back.
        reach_time: "swim.reach_time", Seconds, 0.5, 0.0..10.0;
        /// The depth that a body sinks to after a low fall, as a fraction of the height of the
        /// fall.
        sink: "swim.sink", Factor, 1.0, 0.05..20.0;
        /// The additional braking of fast falls by the water, per metre: this times the square of
        /// the speed. With 0 every fall sinks `swim.sink` times its height.
        drag: "swim.drag", PerMetre, 0.2, 0.0..100.0;
        /// The fraction of the hull's height that is under the surface when floating.
        float: "swim.float", Factor, 0.75, 0.05..1.0;
        /// The speed of floating up; below 0 the body sinks at that speed.
        float_speed: "swim.float_speed", MetresPerSecond, 1.5, -100.0..100.0;
        /// Deeper than this below its floating position the body stays where it is; 0 to float up
        /// from any depth.
        neutral_depth: "swim.neutral_depth", Metres, 0.0, 0.0..1000.0;
        /// Swimming forward follows the look up or down from this pitch on; 90 for never.
        pitch: "swim.pitch_deg", Degrees, 30.0, 0.0..90.0;
        /// The speed down while crouch is held, and up while jump is held.
        dive_speed: "swim.dive_speed", MetresPerSecond, 2.0, 0.0..100.0;
        /// The height of a jump out of the water, from the floating position; 0 for none.
        jump_height: "swim.jump_height", Metres, 1.2, 0.0..100.0;
    }
}
