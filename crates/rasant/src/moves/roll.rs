//! The roll: along the ground, low.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Locks, ManeuverKind, Name, Plan, Refusal, SAME};
use crate::tuning::Tuning;

use super::maneuver::begins;
use super::{Answer, Move, Outcome, Senses, no_knobs};

/// Slower than this fraction of the walking speed is standing.
const COASTING: f32 = 0.025;

/// Begins a roll when its action is pressed on the ground.
#[derive(Clone, Copy, Debug)]
pub struct Roll;

no_knobs!(Roll);

impl<V: Geometry> Move<V> for Roll {
    const NAME: Name = Name::new("roll");
    type Memory = ();

    fn actions(&self, tuning: &Tuning) -> Actions {
        Actions::of_knob(tuning.roll.action)
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        if senses.intent.pressed.has(Actions::of_knob(senses.tuning.roll.action)) {
            pressed(senses)
        } else {
            Answer::Nothing
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, (): &mut ()) {
        if senses.intent.pressed.is_empty() || outcome.was_asked() {
            return;
        }
        if senses.intent.pressed.has(Actions::of_knob(senses.tuning.roll.action)) {
            outcome.refuse(Refusal::Cooldown { of: ManeuverKind::Roll, left: senses.busy_for() });
        }
    }
}

#[inline(never)]
fn pressed<V: Geometry>(senses: &Senses<'_, V>) -> Answer<V> {
    let roll = &senses.tuning.roll;
    let left = senses.busy_for();
    if senses.under_way.is_some() || left > SAME {
        return Answer::Refuses(Refusal::Cooldown { of: ManeuverKind::Roll, left });
    }
    if !senses.standing() {
        return Answer::Refuses(Refusal::NoFooting);
    }
    let plan = Plan {
        startup: roll.startup,
        active: roll.active,
        recovery: roll.recovery,
        cooldown: roll.cooldown,
        distance: roll.distance,
        curve: roll.curve,
        turn_rate: roll.turn,
        end_speed: roll.end_speed.min(roll.distance / roll.active * (1.0 + roll.curve.abs())),
        height: roll.height,
        arc: 0.0,
        gravity: true,
        locks: [roll.startup_locks, roll.active_locks, roll.recovery_locks].map(Locks::of_knob),
    };
    // Who coasts rolls where it moves.
    let velocity = if senses.from_above { senses.velocity } else { senses.velocity.flat() };
    let coasts = senses.wish == V::ZERO && velocity.length() > COASTING * senses.tuning.walk.speed.abs();
    let direction = velocity.direction().filter(|_| coasts).unwrap_or_else(|| senses.heading());
    begins(ManeuverKind::Roll, plan, direction).into()
}
