//! Device events in, one intent per tick out.
//!
//! # When an event counts
//! A tick at time `t` sees every event with a time up to `t` that no tick has seen yet; later ones
//! wait. So an event before a tick's time is in that tick, an event on a frame without ticks waits
//! for the next tick, and of three ticks in a frame only the first sees a press. An event that
//! arrives after the tick that should have seen it is in the next tick.
//!
//! One thing is delayed: if an action that was pressed in a tick is pressed again before the end of
//! that tick, that press and all later events move to the next tick. So as many presses are seen as
//! were made, in their order.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::time::Duration;

use glam::Vec2;

use super::bindings::{Bindings, Chord, Direction, End, Gesture, Meaning, Opposites, Source, Stick};
use super::device::{DeviceEvent, PadAxis, Press, TimedEvent};
use super::{Actions, Intent, Look};

/// How far an axis must be pushed to count as a button, and how far it must return to count as
/// released.
const PUSHED: f32 = 0.5;
const LET_GO: f32 = 0.4;
/// The longest time between two ticks, in seconds, for which a stick turns the look. A pause does
/// not turn the view around.
const LONGEST: f32 = 0.25;
/// The look stays this far from straight up and down, in radians.
const STEEPEST_LOOK: f32 = 89.0 * core::f32::consts::PI / 180.0;

/// Something that is held down, with the number of its gamepad (0 if it is on none).
type Held = (u8, Source);

/// Turns the device events of one player into intents.
///
/// ```
/// use rasant::{Actions, Bindings, DeviceEvent, Key, Press, Sampler};
/// use std::time::Duration;
///
/// let mut sampler = Sampler::new(Bindings::default());
/// let space = Key::named("Space").expect("a code of UI Events");
/// let at = Duration::from_millis;
/// sampler.event(at(3), DeviceEvent::Key(space, Press::Down)); // as the window tells it
/// sampler.event(at(9), DeviceEvent::Key(space, Press::Up)); // a tap shorter than a tick
/// let intent = sampler.tick(at(16));
/// assert!(intent.pressed.contains(Actions::JUMP) && intent.released.contains(Actions::JUMP));
/// assert!(sampler.tick(at(33)).pressed.is_empty(), "seen by one tick");
/// ```
#[derive(Clone, Debug)]
pub struct Sampler {
    bindings: Bindings,
    /// The only gamepad that is listened to, or `None` for all.
    pad: Option<u8>,
    waiting: VecDeque<TimedEvent>,
    /// What is held down, in the order of pressing.
    held: Vec<Held>,
    /// What was held down when it was rebound. It is ignored until it is released.
    stale: Vec<Held>,
    /// The axes of the sticks of each gamepad that has moved one.
    pads: Vec<(u8, [f32; 4])>,
    actions: Actions,
    /// The progress of each gesture of the bindings.
    gestures: Vec<Progress>,
    /// The directions that are held, in the order of pressing.
    directions: Vec<Direction>,
    /// Steering by keys, with its rise and fall times applied.
    keyed: Vec2,
    look: Look,
    last_tick: Duration,
    capturing: bool,
    captured: Option<Source>,
}

impl Sampler {
    /// A sampler with nothing held.
    #[must_use]
    pub fn new(bindings: Bindings) -> Self {
        Self {
            bindings,
            pad: None,
            waiting: VecDeque::new(),
            held: Vec::new(),
            stale: Vec::new(),
            pads: Vec::new(),
            actions: Actions::NONE,
            gestures: Vec::new(),
            directions: Vec::new(),
            keyed: Vec2::ZERO,
            look: Look::default(),
            last_tick: Duration::ZERO,
            capturing: false,
            captured: None,
        }
    }

    /// The sampler, listening to one gamepad only: for one of several players.
    #[must_use]
    pub fn with_pad(mut self, pad: u8) -> Self {
        self.pad = Some(pad);
        self
    }

    /// The bindings.
    #[must_use]
    pub fn bindings(&self) -> &Bindings {
        &self.bindings
    }

    /// Changes the bindings from the next tick on. What is held down is released then, and ignored
    /// until it is pressed again. Sticks continue to steer.
    pub fn rebind(&mut self, bindings: Bindings) {
        self.bindings = bindings;
        self.stale.append(&mut self.held);
        self.directions.clear();
        self.gestures.clear();
        self.keyed = Vec2::ZERO;
    }

    /// Where the player looks.
    #[must_use]
    pub fn look(&self) -> Look {
        self.look
    }

    /// Sets the look, as after a respawn. A yaw or pitch that is not finite is left unchanged.
    pub fn set_look(&mut self, look: Look) {
        let kept = |new: f32, old: f32| if new.is_finite() { new } else { old };
        let Look { yaw, pitch } = self.look;
        self.look = Look { yaw: kept(look.yaw, yaw), pitch: kept(look.pitch, pitch) };
    }

    /// Captures the next press instead of passing it on: for "press the key for jump".
    /// [`Self::captured`] returns it. What is held down already, and other players' gamepads, are
    /// ignored.
    pub fn capture(&mut self) {
        self.capturing = true;
        self.captured = None;
    }

    /// The source that was pressed since [`Self::capture`]. Returned once.
    pub fn captured(&mut self) -> Option<Source> {
        self.captured.take()
    }

    /// Adds an event. Events are kept in the order of their times, and those with the same time in
    /// the order in which they arrive.
    pub fn event(&mut self, time: Duration, event: DeviceEvent) {
        if self.capturing
            && let Some(source) = Source::pressed_in(&event)
            && self.is_own(&event)
            && !self.is_down((pad_of(&event), source))
        {
            self.capturing = false;
            self.captured = Some(source);
            return;
        }
        let after = self.waiting.iter().rposition(|other| other.time <= time).map_or(0, |at| at + 1);
        self.waiting.insert(after, TimedEvent { time, event });
    }

    /// The intent of the tick at `time`. A time before that of the last tick counts as that of the
    /// last tick.
    pub fn tick(&mut self, time: Duration) -> Intent {
        let time = time.max(self.last_tick);
        self.gestures.resize(self.bindings.gestures.len(), Progress::default());
        let dt = time.saturating_sub(self.last_tick).as_secs_f32();
        self.last_tick = time;
        // Actions that other bindings ended are released, and none is pressed.
        let now = self.actions_held() & self.actions;
        let (mut pressed, mut released) = (Actions::NONE, self.actions.difference(now));
        self.actions = now;
        let mut is_kept = false;
        while let Some(next) = self.waiting.front().filter(|next| next.time <= time).copied() {
            let event = next.event;
            let kept = (self.held.clone(), self.pads.clone(), self.gestures.clone());
            // Gestures that were held for long enough before this event.
            let is_second = !self.note_actions(next.time, &mut pressed, &mut released);
            let turned = if is_second { None } else { self.take(&event) };
            if is_second || !self.note_actions(next.time, &mut pressed, &mut released) {
                // A second press: it waits, with all later events.
                (self.held, self.pads, self.gestures) = kept;
                is_kept = true;
                break;
            }
            self.waiting.pop_front();
            self.note_directions();
            if let DeviceEvent::Wheel(turn) = event {
                self.hold((0, Source::Wheel(turn)), Press::Up);
                self.note_actions(next.time, &mut pressed, &mut released);
                self.note_directions();
            }
            if let Some(turned) = turned {
                self.turn(turned);
            }
        }
        if !is_kept && !self.gestures.is_empty() {
            let kept = self.gestures.clone();
            if !self.note_actions(time, &mut pressed, &mut released) {
                self.gestures = kept;
            }
        }
        let target = self.keyed_target();
        self.keyed = Vec2::new(self.ramp(self.keyed.x, target.x, dt), self.ramp(self.keyed.y, target.y, dt));
        if let Some(stick) = self.bindings.look.stick {
            let pushed = self.stick(stick);
            self.turn(pushed * (self.bindings.look.stick_rate * dt.min(LONGEST)));
        }
        Intent { steer: self.steer(), look: self.look, held: self.actions, pressed, released }
    }

    /// Returns true if an event comes from this player's devices.
    fn is_own(&self, event: &DeviceEvent) -> bool {
        match *event {
            DeviceEvent::Pad { pad, .. } | DeviceEvent::PadMoved { pad, .. } => {
                self.pad.is_none_or(|own| own == pad)
            }
            _ => true,
        }
    }

    /// Applies an event. Returns the turn of the look to the right and up, if it has one.
    fn take(&mut self, event: &DeviceEvent) -> Option<Vec2> {
        if !self.is_own(event) {
            return None;
        }
        match *event {
            DeviceEvent::Key(key, press) => self.hold((0, Source::Key(key)), press),
            DeviceEvent::Pointer(button, press) => self.hold((0, Source::Pointer(button)), press),
            DeviceEvent::Wheel(turn) => self.hold((0, Source::Wheel(turn)), Press::Down),
            DeviceEvent::Pad { pad, button, press } => self.hold((pad, Source::Pad(button)), press),
            DeviceEvent::PadMoved { pad, axis, value } if value.is_finite() => self.push(pad, axis, value),
            DeviceEvent::PointerMoved { x, y } if x.is_finite() && y.is_finite() => {
                let up = if self.bindings.look.invert_y { y } else { -y };
                return Some(Vec2::new(x, up) * self.bindings.look.per_count);
            }
            DeviceEvent::FocusLost => {
                self.held.clear();
                self.stale.clear();
                self.pads.clear();
                self.gestures.fill(Progress::default());
                self.keyed = Vec2::ZERO;
            }
            _ => {}
        }
        None
    }

    /// Returns true if a source is held down, whatever it stands for.
    fn is_down(&self, source: Held) -> bool {
        self.held.contains(&source) || self.stale.contains(&source)
    }

    fn hold(&mut self, source: Held, press: Press) {
        if let Some(stale) = self.stale.iter().position(|held| *held == source) {
            if press == Press::Up {
                self.stale.remove(stale);
            }
            return;
        }
        let place = self.held.iter().position(|held| *held == source);
        match (press, place) {
            (Press::Down, None) => self.held.push(source),
            (Press::Up, Some(place)) => {
                self.held.remove(place);
            }
            _ => {}
        }
    }

    fn push(&mut self, pad: u8, axis: PadAxis, value: f32) {
        let known = self.pads.iter().position(|(other, _)| *other == pad);
        let place = known.unwrap_or_else(|| {
            self.pads.push((pad, [0.0; 4]));
            self.pads.len() - 1
        });
        self.pads[place].1[axis as usize] = value.clamp(-1.0, 1.0);
        for (end, along) in [(End::Positive, value), (End::Negative, -value)] {
            if along > PUSHED {
                self.hold((pad, Source::PadAxis(axis, end)), Press::Down);
            } else if along < LET_GO {
                self.hold((pad, Source::PadAxis(axis, end)), Press::Up);
            }
        }
    }

    fn is_held(&self, chord: &Chord) -> bool {
        chord.sources().iter().all(|source| self.held.iter().any(|(_, held)| held == source))
    }

    fn actions_held(&self) -> Actions {
        let by_gestures = self.bindings.gestures.iter().zip(&self.gestures).filter(|(_, made)| made.on);
        let made = by_gestures.fold(Actions::NONE, |all, ((_, _, action), _)| all | *action);
        self.bindings.chords.iter().fold(made, |all, (chord, meaning)| match meaning {
            Meaning::Action(action) if self.is_held(chord) => all | *action,
            _ => all,
        })
    }

    /// Adds what is pressed and released at a time. Returns false, and adds nothing, if an action
    /// is pressed that was pressed in this tick already.
    fn note_actions(&mut self, time: Duration, pressed: &mut Actions, released: &mut Actions) -> bool {
        self.note_gestures(time);
        let now = self.actions_held();
        let down = now.difference(self.actions);
        if pressed.intersects(down) {
            return false;
        }
        *pressed |= down;
        *released |= self.actions.difference(now);
        self.actions = now;
        true
    }

    /// Advances each gesture to the state of its chord at a time.
    fn note_gestures(&mut self, time: Duration) {
        for number in 0..self.gestures.len() {
            let (chord, gesture, _) = &self.bindings.gestures[number];
            let (is_held, gesture) = (self.is_held(chord), *gesture);
            self.gestures[number].note(gesture, is_held, time);
        }
    }

    /// Updates the held directions, in the order of pressing.
    fn note_directions(&mut self) {
        for (_, direction) in Direction::NAMES {
            let held = self.bindings.chords_of(Meaning::Steer(direction)).any(|chord| self.is_held(chord));
            let place = self.directions.iter().position(|other| *other == direction);
            match (held, place) {
                (true, None) => self.directions.push(direction),
                (false, Some(place)) => {
                    self.directions.remove(place);
                }
                _ => {}
            }
        }
    }

    /// The steering that the held keys ask for.
    fn keyed_target(&self) -> Vec2 {
        let axis = |negative: Direction, positive: Direction| {
            let place = |direction| self.directions.iter().position(|held| *held == direction);
            match (place(negative), place(positive)) {
                (None, None) => 0.0,
                (Some(_), None) => -1.0,
                (None, Some(_)) => 1.0,
                (Some(n), Some(p)) => match self.bindings.opposites {
                    Opposites::Neither => 0.0,
                    Opposites::Last => {
                        if p > n {
                            1.0
                        } else {
                            -1.0
                        }
                    }
                    Opposites::First => {
                        if p < n {
                            1.0
                        } else {
                            -1.0
                        }
                    }
                },
            }
        };
        Vec2::new(axis(Direction::Left, Direction::Right), axis(Direction::Down, Direction::Up))
    }

    /// Moves a value toward `target` for `dt` seconds. If it must pass 0, it falls to 0 first.
    fn ramp(&self, value: f32, target: f32, dt: f32) -> f32 {
        let toward = |from: f32, to: f32, time: f32, left: f32| {
            let needed = (to - from).abs() * time;
            if needed <= left {
                (to, left - needed)
            } else {
                (from + (to - from).signum() * left / time, 0.0)
            }
        };
        if value * target < 0.0 || target == 0.0 {
            let (fallen, left) = toward(value, 0.0, self.bindings.fall_time, dt);
            if fallen != 0.0 || target == 0.0 {
                return fallen;
            }
            return toward(0.0, target, self.bindings.rise_time, left).0;
        }
        toward(value, target, self.bindings.rise_time, dt).0
    }

    fn stick(&self, stick: Stick) -> Vec2 {
        let (x, y) = match stick {
            Stick::Left => (PadAxis::LeftX, PadAxis::LeftY),
            Stick::Right => (PadAxis::RightX, PadAxis::RightY),
        };
        // The y axis of a gamepad points down. Of several gamepads the one pushed furthest counts.
        let shaped =
            |(_, axes): &(u8, [f32; 4])| self.bindings.shaping.shape(axes[x as usize], -axes[y as usize]);
        let further =
            |far: Vec2, other: Vec2| if other.length_squared() > far.length_squared() { other } else { far };
        self.pads.iter().map(shaped).fold(Vec2::ZERO, further)
    }

    /// The stronger of keys and stick, at most 1 long.
    fn steer(&self) -> Vec2 {
        let keyed = self.keyed.clamp_length_max(1.0);
        let pushed = self.bindings.stick.map_or(Vec2::ZERO, |stick| self.stick(stick));
        if pushed.length_squared() > keyed.length_squared() { pushed } else { keyed }
    }

    /// Turns the look to the right and up.
    fn turn(&mut self, by: Vec2) {
        use core::f32::consts::{PI, TAU};
        let yaw = self.look.yaw - by.x;
        self.look.yaw = yaw - TAU * ((yaw + PI) / TAU).floor();
        self.look.pitch = (self.look.pitch + by.y).clamp(-STEEPEST_LOOK, STEEPEST_LOOK);
    }
}

/// The progress of a gesture.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
struct Progress {
    /// True while its chord is held.
    is_held: bool,
    /// The time of the last press.
    since: Option<Duration>,
    /// True while its action is held.
    on: bool,
}

impl Progress {
    fn note(&mut self, gesture: Gesture, is_held: bool, time: Duration) {
        let goes_down = is_held && !self.is_held;
        self.is_held = is_held;
        match gesture {
            Gesture::Toggle => self.on ^= goes_down,
            Gesture::Hold { time: least } => {
                if goes_down {
                    self.since = Some(time);
                }
                let held_for = self.since.map_or(0.0, |since| time.saturating_sub(since).as_secs_f32());
                self.on = is_held && held_for >= least;
            }
            Gesture::DoubleTap { within } => {
                self.on &= is_held;
                if !goes_down {
                    return;
                }
                let before = self.since.map(|since| time.saturating_sub(since).as_secs_f32());
                self.on = before.is_some_and(|before| before <= within);
                // A third press starts over.
                self.since = (!self.on).then_some(time);
            }
        }
    }
}

/// The gamepad of an event; 0 if it comes from none.
fn pad_of(event: &DeviceEvent) -> u8 {
    match *event {
        DeviceEvent::Pad { pad, .. } | DeviceEvent::PadMoved { pad, .. } => pad,
        _ => 0,
    }
}
