//! The glide: slowly down while jump is held.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Name, SAME};

use super::{Answer, Fall, Law, Move, Outcome, Proposal, Senses, no_knobs};

/// Lets the body down slowly while jump is held on the way down: who holds it since the
/// take-off glides from the top on.
#[derive(Clone, Copy, Debug)]
pub struct Glide;

no_knobs!(Glide);

impl<V: Geometry> Move<V> for Glide {
    const NAME: Name = Name::new("glide");
    /// Seconds of gliding since the feet stood.
    type Memory = f32;

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, glided: &f32) -> Answer<V> {
        let glide = &senses.tuning.glide;
        if glide.fall_speed <= 0.0 || senses.standing() || !senses.intent.held.has(Actions::JUMP) {
            return Answer::Nothing;
        }
        let sinks = senses.velocity.height() <= 0.0 && !senses.lies_steep;
        let spent = glide.most_time > 0.0 && *glided + SAME >= glide.most_time;
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
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, glided: &mut f32) {
        if senses.standing() {
            *glided = 0.0;
        } else if outcome.is_mine() {
            *glided += senses.dt;
        }
    }
}
