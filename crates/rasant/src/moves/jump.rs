//! The jump: from the ground, late off an edge, off a wall, and in the air.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, JumpKind, Jumps, Locks, Mode, Name, Owner, Refusal, SAME, whole};
use crate::tuning::Tuning;

use super::{Answer, Move, Outcome, Proposal, Senses, no_knobs, wall};

/// Takes off where a press, new or waiting, meets footing, footing just left by
/// walking, a wall to jump off, or a jump left in the air. Neither the top of a
/// jump nor a ceiling is footing, and a held button is no press.
#[derive(Clone, Copy, Debug)]
pub struct Jump;

no_knobs!(Jump);

impl<V: Geometry> Move<V> for Jump {
    const NAME: Name = Name::new("jump");
    type Memory = Jumps;

    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::JUMP
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, jumps: &Jumps) -> Answer<V> {
        let pressed = senses.intent.pressed.has(Actions::JUMP);
        let repeats =
            senses.tuning.jump.repeat >= 0.5 && senses.intent.held.has(Actions::JUMP) && senses.ground.firm;
        if senses.from_above || !(pressed || repeats || jumps.wait > SAME) {
            return Answer::Nothing;
        }
        asked(senses, jumps, pressed, repeats)
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, jumps: &mut Jumps) {
        if senses.ground.firm {
            jumps.air = whole(senses.tuning.jump.air_count);
        }
        let pressed = senses.intent.pressed.has(Actions::JUMP);
        if pressed || jumps.wait > 0.0 || !outcome.events.is_empty() || senses.state.ladder.is_some() {
            after(senses, outcome, jumps, pressed);
        }
    }
}

#[inline(never)]
fn after<V: Geometry>(senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, jumps: &mut Jumps, pressed: bool) {
    let tuning = senses.tuning;
    let climbs = senses.state.ladder.is_some() || outcome.state.ladder.is_some();
    let by_ladder = climbs && tuning.ladder.gives_jumps >= 0.5;
    let by_wall = outcome.jumped(JumpKind::Wall) && tuning.wall.gives_jumps >= 0.5;
    if by_ladder || by_wall {
        jumps.air = whole(tuning.jump.air_count);
    }
    if outcome.jumped(JumpKind::Air) {
        jumps.air = jumps.air.saturating_sub(1);
    }
    // A press that a maneuver or a lock is in the way of waits like one in the air.
    let heard = outcome.was_asked() || outcome.locks_jump || outcome.began;
    if outcome.took_off() {
        jumps.wait = 0.0;
    } else if pressed && heard && !senses.from_above && tuning.jump.buffer_time > SAME {
        // A little longer, so that a whole number of ticks is one.
        jumps.wait = tuning.jump.buffer_time + 2.0 * SAME;
    }
    jumps.wait = (jumps.wait - senses.dt).max(0.0);
}

#[inline(never)]
fn asked<V: Geometry>(senses: &Senses<'_, V>, jumps: &Jumps, pressed: bool, repeats: bool) -> Answer<V> {
    // A press that waits does not break off what has begun meanwhile.
    let drives = senses.maneuver().is_some_and(|maneuver| maneuver.drives());
    let wanted = pressed || repeats || !drives;
    let locked = senses.locks.has(Locks::JUMP);
    let mut offer = wall::Offer::Nothing;
    if wanted && !locked {
        offer = wall::offers_jump(senses);
        if let Some(kind) = possible(senses, jumps, pressed, offer) {
            return take_off(senses, jumps, kind).into();
        }
    }
    // A press that comes to nothing is told: at once, or when it has waited for nothing,
    // to the end or to the next.
    let given_up = jumps.wait > SAME && (pressed || jumps.wait - senses.dt <= SAME);
    let hopeless = pressed && senses.tuning.jump.buffer_time <= SAME;
    if !(given_up || hopeless) {
        return Answer::Nothing;
    }
    let air = senses.state.air.filter(|air| air.by != Departure::Placed);
    let no_footing_for = air.map(|air| air.time.seconds());
    Answer::Refuses(match offer {
        _ if locked => Refusal::JumpLocked,
        wall::Offer::TooMany => Refusal::WallJump,
        _ => Refusal::Jump { no_footing_for },
    })
}

fn possible<V: Geometry>(
    senses: &Senses<'_, V>,
    jumps: &Jumps,
    pressed: bool,
    offer: wall::Offer,
) -> Option<JumpKind> {
    let jump = &senses.tuning.jump;
    if senses.ground.firm {
        return Some(JumpKind::Ground);
    }
    let walked_off = senses.state.air.is_some_and(|air| {
        air.by == Departure::Edge && air.time.is_within(jump.coyote_time) && jump.coyote_time > 0.0
    });
    if walked_off {
        return Some(JumpKind::Late);
    }
    if offer == wall::Offer::Jump {
        return Some(JumpKind::Wall);
    }
    // A press that waits, waits for the ground or a wall.
    (pressed && jumps.air > 0).then_some(JumpKind::Air)
}

fn take_off<V: Geometry>(senses: &Senses<'_, V>, jumps: &Jumps, kind: JumpKind) -> Proposal<V> {
    let tuning = senses.tuning;
    let level = senses.velocity.flat();
    let velocity = match kind {
        JumpKind::Ground => level + senses.ground_velocity + V::UP * tuning.take_off_speed(),
        JumpKind::Air => {
            let all = whole(tuning.jump.air_count);
            let height = tuning.air_jump_height(all.saturating_sub(jumps.air));
            level + V::UP * tuning.speed_to_rise(height)
        }
        JumpKind::Wall => wall::push_off(senses),
        _ => level + V::UP * tuning.take_off_speed(),
    };
    Proposal {
        velocity: Some(velocity),
        leaves: Some(Departure::Jump),
        jumps: Some(kind),
        ..Proposal::as_itself(Mode::Airborne, Owner::Jump)
    }
}
