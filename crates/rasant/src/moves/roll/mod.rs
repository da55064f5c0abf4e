//! The roll: along the ground, low.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Mutes, Name, Plan, Refusal, TIME_TOLERANCE};
use crate::thresholds::moves;
use crate::tuning::Tuning;

use super::{Answer, KnobsIn, Move, Outcome, Proposal, Senses, Words};

pub use knobs::Roll;

const NAME: Name = Name::new("roll");
const NO_FOOTING: Refusal = Refusal::new(NAME, "no-footing");
const COOLDOWN: Refusal = Refusal::new(NAME, Refusal::COOLDOWN);

impl<V: Geometry> Move<V> for Roll {
    const NAME: Name = NAME;
    const WORDS: Words = Words::NONE.maneuver().refusals(&[NO_FOOTING, COOLDOWN]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.roll);
    type Memory = ();

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::of_knob(self.action)
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        if senses.intent.pressed.intersects(Actions::of_knob(self.action)) {
            self.pressed(senses)
        } else {
            Answer::Nothing
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, (): &mut ()) {
        if senses.intent.pressed.is_empty() || outcome.was_consulted() {
            return;
        }
        if senses.intent.pressed.intersects(Actions::of_knob(self.action)) {
            outcome.refuse(COOLDOWN.missed_by(senses.busy_for()));
        }
    }
}

impl Roll {
    #[inline(never)]
    fn pressed<V: Geometry>(&self, senses: &Senses<'_, V>) -> Answer<V> {
        let left = senses.busy_for();
        if senses.maneuver().is_some() || left > TIME_TOLERANCE {
            return Answer::Refuses(COOLDOWN.missed_by(left));
        }
        if !senses.standing() && self.in_air < 0.5 {
            return Answer::Refuses(NO_FOOTING);
        }
        // A body that moves without steering rolls in the direction of its motion.
        let velocity = if senses.from_above { senses.velocity } else { senses.velocity.flat() };
        let coasts = senses.steer == V::ZERO
            && velocity.length() > moves::ROLL_COASTS * senses.tuning.walk.speed.abs();
        let direction = velocity.direction().filter(|_| coasts).unwrap_or_else(|| senses.heading());
        Proposal::maneuver(NAME, self.plan(), direction).into()
    }

    fn plan(&self) -> Plan {
        Plan {
            startup: self.startup,
            active: self.active,
            recovery: self.recovery,
            cooldown: self.cooldown,
            distance: self.distance,
            curve: self.curve,
            turn_rate: self.turn,
            height: self.height,
            gravity: true,
            mutes: [self.startup_mutes, self.active_mutes, self.recovery_mutes].map(Mutes::of_knob),
            ..Plan::default()
        }
        .ending_at(self.end_speed)
    }
}
