//! What happened in a tick.

use core::ops::Deref;

use smallvec::SmallVec;

use core::fmt;

use crate::level::{PieceId, SurfaceId, ZoneId};

use crate::name::named;

use super::{ManeuverKind, Name, Phase};

/// Something that happened in a tick, for sounds, animations and measures.
///
/// ```
/// use rasant::Event;
/// use rasant::glam::Vec2;
///
/// fn sound(event: &Event<Vec2>) -> Option<(&'static str, f32)> {
///     match *event {
///         Event::Landed { speed, .. } if speed > 2.0 => Some(("thud", speed / 20.0)),
///         Event::Jumped { .. } => Some(("hop", 1.0)),
///         Event::Footfall { .. } => Some(("step", 0.3)),
///         _ => None,
///     }
/// }
/// assert_eq!(sound(&Event::Bounced { speed: 3.0 }), None);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Event<V> {
    /// A jump took off.
    Jumped {
        /// Which jump.
        kind: JumpKind,
    },
    /// The feet left the ground.
    LeftGround {
        /// Why.
        by: Departure,
    },
    /// A rise ended: the exact top, which may lie between two ticks.
    Apex {
        /// Where the underside was.
        position: V,
    },
    /// The feet came down on walkable ground.
    Landed {
        /// The speed downward at the touch, in m/s.
        speed: f32,
        /// What the ground is made of.
        surface: SurfaceId,
        /// Which piece.
        piece: PieceId,
    },
    /// The head met an underside on the way up.
    BumpedHead {
        /// The speed upward at the touch, in m/s.
        speed: f32,
    },
    /// The body came against a wall that it was not against a tick before.
    WallMet {
        /// From the wall to the body, of length 1.
        normal: V,
        /// The speed into the wall, in m/s.
        speed: f32,
    },
    /// The body is no longer against a wall.
    WallLeft,
    /// The feet came down on ground that threw the body back up.
    Bounced {
        /// The speed upward from there, in m/s.
        speed: f32,
    },
    /// A foot came down.
    Footfall {
        /// What the ground is made of; nothing for a body that is seen from above.
        surface: Option<SurfaceId>,
    },
    /// The body took hold of a ladder.
    LadderTaken {
        /// Which.
        zone: ZoneId,
    },
    /// It let go of it.
    LadderLeft {
        /// Which.
        zone: ZoneId,
    },
    /// A maneuver came into a phase.
    ManeuverPhase {
        /// Which maneuver.
        kind: ManeuverKind,
        /// Which phase.
        phase: Phase,
    },
    /// Another move of the list took charge of the body.
    MoveBegan {
        /// Which.
        name: Name,
    },
    /// A move that had charge of the body has it no more.
    MoveEnded {
        /// Which.
        name: Name,
    },
    /// The hull became lower.
    Crouched,
    /// The hull is as high as its own again.
    StoodUp,
    /// The hull came into a zone.
    ZoneEntered {
        /// Which.
        zone: ZoneId,
    },
    /// The hull came out of a zone.
    ZoneLeft {
        /// Which.
        zone: ZoneId,
    },
    /// A hazard put the body back at its last checkpoint.
    Respawned,
    /// Something that was asked for was not done.
    Refused {
        /// What, and why.
        what: Refusal,
    },
    /// Something holds the body from several sides and leaves no way out. It is told
    /// once, until there is one. A body crushed by a carrier stays where it is until that
    /// has gone, and is as usable then as before.
    Crushed,
}

/// What was asked for and not done, and why.
///
/// ```
/// use rasant::Refusal;
///
/// let late = Refusal::Jump { no_footing_for: Some(0.11) };
/// assert_eq!((&*late.asked(), late.cause()), ("jump", Some("no-footing")));
/// assert_eq!(late.missed_by(), Some(0.11)); // so much coyote time would have done
/// assert_eq!(late.to_string(), "jump refused: no footing for 0.11 s");
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Refusal {
    /// A jump: no footing, and no jump left in the air.
    Jump {
        /// Seconds since the feet left the ground; nothing where they have never been on it.
        no_footing_for: Option<f32>,
    },
    /// A jump, locked by a maneuver.
    JumpLocked,
    /// A jump off a wall: too many in a row off walls that face this way.
    WallJump,
    /// A dash: none in store.
    DashEmpty,
    /// A dash: no more of them until the feet come down.
    DashAirLimit,
    /// A maneuver: the last one is not over, or its cooldown.
    Cooldown {
        /// Which maneuver.
        of: ManeuverKind,
        /// Seconds left.
        left: f32,
    },
    /// A roll: it needs footing.
    NoFooting,
    /// Standing up: no room.
    StandUp,
    /// The up of a zone, or the one outside it: no room to turn the body. It is turned as soon as
    /// there is some.
    Up,
    /// A hop: something is in the way.
    HopBlocked,
    /// A hop: another is under way.
    HopUnderWay,
    /// What another move of the list was asked for.
    Move(Name),
}

impl Refusal {
    /// What was asked for: `jump`, `dash`, `roll`, `hop`, `stand-up`, `up`, or the name of the
    /// move.
    #[must_use]
    pub fn asked(&self) -> Name {
        Name::new(match self {
            Self::Jump { .. } | Self::JumpLocked | Self::WallJump => "jump",
            Self::DashEmpty | Self::DashAirLimit => "dash",
            Self::NoFooting => "roll",
            Self::StandUp => "stand-up",
            Self::Up => "up",
            Self::HopBlocked | Self::HopUnderWay => "hop",
            Self::Cooldown { of, .. } => return of.name(),
            Self::Move(name) => return *name,
        })
    }

    /// Why it was not done, in a word; a game's own move has none.
    #[must_use]
    pub fn cause(&self) -> Option<&'static str> {
        Some(match self {
            Self::Jump { .. } | Self::NoFooting => "no-footing",
            Self::JumpLocked => "locked",
            Self::WallJump => "wall-limit",
            Self::DashEmpty => "empty",
            Self::DashAirLimit => "air-limit",
            Self::Cooldown { .. } => "cooldown",
            Self::StandUp | Self::Up => "no-room",
            Self::HopBlocked => "blocked",
            Self::HopUnderWay => "under-way",
            Self::Move(_) => return None,
        })
    }

    /// The seconds that it missed by: since there was footing, or until the cooldown is
    /// over.
    #[must_use]
    pub fn missed_by(&self) -> Option<f32> {
        match *self {
            Self::Jump { no_footing_for } => no_footing_for,
            Self::Cooldown { left, .. } => Some(left),
            _ => None,
        }
    }
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Jump { no_footing_for: Some(time) } => {
                write!(f, "jump refused: no footing for {time:.2} s")
            }
            Self::Jump { .. } => write!(f, "jump refused: no footing"),
            Self::JumpLocked => write!(f, "jump refused: locked by the maneuver"),
            Self::WallJump => write!(f, "wall jump refused: too many in a row off walls that face this way"),
            Self::DashEmpty => write!(f, "dash refused: none in store"),
            Self::DashAirLimit => write!(f, "dash refused: no more of them before landing"),
            Self::Cooldown { of, left } => write!(f, "{} refused: {left:.2} s of cooldown left", of.name()),
            Self::NoFooting => write!(f, "roll refused: no footing"),
            Self::StandUp => write!(f, "standing up refused: no room"),
            Self::Up => write!(f, "turning to another up refused: no room"),
            Self::HopBlocked => write!(f, "hop refused: something is in the way"),
            Self::HopUnderWay => write!(f, "hop refused: another is under way"),
            Self::Move(name) => write!(f, "{name} refused"),
        }
    }
}

/// Which jump took off.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum JumpKind {
    /// From firm footing.
    Ground,
    /// Within the coyote time after walking off an edge.
    Late,
    /// In the air.
    Air,
    /// Off a wall.
    Wall,
    /// Off a ladder.
    Ladder,
    /// Out of another move of the list: a ledge, water, a game's own.
    Move(Name),
}

named!(JumpKind {
    Ground => "ground",
    Late => "late",
    Air => "air",
    Wall => "wall",
    Ladder => "ladder",
    ..Move,
});

/// Why feet left the ground.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Departure {
    /// A jump.
    Jump,
    /// The ground ended, or became too steep.
    Edge,
    /// Down through a one-way platform.
    Drop,
    /// Onto a ladder.
    Ladder,
    /// A maneuver.
    Maneuver,
    /// Wind, or a launch by the host.
    Launch,
    /// It did not: it was put there, airborne.
    Placed,
    /// Another move of the list took it off.
    Move,
}

named!(Departure {
    Jump => "jump",
    Edge => "edge",
    Drop => "drop",
    Ladder => "ladder",
    Maneuver => "maneuver",
    Launch => "launch",
    Placed => "placed",
    Move => "move",
});

/// The events of one tick, in order: a slice of them, and an iterator. Eight of them take
/// nothing from the heap.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::state::Events;
/// use rasant::{Hull, Intent, Level, State, Tuning, tick};
///
/// let (tuning, hull, nowhere) = (Tuning::default(), Hull::ball(0.5)?, Level::builder().build()?);
/// let mut state = State::at(Vec2::ZERO);
/// let events: Events<Vec2> = tick(&tuning, &hull, &mut state, &Intent::default(), &nowhere, 0.02);
/// assert!(events.is_empty(), "it falls");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Events<V>(SmallVec<[Event<V>; ROOM]>);

/// Events of a tick without the heap.
const ROOM: usize = 24;

impl<V> Events<V> {
    /// None yet.
    #[must_use]
    #[inline]
    pub fn new() -> Self {
        Self(SmallVec::new())
    }

    #[inline]
    pub(crate) fn push(&mut self, event: Event<V>) {
        self.0.push(event);
    }

    #[inline]
    pub(crate) fn clear(&mut self) {
        self.0.clear();
    }

    pub(crate) fn truncate(&mut self, len: usize) {
        self.0.truncate(len);
    }
}

impl<V> Default for Events<V> {
    fn default() -> Self {
        Self::new()
    }
}

impl<V> Deref for Events<V> {
    type Target = [Event<V>];

    #[inline]
    fn deref(&self) -> &[Event<V>] {
        &self.0
    }
}

impl<'a, V> IntoIterator for &'a Events<V> {
    type Item = &'a Event<V>;
    type IntoIter = core::slice::Iter<'a, Event<V>>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.iter()
    }
}

impl<V> IntoIterator for Events<V> {
    type Item = Event<V>;
    type IntoIter = EventsIter<V>;

    fn into_iter(self) -> EventsIter<V> {
        EventsIter(self.0.into_iter())
    }
}

/// The events of a tick, one by one.
#[derive(Debug)]
pub struct EventsIter<V>(smallvec::IntoIter<[Event<V>; ROOM]>);

impl<V> Iterator for EventsIter<V> {
    type Item = Event<V>;

    fn next(&mut self) -> Option<Event<V>> {
        self.0.next()
    }

    fn size_hint(&self) -> (usize, Option<usize>) {
        self.0.size_hint()
    }
}

/// Adds an event. Most ticks have none: what tells one stays out of the way of
/// those.
#[cold]
#[inline(never)]
pub(crate) fn tell<V: Copy>(events: &mut Events<V>, event: Event<V>) {
    events.push(event);
}

/// The names of all events.
pub const EVENTS: &[&str] = &[
    "jumped",
    "left-ground",
    "apex",
    "landed",
    "bumped-head",
    "wall-met",
    "wall-left",
    "bounced",
    "footfall",
    "ladder-taken",
    "ladder-left",
    "maneuver-phase",
    "move-began",
    "move-ended",
    "crouched",
    "stood-up",
    "zone-entered",
    "zone-left",
    "respawned",
    "refused",
    "crushed",
];

impl<V> Event<V> {
    /// Its name, one of [`EVENTS`], as in traces.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Jumped { .. } => "jumped",
            Self::LeftGround { .. } => "left-ground",
            Self::Apex { .. } => "apex",
            Self::Landed { .. } => "landed",
            Self::BumpedHead { .. } => "bumped-head",
            Self::WallMet { .. } => "wall-met",
            Self::WallLeft => "wall-left",
            Self::Bounced { .. } => "bounced",
            Self::Footfall { .. } => "footfall",
            Self::LadderTaken { .. } => "ladder-taken",
            Self::LadderLeft { .. } => "ladder-left",
            Self::ManeuverPhase { .. } => "maneuver-phase",
            Self::MoveBegan { .. } => "move-began",
            Self::MoveEnded { .. } => "move-ended",
            Self::Crouched => "crouched",
            Self::StoodUp => "stood-up",
            Self::ZoneEntered { .. } => "zone-entered",
            Self::ZoneLeft { .. } => "zone-left",
            Self::Respawned => "respawned",
            Self::Refused { .. } => "refused",
            Self::Crushed => "crushed",
        }
    }
}
