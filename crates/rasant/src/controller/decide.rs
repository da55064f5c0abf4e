//! Who has charge of a tick, and what is to be done in it.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::moves::{self, Chosen, Decision, Law, Senses, Turning, UnderWay};
use crate::space::Vector;
use crate::state::{Departure, Locks, Maneuver, Mode, Owner, Phase};
use crate::thresholds::rounding;

use super::charge::Charge;
use super::drive;

/// Room for what is decided, so that it is not moved about.
pub(super) struct Slots<V> {
    pub decision: Decision<V>,
    pub begun: Option<UnderWay<V>>,
}

impl<V> Slots<V> {
    pub fn empty() -> Self {
        Self { decision: Decision::none(), begun: None }
    }
}

/// Decides a tick: the host leads, or the first move that takes charge has it, or the
/// maneuver that is under way, or the body does what it does by itself.
#[inline(always)] // called once
pub(super) fn decide<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    slots: &'a mut Slots<V>,
) {
    let Slots { decision, begun } = slots;
    if senses.led.is_some() {
        // What is under way goes on, and locks what it locks.
        charge.locks = charge.under_way.map_or(Locks::ALL, |under_way| under_way.locks);
        charge.wish = V::ZERO;
        charge.owner = Owner::Maneuver;
        if senses.led.is_some_and(|way| way.height() > 0.0) && !senses.from_above {
            charge.leaves = Some(Departure::Maneuver);
        }
        return;
    }
    if senses.state.is_held() {
        // Nothing is to be had of what holds it fast.
        return go_on(charge, senses);
    }
    moves::decide(senses, decision);
    charge.refused = &decision.refused;
    match &decision.taken {
        Some(taken) => take_charge(charge, senses, taken, begun),
        None => go_on(charge, senses),
    }
}

/// A maneuver under way goes on; wind takes who stands off its feet.
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
            charge.leaves = Some(Departure::Launch);
        }
    }
}

#[inline(never)]
fn take_charge<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    taken: &'a Chosen<V>,
    begun: &'a mut Option<UnderWay<V>>,
) {
    let proposal = &taken.proposal;
    charge.owner = proposal.owner;
    charge.law = proposal.law;
    charge.locks = proposal.locks;
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
                wish: senses.wish,
                dt: senses.dt,
            };
            let under_way = moves::under_way(name, &maneuver, &turning);
            charge.locks = under_way.locks;
            if under_way.leaves {
                charge.leaves = Some(Departure::Maneuver);
            }
            charge.under_way = Some(begun.insert(under_way));
            charge.begins = true;
        }
        // One that takes no time at all does not begin.
        Some(_) => {}
        None => charge.mode = proposal.mode,
    }
    charge.taken = Some(taken);
    if charge.locks.contains(Locks::STEER) {
        charge.wish = V::ZERO;
    }
    if proposal.jumps.is_some() {
        // Let go within its own tick, a press is as short as can be.
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

/// Gives a move that stands and does what the body does by itself the velocity that it asks for: up from
/// the ground it leaves it, else the body goes on along the ground with it.
fn set_velocity_on_foot<V: Geometry>(charge: &mut Charge<'_, V>, senses: &Senses<'_, V>, velocity: V) {
    let on_ground = velocity - senses.ground_velocity;
    if on_ground.dot(senses.ground.normal) > rounding::OFF_GROUND * on_ground.length() {
        charge.leaves = Some(Departure::Move);
    } else {
        charge.velocity = on_ground;
    }
}

/// Whether a law leaves a body that stands on the ground that it is on.
fn keeps_to_the_ground<V: Vector>(law: &Law<V>) -> bool {
    match law {
        Law::Usual => true,
        Law::Set(set) => set.way.height() <= 0.0,
        Law::Fall(_) | Law::Toward(_) | Law::Hold { .. } => false,
    }
}
