//! One tick of a crowd.

use alloc::vec::Vec;
use core::cmp::Ordering;
use smallvec::SmallVec;

use crate::contact::Geometry;
use crate::input::Intent;
use crate::level::{AnySurroundings, BodyId, Index, Layers, Surroundings};
use crate::space::{Bounds, Vector};
use crate::state::{Event, State};
use crate::thresholds::crowd as limits;

use super::body::{CrowdBody, DashMeets};
use super::push::{keep_pace, pull, push, spread};
use super::solid::{Apart, Solid, comes_within};
use super::view::{Beyond, Seen, Sight, WithBodies};
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
    /// True if it stands on something, or needs no ground.
    pub stands: bool,
    pub mass: f32,
    pub strength: f32,
    /// The body that it pulls.
    pub pulls: Option<BodyId>,
    /// The gap within which it and others step aside for each other.
    pub spacing: f32,
    /// The gap within which others matter to it, however slow all are.
    range: f32,
    pub walk_speed: f32,
    /// True if it may push others by a maneuver.
    rams: bool,
    /// The longest displacement that is expected in this tick, in any direction.
    reach: f32,
    /// What is added to it along up: the height of a step, or of the ground below.
    rise: f32,
    /// True if it is known not to move.
    rests: bool,
    /// The body that it stands on.
    pub carrier: Option<u32>,
    /// The number of bodies below it.
    depth: u16,
    /// True if it meets no other body.
    passes: bool,
    layers: Layers,
    mask: Layers,
    /// The displacement by which others push it.
    pub shove: V,
    /// The speed at which it is pushed, in m/s: of the displacement, unless the push began within the
    /// tick. 0 without a push.
    pub shove_speed: f32,
}

/// Where a body is at the end of the tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct End<V> {
    solid: Solid<V>,
    displacement: V,
    /// True if it has respawned: it has not moved there.
    jumped: bool,
    /// True if it is in a maneuver.
    in_maneuver: bool,
}

/// Two bodies that may come near each other in the tick.
#[derive(Clone, Copy, Debug)]
pub(super) struct Pair<V> {
    pub bodies: [u32; 2],
    /// The gap at the start, and the normal from the first to the second.
    pub start: Apart<V>,
    /// The gap that the two keep: the sum of their clearances.
    pub kept: f32,
    /// The gap below which they are in conflict.
    least: f32,
    /// True if one of the two stands on the other.
    pub rides: bool,
    stage: Stage,
}

/// The rules under which two bodies that would come too near tick again, each stricter than the one
/// before.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Stage {
    /// They do not see each other, unless one rests or carries the other.
    Free,
    /// A maneuver of one has pushed the other.
    Rammed,
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
    /// Where it ended when it was ticked before: the number of that place in [`Pass::ended`].
    Ended(u32),
    /// Everything beyond a plane through this point, with a normal that points to the observer.
    /// If `is_thin`, the observer is on the near side.
    Beyond { point: V, normal: V, is_thin: bool },
}

type Sees<V> = SmallVec<[(u32, Form<V>); 4]>;

/// What a wave of ticks reads.
pub(super) struct Pass<V> {
    pub items: Vec<Item<V>>,
    /// The wave in which each body ticks: after those whose ends it sees.
    waves: Vec<u16>,
    /// The bodies that must tick.
    due: Vec<bool>,
    sees: Vec<Sees<V>>,
    /// For each body, those that see where it ends, or have seen it.
    watchers: Vec<SmallVec<[u32; 4]>>,
    ends: Vec<End<V>>,
    ended: Vec<Solid<V>>,
    stays: Vec<bool>,
    dt: f32,
}

/// A body that is ticked, and what comes of it.
pub(super) struct Lane<'a, V: Geometry> {
    member: &'a mut CrowdBody<V>,
    end: End<V>,
    has_ticked: bool,
}

/// The threads that do the work of a tick.
pub(super) trait Workers<S> {
    /// Ticks all lanes of a wave that are due.
    fn wave<V: Geometry>(&self, lanes: &mut [Lane<'_, V>], wave: u16, pass: &Pass<V>, surroundings: &S)
    where
        S: Surroundings<V>;

    /// The results of some work for each number below `count`, in order.
    fn map<T: Send>(&self, count: usize, work: impl Fn(usize) -> T + Sync + Send) -> Vec<T>;
}

/// Everything on the current thread.
pub(super) struct Serial;

impl<S> Workers<S> for Serial {
    fn wave<V: Geometry>(&self, lanes: &mut [Lane<'_, V>], wave: u16, pass: &Pass<V>, surroundings: &S)
    where
        S: Surroundings<V>,
    {
        for (number, lane) in lanes.iter_mut().enumerate() {
            if pass.is_in_wave(number, wave) {
                lane.step(number, pass, surroundings);
            }
        }
    }

    fn map<T: Send>(&self, count: usize, work: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
        (0..count).map(work).collect()
    }
}

impl<V: Geometry> Lane<'_, V> {
    /// Ticks the body.
    pub fn step(&mut self, number: usize, pass: &Pass<V>, surroundings: &impl Surroundings<V>) {
        let item = &pass.items[number];
        let body = &mut self.member.body;
        let again = core::mem::replace(&mut self.has_ticked, true);
        if pass.stays[number] {
            body.stay();
        } else {
            let sees = &pass.sees[number];
            let (intent, dt) = (&item.intent, pass.dt);
            if sees.is_empty() && item.shove == V::ZERO {
                if again {
                    body.tick_again(intent, surroundings, dt);
                } else {
                    body.tick(intent, surroundings, dt);
                }
            } else {
                let base: &dyn AnySurroundings<V> = surroundings;
                let seen = sees.iter().map(|&(other, form)| pass.seen(number, other, form));
                let view = WithBodies::of(base, seen, item.shove);
                if again {
                    body.tick_again(intent, &view, dt);
                } else {
                    body.tick(intent, &view, dt);
                }
            }
        }
        let solid = Solid::of(body);
        let jumped = body.events().iter().any(Event::is_elsewhere);
        let displacement = solid.displacement_from(&item.solid);
        self.end = End { solid, displacement, jumped, in_maneuver: body.state().maneuver.is_some() };
    }
}

impl<V: Geometry> Pass<V> {
    fn new(items: Vec<Item<V>>, ends: Vec<End<V>>, dt: f32) -> Self {
        let count = items.len();
        let waves = items.iter().map(|item| item.depth).collect();
        let mut watchers = Vec::new();
        watchers.resize_with(count, SmallVec::new);
        let (due, stays) = (alloc::vec![true; count], alloc::vec![false; count]);
        Self { items, waves, due, sees: Vec::new(), watchers, ends, ended: Vec::new(), stays, dt }
    }

    /// Returns true if a body must tick in a wave.
    pub fn is_in_wave(&self, number: usize, wave: u16) -> bool {
        self.due[number] && self.waves[number] == wave
    }

    fn seen(&self, own: usize, other: u32, form: Form<V>) -> Seen<V> {
        let other = other as usize;
        let (item, end) = (&self.items[other], &self.ends[other]);
        let what = match form {
            Form::Start => Sight::Hull(item.solid.shape(item.clearance), V::ZERO),
            Form::End => {
                let displacement = if end.jumped { V::ZERO } else { end.displacement };
                Sight::Hull(end.solid.shape(item.clearance), displacement)
            }
            Form::Ended(place) => Sight::Hull(self.ended[place as usize].shape(item.clearance), V::ZERO),
            Form::Beyond { point, normal, is_thin } => {
                let item = &self.items[own];
                let size = limits::PLANE_EXTENT * item.solid.extent(item.up) + 4.0 * (item.reach + item.rise);
                Sight::Beyond(Beyond { point, normal, size, is_thin })
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

    /// Returns true if a pair comes too near in the tick.
    fn is_in_conflict(&self, pair: &Pair<V>) -> bool {
        let [a, b] = pair.bodies.map(|body| body as usize);
        let [start, other_start] = [a, b].map(|body| &self.items[body].solid);
        let [end, other_end] = [a, b].map(|body| &self.ends[body]);
        if end.jumped || other_end.jumped {
            return false;
        }
        // A body that follows another one closely keeps the gap. Otherwise it would come nearer in one
        // tick and fall back in the next.
        let moves = [a, b].iter().all(|&body| !self.items[body].rests);
        let keeps = pair.stage == Stage::Free && moves && !pair.rides;
        let closely = limits::FOLLOWS_WITHIN * pair.kept.min(pair.start.gap);
        let least = if keeps { pair.least.max(closely) } else { pair.least };
        comes_within(&pair.start, [start, &end.solid], [other_start, &other_end.solid], least)
    }

    /// The displacements along the normal by which two bodies that touch walk toward each other in
    /// the tick, if they bring them too near. `None` also if one of them does not walk, or slows down.
    fn closing(&self, pair: &Pair<V>) -> Option<[f32; 2]> {
        let [one, other] = pair.bodies.map(|body| &self.items[body as usize]);
        let walks = |item: &Item<V>| {
            let speed = item.velocity.length();
            !item.rests
                && item.stands
                && item.shove == V::ZERO
                && item.target.length() >= limits::NOT_SLOWER * speed
        };
        let touch = pair.start.gap <= limits::TOUCHING * pair.kept && !pair.rides;
        if pair.stage != Stage::Free || !touch || !walks(one) || !walks(other) {
            return None;
        }
        let displacement = |item: &Item<V>| {
            let change = (item.target - item.velocity).capped(item.acceleration * self.dt);
            (item.velocity + change) * self.dt
        };
        let both = [one, other].map(displacement);
        let along = [both[0].dot(pair.start.normal), -both[1].dot(pair.start.normal)];
        // A body that moves away may be stopped by others, so its displacement does not count.
        let toward = [0, 1].map(|own| if along[own] > 0.0 { both[own] } else { V::ZERO });
        let [end, other_end] = [one.solid.moved(toward[0]), other.solid.moved(toward[1])];
        let meet = comes_within(&pair.start, [&one.solid, &end], [&other.solid, &other_end], pair.least);
        meet.then_some(along)
    }

    /// Lets `own` see `other` in another form.
    fn see(&mut self, own: u32, other: u32, form: Form<V>) {
        let sees = &mut self.sees[own as usize];
        match sees.iter_mut().find(|seen| seen.0 == other) {
            Some(seen) => seen.1 = form,
            None => sees.push((other, form)),
        }
        let watchers = &mut self.watchers[other as usize];
        if form == Form::End && !watchers.contains(&own) {
            watchers.push(own);
        }
    }

    /// Lets both bodies of a pair keep to their sides of a plane. If `follows`, the plane moves with
    /// the displacement that both have in common, for a body that follows the other one.
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
        // If they are too near, both move back, by a limited distance in a tick.
        let size = one.solid.extent(one.up).min(other.solid.extent(other.up));
        let back = (0.5 * (gap - pair.kept).min(0.0)).max(-limits::SEPARATION * size * self.dt);
        let along = [a, b].map(|body| self.ends[body as usize].displacement.dot(normal));
        let common = |own: f32, other: f32| if follows { own.min(other).max(0.0) } else { 0.0 };
        let plane = |item: &Item<V>, toward: V, room: f32| {
            let distance = item.solid.extent(toward) + room + item.clearance + back;
            let point = item.solid.shape(0.0).centre + toward * distance;
            Form::Beyond { point, normal: -toward, is_thin: -back < 0.5 * item.clearance }
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
    let mut entries = Vec::with_capacity(crowd.places.len());
    for (number, place) in crowd.places.iter_mut().enumerate() {
        let id = BodyId::new(number as u16, place.generation);
        if let Some(body) = &mut place.body {
            entries.push((id, intents(id, body), body));
        }
    }
    // In an order that depends only on where the bodies are, so that nothing depends on the order in
    // which they were added.
    let mut order: Vec<(V, u32)> =
        entries.iter().zip(0..).map(|(entry, number)| (entry.2.body.position(), number)).collect();
    order.sort_unstable_by(|(a, i), (b, k)| {
        let entry = |number: u32| (entries[number as usize].0, &*entries[number as usize].2);
        compare(*a, *b).then_with(|| by_size(entry(*i), entry(*k)))
    });
    let mut items = workers.map(order.len(), |place| {
        let (id, intent, body) = &entries[order[place].1 as usize];
        Item::of(*id, *intent, body, dt)
    });
    let mut members: Vec<Option<&mut CrowdBody<V>>> =
        entries.into_iter().map(|(_, _, body)| Some(body)).collect();
    let mut lanes: Vec<Lane<'_, V>> = Vec::with_capacity(items.len());
    for ((_, number), item) in order.iter().zip(&items) {
        let (solid, displacement) = (item.solid, V::ZERO);
        let end = End { solid, displacement, jumped: false, in_maneuver: false };
        let member = members[*number as usize].take();
        lanes.extend(member.map(|member| Lane { member, end, has_ticked: false }));
    }
    find_carriers(&mut items, &lanes);

    let mut pairs = Pairs::find(&items, workers);
    push(&mut items, &pairs.list, &pairs.of, dt);
    pull(&mut items, &pairs.list, &pairs.of, dt);
    spread(&mut items, &pairs.list, dt);
    keep_pace(&mut items, &pairs, dt, workers);
    for item in &mut items {
        item.rests &= item.shove == V::ZERO;
    }
    settle_rest(&mut items);
    let ends = lanes.iter().map(|lane| lane.end).collect();
    let count = items.len();
    let mut pass = Pass::new(items, ends, dt);
    pass.sees = workers.map(count, |number| pairs.first_sight(number as u32, &pass));
    for number in 0..count {
        if let Some(carrier) = pass.items[number].carrier {
            pass.watchers[carrier as usize].push(number as u32);
        }
    }
    foresee(&mut pairs, &mut pass, workers);
    resolve(&mut lanes, &mut pairs, &mut pass, surroundings, workers);
    let apart = workers.map(pairs.list.len(), |number| {
        let [a, b] = pairs.list[number].bodies.map(|body| &pass.ends[body as usize].solid);
        a.apart(b)
    });
    match_velocities(&mut lanes, (&pairs, &apart), &pass, workers);
    crowd.contacts = contacts(&pairs, &apart, &pass);
    for lane in &mut lanes {
        let member = &mut *lane.member;
        member.passes_for = (member.passes_for - dt).max(0.0);
        if member.body.events().iter().any(Event::is_elsewhere) {
            member.passes_for = member.passes_after_respawn;
        }
    }
    stay_at_bodies(crowd);
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
        // A body that comes further is found afterwards.
        let speed = velocity.length().max(target.length()) + tuning.gravity() * dt;
        let reach = if speed.is_finite() { speed * dt } else { 0.0 };
        let slope = &tuning.slope;
        let spacing = if member.spacing.is_finite() { member.spacing } else { 0.0 };
        let hold = 2.0 * limits::PULLED * body.hull.clearance();
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
            strength: member.strength,
            pulls: member.pulls,
            spacing,
            range: if member.pulls.is_some() { spacing.max(hold) } else { spacing },
            walk_speed: tuning.walk.speed.abs(),
            rams: member.dash == DashMeets::Push && (in_maneuver || !intent.pressed.is_empty()),
            reach,
            rise: if from_above { 0.0 } else { slope.step_height.max(slope.ground_snap) },
            rests: body.is_at_rest(&intent, dt),
            carrier: None,
            depth: 0,
            passes: member.passes_for > 0.0 || (in_maneuver && member.dash == DashMeets::Pass),
            layers: member.layers,
            mask: member.mask,
            shove: V::ZERO,
            shove_speed: 0.0,
        }
    }

    fn meets(&self, other: &Self) -> bool {
        !self.passes
            && !other.passes
            && self.mask.intersects(other.layers)
            && other.mask.intersects(self.layers)
    }
}

/// By the coordinates, one after another.
fn compare<V: Vector>(a: V, b: V) -> Ordering {
    let all = a.to_array().into_iter().zip(b.to_array());
    all.map(|(a, b)| a.total_cmp(&b)).find(|order| order.is_ne()).unwrap_or(Ordering::Equal)
}

/// Bodies at the same place: by what rounding left of it, then by their sizes, then by their ids.
fn by_size<V: Geometry>(a: (BodyId, &CrowdBody<V>), b: (BodyId, &CrowdBody<V>)) -> Ordering {
    let remainders = compare(a.1.body.state().remainder, b.1.body.state().remainder);
    let size = |body: &CrowdBody<V>| {
        let core = body.body.hull.core::<V>();
        (core.half, V::splat(core.radius))
    };
    let (a_size, b_size) = (size(a.1), size(b.1));
    let sizes = compare(a_size.0, b_size.0).then_with(|| compare(a_size.1, b_size.1));
    remainders.then(sizes).then_with(|| a.0.cmp(&b.0))
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
        let (mut depth, mut reach, mut rise, mut next) = (0, 0.0f32, 0.0f32, items[number].carrier);
        while let Some(below) = next {
            depth += 1;
            if depth > limits::MAX_STACK {
                // The host has moved bodies into a ring. This one does not ride any more.
                items[number].carrier = None;
                depth = 0;
                break;
            }
            reach += items[below as usize].reach;
            rise += items[below as usize].rise;
            next = items[below as usize].carrier;
        }
        items[number].depth = depth;
        items[number].reach += reach;
        items[number].rise += rise;
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
    /// The longest displacement of a body that came further than expected.
    furthest: f32,
}

impl<V: Geometry> Pairs<V> {
    fn find<S>(items: &[Item<V>], workers: &impl Workers<S>) -> Self {
        let boxes: Vec<Bounds<V>> = items.iter().map(Item::bounds).collect();
        let index = Index::new(&boxes);
        let near = workers.map(items.len(), |number| {
            let mut near: SmallVec<[u32; 6]> = SmallVec::new();
            index.query(&boxes[number], |other| {
                if other as usize > number {
                    near.push(other);
                }
            });
            near.sort_unstable();
            near
        });
        let both =
            |(number, near): (u32, SmallVec<[u32; 6]>)| near.into_iter().map(move |other| [number, other]);
        let candidates: Vec<[u32; 2]> = (0..).zip(near).flat_map(both).collect();
        let found = workers.map(candidates.len(), |place| Pair::of(candidates[place], items));
        let mut pairs = Self { list: Vec::new(), of: Vec::new(), index, furthest: 0.0 };
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

    /// Adds the pairs of the bodies that ticked and came further than expected.
    fn extend(&mut self, pass: &Pass<V>, ticked: &[bool]) {
        let is_far = |&number: &usize| {
            let end = &pass.ends[number];
            ticked[number] && !end.jumped && pass.items[number].is_beyond_reach(end.displacement)
        };
        let far: Vec<usize> = (0..ticked.len()).filter(is_far).collect();
        let moved = |number: usize| pass.ends[number].displacement.length();
        self.furthest = far.iter().map(|&number| moved(number)).fold(self.furthest, f32::max);
        for number in far {
            // The other one may have come further than expected, too.
            self.extend_by(number as u32, moved(number) + self.furthest, pass);
        }
    }

    /// Adds the pairs of a body with others that are up to `more` metres further away than expected.
    #[cold]
    fn extend_by(&mut self, number: u32, more: f32, pass: &Pass<V>) {
        let item = &pass.items[number as usize];
        let bounds = item.solid.shape(item.clearance + item.reach + item.rise + more).bounds();
        let mut near = Vec::new();
        self.index.query(&bounds, |other| near.push(other));
        near.sort_unstable();
        for other in near {
            let is_known =
                self.of[number as usize].iter().any(|&pair| self.list[pair as usize].bodies.contains(&other));
            if other != number
                && !is_known
                && let Some(pair) = Pair::within([number.min(other), number.max(other)], &pass.items, more)
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
            let (other, _) = pair.from(number, &pair.start);
            let is_seen = pass.items[other as usize].rests && pair.stage == Stage::Free && !item.rams;
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
        let around = self.clearance + self.reach + self.range;
        let Bounds { min, max } = self.solid.shape(around).bounds();
        let rise = (self.up * self.rise).abs();
        Bounds { min: min - rise, max: max + rise }
    }

    /// How far it is expected to come along a direction.
    fn reach_along(&self, direction: V) -> f32 {
        self.reach + self.rise * self.up.dot(direction).abs()
    }

    /// Returns true if a displacement takes it out of its bounds.
    fn is_beyond_reach(&self, displacement: V) -> bool {
        let up = displacement.dot(self.up);
        let beside = displacement - self.up * up;
        beside.length() > self.reach || up.abs() > self.reach + self.rise
    }
}

impl<V: Geometry> Pair<V> {
    /// The other body, and the normal of a separation from `own` to it.
    pub fn from(&self, own: u32, apart: &Apart<V>) -> (u32, V) {
        if self.bodies[0] == own { (self.bodies[1], apart.normal) } else { (self.bodies[0], -apart.normal) }
    }

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
        let reach = one.reach_along(start.normal) + other.reach_along(start.normal) + more;
        if start.gap > (kept + reach).max(one.range.max(other.range)) {
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
    let last = pass.waves.iter().copied().max().unwrap_or(0);
    let mut ticked = Vec::new();
    for round in 0.. {
        ticked.clear();
        ticked.resize(lanes.len(), false);
        for wave in 0..=last {
            if (0..lanes.len()).any(|number| pass.is_in_wave(number, wave)) {
                workers.wave(lanes, wave, pass, surroundings);
                take_ends(lanes, wave, pass, &mut ticked);
            }
        }
        pairs.extend(pass, &ticked);
        wake(pairs, pass);
        if round >= 2 * limits::MAX_ROUNDS {
            for (stays, due) in pass.stays.iter_mut().zip(&pass.due) {
                *stays |= due;
            }
        }
        let in_conflict = conflicts(pairs, pass, &ticked, workers);
        for number in in_conflict {
            escalate(number, pairs, pass, round >= limits::MAX_ROUNDS);
        }
        if !pass.due.contains(&true) {
            return;
        }
    }
}

/// Finds the pairs that touch and walk toward each other. They need no first round without each other:
/// both keep to their sides of a plane, or the one that approaches ticks after the other.
fn foresee<V: Geometry, S>(pairs: &mut Pairs<V>, pass: &mut Pass<V>, workers: &impl Workers<S>) {
    let mut after: Vec<[u32; 2]> = Vec::new();
    let closing = workers.map(pairs.list.len(), |number| pass.closing(&pairs.list[number]));
    for (pair, closing) in pairs.list.iter_mut().zip(closing) {
        if let Some([one, other]) = closing {
            let least = limits::APPROACH * pair.kept;
            if one > least && other > least {
                pair.stage = Stage::Plane;
            } else if one.max(other) > least {
                let [a, b] = pair.bodies;
                let (own, ahead) = if one > other { (a, b) } else { (b, a) };
                pass.see(own, ahead, Form::End);
                after.push([own, ahead]);
                pair.stage = Stage::Yields;
            }
        }
        if pair.stage == Stage::Plane {
            pass.part(pair, false);
        }
    }
    if after.is_empty() {
        return;
    }
    // A rider still ticks after its carrier.
    let riders = pass.items.iter().zip(0..).filter_map(|(item, number)| Some([number, item.carrier?]));
    let riders: Vec<[u32; 2]> = riders.collect();
    let most = pass.items.iter().map(|item| item.depth).max().unwrap_or(0) + limits::MOST_WAVES;
    for _ in 0..most {
        let mut has_changed = false;
        for &[own, ahead] in after.iter().chain(&riders) {
            let wave = (pass.waves[ahead as usize] + 1).min(most);
            if pass.waves[own as usize] < wave {
                pass.waves[own as usize] = wave;
                has_changed = true;
            }
        }
        if !has_changed {
            break;
        }
    }
}

/// Takes the results of a wave. If a body has ended elsewhere than before, those that see its end tick
/// again.
fn take_ends<V: Geometry>(lanes: &[Lane<'_, V>], wave: u16, pass: &mut Pass<V>, ticked: &mut [bool]) {
    let mut moved: SmallVec<[u32; 32]> = SmallVec::new();
    for (number, lane) in lanes.iter().enumerate() {
        if !pass.is_in_wave(number, wave) {
            continue;
        }
        (pass.due[number], ticked[number]) = (false, true);
        if lane.end != pass.ends[number] {
            pass.ends[number] = lane.end;
            moved.push(number as u32);
        }
    }
    for number in moved {
        for &watcher in &pass.watchers[number as usize] {
            pass.due[watcher as usize] |= pass.sees[watcher as usize].contains(&(number, Form::End));
        }
    }
}

/// Marks the bodies that were expected to rest and have moved. They and all that saw them at rest tick
/// again.
fn wake<V: Geometry>(pairs: &Pairs<V>, pass: &mut Pass<V>) {
    for number in 0..pass.items.len() {
        if pass.items[number].rests && pass.ends[number].displacement != V::ZERO {
            wake_body(number as u32, pairs, pass);
        }
    }
}

/// Lets a body rest no more.
fn wake_body<V: Geometry>(number: u32, pairs: &Pairs<V>, pass: &mut Pass<V>) {
    pass.items[number as usize].rests = false;
    pass.due[number as usize] = true;
    for (other, form) in pairs.first_sight(number, pass) {
        let sees = &mut pass.sees[number as usize];
        if !sees.iter().any(|seen| seen.0 == other) {
            sees.push((other, form));
        }
    }
    for &pair in &pairs.of[number as usize] {
        for other in pairs.list[pair as usize].bodies {
            let sees = &mut pass.sees[other as usize];
            let before = sees.len();
            sees.retain(|seen| *seen != (number, Form::Start));
            if sees.len() < before {
                pass.due[other as usize] = true;
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
    let found =
        workers.map(concerned.len(), |place| pass.is_in_conflict(&pairs.list[concerned[place] as usize]));
    let found = concerned.into_iter().zip(found).filter(|(_, conflict)| *conflict);
    found.map(|(number, _)| number as usize).collect()
}

/// Puts a pair under the next rule.
fn escalate<V: Geometry>(number: usize, pairs: &mut Pairs<V>, pass: &mut Pass<V>, is_last: bool) {
    let pair = pairs.list[number];
    let [a, b] = pair.bodies;
    let stage = if is_last { Stage::AllPlanes } else { pair.stage };
    let next = match stage {
        Stage::Free if ram(&pair, pairs, pass) => Stage::Rammed,
        Stage::Free | Stage::Rammed => match yields(&pair, pass) {
            Some((own, other)) => {
                // The rider moves with its carrier. Seen at its present end, it would let the carrier
                // step back and forth with itself.
                let carries = pass.items[other as usize].carrier == Some(own);
                let form = if carries {
                    pass.ended.push(pass.ends[other as usize].solid);
                    Form::Ended(pass.ended.len() as u32 - 1)
                } else {
                    Form::End
                };
                pass.see(own, other, form);
                pass.due[own as usize] = true;
                Stage::Yields
            }
            None => {
                pass.part(&pair, true);
                [a, b].into_iter().for_each(|body| pass.due[body as usize] = true);
                Stage::Plane
            }
        },
        Stage::Yields => {
            pass.part(&pair, true);
            [a, b].into_iter().for_each(|body| pass.due[body as usize] = true);
            Stage::Plane
        }
        Stage::Plane => {
            for body in [a, b] {
                for &near in &pairs.of[body as usize] {
                    let near = &mut pairs.list[near as usize];
                    if near.stage <= Stage::Plane {
                        near.stage = Stage::Plane;
                        pass.part(near, false);
                        near.bodies.into_iter().for_each(|body| pass.due[body as usize] = true);
                    }
                }
            }
            [a, b].into_iter().for_each(|body| pass.due[body as usize] = true);
            Stage::AllPlanes
        }
        Stage::AllPlanes => {
            for body in [a, b] {
                pass.stays[body as usize] = true;
                pass.due[body as usize] = true;
            }
            Stage::Stay
        }
        Stage::Stay | Stage::Given => Stage::Given,
    };
    pairs.list[number].stage = next;
}

/// Lets the maneuver of one of two bodies push the other: out of the place where it ends, in the
/// direction of its motion. Returns false if neither has such a maneuver.
fn ram<V: Geometry>(pair: &Pair<V>, pairs: &Pairs<V>, pass: &mut Pass<V>) -> bool {
    let [a, b] = pair.bodies;
    for (own, other) in [(a, b), (b, a)] {
        let (item, end) = (&pass.items[own as usize], &pass.ends[own as usize]);
        let along = if item.from_above { end.displacement } else { end.displacement.slid_along(item.up) };
        let Some(along) = along.direction().filter(|_| item.rams && end.in_maneuver) else { continue };
        let pushed = &pass.items[other as usize];
        let sizes = item.solid.extent(along) + pushed.solid.extent(along) + pair.kept;
        let gap = |distance: f32| end.solid.apart(&pushed.solid.moved(along * distance)).gap;
        let (mut low, mut high) = (0.0f32, 2.0 * sizes + end.displacement.length());
        for _ in 0..limits::RAM_ROUNDS {
            let middle = 0.5 * (low + high);
            if gap(middle) < pair.kept {
                low = middle;
            } else {
                high = middle;
            }
        }
        pass.items[other as usize].shove = along * high;
        wake_body(other, pairs, pass);
        return true;
    }
    false
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
    let height = pair.start.normal.dot(pass.items[a as usize].up);
    let approach = |body: u32, toward: V| pass.ends[body as usize].displacement.dot(toward);
    let (one, two) = (approach(a, pair.start.normal), approach(b, -pair.start.normal));
    let is_clear = |own: u32, other: u32| {
        pass.items[own as usize].solid.apart(&pass.ends[other as usize].solid).gap >= pair.least
    };
    if one > least && two <= least && is_clear(a, b) {
        Some((a, b))
    } else if two > least && one <= least && is_clear(b, a) {
        Some((b, a))
    } else if height.abs() > limits::ABOVE && one > least && two > least {
        // The upper body lands on the lower one, which a lift may push up.
        Some(if height > 0.0 { (b, a) } else { (a, b) })
    } else {
        None
    }
}

/// Matches the velocity of a body to that of another one that it follows closely, so that it does
/// not stutter: up to its own if the other one stopped it, and down to that of the other one if it
/// has come nearer than the gap that the two keep. `apart` are the separations of all pairs at the end.
fn match_velocities<V: Geometry, S>(
    lanes: &mut [Lane<'_, V>],
    ends: (&Pairs<V>, &[Apart<V>]),
    pass: &Pass<V>,
    workers: &impl Workers<S>,
) {
    let velocities: Vec<V> = lanes.iter().map(|lane| lane.member.body.velocity()).collect();
    let changes = workers.map(lanes.len(), |number| velocity_change(number, velocities[number], ends, pass));
    for (lane, change) in lanes.iter_mut().zip(changes) {
        if change != V::ZERO {
            let body = &mut lane.member.body;
            body.set_velocity(body.state().velocity + change);
        }
    }
}

/// The change of the velocity of a body that follows another one.
fn velocity_change<V: Geometry>(
    number: usize,
    velocity: V,
    (pairs, apart): (&Pairs<V>, &[Apart<V>]),
    pass: &Pass<V>,
) -> V {
    let item = &pass.items[number];
    let mut best = (0.0f32, V::ZERO);
    for &pair in &pairs.of[number] {
        let (pair, apart) = (&pairs.list[pair as usize], &apart[pair as usize]);
        let gap = apart.gap;
        let (other, normal) = pair.from(number as u32, apart);
        if gap > limits::TOUCHING * pair.kept {
            continue;
        }
        let along = if item.from_above { normal } else { normal.slid_along(item.up) };
        let Some(along) = along.direction().filter(|_| along.length() >= limits::BESIDE) else { continue };
        let saw_it_move = |&(seen, form): &(u32, Form<V>)| seen == other && form != Form::Start;
        let ahead = &pass.items[other as usize];
        let follows = pass.sees[number].iter().any(saw_it_move)
            || (gap < limits::FOLLOWS_WITHIN * pair.kept && !ahead.rests);
        // A pushed body has no velocity of its own. That of others at the start of the tick is as
        // steady as they are; their displacement alternates within the slack.
        let moved = pass.ends[other as usize].displacement.dot(along) * (1.0 / pass.dt);
        let moved = if ahead.shove == V::ZERO && moved > 0.0 {
            ahead.velocity.dot(along)
        } else if ahead.shove_speed > 0.0 && moved > 0.0 {
            // A push may begin within the tick, and a wall may end it.
            ahead.shove_speed * (moved * pass.dt / ahead.shove.dot(along)).clamp(0.0, 1.0)
        } else {
            moved
        };
        let before = item.velocity.dot(along) + item.acceleration * pass.dt;
        let speed = before.min(item.target.dot(along)).min(moved);
        let change = if follows && speed > 0.0 { speed - velocity.dot(along) } else { 0.0 };
        if change.abs() > best.0.abs() {
            best = (change, along);
        }
    }
    best.1 * best.0
}

/// A body that is at another one as at a wall stays there while it touches it.
fn stay_at_bodies<V: Geometry>(crowd: &mut Crowd<V>) {
    let contacts = core::mem::take(&mut crowd.contacts);
    for contact in &contacts {
        let lingers = |member: &&mut CrowdBody<V>| member.body.state().touching.lingers > 0;
        let Some(member) = crowd.get_mut(contact.body).filter(lingers) else { continue };
        let State { up, from_above, .. } = *member.body.state();
        if from_above || contact.with.normal.slid_along(up).length() >= limits::BESIDE {
            member.body.touching_mut().linger(true, 0.0);
        }
    }
    crowd.contacts = contacts;
}

/// All pairs that touch, from both sides.
fn contacts<V: Geometry>(pairs: &Pairs<V>, apart: &[Apart<V>], pass: &Pass<V>) -> Vec<Contact<V>> {
    let touch = |(pair, apart): &(&Pair<V>, &Apart<V>)| apart.gap <= limits::TOUCHING * pair.kept;
    let both = |(pair, &Apart { gap, normal }): (&Pair<V>, &Apart<V>)| {
        let [one, other] = pair.bodies.map(|body| pass.items[body as usize].id);
        let contact = |body, other, normal| Contact { body, with: BodyContact { other, gap, normal } };
        [contact(one, other, -normal), contact(other, one, normal)]
    };
    let mut all: Vec<Contact<V>> = pairs.list.iter().zip(apart).filter(touch).flat_map(both).collect();
    all.sort_unstable_by_key(|contact| (contact.body, contact.with.other));
    all
}
