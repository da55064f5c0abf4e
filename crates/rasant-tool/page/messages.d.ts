// The messages between the page and the tool. Generated from the Rust types in
// src/play/messages: do not edit.

/** A message of the tool. */
export type Answer = HelloMessage | PlaceMessage | PiecesMessage | NumbersMessage | BindingsMessage | GhostsMessage | ReplayedMessage | FiguresMessage | MeasurementMessage | FrameMessage | SeriesMessage | LinkMessage | ProblemMessage | NoteMessage;

/** The first message: everything that can be changed and opened. */
export interface HelloMessage {
  knobs: Array<KnobInfo>;
  levels: Array<string>;
  message: "hello";
  padAxes: Array<string>;
  /** The names of the buttons and axes of gamepads, in the order of the W3C mapping. */
  padButtons: Array<string>;
  /** The names of the buttons of the pointer, in the order of W3C Pointer Events. */
  pointerButtons: Array<string>;
  /** The possible shapes of a hull. */
  shapes: Array<string>;
  trials: Array<string>;
  tunings: Array<string>;
}

/** Everything in a place that does not move. */
export interface PlaceMessage {
  /** True if it differs from its file. */
  changed: boolean;
  /** The columns of a trace that can be plotted. */
  columns: Array<ColumnInfo>;
  dimensions: number;
  /** The kinds of zones that can be added, with their fields. */
  kinds: Array<ZoneKind>;
  max: Array<number>;
  message: "place";
  min: Array<number>;
  parts: Array<PlacePart>;
  /** Ticks per second. */
  rate: number;
  /** True if it is the same place, changed during play. */
  reshaped: boolean;
  /** Units of length per metre. Every length is in these units. */
  scale: number;
  shapes: Array<Shape>;
  /** Its file, if it has one. */
  source: string | null;
  /** The names of surfaces, by number. */
  surfaces: Array<string>;
  title: string;
  /** The trial or level, as it was requested. */
  trial: string;
  /** The direction of up in the level. */
  up: Array<number>;
  zones: Array<Zone>;
}

/** Changes of single pieces of the place, in order. */
export interface PiecesMessage {
  /** True if the place differs from its file. */
  changed: boolean;
  edits: Array<PieceEdit>;
  message: "pieces";
}

/** The numbers of the tuning. */
export interface NumbersMessage {
  /** Every action that has an effect with these numbers, in the order of the pad. */
  actions: Array<string>;
  /** The moves that actions start, by name. */
  controls: Array<Control>;
  /** The values in the file. */
  file: Array<number | null>;
  fileShape: string;
  /** Which sets of numbers are stored. */
  kept: [boolean, boolean];
  message: "numbers";
  /** The smallest and largest value that each can have now: sizes of a hull limit each other. */
  ranges: Array<[number, number] | null>;
  redo: number;
  /** The shape of the hull, and of the hull in the file. */
  shape: string;
  /** The file that the numbers are saved to, if they have one. */
  source: string | null;
  /** How steer becomes a direction: `side`, `plan`, `view`, `body`, `gaze` or `hop`. */
  steering: string;
  title: string;
  /** The number of changes that can be undone and redone. */
  undo: number;
  /** In the order of [`Hello::knobs`]; null for sizes that the hull does not have. */
  values: Array<number | null>;
}

/** The bindings. */
export interface BindingsMessage {
  bindings: Array<Binding>;
  /** True if they differ from their file, or from the defaults. */
  changed: boolean;
  /** Chords that stand for two things, in words. */
  conflicts: Array<string>;
  message: "bindings";
  /** Those of the second player; empty without one. */
  second: Array<Binding>;
  /** The file that they are saved to, if they have one. */
  source: string | null;
}

/** Earlier attempts. */
export interface GhostsMessage {
  ghosts: Array<Ghost>;
  message: "ghosts";
  /** True if inputs are simulated again after each change. */
  replays: boolean;
}

/** The attempt's inputs with another tuning. */
export interface ReplayedMessage {
  /** The results without the change. */
  before: Summary;
  message: "replayed";
  /** The number of ticks after which the two are a millimetre apart. */
  parts: number | null;
  path: Array<Array<number>>;
  summary: Summary;
}

export interface FiguresMessage {
  figures: Array<Figure>;
  message: "figures";
}

/** The distance between two points. */
export interface MeasurementMessage {
  /** Horizontal distance, height and length, in metres. */
  across: number;
  from: Array<number>;
  length: number;
  message: "measurement";
  /** How far a jump at full speed goes to that height; null if it does not reach it. */
  reach: number | null;
  to: Array<number>;
  up: number;
}

/** The body, and the ticks since the last frame. */
export interface FrameMessage {
  body: Body;
  camera: Camera;
  /** The current outlines of the shapes that move, in the order of the place. Those that were removed have no points. */
  carried: Array<Outline>;
  debug: Debug | null;
  /** True if it is the first of an attempt. */
  fresh: boolean;
  length: number;
  message: "frame";
  /** The other bodies of the trial, in its order. */
  others: Array<Other>;
  paused: boolean;
  /** True if it answers a frame of the page. */
  requested: boolean;
  /** The part that is repeated. */
  stretch: [number, number] | null;
  /** The number of ticks since the start, and the number of recorded ticks. */
  tick: number;
  /** Every tick that was simulated for it, in order. */
  ticks: Array<Tick>;
}

/** Earlier ticks of the attempt, for the plots. */
export interface SeriesMessage {
  columns: Array<string>;
  message: "series";
  ticks: Array<Tick>;
}

/** The content of a link to a moment. */
export interface LinkMessage {
  message: "link";
  /** The numbers that differ from the tuning's. */
  numbers: { [key: string]: number };
  /** The inputs of the second player; null without one. */
  secondTape: string | null;
  /** The shape of the hull, if it differs from the tuning's. */
  shape: string | null;
  /** The inputs; null if their beginning was dropped. */
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

/** A camera in three dimensions: where it is, the direction in which it looks, and the up of its picture. */
export interface Arm {
  ahead: [number, number, number];
  eye: [number, number, number];
  up: [number, number, number];
}

/** A meaning, such as `jump` or `steer left`, and its chords. */
export interface Binding {
  chords: Array<string>;
  meaning: string;
}

/** What a game gets to draw a body, and what drives it. */
export interface Body {
  /** The drawn position: the middle of its underside. */
  at: Array<number>;
  facing: Array<number>;
  facingOwner: string;
  /** The simulated position after the last tick. */
  feet: Array<number>;
  footing: string;
  gait: string;
  /** In seconds. */
  gaitAge: number;
  held: Array<string>;
  hover: number;
  hull: Hull;
  /** The strength of the last landing, 0 to 1. */
  landing: number;
  lean: [number, number];
  /** In metres. */
  lift: number;
  /** Yaw and pitch, in radians. */
  look: [number, number];
  maneuver: Maneuver | null;
  /** 1 or -1. */
  mirror: number;
  mode: string;
  /** Toward its right, and forward: as a fraction of the top speed, and in radians. */
  motion: [number, number];
  overlay: Maneuver | null;
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
  /** In radians per second. */
  turnRate: number;
  up: Array<number>;
  /** In m/s. */
  velocity: Array<number>;
  /** What drives the velocity, and the facing. */
  velocityOwner: string;
}

/** A camera by the numbers of the tuning. */
export interface Camera {
  /** The camera on its arm behind the body, in three dimensions. */
  arm: Arm | null;
  /** The point in the middle of the picture. */
  focus: Array<number>;
}

/** A change to a draft. */
export type Change =
  /** Adds a part at the end of its list. */
  | { do: "add"; fields: { [key: string]: Entry }; of: Parts }
  /** Sets fields of a part. Fields without a value are removed. */
  | { do: "set"; fields: { [key: string]: Entry | null }; part: Part }
  /** Moves a part. */
  | { by: Array<number>; do: "shift"; part: Part }
  /** Adds a copy of a part. */
  | { by: Array<number>; do: "copy"; part: Part }
  /** Several changes as one. */
  | { changes: Array<Change>; do: "all" }
  /** Removes a part. */
  | { do: "delete"; part: Part }
  /** Makes a piece or zone move to and fro, or stand still again. */
  | { by?: Array<number> | null; do: "ride"; part: Part; seconds: number };

/** A column of a trace. */
export interface ColumnInfo {
  name: string;
  unit: string;
}

/** A move, with the actions that start or sustain it. */
export interface Control {
  actions: Array<string>;
  name: string;
}

/** What is drawn for debugging. */
export interface Debug {
  /** The paths of a jump from here, held and tapped. */
  arcs: [Array<Array<number>>, Array<Array<number>>];
  contacts: Array<DebugContact>;
  ground: Array<number> | null;
  /** The normal of the footing, and the point where the hull touches it. */
  normal: Array<number> | null;
  snap: number;
  /** The direction of the steering, with a length of 0 to 1. */
  steered: Array<number>;
  /** The step height and the snap distance, in metres. */
  step: number;
  timers: Array<DebugTimer>;
}

/** A piece near the hull. */
export interface DebugContact {
  /** In metres. */
  gap: number;
  normal: Array<number>;
  point: Array<number>;
}

/** A timer. */
export interface DebugTimer {
  name: string;
  seconds: number;
}

/** The value of a field. */
export type Entry =
  /** `true` or `false`. */
  | boolean
  /** A number, with the fewest digits. */
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
  /** The speed of the event, in m/s. */
  speed: number | null;
  /** What was refused, as a sentence. */
  words: string | null;
}

/** The content of an exported page: see `page/viewer.js`. */
export interface Exported {
  ghosts: Array<Ghost>;
  /** The attempt, tick by tick. */
  moments: Array<Moment>;
  place: Place;
  /** How steer becomes a direction. */
  steering: string;
  /** The results of the whole attempt. */
  summary: Summary;
  /** The title of the numbers. */
  title: string;
  /** The version of the tool that wrote it. */
  version: string;
}

/** A figure of the movement sheet. */
export interface Figure {
  /** The value with the numbers of the file. */
  file: number | null;
  /** The groups of knobs that affect it, the most important first. */
  groups: Array<string>;
  meaning: string;
  name: string;
  unit: string;
  value: number;
}

/** The times for which a gait was shown in a run. */
export interface GaitTimes {
  /** The total time, in seconds. */
  all_s: number;
  /** The gait. */
  gait: string;
  /** The shortest time for which it was shown, in seconds; `None` if it was only cut off by the beginning and the end of the run. */
  shortest_s: number | null;
  /** How often it began. */
  times: number;
}

/** An earlier attempt. */
export interface Ghost {
  /** The number of ticks between two points of the path. */
  every: number;
  path: Array<Array<number>>;
  summary: Summary;
  title: string;
}

/** The current hull, in metres. A capsule and a ball are boxes with maximal rounding. */
export interface Hull {
  depth: number;
  height: number;
  /** The height of its centre above the body's position. */
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

/** A running maneuver, or an overlay. */
export interface Maneuver {
  name: string;
  phase: string;
  /** The fraction of the phase that has passed, 0 to 1. */
  progress: number;
}

/** An attempt after one of its ticks. */
export interface Moment {
  body: Body;
  camera: Camera;
  carried: Array<Outline>;
  others: Array<Other>;
  tick: Tick;
}

/** Another body than the player's. */
export interface Other {
  body: Body;
  /** True if the second player moves it. */
  isSecondPlayer: boolean;
  name: string;
}

/** The outline of something solid. */
export type Outline =
  /** A ball; in two dimensions a disc. */
  | { centre: Array<number>; form: "ball"; radius: number }
  /** A line between two points, in two dimensions. */
  | { form: "segment"; points: Array<Array<number>> }
  /** A convex polygon; in three dimensions a facet. */
  | { form: "polygon"; points: Array<Array<number>> }
  /** A convex solid. `faces` lists, face by face, the number of corners and the indices of the points. */
  | { faces: Array<number>; form: "solid"; points: Array<Array<number>> };

/** A piece or a zone of a draft. */
export interface Part {
  /** Its index there, from 0. */
  number: number;
  /** The list of the file that it is in. */
  of: Parts;
}

/** A list of parts in a level file. */
export type Parts =
  /** `[[piece]]` */
  | "piece"
  /** `[[zone]]` */
  | "zone";

/** The path of a carrier between its first and its last keyframe. */
export interface PathLeg {
  /** The displacement in metres, along each axis. */
  by: Array<number>;
  /** The duration. */
  seconds: number;
}

/** A change of one piece, which is a shape and a part with one number. */
export interface PieceEdit {
  /** How many pieces there are with this number before the change: 0 for a new one. */
  before: number;
  number: number;
  part: PlacePart | null;
  /** The piece after it; none if it was removed. */
  shape: Shape | null;
}

/** Everything in a place that does not move. */
export interface Place {
  /** True if it differs from its file. */
  changed: boolean;
  /** The columns of a trace that can be plotted. */
  columns: Array<ColumnInfo>;
  dimensions: number;
  /** The kinds of zones that can be added, with their fields. */
  kinds: Array<ZoneKind>;
  max: Array<number>;
  min: Array<number>;
  parts: Array<PlacePart>;
  /** Ticks per second. */
  rate: number;
  /** True if it is the same place, changed during play. */
  reshaped: boolean;
  /** Units of length per metre. Every length is in these units. */
  scale: number;
  shapes: Array<Shape>;
  /** Its file, if it has one. */
  source: string | null;
  /** The names of surfaces, by number. */
  surfaces: Array<string>;
  title: string;
  /** The trial or level, as it was requested. */
  trial: string;
  /** The direction of up in the level. */
  up: Array<number>;
  zones: Array<Zone>;
}

/** A part of the level's file that can be changed. */
export interface PlacePart {
  fields: { [key: string]: Entry };
  part: Part;
  /** Its motion, if it moves. */
  ride: PathLeg | null;
}

/** An input of the player, `at` milliseconds after the beginning of the frame. */
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
  /** The pointer moved by a number of pixels. */
  | { at: number; input: "pointer-moved"; x: number; y: number }
  /** An action, pressed or released on the screen. */
  | { action: string; at: number; down: boolean; input: "action" }
  /** The stick on the screen. */
  | { at: number; input: "steer"; x: number; y: number }
  /** The page lost the focus. */
  | { at: number; input: "away" };

/** A message of the page. Unknown fields are errors. */
export type Request =
  /** Opens a trial or a level, with its own tuning or with another. */
  | { request: "open"; trial: string; tuning?: string | null }
  /** Opens a link: a trial, a tuning, the numbers that differ from it, the inputs, and the tick to pause at. */
  | { numbers: { [key: string]: number }; request: "open-link"; secondTape?: string | null; shape?: string | null; tape?: string | null; tick: number; trial: string; tuning?: string | null }
  /** A frame of this many milliseconds has passed, with the player's inputs. */
  | { events: Array<PlayerInput>; ms: number; request: "frame" }
  /** Changes a number. Consecutive changes of one number with the same `drag` are one step of undo. */
  | { drag?: number | null; knob: string; request: "turn"; value: number }
  /** Changes the hull's shape: `capsule`, `ball` or `box`. */
  | { request: "hull-shape"; shape: string }
  /** Resets numbers to those of the file. */
  | { knobs: Array<string>; request: "reset" }
  /** Undoes the last change of numbers or of the place. */
  | { request: "undo" }
  /** Redoes the last change that was undone. */
  | { request: "redo" }
  /** Stores the current numbers as set 0 or 1. */
  | { request: "keep"; slot: number }
  /** Loads the numbers of set 0 or 1. */
  | { request: "take"; slot: number }
  /** Writes the numbers to their file, or to a new one with this name. */
  | { name?: string | null; request: "save" }
  /** Changes the place; the body stays where it is. */
  | { change: Change; request: "change-place" }
  /** Writes the place to its file, or to a new one with this name. */
  | { name?: string | null; request: "save-place" }
  /** Moves the body to another start. */
  | { at: Array<number>; request: "start" }
  /** Measures between two points, and how far a jump goes from one toward the other. */
  | { from: Array<number>; request: "measure"; to: Array<number> }
  /** Repeats a part of the attempt, or stops repeating. */
  | { request: "repeat"; ticks?: [number, number] | null }
  /** Writes the attempt so far as a recording, with a trial that plays it. */
  | { name: string; request: "record" }
  /** Pauses or resumes the simulation. */
  | { on: boolean; request: "pause" }
  /** Sets the speed: simulated seconds per second, 0.05 to 1. */
  | { factor: number; request: "speed" }
  /** Goes to a tick and pauses there. */
  | { request: "seek"; tick: number }
  /** Advances by one tick and pauses there. */
  | { request: "step" }
  /** Starts again. */
  | { request: "restart" }
  /** Stores the attempt so far as a ghost. */
  | { request: "keep-ghost" }
  /** Removes a ghost. */
  | { ghost: number; request: "forget-ghost" }
  /** Whether frames carry what is drawn for debugging. */
  | { on: boolean; request: "debug" }
  /** Whether the attempt's inputs are simulated again after each change of a number. */
  | { on: boolean; request: "replay-inputs" }
  /** The columns of a trace that ticks carry, for the plots. */
  | { columns: Array<string>; request: "columns" }
  /** Requests the ticks `from` to `to` (excluded) of the attempt. */
  | { from: number; request: "series"; to: number }
  /** Binds a chord such as `ShiftLeft + KeyE` to an action, or to `steer left`. */
  | { chord: string; meaning: string; request: "bind" }
  /** Removes a chord from a meaning. */
  | { chord: string; meaning: string; request: "unbind" }
  /** Resets the bindings to those of their file, or to the defaults. */
  | { request: "reset-bindings" }
  /** Writes the bindings to their file, or to a new one with this name. */
  | { name?: string | null; request: "save-bindings" }
  /** Requests a link to the current moment. */
  | { request: "link" }
  /** Writes the attempt as a page that opens without the tool. */
  | { name: string; request: "export" };

/** Something solid. */
export interface Shape {
  /** True if each frame has its outline: it rides on a carrier, or it may vanish. */
  moves: boolean;
  oneWay: boolean;
  outline: Outline;
  surface: number;
}

/** The summary of a run. */
export interface Summary {
  /** The time in the air, in seconds. */
  airborne_s: number;
  /** The distance along x from the start to the end, in metres. */
  distance_m: number;
  /** The duration, in seconds. */
  duration_s: number;
  /** The final position of the body, in metres. */
  end_m: Array<number>;
  /** The largest speed in any direction, in m/s. */
  fastest_m_per_s: number;
  /** The gaits that were shown, in the order of their first appearance. */
  gaits: Array<GaitTimes>;
  /** The speed of the hardest landing, in m/s. */
  hardest_landing_m_per_s: number;
  /** The largest height of the underside above the start, in metres, including the exact tops of rises. `None` for a body seen from above, which has no up. */
  highest_m: number | null;
  /** The number of jumps. */
  jumps: number;
  /** The number of landings. */
  landings: number;
  /** Ticks per second. */
  rate: number;
  /** Units of length per metre, where this is not 1. All lengths and speeds are then in these units. */
  scale?: number;
  /** The number of ticks. */
  ticks: number;
  /** The title of the trial. */
  title: string;
  /** The length of the path, in metres. */
  travelled_m: number;
}

/** A tick. */
export interface Tick {
  events: Array<Event>;
  feet: Array<number>;
  /** The height of the hull, in metres. */
  height: number;
  /** True if a maneuver was running. */
  maneuver: boolean;
  mode: string;
  tick: number;
  /** The requested columns, in order. */
  values: Array<Value>;
}

/** A value of a column. */
export type Value =
  /** A number; flags are 0 and 1. */
  | number
  /** Words. */
  | string;

/** A region with effects. */
export interface Zone {
  /** The names of its effects; `zone` if it has none. */
  kinds: Array<string>;
  max: Array<number>;
  min: Array<number>;
  name: string;
}

/** A kind of zone, with its fields beside the box. */
export interface ZoneKind {
  fields: { [key: string]: Entry };
  kind: string;
}

/** Which fields each message has: see messages.js. */
export const FIELDS: Record<string, unknown>;
