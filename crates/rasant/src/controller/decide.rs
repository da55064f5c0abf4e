//! The decide stage: what has charge of a tick, and what it does.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::moves::{self, Chosen, Decision, Law, Senses, Turning, UnderWay};
use crate::space::Vector;
use crate::state::{Departure, Maneuver, Mode, Mutes, Owner, Phase};
use crate::thresholds::rounding;

use super::charge::Charge;
use super::drive;

/// Storage for the decision, so that it is not copied.
pub(super) struct Slots<V> {
    pub decision: Decision<V>,
    pub begun: Option<UnderWay<V>>,
}

impl<V> Slots<V> {
    pub fn empty() -> Self {
        Self { decision: Decision::none(), begun: None }
    }
}

/// Decides a tick: the host leads, or the first move that takes charge does, or the running
/// maneuver, or the body moves by itself.
#[inline(always)] // called once
pub(super) fn decide<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    slots: &'a mut Slots<V>,
) {
    let Slots { decision, begun } = slots;
    if senses.led.is_some() {
        // A running maneuver continues, and mutes what it mutes.
        charge.mutes = charge.under_way.map_or(Mutes::ALL, |under_way| under_way.mutes);
        charge.steer = V::ZERO;
        charge.owner = Owner::Maneuver;
        if senses.led.is_some_and(|displacement| displacement.height() > 0.0) && !senses.from_above {
            charge.leaves = Some(Departure::Maneuver);
        }
        return;
    }
    if senses.state.is_held() {
        // A body that is held fast does nothing.
        return go_on(charge, senses);
    }
    moves::decide(senses, decision);
    charge.refused = &decision.refused;
    match &decision.chosen {
        Some(chosen) => take_charge(charge, senses, chosen, begun),
        None => go_on(charge, senses),
    }
}

/// A running maneuver continues. Wind lifts a standing body off its feet.
#[inline]
fn go_on<V: Geometry>(charge: &mut Charge<'_, V>, senses: &Senses<'_, V>) {
    if let Some(under_way) = charge.under_way {
        let maneuver = &under_way.maneuver;
        if maneuver.drives() || under_way.name == Maneuver::<V>::KNOCKBACK {
            charge.owner = Owner::Maneuver;
        }
        if under_way.leaves {
            charge.leaves = Some(Departure::Maneuver);
        }
    }
    if senses.push.height() > 0.0 && charge.mode == Mode::Grounded && !senses.from_above {
        let driven = charge.drives().is_some();
        if !driven && drive::is_lifted(senses, charge) {
            charge.mode = Mode::Airborne;
            charge.velocity = senses.velocity.flat() + senses.ground_velocity;
            charge.leaves = Some(Departure::Throw);
        }
    }
}

#[inline(never)]
fn take_charge<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    chosen: &'a Chosen<V>,
    begun: &'a mut Option<UnderWay<V>>,
) {
    let proposal = &chosen.proposal;
    charge.owner = proposal.owner;
    charge.law = proposal.law;
    charge.mutes = proposal.mutes;
    charge.under_way = None;
    charge.leaves = proposal.leaves;
    charge.jumps = proposal.jumps;
    if let Some(velocity) = proposal.velocity {
        charge.velocity = velocity;
    }
    match &proposal.begins {
        Some((name, plan, direction)) if plan.phase_at(0.0) != Phase::Cooldown => {
            let direction = senses.frame.world(*direction);
            let (name, plan) = (*name, *plan);
            let maneuver = Maneuver { plan, direction, origin: senses.state.position, age: 0.0 };
            let turning = Turning {
                intent: senses.intent,
                frame: senses.frame,
                from_above: senses.from_above,
                firm: senses.ground.firm,
                steer: senses.steer,
                dt: senses.dt,
            };
            let under_way = moves::under_way(name, &maneuver, &turning);
            charge.mutes = under_way.mutes;
            if under_way.leaves {
                charge.leaves = Some(Departure::Maneuver);
            }
            charge.under_way = Some(begun.insert(under_way));
            charge.begins = true;
        }
        // A maneuver that takes no time does not begin.
        Some(_) => {}
        None => charge.mode = proposal.mode,
    }
    charge.chosen = Some(chosen);
    if charge.mutes.contains(Mutes::STEER) {
        charge.steer = V::ZERO;
    }
    if proposal.jumps.is_some() {
        // If it was released within the same tick, the press is as short as possible.
        charge.by_key = proposal.by_key || senses.intent.pressed.contains(Actions::JUMP);
        charge.cut = charge.by_key && !senses.intent.held.contains(Actions::JUMP);
    }
    let stays = charge.mode == Mode::Grounded || charge.begins;
    if senses.ground.firm && !stays && charge.leaves.is_none() {
        charge.leaves = match charge.mode {
            Mode::Move(_) if !keeps_to_the_ground(&charge.law) => Some(Departure::Move),
            Mode::Move(_) => None,
            _ => Some(Departure::Edge),
        };
    }
    if let Some(velocity) = proposal.velocity
        && senses.ground.firm
        && charge.leaves.is_none()
        && charge.law == Law::Usual
    {
        set_velocity_on_foot(charge, senses, velocity);
    }
}

/// Applies the velocity of a move that stands and moves as by itself: upward it leaves the ground,
/// otherwise the body continues along the ground with it.
fn set_velocity_on_foot<V: Geometry>(charge: &mut Charge<'_, V>, senses: &Senses<'_, V>, velocity: V) {
    let on_ground = velocity - senses.ground_velocity;
    if on_ground.dot(senses.ground.normal) > rounding::OFF_GROUND * on_ground.length() {
        charge.leaves = Some(Departure::Move);
    } else {
        charge.velocity = on_ground;
    }
}

/// Returns true if a law keeps a standing body on its ground.
fn keeps_to_the_ground<V: Vector>(law: &Law<V>) -> bool {
    match law {
        Law::Usual => true,
        Law::Set(set) => set.displacement.height() <= 0.0,
        Law::Fall(_) | Law::Toward(_) | Law::Hold { .. } => false,
    }
}
