//! Events: what happened in a tick.

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
/// assert_eq!(sound(&Event::Crouched), None);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Event<V> {
    /// A jump took off.
    Jumped {
        /// The kind of jump: a word of its move, such as `ground` or `wall`.
        kind: Name,
    },
    /// The feet left the ground.
    LeftGround {
        /// The reason.
        by: Departure,
        /// The move that took the body off the ground, if the reason is [`Departure::Move`].
        of: Option<Name>,
    },
    /// A rise ended, at its exact top, which may be between two ticks.
    Apex {
        /// The position of the underside at the top.
        position: V,
    },
    /// The feet came down on walkable ground.
    Landed {
        /// The downward speed at the touch, in m/s.
        speed: f32,
        /// The surface of the ground.
        surface: SurfaceId,
        /// The piece.
        piece: PieceId,
    },
    /// The head touched an underside while rising.
    BumpedHead {
        /// The upward speed at the touch, in m/s.
        speed: f32,
        /// The piece above the head.
        piece: PieceId,
    },
    /// The body touched a wall, and was at none before (see
    /// [`Touching::is_at_wall`](crate::state::Touching::is_at_wall)).
    WallMet {
        /// From the wall to the body, of length 1.
        normal: V,
        /// The speed into the wall, in m/s.
        speed: f32,
        /// The piece.
        piece: PieceId,
    },
    /// The body is no longer at a wall: it has not touched one for 0.06 s, or is steered away from it.
    WallLeft,
    /// The feet came down on ground that bounced the body back up.
    Bounced {
        /// The upward speed afterwards, in m/s.
        speed: f32,
        /// The piece.
        piece: PieceId,
    },
    /// A foot touched the ground.
    Footfall {
        /// The surface of the ground; `None` for a body seen from above.
        surface: Option<SurfaceId>,
    },
    /// The body grabbed a ladder.
    LadderGrabbed {
        /// The ladder.
        zone: ZoneId,
    },
    /// The body let go of a ladder.
    LadderLeft {
        /// The ladder.
        zone: ZoneId,
    },
    /// A maneuver entered a phase.
    ManeuverPhase {
        /// The name of the maneuver.
        name: Name,
        /// The phase.
        phase: Phase,
    },
    /// Another move of the list took charge of the body.
    MoveBegan {
        /// The name of the move.
        name: Name,
    },
    /// A move no longer has charge of the body.
    MoveEnded {
        /// The name of the move.
        name: Name,
    },
    /// An overlay began, entered a phase, or ended ([`Phase::Cooldown`]).
    OverlayPhase {
        /// The name of the overlay.
        name: Name,
        /// The phase.
        phase: Phase,
    },
    /// The hull became lower.
    Crouched,
    /// The hull has its full height again.
    StoodUp,
    /// The hull entered a zone.
    ZoneEntered {
        /// The zone.
        zone: ZoneId,
    },
    /// The hull left a zone.
    ZoneLeft {
        /// The zone.
        zone: ZoneId,
    },
    /// A hazard returned the body to its last checkpoint.
    Respawned,
    /// The game moved the body to another place: see
    /// [`Controller::teleport`](crate::Controller::teleport).
    Teleported,
    /// Something that the player asked for was not done.
    Refused {
        /// What was refused, and why.
        what: Refusal,
    },
    /// The body is enclosed from several sides, and no free place is near. Emitted once, until it
    /// is free again. A body crushed by a carrier stays where it is until that has left, and then
    /// continues as before.
    Crushed,
}

/// Something that the player asked for and that was not done, with the reason.
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
    /// The refused action: the name of a move, `stand-up` or `up`.
    pub action: Name,
    /// The reason, as a word. `None` if there is only one reason.
    pub cause: Option<Name>,
    /// The seconds by which it was missed: since there was footing, or until the cooldown ends.
    pub missed_by: Option<f32>,
}

impl Refusal {
    /// Standing up from a crouch: there is no room.
    pub const STAND_UP: Self = Self::new(Name::new("stand-up"), "no-room");
    /// Turning to the up of a zone, or back: there is no room. The body turns as soon as there is.
    pub const UP: Self = Self::new(Name::new("up"), "no-room");
    /// The reason while the last maneuver or its cooldown is not over.
    pub const COOLDOWN: &'static str = "cooldown";

    /// The refusals of the core itself, beside those of moves.
    pub const OF_CORE: &'static [Self] = &[Self::STAND_UP, Self::UP];

    /// A refusal of the move `action` for the reason `cause`.
    ///
    /// # Panics
    /// If `cause` is empty, longer than [`Name::MAX_LEN`] bytes or contains a zero byte.
    #[must_use]
    pub const fn new(action: Name, cause: &str) -> Self {
        Self { action, cause: Some(Name::new(cause)), missed_by: None }
    }

    /// A refusal of the move `action`, which has only one reason.
    #[must_use]
    pub const fn of(action: Name) -> Self {
        Self { action, cause: None, missed_by: None }
    }

    /// The refusal, with the seconds by which it was missed.
    #[must_use]
    pub const fn missed_by(self, seconds: f32) -> Self {
        Self { missed_by: Some(seconds), ..self }
    }

    /// Returns true for a refusal of `action` for the reason `cause`.
    #[must_use]
    pub fn is(&self, action: &str, cause: &str) -> bool {
        self.action == *action && self.cause.is_some_and(|known| known == *cause)
    }
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} refused", self.action)?;
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
///
/// ```
/// use rasant::{Departure, Event};
///
/// fn sound<V>(event: &Event<V>) -> Option<&'static str> {
///     match event {
///         Event::LeftGround { by: Departure::Jump, .. } => Some("jump"),
///         Event::LeftGround { by: Departure::Edge, .. } => Some("gasp"),
///         _ => None,
///     }
/// }
/// # let _ = sound::<rasant::glam::Vec2>;
/// ```
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
    /// Wind, or a throw by the host.
    Throw,
    /// They did not: the body was placed in the air.
    Placed,
    /// A move of the list took the body off the ground.
    Move,
}

named!(Departure {
    Jump => "jump",
    Edge => "edge",
    Maneuver => "maneuver",
    Throw => "throw",
    Placed => "placed",
    Move => "move",
});

/// The events of one tick, in order. It dereferences to a slice, and is an iterator. Up to 24
/// events need no heap memory.
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

/// The number of events that fit without the heap.
const ROOM: usize = 24;

impl<V> Events<V> {
    /// An empty list.
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

/// An iterator over the events of a tick.
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

/// Adds an event. Most ticks have none, so this function is not inlined.
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
    "ladder-grabbed",
    "ladder-left",
    "maneuver-phase",
    "move-began",
    "move-ended",
    "overlay-phase",
    "crouched",
    "stood-up",
    "zone-entered",
    "zone-left",
    "respawned",
    "teleported",
    "refused",
    "crushed",
];

impl<V> Event<V> {
    /// Returns true if the body is elsewhere without having moved there: after a teleport, and at its
    /// checkpoint. Nothing should be drawn between the two places.
    #[must_use]
    pub fn is_elsewhere(&self) -> bool {
        matches!(self, Self::Respawned | Self::Teleported)
    }

    /// The name, one of [`EVENTS`], as in traces.
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
            Self::LadderGrabbed { .. } => "ladder-grabbed",
            Self::LadderLeft { .. } => "ladder-left",
            Self::ManeuverPhase { .. } => "maneuver-phase",
            Self::MoveBegan { .. } => "move-began",
            Self::MoveEnded { .. } => "move-ended",
            Self::OverlayPhase { .. } => "overlay-phase",
            Self::Crouched => "crouched",
            Self::StoodUp => "stood-up",
            Self::ZoneEntered { .. } => "zone-entered",
            Self::ZoneLeft { .. } => "zone-left",
            Self::Respawned => "respawned",
            Self::Teleported => "teleported",
            Self::Refused { .. } => "refused",
            Self::Crushed => "crushed",
        }
    }
}
