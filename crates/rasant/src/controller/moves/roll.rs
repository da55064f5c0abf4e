//! The roll: along the ground, low.

use crate::contact::Geometry;
use crate::controller::event::Refusal;
use crate::input::Actions;

use super::maneuver::{Locks, ManeuverKind, Plan, begin};
use super::{Choice, jump::SAME, whole};

/// Slower than this, in m/s, is standing.
const COASTING: f32 = 0.1;

/// Begins a roll when its action is pressed on the ground. Says whether it did.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    let action = choice.tuning.roll.action;
    action >= -0.5
        && choice.intent.pressed.has(Actions::own(u32::from(whole(action).min(27))))
        && pressed(choice)
}

#[inline(never)]
fn pressed<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    let roll = &choice.tuning.roll;
    if choice.state.maneuver.is_some() || choice.state.rest > SAME {
        let left = choice.state.rest;
        choice.refuse(Refusal::Resting { left });
        return false;
    }
    if !choice.state.footing.is_firm() && !choice.body.from_above {
        choice.refuse(Refusal::NoFooting);
        return false;
    }
    let plan = Plan {
        windup: roll.windup,
        drive: roll.time,
        recover: roll.recover,
        rest: roll.rest,
        distance: roll.distance,
        curve: roll.curve,
        turn_rate: roll.turn,
        end_speed: roll.end_speed.min(roll.distance / roll.time * (1.0 + roll.curve.abs())),
        height: roll.height,
        arc: 0.0,
        gravity: true,
        locks: [roll.windup_locks, roll.drive_locks, roll.recover_locks].map(Locks::of_knob),
    };
    // Who coasts rolls where it moves.
    let velocity = choice.body.velocity;
    let velocity = if choice.body.from_above { velocity } else { velocity.flat() };
    let coasts = choice.body.wish == V::ZERO && velocity.length() > COASTING;
    let direction = velocity.direction().filter(|_| coasts).unwrap_or_else(|| choice.heading());
    begin(choice, ManeuverKind::Roll, plan, direction);
    true
}
