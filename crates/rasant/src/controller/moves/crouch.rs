//! Crouching: a lower hull while the button is held, and for as long as there
//! is no room to stand up.

use crate::contact::{Geometry, Hull};
use crate::controller::event::{Event, Events, Refusal, tell};
use crate::controller::has_room;
use crate::controller::state::State;
use crate::controller::tick::as_seen;
use crate::input::{Actions, Intent};
use crate::level::Surroundings;
use crate::tuning::Tuning;

/// Lowers and raises the hull, for a crouch or as a maneuver asks; gives it as
/// it is in this tick.
pub(in crate::controller) fn posture<V: Geometry>(
    tuning: &Tuning,
    own: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) -> Hull {
    let held = intent.held.has(Actions::CROUCH);
    if !held && state.lowered == 0.0 && state.maneuver.is_none() {
        return *own;
    }
    lowered_or_raised(tuning, own, state, held, intent, surroundings, events)
}

#[inline(never)]
fn lowered_or_raised<V: Geometry>(
    tuning: &Tuning,
    own: &Hull,
    state: &mut State<V>,
    held: bool,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) -> Hull {
    let for_maneuver = state.maneuver.as_ref().map_or(0.0, |maneuver| lowered_to(own, maneuver.plan.height));
    // A crouch begins on the ground; it lasts through a fall.
    let crouches = held && (state.crouched || state.footing.is_firm());
    let wanted = if for_maneuver > 0.0 {
        for_maneuver
    } else if crouches {
        lowered_to(own, tuning.crouch.height)
    } else {
        0.0
    };
    if wanted == state.lowered {
        return state.hull(own);
    }
    if wanted > state.lowered {
        state.lowered = wanted;
    } else {
        let raised = as_seen::<V>(tuning, &own.at_height(own.height() - wanted));
        if has_room(&raised, state, surroundings) {
            state.lowered = wanted;
        } else if intent.released.has(Actions::CROUCH) {
            tell(events, Event::Refused { what: Refusal::StandUp });
        }
    }
    let crouched = state.lowered > 0.0 && for_maneuver == 0.0;
    if crouched != state.crouched {
        tell(events, if crouched { Event::Crouched } else { Event::StoodUp });
        state.crouched = crouched;
    }
    state.hull(own)
}

/// How much lower than its own height a hull of this `height` is; none for a
/// height of 0.
fn lowered_to(own: &Hull, height: f32) -> f32 {
    if height > 0.0 { (own.height() - own.at_height(height).height()).max(0.0) } else { 0.0 }
}
