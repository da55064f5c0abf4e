//! Ladders: grabbed by steering up them, or down from their top; left at both ends, to the side, or
//! by a jump.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, Gait, Mode, Name, Owner};
use crate::thresholds::steering;

use super::{Answer, KnobsIn, Law, Move, Outcome, Proposal, Rungs, Senses, Words};

pub use knobs::Ladder;

crate::memory! {
    /// The time until a ladder can be grabbed again.
    pub struct LadderRest {
        /// Seconds before a ladder can be grabbed again.
        pub left: f32,
    }
}

const NAME: Name = Name::new("ladder");

/// The gait of a body on a ladder.
const CLIMB: Name = Name::new("climb");

impl<V: Geometry> Move<V> for Ladder {
    const NAME: Name = NAME;
    const WORDS: Words =
        Words { is_mode: true, ..Words::NONE.gaits(&["climb"]).jumps(&["ladder"]).leaving_ground() };
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.ladder);
    type Memory = LadderRest;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, rest: &LadderRest) -> Answer<V> {
        match &senses.ladder {
            Some(rungs) if !senses.from_above && senses.maneuver().is_none() => at_hand(senses, rungs, rest),
            _ => Answer::Nothing,
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, rest: &mut LadderRest) {
        // A value set by the host may be anything.
        rest.left = (rest.left - senses.dt).max(0.0).min(senses.tuning.ladder.wait_time);
        // A body that arrives at an end may grab the ladder again at once.
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
        // A floor without a hatch blocks it.
        return Answer::Nothing;
    }
    let climb = climbs(senses, rungs, steered);
    Proposal { velocity: Some(V::ZERO), leaves: Some(Departure::Move), ..climb }.into()
}

/// The ladder with `aside` limited to how far the body can move before something stops it, such as
/// the wall that the ladder hangs on.
fn as_far_as_free<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> Rungs<V> {
    let free = senses.sweep(senses.carried_by(), rungs.aside).map_or(1.0, |hit| hit.time);
    Rungs { aside: rungs.aside * free, ..*rungs }
}

/// Returns true if a body beside the ladder is near enough to grab it.
fn is_within_reach<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> bool {
    let sideways = match rungs.front {
        Some(front) if V::DIMENSION == 3 => rungs.aside.slid_along(front).length(),
        _ => rungs.aside.dot(V::RIGHT).abs(),
    };
    sideways <= rungs.half_width.max(senses.hull.half_width())
}

/// Returns true if the hull, moved aside, has something below it that it does not pass on a ladder.
/// A round foot beside an edge touches it within its radius.
fn is_over_solid<V: Geometry>(senses: &Senses<'_, V>, aside: V) -> bool {
    let near = 2.0 * senses.hull.clearance();
    let depth = near + senses.hull.core::<V>().radius;
    let from = senses.carried_by() + aside + V::UP * near;
    let down = V::UP * -(near + depth);
    senses.sweep_through_one_way(from, down).is_some()
}

/// The motion of a tick on the ladder.
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
            // The ladder hangs on a wall: out in front of that, and no further back than the body
            // is.
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
        // The ladder is in front of a wall: from its top the body moves onto the top of that.
        let across = rungs.aside - front * rungs.aside.dot(front);
        aside = across - front * (steered * knobs.up_speed * senses.dt);
    }
    // Up to where the feet would stand on ground flush with the top.
    let most = (rungs.top + senses.hull.clearance()).max(0.0);
    let up = (speed * senses.dt).min(most);
    let displacement = V::UP * up + aside.capped(knobs.up_speed * senses.dt);
    // The body passes hatches, but not the ground at the foot of the ladder.
    let passes_one_way = up < 0.0 && rungs.bottom - up < -2.0 * senses.hull.clearance();
    let lands = !sets_out && (up >= most || speed < 0.0);
    Proposal {
        law: Law::Hold { displacement, velocity: displacement * (1.0 / senses.dt), lands },
        ladder: Some(rungs.zone),
        passes_one_way,
        gait: Some(Gait::Move(CLIMB)),
        ..Proposal::as_itself(Mode::Move(NAME), Owner::Ladder)
    }
}

fn is_at_top<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> bool {
    rungs.top < 4.0 * senses.hull.clearance()
}

/// The vertical steering of the player, −1 to 1.
fn steered_up<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>) -> f32 {
    let steer = match rungs.front {
        Some(front) if V::DIMENSION == 3 => -senses.steer.dot(front),
        _ => senses.intent.safe_steer().y,
    };
    if steer.abs() < steering::MEANT { 0.0 } else { steer }
}

/// Returns true if the body grabs the ladder: up from anywhere but the top, down from the top.
fn takes_hold<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> bool {
    let at_top = is_at_top(senses, rungs);
    let up = steered > steering::CHOSEN && !at_top && !rungs.below;
    let down = steered < -steering::CHOSEN && at_top && senses.ground.firm;
    (up || down) && !senses.intent.pressed.contains(Actions::JUMP)
}

/// Leaves the ladder by a jump, by dropping, to the side, or below the last rung.
fn leaves<V: Geometry>(senses: &Senses<'_, V>, rungs: &Rungs<V>, steered: f32) -> Option<Proposal<V>> {
    let tuning = senses.tuning;
    let pressed = senses.intent.pressed.contains(Actions::JUMP);
    let jumps = pressed && steered >= 0.0 && tuning.ladder.jump_height > 0.0;
    let across = rungs.front.map_or(senses.steer, |front| senses.steer.slid_along(front));
    let sideways = steered == 0.0 && across.length() > steering::CHOSEN;
    let along = senses.steer * senses.top;
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
