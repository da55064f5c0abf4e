//! Messages from the page to the tool.

use std::collections::BTreeMap;
use std::time::Duration;

use rasant::glam::Vec2;
use rasant::input::{PadAxis, PadButton, PointerButton, WheelTurn};
use rasant::{Actions, DeviceEvent, Key, Press};
use rasant_lab::files::Change;
use rasant_lab::live::{PlayerEvent, TimedPlayerEvent};
use serde::Deserialize;

/// A message of the page. Unknown fields are errors.
#[derive(Debug, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "request", rename_all = "kebab-case", rename_all_fields = "camelCase", deny_unknown_fields)]
pub enum Request {
    /// Opens a trial or a level, with its own tuning or with another.
    Open { trial: String, tuning: Option<String> },
    /// Opens a link: a trial, a tuning, the numbers that differ from it, the inputs, and the tick
    /// to pause at.
    OpenLink {
        trial: String,
        tuning: Option<String>,
        shape: Option<String>,
        numbers: BTreeMap<String, f32>,
        tape: Option<String>,
        /// Links of earlier versions have none.
        #[serde(default)]
        second_tape: Option<String>,
        tick: usize,
    },
    /// A frame of this many milliseconds has passed, with the player's inputs.
    Frame { ms: f64, events: Vec<PlayerInput> },
    /// Changes a number. Consecutive changes of one number with the same `drag` are one step of
    /// undo.
    Turn { knob: String, value: f32, drag: Option<u32> },
    /// Changes the hull's shape: `capsule`, `ball` or `box`.
    HullShape { shape: String },
    /// Resets numbers to those of the file.
    Reset { knobs: Vec<String> },
    /// Undoes the last change of numbers or of the place.
    Undo {},
    /// Redoes the last change that was undone.
    Redo {},
    /// Stores the current numbers as set 0 or 1.
    Keep { slot: usize },
    /// Loads the numbers of set 0 or 1.
    Take { slot: usize },
    /// Writes the numbers to their file, or to a new one with this name.
    Save { name: Option<String> },
    /// Changes the place; the body stays where it is.
    ChangePlace { change: Change },
    /// Writes the place to its file, or to a new one with this name.
    SavePlace { name: Option<String> },
    /// Moves the body to another start.
    Start { at: Vec<f32> },
    /// Measures between two points, and how far a jump goes from one toward the other.
    Measure { from: Vec<f64>, to: Vec<f64> },
    /// Repeats a part of the attempt, or stops repeating.
    Repeat { ticks: Option<[usize; 2]> },
    /// Writes the attempt so far as a recording, with a trial that plays it.
    Record { name: String },
    /// Pauses or resumes the simulation.
    Pause { on: bool },
    /// Sets the speed: simulated seconds per second, 0.05 to 1.
    Speed { factor: f32 },
    /// Goes to a tick and pauses there.
    Seek { tick: usize },
    /// Advances by one tick and pauses there.
    Step {},
    /// Starts again.
    Restart {},
    /// Stores the attempt so far as a ghost.
    KeepGhost {},
    /// Removes a ghost.
    ForgetGhost { ghost: usize },
    /// Whether frames carry what is drawn for debugging.
    Debug { on: bool },
    /// Whether the attempt's inputs are simulated again after each change of a number.
    ReplayInputs { on: bool },
    /// The columns of a trace that ticks carry, for the plots.
    Columns { columns: Vec<String> },
    /// Requests the ticks `from` to `to` (excluded) of the attempt.
    Series { from: usize, to: usize },
    /// Binds a chord such as `ShiftLeft + KeyE` to an action, or to `steer left`.
    Bind { meaning: String, chord: String },
    /// Removes a chord from a meaning.
    Unbind { meaning: String, chord: String },
    /// Resets the bindings to those of their file, or to the defaults.
    ResetBindings {},
    /// Writes the bindings to their file, or to a new one with this name.
    SaveBindings { name: Option<String> },
    /// Requests a link to the current moment.
    Link {},
    /// Writes the attempt as a page that opens without the tool.
    Export { name: String },
}

/// An input of the player, `at` milliseconds after the beginning of the frame.
#[derive(Debug, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "input", rename_all = "kebab-case", deny_unknown_fields)]
pub enum PlayerInput {
    /// A key, by its `code` of W3C UI Events.
    Key { at: f64, code: String, down: bool },
    /// A button of a gamepad.
    PadButton { at: f64, pad: u8, button: String, down: bool },
    /// An axis of a gamepad.
    PadAxis { at: f64, pad: u8, axis: String, value: f32 },
    /// A button of the pointer.
    PointerButton { at: f64, button: String, down: bool },
    /// A notch of the wheel.
    Wheel { at: f64, turn: String },
    /// The pointer moved by a number of pixels.
    PointerMoved { at: f64, x: f32, y: f32 },
    /// An action, pressed or released on the screen.
    Action { at: f64, action: String, down: bool },
    /// The stick on the screen.
    Steer { at: f64, x: f32, y: f32 },
    /// The page lost the focus.
    Away { at: f64 },
}

impl PlayerInput {
    /// The event of the library. `None` for keys, buttons and actions that it does not know:
    /// browsers have more keys than games.
    pub fn event(&self) -> Option<TimedPlayerEvent> {
        let press = |down: bool| if down { Press::Down } else { Press::Up };
        let device = |event| PlayerEvent::Device(event);
        let (at, event) = match self {
            Self::Key { at, code, down } => (at, device(DeviceEvent::Key(Key::named(code)?, press(*down)))),
            Self::PadButton { at, pad, button, down } => {
                let button = PadButton::named(button)?;
                (at, device(DeviceEvent::Pad { pad: *pad, button, press: press(*down) }))
            }
            Self::PadAxis { at, pad, axis, value } => {
                let axis = PadAxis::named(axis)?;
                (at, device(DeviceEvent::PadMoved { pad: *pad, axis, value: value.clamp(-1.0, 1.0) }))
            }
            Self::PointerButton { at, button, down } => {
                (at, device(DeviceEvent::Pointer(PointerButton::named(button)?, press(*down))))
            }
            Self::Wheel { at, turn } => (at, device(DeviceEvent::Wheel(WheelTurn::named(turn)?))),
            Self::PointerMoved { at, x, y } => (at, device(DeviceEvent::PointerMoved { x: *x, y: *y })),
            Self::Action { at, action, down } => {
                (at, PlayerEvent::Action(Actions::named(action)?, press(*down)))
            }
            Self::Steer { at, x, y } => (at, PlayerEvent::Steer(Vec2::new(*x, *y))),
            Self::Away { at } => (at, device(DeviceEvent::FocusLost)),
        };
        Some(TimedPlayerEvent { time: milliseconds(*at), event })
    }
}

/// A duration in milliseconds, clamped to 0 to 250: a page that was not drawn for longer was not
/// played. 0 for NaN and infinities.
pub fn milliseconds(ms: f64) -> Duration {
    let ms = if ms.is_finite() { ms.clamp(0.0, 250.0) } else { 0.0 };
    Duration::from_secs_f64(ms / 1000.0)
}
