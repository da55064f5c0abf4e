//! The stages of a tick, in order.

use smallvec::SmallVec;

use crate::contact::{Geometry, Hull, Patch};
use crate::input::Intent;
use crate::level::{CarrierId, Surroundings, Tag};
use crate::space::{Bounds, Frame, advance};
use crate::travel::{ContactKind, Flight, Freed, Leg, Rules, Stand, Traveller};
use crate::tuning::Tuning;

use super::drive::{self, Drive};
use super::event::{Departure, Event, Events};
use super::local::{Local, Outcome, around_feet, room_aside};
use super::moves;
use super::settle;
use super::state::State;

/// Moves a body by one tick of `dt` seconds: a function over plain data.
///
/// Lengths are in metres, times in seconds, all vectors in world coordinates.
/// The same arguments give the same bits, on every platform. Broken input is
/// not passed on: a steer that is not finite counts as none.
pub fn tick<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
) -> Events<V> {
    let mut events = Events::new();
    tick_into(tuning, hull, state, intent, surroundings, dt, &mut events);
    events
}

/// The same, with the events put into a list that is there already.
pub(super) fn tick_into<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    events: &mut Events<V>,
) {
    events.clear();
    let frame = state.frame();
    let mut body = Local::of(state, &frame);
    if body.ground.firm {
        body.surface = surroundings.surface(body.ground.tag.surface);
        body.surface.drift = frame.local(body.surface.drift);
    }
    let position = state.position;
    let ground_velocity = |tag: &Tag| {
        let drift = frame.local(surroundings.surface(tag.surface).drift);
        match tag.carrier {
            Some(carrier) => {
                drift + frame.local(surroundings.ride(carrier).displacement(position)) * (1.0 / dt)
            }
            None => drift,
        }
    };
    if body.ground.firm {
        body.ground_velocity = ground_velocity(&body.ground.tag);
    }
    let rides = Rides::of(state, &frame, surroundings, &mut body, hull);
    let mut patch = Patch::empty(frame, hull, Bounds::empty());
    patch.refill(hull, sense(tuning, &body, &rides, dt), surroundings);

    moves::decide(tuning, state, &mut body, intent, events);

    let wish = drive::wish(intent);
    let drive = drive::drive(tuning, state, &body, wish, dt);
    let reach = rides.widen(drive.reach(tuning));
    if !patch.covers(&reach) {
        patch.refill(hull, reach, surroundings);
    }

    let passing = state.passing;
    let go = |patch: &Patch<V>, overlaps: Overlaps, events: &mut Events<V>| {
        let traveller = Traveller::new(patch, rules(tuning), body.velocity).passing(passing);
        travel(traveller, overlaps, &rides, &drive, &body, &frame, &ground_velocity, dt, events)
    };
    let decided = events.len();
    // A body that moves by itself never overlaps anything, so that is looked
    // into only where there is a reason.
    let overlaps = if rides.others.is_empty() { Overlaps::Unlikely } else { Overlaps::Likely };
    let mut outcome = go(&patch, overlaps, events);
    if !patch.covers(&outcome.reached) || patch.is_overlap(outcome.depth) {
        // Turned far aside, or something has come to the body: once more, with
        // all that can be reached, and free of overlaps.
        let furthest = rides.widen(drive.furthest(tuning)).joined(outcome.reached);
        patch.refill(hull, furthest.widened(V::splat(hull.half_width())), surroundings);
        events.truncate(decided);
        outcome = go(&patch, Overlaps::Likely, events);
    }

    state.passing = passing.filter(|&piece| patch.is_near(piece, outcome.at, 2.0 * hull.clearance()));
    let moved = frame.world(outcome.at);
    if moved != V::ZERO {
        (state.position, state.remainder) = advance(state.position, state.remainder, moved);
    }
    settle::settle(state, &body, &outcome, &frame, wish, dt, events);
}

/// What carriers do to the body in this tick, in its frame.
struct Rides<V> {
    /// How far the body is taken along, and by what.
    own: Option<(V, CarrierId)>,
    /// How far other carriers nearby move where the body is.
    others: SmallVec<[(V, CarrierId); 4]>,
}

impl<V: Geometry> Rides<V> {
    fn of(
        state: &State<V>,
        frame: &Frame<V>,
        surroundings: &impl Surroundings<V>,
        body: &mut Local<V>,
        hull: &Hull,
    ) -> Self {
        let way = |carrier| frame.local(surroundings.ride(carrier).displacement(state.position));
        let own = state.footing.carrier.filter(|_| state.footing.is_firm());
        if let Some(carrier) = own {
            body.turn = surroundings.ride(carrier).turn();
        }
        let near = V::splat(hull.height() + hull.half_width());
        let mut others = SmallVec::new();
        surroundings.moving(&frame.world_bounds(Bounds { min: -near, max: near }), |carrier| {
            if own != Some(carrier) && !others.iter().any(|&(_, known)| known == carrier) {
                others.push((way(carrier), carrier));
            }
        });
        Self { own: own.map(|carrier| (way(carrier), carrier)), others }
    }

    /// Bounds of displacement with room for all that carriers do.
    fn widen(&self, reach: Bounds<V>) -> Bounds<V> {
        self.own.iter().chain(&self.others).fold(reach, |all, &(way, _)| Bounds {
            min: all.min.min(all.min + way),
            max: all.max.max(all.max + way),
        })
    }
}

/// Stands a body on ground that is within twice the clearance below.
pub(super) fn find_footing<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    surroundings: &impl Surroundings<V>,
) {
    let frame = state.frame();
    let reach = Bounds { min: V::ZERO, max: V::ZERO }.widened(V::splat(4.0 * hull.clearance()));
    let patch = Patch::gather(frame, hull, around_feet(reach, tuning), surroundings);
    let mut traveller = Traveller::new(&patch, rules(tuning), V::ZERO);
    traveller.get_free();
    let Some((stand, lowered)) = traveller.ground_below(2.0 * hull.clearance()) else { return };
    if stand.firm {
        let moved = frame.world(traveller.at - V::UP * lowered);
        (state.position, state.remainder) = advance(state.position, state.remainder, moved);
        settle::stand(state, &stand, traveller.at - V::UP * lowered, &frame);
    }
}

/// How far the body can come in this tick as things stand: on as before, or
/// turned about and walking. When more comes of it, as with a jump, more is
/// gathered.
fn sense<V: Geometry>(tuning: &Tuning, body: &Local<V>, rides: &Rides<V>, dt: f32) -> Bounds<V> {
    let way = (body.velocity + body.surface.drift) * dt;
    // A little more than the way set out will ask for, so that it seldom does.
    let room = 1.1 * room_aside(way.length().max(tuning.walk.speed.abs() * dt));
    let reach = Bounds { min: V::ZERO.min(way), max: V::ZERO.max(way) };
    rides.widen(around_feet(reach.widened(V::splat(room)), tuning))
}

fn rules(tuning: &Tuning) -> Rules {
    Rules {
        cos_steepest: libm::cosf(tuning.slope.steepest),
        curb: tuning.slope.curb,
        cling: tuning.slope.cling,
    }
}

/// Whether a tick begins by getting free.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Overlaps {
    Unlikely,
    Likely,
}

/// Moves the body: with and by carriers, then on foot or leg by leg through the
/// air.
#[allow(clippy::too_many_arguments)] // the stage's inputs, each once
fn travel<V: Geometry>(
    mut traveller: Traveller<'_, V>,
    overlaps: Overlaps,
    rides: &Rides<V>,
    drive: &Drive<V>,
    body: &Local<V>,
    frame: &Frame<V>,
    ground_velocity: &impl Fn(&Tag) -> V,
    dt: f32,
    events: &mut Events<V>,
) -> Outcome<V> {
    if let Some((way, carrier)) = rides.own {
        traveller.carried(way, carrier);
    }
    let before = traveller.velocity;
    for &(way, carrier) in &rides.others {
        traveller.pushed(way, carrier, dt);
    }
    let gained = traveller.velocity - before;
    if overlaps == Overlaps::Likely && traveller.get_free() == Freed::Crushed {
        events.push(Event::Crushed);
    }
    let stand = match drive {
        Drive::Walk { way, velocity } => {
            traveller.velocity = *velocity;
            let stand = traveller.walk(*way, body.ground);
            leave_unless_firm(&mut traveller, stand.as_ref(), body.ground_velocity, events);
            stand
        }
        Drive::Fly { legs } => {
            let legs: SmallVec<[Leg<V>; 2]> = legs.iter().map(|leg| leg.faster(gained)).collect();
            fly(&mut traveller, &legs, frame, ground_velocity, events)
        }
    };
    let ground_velocity =
        stand.as_ref().filter(|stand| stand.firm).map_or(V::ZERO, |stand| ground_velocity(&stand.tag));
    Outcome {
        at: traveller.at,
        velocity: traveller.velocity,
        ground_velocity,
        stand,
        contacts: traveller.contacts,
        reached: traveller.reached,
        depth: traveller.depth,
    }
}

/// Walking off an edge is being aloft, and starts a fall from zero: with no
/// velocity up or down but what the ground had.
fn leave_unless_firm<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    stand: Option<&Stand<V>>,
    ground_velocity: V,
    events: &mut Events<V>,
) {
    if !stand.is_some_and(|stand| stand.firm) {
        events.push(Event::LeftGround { by: Departure::Edge });
        traveller.velocity = traveller.velocity.flat() + ground_velocity;
    }
}

fn fly<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    legs: &[Leg<V>],
    frame: &Frame<V>,
    ground_velocity: &impl Fn(&Tag) -> V,
    events: &mut Events<V>,
) -> Option<Stand<V>> {
    for (number, leg) in legs.iter().enumerate() {
        if let Flight::Landed { on, speed, rest } = traveller.fly(leg, ground_velocity) {
            let (surface, piece) = (on.tag.surface, on.tag.piece);
            let ground = ground_velocity(&on.tag);
            events.push(Event::Landed { speed, surface, piece });
            let later = legs[number + 1..].iter().fold(V::ZERO, |sum, leg| sum + leg.way);
            traveller.velocity = legs[legs.len() - 1].to - ground;
            let stand = traveller.run_out(on, rest + later);
            leave_unless_firm(traveller, stand.as_ref(), ground, events);
            return stand;
        }
        let at_top = leg.from.height() > 0.0 && leg.to.height() <= 0.0;
        if at_top && !traveller.met(ContactKind::Ceiling) {
            let position = frame.world_point(traveller.at);
            events.push(Event::Apex { position });
        }
    }
    traveller.steep()
}
