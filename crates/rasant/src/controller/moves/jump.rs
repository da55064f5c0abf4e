//! The jump.

use crate::controller::event::{Departure, Event, Events};
use crate::controller::state::{Mode, Owner, State};
use crate::controller::tick::Local;
use crate::input::{Actions, Intent};
use crate::space::Vector;
use crate::tuning::Tuning;

/// Takes off when jump was pressed for this tick and the feet are on firm
/// footing. Neither the top of a jump nor a ceiling is footing.
pub(super) fn decide<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    body: &mut Local<V>,
    intent: &Intent,
    events: &mut Events<V>,
) {
    if !(intent.pressed.has(Actions::JUMP) && body.mode == Mode::Afoot) {
        return;
    }
    body.velocity = body.velocity.flat() + V::UP * tuning.take_off_speed() + body.ground_velocity;
    body.mode = Mode::Aloft;
    body.owner = Owner::Jump;
    state.rising_from_jump = true;
    events.push(Event::Jumped);
    events.push(Event::LeftGround { by: Departure::Jump });
}
