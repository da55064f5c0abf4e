//! What happened in a tick.

use core::ops::Deref;

use smallvec::SmallVec;

use core::fmt;

use crate::level::{PieceId, SurfaceId, ZoneId};

use crate::name::named;

use super::{Name, Phase};

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
        /// Which jump: a word of the move that it is of, such as `ground` or `wall`.
        kind: Name,
    },
    /// The feet left the ground.
    LeftGround {
        /// Why.
        by: Departure,
        /// The move that took the body off the ground, where it is [`Departure::Move`].
        of: Option<Name>,
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
        /// The name of the maneuver.
        name: Name,
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

/// Something that was asked for and not done, and why.
///
/// ```
/// use rasant::Refusal;
/// use rasant::state::Name;
///
/// let late = Refusal::new(Name::new("jump"), "no-footing").missed_by(0.11);
/// assert_eq!(late.missed_by, Some(0.11)); // so much coyote time would have done
/// assert_eq!(late.to_string(), "jump refused: no footing, missed by 0.11 s");
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub struct Refusal {
    /// What was asked for: the name of a move, `stand-up` or `up`.
    pub asked: Name,
    /// Why it was not done, in a word; `None` where there is only one reason.
    pub cause: Option<Name>,
    /// The seconds that it missed by: since there was footing, or until the cooldown is over.
    pub missed_by: Option<f32>,
}

impl Refusal {
    /// Standing up from a crouch: there is no room.
    pub const STAND_UP: Self = Self::new(Name::new("stand-up"), "no-room");
    /// Turning to the up of a zone, or back: there is no room. The body turns as soon as there is
    /// some.
    pub const UP: Self = Self::new(Name::new("up"), "no-room");
    /// The cause of a refusal while the last maneuver or its cooldown is not over.
    pub const COOLDOWN: &'static str = "cooldown";

    /// What the core itself refuses, beside what moves do.
    pub const OF_CORE: &'static [Self] = &[Self::STAND_UP, Self::UP];

    /// What the move `asked` refuses for the reason `cause`.
    ///
    /// # Panics
    /// When `cause` is empty, longer than [`Name::MAX_LEN`] bytes or holds a zero.
    #[must_use]
    pub const fn new(asked: Name, cause: &str) -> Self {
        Self { asked, cause: Some(Name::new(cause)), missed_by: None }
    }

    /// What the move `asked` refuses, for the only reason that it has.
    #[must_use]
    pub const fn of(asked: Name) -> Self {
        Self { asked, cause: None, missed_by: None }
    }

    /// The refusal, with the seconds that it missed by.
    #[must_use]
    pub const fn missed_by(self, seconds: f32) -> Self {
        Self { missed_by: Some(seconds), ..self }
    }

    /// Returns true for a refusal of `asked` for the reason `cause`.
    #[must_use]
    pub fn is(&self, asked: &str, cause: &str) -> bool {
        self.asked == *asked && self.cause.is_some_and(|known| known == *cause)
    }
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} refused", self.asked)?;
        if let Some(cause) = self.cause {
            f.write_str(": ")?;
            cause.split('-').enumerate().try_for_each(|(number, word)| {
                if number > 0 {
                    f.write_str(" ")?;
                }
                f.write_str(word)
            })?;
        }
        match self.missed_by {
            Some(seconds) => write!(f, ", missed by {seconds:.2} s"),
            None => Ok(()),
        }
    }
}

/// Why feet left the ground.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Departure {
    /// A jump.
    Jump,
    /// The ground ended, or became too steep.
    Edge,
    /// A maneuver.
    Maneuver,
    /// Wind, or a launch by the host.
    Launch,
    /// It did not: it was put there, airborne.
    Placed,
    /// A move of the list took the body off the ground.
    Move,
}

named!(Departure {
    Jump => "jump",
    Edge => "edge",
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
    pub fn new() -> Self {
        Self(SmallVec::new())
    }

    pub(crate) fn push(&mut self, event: Event<V>) {
        self.0.push(event);
    }

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

/// Adds an event. Most ticks have none, so this is kept out of their path.
#[cold]
#[inline(never)]
pub(crate) fn emit<V: Copy>(events: &mut Events<V>, event: Event<V>) {
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
