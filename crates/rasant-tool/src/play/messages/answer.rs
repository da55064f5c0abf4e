//! What the tool tells the page.
//!
//! Points and directions are lists of 2 or 3 numbers, in metres, as many as the place has
//! dimensions.

use std::collections::BTreeMap;

use rasant::tuning::Knob;
use rasant_lab::Summary;
use rasant_lab::files::{self, Fields};
use serde::Serialize;

/// Derives what every message needs.
macro_rules! messages {
    ($($(#[$attribute:meta])* $kind:ident $Name:ident $body:tt)*) => {$(
        $(#[$attribute])*
        #[derive(Clone, Debug, Serialize)]
        #[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields))]
        #[serde(rename_all = "camelCase")]
        pub $kind $Name $body
    )*};
}

/// A message of the tool.
#[derive(Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "message", rename_all = "kebab-case")]
pub enum Answer {
    Hello(Box<Hello>),
    Place(Box<Place>),
    Numbers(Box<Numbers>),
    Bindings(Bindings),
    Ghosts(Ghosts),
    Replayed(Box<Replayed>),
    Figures { figures: Vec<Figure> },
    Measurement(Measurement),
    Frame(Box<Frame>),
    Series(Series),
    Link(Link),
    Problem { text: String },
    Note { text: String },
}

impl Answer {
    /// Says what is wrong.
    pub fn problem(text: impl Into<String>) -> Self {
        Self::Problem { text: text.into() }
    }

    /// Says what was done.
    pub fn note(text: impl Into<String>) -> Self {
        Self::Note { text: text.into() }
    }
}

messages! {
    /// The first message: all that can be changed and opened.
    struct Hello {
        pub knobs: Vec<KnobInfo>,
        /// The shapes that a hull can have.
        pub shapes: Vec<&'static str>,
        pub trials: Vec<String>,
        pub levels: Vec<String>,
        pub tunings: Vec<String>,
        /// The names of the buttons and axes of gamepads, in the order of the W3C mapping.
        pub pad_buttons: Vec<&'static str>,
        pub pad_axes: Vec<&'static str>,
        /// The names of the buttons of the pointer, in the order of W3C Pointer Events.
        pub pointer_buttons: Vec<&'static str>,
    }

    /// A number that can be changed.
    struct KnobInfo {
        pub path: &'static str,
        pub unit: &'static str,
        pub min: f32,
        pub max: f32,
        pub whole: bool,
        pub default: f32,
        pub meaning: &'static str,
    }

    /// All of a place that does not move.
    struct Place {
        /// What is played, as it was asked for.
        pub trial: String,
        pub title: String,
        pub dimensions: usize,
        /// Ticks a second.
        pub rate: u32,
        pub shapes: Vec<Shape>,
        pub zones: Vec<Zone>,
        /// The names of surfaces, by their numbers.
        pub surfaces: Vec<String>,
        pub min: Vec<f64>,
        pub max: Vec<f64>,
        /// The kinds of zones that can be added, with their own fields.
        pub kinds: Vec<ZoneKind>,
        pub parts: Vec<PlacePart>,
        /// The columns of a trace that can be plotted.
        pub columns: Vec<ColumnInfo>,
        /// Whether it is the same place, changed while it is played.
        pub reshaped: bool,
        /// Whether it differs from its file.
        pub changed: bool,
        /// Its file, if it has one.
        pub source: Option<String>,
    }

    /// Something solid.
    struct Shape {
        pub outline: Outline,
        pub surface: u16,
        /// The carrier that it rides on.
        pub carrier: Option<u16>,
        pub one_way: bool,
    }

    /// A region with effects.
    struct Zone {
        pub name: String,
        /// The names of its effects; `zone` if it has none.
        pub kinds: Vec<&'static str>,
        pub min: Vec<f64>,
        pub max: Vec<f64>,
    }

    /// A kind of zone, and the fields that it has beside its box.
    struct ZoneKind {
        pub kind: &'static str,
        pub fields: Fields,
    }

    /// A part of the level's file that can be changed.
    struct PlacePart {
        pub part: files::Part,
        pub fields: Fields,
        /// How it moves, if it does.
        pub ride: Option<files::Way>,
    }

    /// A column of a trace.
    struct ColumnInfo {
        pub name: &'static str,
        pub unit: &'static str,
    }

    /// The numbers of the tuning.
    struct Numbers {
        pub title: String,
        /// By the order of [`Hello::knobs`]; nothing for sizes that the hull does not have.
        pub values: Vec<Option<f32>>,
        /// Those of the file.
        pub file: Vec<Option<f32>>,
        /// The least and the greatest value that each can have now: sizes of a hull bound each
        /// other.
        pub ranges: Vec<Option<[f32; 2]>>,
        /// The hull's shape, and that of the file.
        pub shape: &'static str,
        pub file_shape: &'static str,
        /// The file that the numbers are saved to, if they have one.
        pub source: Option<String>,
        /// How many changes can be taken back, and made again.
        pub undo: usize,
        pub redo: usize,
        /// Which sets of numbers are kept.
        pub kept: [bool; 2],
        /// How steer becomes a direction: `side`, `plan`, `view`, `body`, `gaze` or `hop`.
        pub steering: String,
        /// The moves that actions start, by name.
        pub controls: Vec<Control>,
        /// Every action that means something with these numbers, in the order of the pad.
        pub actions: Vec<String>,
    }

    /// A move and the actions that start it or keep it going.
    struct Control {
        pub name: String,
        pub actions: Vec<String>,
    }

    /// Which key does what.
    struct Bindings {
        pub bindings: Vec<Binding>,
        /// Chords that mean two things, in words.
        pub conflicts: Vec<String>,
        /// The file that they are saved to, if they have one.
        pub source: Option<String>,
        /// Whether they differ from their file, or from the default ones.
        pub changed: bool,
    }

    /// A meaning, such as `jump` or `steer left`, and its chords.
    struct Binding {
        pub meaning: String,
        pub chords: Vec<String>,
    }

    /// Earlier attempts.
    struct Ghosts {
        pub ghosts: Vec<Ghost>,
        /// Whether inputs are simulated again after each change.
        pub replays: bool,
    }

    /// An earlier attempt.
    struct Ghost {
        pub title: String,
        pub path: Vec<Vec<f64>>,
        /// How many ticks there are between two points of the path.
        pub every: usize,
        pub summary: Summary,
    }

    /// The attempt's inputs under other numbers.
    struct Replayed {
        pub path: Vec<Vec<f64>>,
        pub summary: Summary,
        /// What it came to as it was.
        pub before: Summary,
        /// After how many ticks the two are a millimetre apart.
        pub parts: Option<usize>,
    }

    /// A figure of the movement sheet.
    struct Figure {
        pub name: &'static str,
        pub unit: &'static str,
        pub value: f64,
        /// With the numbers of the file.
        pub file: Option<f64>,
        pub meaning: &'static str,
        /// The groups of knobs that change it, the first above all.
        pub groups: &'static [&'static str],
    }

    /// What lies between two points.
    struct Measurement {
        pub from: Vec<f64>,
        pub to: Vec<f64>,
        /// Level distance, height and length, in metres.
        pub across: f64,
        pub up: f64,
        pub length: f64,
        /// How far a jump at full speed goes to that height; nothing if it does not reach it.
        pub reach: Option<f64>,
    }

    /// The body, and what has happened since the last frame.
    struct Frame {
        /// How many ticks it is from the start, and how many are kept.
        pub tick: usize,
        pub length: usize,
        pub paused: bool,
        /// The stretch that is repeated.
        pub stretch: Option<[usize; 2]>,
        /// Whether it is the first of an attempt.
        pub fresh: bool,
        /// Whether it answers a frame of the page.
        pub requested: bool,
        pub body: Body,
        /// Every tick that was simulated for it, in their order.
        pub ticks: Vec<Tick>,
        /// Where carriers have taken the shapes that ride on them, in the order of the place.
        pub carried: Vec<Outline>,
        pub debug: Option<Debug>,
    }

    /// What a game receives to draw a body, and what drives it.
    struct Body {
        /// Where it is drawn: the middle of its underside.
        pub at: Vec<f64>,
        /// The same in the simulation, after the last tick.
        pub feet: Vec<f64>,
        pub up: Vec<f64>,
        pub facing: Vec<f64>,
        /// In m/s.
        pub velocity: Vec<f64>,
        pub speed: f32,
        pub rise: f32,
        pub mode: String,
        pub gait: String,
        /// In seconds.
        pub gait_age: f32,
        /// The phase of the walking cycle, 0 to 1.
        pub stride: f32,
        pub maneuver: Option<Maneuver>,
        /// In radians.
        pub spin: f32,
        pub rolled: f32,
        /// In metres.
        pub lift: f32,
        pub hover: f32,
        /// What drives the velocity, and the facing.
        pub velocity_owner: String,
        pub facing_owner: String,
        pub footing: String,
        /// The slope of the ground, in radians.
        pub slope: f32,
        pub surface: Option<String>,
        pub hull: Hull,
        /// The intent of the last tick.
        pub steer: [f32; 2],
        /// Yaw and pitch, in radians.
        pub look: [f32; 2],
        pub held: Vec<String>,
    }

    /// A timed move under way.
    struct Maneuver {
        pub name: String,
        pub phase: String,
        /// How much of the phase has passed, 0 to 1.
        pub progress: f32,
    }

    /// The hull as it is now, in metres. A capsule and a ball are boxes that are rounded as
    /// far as they can be.
    struct Hull {
        pub shape: &'static str,
        pub width: f32,
        pub height: f32,
        pub depth: f32,
        pub rounding: f32,
        /// How far its middle is above the body's position.
        pub middle: f32,
        /// Its height when the body stands upright.
        pub standing: f32,
    }

    /// A tick.
    struct Tick {
        pub tick: usize,
        pub feet: Vec<f64>,
        /// How high the hull was, in metres.
        pub height: f32,
        pub mode: String,
        /// Whether a maneuver was under way.
        pub maneuver: bool,
        pub events: Vec<Event>,
        /// The columns that were asked for, in their order.
        pub values: Vec<Value>,
    }

    /// An event of a tick.
    struct Event {
        pub name: &'static str,
        pub detail: Option<String>,
        /// What was refused, as a sentence.
        pub words: Option<String>,
        pub at: Vec<f64>,
        /// The speed that goes with it, in m/s.
        pub speed: Option<f32>,
    }

    /// Ticks of the attempt once more, for the plots.
    struct Series {
        pub columns: Vec<String>,
        pub ticks: Vec<Tick>,
    }

    /// What is drawn for debugging.
    struct Debug {
        /// The step height and the snap distance, in metres.
        pub step: f32,
        pub snap: f32,
        /// The direction in which the player steers, of length 0 to 1.
        pub steered: Vec<f64>,
        /// The normal of the footing, and where the hull touches it.
        pub normal: Option<Vec<f64>>,
        pub ground: Option<Vec<f64>>,
        pub contacts: Vec<DebugContact>,
        pub timers: Vec<DebugTimer>,
        /// Where a jump would go from here, held and tapped.
        pub arcs: [Vec<Vec<f64>>; 2],
    }

    /// A piece that the hull touches, or nearly.
    struct DebugContact {
        pub point: Vec<f64>,
        pub normal: Vec<f64>,
        /// In metres.
        pub gap: f32,
    }

    /// Something that counts time.
    struct DebugTimer {
        pub name: &'static str,
        pub seconds: f32,
    }

    /// What an exported page plays: see `page/viewer.js`.
    struct Exported {
        /// The version of the tool that wrote it.
        pub version: &'static str,
        /// The title of the numbers.
        pub title: String,
        /// How steer becomes a direction.
        pub steering: String,
        pub place: Place,
        /// The attempt, tick by tick.
        pub moments: Vec<Moment>,
        /// What the whole attempt came to.
        pub summary: Summary,
        pub ghosts: Vec<Ghost>,
    }

    /// An attempt after one of its ticks.
    struct Moment {
        pub body: Body,
        pub tick: Tick,
        pub carried: Vec<Outline>,
    }

    /// What a link to a moment says.
    struct Link {
        pub trial: String,
        pub tuning: Option<String>,
        /// The hull's shape, if it is not that of the tuning.
        pub shape: Option<String>,
        /// The numbers that are not those of the tuning.
        pub numbers: BTreeMap<String, f32>,
        /// The inputs; nothing if their beginning has been forgotten.
        pub tape: Option<String>,
        pub tick: usize,
    }
}

impl KnobInfo {
    pub fn of(knob: &Knob) -> Self {
        Self {
            path: knob.path,
            unit: knob.unit.sign(),
            min: knob.min,
            max: knob.max,
            whole: knob.unit.is_whole(),
            default: knob.default,
            meaning: knob.meaning.trim(),
        }
    }
}

/// The outline of something solid.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "form", rename_all = "kebab-case")]
pub enum Outline {
    /// A ball; in two dimensions a disc.
    Ball { centre: Vec<f64>, radius: f32 },
    /// A line between two points, in two dimensions.
    Segment { points: Vec<Vec<f64>> },
    /// A convex polygon; in three dimensions a facet.
    Polygon { points: Vec<Vec<f64>> },
    /// A convex solid. `faces` lists, face by face, the number of corners and then the
    /// numbers of the points.
    Solid { points: Vec<Vec<f64>>, faces: Vec<u16> },
}

/// A value of a column.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum Value {
    /// Numbers, flags as 0 and 1.
    Number(f64),
    /// Words.
    Text(String),
}
