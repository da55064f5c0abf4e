//! The stages of a tick, in order.

use crate::contact::{Geometry, Hull, Patch};
use crate::input::Intent;
use crate::level::{Surroundings, Tag};
use crate::space::{Bounds, Frame, Vector, advance};
use crate::travel::{ContactKind, Contacts, Flight, Freed, Leg, Rules, Stand, Traveller};
use crate::tuning::Tuning;

use super::drive::{self, Drive};
use super::event::{Departure, Event, Events};
use super::moves;
use super::settle;
use super::state::{Mode, Owner, State};

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
    let frame = state.frame();
    let mut patch = sense(tuning, hull, state, &frame, surroundings, dt);

    let mut body = Local::of(state, &frame);
    moves::decide(tuning, state, &mut body, intent, &mut events);

    let wish = drive::wish(intent);
    let drive = drive::drive(tuning, state, &body, wish, dt);
    let reach = drive.reach(tuning);
    if !patch.covers(&reach) {
        patch = Patch::gather(frame, hull, reach, surroundings);
    }

    let traveller = Traveller::new(&patch, rules(tuning), body.velocity);
    let outcome = travel(traveller, &drive, &body, &frame, &mut events);

    let moved = frame.world(outcome.at);
    if moved != V::ZERO {
        (state.position, state.remainder) = advance(state.position, state.remainder, moved);
    }
    settle::settle(state, &body, &outcome, &frame, wish, dt, &mut events);
    events
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

/// What travel found out, in the body's frame.
pub(super) struct Outcome<V> {
    pub at: V,
    pub velocity: V,
    pub stand: Option<Stand<V>>,
    pub contacts: Contacts<V>,
}

/// The parts of a state that a tick works on in the body's frame.
pub(super) struct Local<V> {
    pub velocity: V,
    /// What the feet are on at the start of the tick.
    pub ground: Stand<V>,
    /// Who is in charge of this tick.
    pub mode: Mode,
    /// Who drives the velocity in this tick.
    pub owner: Owner,
}

impl<V: Vector> Local<V> {
    fn of(state: &State<V>, frame: &Frame<V>) -> Self {
        let footing = &state.footing;
        Self {
            velocity: frame.local(state.velocity),
            ground: Stand {
                firm: footing.is_firm(),
                normal: frame.local(footing.normal),
                point: frame.local(footing.point),
                tag: Tag {
                    piece: footing.piece,
                    surface: footing.surface,
                    carrier: footing.carrier,
                    one_way: false,
                },
            },
            mode: state.mode,
            owner: match state.mode {
                Mode::Afoot => Owner::Walk,
                Mode::Aloft => Owner::Air,
            },
        }
    }
}

/// Gathers all that the body can meet in this tick.
fn sense<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &State<V>,
    frame: &Frame<V>,
    surroundings: &impl Surroundings<V>,
    dt: f32,
) -> Patch<V> {
    let way = frame.local(state.velocity) * dt;
    // Whatever the body decides to do, its velocity changes by no more than
    // this in a tick.
    let change = tuning.walk.speed.abs() + tuning.take_off_speed();
    let reach = Bounds { min: V::ZERO.min(way), max: V::ZERO.max(way) };
    Patch::gather(*frame, hull, around_feet(reach.widened(V::splat(change * dt)), tuning), surroundings)
}

/// Bounds of displacement with room for a step up and a step down.
pub(super) fn around_feet<V: Vector>(reach: Bounds<V>, tuning: &Tuning) -> Bounds<V> {
    let slope = &tuning.slope;
    Bounds { min: reach.min - V::UP * slope.cling.max(slope.curb), max: reach.max + V::UP * slope.curb }
}

fn rules(tuning: &Tuning) -> Rules {
    Rules {
        cos_steepest: libm::cosf(tuning.slope.steepest),
        curb: tuning.slope.curb,
        cling: tuning.slope.cling,
    }
}

/// Moves the body: out of overlaps, then on foot or leg by leg through the air.
fn travel<V: Geometry>(
    mut traveller: Traveller<'_, V>,
    drive: &Drive<V>,
    body: &Local<V>,
    frame: &Frame<V>,
    events: &mut Events<V>,
) -> Outcome<V> {
    if traveller.get_free() == Freed::Crushed {
        events.push(Event::Crushed);
    }
    let stand = match drive {
        Drive::Walk { way, velocity } => {
            traveller.velocity = *velocity;
            walk(&mut traveller, *way, body.ground, events)
        }
        Drive::Fly { legs } => fly(&mut traveller, legs, frame, events),
    };
    Outcome { at: traveller.at, velocity: traveller.velocity, stand, contacts: traveller.contacts }
}

fn walk<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    way: V,
    ground: Stand<V>,
    events: &mut Events<V>,
) -> Option<Stand<V>> {
    let stand = traveller.walk(way, ground);
    leave_unless_firm(traveller, stand.as_ref(), events);
    stand
}

/// Walking off an edge is being aloft, and starts a fall from zero.
fn leave_unless_firm<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    stand: Option<&Stand<V>>,
    events: &mut Events<V>,
) {
    if !stand.is_some_and(|stand| stand.firm) {
        events.push(Event::LeftGround { by: Departure::Edge });
        traveller.velocity = traveller.velocity.flat();
    }
}

fn fly<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    legs: &[Leg<V>],
    frame: &Frame<V>,
    events: &mut Events<V>,
) -> Option<Stand<V>> {
    for (number, leg) in legs.iter().enumerate() {
        if let Flight::Landed { on, speed, rest } = traveller.fly(leg) {
            let (surface, piece) = (on.tag.surface, on.tag.piece);
            events.push(Event::Landed { speed, surface, piece });
            let later = legs[number + 1..].iter().fold(V::ZERO, |sum, leg| sum + leg.way);
            traveller.velocity = legs[legs.len() - 1].to;
            let stand = traveller.run_out(on, rest + later);
            leave_unless_firm(traveller, stand.as_ref(), events);
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
