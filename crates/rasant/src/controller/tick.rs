//! The stages of a tick, in order.

use core::any::Any;
use core::cell::RefCell;

use glam::{Vec2, Vec3};

use crate::contact::{Geometry, Hull, Patch, Scratch};
use crate::input::{Actions, Intent};
use crate::level::{Level, Surroundings, Visitor};
use crate::moves::{self, Refusals, Senses, TickOutcome};
use crate::space::{Bounds, advance};
use crate::state::{Event, Events, Mode, Mutes, Span, State, emit};
use crate::travel::Mover;
use crate::tuning::Tuning;

use super::around::{self, ZonesTouched};
use super::charge::Charge;
use super::decide::{Slots, decide};
use super::drive::Task;
use super::go::{Ahead, Overlaps, go, rules};
use super::reach::around_feet;
use super::sense::{HostOf, Moving, SenseInput, find_others, reach, sense, sense_wall};
use super::settle;
use super::take_in;

/// Moves a body by one tick of `dt` seconds: a function over plain data.
///
/// Lengths are in metres, times in seconds, all vectors in world coordinates. The same arguments
/// give the same bits on every platform.
///
/// Broken numbers do not spread: the output is finite whatever the input. A tick with a length that
/// is zero, negative or NaN changes nothing and emits nothing. A steer that is not finite counts as
/// none. A state that is not finite is first sanitised ([`State::mended`]). A tick whose result
/// would not be finite, as with a knob that is infinite, leaves the state as it was and emits
/// nothing.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Hull, Intent, Level, Piece, State, Tuning, tick};
///
/// # let mut builder = Level::builder();
/// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// # let hull = Hull::capsule(0.3, 1.7)?;
/// let tuning = Tuning::default();
/// let mut state = State::at(Vec2::ZERO);
/// for _ in 0..60 {
///     tick(&tuning, &hull, &mut state, &Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
/// }
/// assert!(state.position.x > 3.0 && state.footing.is_firm());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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

/// As [`tick`], with the events written to an existing list, which is cleared first: for a host
/// that ticks many bodies.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::state::Events;
/// use rasant::{Hull, Intent, Level, Piece, State, Tuning, controller::tick_into};
///
/// # let mut builder = Level::builder();
/// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// # let hull = Hull::capsule(0.3, 1.7)?;
/// let tuning = Tuning::default();
/// let mut crowd = [-3.0, 0.0, 3.0].map(|x| State::at(Vec2::new(x, 1.0)));
/// let mut events = Events::new();
/// for state in &mut crowd {
///     tick_into(&tuning, &hull, state, &Intent::default(), &level, 1.0 / 60.0, &mut events);
///     assert!(state.position.y < 1.0, "it falls");
/// }
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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
    surroundings.accept(Ticking { tuning, hull, state, intent, dt, events, scratch });
}

/// Moves a body by one tick, with memory that is kept from tick to tick.
pub(super) fn tick_in<V: Geometry>(
    (tuning, hull): (&Tuning, &Hull),
    state: &mut State<V>,
    intent: &Intent,
    surroundings: &impl Surroundings<V>,
    dt: f32,
    (events, scratch): (&mut Events<V>, &mut Scratch),
) {
    surroundings.accept(Ticking { tuning, hull, state, intent, dt, events, scratch });
}

/// A tick that is to be done.
struct Ticking<'a, V: Geometry> {
    tuning: &'a Tuning,
    hull: &'a Hull,
    state: &'a mut State<V>,
    intent: &'a Intent,
    dt: f32,
    events: &'a mut Events<V>,
    scratch: &'a mut Scratch,
}

impl<V: Geometry> Visitor<V> for Ticking<'_, V> {
    fn visit(self, surroundings: &impl Surroundings<V>) {
        self.done_in(surroundings);
    }

    /// Calls one of two functions that are not generic, so that other crates that call this need
    /// not compile a tick again.
    fn visit_level(self, level: &Level<V>) {
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
    ticking.done_in(level);
}

fn tick_in_space(ticking: Ticking<'_, Vec3>, level: &Level<Vec3>) {
    ticking.done_in(level);
}

impl<V: Geometry> Ticking<'_, V> {
    /// Runs the tick in surroundings of any type.
    fn done_in(self, surroundings: &impl Surroundings<V>) {
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
            // Events of calls between ticks. They are restored if the result is not finite.
            if !state.pending.is_quiet() {
                let kept = state.pending;
                state.pending = kept.without_events();
                take_in::emit_pending(&kept, state, events);
                pending = Some(kept);
            }
            let before = *state;
            let reported = events.len();
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
                events.truncate(reported);
                *state = before;
                origin.get_or_insert(before);
                parts.end_at(border);
                continue;
            }
            if parts.has_more() && !events[reported..].contains(&Event::Respawned) {
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

/// The part of a tick that is computed at once: all of it, or, if it crosses the border of a zone
/// that acts on the motion, first up to the border and then the rest. So the effects of a zone
/// begin and end at its border at any tick rate.
struct Parts {
    /// Seconds of the current part.
    time: f32,
    /// Seconds after it.
    rest: f32,
    /// Whether the current part may be split.
    cut: Cut,
    /// How often the tick may still be split.
    cuts: u32,
}

impl Parts {
    /// The maximum number of borders at which a tick is split.
    const MOST: u32 = 4;

    fn whole(time: f32) -> Self {
        Self { time, rest: 0.0, cut: Cut::AtBorders, cuts: Self::MOST }
    }

    /// Ends the current part at a fraction of it.
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

    /// Continues with the rest.
    #[cold]
    fn go_on(&mut self) {
        let cut = if self.cuts > 0 { Cut::AtBorders } else { Cut::Never };
        (self.time, self.rest, self.cut) = (self.rest, 0.0, cut);
    }
}

/// Whether a tick may be split.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Cut {
    /// Where it crosses the border of a zone that acts on the motion.
    AtBorders,
    Never,
}

/// Computes a tick with a finite state and time. `before` equals the initial `state`. If the tick
/// is to be split, returns the fraction of its time up to the border; the caller then restores
/// state and events.
#[inline(always)] // called once
fn tick_finite<V: Geometry>(
    before: &State<V>,
    ticking: Ticking<'_, V>,
    surroundings: &impl Surroundings<V>,
    cut: Cut,
) -> Option<f32> {
    let Ticking { tuning, hull, state, intent, dt, events, scratch } = ticking;
    // Presses have no effect on a body that is held fast.
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
    let chosen;
    let before = if take_in::has_changed(before, state) {
        chosen = *state;
        &chosen
    } else {
        before
    };

    // Sense.
    let mut under_way = None;
    let mut sensed = sense(
        &SenseInput { tuning, intent, state: before, frame: &frame, hull, dt, span, carried },
        surroundings,
        &mut under_way,
    );
    let mut others = Moving::new();
    if !surroundings.is_plain() {
        find_others(&sensed, surroundings, &mut others);
    }
    let mut patch = Patch::empty(frame, hull, Bounds::empty());
    patch.lend(scratch);
    let shove = frame.local(surroundings.shove());
    let widened = |reach| {
        let reach = if shove == V::ZERO { reach } else { widened_by(reach, &(shove, ())) };
        carried.iter().chain(&others).fold(reach, widened_by)
    };
    patch.refill(hull, widened(reach(&sensed)), surroundings);
    sense_wall(&mut sensed, &patch);
    let host = &HostOf(surroundings);

    // Decide.
    let mut slots = Slots::empty();
    let mut charge = Charge::by_itself(&sensed);
    decide(&mut charge, &Senses { sensed: &sensed, patch: &patch, host }, &mut slots);

    // Drive.
    let task = Task { sensed: &sensed, charge: &charge };
    let mut drive = task.drive();
    let ahead = drive.shorten(before.carry_over.step_lead);
    let displacement = widened(drive.reach(tuning, hull));
    if !patch.covers(&displacement) {
        patch.refill(hull, displacement, surroundings);
    }

    // Travel.
    let ahead_of = Ahead { task: &task, surroundings };
    // A body that moves by itself never overlaps anything, so overlaps are only looked for if there
    // is a reason.
    let overlaps = if others.is_empty() && !before.is_held() { Overlaps::Unlikely } else { Overlaps::Likely };
    let mut outcome = go(&mut patch, overlaps, (&others, shove), &drive, &ahead_of);
    if overlaps == Overlaps::Unlikely && patch.is_overlap(outcome.depth) {
        // Something has moved into the body: again, with overlaps resolved.
        outcome = go(&mut patch, Overlaps::Likely, (&others, shove), &drive, &ahead_of);
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
        let met = ZonesTouched::between(before, state, hull, surroundings);
        // Carriers move by the whole tick.
        if cut == Cut::AtBorders
            && others.is_empty()
            && sensed.led.is_none()
            && carried.is_none()
            && shove == V::ZERO
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
    let chosen = TickOutcome {
        events,
        by: charge.chosen.map(|chosen| chosen.number),
        began: charge.begins,
        none_consulted: sensed.led.is_some() || before.is_held(),
        landed_for: outcome.landed_for(),
        mutes_jump: charge.mutes.contains(Mutes::JUMP) || before.is_held(),
        refused: &refused,
    };
    moves::remember(&Senses { sensed: &sensed, patch: &patch, host }, &chosen, state);
    for &what in refused.get_mut().iter() {
        emit(events, Event::Refused { what });
    }
    patch.give_back(scratch);
    None
}

/// Bounds of displacement with a margin for the motion of a carrier.
fn widened_by<V: Geometry, T>(all: Bounds<V>, &(displacement, _): &(V, T)) -> Bounds<V> {
    Bounds { min: all.min.min(all.min + displacement), max: all.max.max(all.max + displacement) }
}

/// Puts a body on ground that is within twice the clearance below.
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
    let mut mover = Mover::new(&mut patch, &gather, rules(tuning), V::ZERO);
    mover.get_free();
    let Some((stand, lowered)) = mover.ground_below(2.0 * hull.clearance()) else { return };
    if stand.firm {
        let moved = frame.world(mover.at - V::UP * lowered);
        (state.position, state.remainder) = advance(state.position, state.remainder, moved);
        settle::stand(state, &stand, mover.at - V::UP * lowered, &frame);
    }
}
