//! The sense stage: what is known before a tick is decided.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hull, Patch};
use crate::input::Actions;
use crate::input::Intent;
use crate::level::{CarrierId, Ride, Surface, SurfaceId, Surroundings, Tag, Zone, ZoneId};
use crate::moves::{Host, Sensed, Turning, UnderWay, beside, under_way};
use crate::space::{Bounds, Frame, Vector};
use crate::state::{FootingKind, Mutes, Rise, Span, State};
use crate::travel::Stand;
use crate::tuning::{Steering, Tuning};

use super::around::Around;
use super::reach::{around_feet, room_aside};
use super::take_in::carried;

/// The inputs of [`sense`].
pub(super) struct SenseInput<'a, V: Geometry> {
    pub tuning: &'a Tuning,
    pub intent: &'a Intent,
    pub state: &'a State<V>,
    pub frame: &'a Frame<V>,
    pub hull: &'a Hull,
    pub dt: f32,
    pub span: Span,
    /// The carrier that carries the body, with the displacement.
    pub carried: Option<(V, CarrierId)>,
}

/// The senses without the wall, which needs the pieces nearby. `slot` is storage for the running
/// maneuver.
#[inline(always)] // called once
pub(super) fn sense<'a, V: Geometry>(
    input: &SenseInput<'a, V>,
    surroundings: &impl Surroundings<V>,
    slot: &'a mut Option<UnderWay<V>>,
) -> Sensed<'a, V> {
    let &SenseInput { tuning, intent, state, frame, hull, dt, span, carried } = input;
    let from_above = tuning.steering.is_from_above(V::DIMENSION);
    let ground = ground(state, frame);
    let around = Around::of(state, hull, frame, surroundings);
    let mut surface = Surface::default();
    if ground.firm {
        surface = surroundings.surface(ground.tag.surface);
        surface.drift = frame.local(surface.drift);
    }
    let floor = around.floor.filter(|_| from_above);
    if let Some(floor) = floor {
        surface = surroundings.surface(floor);
        surface.drift = frame.local(surface.drift);
    }
    let ground_velocity = match carried {
        Some((displacement, _)) if ground.firm => surface.drift + displacement * (1.0 / dt),
        _ if ground.firm => surface.drift,
        Some((displacement, _)) => displacement * (1.0 / dt),
        None => frame.local(state.ground_velocity),
    };
    let ladder = match carried {
        Some((displacement, _)) if !ground.firm => around.ladder.map(|rungs| rungs.after(displacement)),
        _ => around.ladder,
    };
    let steered = steer(tuning, intent, frame.local(state.facing));
    let free = if tuning.steering == Steering::Hop { V::ZERO } else { steered };
    let turning = || Turning { intent, frame, from_above, firm: ground.firm, steer: free, dt };
    *slot = state.maneuver.as_ref().map(|maneuver| under_way(state.mode.name(), maneuver, &turning()));
    let under_way = slot.as_ref();
    let mutes = under_way.map_or(Mutes::NONE, |under_way| under_way.mutes);
    let cut = state.air.is_some_and(|air| match air.rise {
        Rise::Cut => true,
        Rise::Held => !intent.held.contains(Actions::JUMP),
        Rise::Over => false,
    });
    Sensed {
        tuning,
        intent,
        state,
        frame,
        hull,
        dt,
        span,
        velocity: frame.local(state.velocity),
        ground_velocity,
        steer: if mutes.contains(Mutes::STEER) { V::ZERO } else { free },
        steered,
        top: top_speed(tuning, state, intent),
        from_above,
        lies_steep: state.footing.kind == FootingKind::Steep,
        mutes,
        push: around.push,
        pace: around.pace,
        weight: around.weight,
        under_way,
        turn: carried.map_or(0.0, |(_, carrier)| turn_of(carrier, state.up, surroundings)),
        ground,
        surface,
        floor,
        led: state.pending.root_motion().map(|displacement| frame.local(displacement)),
        ladder,
        water: match carried {
            Some((displacement, _)) => around.water.map(|depth| depth - displacement.height()),
            None => around.water,
        },
        wall: None,
        wall_grip: around.wall_grip,
        kick: None,
        cut,
        carried,
    }
}

/// Adds what needs the pieces nearby.
#[inline(always)] // called once
pub(super) fn sense_wall<V: Geometry>(sensed: &mut Sensed<'_, V>, patch: &Patch<V>) {
    let Sensed { tuning, state, frame, dt, .. } = *sensed;
    if sensed.from_above {
        (sensed.wall, sensed.kick) = (state.touching.beside, state.touching.kick);
    } else if !sensed.ground.firm {
        sensed.wall = beside(tuning, state, frame, patch, dt);
        sensed.kick = state.touching.kick;
        if let Some(kick) = &mut sensed.kick {
            kick.back_for = (kick.back_for - dt).max(0.0);
        }
    }
}

fn ground<V: Geometry>(state: &State<V>, frame: &Frame<V>) -> Stand<V> {
    let footing = &state.footing;
    Stand {
        firm: footing.is_firm(),
        normal: frame.local(footing.normal),
        point: frame.local(footing.point),
        tag: Tag {
            piece: footing.piece,
            surface: footing.surface,
            carrier: footing.carrier,
            one_way: footing.one_way,
        },
    }
}

#[inline(never)]
fn turn_of<V: Geometry>(carrier: CarrierId, up: V, surroundings: &impl Surroundings<V>) -> f32 {
    surroundings.ride(carrier).turn_about(up)
}

/// The direction in which the player steers, in the body's frame, with a length of 0 to 1. `facing`
/// is in the same frame. A negative walking speed reverses it here, for all moves.
pub(super) fn steer<V: Vector>(tuning: &Tuning, intent: &Intent, facing: V) -> V {
    let steered = steered(tuning, intent, facing);
    // By a subtraction, so that 0 stays 0 and does not become −0.
    if tuning.walk.speed < 0.0 { V::ZERO - steered } else { steered }
}

fn steered<V: Vector>(tuning: &Tuning, intent: &Intent, facing: V) -> V {
    let steer = intent.safe_steer();
    let look = intent.look;
    let by_look =
        |ahead: V| if look.yaw == 0.0 || !look.yaw.is_finite() { ahead } else { ahead.turned(look.yaw) };
    let backwards = |forward: f32| if forward < 0.0 { forward * tuning.walk.back } else { forward };
    match tuning.steering.in_dimension(V::DIMENSION) {
        Steering::Side | Steering::Usual => V::RIGHT * steer.x,
        Steering::Plan | Steering::Hop => V::RIGHT * steer.x + V::FORWARD * steer.y,
        Steering::View => by_look(V::RIGHT * (steer.x * tuning.walk.side) + V::FORWARD * backwards(steer.y)),
        Steering::Body => facing * backwards(steer.y),
        Steering::Gaze => {
            let gaze = tuning.turn.gaze;
            let past = if gaze < 0.0 { look.pitch <= gaze } else { look.pitch >= gaze };
            if past { by_look(V::FORWARD) } else { V::ZERO }
        }
    }
}

/// The speed of full steering, at least 0: walking, running or crouching.
pub(super) fn top_speed<V: Vector>(tuning: &Tuning, state: &State<V>, intent: &Intent) -> f32 {
    if state.crouched {
        tuning.crouch.speed
    } else if intent.held.contains(Actions::RUN) && tuning.run.enabled >= 0.5 {
        tuning.run.speed
    } else {
        tuning.walk.speed.abs()
    }
}

/// Nearby carriers that move, each with its displacement at the body.
pub(super) type Moving<V> = SmallVec<[(V, CarrierId); 32]>;

/// Finds the nearby carriers that move, except the one that carries the body.
#[inline(never)]
pub(super) fn find_others<V: Geometry>(
    sensed: &Sensed<'_, V>,
    surroundings: &impl Surroundings<V>,
    others: &mut Moving<V>,
) {
    let Sensed { frame, hull, state, carried: own, .. } = sensed;
    let near = V::splat(hull.height() + hull.half_width());
    surroundings.moving(&frame.world_bounds(Bounds { min: -near, max: near }), |carrier| {
        let known = own.is_some_and(|(_, own)| own == carrier);
        if !known && !others.iter().any(|&(_, other)| other == carrier) {
            others.push((carried(carrier, surroundings, frame, state.position), carrier));
        }
    });
}

/// How far the body can come in this tick: continuing as before, or turning around and walking. If
/// more is needed, as with a jump, more is gathered.
pub(super) fn reach<V: Geometry>(sensed: &Sensed<'_, V>) -> Bounds<V> {
    let (tuning, dt) = (sensed.tuning, sensed.dt);
    let displacement = (sensed.velocity + sensed.surface.drift) * dt;
    // Slightly more than the drive will need, so that it rarely gathers again.
    let hops = tuning.steering == Steering::Hop && sensed.steered != V::ZERO;
    let ahead = if hops { tuning.hop.length * tuning.hop.run_steps } else { 0.0 };
    let room = 1.1 * room_aside(displacement.length().max(sensed.top * dt), sensed.hull.height()) + ahead;
    let reach = Bounds { min: V::ZERO.min(displacement), max: V::ZERO.max(displacement) };
    around_feet(reach.widened(V::splat(room)), tuning)
}

/// Surroundings, as moves query them.
pub(super) struct HostOf<'a, S>(pub &'a S);

impl<V: Geometry, S: Surroundings<V>> Host<V> for HostOf<'_, S> {
    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.0.surface(id)
    }

    fn gather(&self, frame: &Frame<V>, hull: &Hull, reach: Bounds<V>) -> Patch<V> {
        Patch::gather(*frame, hull, reach, self.0)
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.0.zone(id)
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        self.0.ride(id)
    }

    fn mark(&self, kind: u16, number: u32) -> Option<V> {
        self.0.mark(kind, number)
    }
}
