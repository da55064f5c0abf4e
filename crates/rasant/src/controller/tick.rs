//! The stages of a tick, in order.

use std::any::Any;

use glam::{Vec2, Vec3};
use smallvec::SmallVec;

use crate::contact::{Geometry, Hull, Patch};
use crate::input::{Actions, Intent};
use crate::level::{CarrierId, Errand, Level, Surroundings, Tag, ZoneId};
use crate::space::{Bounds, Frame, advance, cosine};
use crate::travel::{
    ContactKind, Flight, Freed, Holds, Landings, Leg, Nudges, Rules, Stand, Traveller, Walk, laid_on,
    turned_onto,
};
use crate::tuning::{Steering, Tuning};

use super::around::{self, Around};
use super::drive::{self, Drive, Task};
use super::event::{Departure, Event, Events, tell};
use super::local::{Local, Outcome, around_feet, room_aside};
use super::moves::{self, Choice, Phase};
use super::settle;
use super::state::{Footing, Mode, Owner, State, Untold};

/// Moves a body by one tick of `dt` seconds: a function over plain data.
///
/// Lengths are in metres, times in seconds, all vectors in world coordinates.
/// The same arguments give the same bits, on every platform.
///
/// Broken numbers are not passed on, and what goes out is finite whatever comes
/// in. A tick of no length, or of one that is negative or not a number, changes
/// nothing and tells nothing. A steer that is not finite counts as none. A state
/// that is not finite is first mended ([`State::mended`]). A tick whose outcome would not be
/// finite, as with a knob that is infinite, leaves the state as it was and tells
/// nothing.
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

/// The same, with the events put into a list that is there already, in place of
/// what it holds: for a host that ticks a crowd.
pub fn tick_into<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    events: &mut Events<V>,
) {
    surroundings.host(Ticking { tuning, hull, state, intent, dt, events });
}

/// A tick that is yet to be done.
struct Ticking<'a, V: Geometry> {
    tuning: &'a Tuning,
    hull: &'a Hull,
    state: &'a mut State<V>,
    intent: &'a Intent,
    dt: f32,
    events: &'a mut Events<V>,
}

impl<V: Geometry> Errand<V> for Ticking<'_, V> {
    fn among(self, surroundings: &impl Surroundings<V>) {
        let Self { tuning, hull, state, intent, dt, events } = self;
        tick_among(tuning, hull, state, intent, surroundings, dt, events);
    }

    /// By one of two functions that are generic in nothing: whoever calls this, in a
    /// crate of their own, need not compile a tick anew.
    fn in_level(self, level: &Level<V>) {
        let Self { tuning, hull, state, intent, dt, events } = self;
        let (level, state, events): (&dyn Any, &mut dyn Any, &mut dyn Any) = (level, state, events);
        if let Some(level) = level.downcast_ref() {
            if let (Some(state), Some(events)) = (state.downcast_mut(), events.downcast_mut()) {
                tick_in_plane(tuning, hull, state, intent, level, dt, events);
            }
        } else if let (Some(level), Some(state), Some(events)) =
            (level.downcast_ref(), state.downcast_mut(), events.downcast_mut())
        {
            tick_in_space(tuning, hull, state, intent, level, dt, events);
        }
    }
}

fn tick_in_plane(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<Vec2>,
    intent: &Intent,
    level: &Level<Vec2>,
    dt: f32,
    events: &mut Events<Vec2>,
) {
    tick_among(tuning, hull, state, intent, level, dt, events);
}

fn tick_in_space(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<Vec3>,
    intent: &Intent,
    level: &Level<Vec3>,
    dt: f32,
    events: &mut Events<Vec3>,
) {
    tick_among(tuning, hull, state, intent, level, dt, events);
}

/// [`tick_into`] in surroundings of any kind.
fn tick_among<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    events: &mut Events<V>,
) {
    events.clear();
    if !(dt > 0.0 && dt.is_finite()) {
        return;
    }
    if !state.has_a_place() {
        *state = state.mended();
    }
    let before = *state;
    tick_finite(tuning, hull, state, intent, surroundings, dt, events);
    if !state.is_finite() {
        events.clear();
        *state = before;
        if !before.is_finite() {
            // Once more, from a state whose numbers are some.
            *state = before.mended();
            tick_among(tuning, hull, state, intent, surroundings, dt, events);
        }
    }
}

/// A tick of a state and a time that are finite.
#[inline(always)] // called once
fn tick_finite<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    events: &mut Events<V>,
) {
    if state.untold != Untold::default() {
        tell_untold(state, events);
    }
    // Presses do nothing for a body that something holds fast.
    let unheard;
    let intent = if state.held {
        unheard = Intent { pressed: Actions::NONE, ..*intent };
        &unheard
    } else {
        intent
    };
    let hull = &as_seen::<V>(tuning, &moves::posture(tuning, hull, state, intent, surroundings, events));
    let frame = state.frame();
    let mut around = Around::of(state, hull, &frame, surroundings);
    let mut body = sense_body(tuning, state, intent, &frame, surroundings);
    let position = state.position;
    let carrier_velocity = |tag: &Tag| match tag.carrier {
        Some(carrier) => carried(carrier, surroundings, &frame, position) * (1.0 / dt),
        None => V::ZERO,
    };
    let ground_velocity =
        |tag: &Tag| frame.local(surroundings.surface(tag.surface).drift) + carrier_velocity(tag);
    let bounce = |tag: &Tag| surroundings.surface(tag.surface).bounce;
    let rides = Rides::of(tuning, state, &frame, surroundings, &mut body, hull, dt);
    if rides.left {
        // On with the velocity that the ground had.
        state.footing = Footing::none(state.up);
        state.left_by_jump = true;
        body.ground.firm = false;
        body.mode = Mode::Aloft;
        body.owner = Owner::Air;
        body.velocity += body.ground_velocity;
        tell(events, Event::LeftGround { by: Departure::Launch });
    } else if body.ground.firm {
        body.ground_velocity = ground_velocity(&body.ground.tag);
    } else if let Some((way, _)) = rides.own {
        body.ground_velocity = way * (1.0 / dt);
        around.ladder = around.ladder.map(|rungs| rungs.after(way));
    }
    let mut patch = Patch::empty(frame, hull, Bounds::empty());
    patch.refill(hull, sense(tuning, &body, &rides, dt), surroundings);
    let wall = state.against_wall.then(|| frame.local(state.wall.normal));

    moves::decide(&mut Choice {
        tuning,
        intent,
        frame: &frame,
        around: &around,
        patch: &patch,
        dt,
        state,
        body: &mut body,
        events,
    });

    let stands = body.mode == Mode::Afoot && !body.from_above;
    if stands && drive::is_lifted(tuning, intent, state, &body, &around) {
        body.mode = Mode::Aloft;
        body.velocity = body.velocity.flat() + body.ground_velocity;
        tell(events, Event::LeftGround { by: Departure::Launch });
    }
    let maneuver = state.maneuver.as_ref().filter(|maneuver| maneuver.drives());
    let task = Task {
        tuning,
        intent,
        state,
        body: &body,
        around: &around,
        maneuver: maneuver.map(|maneuver| (maneuver, frame.local(maneuver.direction))),
        root_motion: state.root_motion.map(|way| frame.local(way)),
        wall: (body.mode == Mode::WallSlide).then(|| frame.local(state.wall.normal)),
        taken: rides.own.map_or(V::ZERO, |(way, _)| way),
        clearance: hull.clearance(),
        dt,
    };
    let (drive, ahead) = task.drive().less(state.ahead);
    let on_foot = |level: V, stand: &Stand<V>, time: f32| {
        let mut surface = surroundings.surface(stand.tag.surface);
        surface.drift = frame.local(surface.drift);
        task.on_ground(level, &surface, stand.normal, time)
    };
    let off_an_edge = |way: V, velocity: V, time: f32| task.off_an_edge(way, velocity, time);
    let holds = |normal: V, tag: &Tag| {
        moves::holds(tuning, body.wish, normal, surroundings.surface(tag.surface).grip)
    };
    let down_a_wall = |velocity: V, normal: V, tag: &Tag, time: f32| {
        task.down_a_wall(velocity, normal, surroundings.surface(tag.surface).grip, time)
    };
    let led = task.root_motion.is_some();
    let walks_on = !led && task.maneuver.is_none();
    let clings =
        tuning.wall.slide_speed > 0.0 && body.mode == Mode::Aloft && state.maneuver.is_none() && !led;
    let falls = task.falls();
    let reach = rides.widen(drive.reach(tuning));
    if !patch.covers(&reach) {
        patch.refill(hull, reach, surroundings);
    }

    let (passing, held) = (state.passing, state.held);
    let rules = rules(tuning);
    let gather = |patch: &mut Patch<V>, reach| patch.refill(hull, reach, surroundings);
    let go = |patch: &mut Patch<V>, overlaps: Overlaps, events: &mut Events<V>| {
        let traveller = Traveller::new(patch, &gather, rules, body.velocity)
            .passing(passing)
            .against(wall)
            .among(&rides.others, dt)
            .held(held)
            .nudged(Nudges { corner: tuning.jump.corner, lip: tuning.jump.lip });
        let ground = Ground {
            velocity: &ground_velocity,
            carrier: &carrier_velocity,
            bounce: &bounce,
            on_foot: if walks_on { Some(&on_foot) } else { None },
            off_an_edge: if falls { Some(&off_an_edge) } else { None },
            walls: if clings { Some((&holds, &down_a_wall)) } else { None },
        };
        travel(traveller, overlaps, &rides, &drive, &body, &frame, &ground, dt, events)
    };
    let decided = events.len();
    // A body that moves by itself never overlaps anything, so that is looked
    // into only where there is a reason.
    let overlaps = if rides.others.is_empty() && !held { Overlaps::Unlikely } else { Overlaps::Likely };
    let mut outcome = go(&mut patch, overlaps, events);
    if overlaps == Overlaps::Unlikely && patch.is_overlap(outcome.depth) {
        // Something has come to the body: once more, and free of it.
        events.truncate(decided);
        outcome = go(&mut patch, Overlaps::Likely, events);
    }

    outcome.ahead += ahead;
    if passing.is_some() {
        state.passing = passing.filter(|&piece| patch.is_near(piece, outcome.at, 2.0 * hull.clearance()));
    }
    let moved = frame.world(outcome.at);
    if moved != V::ZERO {
        (state.position, state.remainder) = advance(state.position, state.remainder, moved);
    }
    settle::settle(tuning, state, &body, &outcome, &frame, intent, dt, events);
    around::enter_and_leave(state, hull, surroundings, events);
}

/// The hull about the position, for a body seen from above.
pub(super) fn as_seen<V: Geometry>(tuning: &Tuning, hull: &Hull) -> Hull {
    if tuning.steering.is_from_above(V::DIMENSION) { hull.centred() } else { *hull }
}

#[inline(never)]
fn carrier_of<V: Geometry>(zone: ZoneId, surroundings: &impl Surroundings<V>) -> Option<CarrierId> {
    surroundings.zone(zone).and_then(|zone| zone.carrier)
}

#[inline(never)]
fn turn_of<V: Geometry>(carrier: CarrierId, surroundings: &impl Surroundings<V>) -> f32 {
    surroundings.ride(carrier).turn()
}

/// How far a carrier moves in this tick where the body is, in the body's frame.
#[inline(never)]
fn carried<V: Geometry>(
    carrier: CarrierId,
    surroundings: &impl Surroundings<V>,
    frame: &Frame<V>,
    position: V,
) -> V {
    frame.local(surroundings.ride(carrier).displacement(position))
}

/// Tells what the host has done since the last tick.
#[cold]
#[inline(never)]
fn tell_untold<V: Geometry>(state: &mut State<V>, events: &mut Events<V>) {
    let Untold { broken_off, ladder, thrown, begun } = std::mem::take(&mut state.untold);
    if let Some(kind) = broken_off {
        tell(events, Event::ManeuverPhase { kind, phase: Phase::Rest });
    }
    if let Some(zone) = ladder {
        tell(events, Event::LadderLeft { zone });
    }
    if thrown {
        tell(events, Event::LeftGround { by: Departure::Launch });
    }
    if let Some(maneuver) = state.maneuver.as_ref().filter(|_| begun) {
        tell(events, Event::ManeuverPhase { kind: maneuver.kind, phase: maneuver.phase() });
    }
}

/// The body as the tick begins: what it stands on, and where the player wants
/// it.
fn sense_body<V: Geometry>(
    tuning: &Tuning,
    state: &State<V>,
    intent: &Intent,
    frame: &Frame<V>,
    surroundings: &impl Surroundings<V>,
) -> Local<V> {
    let mut body = Local::of(state, frame);
    body.from_above = tuning.steering.is_from_above(V::DIMENSION);
    body.wish = drive::wish(tuning, intent, frame.local(state.facing));
    body.steered = body.wish;
    body.top = drive::top_speed(tuning, state, intent);
    if body.from_above {
        body.mode = Mode::Afoot;
        body.owner = Owner::Walk;
    }
    if body.ground.firm {
        body.surface = surroundings.surface(body.ground.tag.surface);
        body.surface.drift = frame.local(body.surface.drift);
    }
    body
}

/// What carriers do to the body in this tick, in its frame.
struct Rides<V> {
    /// How far the body is taken along, and by what.
    own: Option<(V, CarrierId)>,
    /// How far other carriers nearby move where the body is.
    others: SmallVec<[(V, CarrierId); 4]>,
    /// Whether the feet have let go of one.
    left: bool,
}

impl<V: Geometry> Rides<V> {
    fn of(
        tuning: &Tuning,
        state: &State<V>,
        frame: &Frame<V>,
        surroundings: &impl Surroundings<V>,
        body: &mut Local<V>,
        hull: &Hull,
        dt: f32,
    ) -> Self {
        if surroundings.is_plain() {
            return Self { own: None, others: SmallVec::new(), left: false };
        }
        let way = |carrier| carried(carrier, surroundings, frame, state.position);
        let ladder = state.ladder.and_then(|zone| carrier_of(zone, surroundings));
        let stood_on = state.footing.carrier.filter(|_| state.footing.is_firm());
        let most = tuning.ride.let_go;
        let left = most > 0.0
            && stood_on.is_some_and(|carrier| {
                // Downward, from tick to tick.
                let change = body.ground_velocity.height() * dt - way(carrier).height();
                change > most * dt * dt
            });
        let own = stood_on.filter(|_| !left).or(ladder);
        if let Some(carrier) = own {
            body.turn = turn_of(carrier, surroundings);
        }
        let near = V::splat(hull.height() + hull.half_width());
        let mut others = SmallVec::new();
        surroundings.moving(&frame.world_bounds(Bounds { min: -near, max: near }), |carrier| {
            if own != Some(carrier) && !others.iter().any(|&(_, known)| known == carrier) {
                others.push((way(carrier), carrier));
            }
        });
        Self { own: own.map(|carrier| (way(carrier), carrier)), others, left }
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
    if tuning.steering.is_from_above(V::DIMENSION) {
        state.mode = Mode::Afoot;
        state.aloft_time = 0.0;
        return;
    }
    let frame = state.frame();
    let reach = Bounds { min: V::ZERO, max: V::ZERO }.widened(V::splat(4.0 * hull.clearance()));
    let mut patch = Patch::gather(frame, hull, around_feet(reach, tuning), surroundings);
    let gather = |patch: &mut Patch<V>, reach| patch.refill(hull, reach, surroundings);
    let mut traveller = Traveller::new(&mut patch, &gather, rules(tuning), V::ZERO);
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
    let hops = tuning.steering == Steering::Hop && body.steered != V::ZERO;
    let ahead = if hops { tuning.hop.length * tuning.hop.run_steps } else { 0.0 };
    let room = 1.1 * room_aside(way.length().max(body.top.abs() * dt)) + ahead;
    let reach = Bounds { min: V::ZERO.min(way), max: V::ZERO.max(way) };
    rides.widen(around_feet(reach.widened(V::splat(room)), tuning))
}

fn rules(tuning: &Tuning) -> Rules {
    Rules { cos_steepest: cosine(tuning.slope.steepest), curb: tuning.slope.curb, cling: tuning.slope.cling }
}

/// Whether a tick begins by getting free.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Overlaps {
    Unlikely,
    Likely,
}

/// What ground does to who lands on it.
#[derive(Clone, Copy)]
struct Ground<'a, V> {
    velocity: &'a dyn Fn(&Tag) -> V,
    /// The part of that with which its carrier moves: the rest of the tick takes
    /// along who lands.
    carrier: &'a dyn Fn(&Tag) -> V,
    bounce: &'a dyn Fn(&Tag) -> f32,
    /// The velocity and way on foot of who comes down on it with a level
    /// velocity, for the rest of the tick; nothing for a body that a maneuver or
    /// the host drives, which goes on as it set out.
    on_foot: Option<&'a OnFoot<'a, V>>,
    /// The rest of the tick for who walks off it; nothing for a body that is led
    /// without gravity.
    off_an_edge: Option<&'a OffAnEdge<'a, V>>,
    /// Which walls hold who comes down along them, and the rest of the tick then;
    /// nothing where none does.
    walls: Option<(&'a Holds<'a, V>, &'a DownAWall<'a, V>)>,
}

/// From a level velocity, the ground and a time to a velocity and a way.
type OnFoot<'a, V> = dyn Fn(V, &Stand<V>, f32) -> (V, V) + 'a;

/// From a way, a velocity and a time to the legs of a fall.
type OffAnEdge<'a, V> = dyn Fn(V, V, f32) -> drive::Legs<V> + 'a;

/// From a velocity, a wall's normal, the wall and a time to the legs of a slide down it.
type DownAWall<'a, V> = dyn Fn(V, V, &Tag, f32) -> drive::Legs<V> + 'a;

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
    ground: &Ground<'_, V>,
    dt: f32,
    events: &mut Events<V>,
) -> Outcome<V> {
    if let Some((way, carrier)) = rides.own {
        traveller.carried(way, carrier);
    }
    let before = (traveller.at, traveller.velocity);
    traveller.pushed();
    let (push, gained) = (traveller.at - before.0, traveller.velocity - before.1);
    if overlaps == Overlaps::Likely
        && let Freed::Crushed { held } = traveller.get_free()
    {
        tell(events, Event::Crushed);
        if held {
            return held_fast(traveller, body, dt, events);
        }
    }
    let pushed_on = (push != V::ZERO).then(|| drive.after(push));
    let drive = pushed_on.as_ref().unwrap_or(drive);
    let (stand, off_for) = set_out(&mut traveller, drive, gained, body, frame, ground, dt, events);
    traveller.feel_wall(body.wish);
    let ground_velocity =
        stand.as_ref().filter(|stand| stand.firm).map_or(V::ZERO, |stand| (ground.velocity)(&stand.tag));
    Outcome {
        at: traveller.at,
        velocity: traveller.velocity,
        ground_velocity,
        stand,
        off_for,
        contacts: traveller.contacts,
        depth: traveller.depth,
        ahead: traveller.ahead,
        held: false,
        slides: traveller.slides,
    }
}

/// A body held by what has crushed it: it stays where it is, on the ground that it
/// stood on if that is still there and outside it.
#[cold]
#[inline(never)]
fn held_fast<V: Geometry>(
    mut traveller: Traveller<'_, V>,
    body: &Local<V>,
    dt: f32,
    events: &mut Events<V>,
) -> Outcome<V> {
    let stand = traveller.still_on(&body.ground);
    if stand.is_none() && body.mode == Mode::Afoot && !body.from_above {
        tell(events, Event::LeftGround { by: Departure::Edge });
    }
    Outcome {
        at: traveller.at,
        velocity: V::ZERO,
        ground_velocity: V::ZERO,
        stand,
        off_for: dt,
        contacts: SmallVec::new(),
        depth: 0.0,
        ahead: 0.0,
        held: true,
        slides: false,
    }
}

/// Goes the way of the tick. Gives what the feet are on then, and how long they
/// were off the ground.
#[inline(always)] // called once, in every tick
#[allow(clippy::too_many_arguments)] // the stage's inputs, each once
fn set_out<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    drive: &Drive<V>,
    gained: V,
    body: &Local<V>,
    frame: &Frame<V>,
    ground: &Ground<'_, V>,
    dt: f32,
    events: &mut Events<V>,
) -> (Option<Stand<V>>, f32) {
    let stand = match drive {
        Drive::Walk { way, velocity } => {
            traveller.velocity = *velocity;
            let Some(off_an_edge) = ground.off_an_edge else {
                let stand = traveller.walk(*way, body.ground);
                leave_unless_firm(traveller, stand.as_ref(), body.ground_velocity, events);
                return (stand, 0.0);
            };
            match traveller.walk_to_edge(*way, body.ground) {
                Walk::OnGround(stand) => return (Some(stand), 0.0),
                Walk::ToEdge(gone) => {
                    tell(events, Event::LeftGround { by: Departure::Edge });
                    let left = (1.0 - gone) * dt;
                    let legs = off_an_edge(*way * (1.0 - gone), traveller.velocity, left);
                    let stand = fly(traveller, &legs, None, frame, ground, events);
                    let is_firm = stand.as_ref().is_some_and(|stand| stand.firm);
                    if is_firm && has_hardly_left(events) {
                        events.truncate(events.len() - 2);
                        return (stand, 0.0);
                    }
                    return (stand, left);
                }
            }
        }
        Drive::Fly { legs } => {
            let legs: drive::Legs<V> = legs.iter().map(|leg| leg.faster(gained)).collect();
            let lay = body.lies_steep.then_some(body.ground.normal);
            fly(traveller, &legs, lay, frame, ground, events)
        }
        Drive::Glide { way, velocity, settles } => {
            let leg = Leg { way: *way, from: *velocity, to: *velocity, time: dt };
            traveller.glide(&leg, if body.from_above { Landings::Plane } else { Landings::None });
            let stand = if *settles { traveller.arrive() } else { None };
            if let Some(stand) = &stand {
                let speed = (-velocity.height()).max(0.0);
                tell(events, Event::Landed { speed, surface: stand.tag.surface, piece: stand.tag.piece });
            }
            stand
        }
    };
    (stand, dt)
}

/// A landing slower than this, in m/s, is after a fall of less than a clearance.
const NO_FALL: f32 = 0.1;

/// Whether the last that was told is leaving the ground and landing on it without a
/// fall between: between slopes where a hair decides what holds the feet.
fn has_hardly_left<V: Geometry>(events: &Events<V>) -> bool {
    let len = events.len();
    matches!(events[len.saturating_sub(2)..], [Event::LeftGround { .. }, Event::Landed { speed, .. }] if speed < NO_FALL)
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
        tell(events, Event::LeftGround { by: Departure::Edge });
        traveller.velocity = traveller.velocity.flat() + ground_velocity;
    }
}

#[inline(never)]
fn fly<V: Geometry>(
    traveller: &mut Traveller<'_, V>,
    legs: &[Leg<V>],
    lay: Option<V>,
    frame: &Frame<V>,
    ground: &Ground<'_, V>,
    events: &mut Events<V>,
) -> Option<Stand<V>> {
    /// Ground that throws back slower than this, in m/s, does not.
    const STILL: f32 = 0.8;
    let mut to_come = legs.iter().map(|leg| leg.time).sum::<f32>();
    for (number, leg) in legs.iter().enumerate() {
        let holds = ground.walls.map(|(holds, _)| holds);
        let flight = traveller.fly(leg, to_come, &ground.velocity, holds);
        to_come -= leg.time;
        if let (Flight::AtWall { normal, wall, left }, Some((_, down))) = (flight, ground.walls) {
            let legs = down(traveller.velocity, normal, &wall, left + to_come);
            traveller.slides = true;
            return fly(traveller, &legs, lay, frame, &Ground { walls: None, ..*ground }, events);
        }
        if let Flight::Landed { on, speed, velocity, rest, left } = flight {
            let (surface, piece) = (on.tag.surface, on.tag.piece);
            let moves = (ground.velocity)(&on.tag);
            let thrown = speed * (ground.bounce)(&on.tag);
            if thrown > STILL {
                tell(events, Event::Bounced { speed: thrown });
                traveller.velocity = traveller.velocity.flat() + V::UP * (thrown + moves.height());
                return None;
            }
            tell(events, Event::Landed { speed, surface, piece });
            let later = &legs[number + 1..];
            let (velocity, way) = match ground.on_foot {
                Some(on_foot) => {
                    let time = left + to_come;
                    let (velocity, way) = on_foot((velocity - moves).flat(), &on, time);
                    (velocity, way + laid_on((ground.carrier)(&on.tag).flat() * time, on.normal))
                }
                None => {
                    let rest = later.iter().fold(rest, |sum, leg| sum + leg.way);
                    let velocity = legs[legs.len() - 1].to - moves;
                    (turned_onto(velocity.flat(), on.normal), turned_onto(rest.flat(), on.normal))
                }
            };
            traveller.velocity = velocity;
            let stand = traveller.walk(way, on);
            leave_unless_firm(traveller, stand.as_ref(), moves, events);
            let stays_off = !stand.as_ref().is_some_and(|stand| stand.firm);
            if stays_off && speed < NO_FALL {
                // It has been aloft all along.
                events.truncate(events.len() - 2);
            }
            return stand;
        }
        let at_top = leg.from.height() > 0.0 && leg.to.height() <= 0.0;
        if at_top && !traveller.met(ContactKind::Ceiling) {
            let position = frame.world_point(traveller.at);
            tell(events, Event::Apex { position });
        }
    }
    traveller.steep(lay)
}
