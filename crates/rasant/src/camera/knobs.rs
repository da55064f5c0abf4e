//! The knobs of cameras.

crate::knobs! {
    /// How a camera follows.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct CameraKnobs {
        /// Seconds in which 90 % of a sudden change of the target across up are made up; 0 for at once.
        settle_time: "camera.settle_time", Seconds, 0.35, 0.0..10.0;
        /// The same along up.
        settle_time_up: "camera.settle_time_up", Seconds, 0.5, 0.0..10.0;
        /// How far the body moves across up before the target moves, to each side.
        dead_zone: "camera.dead_zone", Metres, 0.0, 0.0..100.0;
        /// The same along up.
        dead_zone_up: "camera.dead_zone_up", Metres, 0.0, 0.0..100.0;
        /// While the body is in the air, the target keeps the height of the last ground, unless the body
        /// is further from it than this; 0 for a target that rises with each jump.
        jump_zone: "camera.jump_zone", Metres, 2.5, 0.0..100.0;
        /// The target is ahead of the body by the distance that it moves in this time.
        lead_time: "camera.lead_time", Seconds, 0.3, 0.0..10.0;
        /// The target is ahead of the body along its facing by this distance.
        lead: "camera.lead", Metres, 0.5, 0.0..100.0;
        /// The target is never further ahead than this.
        lead_most: "camera.lead_most", Metres, 4.0, 0.0..1000.0;
        /// Seconds in which 90 % of a sudden change of the lead are made up, as when the body turns.
        lead_settle_time: "camera.lead_settle_time", Seconds, 0.8, 0.0..10.0;
        /// The height of the target above the underside of the body, as a fraction of the height of its
        /// hull.
        height: "camera.height", Factor, 0.8, -10.0..10.0;
        /// The length of the arm on which the camera is behind the body, in three dimensions.
        arm: "camera.arm", Metres, 4.5, 0.0..1000.0;
        /// The distance that the camera keeps from walls.
        arm_radius: "camera.arm_radius", Metres, 0.25, 0.01..10.0;
        /// Seconds in which the arm regains 90 % of its length after a wall is passed. It is retracted
        /// at once.
        arm_extend_time: "camera.arm_extend_time", Seconds, 0.6, 0.0..10.0;
        /// The height of the eyes above the underside of the body, as a fraction of the height of its
        /// hull.
        eyes: "camera.eyes", Factor, 0.93, 0.0..1.0;
        /// Seconds in which 90 % of a change of the height of the eyes are made up, as when the body
        /// crouches.
        eyes_settle_time: "camera.eyes_settle_time", Seconds, 0.2, 0.0..10.0;
        /// How far a shake of strength 1 moves the picture.
        shake_length: "camera.shake_length", Metres, 0.35, 0.0..10.0;
        /// Seconds in which a shake of strength 1 ends.
        shake_time: "camera.shake_time", Seconds, 0.7, 0.01..10.0;
    }
}
