//! Ladders: on by steering up them, or down from their top; off at both ends,
//! to the side, or by a jump.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, Gait, Mode, Name, Owner};
use crate::thresholds::steering;

use super::{Answer, KnobsIn, Law, Move, Outcome, Proposal, Rungs, Senses, Words};

pub use knobs::Ladder;

crate::memory! {
    /// The time between two ladders.
    pub struct LadderRest {
        /// Seconds before a ladder can be grabbed again.
        pub left: f32,
    }
}

const NAME: Name = Name::new("ladder");

/// What an animation shows of a body on a ladder.
const CLIMB: Name = Name::new("climb");

impl<V: Geometry> Move<V> for Ladder {
    const NAME: Name = NAME;
    const WORDS: Words =
        Words { is_mode: true, ..Words::NONE.gaits(&["climb"]).jumps(&["ladder"]).leaving_ground() };
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.ladder);
    type Memory = LadderRest;

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, rest: &LadderRest) -> Answer<V> {
        match &senses.ladder {
            Some(rungs) if !senses.from_above && senses.maneuver().is_none() => at_hand(senses, rungs, rest),
            _ => Answer::Nothing,
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, rest: &mut LadderRest) {
        // A number from outside may be anything.
        rest.left = (rest.left - senses.dt).max(0.0).min(senses.tuning.ladder.wait_time);
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
    let holds = senses.state.ladder == Some(rungs.zone);
    if !holds && (!takes_hold(senses, rungs, steered) || rest.left - senses.dt > 0.0) {
        return Answer::Nothing;
    }
    let rungs = &as_far_as_free(senses, rungs);
    if holds {
        return leaves(senses, rungs, steered).unwrap_or_else(|| climbs(senses, rungs, steered)).into();
    }
    if !is_within_reach(senses, rungs) {
        return Answer::Nothing;
    }
    let on_foot = senses.state.footing.is_firm();
    if steered < 0.0 && on_foot && rungs.front.is_none() && is_over_solid(senses, rungs.aside) {
        // A floor without a hatch is in the way.
        return Answer::Nothing;
    }
    let climb = climbs(senses, rungs, steered);
    Proposal { velocity: Some(V::ZERO), leaves: Some(Departure::Move), ..climb }.into()
}

/// The ladder with `aside` as far as the body can go before something is in its way, such as the wall
/// that the ladder hangs on.
fn as_far_as_free<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> Rungs<V> {
    let free = senses.sweep(senses.carried_by(), rungs.aside).map_or(1.0, |hit| hit.time);
    Rungs { aside: rungs.aside * free, ..*rungs }
}

/// Whether a body beside the ladder is near enough to take hold of it.
fn is_within_reach<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> bool {
    let sideways = match rungs.front {
        Some(front) if V::DIMENSION == 3 => rungs.aside.slid_along(front).length(),
        _ => rungs.aside.dot(V::RIGHT).abs(),
    };
    sideways <= rungs.half_width.max(senses.hull.half_width())
}

/// Whether the hull, moved aside, has something below it that it is not let through on a ladder. A
/// round foot beside an edge meets it within its radius.
fn is_over_solid<V: Geometry>(senses: &Senses<'_, V>, aside: V) -> bool {
    let near = 2.0 * senses.hull.clearance();
    let depth = near + senses.hull.core::<V>().radius;
    let from = senses.carried_by() + aside + V::UP * near;
    let down = V::UP * -(near + depth);
    senses.sweep_through_one_way(from, down).is_some()
}

/// What a tick on the ladder does.
fn climbs<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> Proposal<V> {
    let knobs = &senses.tuning.ladder;
    let slides = steered < 0.0 && senses.intent.held.contains(Actions::CROUCH);
    let down = if slides { knobs.slide_speed } else { knobs.down_speed };
    let mut speed = if steered > 0.0 { steered * knobs.up_speed } else { steered * down };
    let mut sets_out = false;
    let mut aside = rungs.aside;
    if is_at_top(senses, rungs) && steered < 0.0 {
        // Past the edge of the roof: first aside, until nothing is below the hull.
        let back = rungs.front.map_or(V::ZERO, |front| front * (-2.0 * senses.hull.clearance()));
        sets_out = is_over_solid(senses, back);
        if let Some(front) = rungs.front
            && is_over_solid(senses, aside)
        {
            // The ladder hangs on a wall: out before that, and no further back than the body is.
            let out = if sets_out { knobs.down_speed * senses.dt } else { 0.0 };
            aside += front * (out - aside.dot(front));
        }
        if sets_out {
            speed = 0.0;
        }
    } else if let Some(front) = rungs.front
        && rungs.top <= 0.0
        && steered > 0.0
    {
        // The ladder is before a wall: from its top one goes onto what that carries.
        let across = rungs.aside - front * rungs.aside.dot(front);
        aside = across - front * (steered * knobs.up_speed * senses.dt);
    }
    // Up to where the feet would stand on ground flush with the top.
    let most = (rungs.top + senses.hull.clearance()).max(0.0);
    let up = (speed * senses.dt).min(most);
    let way = V::UP * up + aside.capped(knobs.up_speed * senses.dt);
    // Hatches are let by, and the ground at the foot of the ladder is not.
    let passes_one_way = up < 0.0 && rungs.bottom - up < -2.0 * senses.hull.clearance();
    let lands = !sets_out && (up >= most || speed < 0.0);
    Proposal {
        law: Law::Hold { way, velocity: way * (1.0 / senses.dt), lands },
        ladder: Some(rungs.zone),
        passes_one_way,
        gait: Some(Gait::Move(CLIMB)),
        ..Proposal::as_itself(Mode::Move(NAME), Owner::Ladder)
    }
}

fn is_at_top<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> bool {
    rungs.top < 4.0 * senses.hull.clearance()
}

/// How far the player wants up, −1 to 1.
fn steered_up<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> f32 {
    let steer = match rungs.front {
        Some(front) if V::DIMENSION == 3 => -senses.wish.dot(front),
        _ => senses.intent.safe_steer().y,
    };
    if steer.abs() < steering::MEANT { 0.0 } else { steer }
}

/// Whether the body takes hold: up from anywhere but the top, down from it.
fn takes_hold<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> bool {
    let at_top = is_at_top(senses, rungs);
    let up = steered > steering::CHOSEN && !at_top && !rungs.below;
    let down = steered < -steering::CHOSEN && at_top && senses.ground.firm;
    (up || down) && !senses.intent.pressed.contains(Actions::JUMP)
}

/// Lets go by a jump, by dropping, to the side, or below the last rung.
fn leaves<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> Option<Proposal<V>> {
    let tuning = senses.tuning;
    let pressed = senses.intent.pressed.contains(Actions::JUMP);
    let jumps = pressed && steered >= 0.0 && tuning.ladder.jump_height > 0.0;
    let across = rungs.front.map_or(senses.wish, |front| senses.wish.slid_along(front));
    let sideways = steered == 0.0 && across.length() > steering::CHOSEN;
    let along = senses.wish * senses.top;
    if jumps {
        let up = V::UP * tuning.speed_to_rise(tuning.ladder.jump_height);
        Some(Proposal {
            velocity: Some(along + senses.ground_velocity + up),
            jumps: Some(NAME),
            by_key: true,
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
