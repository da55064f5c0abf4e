//! The knobs of the overlay that an action of the game begins.

crate::knobs! {
    /// An action of the upper body over the motion, as an attack or a wave: begins when one of the
    /// game's own actions is pressed, at any time and in any move.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct OverlayKnobs {
        /// The number of the game's own action that begins it, 0 to 27; -1 for none.
        action: "overlay.action", Count, -1.0, -1.0..27.0;
        /// The duration of the first phase, as for drawing back an arm.
        startup: "overlay.startup", Seconds, 0.1, 0.0..10.0;
        /// The duration of the active phase, as for the blow.
        active: "overlay.active", Seconds, 0.15, 0.0..600.0;
        /// The duration of the last phase.
        recovery: "overlay.recovery", Seconds, 0.2, 0.0..10.0;
        /// A factor on the steering during the overlay: 1 leaves the motion to the legs, 0 stops them.
        pace: "overlay.pace", Factor, 1.0, 0.0..1.0;
    }
}
