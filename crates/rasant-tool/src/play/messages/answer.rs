//! Messages from the tool to the page.
//!
//! Points and directions are lists of 2 or 3 numbers, as many as the place has dimensions, in the units
//! and the axes of its level: metres with y up, unless the level says otherwise.

use std::collections::BTreeMap;

use rasant::tuning::Knob;
use rasant_lab::Summary;
use rasant_lab::files::{self, Fields, unit_in};
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
    Pieces(Pieces),
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
    /// An error.
    pub fn problem(text: impl Into<String>) -> Self {
        Self::Problem { text: text.into() }
    }

    /// A note about what was done.
    pub fn note(text: impl Into<String>) -> Self {
        Self::Note { text: text.into() }
    }
}

messages! {
    /// The first message: everything that can be changed and opened.
    struct Hello {
        pub knobs: Vec<KnobInfo>,
        /// The possible shapes of a hull.
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

    /// Everything in a place that does not move.
    struct Place {
        /// The trial or level, as it was requested.
        pub trial: String,
        pub title: String,
        pub dimensions: usize,
        /// Ticks per second.
        pub rate: u32,
        /// Units of length per metre. Every length is in these units.
        pub scale: f32,
        /// The direction of up in the level.
        pub up: Vec<f64>,
        pub shapes: Vec<Shape>,
        pub zones: Vec<Zone>,
        /// The names of surfaces, by number.
        pub surfaces: Vec<String>,
        pub min: Vec<f64>,
        pub max: Vec<f64>,
        /// The kinds of zones that can be added, with their fields.
        pub kinds: Vec<ZoneKind>,
        pub parts: Vec<PlacePart>,
        /// The columns of a trace that can be plotted.
        pub columns: Vec<ColumnInfo>,
        /// True if it is the same place, changed during play.
        pub reshaped: bool,
        /// True if it differs from its file.
        pub changed: bool,
        /// Its file, if it has one.
        pub source: Option<String>,
    }

    /// Something solid.
    struct Shape {
        pub outline: Outline,
        pub surface: u16,
        /// True if each frame has its outline: it rides on a carrier, or it may vanish.
        pub moves: bool,
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

    /// A kind of zone, with its fields beside the box.
    struct ZoneKind {
        pub kind: &'static str,
        pub fields: Fields,
    }

    /// Changes of single pieces of the place, in order.
    struct Pieces {
        pub edits: Vec<PieceEdit>,
        /// True if the place differs from its file.
        pub changed: bool,
    }

    /// A change of one piece, which is a shape and a part with one number.
    struct PieceEdit {
        pub number: usize,
        /// How many pieces there are with this number before the change: 0 for a new one.
        pub before: usize,
        /// The piece after it; none if it was removed.
        pub shape: Option<Shape>,
        pub part: Option<PlacePart>,
    }

    /// A part of the level's file that can be changed.
    struct PlacePart {
        pub part: files::Part,
        pub fields: Fields,
        /// Its motion, if it moves.
        pub ride: Option<files::PathLeg>,
    }

    /// A column of a trace.
    struct ColumnInfo {
        pub name: &'static str,
        pub unit: &'static str,
    }

    /// The numbers of the tuning.
    struct Numbers {
        pub title: String,
        /// In the order of [`Hello::knobs`]; null for sizes that the hull does not have.
        pub values: Vec<Option<f32>>,
        /// The values in the file.
        pub file: Vec<Option<f32>>,
        /// The smallest and largest value that each can have now: sizes of a hull limit each other.
        pub ranges: Vec<Option<[f32; 2]>>,
        /// The shape of the hull, and of the hull in the file.
        pub shape: &'static str,
        pub file_shape: &'static str,
        /// The file that the numbers are saved to, if they have one.
        pub source: Option<String>,
        /// The number of changes that can be undone and redone.
        pub undo: usize,
        pub redo: usize,
        /// Which sets of numbers are stored.
        pub kept: [bool; 2],
        /// How steer becomes a direction: `side`, `plan`, `view`, `body`, `gaze` or `hop`.
        pub steering: String,
        /// The moves that actions start, by name.
        pub controls: Vec<Control>,
        /// Every action that has an effect with these numbers, in the order of the pad.
        pub actions: Vec<String>,
    }

    /// A move, with the actions that start or sustain it.
    struct Control {
        pub name: String,
        pub actions: Vec<String>,
    }

    /// The bindings.
    struct Bindings {
        pub bindings: Vec<Binding>,
        /// Chords that stand for two things, in words.
        pub conflicts: Vec<String>,
        /// The file that they are saved to, if they have one.
        pub source: Option<String>,
        /// True if they differ from their file, or from the defaults.
        pub changed: bool,
        /// Those of the second player; empty without one.
        pub second: Vec<Binding>,
    }

    /// A meaning, such as `jump` or `steer left`, and its chords.
    struct Binding {
        pub meaning: String,
        pub chords: Vec<String>,
    }

    /// Earlier attempts.
    struct Ghosts {
        pub ghosts: Vec<Ghost>,
        /// True if inputs are simulated again after each change.
        pub replays: bool,
    }

    /// An earlier attempt.
    struct Ghost {
        pub title: String,
        pub path: Vec<Vec<f64>>,
        /// The number of ticks between two points of the path.
        pub every: usize,
        pub summary: Summary,
    }

    /// The attempt's inputs with another tuning.
    struct Replayed {
        pub path: Vec<Vec<f64>>,
        pub summary: Summary,
        /// The results without the change.
        pub before: Summary,
        /// The number of ticks after which the two are a millimetre apart.
        pub parts: Option<usize>,
    }

    /// A figure of the movement sheet.
    struct Figure {
        pub name: &'static str,
        pub unit: &'static str,
        pub value: f64,
        /// The value with the numbers of the file.
        pub file: Option<f64>,
        pub meaning: &'static str,
        /// The groups of knobs that affect it, the most important first.
        pub groups: &'static [&'static str],
    }

    /// The distance between two points.
    struct Measurement {
        pub from: Vec<f64>,
        pub to: Vec<f64>,
        /// Horizontal distance, height and length, in metres.
        pub across: f64,
        pub up: f64,
        pub length: f64,
        /// How far a jump at full speed goes to that height; null if it does not reach it.
        pub reach: Option<f64>,
    }

    /// The body, and the ticks since the last frame.
    struct Frame {
        /// The number of ticks since the start, and the number of recorded ticks.
        pub tick: usize,
        pub length: usize,
        pub paused: bool,
        /// The part that is repeated.
        pub stretch: Option<[usize; 2]>,
        /// True if it is the first of an attempt.
        pub fresh: bool,
        /// True if it answers a frame of the page.
        pub requested: bool,
        pub body: Body,
        pub camera: Camera,
        /// The other bodies of the trial, in its order.
        pub others: Vec<Other>,
        /// Every tick that was simulated for it, in order.
        pub ticks: Vec<Tick>,
        /// The current outlines of the shapes that move, in the order of the place. Those that were removed
        /// have no points.
        pub carried: Vec<Outline>,
        pub debug: Option<Debug>,
    }

    /// A camera by the numbers of the tuning.
    struct Camera {
        /// The point in the middle of the picture.
        pub focus: Vec<f64>,
        /// The camera on its arm behind the body, in three dimensions.
        pub arm: Option<Arm>,
    }

    /// A camera in three dimensions: where it is, the direction in which it looks, and the up of its
    /// picture.
    struct Arm {
        pub eye: [f32; 3],
        pub ahead: [f32; 3],
        pub up: [f32; 3],
    }

    /// What a game gets to draw a body, and what drives it.
    struct Body {
        /// The drawn position: the middle of its underside.
        pub at: Vec<f64>,
        /// The simulated position after the last tick.
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
        /// Toward its right, and forward: as a fraction of the top speed, and in radians.
        pub motion: [f32; 2],
        pub lean: [f32; 2],
        /// 1 or -1.
        pub mirror: f32,
        /// In radians per second.
        pub turn_rate: f32,
        /// The strength of the last landing, 0 to 1.
        pub landing: f32,
        pub overlay: Option<Maneuver>,
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

    /// Another body than the player's.
    struct Other {
        pub name: String,
        /// True if the second player moves it.
        pub is_second_player: bool,
        pub body: Body,
    }

    /// A running maneuver, or an overlay.
    struct Maneuver {
        pub name: String,
        pub phase: String,
        /// The fraction of the phase that has passed, 0 to 1.
        pub progress: f32,
    }

    /// The current hull, in metres. A capsule and a ball are boxes with maximal rounding.
    struct Hull {
        pub shape: &'static str,
        pub width: f32,
        pub height: f32,
        pub depth: f32,
        pub rounding: f32,
        /// The height of its centre above the body's position.
        pub middle: f32,
        /// Its height when the body stands upright.
        pub standing: f32,
    }

    /// A tick.
    struct Tick {
        pub tick: usize,
        pub feet: Vec<f64>,
        /// The height of the hull, in metres.
        pub height: f32,
        pub mode: String,
        /// True if a maneuver was running.
        pub maneuver: bool,
        pub events: Vec<Event>,
        /// The requested columns, in order.
        pub values: Vec<Value>,
    }

    /// An event of a tick.
    struct Event {
        pub name: &'static str,
        pub detail: Option<String>,
        /// What was refused, as a sentence.
        pub words: Option<String>,
        pub at: Vec<f64>,
        /// The speed of the event, in m/s.
        pub speed: Option<f32>,
    }

    /// Earlier ticks of the attempt, for the plots.
    struct Series {
        pub columns: Vec<String>,
        pub ticks: Vec<Tick>,
    }

    /// What is drawn for debugging.
    struct Debug {
        /// The step height and the snap distance, in metres.
        pub step: f32,
        pub snap: f32,
        /// The direction of the steering, with a length of 0 to 1.
        pub steered: Vec<f64>,
        /// The normal of the footing, and the point where the hull touches it.
        pub normal: Option<Vec<f64>>,
        pub ground: Option<Vec<f64>>,
        pub contacts: Vec<DebugContact>,
        pub timers: Vec<DebugTimer>,
        /// The paths of a jump from here, held and tapped.
        pub arcs: [Vec<Vec<f64>>; 2],
    }

    /// A piece near the hull.
    struct DebugContact {
        pub point: Vec<f64>,
        pub normal: Vec<f64>,
        /// In metres.
        pub gap: f32,
    }

    /// A timer.
    struct DebugTimer {
        pub name: &'static str,
        pub seconds: f32,
    }

    /// The content of an exported page: see `page/viewer.js`.
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
        /// The results of the whole attempt.
        pub summary: Summary,
        pub ghosts: Vec<Ghost>,
    }

    /// An attempt after one of its ticks.
    struct Moment {
        pub body: Body,
        pub camera: Camera,
        pub others: Vec<Other>,
        pub tick: Tick,
        pub carried: Vec<Outline>,
    }

    /// The content of a link to a moment.
    struct Link {
        pub trial: String,
        pub tuning: Option<String>,
        /// The shape of the hull, if it differs from the tuning's.
        pub shape: Option<String>,
        /// The numbers that differ from the tuning's.
        pub numbers: BTreeMap<String, f32>,
        /// The inputs; null if their beginning was dropped.
        pub tape: Option<String>,
        /// The inputs of the second player; null without one.
        pub second_tape: Option<String>,
        pub tick: usize,
    }
}

impl KnobInfo {
    /// The knob in a world with `scale` units of length per metre.
    pub fn of(knob: &Knob, scale: f32) -> Self {
        let knob = knob.scaled(scale);
        Self {
            path: knob.path,
            unit: unit_in(knob.unit.sign(), scale),
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
    /// A convex solid. `faces` lists, face by face, the number of corners and the indices of the
    /// points.
    Solid { points: Vec<Vec<f64>>, faces: Vec<u16> },
}

/// A value of a column.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum Value {
    /// A number; flags are 0 and 1.
    Number(f64),
    /// Words.
    Text(String),
}
