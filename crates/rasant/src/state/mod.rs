//! What a body is doing: plain data, copied to be kept.
//!
//! What excludes each other is one enum, what may be absent is an option: a body has
//! [`State::air`] or stands, holds one ladder or none, is in one maneuver or none.

mod air;
mod animation;
mod checksum;
mod event;
mod maneuver;
mod memories;
mod pending;
mod posture;
mod span;
mod touching;

#[cfg(feature = "serde")]
use alloc::format;
#[cfg(feature = "serde")]
use alloc::vec::Vec;

pub use crate::name::{Name, NameError};
pub use air::{Air, Rise};
pub use animation::Animation;
pub(crate) use event::emit;
pub use event::{Departure, EVENTS, Event, Events, EventsIter, Refusal};
pub use maneuver::{Locks, Maneuver, Phase, Plan};
pub(crate) use memories::Tag;
pub use memories::{Memories, Tags};
pub use pending::{CarryOver, Changes, Crushed, Pending};
pub use posture::Posture;
pub use span::Span;
pub(crate) use touching::Niche;
pub use touching::{Touching, WallKick, WallTouch};

use crate::name::named;

use crate::contact::Hull;
use crate::level::{CarrierId, PieceId, SurfaceId, ZoneId};
use crate::space::{Frame, Vector};

/// Times within this of each other, in seconds, are the same: ticks add up with
/// rounding.
pub const TIME_TOLERANCE: f32 = 1e-5;

/// The mode of a body that slides down a wall: a move of the list, which the tick knows because a
/// slide may begin in the middle of one.
pub(crate) const WALL_SLIDE: Name = Name::new("wall-slide");

/// All that a tick knows of a body and leaves behind.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Hull, Intent, Mode, State, Tuning, tick};
///
/// # let mut builder = rasant::Level::builder();
/// # builder.add(rasant::Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// let (tuning, hull) = (Tuning::default(), Hull::capsule(0.35, 1.8)?);
/// let mut state = State::at(Vec2::new(0.0, 0.1));
/// for _ in 0..30 {
///     tick(&tuning, &hull, &mut state, &Intent::default(), &level, 1.0 / 60.0);
/// }
/// assert_eq!(state.mode, Mode::Grounded);
/// let again = state; // plain data
/// assert_eq!(again.checksum(), state.checksum());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct State<V> {
    /// The middle of the underside, in world coordinates.
    pub position: V,
    /// What rounding took from the position: the body is at `position` +
    /// `remainder`.
    pub remainder: V,
    /// In m/s. On firm footing it lies along the ground and is relative to it; how a
    /// surface or wind makes a standing body drift is not in it.
    pub velocity: V,
    /// The velocity of the ground under the feet, in m/s: that of its carrier.
    /// Zero airborne; what leaves the ground takes it along.
    pub ground_velocity: V,
    /// Where the body's up points, of length 1.
    pub up: V,
    /// Where the player's right points, of length 1, perpendicular to `up`.
    /// It is carried along when `up` changes.
    pub right: V,
    /// Where the body faces, of length 1.
    pub facing: V,
    /// Who is in charge of the body.
    pub mode: Mode,
    /// Who drove the velocity in the last tick.
    pub velocity_owner: Owner,
    /// Who drove the facing in the last tick.
    pub facing_owner: Owner,
    /// What the feet stand on.
    pub footing: Footing<V>,
    /// What it is in the air by; nothing while it stands.
    pub air: Option<Air>,
    /// The walls and ceilings that it touches.
    pub touching: Touching<V>,
    /// How high its hull is.
    pub posture: Posture,
    /// Whether it crouches.
    pub crouched: bool,
    /// The ladder it holds.
    pub ladder: Option<ZoneId>,
    /// What the move that had the last tick holds on to and is taken along by.
    pub rides: Option<CarrierId>,
    /// The maneuver that owns the body. Its name is the mode.
    pub maneuver: Option<Maneuver<V>>,
    /// How long the next maneuver has to wait.
    pub cooldown: Span,
    /// What each move of the list remembers: see [`State::memory`].
    pub memories: Memories,
    /// Whether it is seen from above, and has no ground.
    pub from_above: bool,
    /// The zones it is in.
    pub zones: Zones,
    /// Its up outside zones of another gravity.
    pub home_up: V,
    /// Where a hazard puts it back to.
    pub checkpoint: V,
    /// What is only drawn of it.
    pub animation: Animation,
    /// What the host did to it since the last tick.
    pub pending: Pending<V>,
    /// What the last tick left for the next to go on with.
    pub carry_over: CarryOver,
}

/// The zones a body is in, at most [`Zones::MAX`]. Of more than that, zones that only tell (goals
/// and the host's own) are left out first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
pub struct Zones {
    ids: [ZoneId; Self::MAX],
    count: u8,
}

impl Zones {
    /// How many zones a body can be in at once.
    pub const MAX: usize = 10;

    /// Adds a zone. Where there is no room, one that `acts` takes the place of the last that does
    /// not, by `others_act`.
    pub(crate) fn add(
        &mut self,
        zone: ZoneId,
        acts: impl FnOnce() -> bool,
        others_act: impl Fn(ZoneId) -> bool,
    ) {
        if let Some(place) = self.ids.get_mut(usize::from(self.count)) {
            *place = zone;
            self.count += 1;
        } else if acts()
            && let Some(place) = self.ids.iter_mut().rev().find(|other| !others_act(**other))
        {
            *place = zone;
        }
    }

    /// The zones.
    #[must_use]
    pub fn ids(&self) -> &[ZoneId] {
        &self.ids[..usize::from(self.count)]
    }

    /// Returns true if `zone` is among them.
    #[must_use]
    pub fn contains(&self, zone: ZoneId) -> bool {
        self.ids().contains(&zone)
    }
}

/// As a list of their numbers.
#[cfg(feature = "serde")]
impl serde::Serialize for Zones {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.ids())
    }
}

#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Zones {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let read = Vec::<ZoneId>::deserialize(deserializer)?;
        if read.len() > Self::MAX {
            let expected = format!("at most {} zones", Self::MAX);
            return Err(serde::de::Error::invalid_length(read.len(), &&*expected));
        }
        let mut zones = Self::default();
        read.into_iter().for_each(|zone| zones.add(zone, || false, |_| true));
        Ok(zones)
    }
}

/// Who is in charge of the body.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Mode {
    /// On firm footing.
    Grounded,
    /// In the air, or sliding on ground that is too steep.
    Airborne,
    /// In the air or on the ground, in a move or a maneuver of that name.
    Move(Name),
}

/// Which part of the controller drove something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Owner {
    /// Nothing: it stayed as it was.
    Nobody,
    /// Steering on foot.
    Walk,
    /// Steering and gravity airborne.
    Air,
    /// A jump's take-off.
    Jump,
    /// What the body rides on.
    Carrier,
    /// A slide down a wall.
    Wall,
    /// Climbing a ladder.
    Ladder,
    /// A maneuver.
    Maneuver,
    /// Where the player looks.
    Look,
    /// Another move of the list: see [`State::mode`].
    Move,
}

/// Whether the feet stand, and can walk.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum FootingKind {
    /// On nothing.
    None,
    /// On walkable ground.
    Firm,
    /// Touching ground that is too steep.
    Steep,
}

/// What the feet stand on.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Footing<V> {
    /// Whether the feet stand, and can walk.
    pub kind: FootingKind,
    /// The ground's normal, of length 1; the body's up when on nothing.
    pub normal: V,
    /// Where the hull touches the ground, from the body's position.
    pub point: V,
    /// What the ground is made of.
    pub surface: SurfaceId,
    /// What the ground rides on.
    pub carrier: Option<CarrierId>,
    /// Which piece the ground is.
    pub piece: PieceId,
    /// Whether it is solid from above only.
    pub one_way: bool,
}

impl<V: Vector> Footing<V> {
    /// No footing.
    #[must_use]
    pub fn none(up: V) -> Self {
        Self {
            kind: FootingKind::None,
            normal: up,
            point: V::ZERO,
            surface: SurfaceId::default(),
            carrier: None,
            piece: PieceId::default(),
            one_way: false,
        }
    }

    /// The ground's angle in radians, 0 for level ground.
    #[must_use]
    pub fn angle(&self, up: V) -> f32 {
        libm::acosf(self.normal.dot(up).clamp(-1.0, 1.0))
    }

    /// Whether the feet are on walkable ground.
    #[must_use]
    pub fn is_firm(&self) -> bool {
        self.kind == FootingKind::Firm
    }
}

/// What an animation should show.
///
/// ```
/// use rasant::Gait;
///
/// fn clip(gait: Gait) -> &'static str {
///     match gait {
///         Gait::Idle => "stand.anim",
///         Gait::Walk | Gait::Run => "stride.anim",
///         Gait::Rise | Gait::Fall => "air.anim",
///         _ => "stand.anim", // there may be more
///     }
/// }
/// assert_eq!(clip(Gait::Run), "stride.anim");
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Gait {
    /// Standing.
    Idle,
    /// Walking.
    Walk,
    /// Running: faster than walking goes.
    Run,
    /// Walking or running sideways to where it faces: of a body that faces where it looks, or never
    /// turns.
    Strafe,
    /// Walking or running backwards.
    Back,
    /// Crouching, standing or walking.
    Crouch,
    /// On the way up.
    Rise,
    /// On the way down.
    Fall,
    /// Sliding down a slope too steep to stand on.
    Slide,
    /// In a move or a maneuver: its name, or another word of it.
    Move(Name),
}

named!(Mode {
    Grounded => "grounded",
    Airborne => "airborne",
    ..Move,
});

named!(Gait {
    Idle => "idle",
    Walk => "walk",
    Run => "run",
    Strafe => "strafe",
    Back => "back",
    Crouch => "crouch",
    Rise => "rise",
    Fall => "fall",
    Slide => "slide",
    ..Move,
});

named!(FootingKind {
    None => "none",
    Firm => "firm",
    Steep => "steep",
});

named!(Owner {
    Nobody => "nobody",
    Walk => "walk",
    Air => "air",
    Jump => "jump",
    Carrier => "carrier",
    Wall => "wall",
    Ladder => "ladder",
    Maneuver => "maneuver",
    Look => "look",
    Move => "move",
});

impl<V: Vector> State<V> {
    /// Metres from the origin, along each axis, beyond which a position counts as broken: far
    /// beyond where single precision still tells two places of a level apart.
    pub const MAX_COORDINATE: f32 = 1e30;

    /// Whether it is somewhere, at some velocity and upright some way.
    pub(crate) fn has_a_place(&self) -> bool {
        /// How far the squares of directions' lengths may be off 1.
        const OFF: f32 = 0.01;
        // Two directions of length 1, at right angles.
        let off = (self.up.length_squared() - 1.0).abs().max((self.right.length_squared() - 1.0).abs());
        (off + self.up.dot(self.right).abs() < OFF) & (self.position + self.velocity).is_finite()
    }

    /// Returns true if no field is NaN or infinite. Memories of moves are words, and not looked
    /// into.
    #[must_use]
    pub fn is_finite(&self) -> bool {
        const PART: f32 = 1.0 / 32.0;
        // A sum is finite only if all of its parts are, and does not branch; times
        // that count without end stop at the greatest number, so parts of them are added.
        let mut vectors = self.position + self.remainder + self.velocity + self.ground_velocity;
        vectors += self.up + self.right + self.facing + self.footing.normal + self.footing.point;
        vectors += self.checkpoint + self.home_up;
        let Animation { stride, spin, step_offset, rolled, .. } = self.animation;
        let Posture { lowered, asked_height, .. } = self.posture;
        let CarryOver { step_lead, uncounted, .. } = self.carry_over;
        let numbers = [stride, spin, step_offset, rolled, lowered, asked_height, step_lead, uncounted];
        let mut times = numbers.iter().fold(0.0, |sum, number| sum + PART * number);
        vectors += self.pending.displacement;
        if let Some(wall) = &self.touching.beside {
            vectors += wall.normal;
            times += PART * wall.away_for;
        }
        if let Some(kick) = &self.touching.kick {
            vectors += kick.normal;
            times += PART * kick.back_for;
        }
        let maneuver = self.maneuver.as_ref().map_or(0.0, |maneuver| {
            maneuver.age * 0.5 + maneuver.plan.speed_at(maneuver.age) * 0.5 + maneuver.direction.dot(V::UP)
        });
        vectors.is_finite() && (times + maneuver).is_finite()
    }

    /// The state with broken numbers replaced: the body stands still where it is, with nothing
    /// under way. A position with NaN, or further out than [`Self::MAX_COORDINATE`], is replaced
    /// by the checkpoint, or by the origin.
    #[must_use]
    #[cold]
    pub fn mended(&self) -> Self {
        let is_place = |place: &V| place.to_array().iter().all(|part| part.abs() <= Self::MAX_COORDINATE);
        let place = [self.position, self.checkpoint].into_iter().find(is_place);
        let sound = |direction: V| direction.is_finite() && (direction.length() - 1.0).abs() < 0.1;
        let fresh = Self::at(place.unwrap_or(V::ZERO));
        let fresh = if sound(self.up) { fresh.turned_up(self.up) } else { fresh };
        Self {
            velocity: if self.velocity.is_finite() { self.velocity } else { V::ZERO },
            facing: if sound(self.facing) { self.facing } else { fresh.facing },
            ..fresh
        }
    }

    /// A body airborne at `position`, at rest, with the world's up and right.
    #[must_use]
    pub fn at(position: V) -> Self {
        Self {
            position,
            remainder: V::ZERO,
            velocity: V::ZERO,
            ground_velocity: V::ZERO,
            up: V::UP,
            right: V::RIGHT,
            facing: if V::DIMENSION == 2 { V::RIGHT } else { V::FORWARD },
            mode: Mode::Airborne,
            velocity_owner: Owner::Nobody,
            facing_owner: Owner::Nobody,
            footing: Footing::none(V::UP),
            air: Some(Air::left(Departure::Placed)),
            touching: Touching::NOTHING,
            posture: Posture::default(),
            crouched: false,
            ladder: None,
            rides: None,
            maneuver: None,
            cooldown: Span::ZERO,
            memories: Memories::default(),
            from_above: false,
            zones: Zones::default(),
            home_up: V::UP,
            checkpoint: position,
            animation: Animation::FALLING,
            pending: Pending::none(),
            carry_over: CarryOver::default(),
        }
    }

    /// The same state with `up` pointing elsewhere; right follows by the
    /// shortest way. A vector too short to have a direction changes nothing.
    #[must_use]
    pub fn with_up(self, up: V) -> Self {
        let turned = self.turned_up(up);
        Self { home_up: turned.up, ..turned }
    }

    /// The state with another up, and its up outside zones as it was.
    pub(crate) fn turned_up(mut self, up: V) -> Self {
        if let Some(up) = up.direction() {
            self.let_go();
            self.up = up;
            self.right = V::right_for(up, self.right);
            let facing = self.facing.slid_along(up).direction();
            self.facing = facing.unwrap_or(self.right);
            self.footing = Footing::none(up);
            self.touching.beside = None;
            self.touching.kick = None;
        }
        self
    }

    /// Its feet leave the ground, its hands what they hold; the next tick tells it.
    fn let_go(&mut self) {
        let moved = self.moved();
        if self.footing.is_firm() || self.ladder.is_some() || moved.is_some() {
            if self.footing.is_firm() {
                self.pending.changes |= Changes::THROWN;
            }
            self.pending.ladder = self.pending.ladder.or(self.ladder);
            self.pending.end_move(moved);
        }
        self.air = match self.air {
            Some(Air { by: Departure::Placed, .. }) => self.air,
            Some(Air { time, .. }) => Some(Air { time, ..Air::left(Departure::Launch) }),
            None => Some(Air::left(Departure::Launch)),
        };
        self.footing = Footing::none(self.up);
        if self.maneuver.is_none() {
            self.mode = Mode::Airborne;
        }
        self.ladder = None;
        self.rides = None;
    }

    /// Whether something that moves has crushed it and is still in it.
    pub(crate) fn is_held(&self) -> bool {
        self.carry_over.crushed == Some(Crushed::Held)
    }

    /// The move in charge whose beginning and end are emitted as `move-began` and `move-ended`.
    /// Maneuvers, ladders and wall slides have events of their own.
    pub(crate) fn moved(&self) -> Option<Name> {
        match self.mode {
            Mode::Move(name) if self.maneuver.is_none() && self.ladder.is_none() && name != WALL_SLIDE => {
                Some(name)
            }
            _ => None,
        }
    }

    /// Throws the body off its feet: see [`Controller::launch`](crate::Controller::launch).
    pub fn launch(&mut self, velocity: V) {
        self.break_off();
        self.let_go();
        self.velocity = velocity;
        self.ground_velocity = V::ZERO;
    }

    /// Throws the body back: see
    /// [`Controller::knock_back`](crate::Controller::knock_back).
    pub fn knock_back(&mut self, velocity: V, time: f32) {
        if velocity.dot(self.up) > 0.0 || !self.footing.is_firm() {
            self.launch(velocity);
        } else {
            self.velocity = velocity.slid_along(self.footing.normal);
        }
        self.put_into(
            Maneuver::<V>::KNOCKBACK,
            Maneuver::knocked_back(time.max(0.0), self.facing, self.position),
        );
    }

    /// Breaks off the maneuver that is under way: see
    /// [`Controller::break_off`](crate::Controller::break_off).
    pub fn break_off(&mut self) {
        let Some(maneuver) = self.maneuver.take() else { return };
        self.cooldown = Span::of(maneuver.plan.cooldown);
        // One that was begun since the last tick has not been told of.
        self.pending.end_maneuver(self.mode.name());
        self.mode = if self.footing.is_firm() { Mode::Grounded } else { Mode::Airborne };
    }

    fn put_into(&mut self, name: Name, maneuver: Maneuver<V>) {
        self.break_off();
        if maneuver.phase() == Phase::Cooldown {
            // It takes no time at all.
            return;
        }
        let moved = self.moved();
        self.maneuver = Some(maneuver);
        self.pending.end_move(moved);
        self.pending.changes |= Changes::BEGUN;
        self.mode = Mode::Move(name);
    }

    /// Begins one of the host's own maneuvers: see
    /// [`Controller::begin`](crate::Controller::begin).
    pub fn begin(&mut self, name: Name, plan: Plan, direction: V) {
        let direction = direction.direction().unwrap_or(self.facing);
        self.put_into(name, Maneuver { plan: plan.sound(), direction, origin: self.position, age: 0.0 });
    }

    /// The hull as it is now, given the body's own: lower in a crouch or roll.
    #[must_use]
    pub fn hull(&self, own: &Hull) -> Hull {
        let lowered = self.posture.lowered;
        if lowered > 0.0 { own.at_height(own.height() - lowered) } else { *own }
    }

    /// A number that two states share only if they are the same to the bit, but
    /// for a chance of 1 in 2⁶⁴: for finding where two runs part.
    ///
    /// It is the same on every platform, in every build, and takes some hundred
    /// nanoseconds; another version of this crate may sum otherwise.
    #[must_use]
    pub fn checksum(&self) -> u64 {
        checksum::checksum(self)
    }

    /// The body's own frame.
    #[must_use]
    pub fn frame(&self) -> Frame<V> {
        Frame::new(self.position, self.remainder, self.right, self.up)
    }

    /// The speed along the ground or, airborne, across `up`, in m/s; of a body that is seen
    /// from above, that over the plane.
    #[must_use]
    pub fn ground_speed(&self) -> f32 {
        if self.from_above {
            return self.velocity.length();
        }
        self.velocity.slid_along(self.footing.normal).length()
    }
}
