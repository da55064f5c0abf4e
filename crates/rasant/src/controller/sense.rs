//! What is known before a tick is decided.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hull, Patch};
use crate::input::Actions;
use crate::input::Intent;
use crate::level::{CarrierId, Ride, Surface, SurfaceId, Surroundings, Tag, Zone, ZoneId};
use crate::moves::{Host, Sensed, Turning, UnderWay, beside, under_way};
use crate::space::{Bounds, Frame, Vector};
use crate::state::{FootingKind, Locks, Rise, Span, State};
use crate::travel::Stand;
use crate::tuning::{Steering, Tuning};

use super::around::Around;
use super::reach::{around_feet, room_aside};
use super::take_in::carried;

/// What [`sense`] works from.
pub(super) struct Given<'a, V: Geometry> {
    pub tuning: &'a Tuning,
    pub intent: &'a Intent,
    pub state: &'a State<V>,
    pub frame: &'a Frame<V>,
    pub hull: &'a Hull,
    pub dt: f32,
    pub span: Span,
    /// What takes the body along, and how far.
    pub carried: Option<(V, CarrierId)>,
}

/// The senses, but for the wall, which is looked for among the pieces nearby. `slot` is
/// room for the maneuver that is under way.
#[inline(always)] // called once
pub(super) fn sense<'a, V: Geometry>(
    given: &Given<'a, V>,
    surroundings: &impl Surroundings<V>,
    slot: &'a mut Option<UnderWay<V>>,
) -> Sensed<'a, V> {
    let &Given { tuning, intent, state, frame, hull, dt, span, carried } = given;
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
        Some((way, _)) if ground.firm => surface.drift + way * (1.0 / dt),
        _ if ground.firm => surface.drift,
        Some((way, _)) => way * (1.0 / dt),
        None => frame.local(state.ground_velocity),
    };
    let ladder = match carried {
        Some((way, _)) if !ground.firm => around.ladder.map(|rungs| rungs.after(way)),
        _ => around.ladder,
    };
    let steered = wish(tuning, intent, frame.local(state.facing));
    let free = if tuning.steering == Steering::Hop { V::ZERO } else { steered };
    let turning = || Turning { intent, frame, from_above, firm: ground.firm, wish: free, dt };
    *slot = state.maneuver.as_ref().map(|maneuver| under_way(state.mode.name(), maneuver, &turning()));
    let under_way = slot.as_ref();
    let locks = under_way.map_or(Locks::NONE, |under_way| under_way.locks);
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
        wish: if locks.contains(Locks::STEER) { V::ZERO } else { free },
        steered,
        top: top_speed(tuning, state, intent),
        from_above,
        lies_steep: state.footing.kind == FootingKind::Steep,
        locks,
        push: around.push,
        pace: around.pace,
        under_way,
        turn: carried.map_or(0.0, |(_, carrier)| turn_of(carrier, surroundings)),
        ground,
        surface,
        floor,
        led: state.pending.root_motion().map(|displacement| frame.local(displacement)),
        ladder,
        water: match carried {
            Some((way, _)) => around.water.map(|depth| depth - way.height()),
            None => around.water,
        },
        wall: None,
        wall_grip: around.wall_grip,
        kick: None,
        cut,
        carried,
    }
}

/// What needs the pieces nearby.
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
fn turn_of<V: Geometry>(carrier: CarrierId, surroundings: &impl Surroundings<V>) -> f32 {
    surroundings.ride(carrier).turn()
}

/// The direction in which the player steers, in the body's frame, of length 0 to 1.
/// `facing` is where the body faces, in the same frame. A negative walking speed inverts it
/// here, for all moves alike.
pub(super) fn wish<V: Vector>(tuning: &Tuning, intent: &Intent, facing: V) -> V {
    let steered = steered(tuning, intent, facing);
    // By a difference, so that what is 0 stays 0 and not −0.
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

/// The speed of a full wish, at least 0: walking, running or crouching.
fn top_speed<V: Vector>(tuning: &Tuning, state: &State<V>, intent: &Intent) -> f32 {
    if state.crouched {
        tuning.crouch.speed
    } else if intent.held.contains(Actions::RUN) {
        tuning.run.speed
    } else {
        tuning.walk.speed.abs()
    }
}

/// Carriers that move nearby, each with its displacement where the body is.
pub(super) type Moving<V> = SmallVec<[(V, CarrierId); 32]>;

/// Finds the carriers that move nearby, but for the one that takes the body along.
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

/// How far the body can come in this tick as things stand: on as before, or
/// turned about and walking. When more comes of it, as with a jump, more is
/// gathered.
pub(super) fn reach<V: Geometry>(sensed: &Sensed<'_, V>) -> Bounds<V> {
    let (tuning, dt) = (sensed.tuning, sensed.dt);
    let way = (sensed.velocity + sensed.surface.drift) * dt;
    // A little more than the way set out will ask for, so that it seldom does.
    let hops = tuning.steering == Steering::Hop && sensed.steered != V::ZERO;
    let ahead = if hops { tuning.hop.length * tuning.hop.run_steps } else { 0.0 };
    let room = 1.1 * room_aside(way.length().max(sensed.top * dt), sensed.hull.height()) + ahead;
    let reach = Bounds { min: V::ZERO.min(way), max: V::ZERO.max(way) };
    around_feet(reach.widened(V::splat(room)), tuning)
}

/// Surroundings, as moves ask them.
pub(super) struct Asked<'a, S>(pub &'a S);

impl<V: Geometry, S: Surroundings<V>> Host<V> for Asked<'_, S> {
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
