//! Down through a one-way platform.

use crate::controller::event::{Departure, Event, Events};
use crate::controller::local::Local;
use crate::controller::state::{Mode, Owner, State};
use crate::input::{Actions, Intent};
use crate::space::Vector;

/// How far down the steer must point, of 1.
const DOWN: f32 = -0.5;

/// Lets the body fall through the one-way platform it stands on when jump is
/// pressed with down: steered down in two dimensions, or crouch held in either.
/// Says whether it did.
pub(super) fn decide<V: Vector>(
    state: &mut State<V>,
    body: &mut Local<V>,
    intent: &Intent,
    events: &mut Events<V>,
) -> bool {
    let steered = V::DIMENSION == 2 && intent.safe_steer().y < DOWN;
    let down = steered || intent.held.has(Actions::CROUCH);
    let stands_on_it = body.mode == Mode::Afoot && state.footing.one_way;
    if !(stands_on_it && down && intent.pressed.has(Actions::JUMP)) {
        return false;
    }
    state.passing = Some(state.footing.piece);
    state.left_by_jump = true; // no late jump follows
    body.velocity = body.velocity.flat() + body.ground_velocity;
    body.mode = Mode::Aloft;
    body.owner = Owner::Air;
    events.push(Event::LeftGround { by: Departure::Drop });
    true
}
