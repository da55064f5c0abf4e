//! The state of a body: plain data. A snapshot is a copy.
//!
//! What excludes each other is one enum, and what may be absent is an option: a body is in the air
//! ([`State::air`]) or stands, it holds a ladder or none, it is in a maneuver or none.

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
pub(crate) use maneuver::Phases;
pub use maneuver::{Maneuver, Mutes, Phase, Plan};
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

/// Times that differ by less, in seconds, are the same: rounding errors of ticks add up.
pub const TIME_TOLERANCE: f32 = 1e-5;

/// The mode of a body that slides down a wall. It is a move of the list, which the tick must know
/// because a slide may begin in the middle of a tick.
pub(crate) const WALL_SLIDE: Name = Name::new("wall-slide");

/// Everything that a tick knows of a body and stores for the next tick.
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
    /// What rounding removed from the position: the body is at `position` + `remainder`.
    pub remainder: V,
    /// In m/s. On firm footing it is along the ground and relative to it. It does not include the
    /// drift of a standing body by a surface or wind.
    pub velocity: V,
    /// The velocity of the ground under the feet, in m/s: that of its carrier. Zero in the air; a
    /// body that leaves the ground keeps that velocity.
    pub ground_velocity: V,
    /// The direction of the body's up, of length 1.
    pub up: V,
    /// The direction of the player's right, of length 1, perpendicular to `up`. It rotates with
    /// `up`.
    pub right: V,
    /// The facing, of length 1.
    pub facing: V,
    /// The mode: what is in charge of the body.
    pub mode: Mode,
    /// What drove the velocity in the last tick.
    pub velocity_owner: Owner,
    /// What drove the facing in the last tick.
    pub facing_owner: Owner,
    /// What the feet stand on.
    pub footing: Footing<V>,
    /// The state in the air; `None` while it stands.
    pub air: Option<Air>,
    /// The walls and ceilings that it touches.
    pub touching: Touching<V>,
    /// The height of its hull.
    pub posture: Posture,
    /// True if it crouches.
    pub crouched: bool,
    /// The ladder it holds.
    pub ladder: Option<ZoneId>,
    /// The carrier that the move in charge holds on to.
    pub rides: Option<CarrierId>,
    /// The running maneuver. Its name is the mode.
    pub maneuver: Option<Maneuver<V>>,
    /// The time until the next maneuver can begin.
    pub cooldown: Span,
    /// The memory of each move of the list: see [`State::memory`].
    pub memories: Memories,
    /// True if it is seen from above, and has no ground.
    pub from_above: bool,
    /// The zones it is in.
    pub zones: Zones,
    /// Its up outside of zones with another gravity.
    pub home_up: V,
    /// Where a hazard returns it to.
    pub checkpoint: V,
    /// What is only drawn of it.
    pub animation: Animation,
    /// What the host did to it since the last tick.
    pub pending: Pending<V>,
    /// What the last tick stored for the next.
    pub carry_over: CarryOver,
}

/// The zones a body is in, at most [`Zones::MAX`]. If it is in more, zones that only cause events
/// (goals and the host's own) are dropped first.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Effect, Hull, Intent, Level, Tuning, Zone};
///
/// let mut builder = Level::builder();
/// let pond = builder.add_zone(Zone::new(Vec2::splat(-9.0), Vec2::splat(9.0), Effect::Water));
/// let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
/// body.tick(&Intent::default(), &level, 1.0 / 60.0);
/// assert!(body.state().zones.contains(pond));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, PartialEq, Hash)]
pub struct Zones {
    /// The zones, then [`Self::NONE`] in unused places.
    ids: [ZoneId; Self::MAX],
}

impl Default for Zones {
    fn default() -> Self {
        Self { ids: [Self::NONE; Self::MAX] }
    }
}

impl core::fmt::Debug for Zones {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_list().entries(self.ids()).finish()
    }
}

impl Zones {
    /// The maximum number of zones that a body can be in.
    pub const MAX: usize = 10;
    /// No zone has this id. It marks unused places, which is smaller than a count.
    const NONE: ZoneId = ZoneId(u16::MAX);

    /// Adds a zone. If there is no room, a zone that `acts` replaces the last one that does not, by
    /// `others_act`.
    pub(crate) fn add(
        &mut self,
        zone: ZoneId,
        acts: impl FnOnce() -> bool,
        others_act: impl Fn(ZoneId) -> bool,
    ) {
        let count = self.ids().len();
        if let Some(place) = self.ids.get_mut(count) {
            *place = zone;
        } else if acts()
            && let Some(place) = self.ids.iter_mut().rev().find(|other| !others_act(**other))
        {
            *place = zone;
        }
    }

    /// The zones.
    #[must_use]
    pub fn ids(&self) -> &[ZoneId] {
        let count = self.ids.iter().position(|id| *id == Self::NONE).unwrap_or(Self::MAX);
        &self.ids[..count]
    }

    /// Returns true if `zone` is one of them.
    #[must_use]
    pub fn contains(&self, zone: ZoneId) -> bool {
        self.ids().contains(&zone)
    }
}

/// Serialized as a list of their numbers.
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

/// What is in charge of the body.
///
/// ```
/// use rasant::{Mode, state::Name};
///
/// let mode: Mode = "wall-slide".parse()?;
/// assert_eq!(mode, Mode::Move(Name::new("wall-slide")));
/// assert_eq!(Mode::Grounded.to_string(), "grounded");
/// # Ok::<(), rasant::state::NameError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Mode {
    /// On firm footing.
    Grounded,
    /// In the air, or sliding on ground that is too steep.
    Airborne,
    /// In a move or a maneuver with this name, in the air or on the ground.
    Move(Name),
}

/// The part of the controller that drove something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Owner {
    /// Nothing: it was unchanged.
    Nobody,
    /// Steering on foot.
    Walk,
    /// Steering and gravity in the air.
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
    /// The look of the player.
    Look,
    /// Another move of the list: see [`State::mode`].
    Move,
}

/// Whether the feet stand, and on what kind of ground.
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
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Level, Piece, Tuning};
///
/// let mut builder = Level::builder();
/// let floor = builder.add(Piece::block(Vec2::new(-5.0, -1.0), Vec2::new(5.0, 0.0))?);
/// let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
/// body.find_footing(&level);
/// let footing = body.state().footing;
/// assert!(footing.is_firm() && footing.piece == floor && footing.normal == Vec2::Y);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Footing<V> {
    /// Whether the feet stand, and on what kind of ground.
    pub kind: FootingKind,
    /// The ground's normal, of length 1; the body's up if there is none.
    pub normal: V,
    /// Where the hull touches the ground, relative to the body's position.
    pub point: V,
    /// The surface of the ground.
    pub surface: SurfaceId,
    /// The carrier of the ground.
    pub carrier: Option<CarrierId>,
    /// The piece of the ground.
    pub piece: PieceId,
    /// True if it is solid from above only.
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

    /// Returns true if the feet are on walkable ground.
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
    /// Running: faster than the walking speed.
    Run,
    /// Walking or running sideways relative to the facing: for a body that faces where the player
    /// looks, or never turns.
    Strafe,
    /// Walking or running backwards.
    Back,
    /// Turning on the spot.
    Turn,
    /// Crouching, standing or walking.
    Crouch,
    /// Rising.
    Rise,
    /// Falling.
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
    Turn => "turn",
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
    /// The distance from the origin, along each axis in metres, beyond which a position is broken:
    /// far beyond where single precision still separates two places of a level.
    pub const MAX_COORDINATE: f32 = 1e30;

    /// Returns true if it has a valid position, velocity and orientation.
    pub(crate) fn has_a_place(&self) -> bool {
        /// The largest error of the squared length of a direction.
        const OFF: f32 = 0.01;
        // Two perpendicular directions of length 1.
        let off = (self.up.length_squared() - 1.0).abs().max((self.right.length_squared() - 1.0).abs());
        (off + self.up.dot(self.right).abs() < OFF) & (self.position + self.velocity).is_finite()
    }

    /// Returns true if no field is NaN or infinite. The memories of moves are not checked.
    #[must_use]
    pub fn is_finite(&self) -> bool {
        const PART: f32 = 1.0 / 32.0;
        // A sum is finite only if all of its parts are, and needs no branches. Times that have no
        // limit stop at the largest number, so fractions of them are added.
        let mut vectors = self.position + self.remainder + self.velocity + self.ground_velocity;
        vectors += self.up + self.right + self.facing + self.footing.normal + self.footing.point;
        vectors += self.checkpoint + self.home_up;
        let Animation { stride, spin, step_offset, rolled, .. } = self.animation;
        let Posture { lowered, target_height, .. } = self.posture;
        let CarryOver { step_lead, uncounted, .. } = self.carry_over;
        let numbers = [stride, spin, step_offset, rolled, lowered, target_height, step_lead, uncounted];
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

    /// The state with broken numbers replaced: the body stands still where it is, with no maneuver.
    /// A position with NaN, or beyond [`Self::MAX_COORDINATE`], is replaced by the checkpoint, or
    /// by the origin.
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

    /// A body in the air at `position`, at rest, with the up and right of the world.
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

    /// The state with another up. Right follows by the shortest rotation, and the facing stays as it is
    /// relative to both. A vector that is too
    /// short to have a direction changes nothing.
    #[must_use]
    pub fn with_up(self, up: V) -> Self {
        let facing = self.facing.in_axes(self.right, self.up);
        let turned = self.turned_up(up);
        let facing =
            if turned.up == self.up { self.facing } else { facing.out_of_axes(turned.right, turned.up) };
        Self { home_up: turned.up, facing, ..turned }
    }

    /// The state with another up, and the same up outside of zones.
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

    /// Its feet leave the ground, and its hands what they hold. The next tick emits the events.
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
            Some(Air { time, .. }) => Some(Air { time, ..Air::left(Departure::Throw) }),
            None => Some(Air::left(Departure::Throw)),
        };
        self.footing = Footing::none(self.up);
        if self.maneuver.is_none() {
            self.mode = Mode::Airborne;
        }
        self.ladder = None;
        self.rides = None;
    }

    /// Returns true if something that moves has crushed it and still overlaps it.
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

    /// Throws the body off its feet: see [`Controller::throw`](crate::Controller::throw).
    pub fn throw(&mut self, velocity: V) {
        self.break_off();
        self.let_go();
        self.velocity = velocity;
        self.ground_velocity = V::ZERO;
    }

    /// Throws the body back: see
    /// [`Controller::knock_back`](crate::Controller::knock_back).
    pub fn knock_back(&mut self, velocity: V, time: f32) {
        if velocity.dot(self.up) > 0.0 || !self.footing.is_firm() {
            self.throw(velocity);
        } else {
            self.velocity = velocity.slid_along(self.footing.normal);
        }
        self.put_into(
            Maneuver::<V>::KNOCKBACK,
            Maneuver::knocked_back(time.max(0.0), self.facing, self.position),
        );
    }

    /// Cancels the running maneuver: see [`Controller::break_off`](crate::Controller::break_off).
    pub fn break_off(&mut self) {
        let Some(maneuver) = self.maneuver.take() else { return };
        self.cooldown = Span::of(maneuver.plan.cooldown);
        // One that began since the last tick has no event yet.
        self.pending.end_maneuver(self.mode.name());
        self.mode = if self.footing.is_firm() { Mode::Grounded } else { Mode::Airborne };
    }

    fn put_into(&mut self, name: Name, maneuver: Maneuver<V>) {
        self.break_off();
        if maneuver.phase() == Phase::Cooldown {
            // It takes no time.
            return;
        }
        let moved = self.moved();
        self.maneuver = Some(maneuver);
        self.pending.end_move(moved);
        self.pending.changes |= Changes::BEGUN;
        self.mode = Mode::Move(name);
    }

    /// Begins one of the host's own maneuvers: see [`Controller::begin`](crate::Controller::begin).
    pub fn begin(&mut self, name: Name, plan: Plan, direction: V) {
        let direction = direction.direction().unwrap_or(self.facing);
        self.put_into(name, Maneuver { plan: plan.sound(), direction, origin: self.position, age: 0.0 });
    }

    /// The current hull, given the body's own: lower in a crouch or roll.
    #[must_use]
    pub fn hull(&self, own: &Hull) -> Hull {
        let lowered = self.posture.lowered;
        if lowered > 0.0 { own.at_height(own.height() - lowered) } else { *own }
    }

    /// A number that is equal for two states only if they are the same to the bit, except with a
    /// probability of 1 in 2⁶⁴: for finding where two runs diverge.
    ///
    /// It is the same on every platform and in every build, and takes some hundred nanoseconds.
    /// Another version of this crate may compute it differently.
    #[must_use]
    pub fn checksum(&self) -> u64 {
        checksum::checksum(self)
    }

    /// The body's own frame.
    #[must_use]
    pub fn frame(&self) -> Frame<V> {
        Frame::new(self.position, self.remainder, self.right, self.up)
    }

    /// The speed along the ground or, in the air, perpendicular to `up`, in m/s. For a body seen
    /// from above, the speed over the plane.
    #[must_use]
    pub fn ground_speed(&self) -> f32 {
        if self.from_above {
            return self.velocity.length();
        }
        self.velocity.slid_along(self.footing.normal).length()
    }
}
