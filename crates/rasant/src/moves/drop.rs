//! Down through a one-way platform.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, Mode, Name, Owner};

use super::{Answer, Move, Proposal, Senses, no_knobs};

/// How far down the steer must point, of 1.
pub(super) const DOWN: f32 = -0.5;

/// Lets the body fall through the one-way platform it stands on when jump is
/// pressed with down: steered down in two dimensions, or crouch held in either.
#[derive(Clone, Copy, Debug)]
pub struct Drop;

no_knobs!(Drop);

impl<V: Geometry> Move<V> for Drop {
    const NAME: Name = Name::new("drop");
    type Memory = ();

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        let stands_on_it = senses.ground.firm && senses.state.footing.one_way && !senses.from_above;
        if stands_on_it && senses.intent.pressed.has(Actions::JUMP) {
            fall_through(senses)
        } else {
            Answer::Nothing
        }
    }
}

#[inline(never)]
fn fall_through<V: Geometry>(senses: &Senses<'_, V>) -> Answer<V> {
    let down = senses.steered_up() < DOWN || senses.intent.held.has(Actions::CROUCH);
    if !down || senses.under_way.is_some() {
        return Answer::Nothing;
    }
    Proposal {
        velocity: Some(senses.velocity.flat() + senses.ground_velocity),
        leaves: Some(Departure::Drop),
        passes: Some(senses.state.footing.piece),
        ..Proposal::as_itself(Mode::Airborne, Owner::Air)
    }
    .into()
}
