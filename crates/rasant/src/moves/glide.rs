//! The glide: slowly down while jump is held.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Name, Span};
use crate::tuning::Tuning;

use super::{Answer, Fall, Law, Move, Outcome, Proposal, Senses, no_knobs};

/// Lets the body down slowly while jump is held on the way down: who holds it since the
/// take-off glides from the top on.
#[derive(Clone, Copy, Debug)]
pub struct Glide;

no_knobs!(Glide);

impl<V: Geometry> Move<V> for Glide {
    const NAME: Name = Name::new("glide");
    /// The time glided since the feet stood.
    type Memory = Span;

    fn actions(&self, tuning: &Tuning) -> Actions {
        if tuning.glide.fall_speed > 0.0 { Actions::JUMP } else { Actions::NONE }
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, glided: &Span) -> Answer<V> {
        let glide = &senses.tuning.glide;
        if glide.fall_speed <= 0.0 || senses.standing() || !senses.intent.held.has(Actions::JUMP) {
            return Answer::Nothing;
        }
        let sinks = senses.velocity.height() <= 0.0 && !senses.lies_steep;
        let spent = glide.max_time > 0.0 && glided.reaches(glide.max_time);
        if !sinks || spent || senses.maneuver().is_some() {
            return Answer::Nothing;
        }
        let fall = Fall {
            gravity: glide.gravity,
            terminal_speed: Some(glide.fall_speed),
            brake: senses.tuning.fall.terminal_speed / glide.brake_time,
            pace: glide.pace,
            times: glide.times,
        };
        Proposal { law: Law::Fall(fall), ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, glided: &mut Span) {
        if senses.standing() {
            *glided = Span::ZERO;
        } else if outcome.is_mine() {
            *glided += senses.span;
        }
    }
}
