//! A body at rest: a tick that changes nothing is not computed again.
//!
//! A tick gives the same bits for the same arguments. A tick that changed nothing but timers
//! changes nothing again while tuning, hull, intent, length of the tick and everything nearby are
//! the same.

use crate::contact::{Geometry, Hull};
use crate::input::Intent;
use crate::level::Surroundings;
use crate::space::Bounds;
use crate::state::{Animation, CarryOver, Span, State};
use crate::thresholds::drawing;
use crate::tuning::Tuning;

/// The arguments of a tick that changed nothing.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(super) struct Rest {
    tuning: Tuning,
    hull: Hull,
    intent: Intent,
    dt: f32,
    /// The [`Surroundings::stamp`] of everything nearby.
    stamp: u64,
}

impl Rest {
    /// The rest after a tick from `before` to `after`, if it changed nothing.
    pub fn after<V: Geometry>(
        before: &State<V>,
        after: &State<V>,
        (tuning, hull): (&Tuning, &Hull),
        intent: &Intent,
        surroundings: &impl Surroundings<V>,
        dt: f32,
    ) -> Option<Self> {
        // A game's own moves may query further than what is near. A gait that has just begun may
        // change by its age alone.
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

    /// Returns true if it was with this intent and this length of the tick.
    pub fn is_for(&self, intent: &Intent, dt: f32) -> bool {
        self.dt == dt && self.intent == *intent
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
            && self.tuning.moves_like(tuning)
            && surroundings.stamp(&near(state, tuning, hull)) == Some(self.stamp)
    }
}

/// Advances the timers by a tick that changes nothing else.
pub(super) fn count<V>(state: &mut State<V>, dt: f32) {
    let span = Span::tick(dt, &mut state.carry_over.uncounted);
    state.animation.gait_age += span;
}

/// The bounds of everything that a tick of a body at rest queries.
fn near<V: Geometry>(state: &State<V>, tuning: &Tuning, hull: &Hull) -> Bounds<V> {
    let slope = &tuning.slope;
    let steps = slope.step_height.max(slope.ground_snap);
    let reach = V::splat(2.0 * (hull.height() + hull.half_width()) + steps);
    Bounds { min: state.position - reach, max: state.position + reach }
}
