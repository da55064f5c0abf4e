//! The glide: a slow fall while jump is held.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Name, Span};
use crate::tuning::Tuning;

use super::{Answer, Fall, KnobsIn, Law, Move, Outcome, Proposal, Senses, Words};

pub use knobs::Glide;

impl<V: Geometry> Move<V> for Glide {
    const NAME: Name = Name::new("glide");
    const WORDS: Words = Words::MODE;
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.glide);
    /// The time spent gliding since the feet stood.
    type Memory = Span;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    fn actions(&self, _tuning: &Tuning) -> Actions {
        if self.fall_speed > 0.0 { Actions::JUMP } else { Actions::NONE }
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, glided: &Span) -> Answer<V> {
        if self.fall_speed <= 0.0 || senses.standing() || !senses.intent.held.contains(Actions::JUMP) {
            return Answer::Nothing;
        }
        let sinks = senses.velocity.height() <= 0.0 && !senses.lies_steep;
        let spent = self.max_time > 0.0 && glided.reaches(self.max_time);
        if !sinks || spent || senses.maneuver().is_some() {
            return Answer::Nothing;
        }
        let fall = Fall {
            gravity: self.gravity,
            terminal_speed: Some(self.fall_speed),
            brake: senses.tuning.fall.terminal_speed / self.brake_time,
            pace: self.pace,
            times: self.times,
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
