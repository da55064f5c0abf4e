//! The jump: from the ground, late off an edge, off a wall, and in the air.

use crate::contact::Geometry;
use crate::controller::event::{Departure, Event, JumpKind, Refusal, tell};
use crate::controller::state::{Mode, Owner};
use crate::input::Actions;

use super::maneuver::{self, Maneuver};
use super::{Choice, wall, whole};

/// Times within this of each other, in seconds, are the same: ticks add up with
/// rounding.
pub(super) const SAME: f32 = 1e-5;

/// Takes off where a press, new or waiting, meets footing, footing just left by
/// walking, a wall to jump off, or a jump left in the air. Neither the top of a
/// jump nor a ceiling is footing, and a held button is no press.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) {
    let jump = &choice.tuning.jump;
    if choice.state.footing.is_firm() {
        choice.state.air_jumps = whole(jump.air_count);
    }
    let pressed = choice.intent.pressed.has(Actions::JUMP);
    let held = choice.intent.held.has(Actions::JUMP);
    let waited = choice.state.jump_waits;
    if pressed {
        choice.state.jump_waits = jump.buffer_time;
    }
    let repeats = jump.repeat >= 0.5 && held && choice.state.footing.is_firm();
    // A press that waits does not break off what has begun meanwhile.
    let drives = choice.state.maneuver.as_ref().is_some_and(Maneuver::drives);
    let wanted = pressed || (waited > SAME && !drives) || repeats;
    let locked = choice.body.locks.jump;
    match (wanted && !locked).then(|| possible(choice, pressed)).flatten() {
        Some(kind) => {
            take_off(kind, choice);
            // Let go within its own tick, a press is as short as can be.
            choice.state.jump_cut = !held;
        }
        None => {
            choice.state.jump_cut |= choice.state.rising_from_jump && !held;
            tell_refusal(choice, pressed, waited, locked);
        }
    }
}

/// A press that comes to nothing is told: at once, or when it has waited for
/// nothing.
fn tell_refusal<V: Geometry>(choice: &mut Choice<'_, V>, pressed: bool, waited: f32, locked: bool) {
    let given_up = !pressed && waited > SAME && waited - choice.dt <= SAME;
    let hopeless = pressed && choice.state.jump_waits <= SAME;
    if given_up || hopeless {
        let no_footing_for = choice.state.aloft_time;
        choice.refuse(if locked { Refusal::JumpLocked } else { Refusal::Jump { no_footing_for } });
    }
}

fn possible<V: Geometry>(choice: &mut Choice<'_, V>, pressed: bool) -> Option<JumpKind> {
    let (state, jump) = (&*choice.state, &choice.tuning.jump);
    if state.footing.is_firm() {
        return Some(JumpKind::Ground);
    }
    let late = !state.left_by_jump && state.aloft_time <= jump.coyote_time + SAME;
    if late && jump.coyote_time > 0.0 {
        return Some(JumpKind::Late);
    }
    if wall::offers_jump(choice, pressed) {
        return Some(JumpKind::Wall);
    }
    // A press that waits, waits for the ground or a wall.
    (pressed && choice.state.air_jumps > 0).then_some(JumpKind::Air)
}

#[inline(never)]
pub(super) fn take_off<V: Geometry>(kind: JumpKind, choice: &mut Choice<'_, V>) {
    let tuning = choice.tuning;
    let level = choice.body.velocity.flat();
    choice.body.velocity = match kind {
        JumpKind::Ground => level + choice.body.ground_velocity + V::UP * tuning.take_off_speed(),
        JumpKind::Late => level + V::UP * tuning.take_off_speed(),
        JumpKind::Air => {
            let all = whole(tuning.jump.air_count);
            let height = tuning.air_jump_height(all.saturating_sub(choice.state.air_jumps));
            choice.state.air_jumps -= 1;
            level + V::UP * tuning.speed_to_rise(height)
        }
        JumpKind::Wall => wall::push_off(choice),
        JumpKind::Ladder => {
            let along = choice.body.wish * choice.body.top;
            along + choice.body.ground_velocity + V::UP * tuning.speed_to_rise(tuning.ladder.jump_height)
        }
    };
    maneuver::break_off(choice.state, choice.events);
    tell(choice.events, Event::Jumped { kind });
    if choice.state.footing.is_firm() {
        tell(choice.events, Event::LeftGround { by: Departure::Jump });
    }
    choice.take_charge(Mode::Aloft, Owner::Jump);
    choice.state.left_by_jump = true;
    choice.state.rising_from_jump = true;
    choice.state.jump_waits = 0.0;
    choice.state.spin = 0.0;
}
