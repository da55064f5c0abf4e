//! One tick of a crowd.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use alloc::vec::Vec;
use core::cmp::Ordering;
use smallvec::SmallVec;

use crate::contact::Geometry;
use crate::input::Intent;
use crate::level::{AnySurroundings, BodyId, Index, Surroundings};
use crate::space::{Bounds, Vector};
use crate::state::Event;
use crate::thresholds::crowd as limits;

use super::body::{CrowdBody, DashMeets};
use super::push::{keep_pace, push};
use super::solid::{Apart, Solid, least_gap};
use super::view::{Seen, Sight, View};
use super::{BodyContact, Crowd};

/// A pair of touching bodies.
#[derive(Clone, Copy, Debug)]
pub(super) struct Contact<V> {
    pub body: BodyId,
    pub with: BodyContact<V>,
}

/// A body as it is when the tick begins. All others read this.
#[derive(Clone, Debug)]
pub(super) struct Item<V> {
    pub id: BodyId,
    pub intent: Intent,
    pub solid: Solid<V>,
    pub clearance: f32,
    pub velocity: V,
    /// The velocity to which its intent would bring it.
    pub target: V,
    /// Its acceleration on foot, in m/s².
    pub acceleration: f32,
    pub up: V,
    pub from_above: bool,
    /// Whether it stands on something, or needs no ground.
    pub stands: bool,
    pub mass: f32,
    pub strength: f32,
    /// How far it may come in this tick.
    reach: f32,
    /// True if it is known not to move.
    rests: bool,
    /// The body that it stands on.
    pub carrier: Option<u32>,
    /// The number of bodies below it.
    depth: u16,
    /// True if it meets no other body.
    passes: bool,
    layers: crate::level::Layers,
    mask: crate::level::Layers,
    /// The displacement by which others push it.
    pub shove: V,
}

/// Where a body is at the end of the tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct End<V> {
    solid: Solid<V>,
    displacement: V,
    /// True if it has respawned: it has not moved there.
    jumped: bool,
}

/// Two bodies that may come near each other in the tick.
#[derive(Clone, Debug)]
pub(super) struct Pair<V> {
    pub bodies: [u32; 2],
    /// The gap at the start, and the normal from the first to the second.
    pub start: Apart<V>,
    /// The gap that the two keep: the sum of their clearances.
    pub kept: f32,
    /// The gap below which they are in conflict.
    least: f32,
    /// True if one of the two stands on the other.
    rides: bool,
    stage: Stage,
}

/// The rules under which two bodies that would come too near tick again, each stricter than the one
/// before.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Stage {
    /// They do not see each other, unless one rests or carries the other.
    Free,
    /// One of the two sees where the other ends.
    Yields,
    /// Each keeps to its side of a plane.
    Plane,
    /// As before, and so do both with all their other neighbours.
    AllPlanes,
    /// Both stay where they were.
    Stay,
    /// They were in conflict before the tick.
    Given,
}

/// How a body sees another one.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Form<V> {
    /// Where it was at the start.
    Start,
    /// Where it is at the end.
    End,
    /// Where it ended when it was ticked before.
    Ended(Solid<V>),
    /// Everything beyond a plane through this point, with a normal that points to the observer.
    Beyond { point: V, normal: V },
}

type Sees<V> = SmallVec<[(u32, Form<V>); 4]>;

/// What a wave of ticks reads.
pub(super) struct Pass<V> {
    pub items: Vec<Item<V>>,
    sees: Vec<Sees<V>>,
    ends: Vec<End<V>>,
    stays: Vec<bool>,
    dt: f32,
}

/// A body that is ticked, and what comes of it.
pub(super) struct Lane<'a, V: Geometry> {
    member: &'a mut CrowdBody<V>,
    end: End<V>,
    is_due: bool,
    has_ticked: bool,
}

/// Who does the work of a tick.
pub(super) trait Workers<S> {
    /// Ticks all lanes that are due and have this depth.
    fn wave<V: Geometry>(&self, lanes: &mut [Lane<'_, V>], depth: u16, pass: &Pass<V>, surroundings: &S)
    where
        S: Surroundings<V>;

    /// The results of some work for each number below `count`, in order.
    fn map<T: Send>(&self, count: usize, work: impl Fn(usize) -> T + Sync + Send) -> Vec<T>;
}

/// Everything on the current thread.
pub(super) struct Serial;

impl<S> Workers<S> for Serial {
    fn wave<V: Geometry>(&self, lanes: &mut [Lane<'_, V>], depth: u16, pass: &Pass<V>, surroundings: &S)
    where
        S: Surroundings<V>,
    {
        for (number, lane) in lanes.iter_mut().enumerate() {
            lane.step(number, depth, pass, surroundings);
        }
    }

    fn map<T: Send>(&self, count: usize, work: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
        (0..count).map(work).collect()
    }
}

impl<V: Geometry> Lane<'_, V> {
    /// Ticks the body, if it is due and has this depth.
    pub fn step(&mut self, number: usize, depth: u16, pass: &Pass<V>, surroundings: &impl Surroundings<V>) {
        let item = &pass.items[number];
        if !self.is_due || item.depth != depth {
            return;
        }
        let body = &mut self.member.body;
        let again = core::mem::replace(&mut self.has_ticked, true);
        if pass.stays[number] {
            body.stay();
        } else {
            let seen: SmallVec<[Seen<V>; 8]> =
                pass.sees[number].iter().map(|&(other, form)| pass.seen(number, other, form)).collect();
            let (intent, dt) = (&item.intent, pass.dt);
            if seen.is_empty() && item.shove == V::ZERO {
                if again {
                    body.tick_again(intent, surroundings, dt);
                } else {
                    body.tick(intent, surroundings, dt);
                }
            } else {
                let base: &dyn AnySurroundings<V> = surroundings;
                let view = View { base, seen: &seen, shove: item.shove };
                if again {
                    body.tick_again(intent, &view, dt);
                } else {
                    body.tick(intent, &view, dt);
                }
            }
        }
        let solid = Solid::of(body);
        let jumped = body.events().contains(&Event::Respawned);
        self.end = End { solid, displacement: solid.displacement_from(&item.solid), jumped };
    }
}

impl<V: Geometry> Pass<V> {
    fn seen(&self, own: usize, other: u32, form: Form<V>) -> Seen<V> {
        let other = other as usize;
        let (item, end) = (&self.items[other], &self.ends[other]);
        let what = match form {
            Form::Start => Sight::Hull(item.solid.shape(item.clearance), V::ZERO),
            Form::End => {
                let displacement = if end.jumped { V::ZERO } else { end.displacement };
                Sight::Hull(end.solid.shape(item.clearance), displacement)
            }
            Form::Ended(solid) => Sight::Hull(solid.shape(item.clearance), V::ZERO),
            Form::Beyond { point, normal } => {
                let item = &self.items[own];
                let size = limits::PLANE_EXTENT * item.solid.extent(item.up) + 4.0 * item.reach;
                Sight::Beyond { point, normal, size }
            }
        };
        Seen { id: item.id, what }
    }

    /// Returns true if `rider` stands on `carrier`, directly or not.
    fn rides_on(&self, rider: u32, carrier: u32) -> bool {
        let mut next = self.items[rider as usize].carrier;
        while let Some(below) = next {
            if below == carrier {
                return true;
            }
            next = self.items[below as usize].carrier;
        }
        false
    }

    /// The closest that a pair comes in the tick, if that is too near.
    fn conflict(&self, pair: &Pair<V>) -> Option<f32> {
        let [a, b] = pair.bodies.map(|body| body as usize);
        let starts = [a, b].map(|body| self.items[body].solid);
        let ends = [a, b].map(|body| self.ends[body]);
        if ends.iter().any(|end| end.jumped) {
            return None;
        }
        // Who follows another one closely keeps the gap, and does not first come nearer and then fall
        // back.
        let moves = [a, b].iter().all(|&body| !self.items[body].rests);
        let keeps = pair.stage == Stage::Free && moves && !pair.rides;
        let closely = limits::FOLLOWS_WITHIN * pair.kept.min(pair.start.gap);
        let least = if keeps { pair.least.max(closely) } else { pair.least };
        least_gap([&starts[0], &ends[0].solid], [&starts[1], &ends[1].solid], least)
    }

    /// Lets `own` see `other` in another form.
    fn see(&mut self, own: u32, other: u32, form: Form<V>) {
        let sees = &mut self.sees[own as usize];
        match sees.iter_mut().find(|seen| seen.0 == other) {
            Some(seen) => seen.1 = form,
            None => sees.push((other, form)),
        }
    }

    /// Lets both bodies of a pair keep to their sides of a plane. If `follows`, who follows the other
    /// may come as far as the other moves away.
    fn part(&mut self, pair: &Pair<V>, follows: bool) {
        let [a, b] = pair.bodies;
        let (one, other) = (&self.items[a as usize], &self.items[b as usize]);
        let Apart { gap, normal } = pair.start;
        let closing = |item: &Item<V>, toward: V| {
            if item.rests { 0.0 } else { item.velocity.dot(toward).max(item.target.dot(toward)).max(0.0) }
        };
        let (closes, other_closes) = (closing(one, normal), closing(other, -normal));
        const EVEN: f32 = limits::EVEN_SPEED;
        let fraction = match (one.rests, other.rests) {
            (true, false) => 0.0,
            (false, true) => 1.0,
            _ => (closes + EVEN) / (closes + other_closes + 2.0 * EVEN),
        };
        let free = (gap - pair.kept).max(0.0);
        // If they are too near, both give way, by a limited distance in a tick.
        let size = one.solid.extent(one.up).min(other.solid.extent(other.up));
        let back = (0.5 * (gap - pair.kept).min(0.0)).max(-limits::SEPARATION * size * self.dt);
        let along = [a, b].map(|body| self.ends[body as usize].displacement.dot(normal));
        let common = |own: f32, other: f32| if follows { own.min(other).max(0.0) } else { 0.0 };
        let plane = |item: &Item<V>, toward: V, room: f32| {
            let distance = item.solid.extent(toward) + room + item.clearance + back;
            Form::Beyond { point: item.solid.shape(0.0).centre + toward * distance, normal: -toward }
        };
        let forms = [
            plane(one, normal, fraction * free + common(along[0], along[1])),
            plane(other, -normal, (1.0 - fraction) * free + common(-along[1], -along[0])),
        ];
        self.see(a, b, forms[0]);
        self.see(b, a, forms[1]);
    }
}

/// One tick of all bodies.
pub(super) fn tick<V: Geometry, S: Surroundings<V>, W: Workers<S>>(
    crowd: &mut Crowd<V>,
    surroundings: &S,
    dt: f32,
    mut intents: impl FnMut(BodyId, &CrowdBody<V>) -> Intent,
    workers: &W,
) {
    if !(dt > 0.0 && dt.is_finite()) {
        return;
    }
    // In an order that depends only on where the bodies are, so that nothing depends on the order in
    // which they were added.
    let mut members: Vec<(Item<V>, &mut CrowdBody<V>)> = Vec::with_capacity(crowd.places.len());
    for (number, place) in crowd.places.iter_mut().enumerate() {
        let id = BodyId::new(number as u16, place.generation);
        if let Some(body) = &mut place.body {
            let intent = intents(id, body);
            members.push((Item::of(id, intent, body, dt), body));
        }
    }
    members.sort_by(|a, b| by_place(&a.0, &b.0));
    let mut items = Vec::with_capacity(members.len());
    let mut lanes = Vec::with_capacity(members.len());
    for (item, member) in members {
        let end = End { solid: item.solid, displacement: V::ZERO, jumped: false };
        lanes.push(Lane { member, end, is_due: true, has_ticked: false });
        items.push(item);
    }
    find_carriers(&mut items, &lanes);

    let mut pairs = Pairs::find(&items, workers);
    push(&mut items, &pairs.list, &pairs.of, dt);
    keep_pace(&mut items, &pairs.list, &pairs.of, dt);
    for item in &mut items {
        item.rests &= item.shove == V::ZERO;
    }
    settle_rest(&mut items);
    let ends = lanes.iter().map(|lane| lane.end).collect();
    let count = items.len();
    let mut pass = Pass { items, sees: Vec::new(), ends, stays: Vec::new(), dt };
    pass.sees = workers.map(count, |number| pairs.first_sight(number as u32, &pass));
    pass.stays.resize(count, false);
    for pair in &pairs.list {
        if pair.stage == Stage::Plane {
            pass.part(pair, false);
        }
    }
    resolve(&mut lanes, &mut pairs, &mut pass, surroundings, workers);
    match_velocities(&mut lanes, &pairs, &pass);
    crowd.contacts = contacts(&pairs, &pass, workers);
    for lane in &mut lanes {
        let member = &mut *lane.member;
        member.passes_for = (member.passes_for - dt).max(0.0);
        if member.body.events().contains(&Event::Respawned) {
            member.passes_for = member.passes_after_respawn;
        }
    }
}

impl<V: Geometry> Item<V> {
    fn of(id: BodyId, intent: Intent, member: &CrowdBody<V>, dt: f32) -> Self {
        let body = &member.body;
        let (state, tuning) = (body.state(), &body.tuning);
        let velocity = body.velocity();
        let target = body.target_velocity(&intent);
        let from_above = tuning.steering.is_from_above(V::DIMENSION);
        let maneuver = state.maneuver.as_ref();
        let in_maneuver = maneuver.is_some();
        let strength = match member.dash {
            DashMeets::Push if in_maneuver => f32::INFINITY,
            _ => member.strength,
        };
        let fast = |distance: f32, time: f32| 2.0 * distance / time.max(dt);
        let jump = (2.0 * tuning.gravity() * tuning.jump.height.max(0.0)).sqrt();
        let dash =
            if intent.pressed.is_empty() { 0.0 } else { fast(tuning.dash.distance, tuning.dash.active) };
        let of_maneuver = maneuver.map_or(0.0, |maneuver| fast(maneuver.plan.distance, maneuver.plan.active));
        let speed = [velocity.length() + tuning.gravity() * dt, target.length(), jump, dash, of_maneuver];
        let slope = &tuning.slope;
        let reach = speed.into_iter().fold(0.0, f32::max) * dt + slope.step_height.max(slope.ground_snap);
        Self {
            id,
            intent,
            solid: Solid::of(body),
            clearance: body.hull.clearance(),
            velocity,
            target,
            acceleration: target.length() / tuning.walk.reach_time.max(dt),
            up: state.up,
            from_above,
            stands: from_above || state.footing.is_firm(),
            mass: member.mass,
            strength,
            reach: if reach.is_finite() { reach } else { 0.0 },
            rests: body.is_at_rest(&intent, dt),
            carrier: None,
            depth: 0,
            passes: member.passes_for > 0.0 || (in_maneuver && member.dash == DashMeets::Pass),
            layers: member.layers,
            mask: member.mask,
            shove: V::ZERO,
        }
    }

    fn meets(&self, other: &Self) -> bool {
        !self.passes
            && !other.passes
            && self.mask.intersects(other.layers)
            && other.mask.intersects(self.layers)
    }
}

/// By the coordinates of the centres; bodies at the same place by their sizes, then by their ids.
fn by_place<V: Vector>(a: &Item<V>, b: &Item<V>) -> Ordering {
    let key = |item: &Item<V>| {
        let [x, y, z] = item.solid.centre;
        let [width, height, depth] = item.solid.half.to_array();
        [x, y, z, width.into(), height.into(), depth.into(), item.solid.radius.into()]
    };
    let ordered = key(a).iter().zip(key(b)).map(|(a, b)| a.total_cmp(&b)).find(|order| order.is_ne());
    ordered.unwrap_or_else(|| a.id.cmp(&b.id))
}

/// Finds which body stands on which other one.
fn find_carriers<V: Geometry>(items: &mut [Item<V>], lanes: &[Lane<'_, V>]) {
    let mut by_place: Vec<u32> = Vec::new();
    for (number, item) in items.iter().enumerate() {
        let place = usize::from(item.id.place());
        if by_place.len() <= place {
            by_place.resize(place + 1, u32::MAX);
        }
        by_place[place] = number as u32;
    }
    let mut any = false;
    for (number, lane) in lanes.iter().enumerate() {
        let footing = &lane.member.body.state().footing;
        let Some(id) = footing.piece.body().filter(|_| footing.is_firm()) else { continue };
        let below = by_place.get(usize::from(id.place())).copied().filter(|&below| below != u32::MAX);
        if let Some(below) = below.filter(|&below| items[below as usize].id == id && below != number as u32) {
            items[number].carrier = Some(below);
            any = true;
        }
    }
    if !any {
        return;
    }
    for number in 0..items.len() {
        let (mut depth, mut reach, mut next) = (0, 0.0f32, items[number].carrier);
        while let Some(below) = next {
            depth += 1;
            if depth > limits::MAX_STACK {
                // A ring, after the host has moved bodies: nobody in it rides on this one.
                items[number].carrier = None;
                depth = 0;
                break;
            }
            reach += items[below as usize].reach;
            next = items[below as usize].carrier;
        }
        items[number].depth = depth;
        items[number].reach += reach;
    }
}

/// A body that stands on one that does not rest does not rest either.
fn settle_rest<V>(items: &mut [Item<V>]) {
    for number in 0..items.len() {
        let mut next = items[number].carrier;
        while let Some(below) = next {
            if !items[below as usize].rests {
                items[number].rests = false;
                break;
            }
            next = items[below as usize].carrier;
        }
    }
}

/// The pairs, and those of each body.
pub(super) struct Pairs<V> {
    pub list: Vec<Pair<V>>,
    pub of: Vec<SmallVec<[u32; 6]>>,
    index: Index<V>,
}

impl<V: Geometry> Pairs<V> {
    fn find<S>(items: &[Item<V>], workers: &impl Workers<S>) -> Self {
        let boxes: Vec<Bounds<V>> = items.iter().map(Item::bounds).collect();
        let index = Index::new(&boxes);
        let found = workers.map(items.len(), |number| {
            let mut near: SmallVec<[u32; 12]> = SmallVec::new();
            index.query(&boxes[number], |other| {
                if other as usize > number {
                    near.push(other);
                }
            });
            near.sort_unstable();
            let pair = |&other: &u32| Pair::of([number as u32, other], items);
            near.iter().filter_map(pair).collect::<SmallVec<[Pair<V>; 4]>>()
        });
        let mut pairs = Self { list: Vec::new(), of: Vec::new(), index };
        pairs.of.resize_with(items.len(), SmallVec::new);
        found.into_iter().flatten().for_each(|pair| pairs.add(pair));
        pairs
    }

    fn add(&mut self, pair: Pair<V>) {
        let number = self.list.len() as u32;
        for body in pair.bodies {
            self.of[body as usize].push(number);
        }
        self.list.push(pair);
    }

    /// Adds the pairs of a body that came further than expected.
    #[cold]
    fn extend(&mut self, number: u32, pass: &Pass<V>) {
        let item = &pass.items[number as usize];
        let moved = pass.ends[number as usize].displacement.length() + item.reach;
        let bounds = item.solid.shape(item.clearance + moved).bounds();
        let mut near = Vec::new();
        self.index.query(&bounds, |other| near.push(other));
        near.sort_unstable();
        for other in near {
            let is_known =
                self.of[number as usize].iter().any(|&pair| self.list[pair as usize].bodies.contains(&other));
            if other != number
                && !is_known
                && let Some(pair) = Pair::within([number.min(other), number.max(other)], &pass.items, moved)
            {
                self.add(pair);
            }
        }
    }

    /// What a body sees at first: its carrier, and if it does not rest itself, its neighbours that
    /// rest and do not ride on it.
    fn first_sight(&self, number: u32, pass: &Pass<V>) -> Sees<V> {
        let item = &pass.items[number as usize];
        let mut sees = Sees::new();
        sees.extend(item.carrier.map(|carrier| (carrier, Form::End)));
        if item.rests {
            return sees;
        }
        for &pair in &self.of[number as usize] {
            let pair = &self.list[pair as usize];
            let other = if pair.bodies[0] == number { pair.bodies[1] } else { pair.bodies[0] };
            let is_seen = pass.items[other as usize].rests && pair.stage == Stage::Free;
            if is_seen && item.carrier != Some(other) && !pass.rides_on(other, number) {
                sees.push((other, Form::Start));
            }
        }
        sees
    }
}

impl<V: Geometry> Item<V> {
    /// The bounds of everything that the body may touch.
    fn bounds(&self) -> Bounds<V> {
        self.solid.shape(self.clearance + self.reach).bounds()
    }
}

impl<V: Geometry> Pair<V> {
    fn of(bodies: [u32; 2], items: &[Item<V>]) -> Option<Self> {
        Self::within(bodies, items, 0.0)
    }

    /// The pair, if the two meet and may come near each other.
    fn within(bodies: [u32; 2], items: &[Item<V>], more: f32) -> Option<Self> {
        let [one, other] = bodies.map(|body| &items[body as usize]);
        if !one.meets(other) {
            return None;
        }
        let start = one.solid.apart(&other.solid);
        let kept = one.clearance + other.clearance;
        if start.gap > kept + one.reach + other.reach + more {
            return None;
        }
        let rides = one.carrier == Some(bodies[1]) || other.carrier == Some(bodies[0]);
        let usual = if rides { limits::LEAST_GAP_OF_RIDER } else { limits::LEAST_GAP } * kept;
        let is_inside = start.gap < limits::LEAST_GAP_OF_RIDER * kept;
        let least = if start.gap > 0.0 {
            usual.min(limits::LEAST_OF_START * start.gap)
        } else {
            start.gap - limits::DEEPER * kept
        };
        let stage = if is_inside && !rides { Stage::Plane } else { Stage::Free };
        Some(Self { bodies, start, kept, least, rides, stage })
    }
}

/// Ticks the bodies until no pair is in conflict.
fn resolve<V: Geometry, S: Surroundings<V>, W: Workers<S>>(
    lanes: &mut [Lane<'_, V>],
    pairs: &mut Pairs<V>,
    pass: &mut Pass<V>,
    surroundings: &S,
    workers: &W,
) {
    let deepest = pass.items.iter().map(|item| item.depth).max().unwrap_or(0);
    let mut ticked = Vec::new();
    for round in 0.. {
        ticked.clear();
        ticked.resize(lanes.len(), false);
        for depth in 0..=deepest {
            workers.wave(lanes, depth, pass, surroundings);
            take_ends(lanes, depth, pass, &mut ticked);
        }
        for (number, item) in pass.items.iter().enumerate() {
            let end = &pass.ends[number];
            if ticked[number] && !end.jumped && end.displacement.length() > item.reach {
                pairs.extend(number as u32, pass);
            }
        }
        wake(lanes, pairs, pass);
        if round >= 2 * limits::MAX_ROUNDS {
            for (lane, stays) in lanes.iter().zip(&mut pass.stays) {
                *stays |= lane.is_due;
            }
        }
        let in_conflict = conflicts(pairs, pass, &ticked, workers);
        for number in in_conflict {
            escalate(number, lanes, pairs, pass, round >= limits::MAX_ROUNDS);
        }
        if !lanes.iter().any(|lane| lane.is_due) {
            return;
        }
    }
}

/// Takes the results of a wave, and lets those tick again that see a body which ended elsewhere
/// before.
fn take_ends<V: Geometry>(lanes: &mut [Lane<'_, V>], depth: u16, pass: &mut Pass<V>, ticked: &mut [bool]) {
    let mut moved: SmallVec<[u32; 32]> = SmallVec::new();
    for (number, lane) in lanes.iter_mut().enumerate() {
        if !lane.is_due || pass.items[number].depth != depth {
            continue;
        }
        (lane.is_due, ticked[number]) = (false, true);
        if lane.end != pass.ends[number] {
            pass.ends[number] = lane.end;
            moved.push(number as u32);
        }
    }
    if moved.is_empty() {
        return;
    }
    for (number, sees) in pass.sees.iter().enumerate() {
        let is_watched =
            |&(other, form): &(u32, Form<V>)| form == Form::End && moved.binary_search(&other).is_ok();
        lanes[number].is_due |= sees.iter().any(is_watched);
    }
}

/// Those that were expected to rest and have moved rest no more: they and all that saw them at rest
/// tick again.
fn wake<V: Geometry>(lanes: &mut [Lane<'_, V>], pairs: &Pairs<V>, pass: &mut Pass<V>) {
    for number in 0..lanes.len() {
        let has_moved = pass.items[number].rests && pass.ends[number].displacement != V::ZERO;
        if !has_moved {
            continue;
        }
        pass.items[number].rests = false;
        lanes[number].is_due = true;
        pass.sees[number] = pairs.first_sight(number as u32, pass);
        for &pair in &pairs.of[number] {
            for other in pairs.list[pair as usize].bodies {
                let sees = &mut pass.sees[other as usize];
                let before = sees.len();
                sees.retain(|seen| *seen != (number as u32, Form::Start));
                if sees.len() < before {
                    lanes[other as usize].is_due = true;
                }
            }
        }
    }
}

/// The pairs that are in conflict, among those of bodies that have ticked.
fn conflicts<V: Geometry, S>(
    pairs: &Pairs<V>,
    pass: &Pass<V>,
    ticked: &[bool],
    workers: &impl Workers<S>,
) -> Vec<usize> {
    let concerned: Vec<u32> = (0..pairs.list.len() as u32)
        .filter(|&number| {
            let pair = &pairs.list[number as usize];
            pair.stage != Stage::Given && pair.bodies.iter().any(|&body| ticked[body as usize])
        })
        .collect();
    let found = workers.map(concerned.len(), |place| {
        let pair = &pairs.list[concerned[place] as usize];
        pass.conflict(pair).is_some()
    });
    let found = concerned.into_iter().zip(found).filter(|(_, conflict)| *conflict);
    found.map(|(number, _)| number as usize).collect()
}

/// Puts a pair under the next rule.
fn escalate<V: Geometry>(
    number: usize,
    lanes: &mut [Lane<'_, V>],
    pairs: &mut Pairs<V>,
    pass: &mut Pass<V>,
    is_last: bool,
) {
    let pair = pairs.list[number].clone();
    let [a, b] = pair.bodies;
    let mut due = |body: u32| lanes[body as usize].is_due = true;
    let stage = if is_last { Stage::AllPlanes } else { pair.stage };
    let next = match stage {
        Stage::Free => match yields(&pair, pass) {
            Some((own, other)) => {
                // Who carries the other would otherwise follow its own steps back.
                let carries = pass.items[other as usize].carrier == Some(own);
                let end = pass.ends[other as usize].solid;
                pass.see(own, other, if carries { Form::Ended(end) } else { Form::End });
                due(own);
                Stage::Yields
            }
            None => {
                pass.part(&pair, true);
                [a, b].into_iter().for_each(due);
                Stage::Plane
            }
        },
        Stage::Yields => {
            pass.part(&pair, true);
            [a, b].into_iter().for_each(due);
            Stage::Plane
        }
        Stage::Plane => {
            for body in [a, b] {
                for &near in &pairs.of[body as usize] {
                    let near = &mut pairs.list[near as usize];
                    if near.stage <= Stage::Plane {
                        near.stage = Stage::Plane;
                        pass.part(near, false);
                        near.bodies.into_iter().for_each(&mut due);
                    }
                }
            }
            [a, b].into_iter().for_each(due);
            Stage::AllPlanes
        }
        Stage::AllPlanes => {
            for body in [a, b] {
                pass.stays[body as usize] = true;
                due(body);
            }
            Stage::Stay
        }
        Stage::Stay | Stage::Given => Stage::Given,
    };
    pairs.list[number].stage = next;
}

/// Which of two bodies yields to the other, if one does: the carrier to its rider, or the one that
/// approaches, if the other does not and makes room for it.
fn yields<V: Geometry>(pair: &Pair<V>, pass: &Pass<V>) -> Option<(u32, u32)> {
    let [a, b] = pair.bodies;
    for (own, other) in [(a, b), (b, a)] {
        if pass.items[other as usize].carrier == Some(own) {
            return Some((own, other));
        }
    }
    let least = limits::APPROACH * pair.kept;
    let approach = |body: u32, toward: V| pass.ends[body as usize].displacement.dot(toward);
    let (one, two) = (approach(a, pair.start.normal), approach(b, -pair.start.normal));
    let is_clear = |own: u32, other: u32| {
        pass.items[own as usize].solid.apart(&pass.ends[other as usize].solid).gap >= pair.least
    };
    if one > least && two <= least && is_clear(a, b) {
        Some((a, b))
    } else if two > least && one <= least && is_clear(b, a) {
        Some((b, a))
    } else {
        None
    }
}

/// Matches the velocity of a body to that of another one that it follows closely, so that it does
/// not stutter: up to its own, if it was stopped by the other, and down to that of the other, if it
/// has come nearer than the two keep.
fn match_velocities<V: Geometry>(lanes: &mut [Lane<'_, V>], pairs: &Pairs<V>, pass: &Pass<V>) {
    for (number, lane) in lanes.iter_mut().enumerate() {
        let item = &pass.items[number];
        let body = &mut lane.member.body;
        let mut best: Option<(f32, V)> = None;
        for &pair in &pairs.of[number] {
            let pair = &pairs.list[pair as usize];
            let other = if pair.bodies[0] == number as u32 { pair.bodies[1] } else { pair.bodies[0] };
            let Apart { gap, normal } = pass.ends[number].solid.apart(&pass.ends[other as usize].solid);
            if gap > limits::TOUCHING * pair.kept {
                continue;
            }
            let along = if item.from_above { normal } else { normal.slid_along(item.up) };
            let Some(along) = along.direction().filter(|_| along.length() >= limits::BESIDE) else {
                continue;
            };
            let was_in_the_way = |&(seen, form): &(u32, Form<V>)| seen == other && form != Form::Start;
            let follows = pass.sees[number].iter().any(was_in_the_way)
                || (gap < limits::FOLLOWS_WITHIN * pair.kept && !pass.items[other as usize].rests);
            // A pushed body has no velocity of its own. That of others at the start of the tick is as
            // steady as they are; their displacement alternates within the slack.
            let ahead = &pass.items[other as usize];
            let moved = pass.ends[other as usize].displacement.dot(along) * (1.0 / pass.dt);
            let moved = if ahead.shove == V::ZERO && moved > 0.0 { ahead.velocity.dot(along) } else { moved };
            let before = item.velocity.dot(along) + item.acceleration * pass.dt;
            let speed = before.min(item.target.dot(along)).min(moved);
            let own = body.velocity().dot(along);
            let change = if follows && speed > 0.0 { speed - own } else { 0.0 };
            if change != 0.0 && best.is_none_or(|(most, _)| change.abs() > most.abs()) {
                best = Some((change, along));
            }
        }
        if let Some((change, along)) = best {
            let velocity = body.state().velocity + along * change;
            body.set_velocity(velocity);
        }
    }
}

/// All pairs that touch, from both sides.
fn contacts<V: Geometry, S>(pairs: &Pairs<V>, pass: &Pass<V>, workers: &impl Workers<S>) -> Vec<Contact<V>> {
    let found = workers.map(pairs.list.len(), |number| {
        let pair = &pairs.list[number];
        let [a, b] = pair.bodies.map(|body| body as usize);
        let Apart { gap, normal } = pass.ends[a].solid.apart(&pass.ends[b].solid);
        (gap <= limits::TOUCHING * pair.kept).then(|| {
            let [one, other] = [a, b].map(|body| pass.items[body].id);
            let contact = |body, other, normal| Contact { body, with: BodyContact { other, gap, normal } };
            [contact(one, other, -normal), contact(other, one, normal)]
        })
    });
    let mut all: Vec<Contact<V>> = found.into_iter().flatten().flatten().collect();
    all.sort_unstable_by_key(|contact| (contact.body, contact.with.other));
    all
}
