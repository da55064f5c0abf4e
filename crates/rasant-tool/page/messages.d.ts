// The messages between the page and the tool. Generated from the Rust types in
// src/play/messages: do not edit.

/** A message of the tool. */
export type Answer = HelloMessage | PlaceMessage | NumbersMessage | BindingsMessage | GhostsMessage | ReplayedMessage | FiguresMessage | MeasurementMessage | FrameMessage | SeriesMessage | LinkMessage | ProblemMessage | NoteMessage;

/** The first message: all that can be changed and opened. */
export interface HelloMessage {
  knobs: Array<KnobInfo>;
  levels: Array<string>;
  message: "hello";
  padAxes: Array<string>;
  /** The names of the buttons and axes of gamepads, in the order of the W3C mapping. */
  padButtons: Array<string>;
  /** The names of the buttons of the pointer, in the order of W3C Pointer Events. */
  pointerButtons: Array<string>;
  /** The shapes that a hull can have. */
  shapes: Array<string>;
  trials: Array<string>;
  tunings: Array<string>;
}

/** All of a place that does not move. */
export interface PlaceMessage {
  /** Whether it differs from its file. */
  changed: boolean;
  /** The columns of a trace that can be plotted. */
  columns: Array<ColumnInfo>;
  dimensions: number;
  /** The kinds of zones that can be added, with their own fields. */
  kinds: Array<ZoneKind>;
  max: Array<number>;
  message: "place";
  min: Array<number>;
  parts: Array<PlacePart>;
  /** Ticks a second. */
  rate: number;
  /** Whether it is the same place, changed while it is played. */
  reshaped: boolean;
  shapes: Array<Shape>;
  /** Its file, if it has one. */
  source: string | null;
  /** The names of surfaces, by their numbers. */
  surfaces: Array<string>;
  title: string;
  /** What is played, as it was asked for. */
  trial: string;
  zones: Array<Zone>;
}

/** The numbers of the tuning. */
export interface NumbersMessage {
  /** Every action that means something with these numbers, in the order of the pad. */
  actions: Array<string>;
  /** The moves that actions start, by name. */
  controls: Array<Control>;
  /** Those of the file. */
  file: Array<number | null>;
  fileShape: string;
  /** Which sets of numbers are kept. */
  kept: [boolean, boolean];
  message: "numbers";
  /** The least and the greatest value that each can have now: sizes of a hull bound each other. */
  ranges: Array<[number, number] | null>;
  redo: number;
  /** The hull's shape, and that of the file. */
  shape: string;
  /** The file that the numbers are saved to, if they have one. */
  source: string | null;
  /** How steer becomes a direction: `side`, `plan`, `view`, `body`, `gaze` or `hop`. */
  steering: string;
  title: string;
  /** How many changes can be taken back, and made again. */
  undo: number;
  /** By the order of [`Hello::knobs`]; nothing for sizes that the hull does not have. */
  values: Array<number | null>;
}

/** Which key does what. */
export interface BindingsMessage {
  bindings: Array<Binding>;
  /** Whether they differ from their file, or from the default ones. */
  changed: boolean;
  /** Chords that mean two things, in words. */
  conflicts: Array<string>;
  message: "bindings";
  /** The file that they are saved to, if they have one. */
  source: string | null;
}

/** Earlier attempts. */
export interface GhostsMessage {
  ghosts: Array<Ghost>;
  message: "ghosts";
  /** Whether inputs are simulated again after each change. */
  replays: boolean;
}

/** The attempt's inputs under other numbers. */
export interface ReplayedMessage {
  /** What it came to as it was. */
  before: Summary;
  message: "replayed";
  /** After how many ticks the two are a millimetre apart. */
  parts: number | null;
  path: Array<Array<number>>;
  summary: Summary;
}

export interface FiguresMessage {
  figures: Array<Figure>;
  message: "figures";
}

/** What lies between two points. */
export interface MeasurementMessage {
  /** Level distance, height and length, in metres. */
  across: number;
  from: Array<number>;
  length: number;
  message: "measurement";
  /** How far a jump at full speed goes to that height; nothing if it does not reach it. */
  reach: number | null;
  to: Array<number>;
  up: number;
}

/** The body, and what has happened since the last frame. */
export interface FrameMessage {
  body: Body;
  /** Where carriers have taken the shapes that ride on them, in the order of the place. */
  carried: Array<Outline>;
  debug: Debug | null;
  /** Whether it is the first of an attempt. */
  fresh: boolean;
  length: number;
  message: "frame";
  paused: boolean;
  /** Whether it answers a frame of the page. */
  requested: boolean;
  /** The stretch that is repeated. */
  stretch: [number, number] | null;
  /** How many ticks it is from the start, and how many are kept. */
  tick: number;
  /** Every tick that was simulated for it, in their order. */
  ticks: Array<Tick>;
}

/** Ticks of the attempt once more, for the plots. */
export interface SeriesMessage {
  columns: Array<string>;
  message: "series";
  ticks: Array<Tick>;
}

/** What a link to a moment says. */
export interface LinkMessage {
  message: "link";
  /** The numbers that are not those of the tuning. */
  numbers: { [key: string]: number };
  /** The hull's shape, if it is not that of the tuning. */
  shape: string | null;
  /** The inputs; nothing if their beginning has been forgotten. */
  tape: string | null;
  tick: number;
  trial: string;
  tuning: string | null;
}

export interface ProblemMessage {
  message: "problem";
  text: string;
}

export interface NoteMessage {
  message: "note";
  text: string;
}

/** A meaning, such as `jump` or `steer left`, and its chords. */
export interface Binding {
  chords: Array<string>;
  meaning: string;
}

/** What a game receives to draw a body, and what drives it. */
export interface Body {
  /** Where it is drawn: the middle of its underside. */
  at: Array<number>;
  facing: Array<number>;
  facingOwner: string;
  /** The same in the simulation, after the last tick. */
  feet: Array<number>;
  footing: string;
  gait: string;
  /** In seconds. */
  gaitAge: number;
  held: Array<string>;
  hover: number;
  hull: Hull;
  /** In metres. */
  lift: number;
  /** Yaw and pitch, in radians. */
  look: [number, number];
  maneuver: Maneuver | null;
  mode: string;
  rise: number;
  rolled: number;
  /** The slope of the ground, in radians. */
  slope: number;
  speed: number;
  /** In radians. */
  spin: number;
  /** The intent of the last tick. */
  steer: [number, number];
  /** The phase of the walking cycle, 0 to 1. */
  stride: number;
  surface: string | null;
  up: Array<number>;
  /** In m/s. */
  velocity: Array<number>;
  /** What drives the velocity, and the facing. */
  velocityOwner: string;
}

/** A change of a draft. */
export type Change =
  /** A new part, at the end of its list. */
  | { do: "add"; fields: { [key: string]: Entry }; of: Parts }
  /** Other values of a part; those without one go. */
  | { do: "set"; fields: { [key: string]: Entry | null }; part: Part }
  /** A part elsewhere. */
  | { by: Array<number>; do: "shift"; part: Part }
  /** The same part once more. */
  | { by: Array<number>; do: "copy"; part: Part }
  /** Several, as one. */
  | { changes: Array<Change>; do: "all" }
  /** A part no more. */
  | { do: "delete"; part: Part }
  /** A piece or zone that goes to and fro, or stands still again. */
  | { by?: Array<number> | null; do: "ride"; part: Part; seconds: number };

/** A column of a trace. */
export interface ColumnInfo {
  name: string;
  unit: string;
}

/** A move and the actions that start it or keep it going. */
export interface Control {
  actions: Array<string>;
  name: string;
}

/** What is drawn for debugging. */
export interface Debug {
  /** Where a jump would go from here, held and tapped. */
  arcs: [Array<Array<number>>, Array<Array<number>>];
  contacts: Array<DebugContact>;
  ground: Array<number> | null;
  /** The normal of the footing, and where the hull touches it. */
  normal: Array<number> | null;
  snap: number;
  /** The direction in which the player steers, of length 0 to 1. */
  steered: Array<number>;
  /** The step height and the snap distance, in metres. */
  step: number;
  timers: Array<DebugTimer>;
}

/** A piece that the hull touches, or nearly. */
export interface DebugContact {
  /** In metres. */
  gap: number;
  normal: Array<number>;
  point: Array<number>;
}

/** Something that counts time. */
export interface DebugTimer {
  name: string;
  seconds: number;
}

/** A value of a part, as its file has it. */
export type Entry =
  /** `true` or `false`. */
  | boolean
  /** A number, as short as it can be. */
  | number
  /** A text. */
  | string
  /** A point, or a list of them. */
  | Array<Entry>
  /** A ball. */
  | { [key: string]: Entry };

/** An event of a tick. */
export interface Event {
  at: Array<number>;
  detail: string | null;
  name: string;
  /** The speed that goes with it, in m/s. */
  speed: number | null;
  /** What was refused, as a sentence. */
  words: string | null;
}

/** What an exported page plays: see `page/viewer.js`. */
export interface Exported {
  ghosts: Array<Ghost>;
  /** The attempt, tick by tick. */
  moments: Array<Moment>;
  place: Place;
  /** How steer becomes a direction. */
  steering: string;
  /** What the whole attempt came to. */
  summary: Summary;
  /** The title of the numbers. */
  title: string;
  /** The version of the tool that wrote it. */
  version: string;
}

/** A figure of the movement sheet. */
export interface Figure {
  /** With the numbers of the file. */
  file: number | null;
  /** The groups of knobs that change it, the first above all. */
  groups: Array<string>;
  meaning: string;
  name: string;
  unit: string;
  value: number;
}

/** How long a gait was shown in a run. */
export interface GaitTimes {
  /** How long in all, in seconds. */
  all_s: number;
  /** Which. */
  gait: string;
  /** How long it was shown when it was shortest, in seconds; nothing where it was cut off only by the beginning and the end of the run. */
  shortest_s: number | null;
  /** How often it began. */
  times: number;
}

/** An earlier attempt. */
export interface Ghost {
  /** How many ticks there are between two points of the path. */
  every: number;
  path: Array<Array<number>>;
  summary: Summary;
  title: string;
}

/** The hull as it is now, in metres. A capsule and a ball are boxes that are rounded as far as they can be. */
export interface Hull {
  depth: number;
  height: number;
  /** How far its middle is above the body's position. */
  middle: number;
  rounding: number;
  shape: string;
  /** Its height when the body stands upright. */
  standing: number;
  width: number;
}

/** A number that can be changed. */
export interface KnobInfo {
  default: number;
  max: number;
  meaning: string;
  min: number;
  path: string;
  unit: string;
  whole: boolean;
}

/** A timed move under way. */
export interface Maneuver {
  name: string;
  phase: string;
  /** How much of the phase has passed, 0 to 1. */
  progress: number;
}

/** An attempt after one of its ticks. */
export interface Moment {
  body: Body;
  carried: Array<Outline>;
  tick: Tick;
}

/** The outline of something solid. */
export type Outline =
  /** A ball; in two dimensions a disc. */
  | { centre: Array<number>; form: "ball"; radius: number }
  /** A line between two points, in two dimensions. */
  | { form: "segment"; points: Array<Array<number>> }
  /** A convex polygon; in three dimensions a facet. */
  | { form: "polygon"; points: Array<Array<number>> }
  /** A convex solid. `faces` lists, face by face, the number of corners and then the numbers of the points. */
  | { faces: Array<number>; form: "solid"; points: Array<Array<number>> };

/** A piece or a zone of a draft. */
export interface Part {
  /** Its place there, from 0. */
  number: number;
  /** Which of the file's lists it is in. */
  of: Parts;
}

/** A list of parts in a level file. */
export type Parts =
  /** `[[piece]]` */
  | "piece"
  /** `[[zone]]` */
  | "zone";

/** All of a place that does not move. */
export interface Place {
  /** Whether it differs from its file. */
  changed: boolean;
  /** The columns of a trace that can be plotted. */
  columns: Array<ColumnInfo>;
  dimensions: number;
  /** The kinds of zones that can be added, with their own fields. */
  kinds: Array<ZoneKind>;
  max: Array<number>;
  min: Array<number>;
  parts: Array<PlacePart>;
  /** Ticks a second. */
  rate: number;
  /** Whether it is the same place, changed while it is played. */
  reshaped: boolean;
  shapes: Array<Shape>;
  /** Its file, if it has one. */
  source: string | null;
  /** The names of surfaces, by their numbers. */
  surfaces: Array<string>;
  title: string;
  /** What is played, as it was asked for. */
  trial: string;
  zones: Array<Zone>;
}

/** A part of the level's file that can be changed. */
export interface PlacePart {
  fields: { [key: string]: Entry };
  part: Part;
  /** How it moves, if it does. */
  ride: Way | null;
}

/** Something that the player did, `at` milliseconds after the frame began. */
export type PlayerInput =
  /** A key, by its `code` of W3C UI Events. */
  | { at: number; code: string; down: boolean; input: "key" }
  /** A button of a gamepad. */
  | { at: number; button: string; down: boolean; input: "pad-button"; pad: number }
  /** An axis of a gamepad. */
  | { at: number; axis: string; input: "pad-axis"; pad: number; value: number }
  /** A button of the pointer. */
  | { at: number; button: string; down: boolean; input: "pointer-button" }
  /** A notch of the wheel. */
  | { at: number; input: "wheel"; turn: string }
  /** The pointer moved by so many pixels. */
  | { at: number; input: "pointer-moved"; x: number; y: number }
  /** An action, pressed or released on the screen. */
  | { action: string; at: number; down: boolean; input: "action" }
  /** The stick on the screen. */
  | { at: number; input: "steer"; x: number; y: number }
  /** The page is no longer in front. */
  | { at: number; input: "away" };

/** A message of the page. Unknown fields are errors. */
export type Request =
  /** Opens a trial or a level, with its own tuning or with another. */
  | { request: "open"; trial: string; tuning?: string | null }
  /** Opens what a link says: a trial, a tuning, the numbers that differ from it, the inputs, and the tick to hold at. */
  | { numbers: { [key: string]: number }; request: "open-link"; shape?: string | null; tape?: string | null; tick: number; trial: string; tuning?: string | null }
  /** A frame of so many milliseconds has passed, in which the player did this. */
  | { events: Array<PlayerInput>; ms: number; request: "frame" }
  /** Changes a number. Changes of one number in a row with the same `drag` are one step of undo. */
  | { drag?: number | null; knob: string; request: "turn"; value: number }
  /** Changes the hull's shape: `capsule`, `ball` or `box`. */
  | { request: "hull-shape"; shape: string }
  /** Puts numbers back to those of the file. */
  | { knobs: Array<string>; request: "reset" }
  /** Takes back the last change of numbers or of the place. */
  | { request: "undo" }
  /** Makes the change again that was taken back last. */
  | { request: "redo" }
  /** Keeps the present numbers as set 0 or 1. */
  | { request: "keep"; slot: number }
  /** Takes the numbers of set 0 or 1. */
  | { request: "take"; slot: number }
  /** Writes the numbers to their file, or to a new one of this name. */
  | { name?: string | null; request: "save" }
  /** Changes the place; the body stays where it is. */
  | { change: Change; request: "change-place" }
  /** Writes the place to its file, or to a new one of this name. */
  | { name?: string | null; request: "save-place" }
  /** Puts the body at another start. */
  | { at: Array<number>; request: "start" }
  /** Measures between two points, and how far a jump goes from the one toward the other. */
  | { from: Array<number>; request: "measure"; to: Array<number> }
  /** Repeats the ticks of a stretch, or ends the repeating. */
  | { request: "repeat"; ticks?: [number, number] | null }
  /** Writes the attempt so far as a recording, with a trial that plays it. */
  | { name: string; request: "record" }
  /** Holds the simulation, or lets it go on. */
  | { on: boolean; request: "pause" }
  /** Sets the speed: simulated seconds per second, 0.05 to 1. */
  | { factor: number; request: "speed" }
  /** Goes to a tick and holds there. */
  | { request: "seek"; tick: number }
  /** Goes on by one tick and holds there. */
  | { request: "step" }
  /** Starts again. */
  | { request: "restart" }
  /** Keeps the attempt so far as a ghost. */
  | { request: "keep-ghost" }
  /** Forgets a ghost. */
  | { ghost: number; request: "forget-ghost" }
  /** Whether frames carry what is drawn for debugging. */
  | { on: boolean; request: "debug" }
  /** Whether the attempt's inputs are simulated again after each change of a number. */
  | { on: boolean; request: "replay-inputs" }
  /** The columns of a trace that ticks carry, for the plots. */
  | { columns: Array<string>; request: "columns" }
  /** Asks for the ticks `from` to `to` (not included) of the attempt once more. */
  | { from: number; request: "series"; to: number }
  /** Binds a chord such as `ShiftLeft + KeyE` to an action, or to `steer left`. */
  | { chord: string; meaning: string; request: "bind" }
  /** Takes a chord away from a meaning. */
  | { chord: string; meaning: string; request: "unbind" }
  /** Puts the bindings back to those of their file, or to the default ones. */
  | { request: "reset-bindings" }
  /** Writes the bindings to their file, or to a new one of this name. */
  | { name?: string | null; request: "save-bindings" }
  /** Asks for what a link to the present moment says. */
  | { request: "link" }
  /** Writes the attempt as one page that opens without the tool. */
  | { name: string; request: "export" };

/** Something solid. */
export interface Shape {
  /** The carrier that it rides on. */
  carrier: number | null;
  oneWay: boolean;
  outline: Outline;
  surface: number;
}

/** What a run comes to. */
export interface Summary {
  /** The time airborne, in seconds. */
  airborne_s: number;
  /** How far along x the end is from the start, in metres. */
  distance_m: number;
  /** How long, in seconds. */
  duration_s: number;
  /** Where the body ended, in metres. */
  end_m: Array<number>;
  /** The greatest speed in any direction, in m/s. */
  fastest_m_per_s: number;
  /** What an animation was to show, in the order in which it first was. */
  gaits: Array<GaitTimes>;
  /** The hardest landing, in m/s. */
  hardest_landing_m_per_s: number;
  /** The greatest height of the underside above the start, in metres; the exact tops of rises count. Nothing for a body that is seen from above: it has no up. */
  highest_m: number | null;
  /** How many jumps took off. */
  jumps: number;
  /** How many landings there were. */
  landings: number;
  /** Ticks a second. */
  rate: number;
  /** How many ticks were run. */
  ticks: number;
  /** What the trial is called. */
  title: string;
  /** The length of the path between, in metres. */
  travelled_m: number;
}

/** A tick. */
export interface Tick {
  events: Array<Event>;
  feet: Array<number>;
  /** How high the hull was, in metres. */
  height: number;
  /** Whether a maneuver was under way. */
  maneuver: boolean;
  mode: string;
  tick: number;
  /** The columns that were asked for, in their order. */
  values: Array<Value>;
}

/** A value of a column. */
export type Value =
  /** Numbers, flags as 0 and 1. */
  | number
  /** Words. */
  | string;

/** One way of a carrier. */
export interface Way {
  /** In metres, along each axis. */
  by: Array<number>;
  /** How long it takes. */
  seconds: number;
}

/** A region with effects. */
export interface Zone {
  /** The names of its effects; `zone` if it has none. */
  kinds: Array<string>;
  max: Array<number>;
  min: Array<number>;
  name: string;
}

/** A kind of zone, and the fields that it has beside its box. */
export interface ZoneKind {
  fields: { [key: string]: Entry };
  kind: string;
}

/** Which fields each message has: see messages.js. */
export const FIELDS: Record<string, unknown>;
