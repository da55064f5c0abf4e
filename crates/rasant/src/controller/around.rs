//! The effects of zones on a body: while it is in them, and when it enters or leaves them.

use crate::contact::{Geometry, Hull, Patch};
use crate::level::{Effect, SurfaceId, Surroundings, Zone, ZoneId};
use crate::space::{Bounds, Frame, TINY, Vector, advance, cosine};
use crate::thresholds::zones;
use smallvec::SmallVec;

use super::room::has_room;
use super::take_in::emit_pending;
use crate::moves::Rungs;
use crate::state::{
    Air, Changes, Departure, Event, Events, Footing, FootingKind, Refusal, Span, State, Touching, Zones, emit,
};
use crate::travel::{Freed, Mover, Rules};
use crate::tuning::Tuning;

/// What surrounds the body in a tick beside pieces, in its frame.
pub(super) struct Around<V> {
    /// The acceleration of the wind.
    pub push: V,
    /// The factor on the walking speed.
    pub pace: f32,
    /// The factor on gravity.
    pub weight: f32,
    /// A ladder within reach.
    pub ladder: Option<Rungs<V>>,
    /// The height of the surface of water above the feet.
    pub water: Option<f32>,
    /// The surface that bodies seen from above walk on.
    pub floor: Option<SurfaceId>,
    /// The grip of the wall that it was last beside.
    pub wall_grip: f32,
}

impl<V: Vector> Around<V> {
    pub(super) fn of(
        state: &State<V>,
        hull: &Hull,
        frame: &Frame<V>,
        surroundings: &impl Surroundings<V>,
    ) -> Self {
        let mut around = Self {
            push: V::ZERO,
            pace: 1.0,
            weight: 1.0,
            ladder: None,
            water: None,
            floor: None,
            wall_grip: 1.0,
        };
        if let Some(wall) = &state.touching.beside {
            around.wall_grip = surroundings.surface(wall.surface).grip;
        }
        if !state.zones.ids().is_empty() {
            around.add_zones(state, hull, frame, surroundings);
        }
        around
    }

    #[inline(never)]
    fn add_zones(
        &mut self,
        state: &State<V>,
        hull: &Hull,
        frame: &Frame<V>,
        surroundings: &impl Surroundings<V>,
    ) {
        for &id in state.zones.ids() {
            let Some(zone) = surroundings.zone(id) else { continue };
            for effect in zone.effects.iter() {
                self.add(effect, id, &zone.bounds, state, hull, frame);
            }
        }
    }
}

impl<V: Vector> Around<V> {
    fn add(
        &mut self,
        effect: &Effect<V>,
        id: ZoneId,
        bounds: &Bounds<V>,
        state: &State<V>,
        hull: &Hull,
        frame: &Frame<V>,
    ) {
        match *effect {
            Effect::Wind { push } => self.push += frame.local(push),
            Effect::Slow { pace } => self.pace *= pace,
            Effect::Weight { factor } => self.weight *= factor,
            Effect::Floor { surface } => self.floor = Some(surface),
            Effect::Ladder { front } => {
                let rungs = rungs(id, *bounds, front, hull, frame);
                // The one held, or the nearest.
                let is_nearer = |other: Rungs<V>| rungs.aside.length_squared() < other.aside.length_squared();
                let held = state.ladder.filter(|held| state.zones.contains(*held));
                if held == Some(id) || (held.is_none() && self.ladder.is_none_or(is_nearer)) {
                    self.ladder = Some(rungs);
                }
            }
            Effect::Water => {
                let middle = frame.local_point(bounds.centre());
                let depth = middle.height() + extent(bounds, frame, V::UP) + hull.origin();
                self.water = Some(self.water.map_or(depth, |other| other.max(depth)));
            }
            // These act when the zone is entered, or only cause events.
            Effect::Hazard
            | Effect::Goal
            | Effect::Checkpoint
            | Effect::CheckpointAt { .. }
            | Effect::Gravity { .. }
            | Effect::Planet
            | Effect::Own(_) => {}
        }
    }
}

impl<V: Vector> Rungs<V> {
    /// The ladder relative to a body that is first carried by `displacement`.
    pub(super) fn after(self, displacement: V) -> Self {
        let up = displacement.height();
        Self { top: self.top - up, bottom: self.bottom - up, aside: self.aside - displacement.flat(), ..self }
    }
}

fn rungs<V: Vector>(zone: ZoneId, bounds: Bounds<V>, front: V, hull: &Hull, frame: &Frame<V>) -> Rungs<V> {
    let middle = frame.local_point(bounds.centre());
    let half = extent(&bounds, frame, V::UP);
    let front = frame.local(front).flat().direction();
    // Across the front in three dimensions. In two, the front does not matter.
    let side = match front {
        Some(front) if V::DIMENSION == 3 => front.turned(core::f32::consts::FRAC_PI_2),
        _ => V::RIGHT,
    };
    Rungs {
        zone,
        front,
        top: middle.height() + half + hull.origin(),
        bottom: middle.height() - half + hull.origin(),
        below: middle.height() - half > hull.middle::<V>().height(),
        aside: middle.flat(),
        half_width: extent(&bounds, frame, side),
    }
}

/// The extent of bounds from their centre along a direction of the frame.
fn extent<V: Vector>(bounds: &Bounds<V>, frame: &Frame<V>, along: V) -> f32 {
    frame.world(along).abs().dot((bounds.max - bounds.min) * 0.5)
}

/// The zones that a body touches in a tick.
pub(super) struct ZonesTouched<V> {
    /// The zones that it is in at the end.
    now: Zones,
    /// The zones that it crossed from one side to the other, with the fraction of the displacement
    /// after which it entered each, in that order.
    passed: SmallVec<[(f32, ZoneId); 8]>,
    /// The fraction of the displacement after which it first enters or leaves a zone that acts on
    /// its motion. The tick is split there.
    pub border: Option<f32>,
    /// The displacement, in the world.
    moved: V,
    /// The bounds of the body before it, in the world.
    start: Bounds<V>,
    /// True if the feet stood before it.
    stood: bool,
    /// The centre of the body before it, in the world.
    middle_before: V,
}

impl<V: Vector> ZonesTouched<V> {
    /// Finds the zones along the displacement from `before` to `state`.
    #[inline(never)]
    pub(super) fn between(
        before: &State<V>,
        state: &State<V>,
        hull: &Hull,
        surroundings: &impl Surroundings<V>,
    ) -> Self {
        // Feet on the top of a zone are in it.
        let below = -2.0 * hull.clearance();
        let half = V::splat(hull.half_width()).with_height(0.5 * hull.height());
        let middle = hull.middle::<V>();
        let own = Bounds { min: middle - half + V::UP * below, max: middle + half };
        let end = state.frame().world_bounds(own);
        let moved = (state.position - before.position) + (state.remainder - before.remainder);
        let start = Bounds { min: end.min - moved, max: end.max - moved };
        let middle_before = middle_of(before, hull);
        let stood = before.from_above || before.footing.is_firm();
        let mut met = Self {
            now: Zones::default(),
            passed: SmallVec::new(),
            border: None,
            moved,
            start,
            stood,
            middle_before,
        };
        // A little beyond the border, so that the body is certainly past it.
        let past = zones::MARGIN * hull.clearance() / moved.length().max(TINY);
        let stays = V::splat(zones::STAYS * hull.clearance());
        surroundings.zones(&start.joined(end).widened(stays), |id| {
            let Some(mut zone) = surroundings.zone(id) else { return };
            let was_in = before.zones.contains(id);
            let bounds = zone.bounds;
            if was_in {
                zone.bounds = zone.bounds.widened(stays);
            }
            let is_in = zone.bounds.overlaps(&end);
            if is_in {
                met.now.add(
                    id,
                    || zone.effects.iter().any(Effect::acts),
                    |other| {
                        surroundings.zone(other).is_some_and(|zone| zone.effects.iter().any(Effect::acts))
                    },
                );
            }
            let passes = times_within(&start, moved, &zone.bounds);
            if let Some((enter, leave)) = passes
                && !is_in
                && !was_in
                && leave > 0.0
                && enter < 1.0
            {
                met.passed.push((enter.max(0.0), id));
            }
            // Another up begins where the centre of the body enters.
            let (passes, was_in) = match gravity_of(&zone, middle_before) {
                Some(up) => {
                    let bounds = while_up(bounds, up, before.up, hull);
                    (
                        times_within(&at_rest(middle_before), moved, &bounds),
                        bounds.overlaps(&at_rest(middle_before)),
                    )
                }
                None => (passes, was_in),
            };
            let Some((enter, leave)) = passes else { return };
            let border = if was_in { leave } else { enter };
            let moves_on = zone.effects.iter().any(Effect::acts_on_motion) && zone.carrier.is_none();
            if moves_on && border > -past && border + past < 1.0 {
                let border = border.max(0.0) + past;
                met.border = Some(met.border.map_or(border, |other| other.min(border)));
            }
        });
        met.passed.sort_by(|a, b| a.0.total_cmp(&b.0));
        met
    }

    /// Where a body that stands at `position` after the displacement first stood in a zone.
    fn entry(&self, position: V, zone: &Bounds<V>) -> V {
        if !self.stood {
            return position;
        }
        let enter = times_within(&self.start, self.moved, zone).map_or(1.0, |(enter, _)| enter);
        position - self.moved * (1.0 - enter.clamp(0.0, 1.0))
    }
}

/// The up of a zone with gravity, at a position.
fn gravity_of<V: Vector>(zone: &Zone<V>, place: V) -> Option<V> {
    let up = |effect: &Effect<V>| match *effect {
        Effect::Gravity { up } => up.direction(),
        Effect::Planet => (place - zone.bounds.centre()).direction(),
        _ => None,
    };
    zone.effects.iter().filter_map(up).last()
}

/// The bounds in which the up of a zone applies to the centre of a body: slightly larger while the
/// body has that up.
fn while_up<V: Vector>(bounds: Bounds<V>, up: V, present: V, hull: &Hull) -> Bounds<V> {
    let beyond = if is_alike(up, present) { zones::STAYS * hull.clearance() } else { 0.0 };
    bounds.widened(V::splat(beyond))
}

/// Returns true if two up directions are so similar that turning from one to the other happens
/// while walking, as on a planet: within 25 degrees.
fn is_alike<V: Vector>(up: V, other: V) -> bool {
    up.dot(other) > 0.9
}

fn middle_of<V: Vector>(state: &State<V>, hull: &Hull) -> V {
    state.position + state.remainder + state.up * hull.middle::<V>().height()
}

/// The bounds of a point.
fn at_rest<V: Vector>(point: V) -> Bounds<V> {
    Bounds { min: point, max: point }
}

/// The up that zones give a body with its centre at a position. Rotating about the centre does not
/// move it, so a body that is rotated is not rotated back at once.
fn up_by_zones<V: Vector>(
    middle: V,
    state: &State<V>,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
) -> V {
    let mut found = state.home_up;
    surroundings.zones(&at_rest(middle).widened(V::splat(zones::STAYS * hull.clearance())), |id| {
        let Some(zone) = surroundings.zone(id) else { return };
        if let Some(up) = gravity_of(&zone, middle)
            && while_up(zone.bounds, up, state.up, hull).overlaps(&at_rest(middle))
        {
            found = up;
        }
    });
    found
}

/// The fractions of a displacement between which bounds that move by it overlap others, or `None`
/// if they never do.
fn times_within<V: Vector>(start: &Bounds<V>, moved: V, other: &Bounds<V>) -> Option<(f32, f32)> {
    let (mut enter, mut leave) = (f32::NEG_INFINITY, f32::INFINITY);
    for axis in 0..V::DIMENSION {
        let part = |vector: V| vector.component(axis);
        let (low, high) = (part(other.min) - part(start.max), part(other.max) - part(start.min));
        let speed = part(moved);
        if speed == 0.0 {
            if low > 0.0 || high < 0.0 {
                return None;
            }
            continue;
        }
        let (a, b) = (low / speed, high / speed);
        (enter, leave) = (enter.max(a.min(b)), leave.min(a.max(b)));
    }
    (enter <= leave).then_some((enter, leave))
}

/// Emits events for the zones that the body entered and left, and applies their immediate effects.
pub(super) fn enter_and_leave<V: Geometry>(
    met: &ZonesTouched<V>,
    state: &mut State<V>,
    hull: &Hull,
    (tuning, surroundings): (&Tuning, &impl Surroundings<V>),
    events: &mut Events<V>,
) {
    let is_in_some = met.now != state.zones || !met.now.ids().is_empty() || !met.passed.is_empty();
    // A body whose up has yet to change back waits for room.
    if is_in_some || state.up != state.home_up {
        change_zones(met, state, hull, (tuning, surroundings), events);
    }
}

#[inline(never)]
fn change_zones<V: Geometry>(
    met: &ZonesTouched<V>,
    state: &mut State<V>,
    hull: &Hull,
    (tuning, surroundings): (&Tuning, &impl Surroundings<V>),
    events: &mut Events<V>,
) {
    let (before, now) = (state.zones, met.now);
    state.zones = now;
    for &zone in before.ids().iter().filter(|&&zone| !now.contains(zone)) {
        emit(events, Event::ZoneLeft { zone });
    }
    let mut hurt = pass_zones(met, state, hull, surroundings, events);
    for &zone in now.ids() {
        let found = surroundings.zone(zone);
        if !before.contains(zone) {
            emit(events, Event::ZoneEntered { zone });
        }
        let effects =
            found.iter().flat_map(|found| found.effects.iter().map(|effect| (effect, found.bounds)));
        for (effect, bounds) in effects {
            match *effect {
                Effect::Checkpoint if !before.contains(zone) => {
                    let entry = met.entry(state.position, &bounds);
                    set_checkpoint(state, entry, hull, surroundings);
                }
                Effect::CheckpointAt { place } if !before.contains(zone) => set_checkpoint_at(state, place),
                Effect::Hazard => hurt |= !before.contains(zone),
                // These act while the body is in the zone, or only cause events.
                Effect::Checkpoint
                | Effect::CheckpointAt { .. }
                | Effect::Gravity { .. }
                | Effect::Planet
                | Effect::Wind { .. }
                | Effect::Slow { .. }
                | Effect::Weight { .. }
                | Effect::Floor { .. }
                | Effect::Ladder { .. }
                | Effect::Water
                | Effect::Goal
                | Effect::Own(_) => {}
            }
        }
    }
    if hurt {
        *state = placed_at(state.checkpoint, state);
        emit_and_clear(state, events);
        emit(events, Event::Respawned);
        return;
    }
    let up = up_by_zones(middle_of(state, hull), state, hull, surroundings);
    if (up - state.up).length_squared() > zones::SAME_UP * zones::SAME_UP {
        if is_alike(up, state.up) {
            if let Some(turned) = turned_gently(state, up, hull, tuning, surroundings) {
                *state = turned;
            }
            return;
        }
        // Moved aside or rotated about its feet, it must not be where it would be rotated back.
        let turned = with_room(state, up, hull, surroundings);
        match turned.filter(|turned| up_by_zones(middle_of(turned, hull), turned, hull, surroundings) == up) {
            Some(tipped) => {
                *state = tipped;
                emit_and_clear(state, events);
            }
            None if up_by_zones(met.middle_before, state, hull, surroundings) != up => {
                emit(events, Event::Refused { what: Refusal::UP })
            }
            None => {}
        }
    }
}

/// The state with a slightly different `up`: on its feet if it stands, in the same jump if it is in
/// the air. `None` if there is no room.
fn turned_gently<V: Geometry>(
    state: &State<V>,
    up: V,
    hull: &Hull,
    tuning: &Tuning,
    surroundings: &impl Surroundings<V>,
) -> Option<State<V>> {
    if state.footing.is_firm() {
        // About the point that it stands on, so that on round ground that point moves as fast as
        // the body walks.
        let about_place = turned_about(0.0, state, up, hull, tuning, surroundings);
        return about_place.or_else(|| turned_on_its_feet(state, up, hull, tuning, surroundings));
    }
    let half = hull.middle::<V>().height();
    let mut turned = turned_by(state, up, (state.up - up) * half);
    if turned.footing.kind == FootingKind::None {
        turned.footing.normal = up;
    }
    has_room(hull, &turned, surroundings).then_some(turned)
}

/// Emits events for the zones that the body crossed from one side to the other, and applies their
/// immediate effects. Returns true if there was a hazard: the body did not reach the zones behind
/// it.
fn pass_zones<V: Geometry>(
    met: &ZonesTouched<V>,
    state: &mut State<V>,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) -> bool {
    for &(_, zone) in &met.passed {
        emit(events, Event::ZoneEntered { zone });
        emit(events, Event::ZoneLeft { zone });
        let Some(found) = surroundings.zone(zone) else { continue };
        let mut hurt = false;
        for effect in found.effects.iter() {
            match *effect {
                Effect::Checkpoint => {
                    let entry = met.entry(state.position, &found.bounds);
                    set_checkpoint(state, entry, hull, surroundings);
                }
                Effect::CheckpointAt { place } => set_checkpoint_at(state, place),
                Effect::Hazard => hurt = true,
                _ => {}
            }
        }
        if hurt {
            return true;
        }
    }
    false
}

/// Emits the pending events of the state and clears them.
fn emit_and_clear<V: Vector>(state: &mut State<V>, events: &mut Events<V>) {
    if !state.pending.is_quiet() {
        let pending = state.pending;
        state.pending = pending.without_events();
        emit_pending(&pending, state, events);
    }
}

/// A fresh state at a place. It keeps its facing, its checkpoint, and the zones it was in, so that
/// leaving them causes events.
pub(super) fn placed_at<V: Vector>(place: V, state: &State<V>) -> State<V> {
    let fresh = State::at(place);
    let State { up, right, facing, home_up, zones, checkpoint, .. } = *state;
    let mut pending = state.pending;
    if state.maneuver.is_some() {
        pending.end_maneuver(state.mode.name());
    }
    pending.end_move(state.moved());
    pending.ladder = pending.ladder.or(state.ladder);
    let happens = |what: Changes, is: bool| if is { what } else { Changes::empty() };
    pending.changes |= happens(Changes::THROWN, state.footing.is_firm())
        | happens(Changes::OFF_THE_WALL, state.touching.is_at_wall())
        | happens(Changes::STOOD_UP, state.crouched);
    pending.changes -= Changes::LED;
    pending.displacement = V::ZERO;
    // Moves also see the tick in which the body is returned.
    let memories = state.memories.cleared();
    let fresh = State { up, right, facing, home_up, zones, checkpoint, memories, pending, ..fresh };
    if up == home_up { fresh } else { State { home_up, ..fresh.turned_up(home_up) } }
}

/// Makes a position that the body has passed the checkpoint, with the up that the body will have
/// there. If the feet do not stand there, or stand on something that moves, the checkpoint is
/// pending.
fn set_checkpoint<V: Geometry>(
    state: &mut State<V>,
    place: V,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
) {
    let stands = state.from_above || (state.footing.is_firm() && state.footing.carrier.is_none());
    if !stands {
        state.carry_over.checkpoint_pending = true;
    } else if state.up == state.home_up {
        // On stairs the straight line between the ends of a tick leads through the steps.
        let is_free =
            place == state.position || has_room(hull, &State { position: place, ..*state }, surroundings);
        set_checkpoint_at(state, if is_free { place } else { state.position });
    } else if let Some(upright) = with_room(state, state.home_up, hull, surroundings) {
        set_checkpoint_at(state, upright.position);
    }
}

fn set_checkpoint_at<V: Geometry>(state: &mut State<V>, place: V) {
    state.checkpoint = place;
    state.carry_over.checkpoint_pending = false;
}

/// Sets a pending checkpoint, if the body stands now.
#[cold]
#[inline(never)]
pub(super) fn set_pending_checkpoint<V: Geometry>(
    state: &mut State<V>,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
) {
    set_checkpoint(state, state.position, hull, surroundings);
}

/// The state with another `up`, rotated to it where there is room: about its centre, about its
/// feet, or moved out of what it would then overlap, by at most half its height. `None` if there is
/// no room.
#[inline(never)]
pub(super) fn with_room<V: Geometry>(
    state: &State<V>,
    up: V,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
) -> Option<State<V>> {
    let half = hull.middle::<V>().height();
    let middle = state.position + state.up * half;
    let about_middle = tipped(state, up, middle - up * half);
    if has_room(hull, &about_middle, surroundings) {
        return Some(about_middle);
    }
    let about_feet = tipped(state, up, state.position);
    let is_free = |other: &State<V>| {
        has_room(hull, other, surroundings) && leads_to(state, hull, other.position + up * half, surroundings)
    };
    if is_free(&about_feet) {
        return Some(about_feet);
    }
    let most = 0.5 * hull.height();
    let reach = Bounds { min: V::splat(-most), max: V::splat(most) };
    let gather = |patch: &mut Patch<V>, reach| patch.refill(hull, reach, surroundings);
    let mut patch = Patch::gather(about_middle.frame(), hull, reach, surroundings);
    let rules = Rules { cos_steepest: 1.0, step_height: 0.0, ground_snap: 0.0 };
    let mut mover = Mover::new(&mut patch, &gather, rules, V::ZERO);
    let freed = mover.get_free();
    let moved = mover.at;
    if freed != Freed::Moved || moved.length() > most {
        return None;
    }
    let (position, remainder) =
        advance(about_middle.position, about_middle.remainder, about_middle.frame().world(moved));
    let aside = State { position, remainder, ..about_middle };
    is_free(&aside).then_some(aside)
}

/// The state of a standing body with another `up` that stands on the same point, or `None` if it
/// cannot.
///
/// A round foot rotates about its own centre, so that it touches the ground where it did.
pub(super) fn turned_on_its_feet<V: Geometry>(
    state: &State<V>,
    up: V,
    hull: &Hull,
    tuning: &Tuning,
    surroundings: &impl Surroundings<V>,
) -> Option<State<V>> {
    turned_about(hull.core::<V>().radius, state, up, hull, tuning, surroundings)
}

/// The state of a standing body with another `up`, rotated about the point that is `foot` metres
/// above its underside, or `None` if it cannot stand so.
fn turned_about<V: Geometry>(
    foot: f32,
    state: &State<V>,
    up: V,
    hull: &Hull,
    tuning: &Tuning,
    surroundings: &impl Surroundings<V>,
) -> Option<State<V>> {
    let footing = &state.footing;
    if !footing.is_firm() || footing.normal.dot(up) < cosine(tuning.slope.max_angle) {
        return None;
    }
    let moved = (state.up - up) * foot;
    let footing = Footing { point: footing.point - moved, ..*footing };
    let turned = turned_by(state, up, moved);
    let touching = Touching { beside: None, kick: None, ..turned.touching };
    let turned = State { footing, touching, ..turned };
    has_room(hull, &turned, surroundings).then_some(turned)
}

/// The state with another `up`, moved by a displacement in the world. The right and the facing
/// follow by the shortest rotation.
fn turned_by<V: Vector>(state: &State<V>, up: V, moved: V) -> State<V> {
    let (position, remainder) = advance(state.position, state.remainder, moved);
    let right = V::right_for(up, state.right);
    let facing = state.facing.slid_along(up).direction().unwrap_or(right);
    State { position, remainder, up, right, facing, ..*state }
}

/// Returns true if nothing is between the centre of a body and another position for it.
fn leads_to<V: Geometry>(
    state: &State<V>,
    hull: &Hull,
    place: V,
    surroundings: &impl Surroundings<V>,
) -> bool {
    let frame = state.frame();
    let middle = hull.middle::<V>();
    let displacement = frame.local_point(place) - middle;
    let Ok(thin) = Hull::ball(hull.clearance()) else { return false };
    let thin = thin.centred().with_mask(hull.mask());
    let to = middle + displacement;
    let reach = Bounds { min: middle.min(to), max: middle.max(to) };
    Patch::gather(frame, &thin, reach, surroundings).cast(middle, displacement).is_none()
}

/// The state with `up` at `position`, in the air, with the same velocity.
fn tipped<V: Vector>(state: &State<V>, up: V, position: V) -> State<V> {
    let velocity = state.velocity + state.ground_velocity;
    let time = state.air.map_or(Span::ZERO, |air| air.time);
    let air = Some(Air { time, ..Air::left(Departure::Throw) });
    let tipped = State { position, ..*state };
    State { velocity, ground_velocity: V::ZERO, air, ..tipped.turned_up(up) }
}
