//! The knobs of the hop.

crate::knobs! {
    /// Moving by whole steps, with the steering `hop`. A hop begins when it is steered and its path
    /// is free.
    #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
    pub struct Hop {
        /// Switches the move on: it can hop.
        enabled: "hop.enabled", Switch, 1.0, 0.0..1.0;
        /// The length of a step.
        length: "hop.length", Metres, 1.0, 0.01..100.0;
        /// The duration of a step.
        time: "hop.time", Seconds, 0.2, 0.01..10.0;
        /// The height of its drawn arc.
        arc: "hop.arc", Metres, 0.25, 0.0..100.0;
        /// The number of steps in one hop while run is held.
        run_steps: "hop.run_steps", Count, 2.0, 1.0..9.0;
        /// The duration of a hop of several steps; 0 for that of its steps one by one.
        run_time: "hop.run_time", Seconds, 0.0, 0.0..10.0;
        /// Hops again and again while it is steered. Off, one hop for each time that the steering
        /// is pressed.
        repeat: "hop.repeat", Switch, 1.0, 0.0..1.0;
        /// Queues a hop that is steered during another. Off refuses it.
        queue: "hop.queue", Switch, 1.0, 0.0..1.0;
        /// The time of standing between two hops.
        cooldown: "hop.cooldown", Seconds, 0.0, 0.0..10.0;
    }
}
