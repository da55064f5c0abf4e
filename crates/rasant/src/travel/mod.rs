//! Moving a hull through a patch: slide, step, snap to the ground, resolve overlaps.
//!
//! A [`Mover`] starts a tick at the origin of the patch; [`walk`](Mover::walk) and
//! [`fly`](Mover::fly) move it. It never touches anything: every stop is at the clearance. Its
//! contacts are what stopped it.

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

/// The maximum number of motions that one leg is split into. Three walls make a corner; the rest is
/// for steps and slopes.
const BUMPS: usize = 8;

/// The parts of a tuning that travel needs.
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
    /// Returns true if a plane with this normal, in the body's frame, can be walked on.
    #[must_use]
    pub fn walkable<V: Vector>(&self, normal: V) -> bool {
        normal.height() >= self.cos_steepest - rounding::OF_COSINE
    }
}

/// What a contact is to the body.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ContactKind {
    /// Walkable ground.
    Ground,
    /// A slope that is too steep to walk on.
    Steep,
    /// Upright, or leaning over by less than 60 degrees.
    Wall,
    /// An underside.
    Ceiling,
}

/// A contact on the path, in the body's frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Contact<V> {
    /// From the piece to the body, of length 1.
    pub normal: V,
    /// The touched point of the piece.
    pub point: V,
    /// What it is to the body.
    pub kind: ContactKind,
    /// The speed of the body into the piece, along the normal.
    pub speed: f32,
    /// The piece.
    pub tag: Tag,
}

/// The contacts on the path, in order.
pub type Contacts<V> = SmallVec<[Contact<V>; 6]>;

/// What a body in the air can land on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Landings {
    /// Walkable ground.
    Ground,
    /// Nothing: it slides along whatever it touches.
    None,
    /// Nothing, because it is seen from above: everything that it touches is a wall.
    Plane,
}

/// What feet stand on, in the body's frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stand<V> {
    /// True if it is walkable.
    pub firm: bool,
    /// The normal of the face the feet rest on.
    pub normal: V,
    /// The point where the hull touches it.
    pub point: V,
    /// The piece.
    pub tag: Tag,
}

/// Returns the displacement in this tick, in the body's frame, of the point of a carrier that is at
/// a position after the tick.
pub type MovedTo<'a, V> = dyn Fn(CarrierId, V) -> V + 'a;

/// The carriers that move in a tick, each with its displacement at the body, and the duration of
/// the tick.
#[derive(Clone, Copy)]
struct Among<'a, V> {
    carriers: &'a [(V, CarrierId)],
    dt: f32,
    moved_to: &'a MovedTo<'a, V>,
}

/// Fills a patch with everything within some bounds of displacement.
pub type Gather<'a, V> = dyn Fn(&mut Patch<V>, Bounds<V>) + 'a;

/// A hull that moves through a patch.
pub struct Mover<'a, V: Geometry> {
    patch: &'a mut Patch<V>,
    /// Gathers everything within some bounds of displacement.
    gather: &'a Gather<'a, V>,
    rules: Rules,
    /// A one-way piece that the body falls through.
    passing: Option<PieceId>,
    /// True if the body falls through every one-way piece.
    passes_one_way: bool,
    /// One-way pieces that carriers take down past the body.
    sinking: SmallVec<[PieceId; 2]>,
    /// How far the body is helped past corners.
    nudges: Nudges,
    /// The normal of a wall that it was pressed against before.
    wall: Option<V>,
    /// What it can land on.
    landings: Landings,
    /// Nearby carriers that it does not ride on.
    among: Among<'a, V>,
    /// The velocity of the ground that it walks on. Its own velocity is relative to that.
    pub(crate) ground_velocity: V,
    /// The carrier that it rides on, with the displacement that it gets from it.
    rides: Option<(V, CarrierId)>,
    /// True if something that crushed it still held it when the tick began.
    held: bool,
    /// The largest [`Swept::depth`](crate::contact::Swept::depth) of any sweep.
    pub depth: f32,
    /// How far steps have put the body ahead of its path, in metres.
    pub ahead: f32,
    /// True if a wall holds it.
    pub slides: bool,
    /// The displacement of the body so far.
    pub at: V,
    /// The velocity at the end of the path so far.
    pub velocity: V,
    /// The contacts, in order.
    pub contacts: Contacts<V>,
}

impl<'a, V: Geometry> Mover<'a, V> {
    /// A mover at the patch's origin. Where it needs more than the patch covers, more is gathered.
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

    /// The mover, passing the one-way piece `piece`, or all of them.
    #[must_use]
    pub fn passing(mut self, piece: Option<PieceId>, all: bool) -> Self {
        self.passing = piece;
        self.passes_one_way = all;
        self
    }

    /// The mover, helped past corners in the air.
    #[must_use]
    pub fn nudged(mut self, nudges: Nudges) -> Self {
        self.nudges = nudges;
        self
    }

    /// The mover in a tick of `dt` seconds in which these carriers, on which it does not ride, move
    /// by these displacements at the body, and by `moved_to` elsewhere.
    #[must_use]
    pub fn among(mut self, carriers: &'a [(V, CarrierId)], dt: f32, moved_to: &'a MovedTo<'a, V>) -> Self {
        self.among = Among { carriers, dt, moved_to };
        self
    }

    /// The mover, with whether something that crushed it held it before.
    #[must_use]
    pub fn held(mut self, held: bool) -> Self {
        self.held = held;
        self
    }

    /// The mover, pressed against a wall with this normal before: a push against it continues,
    /// however soft.
    #[must_use]
    pub fn against(mut self, wall: Option<V>) -> Self {
        self.wall = wall;
        self
    }

    /// Returns true if there is a contact of this kind.
    #[must_use]
    pub fn met(&self, kind: ContactKind) -> bool {
        self.contacts.iter().any(|contact| contact.kind == kind)
    }

    /// What the feet are on, if something is within `drop` below: the stand, and how far the body
    /// is lowered (negative: raised) to keep the clearance above it.
    #[must_use]
    pub fn ground_below(&mut self, drop: f32) -> Option<(Stand<V>, f32)> {
        let (hit, lowered) = self.look_down(drop)?;
        Some((self.stand_on(&hit, self.at - V::UP * lowered), lowered))
    }

    /// What is within `drop` below, and how far the body is lowered to it.
    fn look_down(&mut self, drop: f32) -> Option<(Hit<V>, f32)> {
        // The sweep starts a little higher up, so that it detects a gap that is too small as well
        // as one that is too large.
        let lift = 2.0 * self.patch.slack();
        let start = self.at + V::UP * lift;
        // The ground is usually near, and a short sweep is faster.
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
    /// a step are on the ground in front of it and not on the edge of the step; otherwise they
    /// would climb steps of any height, by tiny amounts in every tick.
    #[inline(never)]
    fn walkable_beneath(&mut self, start: V, lift: f32) -> Option<(Hit<V>, f32)> {
        let length = lift + self.patch.clearance();
        let counts = |tag: &Tag, normal: V| !self.is_passed(tag) && self.rules.walkable(normal);
        let hit = self.patch.support_where(start, length, counts).hit?;
        Some((hit, length * hit.time - lift))
    }

    /// The ground `ground`, if the body is still on it and does not overlap it.
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

    /// A sweep of a displacement along walls that were touched before. It looks further ahead than
    /// it goes, so that a wall that is approached by less than the slack is felt at once. Otherwise
    /// a body in a wide corner would slide to and fro between the two walls.
    fn sweep_beside(&mut self, displacement: V, over: Option<V>) -> Option<Hit<V>> {
        self.reach(self.at, displacement);
        let longer = 1.0 + room::SLACKS_AHEAD * self.patch.slack() / displacement.length();
        let swept = self.patch.sweep_past(self.at, displacement * longer, over, |tag| self.is_passed(tag));
        self.depth = self.depth.max(swept.depth);
        let hit = swept.hit?;
        let fraction = hit.time * longer;
        (fraction <= 1.0).then_some(Hit { time: fraction, ..hit })
    }

    /// The wall that a displacement presses against more softly than a sweep would feel: a push
    /// that starts again in every tick, by less than the slack, remains a push against that wall.
    #[inline]
    fn still_against(&mut self, displacement: V) -> Option<Hit<V>> {
        let wall = self.wall?;
        let slack = self.patch.slack();
        let into = -displacement.dot(wall);
        if into <= rounding::ALONG_PLANE * displacement.length() || into > slack {
            return None;
        }
        let hit = self.sweep(self.at, displacement - wall * (2.0 * slack))?;
        (hit.normal.dot(wall) > walls::SAME_WALL).then_some(Hit { time: 0.0, ..hit })
    }

    /// Records the wall from before as a contact, if the body at the end of its path would still
    /// press against it toward `steer`.
    pub(crate) fn feel_wall(&mut self, steer: V) {
        let Some(wall) = self.wall else { return };
        if steer.dot(wall) < 0.0
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
        // With a margin, so that it is rarely done.
        let room =
            V::splat(0.5 * (looked_at.max - looked_at.min).length() + room::MORE * self.patch.clearance());
        let reach = self.patch.reach().joined(looked_at.widened(room));
        (self.gather)(self.patch, reach);
    }

    /// Determines what a hull at `at` that touches `hit` stands on.
    ///
    /// A round hull over an edge touches it at a tilt. It stands on the face behind that edge,
    /// unless it hangs out so far that it would slip off and there is no ground within a step
    /// below. Slopes that are too steep to stand on hold it where it is [wedged](Self::wedge).
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

    /// Returns true if a hull at `at` that touches `hit` rests there by itself.
    fn rests_on(&mut self, hit: &Hit<V>, at: V) -> bool {
        self.rules.walkable(hit.face) && (self.rules.walkable(hit.normal) || self.is_on_a_step(hit, at))
    }

    /// Returns true if the edge that is touched at a tilt is the nose of a step: off it, there is
    /// walkable ground no further below than feet step up or follow down.
    #[inline(never)]
    fn is_on_a_step(&mut self, hit: &Hit<V>, at: V) -> bool {
        let Some(off) = hit.normal.flat().direction() else { return false };
        // Moved off far enough to pass the nose: the rest of the radius beside the touched point.
        let radius = self.patch.radius();
        let away = radius * (1.0 - hit.normal.flat().length()) + 2.0 * self.patch.clearance();
        let fraction = self.sweep(at, off * away).map_or(1.0, |hit| hit.time);
        let beside = at + off * (away * fraction);
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

/// The velocity nearest to `velocity` that leads into none of `planes`. If there is only one plane,
/// it may move: `recedes` is its own velocity along its normal, relative to the same frame as
/// `velocity`; below 0 it recedes. A body pressed against a receding wall follows it, and one on a
/// conveyor walks on the spot. A wall that approaches has pushed the body already.
pub(crate) fn resolve_beside<V: Vector>(velocity: V, planes: &[V], recedes: f32) -> V {
    match planes {
        &[plane] if recedes < 0.0 => velocity + plane * (recedes - velocity.dot(plane)).max(0.0),
        _ => resolve(velocity, planes),
    }
}

/// The displacement nearest to `displacement` that leads into none of `planes` (given by their
/// normals): its projection onto their cone. The result does not depend on the order of the planes.
///
/// The nearest point of such a cone is on none of the planes, on one, in the crease of two or at
/// the apex, and in each case it is the projection onto that. All projections that the planes allow
/// are in the cone, and the nearest of these is the longest.
pub(crate) fn resolve<V: Vector>(displacement: V, planes: &[V]) -> V {
    let length_squared = displacement.length_squared();
    let slack = -rounding::OF_LENGTH * length_squared.sqrt();
    let allowed = |displacement: V| planes.iter().all(|plane| displacement.dot(*plane) >= slack);
    if allowed(displacement) {
        return displacement;
    }
    let mut best = V::ZERO;
    // A shorter rest is due to rounding and counts as zero.
    let mut longest = rounding::OF_LENGTH * rounding::OF_LENGTH * length_squared;
    let mut offer = |slid: V| {
        let length_squared = slid.length_squared();
        if length_squared > longest && allowed(slid) {
            (best, longest) = (slid, length_squared);
        }
    };
    for (i, &plane) in planes.iter().enumerate() {
        if displacement.dot(plane) < 0.0 {
            offer(displacement.slid_along(plane));
        }
        for &other in &planes[i + 1..] {
            if let Some(crease) = plane.crease(other) {
                offer(crease * displacement.dot(crease));
            }
        }
    }
    best
}

/// A displacement along `planes`, turned away from them by so little that it is invisible and so
/// much that rounding leads into none of them.
pub(crate) fn off<V: Vector>(displacement: V, planes: &[V]) -> V {
    let apart = rounding::OF_LENGTH * displacement.length();
    planes.iter().fold(displacement, |displacement, &plane| {
        displacement + plane * (apart - displacement.dot(plane)).max(0.0)
    })
}

/// `displacement`, as seen from above, projected vertically onto a walkable plane with `normal`.
pub(crate) fn laid_on<V: Vector>(displacement: V, normal: V) -> V {
    let flat = displacement.flat();
    flat - V::UP * (normal.dot(flat) / normal.height())
}

/// `displacement` turned onto a plane: in the same direction seen from above, and with the same
/// length.
pub(crate) fn turned_onto<V: Vector>(displacement: V, normal: V) -> V {
    if normal == V::UP && displacement.height() == 0.0 {
        return displacement;
    }
    let laid = laid_on(displacement, normal);
    let length_squared = laid.length_squared();
    if length_squared > TINY * TINY {
        laid * (displacement.length_squared() / length_squared).sqrt()
    } else {
        V::ZERO
    }
}
