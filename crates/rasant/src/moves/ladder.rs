//! Ladders: on by steering up them, or down from their top; off at both ends,
//! to the side, or by a jump.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::level::PieceId;
use crate::state::{Departure, JumpKind, LadderRest, Mode, Name, Owner};

use super::drop::DOWN;
use super::{Answer, Law, Move, Outcome, Proposal, Rungs, Senses, no_knobs};

/// How far up the steer must point to take hold, of 1.
const UP: f32 = 0.5;
/// Less steering than this up or down, of 1, is none.
const LEVEL: f32 = 0.3;
/// Clearances before the middle of a ladder from which the body goes straight down.
const BEFORE: f32 = 0.2;

/// Takes hold of a ladder, climbs it, and lets go.
#[derive(Clone, Copy, Debug)]
pub struct Ladder;

no_knobs!(Ladder);

impl<V: Geometry> Move<V> for Ladder {
    const NAME: Name = Name::new("ladder");
    type Memory = LadderRest;

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, rest: &LadderRest) -> Answer<V> {
        match &senses.ladder {
            Some(rungs) if !senses.from_above && senses.under_way.is_none() => at_hand(senses, rungs, rest),
            _ => Answer::Nothing,
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, rest: &mut LadderRest) {
        rest.left = (rest.left - senses.dt).max(0.0);
        // Who arrives at an end may take it again at once.
        let let_go = senses.state.ladder.is_some() && outcome.state.ladder.is_none();
        if let_go && senses.ladder.is_some() && !outcome.state.footing.is_firm() {
            rest.left = senses.tuning.ladder.wait_time;
        }
    }
}

#[inline(never)]
fn at_hand<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, rest: &LadderRest) -> Answer<V> {
    let steered = steered_up(senses, rungs);
    if senses.state.ladder == Some(rungs.zone) {
        return leaves(senses, rungs, steered).unwrap_or_else(|| climbs(senses, rungs, steered)).into();
    }
    if !takes_hold(senses, rungs, steered) || rest.left - senses.dt > 0.0 {
        return Answer::Nothing;
    }
    let mut passes = None;
    if steered < 0.0 && senses.state.footing.is_firm() {
        match floor_of(senses, rungs) {
            Floor::None => {}
            Floor::OneWay(piece) => passes = Some(piece),
            Floor::Solid => return Answer::Nothing,
        }
    }
    let climb = climbs(senses, rungs, steered);
    Proposal { velocity: Some(V::ZERO), leaves: Some(Departure::Ladder), passes, ..climb }.into()
}

/// What a body that stands at the top of a ladder has to go through on its way down.
enum Floor {
    None,
    OneWay(PieceId),
    Solid,
}

/// Looks down from where the body will hold the ladder. Before a wall it goes out first.
fn floor_of<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> Floor {
    let ground = &senses.state.footing;
    if ground.one_way {
        return Floor::OneWay(ground.piece);
    }
    if rungs.front.is_some() {
        return Floor::None;
    }
    let near = V::UP * (2.0 * senses.hull.clearance());
    match senses.sweep(rungs.aside + near, near * -2.0) {
        Some(hit) if hit.tag.one_way => Floor::OneWay(hit.tag.piece),
        Some(_) => Floor::Solid,
        None => Floor::None,
    }
}

/// What a tick on the ladder does.
fn climbs<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> Proposal<V> {
    let knobs = &senses.tuning.ladder;
    let slides = steered < 0.0 && senses.intent.held.has(Actions::CROUCH);
    let down = if slides { knobs.slide_speed } else { knobs.down_speed };
    let mut speed = if steered > 0.0 { steered * knobs.up_speed } else { steered * down };
    let mut sets_out = false;
    let mut aside = rungs.aside;
    if let Some(front) = rungs.front
        && is_at_top(senses, rungs)
    {
        // The ladder is before a wall: from its top one goes onto what that carries,
        // and down from there by going out before the wall first.
        if steered > 0.0 && rungs.top <= 0.0 {
            let across = aside - front * aside.dot(front);
            aside = across - front * (steered * knobs.up_speed * senses.dt);
        } else if steered < 0.0 {
            let before = aside.dot(front) > BEFORE * senses.hull.clearance();
            let over = over_ground(senses);
            if before || over {
                (speed, sets_out) = (0.0, true);
            }
            if over && !before {
                // On, until nothing is below any part of the hull.
                aside = front * (-steered * knobs.down_speed * senses.dt);
            }
        }
    }
    // Up to where the feet would stand on ground flush with the top.
    let most = (rungs.top + senses.hull.clearance()).max(0.0);
    let up = (speed * senses.dt).min(most);
    let way = V::UP * up + aside.capped(knobs.up_speed * senses.dt);
    let lands = !sets_out && (up >= most || speed < 0.0);
    Proposal {
        law: Law::Hold { way, velocity: way * (1.0 / senses.dt), lands },
        ladder: Some(rungs.zone),
        ..Proposal::as_itself(Mode::Ladder, Owner::Ladder)
    }
}

fn is_at_top<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> bool {
    rungs.top < 4.0 * senses.hull.clearance()
}

/// Whether there is something right below the hull that it is not let through.
fn over_ground<V: Geometry>(senses: &Senses<'_, V>) -> bool {
    let near = V::UP * (-2.0 * senses.hull.clearance());
    let passing = senses.state.passing;
    senses.patch.sweep_past(V::ZERO, near, None, |tag| passing == Some(tag.piece)).hit.is_some()
}

/// How far the player wants up, −1 to 1.
fn steered_up<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> f32 {
    let steer = match rungs.front {
        Some(front) if V::DIMENSION == 3 => -senses.wish.dot(front),
        _ => senses.intent.safe_steer().y,
    };
    if steer.abs() < LEVEL { 0.0 } else { steer }
}

/// Whether the body takes hold: up from anywhere but the top, down from it.
fn takes_hold<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> bool {
    let at_top = is_at_top(senses, rungs);
    let up = steered > UP && !at_top && !rungs.below;
    let down = steered < DOWN && at_top && senses.ground.firm;
    (up || down) && !senses.intent.pressed.has(Actions::JUMP)
}

/// Lets go by a jump, by dropping, to the side, or below the last rung.
fn leaves<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> Option<Proposal<V>> {
    let tuning = senses.tuning;
    let pressed = senses.intent.pressed.has(Actions::JUMP);
    let jumps = pressed && steered >= 0.0 && tuning.ladder.jump_height > 0.0;
    let across = rungs.front.map_or(senses.wish, |front| senses.wish.slid_along(front));
    let sideways = steered == 0.0 && across.length() > UP;
    let along = senses.wish * senses.top;
    if jumps {
        let up = V::UP * tuning.speed_to_rise(tuning.ladder.jump_height);
        Some(Proposal {
            velocity: Some(along + senses.ground_velocity + up),
            jumps: Some(JumpKind::Ladder),
            ..Proposal::as_itself(Mode::Airborne, Owner::Jump)
        })
    } else if pressed || sideways || rungs.below {
        let along = if sideways { along } else { V::ZERO };
        Some(Proposal {
            velocity: Some(along + senses.ground_velocity),
            ..Proposal::as_itself(Mode::Airborne, Owner::Air)
        })
    } else {
        None
    }
}
