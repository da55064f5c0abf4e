//! Dropping through a one-way platform.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, Mode, Name, Owner};
use crate::thresholds::steering;

use super::{Answer, Move, Proposal, Senses, Words};

const NAME: Name = Name::new("drop");

crate::knobs! {
    /// Drops through the one-way platform under the feet when jump is pressed while steering down
    /// (in two dimensions) or holding crouch (in either).
    pub struct DropDown {}
}

impl<V: Geometry> Move<V> for DropDown {
    const NAME: Name = NAME;
    const WORDS: Words = Words::NONE.leaving_ground();
    type Memory = ();

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        let stands_on_it = senses.ground.firm && senses.state.footing.one_way && !senses.from_above;
        if stands_on_it && senses.intent.pressed.contains(Actions::JUMP) {
            fall_through(senses)
        } else {
            Answer::Nothing
        }
    }
}

#[inline(never)]
fn fall_through<V: Geometry>(senses: &Senses<'_, V>) -> Answer<V> {
    let down = senses.steered_up() < -steering::CHOSEN || senses.intent.held.contains(Actions::CROUCH);
    if !down || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    Proposal {
        velocity: Some(senses.velocity.flat() + senses.ground_velocity),
        leaves: Some(Departure::Move),
        passes: Some(senses.state.footing.piece),
        ..Proposal::as_itself(Mode::Airborne, Owner::Air)
    }
    .into()
}
