//! What a page may ask.

use std::time::Duration;

use rasant::input::{PadAxis, PadButton, PointerButton, TimedEvent};
use rasant::{DeviceEvent, Key, Press};
use rasant_lab::files::Change;
use serde::Deserialize;

/// A message of a page.
#[derive(Debug, Deserialize)]
#[serde(tag = "ask", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Ask {
    /// Another trial, with its own tuning or another.
    Open {
        trial: String,
        tuning: Option<String>,
    },
    /// A frame has passed, of so many milliseconds, in which devices said these.
    Frame {
        ms: f64,
        events: Vec<Said>,
    },
    /// A knob is turned. Turns of one knob in a row with the same `drag` are one
    /// step of undo.
    Turn {
        knob: String,
        value: f32,
        drag: Option<u32>,
    },
    /// Knobs go back to what the file says.
    Reset {
        knobs: Vec<String>,
    },
    /// The numbers before, and again those after.
    Undo,
    Redo,
    /// Keeps the numbers of now in one of two places, or takes those kept there.
    Keep {
        place: usize,
    },
    Take {
        place: usize,
    },
    /// Writes the numbers to their file, or to one of this name.
    Save {
        name: Option<String>,
    },
    /// Changes the place, the body where it is.
    Shape {
        change: Change,
    },
    /// Writes the place to its file, or to one of this name.
    SavePlace {
        name: Option<String>,
    },
    /// The body at another start.
    Start {
        at: Vec<f32>,
    },
    /// How far it is between two points, and from the one to the other by a jump.
    Tape {
        from: Vec<f64>,
        to: Vec<f64>,
    },
    /// Plays the ticks of a stretch over and over, or no longer.
    Repeat {
        ticks: Option<[usize; 2]>,
    },
    /// Writes the attempt up to now as a recording, with a trial that plays it.
    Record {
        name: String,
    },
    Pause {
        on: bool,
    },
    Speed {
        by: f32,
    },
    Seek {
        tick: usize,
    },
    Restart,
    /// Keeps the attempt up to now as a ghost.
    Ghost,
    Forget {
        ghost: usize,
    },
    /// Whether the body's inside is told with each frame: timers, contacts, where a
    /// jump would lead.
    Inside {
        on: bool,
    },
    /// Whether the attempt's inputs are played again at each turn of a knob.
    Replay {
        on: bool,
    },
}

/// What a device said, so many milliseconds after the frame began.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Said {
    at: f64,
    #[serde(flatten)]
    what: What,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum What {
    Key(String, bool),
    Pad(u8, String, bool),
    Axis(u8, String, f32),
    Button(String, bool),
    Moved(f32, f32),
    Away(bool),
}

impl Said {
    /// As the library knows it; nothing for a key or button that it does not.
    pub fn event(&self) -> Option<TimedEvent> {
        let press = |down: bool| if down { Press::Down } else { Press::Up };
        let event = match &self.what {
            What::Key(code, down) => DeviceEvent::Key(Key::named(code)?, press(*down)),
            What::Pad(pad, name, down) => {
                DeviceEvent::Pad { pad: *pad, button: PadButton::named(name)?, press: press(*down) }
            }
            What::Axis(pad, name, value) => DeviceEvent::PadMoved {
                pad: *pad,
                axis: PadAxis::named(name)?,
                value: value.clamp(-1.0, 1.0),
            },
            What::Button(name, down) => DeviceEvent::Pointer(PointerButton::named(name)?, press(*down)),
            What::Moved(x, y) => DeviceEvent::PointerMoved { x: *x, y: *y },
            What::Away(true) => DeviceEvent::FocusLost,
            What::Away(false) => return None,
        };
        Some(TimedEvent { time: milliseconds(self.at), event })
    }
}

/// So many milliseconds, of 0 to a quarter of a second: a page that was not drawn for
/// longer has not been played.
pub fn milliseconds(ms: f64) -> Duration {
    let ms = if ms.is_finite() { ms.clamp(0.0, 250.0) } else { 0.0 };
    Duration::from_secs_f64(ms / 1000.0)
}
