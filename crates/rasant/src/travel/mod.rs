//! Moving a hull through a patch: slide, step, snap to the ground, get free.
//!
//! A [`Traveller`] starts a tick at the origin of the patch and is moved about
//! by [`walk`](Traveller::walk) and [`fly`](Traveller::fly). It never touches
//! anything: every stop is at the clearance. What it met on its way is in its
//! contacts.

mod fly;
mod free;
mod nudge;
mod ride;
mod walk;
mod wedge;

pub use fly::{Flight, Leg};
pub use free::Freed;
pub use nudge::Nudges;
pub use walk::Walk;

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use smallvec::SmallVec;

use crate::contact::{Geometry, Hit, Patch};
use crate::level::{CarrierId, PieceId, Tag};
use crate::space::{Bounds, TINY, Vector};
use crate::thresholds::{feet, room, rounding, walls};

/// Motions that one leg is cut into at most. Three walls make a corner; the
/// rest is for steps and slopes on the way.
const BUMPS: usize = 8;

/// What a tuning asks of travel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rules {
    /// The cosine of the steepest walkable angle.
    pub cos_steepest: f32,
    /// The highest step taken without a jump, in metres.
    pub step_height: f32,
    /// How far down the feet follow the ground, in metres.
    pub ground_snap: f32,
}

impl Rules {
    /// Whether a plane with this normal, in the body's frame, can be walked.
    #[must_use]
    pub fn walkable<V: Vector>(&self, normal: V) -> bool {
        normal.height() >= self.cos_steepest - rounding::OF_COSINE
    }
}

/// What something met on the way is to the body.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ContactKind {
    /// Walkable ground.
    Ground,
    /// A slope too steep to walk.
    Steep,
    /// Upright, or leaning over by less than 60 degrees.
    Wall,
    /// An underside.
    Ceiling,
}

/// Something met on the way, in the body's frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Contact<V> {
    /// From the piece to the body, of length 1.
    pub normal: V,
    /// The touched point.
    pub point: V,
    /// What it is to the body.
    pub kind: ContactKind,
    /// The speed at which the body came against it, along the normal.
    pub speed: f32,
    /// Which piece.
    pub tag: Tag,
}

/// What was met on the way, in order.
pub type Contacts<V> = SmallVec<[Contact<V>; 6]>;

/// What a body in the air takes for ground.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Landings {
    /// What can be walked.
    Ground,
    /// Nothing: it slides along whatever it meets.
    None,
    /// Nothing, for it is seen from above: whatever it meets is a wall.
    Plane,
}

/// What feet are on, in the body's frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stand<V> {
    /// Whether it can be walked.
    pub firm: bool,
    /// The normal of the face the feet rest on.
    pub normal: V,
    /// The point where the hull touches it.
    pub point: V,
    /// Which piece.
    pub tag: Tag,
}

/// Returns how far the point of a carrier that is at a place after the tick was moved in it, in the
/// body's frame.
pub type MovedTo<'a, V> = dyn Fn(CarrierId, V) -> V + 'a;

/// Carriers that move in a tick, each with its displacement where the body is, and how long
/// the tick is.
#[derive(Clone, Copy)]
struct Among<'a, V> {
    carriers: &'a [(V, CarrierId)],
    dt: f32,
    moved_to: &'a MovedTo<'a, V>,
}

/// Fills a patch with all that is within bounds of displacement.
pub type Gather<'a, V> = dyn Fn(&mut Patch<V>, Bounds<V>) + 'a;

/// A hull under way through a patch.
pub struct Traveller<'a, V: Geometry> {
    patch: &'a mut Patch<V>,
    /// Gathers all that is within some bounds of displacement.
    gather: &'a Gather<'a, V>,
    rules: Rules,
    /// A piece that the body lets itself fall through.
    passing: Option<PieceId>,
    /// Whether it lets itself through every one-way piece.
    passes_one_way: bool,
    /// One-way pieces that carriers take down past it.
    sinking: SmallVec<[PieceId; 2]>,
    /// How far it is helped past corners.
    nudges: Nudges,
    /// The normal of a wall that it was against before.
    wall: Option<V>,
    /// What it takes for ground.
    landings: Landings,
    /// Carriers nearby that it does not ride on.
    among: Among<'a, V>,
    /// The velocity of what it walks on: its own is relative to that.
    pub(crate) ground_velocity: V,
    /// The one it rides on, and how far that takes it.
    rides: Option<(V, CarrierId)>,
    /// Whether it was held by what has crushed it when the tick began.
    held: bool,
    /// The greatest [`Swept::depth`](crate::contact::Swept::depth) of any sweep.
    pub depth: f32,
    /// How far steps have put it ahead of its way, in metres.
    pub ahead: f32,
    /// Whether a wall has come to hold it.
    pub slides: bool,
    /// How far the body has come.
    pub at: V,
    /// The velocity at the end of the way so far.
    pub velocity: V,
    /// What was met, in order.
    pub contacts: Contacts<V>,
}

impl<'a, V: Geometry> Traveller<'a, V> {
    /// A traveller at the patch's origin. Where it looks beyond what the patch
    /// covers, more is gathered.
    #[must_use]
    pub fn new(patch: &'a mut Patch<V>, gather: &'a Gather<'a, V>, rules: Rules, velocity: V) -> Self {
        Self {
            patch,
            gather,
            rules,
            passing: None,
            passes_one_way: false,
            sinking: SmallVec::new(),
            nudges: Nudges::default(),
            wall: None,
            landings: Landings::Ground,
            among: Among { carriers: &[], dt: 1.0, moved_to: &|_, _| V::ZERO },
            ground_velocity: V::ZERO,
            rides: None,
            held: false,
            depth: 0.0,
            ahead: 0.0,
            slides: false,
            at: V::ZERO,
            velocity,
            contacts: SmallVec::new(),
        }
    }

    /// The same traveller, let through the one-way piece `piece`, or through all of them.
    #[must_use]
    pub fn passing(mut self, piece: Option<PieceId>, all: bool) -> Self {
        self.passing = piece;
        self.passes_one_way = all;
        self
    }

    /// The same traveller, helped past corners in the air.
    #[must_use]
    pub fn nudged(mut self, nudges: Nudges) -> Self {
        self.nudges = nudges;
        self
    }

    /// The same traveller, in a tick of `dt` seconds in which these carriers, on which it does not
    /// ride, move by these displacements where the body is, and by `moved_to` elsewhere.
    #[must_use]
    pub fn among(mut self, carriers: &'a [(V, CarrierId)], dt: f32, moved_to: &'a MovedTo<'a, V>) -> Self {
        self.among = Among { carriers, dt, moved_to };
        self
    }

    /// The same traveller, held before by what has crushed it, or not.
    #[must_use]
    pub fn held(mut self, held: bool) -> Self {
        self.held = held;
        self
    }

    /// The same traveller, against a wall with this normal from before: a push
    /// against it stays one, however soft.
    #[must_use]
    pub fn against(mut self, wall: Option<V>) -> Self {
        self.wall = wall;
        self
    }

    /// Whether something of this kind was met.
    #[must_use]
    pub fn met(&self, kind: ContactKind) -> bool {
        self.contacts.iter().any(|contact| contact.kind == kind)
    }

    /// What the feet are on if there is something within `drop` below: the
    /// stand, and how far the body is lowered (raised if negative) to keep the
    /// clearance above it.
    #[must_use]
    pub fn ground_below(&mut self, drop: f32) -> Option<(Stand<V>, f32)> {
        let (hit, lowered) = self.look_down(drop)?;
        Some((self.stand_on(&hit, self.at - V::UP * lowered), lowered))
    }

    /// What is within `drop` below, and how far the body is lowered to it.
    fn look_down(&mut self, drop: f32) -> Option<(Hit<V>, f32)> {
        // Looked for from a little higher up, so that a gap that is too small
        // is found out as well as one that is too large.
        let lift = 2.0 * self.patch.slack();
        let start = self.at + V::UP * lift;
        // Mostly the ground is near, and a short look is a quick one.
        let near = feet::NEAR * self.patch.clearance();
        let lengths = [near.min(drop) + lift, drop + lift];
        let looks = if drop > near { 2 } else { 1 };
        let (hit, length) =
            lengths[..looks].iter().find_map(|&length| Some((self.support(start, length)?, length)))?;
        if !self.rules.walkable(hit.normal)
            && let Some((ground, lowered)) = self.walkable_beneath(start, lift)
        {
            return Some((ground, lowered));
        }
        Some((hit, length * hit.time - lift))
    }

    /// The ground that a hull rests on with a walkable normal, no more than a clearance below,
    /// beside an edge that it touches at a steep tilt. The feet of a round hull that walks against
    /// a step are on the ground before it and not on the edge of the step: they would else
    /// climb steps of any height, by tiny amounts in every tick.
    #[inline(never)]
    fn walkable_beneath(&mut self, start: V, lift: f32) -> Option<(Hit<V>, f32)> {
        let length = lift + self.patch.clearance();
        let counts = |tag: &Tag, normal: V| !self.is_passed(tag) && self.rules.walkable(normal);
        let hit = self.patch.support_where(start, length, counts).hit?;
        Some((hit, length * hit.time - lift))
    }

    /// The ground `ground` if the body is still on it, and not in it.
    #[must_use]
    pub fn still_on(&mut self, ground: &Stand<V>) -> Option<Stand<V>> {
        let (stand, _) = self.ground_below(2.0 * self.patch.clearance())?;
        let in_it = self.patch.overlap(self.at, |tag| tag.piece != stand.tag.piece).is_some();
        (ground.firm && stand.firm && stand.tag.piece == ground.tag.piece && !in_it).then_some(stand)
    }

    fn is_passed(&self, tag: &Tag) -> bool {
        self.passing == Some(tag.piece)
            || (tag.one_way && (self.passes_one_way || self.sinking.contains(&tag.piece)))
    }

    fn sweep(&mut self, at: V, motion: V) -> Option<Hit<V>> {
        self.sweep_over(at, motion, None)
    }

    /// A sweep along a plane with the normal `over`.
    fn sweep_over(&mut self, at: V, motion: V, over: Option<V>) -> Option<Hit<V>> {
        self.reach(at, motion);
        let swept = self.patch.sweep_past(at, motion, over, |tag| self.is_passed(tag));
        self.depth = self.depth.max(swept.depth);
        swept.hit
    }

    /// A sweep of a way along walls met before. It looks further ahead than it
    /// goes, so that a wall to which it comes by less than the slack is felt at
    /// once: in a wide corner one would slide to and fro between the two.
    fn sweep_beside(&mut self, way: V, over: Option<V>) -> Option<Hit<V>> {
        self.reach(self.at, way);
        let longer = 1.0 + room::SLACKS_AHEAD * self.patch.slack() / way.length();
        let swept = self.patch.sweep_past(self.at, way * longer, over, |tag| self.is_passed(tag));
        self.depth = self.depth.max(swept.depth);
        let hit = swept.hit?;
        let share = hit.time * longer;
        (share <= 1.0).then_some(Hit { time: share, ..hit })
    }

    /// The wall that a way presses against more softly than a sweep would feel:
    /// a push that begins anew in every tick, by less than the slack, stays a
    /// push against that wall.
    #[inline]
    fn still_against(&mut self, way: V) -> Option<Hit<V>> {
        let wall = self.wall?;
        let slack = self.patch.slack();
        let into = -way.dot(wall);
        if into <= rounding::ALONG_PLANE * way.length() || into > slack {
            return None;
        }
        let hit = self.sweep(self.at, way - wall * (2.0 * slack))?;
        (hit.normal.dot(wall) > walls::SAME_WALL).then_some(Hit { time: 0.0, ..hit })
    }

    /// Notes the wall from before if the body, at the end of its way, would still
    /// press against it toward `wish`.
    pub(crate) fn feel_wall(&mut self, wish: V) {
        let Some(wall) = self.wall else { return };
        if wish.dot(wall) < 0.0
            && !self.met(ContactKind::Wall)
            && let Some(hit) = self.still_against(wall * (-0.5 * self.patch.slack()))
        {
            self.note(&hit, V::ZERO);
        }
    }

    fn support(&mut self, at: V, drop: f32) -> Option<Hit<V>> {
        self.reach(at, V::UP * -drop);
        let swept = self.patch.support(at, drop, |tag| self.is_passed(tag));
        self.depth = self.depth.max(swept.depth);
        swept.hit
    }

    fn reach(&mut self, at: V, motion: V) {
        let to = at + motion;
        let looked_at = Bounds { min: at.min(to), max: at.max(to) };
        if !self.patch.covers(&looked_at) {
            self.gather_more(looked_at);
        }
    }

    #[cold]
    #[inline(never)]
    fn gather_more(&mut self, looked_at: Bounds<V>) {
        // With some room, so that it is seldom done.
        let room =
            V::splat(0.5 * (looked_at.max - looked_at.min).length() + room::MORE * self.patch.clearance());
        let reach = self.patch.reach().joined(looked_at.widened(room));
        (self.gather)(self.patch, reach);
    }

    /// Judges what a hull at `at` that touches `hit` stands on.
    ///
    /// A round hull over an edge touches it at a tilt; what it stands on is the
    /// face behind that edge, unless it hangs out so far that it would slip off
    /// and there is no ground within a step below. What is too steep to stand
    /// on holds it where it is [wedged](Self::wedge).
    fn stand_on(&mut self, hit: &Hit<V>, at: V) -> Stand<V> {
        let resting = self.rests_on(hit, at);
        let wedged = if resting { None } else { self.wedge(hit, at) };
        Stand {
            firm: resting || wedged.is_some(),
            normal: if resting { hit.face } else { wedged.unwrap_or(hit.normal) },
            point: hit.point,
            tag: hit.tag,
        }
    }

    /// Whether a hull at `at` that touches `hit` rests there by itself.
    fn rests_on(&mut self, hit: &Hit<V>, at: V) -> bool {
        self.rules.walkable(hit.face) && (self.rules.walkable(hit.normal) || self.is_on_a_step(hit, at))
    }

    /// Whether the edge touched at a tilt is the nose of a step: off it, there
    /// is walkable ground no further below than feet step or follow down.
    #[inline(never)]
    fn is_on_a_step(&mut self, hit: &Hit<V>, at: V) -> bool {
        let Some(off) = hit.normal.flat().direction() else { return false };
        // Rolled off far enough to pass the nose: what is left of the radius
        // beside the touched point.
        let radius = self.patch.radius();
        let away = radius * (1.0 - hit.normal.flat().length()) + 2.0 * self.patch.clearance();
        let share = self.sweep(at, off * away).map_or(1.0, |hit| hit.time);
        let beside = at + off * (away * share);
        let below = self.rules.step_height.max(self.rules.ground_snap) + self.patch.clearance();
        self.support(beside, below)
            .is_some_and(|ground| self.rules.walkable(ground.face) && self.rules.walkable(ground.normal))
    }

    fn note(&mut self, hit: &Hit<V>, velocity: V) {
        let kind = self.kind_of(hit.normal);
        if self.contacts.len() < self.contacts.inline_size() {
            self.contacts.push(Contact {
                normal: hit.normal,
                point: hit.point,
                kind,
                speed: (-velocity.dot(hit.normal)).max(0.0),
                tag: hit.tag,
            });
        }
    }

    fn kind_of(&self, normal: V) -> ContactKind {
        if self.landings == Landings::Plane {
            ContactKind::Wall
        } else if self.rules.walkable(normal) {
            ContactKind::Ground
        } else if normal.height() > walls::MAX_HEIGHT {
            ContactKind::Steep
        } else if normal.height() > walls::MIN_HEIGHT {
            ContactKind::Wall
        } else {
            ContactKind::Ceiling
        }
    }
}

/// The velocity nearest to `velocity` that leads into none of `planes`. If there is one plane only,
/// it may move: `recedes` is its own velocity along its normal, as seen from what `velocity` is
/// relative to; below 0 it recedes. A body pressed against a wall that recedes goes along with it, and
/// one on a conveyor walks on the spot. A wall that comes has pushed the body already.
pub(crate) fn resolve_beside<V: Vector>(velocity: V, planes: &[V], recedes: f32) -> V {
    match planes {
        &[plane] if recedes < 0.0 => velocity + plane * (recedes - velocity.dot(plane)).max(0.0),
        _ => resolve(velocity, planes),
    }
}

/// The displacement nearest to `way` that leads into none of `planes` (their
/// normals): its projection onto their cone. It is one answer whatever the
/// planes' order.
///
/// The nearest place of such a cone is on none of the planes, on one, in the
/// crease of two or at the apex, and of each kind it is the projection onto that.
/// All projections that the planes allow are in the cone, and the nearest of
/// these is the longest.
pub(crate) fn resolve<V: Vector>(way: V, planes: &[V]) -> V {
    let length_squared = way.length_squared();
    let slack = -rounding::OF_LENGTH * length_squared.sqrt();
    let allowed = |way: V| planes.iter().all(|plane| way.dot(*plane) >= slack);
    if allowed(way) {
        return way;
    }
    let mut best = V::ZERO;
    // What is left by rounding alone is nothing.
    let mut longest = rounding::OF_LENGTH * rounding::OF_LENGTH * length_squared;
    let mut offer = |slid: V| {
        let length_squared = slid.length_squared();
        if length_squared > longest && allowed(slid) {
            (best, longest) = (slid, length_squared);
        }
    };
    for (i, &plane) in planes.iter().enumerate() {
        if way.dot(plane) < 0.0 {
            offer(way.slid_along(plane));
        }
        for &other in &planes[i + 1..] {
            if let Some(crease) = plane.crease(other) {
                offer(crease * way.dot(crease));
            }
        }
    }
    best
}

/// A way along `planes`, turned away from them by so little that nobody sees it
/// and so much that rounding leads into none.
pub(crate) fn off<V: Vector>(way: V, planes: &[V]) -> V {
    let apart = rounding::OF_LENGTH * way.length();
    planes.iter().fold(way, |way, &plane| way + plane * (apart - way.dot(plane)).max(0.0))
}

/// `way`, taken as seen from above, laid on a plane with `normal` (walkable).
pub(crate) fn laid_on<V: Vector>(way: V, normal: V) -> V {
    let flat = way.flat();
    flat - V::UP * (normal.dot(flat) / normal.height())
}

/// `way` laid on a plane in the same direction seen from above, as long as it
/// was.
pub(crate) fn turned_onto<V: Vector>(way: V, normal: V) -> V {
    if normal == V::UP && way.height() == 0.0 {
        return way;
    }
    let laid = laid_on(way, normal);
    let length_squared = laid.length_squared();
    if length_squared > TINY * TINY { laid * (way.length_squared() / length_squared).sqrt() } else { V::ZERO }
}
