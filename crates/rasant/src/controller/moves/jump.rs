//! The jump: from the ground, late off an edge, and in the air.

use crate::controller::event::{Departure, Event, Events, JumpKind};
use crate::controller::local::Local;
use crate::controller::state::{Mode, Owner, State};
use crate::input::{Actions, Intent};
use crate::space::Vector;
use crate::tuning::Tuning;

/// Times within this of each other, in seconds, are the same: ticks add up with
/// rounding.
const SAME: f32 = 1e-5;

/// Takes off where a press, new or waiting, meets footing, footing just left by
/// walking, or a jump left in the air. Neither the top of a jump nor a ceiling
/// is footing, and a held button is no press.
pub(super) fn decide<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    body: &mut Local<V>,
    intent: &Intent,
    events: &mut Events<V>,
) {
    if body.mode == Mode::Afoot {
        state.air_jumps = tuning.jump.air_count.round() as u8;
    }
    let pressed = intent.pressed.has(Actions::JUMP);
    if pressed {
        state.jump_waits = tuning.jump.buffer_time;
    }
    let wanted = pressed || state.jump_waits > SAME;
    let held = intent.held.has(Actions::JUMP);
    match wanted.then(|| possible(tuning, state, body.mode, pressed)).flatten() {
        Some(kind) => {
            take_off(kind, tuning, state, body, events);
            // Let go within its own tick, a press is as short as can be.
            state.jump_cut = !held;
        }
        None => state.jump_cut |= state.rising_from_jump && !held,
    }
}

fn possible<V: Vector>(tuning: &Tuning, state: &State<V>, mode: Mode, pressed: bool) -> Option<JumpKind> {
    if mode == Mode::Afoot {
        return Some(JumpKind::Ground);
    }
    let late = !state.left_by_jump && state.aloft_time <= tuning.jump.coyote_time + SAME;
    if late && tuning.jump.coyote_time > 0.0 {
        return Some(JumpKind::Late);
    }
    // A press that waits, waits for the ground.
    (pressed && state.air_jumps > 0).then_some(JumpKind::Air)
}

fn take_off<V: Vector>(
    kind: JumpKind,
    tuning: &Tuning,
    state: &mut State<V>,
    body: &mut Local<V>,
    events: &mut Events<V>,
) {
    let speed = match kind {
        JumpKind::Ground | JumpKind::Late => tuning.take_off_speed(),
        JumpKind::Air => tuning.air_take_off_speed(),
    };
    body.velocity = body.velocity.flat() + V::UP * speed;
    if kind == JumpKind::Ground {
        body.velocity += body.ground_velocity;
        events.push(Event::Jumped { kind });
        events.push(Event::LeftGround { by: Departure::Jump });
    } else {
        events.push(Event::Jumped { kind });
    }
    if kind == JumpKind::Air {
        state.air_jumps -= 1;
    }
    body.mode = Mode::Aloft;
    body.owner = Owner::Jump;
    state.left_by_jump = true;
    state.rising_from_jump = true;
    state.jump_waits = 0.0;
}
