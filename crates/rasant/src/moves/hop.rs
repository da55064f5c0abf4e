//! Hops: whole steps of one length along the screen's axes, exact at their end.

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::Vector;
use crate::state::{Heading, Hops, Locks, ManeuverKind, Name, Plan, Refusal};
use crate::tuning::Steering;

use super::maneuver::begins;
use super::{Answer, Move, Outcome, Senses, no_knobs};

/// Less steering than this, of 1, is none.
const STEERED: f32 = 0.5;

/// Begins a hop when one is steered and the way is free.
#[derive(Clone, Copy, Debug)]
pub struct Hop;

no_knobs!(Hop);

impl<V: Geometry> Move<V> for Hop {
    const NAME: Name = Name::new("hop");
    type Memory = Hops;

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, hops: &Hops) -> Answer<V> {
        if senses.tuning.steering == Steering::Hop { by_steps(senses, hops) } else { Answer::Nothing }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, hops: &mut Hops) {
        if senses.tuning.steering == Steering::Hop {
            *hops = after(senses, outcome, hops);
        }
    }
}

#[inline(never)]
fn by_steps<V: Geometry>(senses: &Senses<'_, V>, hops: &Hops) -> Answer<V> {
    let steered = along_an_axis(senses.steered);
    if let Some(maneuver) = senses.maneuver() {
        let refuses = senses.tuning.hop.queue < 0.5 && hops.refused != steered;
        return match asks_on(hops, steered, senses.frame.local(maneuver.direction)) {
            Some(_) if refuses => Answer::Refuses(Refusal::HopUnderWay),
            _ => Answer::Nothing,
        };
    }
    let Some(heading) = hops.waits.or(steered) else { return Answer::Nothing };
    let direction = heading.vector::<V>();
    if !senses.standing() || !senses.state.cooldown.is_over() {
        return Answer::Nothing;
    }
    let hop = &senses.tuning.hop;
    let steps = if senses.intent.held.has(Actions::RUN) { hop.run_steps.round() } else { 1.0 };
    let distance = steps * hop.length;
    if is_blocked(senses, direction * distance) {
        // Once, however long it is steered.
        let told = hops.refused == Some(heading) && steered == hops.refused;
        return if told { Answer::Nothing } else { Answer::Refuses(Refusal::HopBlocked) };
    }
    let plan = Plan {
        active: if steps > 1.5 && hop.run_time > 0.0 { hop.run_time } else { hop.time * steps },
        cooldown: hop.cooldown,
        distance,
        arc: hop.arc,
        gravity: true,
        locks: [Locks::ALL; 3],
        ..Plan::default()
    };
    begins(ManeuverKind::Hop, plan, direction).into()
}

/// Steering during a hop that asks for another: nothing where one goes on steering the
/// same way.
fn asks_on<V: Geometry>(hops: &Hops, steered: Option<Heading>, under_way: V) -> Option<Heading> {
    steered
        .filter(|steered| (steered.vector::<V>() != under_way || hops.let_go) && hops.waits != Some(*steered))
}

#[inline(never)]
fn after<V: Geometry>(senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, hops: &Hops) -> Hops {
    let steered = along_an_axis(senses.steered);
    let mut hops = Hops { refused: hops.refused.filter(|_| hops.refused == steered), ..*hops };
    if let Some(maneuver) = senses.maneuver() {
        hops.let_go |= steered.is_none();
        let asked = asks_on(&hops, steered, senses.frame.local(maneuver.direction));
        if senses.tuning.hop.queue >= 0.5 {
            hops.waits = asked.or(hops.waits);
        } else {
            hops.refused = asked.or(hops.refused);
        }
    } else if outcome.is_mine() {
        hops = Hops { waits: None, let_go: false, ..hops };
    } else if outcome.was_asked() && senses.standing() && senses.state.cooldown.is_over() {
        // Something was in the way of it, if it was asked for.
        hops = Hops { refused: hops.waits.or(steered), waits: None, ..hops };
    }
    hops
}

/// Whether something stands in the whole way of a hop. On foot, what a step or
/// a slope takes is no hindrance.
fn is_blocked<V: Geometry>(senses: &Senses<'_, V>, way: V) -> bool {
    let lift = if senses.from_above { V::ZERO } else { V::UP * senses.tuning.slope.step_height };
    senses.sweep(lift, way).is_some()
}

/// The steering along the axis it is nearest to.
fn along_an_axis<V: Vector>(steered: V) -> Option<Heading> {
    if steered.length() < STEERED {
        return None;
    }
    let (right, forward) = (steered.dot(V::RIGHT), steered.dot(V::FORWARD));
    Some(match (forward.abs() > right.abs(), right > 0.0, forward > 0.0) {
        (false, true, _) => Heading::Right,
        (false, false, _) => Heading::Left,
        (true, _, true) => Heading::Forward,
        (true, _, false) => Heading::Back,
    })
}
