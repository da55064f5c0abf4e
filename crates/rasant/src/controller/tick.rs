//! The stages of a tick, in order.

use core::any::Any;
use core::cell::RefCell;

use glam::{Vec2, Vec3};

use crate::contact::{Geometry, Hull, Patch, Scratch};
use crate::input::{Actions, Intent};
use crate::level::{Errand, Level, Surroundings};
use crate::moves::{self, Refusals, Senses, Taken};
use crate::space::{Bounds, advance};
use crate::state::{Event, Events, Locks, Mode, Span, State, emit};
use crate::travel::Traveller;
use crate::tuning::Tuning;

use super::around::{self, ZonesMet};
use super::charge::Charge;
use super::decide::{Slots, decide};
use super::drive::Task;
use super::go::{Ahead, Overlaps, go, rules};
use super::reach::around_feet;
use super::sense::{Asked, Given, Moving, find_others, reach, sense, sense_wall};
use super::settle;
use super::take_in;

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

/// Moves a body by one tick ([`tick`]), with the events put into a list that is there already, in place of
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
    let scratch = &mut Scratch::default();
    surroundings.host(Ticking { tuning, hull, state, intent, dt, events, scratch });
}

/// Moves a body by one tick in memory that is kept from tick to tick.
pub(super) fn tick_in<V: Geometry>(
    (tuning, hull): (&Tuning, &Hull),
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    (events, scratch): (&mut Events<V>, &mut Scratch),
) {
    surroundings.host(Ticking { tuning, hull, state, intent, dt, events, scratch });
}

/// A tick that is yet to be done.
struct Ticking<'a, V: Geometry> {
    tuning: &'a Tuning,
    hull: &'a Hull,
    state: &'a mut State<V>,
    intent: &'a Intent,
    dt: f32,
    events: &'a mut Events<V>,
    scratch: &'a mut Scratch,
}

impl<V: Geometry> Errand<V> for Ticking<'_, V> {
    fn among(self, surroundings: &impl Surroundings<V>) {
        self.done_among(surroundings);
    }

    /// By one of two functions that are generic in nothing: whoever calls this, in a
    /// crate of their own, need not compile a tick anew.
    fn in_level(self, level: &Level<V>) {
        let Self { tuning, hull, state, intent, dt, events, scratch } = self;
        let (level, state): (&dyn Any, &mut dyn Any) = (level, state);
        let events: &mut dyn Any = events;
        if let Some(level) = level.downcast_ref() {
            if let (Some(state), Some(events)) = (state.downcast_mut(), events.downcast_mut()) {
                tick_in_plane(Ticking { tuning, hull, state, intent, dt, events, scratch }, level);
            }
        } else if let (Some(level), Some(state), Some(events)) =
            (level.downcast_ref(), state.downcast_mut(), events.downcast_mut())
        {
            tick_in_space(Ticking { tuning, hull, state, intent, dt, events, scratch }, level);
        }
    }
}

fn tick_in_plane(ticking: Ticking<'_, Vec2>, level: &Level<Vec2>) {
    ticking.done_among(level);
}

fn tick_in_space(ticking: Ticking<'_, Vec3>, level: &Level<Vec3>) {
    ticking.done_among(level);
}

impl<V: Geometry> Ticking<'_, V> {
    /// Does it in surroundings of any kind.
    fn done_among(self, surroundings: &impl Surroundings<V>) {
        let Self { tuning, hull, state, intent, dt, events, scratch } = self;
        events.clear();
        if !(dt > 0.0 && dt.is_finite()) {
            return;
        }
        let mut is_mended = !state.has_a_place();
        if is_mended {
            *state = state.mended();
        }
        moves::arrange(tuning, state);
        let mut parts = Parts::whole(dt);
        let mut origin: Option<State<V>> = None;
        let mut pending = None;
        let mut now = intent;
        let without_presses = Intent { pressed: Actions::NONE, released: Actions::NONE, ..*intent };
        loop {
            // Events from calls between ticks. They are put back if the result is not finite.
            if !state.pending.is_quiet() {
                let kept = state.pending;
                state.pending = kept.without_events();
                take_in::emit_pending(&kept, state, events);
                pending = Some(kept);
            }
            let before = *state;
            let told = events.len();
            let ticking = Ticking {
                tuning,
                hull,
                state: &mut *state,
                intent: now,
                dt: parts.time,
                events: &mut *events,
                scratch: &mut *scratch,
            };
            if let Some(border) = tick_finite(&before, ticking, surroundings, parts.cut) {
                events.truncate(told);
                *state = before;
                origin.get_or_insert(before);
                parts.end_at(border);
                continue;
            }
            if parts.has_more() && !events[told..].contains(&Event::Respawned) {
                // Presses belong to the first part.
                now = &without_presses;
                parts.go_on();
                continue;
            }
            if state.is_finite() {
                return;
            }
            let origin = origin.take().unwrap_or(before);
            events.clear();
            *state = State { pending: pending.unwrap_or(origin.pending), ..origin };
            if is_mended || origin.is_finite() {
                return;
            }
            // Once more, from a state without broken numbers, and not again.
            *state = origin.mended();
            (parts, now, pending, is_mended) = (Parts::whole(dt), intent, None, true);
        }
    }
}

/// What is done of a tick at once: all of it; or, where it leads over the border of a zone that acts
/// on the motion, first up to there and then the rest. So what the zone does begins and ends at its
/// border at any tick rate.
struct Parts {
    /// Seconds of the present part.
    time: f32,
    /// Seconds after it.
    rest: f32,
    /// Whether the present part may be cut.
    cut: Cut,
    /// How often the tick may yet be cut.
    cuts: u32,
}

impl Parts {
    /// Borders at which a tick is cut, at most.
    const MOST: u32 = 4;

    fn whole(time: f32) -> Self {
        Self { time, rest: 0.0, cut: Cut::AtBorders, cuts: Self::MOST }
    }

    /// Ends the present part at a fraction of it.
    #[cold]
    fn end_at(&mut self, border: f32) {
        let time = self.time * border;
        self.rest += self.time - time;
        (self.time, self.cut) = (time, Cut::Never);
        self.cuts -= 1;
    }

    fn has_more(&self) -> bool {
        self.rest > 0.0
    }

    /// Goes on to the rest.
    #[cold]
    fn go_on(&mut self) {
        let cut = if self.cuts > 0 { Cut::AtBorders } else { Cut::Never };
        (self.time, self.rest, self.cut) = (self.rest, 0.0, cut);
    }
}

/// Whether a tick may be cut in two.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Cut {
    /// Where it leads over the border of a zone that acts on the motion.
    AtBorders,
    Never,
}

/// A tick of a state and a time that are finite: `before` is what the state is yet. Where it is to
/// be cut, returns the fraction of its time up to the border; state and events are then to be put
/// back.
#[inline(always)] // called once
fn tick_finite<V: Geometry>(
    before: &State<V>,
    ticking: Ticking<'_, V>,
    surroundings: &impl Surroundings<V>,
    cut: Cut,
) -> Option<f32> {
    let Ticking { tuning, hull, state, intent, dt, events, scratch } = ticking;
    // Presses do nothing for a body that something holds fast.
    let unheard;
    let intent = if before.is_held() {
        unheard = Intent { pressed: Actions::NONE, ..*intent };
        &unheard
    } else {
        intent
    };
    // Take in.
    let hull =
        &take_in::as_seen::<V>(tuning, &take_in::posture(tuning, hull, state, intent, surroundings, events));
    let span = Span::tick(dt, &mut state.carry_over.uncounted);
    let frame = state.frame();
    let carried = take_in::carrier(tuning, state, &frame, surroundings, dt, events);
    let taken;
    let before = if take_in::has_changed(before, state) {
        taken = *state;
        &taken
    } else {
        before
    };

    // Sense.
    let mut under_way = None;
    let mut sensed = sense(
        &Given { tuning, intent, state: before, frame: &frame, hull, dt, span, carried },
        surroundings,
        &mut under_way,
    );
    let mut others = Moving::new();
    if !surroundings.is_plain() {
        find_others(&sensed, surroundings, &mut others);
    }
    let mut patch = Patch::empty(frame, hull, Bounds::empty());
    patch.lend(scratch);
    let widened = |reach| carried.iter().chain(&others).fold(reach, widened_by);
    patch.refill(hull, widened(reach(&sensed)), surroundings);
    sense_wall(&mut sensed, &patch);
    let host = &Asked(surroundings);

    // Decide.
    let mut slots = Slots::empty();
    let mut charge = Charge::by_itself(&sensed);
    decide(&mut charge, &Senses { sensed: &sensed, patch: &patch, host }, &mut slots);

    // Drive.
    let task = Task { sensed: &sensed, charge: &charge };
    let mut drive = task.drive();
    let ahead = drive.shorten(before.carry_over.step_lead);
    let way = widened(drive.reach(tuning, hull));
    if !patch.covers(&way) {
        patch.refill(hull, way, surroundings);
    }

    // Travel.
    let ahead_of = Ahead { task: &task, surroundings };
    // A body that moves by itself never overlaps anything, so that is looked
    // into only where there is a reason.
    let overlaps = if others.is_empty() && !before.is_held() { Overlaps::Unlikely } else { Overlaps::Likely };
    let mut outcome = go(&mut patch, overlaps, &others, &drive, &ahead_of);
    if overlaps == Overlaps::Unlikely && patch.is_overlap(outcome.depth) {
        // Something has come to the body: once more, and free of it.
        outcome = go(&mut patch, Overlaps::Likely, &others, &drive, &ahead_of);
    }
    outcome.ahead += ahead;

    // Settle.
    let passing = charge.passes().or(before.carry_over.passing());
    let passing = passing.filter(|&piece| patch.is_near(piece, outcome.at, 2.0 * hull.clearance()));
    state.carry_over.set_passing(passing);
    let moved = frame.world(outcome.at);
    if moved != V::ZERO {
        (state.position, state.remainder) = advance(before.position, before.remainder, moved);
    }
    settle::settle(&sensed, &charge, &outcome, state, events);
    if !surroundings.is_plain() || !before.zones.ids().is_empty() {
        let met = ZonesMet::between(before, state, hull, surroundings);
        // Carriers move by the whole tick.
        if cut == Cut::AtBorders
            && others.is_empty()
            && sensed.led.is_none()
            && carried.is_none()
            && let Some(border) = met.border
        {
            patch.give_back(scratch);
            return Some(border);
        }
        around::enter_and_leave(&met, state, hull, (tuning, surroundings), events);
    }
    if state.carry_over.checkpoint_pending {
        around::set_pending_checkpoint(state, hull, surroundings);
    }
    let mut refused = RefCell::new(Refusals::new());
    let taken = Taken {
        events,
        by: charge.taken.map(|taken| taken.number),
        began: charge.begins,
        unasked: sensed.led.is_some() || before.is_held(),
        landed_for: outcome.landed_for(),
        locks_jump: charge.locks.contains(Locks::JUMP) || before.is_held(),
        refused: &refused,
    };
    moves::remember(&Senses { sensed: &sensed, patch: &patch, host }, &taken, state);
    for &what in refused.get_mut().iter() {
        emit(events, Event::Refused { what });
    }
    patch.give_back(scratch);
    None
}

/// Bounds of displacement with room for what a carrier does.
fn widened_by<V: Geometry, T>(all: Bounds<V>, &(way, _): &(V, T)) -> Bounds<V> {
    Bounds { min: all.min.min(all.min + way), max: all.max.max(all.max + way) }
}

/// Stands a body on ground that is within twice the clearance below.
pub(super) fn find_footing<V: Geometry>(
    tuning: &Tuning,
    hull: &Hull,
    state: &mut State<V>,
    surroundings: &impl Surroundings<V>,
) {
    if tuning.steering.is_from_above(V::DIMENSION) {
        state.mode = Mode::Grounded;
        state.air = None;
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
