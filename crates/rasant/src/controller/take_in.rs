//! The take-in stage: what happened to a body between two ticks: what the host did to it, the
//! height of its hull, and ground that moves away from under it.

use crate::contact::{Geometry, Hull};
use crate::input::{Actions, Intent};
use crate::level::{CarrierId, Ride, Surroundings, ZoneId};
use crate::space::{Frame, Vector};
use crate::state::{
    Air, Changes, Departure, Event, Events, Footing, Mode, Pending, Phase, Refusal, State, emit,
};
use crate::tuning::Tuning;

use super::room::has_room;

/// The hull, centred on the position for a body seen from above.
pub(super) fn as_seen<V: Geometry>(tuning: &Tuning, hull: &Hull) -> Hull {
    if tuning.steering.is_from_above(V::DIMENSION) { hull.centred() } else { *hull }
}

/// Emits the events of what the host has done since the last tick.
#[cold]
#[inline(never)]
pub(super) fn emit_pending<V: Vector>(pending: &Pending<V>, state: &State<V>, events: &mut Events<V>) {
    let Pending { changes, ended, ladder, .. } = *pending;
    let (maneuver, moved) =
        if changes.contains(Changes::MANEUVER_ENDED) { (ended, None) } else { (None, ended) };
    if let Some(name) = maneuver {
        emit(events, Event::ManeuverPhase { name, phase: Phase::Cooldown });
    }
    if let Some(zone) = ladder {
        emit(events, Event::LadderLeft { zone });
    }
    if let Some(name) = moved {
        emit(events, Event::MoveEnded { name });
    }
    if changes.contains(Changes::THROWN) {
        emit(events, Event::LeftGround { by: Departure::Throw, of: None });
    }
    if changes.contains(Changes::OFF_THE_WALL) {
        emit(events, Event::WallLeft);
    }
    if changes.contains(Changes::STOOD_UP) {
        emit(events, Event::StoodUp);
    }
    if changes.contains(Changes::RESPAWNED) {
        emit(events, Event::Respawned);
    }
    if changes.contains(Changes::TELEPORTED) {
        emit(events, Event::Teleported);
    }
    if let Some(maneuver) = state.maneuver.as_ref().filter(|_| changes.contains(Changes::BEGUN)) {
        emit(events, Event::ManeuverPhase { name: state.mode.name(), phase: maneuver.phase() });
    }
}

/// Returns true if taking in has changed a state.
#[inline]
pub(super) fn has_changed<V: Geometry>(before: &State<V>, now: &State<V>) -> bool {
    before.posture.lowered != now.posture.lowered
        || before.crouched != now.crouched
        || before.footing.kind != now.footing.kind
}

/// Lowers and raises the hull, for a crouch or as a move requests. Returns the hull of this tick.
#[inline]
pub(super) fn posture<V: Geometry>(
    tuning: &Tuning,
    own: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) -> Hull {
    let held = intent.held.contains(Actions::CROUCH) && tuning.crouch.enabled >= 0.5;
    let lowered_by_maneuver = state.maneuver.is_some() || state.posture.target_height > 0.0;
    if !held && state.posture.lowered == 0.0 && !lowered_by_maneuver {
        return *own;
    }
    lowered_or_raised(tuning, own, state, held, intent, surroundings, events)
}

#[inline(never)]
fn lowered_or_raised<V: Geometry>(
    tuning: &Tuning,
    own: &Hull,
    state: &mut State<V>,
    held: bool,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) -> Hull {
    let for_maneuver = state.maneuver.as_ref().map(|maneuver| maneuver.plan.height);
    let for_move = lowered_to(own, for_maneuver.unwrap_or(state.posture.target_height));
    // A crouch begins on the ground; it lasts through a fall.
    let crouches = held && (state.crouched || state.footing.is_firm());
    let target = if for_move > 0.0 {
        for_move
    } else if crouches {
        lowered_to(own, tuning.crouch.height)
    } else {
        0.0
    };
    if target > state.posture.lowered {
        state.posture.lowered = target;
    } else if target < state.posture.lowered {
        let raised = as_seen::<V>(tuning, &own.at_height(own.height() - target));
        if has_room(&raised, state, surroundings) {
            state.posture.lowered = target;
        } else if intent.released.contains(Actions::CROUCH) {
            emit(events, Event::Refused { what: Refusal::STAND_UP });
        }
    }
    // A move that lowers the hull neither starts nor ends a crouch.
    let crouched = if for_move > 0.0 { state.crouched } else { state.posture.lowered > 0.0 };
    if crouched != state.crouched {
        emit(events, if crouched { Event::Crouched } else { Event::StoodUp });
        state.crouched = crouched;
    }
    state.hull(own)
}

/// How much lower than its own height a hull with this `height` is; 0 for a height of 0.
fn lowered_to(own: &Hull, height: f32) -> f32 {
    if height > 0.0 { (own.height() - own.at_height(height).height()).max(0.0) } else { 0.0 }
}

/// What carries the body: the ground, its ladder, or what a move holds.
///
/// If the acceleration of the ground is more than the feet follow, they leave it: the body
/// continues with the velocity that it had.
#[inline]
pub(super) fn carrier<V: Geometry>(
    tuning: &Tuning,
    state: &mut State<V>,
    frame: &Frame<V>,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    events: &mut Events<V>,
) -> Option<(V, CarrierId)> {
    if surroundings.is_plain() {
        return None;
    }
    let stood_on = state.footing.carrier.filter(|_| state.footing.is_firm());
    let displacement = |carrier| match stood_on {
        Some(ground) if ground == carrier => {
            frame.local(ridden(&surroundings.ride(carrier), state.position, &state.footing, state.up))
        }
        _ => carried(carrier, surroundings, frame, state.position),
    };
    let most = tuning.ride.let_go;
    if most > 0.0
        && let Some(carrier) = stood_on
    {
        // Downward, from tick to tick.
        let change = frame.local(state.ground_velocity).height() * dt - displacement(carrier).height();
        // If the ground falls slower than gravity, the feet would touch it again in the same tick,
        // so they stay on it.
        let most = most.max(tuning.gravity() * tuning.fall.gravity);
        if change > most * dt * dt {
            let_go(state, events);
            return None;
        }
    }
    let held = state.ladder.and_then(|zone| carrier_of(zone, surroundings)).or(state.rides);
    stood_on.or(held).map(|carrier| (displacement(carrier), carrier))
}

/// The displacement of a body that stands on a carrier: along the ground that of the point of the
/// ground under its position, which is where it stands, and across it that of the point that it
/// touches, so that it stays as near to the ground however that tilts.
fn ridden<V: Vector>(ride: &Ride<V>, position: V, footing: &Footing<V>, up: V) -> V {
    if !ride.tilts() {
        return ride.displacement(position);
    }
    let Footing { normal, point, .. } = *footing;
    let under = position + up * (point.dot(normal) / up.dot(normal));
    let (under, touched) = (ride.displacement(under), ride.displacement(position + point));
    under + normal * (touched - under).dot(normal)
}

#[cold]
fn let_go<V: Geometry>(state: &mut State<V>, events: &mut Events<V>) {
    if let Some(name) = state.moved() {
        emit(events, Event::MoveEnded { name });
    }
    state.footing = Footing::none(state.up);
    if state.maneuver.is_none() {
        state.mode = Mode::Airborne;
    }
    state.air = Some(Air::left(Departure::Throw));
    state.velocity += state.ground_velocity;
    state.ground_velocity = V::ZERO;
    emit(events, Event::LeftGround { by: Departure::Throw, of: None });
}

#[inline(never)]
fn carrier_of<V: Geometry>(zone: ZoneId, surroundings: &impl Surroundings<V>) -> Option<CarrierId> {
    surroundings.zone(zone).and_then(|zone| zone.carrier)
}

/// The displacement of a carrier in this tick at the body, in the body's frame.
#[inline(never)]
pub(super) fn carried<V: Geometry>(
    carrier: CarrierId,
    surroundings: &impl Surroundings<V>,
    frame: &Frame<V>,
    position: V,
) -> V {
    frame.local(surroundings.ride(carrier).displacement(position))
}
