//! Down through a one-way platform.

use crate::contact::Geometry;
use crate::controller::event::{Departure, Event, tell};
use crate::controller::state::{Mode, Owner};
use crate::input::Actions;

use super::Choice;

/// How far down the steer must point, of 1.
pub(super) const DOWN: f32 = -0.5;

/// Lets the body fall through the one-way platform it stands on when jump is
/// pressed with down: steered down in two dimensions, or crouch held in either.
/// Says whether it did.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    let down = choice.steered_up() < DOWN || choice.intent.held.has(Actions::CROUCH);
    let stands_on_it = choice.body.mode == Mode::Afoot && choice.state.footing.one_way;
    let falls = stands_on_it && down && choice.intent.pressed.has(Actions::JUMP);
    if falls {
        fall_through(choice);
    }
    falls
}

#[inline(never)]
fn fall_through<V: Geometry>(choice: &mut Choice<'_, V>) {
    choice.state.passing = Some(choice.state.footing.piece);
    choice.state.left_by_jump = true; // no late jump follows
    choice.body.velocity = choice.body.velocity.flat() + choice.body.ground_velocity;
    choice.take_charge(Mode::Aloft, Owner::Air);
    tell(choice.events, Event::LeftGround { by: Departure::Drop });
}
