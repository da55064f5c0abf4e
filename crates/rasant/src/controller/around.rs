//! What the zones a body is in do to it, and what becomes of it there.

use crate::contact::Hull;
use crate::level::{Effect, Effects, SurfaceId, Surroundings, ZoneId};
use crate::space::{Bounds, Frame, Vector};

use super::take_in::tell_untold;
use crate::moves::Rungs;
use crate::state::{Air, Departure, Event, Events, Span, State, Untold, Zones, tell};

/// What surrounds the body in a tick beside pieces, in its frame.
pub(super) struct Around<V> {
    /// The acceleration of the wind.
    pub push: V,
    /// A factor on the speed asked for.
    pub pace: f32,
    /// A ladder within reach.
    pub ladder: Option<Rungs<V>>,
    /// How far the surface of water is above the feet.
    pub water: Option<f32>,
    /// What bodies that are seen from above walk on.
    pub floor: Option<SurfaceId>,
    /// How well the wall it was last beside holds.
    pub wall_grip: f32,
}

impl<V: Vector> Around<V> {
    pub(super) fn of(
        state: &State<V>,
        hull: &Hull,
        frame: &Frame<V>,
        surroundings: &impl Surroundings<V>,
    ) -> Self {
        let mut around =
            Self { push: V::ZERO, pace: 1.0, ladder: None, water: None, floor: None, wall_grip: 1.0 };
        if let Some(wall) = &state.wall {
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
            Effect::Floor { surface } => self.floor = Some(surface),
            Effect::Ladder { front } => {
                let rungs = rungs(id, *bounds, front, hull, frame);
                // The one held, or the first at hand.
                if is_at_hand(&rungs, bounds, frame) && (self.ladder.is_none() || state.ladder == Some(id)) {
                    self.ladder = Some(rungs);
                }
            }
            Effect::Water => {
                let middle = frame.local_point(bounds.centre());
                let depth = middle.height() + extent(bounds, frame, V::UP) + hull.origin();
                self.water = Some(self.water.map_or(depth, |other| other.max(depth)));
            }
            // What is done as it is entered, or told.
            Effect::Hazard | Effect::Goal | Effect::Checkpoint | Effect::Gravity { .. } | Effect::Own(_) => {}
        }
    }
}

impl<V: Vector> Rungs<V> {
    /// The ladder as it is seen by who is taken along by `way` first.
    pub(super) fn after(self, way: V) -> Self {
        Self { top: self.top - way.height(), aside: self.aside - way.flat(), ..self }
    }
}

fn rungs<V: Vector>(zone: ZoneId, bounds: Bounds<V>, front: V, hull: &Hull, frame: &Frame<V>) -> Rungs<V> {
    let middle = frame.local_point(bounds.centre());
    let half = extent(&bounds, frame, V::UP);
    Rungs {
        zone,
        front: frame.local(front).flat().direction(),
        top: middle.height() + half + hull.origin(),
        below: middle.height() - half > hull.middle::<V>().height(),
        aside: middle.flat(),
    }
}

/// Whether the body's middle is between a ladder's sides.
fn is_at_hand<V: Vector>(rungs: &Rungs<V>, bounds: &Bounds<V>, frame: &Frame<V>) -> bool {
    rungs.aside.dot(V::RIGHT).abs() <= extent(bounds, frame, V::RIGHT)
}

/// How far bounds reach from their middle along a direction of the frame.
fn extent<V: Vector>(bounds: &Bounds<V>, frame: &Frame<V>, along: V) -> f32 {
    frame.world(along).abs().dot((bounds.max - bounds.min) * 0.5)
}

/// Finds the zones the body is in now; tells which it came into and out of, and
/// does what they do at once.
pub(super) fn enter_and_leave<V: Vector>(
    state: &mut State<V>,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) {
    let before = state.zones;
    if surroundings.is_plain() && before.ids().is_empty() {
        return;
    }
    // Feet on a zone's top are in it.
    let below = -2.0 * hull.clearance();
    let half = V::splat(hull.half_width()).with_height(0.5 * hull.height());
    let middle = hull.middle::<V>();
    let own = Bounds { min: middle - half + V::UP * below, max: middle + half };
    let mut now = Zones::default();
    surroundings.zones(&state.frame().world_bounds(own), |zone| now.add(zone));
    if now != before || !now.ids().is_empty() {
        change_zones(state, now, hull, surroundings, events);
    }
}

#[inline(never)]
fn change_zones<V: Vector>(
    state: &mut State<V>,
    now: Zones,
    hull: &Hull,
    surroundings: &impl Surroundings<V>,
    events: &mut Events<V>,
) {
    let before = state.zones;
    state.zones = now;
    for &zone in before.ids().iter().filter(|&&zone| !now.has(zone)) {
        tell(events, Event::ZoneLeft { zone });
    }
    let mut up = state.home_up;
    let mut hurt = false;
    for &zone in now.ids() {
        let effects = surroundings.zone(zone).map(|zone| zone.effects);
        if !before.has(zone) {
            tell(events, Event::ZoneEntered { zone });
        }
        for effect in effects.iter().flat_map(Effects::iter) {
            match *effect {
                Effect::Gravity { up: other } => up = other,
                // Where it is with the up that it will be put back with.
                Effect::Checkpoint if !before.has(zone) => {
                    state.checkpoint = tipped(state, state.home_up, hull).position;
                }
                Effect::Hazard => hurt |= !before.has(zone),
                // What works while it is in it, or only tells.
                Effect::Checkpoint
                | Effect::Wind { .. }
                | Effect::Slow { .. }
                | Effect::Floor { .. }
                | Effect::Ladder { .. }
                | Effect::Water
                | Effect::Goal
                | Effect::Own(_) => {}
            }
        }
    }
    if hurt {
        *state = respawned(state);
        if let Some(untold) = state.untold.take() {
            tell_untold(&untold, state, events);
        }
        tell(events, Event::Respawned);
    } else if let Some(up) = up.direction() {
        *state = tipped(state, up, hull);
    }
}

/// A fresh state at the last checkpoint. It faces as it did, and has the zones
/// it was in, so that leaving them is told.
pub(super) fn respawned<V: Vector>(state: &State<V>) -> State<V> {
    let fresh = State::at(state.checkpoint);
    let State { up, right, facing, home_up, zones, .. } = *state;
    let mut untold = state.untold.unwrap_or_default();
    untold.broken_off = untold.broken_off.or(state.maneuver.as_ref().map(|maneuver| maneuver.kind));
    untold.ladder = untold.ladder.or(state.ladder);
    untold.moved = untold.moved.or(state.moved());
    // What was begun since the last tick has not been told, and need not be.
    if core::mem::take(&mut untold.begun) {
        untold.broken_off = None;
    }
    untold.thrown |= state.footing.is_firm();
    untold.off_the_wall |= state.against_wall;
    untold.stood_up |= state.crouched;
    let untold = (untold != Untold::default()).then_some(untold);
    let fresh = State { up, right, facing, home_up, zones, untold, ..fresh };
    if up == home_up { fresh } else { State { home_up, ..fresh.turned_up(home_up) } }
}

/// The state with `up`, the body tipped over about its middle if that is another
/// than before. Its velocity stays.
fn tipped<V: Vector>(state: &State<V>, up: V, hull: &Hull) -> State<V> {
    if up == state.up {
        return *state;
    }
    let half = hull.middle::<V>().height();
    let middle = state.position + state.up * half;
    let tipped = State { position: middle - up * half, ..*state };
    let velocity = state.velocity + state.ground_velocity;
    let time = state.air.map_or(Span::ZERO, |air| air.time);
    let air = Some(Air { time, ..Air::left(Departure::Launch) });
    State { velocity, ground_velocity: V::ZERO, air, ..tipped.turned_up(up) }
}
