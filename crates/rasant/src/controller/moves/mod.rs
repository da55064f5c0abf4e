//! Every move, a file each. The first that takes charge decides the tick.

mod drop;
mod jump;

use crate::input::Intent;
use crate::space::Vector;
use crate::tuning::Tuning;

use super::event::Events;
use super::local::Local;
use super::state::State;

/// Asks each move in turn whether it takes charge of the tick.
pub(super) fn decide<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    body: &mut Local<V>,
    intent: &Intent,
    events: &mut Events<V>,
) {
    if drop::decide(state, body, intent, events) {
        return;
    }
    jump::decide(tuning, state, body, intent, events);
}
