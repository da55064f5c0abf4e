//! Ladders: on by steering up them, or down from their top; off at both ends,
//! to the side, or by a jump.

use crate::contact::Geometry;
use crate::controller::around::Rungs;
use crate::controller::event::{Departure, Event, JumpKind, tell};
use crate::controller::state::{Mode, Owner};
use crate::input::Actions;

use super::drop::DOWN;
use super::{Choice, jump, whole};

/// How far up the steer must point to take hold, of 1.
const UP: f32 = 0.5;
/// Less steering than this up or down, of 1, is none.
const LEVEL: f32 = 0.3;

/// Metres before the middle of a ladder from which one goes straight down.
const BEFORE: f32 = 1e-3;

/// What a tick on a ladder sets out to do, in the body's frame.
#[derive(Clone, Copy, Debug)]
pub(in crate::controller) struct Climb {
    /// The speed up, below 0 down.
    pub speed: f32,
    /// How far the feet are below the ladder's top.
    pub to_top: f32,
    /// Whether it sets out from the ground that the ladder leads to, and does not stand
    /// on that meanwhile.
    pub sets_out: bool,
}

/// Takes hold of a ladder, climbs it, and lets go. Says whether the body is on
/// one.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    choice.state.ladder_wait = (choice.state.ladder_wait - choice.dt).max(0.0);
    match choice.around.ladder {
        Some(rungs) => at_hand(choice, rungs),
        None => {
            let_go(choice);
            false
        }
    }
}

/// The same where a ladder is within reach.
#[inline(never)]
fn at_hand<V: Geometry>(choice: &mut Choice<'_, V>, rungs: Rungs<V>) -> bool {
    let steered = steered_up(choice, &rungs);
    if choice.state.ladder != Some(rungs.zone) && !takes_hold(choice, &rungs, steered) {
        return false;
    }
    if choice.tuning.ladder.gives_jumps >= 0.5 {
        choice.state.air_jumps = whole(choice.tuning.jump.air_count);
    }
    if leaves(choice, &rungs, steered) {
        return true;
    }
    let knobs = &choice.tuning.ladder;
    let slides = steered < 0.0 && choice.intent.held.has(Actions::CROUCH);
    let down = if slides { knobs.slide_speed } else { knobs.down_speed };
    let speed = if steered > 0.0 { steered * knobs.up_speed } else { steered * down };
    let mut climb = Climb { speed, to_top: rungs.top, sets_out: false };
    let mut aside = rungs.aside;
    if rungs.front != V::ZERO && is_at_top(choice, &rungs) {
        // The ladder is before a wall: from its top one goes onto what that carries,
        // and down from there by going out before the wall first.
        if steered > 0.0 && rungs.top <= 0.0 {
            let across = aside - rungs.front * aside.dot(rungs.front);
            aside = across - rungs.front * (steered * knobs.up_speed * choice.dt);
        } else if steered < 0.0 {
            let before = aside.dot(rungs.front) > BEFORE;
            let over = over_ground(choice);
            if before || over {
                climb = Climb { speed: 0.0, sets_out: true, ..climb };
            }
            if over && !before {
                // On, until nothing is below any part of the hull.
                aside = rungs.front * (-steered * knobs.down_speed * choice.dt);
            }
        }
    }
    choice.body.climb = climb;
    choice.body.aside = aside;
    choice.take_charge(Mode::Ladder, Owner::Ladder);
    true
}

fn is_at_top<V: Geometry>(choice: &Choice<'_, V>, rungs: &Rungs<V>) -> bool {
    rungs.top < 4.0 * choice.patch.clearance()
}

/// Whether there is something right below the hull that it is not let through.
fn over_ground<V: Geometry>(choice: &Choice<'_, V>) -> bool {
    let near = V::UP * (-2.0 * choice.patch.clearance());
    let passing = choice.state.passing;
    choice.patch.sweep_past(V::ZERO, near, None, |tag| passing == Some(tag.piece)).hit.is_some()
}

/// How far the player wants up, −1 to 1.
fn steered_up<V: Geometry>(choice: &Choice<'_, V>, rungs: &Rungs<V>) -> f32 {
    let steer = if V::DIMENSION == 3 && rungs.front != V::ZERO {
        -choice.body.wish.dot(rungs.front)
    } else {
        choice.intent.safe_steer().y
    };
    if steer.abs() < LEVEL { 0.0 } else { steer }
}

/// Whether the body takes hold: up from anywhere but the top, down from it.
fn takes_hold<V: Geometry>(choice: &mut Choice<'_, V>, rungs: &Rungs<V>, steered: f32) -> bool {
    let at_top = is_at_top(choice, rungs);
    let up = steered > UP && !at_top;
    let down = steered < DOWN && at_top && choice.state.footing.is_firm();
    if !(up || down) || choice.state.ladder_wait > 0.0 {
        return false;
    }
    let state = &mut *choice.state;
    if state.footing.is_firm() {
        if down && state.footing.one_way {
            state.passing = Some(state.footing.piece);
        }
        tell(choice.events, Event::LeftGround { by: Departure::Ladder });
    }
    state.ladder = Some(rungs.zone);
    state.left_by_jump = true;
    state.rising_from_jump = false;
    state.jump_cut = false;
    choice.body.velocity = V::ZERO;
    tell(choice.events, Event::LadderTaken { zone: rungs.zone });
    true
}

/// Lets go by a jump, by dropping, to the side, or below the last rung.
fn leaves<V: Geometry>(choice: &mut Choice<'_, V>, rungs: &Rungs<V>, steered: f32) -> bool {
    let pressed = choice.intent.pressed.has(Actions::JUMP);
    let jumps = pressed && steered >= 0.0 && choice.tuning.ladder.jump_height > 0.0;
    let sideways = steered == 0.0 && choice.body.wish.slid_along(rungs.front).length() > UP;
    if !(pressed || sideways || rungs.below) {
        return false;
    }
    let_go(choice);
    choice.state.ladder_wait = choice.tuning.ladder.wait_time;
    if jumps {
        choice.body.velocity = V::ZERO;
        jump::take_off(JumpKind::Ladder, choice);
    } else {
        let along = if sideways { choice.body.wish * choice.body.top } else { V::ZERO };
        choice.body.velocity = along + choice.body.ground_velocity;
        choice.take_charge(Mode::Aloft, Owner::Air);
    }
    true
}

fn let_go<V: Geometry>(choice: &mut Choice<'_, V>) {
    if let Some(zone) = choice.state.ladder.take() {
        tell(choice.events, Event::LadderLeft { zone });
    }
}
