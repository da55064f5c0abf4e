//! A body at rest: a tick that changes nothing is not worked out again.
//!
//! A tick gives the same bits for the same arguments. One that left a body as it was, but for the
//! time that it has stood, leaves it so again while tuning, hull, intent, length of the tick and all
//! that is near are the same.

use crate::contact::{Geometry, Hull};
use crate::input::Intent;
use crate::level::Surroundings;
use crate::space::Bounds;
use crate::state::{Animation, CarryOver, Span, State};
use crate::thresholds::drawing;
use crate::tuning::Tuning;

/// The arguments of a tick that changed nothing.
#[derive(Clone, Debug)]
pub(super) struct Rest {
    tuning: Tuning,
    hull: Hull,
    intent: Intent,
    dt: f32,
    /// The [`Surroundings::stamp`] of all that is near.
    stamp: u64,
}

impl Rest {
    /// The rest that a tick has led to from `before` to `after`, if it changed nothing.
    pub fn after<V: Geometry>(
        before: &State<V>,
        after: &State<V>,
        (tuning, hull): (&Tuning, &Hull),
        intent: &Intent,
        surroundings: &impl Surroundings<V>,
        dt: f32,
    ) -> Option<Self> {
        // A game's own moves may look further than what is near. A gait that began just now may
        // change by its time alone.
        let stands = after.velocity == V::ZERO && after.position == before.position;
        if !stands || !tuning.own.is_empty() || !before.animation.gait_age.reaches(drawing::FLICKER) {
            return None;
        }
        let stamp = surroundings.stamp(&near(after, tuning, hull))?;
        let is_same = State {
            animation: Animation { gait_age: before.animation.gait_age, ..after.animation },
            carry_over: CarryOver { uncounted: before.carry_over.uncounted, ..after.carry_over },
            ..*after
        };
        let changed = is_same.checksum() != before.checksum();
        if changed { None } else { Some(Self { tuning: *tuning, hull: *hull, intent: *intent, dt, stamp }) }
    }

    /// Returns true if a tick with these arguments changes nothing either.
    pub fn goes_on<V: Geometry>(
        &self,
        state: &State<V>,
        (tuning, hull): (&Tuning, &Hull),
        intent: &Intent,
        surroundings: &impl Surroundings<V>,
        dt: f32,
    ) -> bool {
        self.dt == dt
            && tuning.own.is_empty()
            && self.intent == *intent
            && self.hull == *hull
            && self.tuning == *tuning
            && surroundings.stamp(&near(state, tuning, hull)) == Some(self.stamp)
    }
}

/// Counts the time of a tick that changes nothing else.
pub(super) fn count<V>(state: &mut State<V>, dt: f32) {
    let span = Span::tick(dt, &mut state.carry_over.uncounted);
    state.animation.gait_age += span;
}

/// All that a tick of a body at rest asks for is within these bounds.
fn near<V: Geometry>(state: &State<V>, tuning: &Tuning, hull: &Hull) -> Bounds<V> {
    let slope = &tuning.slope;
    let steps = slope.step_height.max(slope.ground_snap);
    let reach = V::splat(2.0 * (hull.height() + hull.half_width()) + steps);
    Bounds { min: state.position - reach, max: state.position + reach }
}
