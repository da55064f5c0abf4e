//! The knobs of the hop.

crate::knobs! {
    /// Walking by whole steps, with steering by hops.
    ///
    /// Begins a hop when one is steered and its path is free.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Hop {
        /// The length of a step.
        length: "hop.length", Metres, 1.0, 0.01..100.0;
        /// How long a step takes.
        time: "hop.time", Seconds, 0.2, 0.01..10.0;
        /// How high its arc is drawn.
        arc: "hop.arc", Metres, 0.25, 0.0..100.0;
        /// How many steps are one hop while run is held.
        run_steps: "hop.run_steps", Count, 2.0, 1.0..9.0;
        /// How long a hop of several steps takes; 0 for as long as its steps one by one.
        run_time: "hop.run_time", Seconds, 0.0, 0.0..10.0;
        /// Whether steering on the way waits for its end. Off refuses it.
        queue: "hop.queue", Switch, 1.0, 0.0..1.0;
        /// How long it stands between two hops.
        cooldown: "hop.cooldown", Seconds, 0.0, 0.0..10.0;
    }
}
