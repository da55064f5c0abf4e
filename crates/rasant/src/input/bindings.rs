//! Which keys, buttons and axes stand for which actions and directions.

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::string::ToString;
use alloc::vec;
use alloc::vec::Vec;
use core::fmt;

use thiserror::Error;

use super::Actions;
use crate::name::by_text;

use super::device::{DeviceEvent, Key, PadAxis, PadButton, PointerButton, Press, WheelTurn};

/// Something that can be held down.
///
/// ```
/// use rasant::input::Source;
///
/// let button: Source = "pad:south".parse()?;
/// assert_eq!(button.to_string(), "pad:south");
/// assert!(Source::named("pad:souht").is_err());
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Source {
    /// A key.
    Key(Key),
    /// A button of a gamepad.
    Pad(PadButton),
    /// An axis of a gamepad, pushed past half of its range to its positive or negative end.
    PadAxis(PadAxis, End),
    /// A button of the pointer.
    Pointer(PointerButton),
    /// A notch of the wheel. It is held for an instant only.
    Wheel(WheelTurn),
}

/// An end of an axis.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum End {
    /// −1: left or up.
    Negative,
    /// +1: right or down.
    Positive,
}

/// One to three sources that count when all of them are held.
///
/// ```
/// use rasant::input::Chord;
///
/// let chord = Chord::named("ShiftLeft + KeyE")?;
/// assert_eq!(chord.sources().len(), 2);
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Chord(Vec<Source>);

/// What a chord stands for.
///
/// ```
/// use rasant::input::{Chord, Direction, Meaning};
/// use rasant::{Actions, Bindings};
///
/// let mut bindings = Bindings::none();
/// bindings.bind(Chord::named("KeyJ")?, Meaning::Action(Actions::JUMP));
/// bindings.bind(Chord::named("KeyA")?, Meaning::Steer(Direction::Left));
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Meaning {
    /// An action.
    Action(Actions),
    /// Steering in a direction.
    Steer(Direction),
}

/// What must be done with a chord to press its action, beside holding it.
///
/// ```
/// use rasant::input::Gesture;
///
/// let (gesture, chord) = Gesture::named("double 0.25 KeyF")?;
/// assert_eq!(gesture, Some(Gesture::DoubleTap { within: 0.25 }));
/// assert_eq!(chord.to_string(), "KeyF");
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Gesture {
    /// Press twice within a time. The action is held as long as the second press.
    DoubleTap {
        /// The maximum time from press to press, in seconds.
        within: f32,
    },
    /// Hold for a time. The action is then pressed, and held until the chord is released.
    Hold {
        /// The time in seconds.
        time: f32,
    },
    /// The first press turns the action on, the next one off.
    Toggle,
}

impl Gesture {
    /// The default time from press to press of a double tap, in seconds.
    pub const WITHIN: f32 = 0.3;

    /// Parses a chord with the gesture in front of it: `double KeyD`, `double 0.25 KeyD`, `hold 0.5
    /// KeyE`, `toggle KeyC`. Without a gesture it is a chord alone.
    ///
    /// # Errors
    /// [`SourceError`] if a name is unknown, there are too many, or a time is missing or not from 0
    /// to 10 seconds.
    pub fn named(text: &str) -> Result<(Option<Self>, Chord), SourceError> {
        let seconds = |rest: &str| {
            let (first, chord) = rest.split_once(' ')?;
            let time = first.parse::<f32>().ok()?;
            Some((time, chord.to_owned()))
        };
        let in_range = |time: f32| {
            if (0.0..=10.0).contains(&time) { Ok(time) } else { Err(SourceError::Time(text.to_owned())) }
        };
        let (gesture, chord) = match text.split_once(' ') {
            Some(("toggle", chord)) => (Some(Self::Toggle), chord.to_owned()),
            Some(("double", rest)) => {
                let (within, chord) = seconds(rest).unwrap_or((Self::WITHIN, rest.to_owned()));
                (Some(Self::DoubleTap { within: in_range(within)? }), chord)
            }
            Some(("hold", rest)) => {
                let (time, chord) = seconds(rest).ok_or_else(|| SourceError::Time(text.to_owned()))?;
                (Some(Self::Hold { time: in_range(time)? }), chord)
            }
            _ => (None, text.to_owned()),
        };
        Ok((gesture, Chord::named(&chord)?))
    }
}

impl fmt::Display for Gesture {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::DoubleTap { within } => write!(f, "double {within}"),
            Self::Hold { time } => write!(f, "hold {time}"),
            Self::Toggle => write!(f, "toggle"),
        }
    }
}

/// A direction of steering.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Direction {
    /// −x.
    Left,
    /// +x.
    Right,
    /// +y.
    Up,
    /// −y.
    Down,
}

/// How two opposite directions that are held together are resolved.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Opposites {
    /// Both are ignored.
    #[default]
    Neither,
    /// The one that was pressed last counts.
    Last,
    /// The one that was pressed first counts.
    First,
}

/// A stick of a gamepad.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Stick {
    /// The left stick.
    Left,
    /// The right stick.
    Right,
}

/// How the position of a stick becomes a vector of length 0 to 1.
///
/// ```
/// use rasant::input::Shaping;
///
/// let shaping = Shaping { dead_zone: 0.2, ..Shaping::default() };
/// assert_eq!(shaping.shape(0.1, 0.1).length(), 0.0);
/// assert!(shaping.shape(1.0, 1.0).length() <= 1.0);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Shaping {
    /// The dead zone: positions nearer to the centre than this count as the centre, 0 to 0.9.
    /// Beyond it the vector grows from 0.
    pub dead_zone: f32,
    /// The outer zone: positions nearer to the rim than this count as the rim, 0 to 0.9.
    pub outer_zone: f32,
    /// Whether the zones are round or per axis.
    pub zones: Zoning,
    /// The exponent applied to the length, 0.1 to 10. Above 1 it is finer near the centre.
    pub curve: f32,
    /// Swaps left and right.
    pub invert_x: bool,
    /// Swaps up and down.
    pub invert_y: bool,
}

/// The shape of dead and outer zones.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Zoning {
    /// By the distance from the centre.
    #[default]
    Round,
    /// For each axis alone.
    PerAxis,
}

/// What turns the look.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct LookRule {
    /// The stick that turns the look, if any.
    pub stick: Option<Stick>,
    /// The turning rate in radians per second.
    pub stick_rate: f32,
    /// The turn for a count of pointer motion, in radians.
    pub per_count: f32,
    /// Swaps up and down.
    pub invert_y: bool,
}

/// The bindings of one player: which keys, buttons and axes stand for which actions and directions.
///
/// ```
/// use rasant::input::{Chord, Meaning};
/// use rasant::{Actions, Bindings};
///
/// let mut bindings = Bindings::default();
/// bindings.bind(Chord::named("KeyK")?, Meaning::Action(Actions::DASH));
/// bindings.bind(Chord::named("pad:left-shoulder")?, Meaning::Action(Actions::DASH));
/// assert_eq!(bindings.chords_of(Meaning::Action(Actions::DASH)).count(), 4); // two were there
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Bindings {
    /// How two opposite directions that are held together are resolved.
    pub opposites: Opposites,
    /// The chords of actions and directions.
    pub chords: Vec<(Chord, Meaning)>,
    /// The chords of actions that need a gesture.
    #[cfg_attr(feature = "serde", serde(default))]
    pub gestures: Vec<(Chord, Gesture, Actions)>,
    /// The stick that steers, if any.
    pub stick: Option<Stick>,
    /// How the positions of sticks become vectors.
    pub shaping: Shaping,
    /// What turns the look.
    pub look: LookRule,
    /// Seconds in which steering by keys rises from 0 to 1; 0 for at once.
    pub rise_time: f32,
    /// Seconds in which steering by keys falls to 0; 0 for at once.
    pub fall_time: f32,
}

/// A chord that stands for two things.
///
/// ```
/// use rasant::input::{Chord, Meaning};
/// use rasant::{Actions, Bindings};
///
/// let mut bindings = Bindings::none();
/// for action in [Actions::JUMP, Actions::DASH] {
///     bindings.bind(Chord::named("Space")?, Meaning::Action(action));
/// }
/// assert_eq!(bindings.conflicts()[0].to_string(), "`Space` stands for both jump and dash");
/// # Ok::<(), rasant::input::SourceError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Conflict {
    /// The chord.
    pub chord: Chord,
    /// The two things.
    pub meanings: (Meaning, Meaning),
}

/// Why a source or chord cannot be parsed.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum SourceError {
    /// There is no such key, button or axis.
    #[error("there is no key, button or axis `{0}`")]
    Unknown(String),
    /// A chord has no source or more than three.
    #[error("found a chord with {0} parts, expected 1 to 3")]
    Length(usize),
    /// The time of a gesture is missing or out of range.
    #[error("`{0}` has no time, expected 0 to 10 seconds, as in `hold 0.5 KeyE`")]
    Time(String),
}

impl Source {
    /// The source with this name: a key's code, `pad:south`, `pad:left-x+`, `pointer:main`,
    /// `wheel:up`.
    ///
    /// # Errors
    /// [`SourceError::Unknown`] if there is no such source.
    pub fn named(name: &str) -> Result<Self, SourceError> {
        let found = match name.split_once(':') {
            None => Key::named(name).map(Self::Key),
            Some(("pad", button)) => PadButton::named(button).map(Self::Pad).or_else(|| {
                let (axis, end) = match button.strip_suffix('+') {
                    Some(axis) => (axis, End::Positive),
                    None => (button.strip_suffix('-')?, End::Negative),
                };
                PadAxis::named(axis).map(|axis| Self::PadAxis(axis, end))
            }),
            Some(("pointer", button)) => PointerButton::named(button).map(Self::Pointer),
            Some(("wheel", turn)) => WheelTurn::named(turn).map(Self::Wheel),
            Some(_) => None,
        };
        found.ok_or_else(|| SourceError::Unknown(name.to_owned()))
    }

    /// The source that an event presses, if it presses one. For rebinding.
    #[must_use]
    pub fn pressed_in(event: &DeviceEvent) -> Option<Self> {
        match *event {
            DeviceEvent::Key(key, Press::Down) => Some(Self::Key(key)),
            DeviceEvent::Pad { button, press: Press::Down, .. } => Some(Self::Pad(button)),
            DeviceEvent::Pointer(button, Press::Down) => Some(Self::Pointer(button)),
            DeviceEvent::Wheel(turn) => Some(Self::Wheel(turn)),
            DeviceEvent::PadMoved { axis, value, .. } if value.abs() > 0.7 => {
                Some(Self::PadAxis(axis, if value > 0.0 { End::Positive } else { End::Negative }))
            }
            _ => None,
        }
    }

    /// The names of all sources.
    pub fn names() -> impl Iterator<Item = String> {
        let keys = Key::all().map(Self::Key);
        let pads = PadButton::ALL.iter().map(|&button| Self::Pad(button));
        let ends = [End::Negative, End::Positive];
        let axes = PadAxis::ALL.iter().flat_map(move |&axis| ends.map(|end| Self::PadAxis(axis, end)));
        let pointers = PointerButton::ALL.iter().map(|&button| Self::Pointer(button));
        let wheel = WheelTurn::ALL.iter().map(|&turn| Self::Wheel(turn));
        keys.chain(pads).chain(axes).chain(pointers).chain(wheel).map(|source| source.to_string())
    }
}

impl core::str::FromStr for Source {
    type Err = SourceError;

    fn from_str(name: &str) -> Result<Self, SourceError> {
        Self::named(name)
    }
}

by_text!(Source);

impl fmt::Display for Source {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Key(key) => f.write_str(key.code()),
            Self::Pad(button) => write!(f, "pad:{}", button.name()),
            Self::PadAxis(axis, End::Positive) => write!(f, "pad:{}+", axis.name()),
            Self::PadAxis(axis, End::Negative) => write!(f, "pad:{}-", axis.name()),
            Self::Pointer(button) => write!(f, "pointer:{}", button.name()),
            Self::Wheel(turn) => write!(f, "wheel:{}", turn.name()),
        }
    }
}

impl Chord {
    /// A chord of these sources.
    ///
    /// # Errors
    /// [`SourceError::Length`] if there are none or more than three.
    pub fn new(mut sources: Vec<Source>) -> Result<Self, SourceError> {
        sources.sort_unstable();
        sources.dedup();
        if (1..=3).contains(&sources.len()) {
            Ok(Self(sources))
        } else {
            Err(SourceError::Length(sources.len()))
        }
    }

    /// Parses a chord: names joined by ` + `.
    ///
    /// # Errors
    /// [`SourceError`] if a name is unknown or there are too many.
    pub fn named(text: &str) -> Result<Self, SourceError> {
        Self::new(text.split(" + ").map(|name| Source::named(name.trim())).collect::<Result<_, _>>()?)
    }

    /// The sources.
    #[must_use]
    pub fn sources(&self) -> &[Source] {
        &self.0
    }
}

impl From<Source> for Chord {
    fn from(source: Source) -> Self {
        Self(vec![source])
    }
}

impl core::str::FromStr for Chord {
    type Err = SourceError;

    fn from_str(text: &str) -> Result<Self, SourceError> {
        Self::named(text)
    }
}

by_text!(Chord);

impl fmt::Display for Chord {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (i, source) in self.0.iter().enumerate() {
            if i > 0 {
                f.write_str(" + ")?;
            }
            write!(f, "{source}")?;
        }
        Ok(())
    }
}

impl Direction {
    /// Every direction, with its name in files.
    pub const NAMES: [(&'static str, Self); 4] =
        [("left", Self::Left), ("right", Self::Right), ("up", Self::Up), ("down", Self::Down)];
}

impl fmt::Display for Meaning {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Action(action) => f.write_str(&action.name().unwrap_or_default()),
            Self::Steer(direction) => {
                let name = Direction::NAMES
                    .iter()
                    .find(|(_, known)| known == direction)
                    .map_or("", |(name, _)| name);
                write!(f, "steer {name}")
            }
        }
    }
}

impl fmt::Display for Conflict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "`{}` stands for both {} and {}", self.chord, self.meanings.0, self.meanings.1)
    }
}

impl Default for Shaping {
    fn default() -> Self {
        Self {
            dead_zone: 0.15,
            outer_zone: 0.05,
            zones: Zoning::Round,
            curve: 1.0,
            invert_x: false,
            invert_y: false,
        }
    }
}

impl Shaping {
    /// The vector for a stick position, +x right and +y up, at most 1 long.
    #[must_use]
    pub fn shape(&self, x: f32, y: f32) -> glam::Vec2 {
        let tilt = glam::Vec2::new(if self.invert_x { -x } else { x }, if self.invert_y { -y } else { y });
        if !tilt.is_finite() {
            return glam::Vec2::ZERO;
        }
        let shaped = match self.zones {
            Zoning::Round => {
                let length = tilt.length();
                if length > 0.0 { tilt * (self.zoned(length) / length) } else { tilt }
            }
            Zoning::PerAxis => {
                let axis = |value: f32| self.zoned(value.abs()).copysign(value);
                glam::Vec2::new(axis(tilt.x), axis(tilt.y))
            }
        };
        shaped.clamp_length_max(1.0)
    }

    /// Maps a distance from the centre through the zones and the curve.
    fn zoned(&self, distance: f32) -> f32 {
        let span = (1.0 - self.outer_zone - self.dead_zone).max(1e-3);
        let fraction = ((distance - self.dead_zone) / span).clamp(0.0, 1.0);
        if self.curve == 1.0 { fraction } else { libm::powf(fraction, self.curve) }
    }
}

impl Default for LookRule {
    fn default() -> Self {
        Self { stick: Some(Stick::Right), stick_rate: 3.0, per_count: 0.002, invert_y: false }
    }
}

impl Default for Bindings {
    /// The default bindings:
    ///
    /// | action | keys and pointer | gamepad |
    /// | --- | --- | --- |
    /// | steer | arrow keys, W A S D | left stick, directional pad |
    /// | look | pointer | right stick |
    /// | jump | Space, J | south |
    /// | dash | K, secondary pointer button | west |
    /// | run | Shift | right trigger |
    /// | crouch | left Control, C | east |
    /// | `own-0` to `own-4` | E, F, V, X, Z | north, left shoulder, right shoulder, left trigger, right stick pressed |
    fn default() -> Self {
        let mut bindings = Self::none();
        let all = [
            (Meaning::Steer(Direction::Left), ["KeyA", "ArrowLeft", "pad:left"]),
            (Meaning::Steer(Direction::Right), ["KeyD", "ArrowRight", "pad:right"]),
            (Meaning::Steer(Direction::Up), ["KeyW", "ArrowUp", "pad:up"]),
            (Meaning::Steer(Direction::Down), ["KeyS", "ArrowDown", "pad:down"]),
            (Meaning::Action(Actions::JUMP), ["Space", "KeyJ", "pad:south"]),
            (Meaning::Action(Actions::DASH), ["KeyK", "pointer:secondary", "pad:west"]),
            (Meaning::Action(Actions::RUN), ["ShiftLeft", "ShiftRight", "pad:right-trigger"]),
            (Meaning::Action(Actions::CROUCH), ["ControlLeft", "KeyC", "pad:east"]),
        ];
        let own = [
            ["KeyE", "pad:north"],
            ["KeyF", "pad:left-shoulder"],
            ["KeyV", "pad:right-shoulder"],
            ["KeyX", "pad:left-trigger"],
            ["KeyZ", "pad:right-stick"],
        ];
        let mut bind = |meaning: Meaning, names: &[&str]| {
            let chords = names.iter().filter_map(|name| Chord::named(name).ok());
            bindings.chords.extend(chords.map(|chord| (chord, meaning)));
        };
        for (meaning, names) in &all {
            bind(*meaning, names);
        }
        for (number, names) in (0..).zip(&own) {
            bind(Meaning::Action(Actions::own(number)), names);
        }
        bindings.stick = Some(Stick::Left);
        bindings
    }
}

impl Bindings {
    /// No bindings, except the default rule for the look.
    #[must_use]
    pub fn none() -> Self {
        Self {
            opposites: Opposites::Neither,
            chords: Vec::new(),
            gestures: Vec::new(),
            stick: None,
            shaping: Shaping::default(),
            look: LookRule::default(),
            rise_time: 0.0,
            fall_time: 0.0,
        }
    }

    /// The chords that stand for a meaning, in order.
    pub fn chords_of(&self, meaning: Meaning) -> impl Iterator<Item = &Chord> {
        self.chords.iter().filter(move |(_, own)| *own == meaning).map(|(chord, _)| chord)
    }

    /// Adds a chord for a meaning.
    pub fn bind(&mut self, chord: Chord, meaning: Meaning) {
        if !self.chords.contains(&(chord.clone(), meaning)) {
            self.chords.push((chord, meaning));
        }
    }

    /// Adds a chord that presses an action by a gesture.
    ///
    /// ```
    /// use rasant::input::{Chord, Gesture};
    /// use rasant::{Actions, Bindings};
    ///
    /// let mut bindings = Bindings::default();
    /// bindings.bind_gesture(Chord::named("KeyD")?, Gesture::DoubleTap { within: 0.3 }, Actions::DASH);
    /// # Ok::<(), rasant::input::SourceError>(())
    /// ```
    pub fn bind_gesture(&mut self, chord: Chord, gesture: Gesture, action: Actions) {
        self.gestures.push((chord, gesture, action));
    }

    /// Removes every chord of a meaning, with its gestures.
    pub fn unbind(&mut self, meaning: Meaning) {
        self.chords.retain(|(_, own)| *own != meaning);
        self.gestures.retain(|(_, _, action)| Meaning::Action(*action) != meaning);
    }

    /// Chords that stand for two things, each once.
    #[must_use]
    pub fn conflicts(&self) -> Vec<Conflict> {
        let mut conflicts = Vec::new();
        for (i, (chord, meaning)) in self.chords.iter().enumerate() {
            let others = self.chords[i + 1..].iter().filter(|(other, its)| other == chord && its != meaning);
            conflicts
                .extend(others.map(|(_, its)| Conflict { chord: chord.clone(), meanings: (*meaning, *its) }));
        }
        conflicts
    }
}
