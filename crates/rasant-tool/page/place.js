// The editor of the level: picks, moves, resizes and describes its parts.

import { Axes, PLAIN, sorted, unitOf } from "./axes.js";
import { LAMP, PAPER } from "./colours.js";
import { around, make } from "./dom.js";
import { edgesOf } from "./view3d.js";
import { add as sum, along } from "./vectors.js";

/** @import { Change, FrameMessage, MeasurementMessage, Outline, PlaceMessage, PlacePart, PathLeg, Request, ZoneKind } from "./messages.js" */
/** @import { OverlayLine } from "./scene.js" */
/** @import { Point } from "./vectors.js" */
/** @typedef {Record<string, any>} Fields What a part says; its values are of many kinds. */
/** @typedef {{ of: "piece" | "zone", fields: Fields, ride?: PathLeg }} Model */
/** @typedef {import("./view2d.js").View2d | import("./view3d.js").View3d} View */
/** @typedef {{ at: Point, round?: boolean, dragged: (to: Point, exact: Point) => Fields | null }} Handle */

/** The keys of a shape. */
const SHAPES = ["block", "box", "polygon", "segment", "solid", "facet", "ball"];
const AXES = ["x", "y", "z"];
/** The distance at which a handle is picked, in pixels. */
const NEAR = 11;
/** The default time of a platform for one direction, in seconds. */
const USUAL = 3;

const tidy = (/** @type {number} */ value) => Number(value.toFixed(4));
const shapeOf = (/** @type {Fields} */ fields) => SHAPES.find((key) => fields[key] !== undefined);
/** Returns two opposite corners, if the shape has them. @param {Fields} fields @returns {[Point, Point] | null} */
const cornersOf = (fields) => { const key = shapeOf(fields); return key === "block" || key === "box" ? fields[key] : null; };

/** Returns the parts that can be added, as fields at the origin of a level with these axes.
 *  @param {Axes} axes @param {ZoneKind[]} kinds @returns {Record<string, Model[]>} */
function models(axes, kinds) {
  const flat = axes.up.length === 2;
  const at = (/** @type {Point} */ point) => axes.inLevel(point.slice(0, axes.up.length)).map(tidy);
  const box = (/** @type {number} */ w, /** @type {number} */ h, /** @type {number} */ d) => sorted(at([0, 0, 0]), at([w, h, d]));
  const steps = Array.from({ length: 4 }, (_, i) => /** @type {Model} */ ({ of: "piece", fields: { block: box(0.5, 0.2 * (i + 1), 2), at: at([0.5 * i, 0, 0]) } }));
  const ramp = flat ? { polygon: [[0, 0], [3, 0], [3, 1]].map(at) } : { solid: [[0, 0, 0], [3, 0, 0], [3, 1, 0], [0, 0, 2], [3, 0, 2], [3, 1, 2]].map(at) };
  /** @type {Record<string, Model[]>} */
  const pieces = {
    block: [{ of: "piece", fields: { block: box(2, 1, 2) } }],
    "one-way": [{ of: "piece", fields: { block: box(2, 0.2, 2), one_way: true } }],
    ramp: [{ of: "piece", fields: ramp }],
    steps,
    ball: [{ of: "piece", fields: { ball: { centre: at([0, 0.5, 0]), radius: tidy(0.5 * axes.scale) } } }],
    platform: [{ of: "piece", fields: { block: box(2, 0.3, 2) }, ride: { by: at([3, 0, 0]), seconds: USUAL } }],
  };
  for (const { kind, fields } of kinds) pieces[kind] = [{ of: "zone", fields: { box: box(kind === "ladder" ? 0.6 : 2, 3, 2), kind, ...fields } }];
  return pieces;
}

/** @param {Fields} fields @param {Point} by */
function shifted(fields, by) {
  const move = (/** @type {Point} */ point) => point.map((part, i) => tidy(part + by[i]));
  const key = shapeOf(fields);
  if (!key) return fields;
  if (key === "ball") return { ...fields, ball: { ...fields.ball, centre: move(fields.ball.centre) } };
  return { ...fields, [key]: fields[key].map(move) };
}

/** The number of parts that are listed by name. */
const LISTED = 500;

export class PlaceEditor {
  /**
   * @param {HTMLElement} root the panel
   * @param {HTMLElement} stage
   * @param {(request: Request) => void} request
   * @param {() => { view: View, frame: FrameMessage }} seen returns the current view and frame
   * @param {(what: string, usual: string, done: (name: string) => void) => void} askName
   */
  constructor(root, stage, request, seen, askName) {
    this.stage = stage;
    this.request = request;
    this.seen = seen;
    /** Whether the pointer edits the level. */
    this.on = false;
    /** The selected part. @type {string | null} */
    this.chosen = null;
    /** A part to select as soon as it exists. @type {string | null} */
    this.awaited = null;
    this.tool = "pick";
    this.grid = 0.25;
    this.flat = true;
    this.axes = PLAIN;
    /** The name of the unit of length. */
    this.unit = "m";
    /** @type {PlaceMessage | null} */
    this.place = null;
    /** @type {Map<string, PlacePart>} */
    this.parts = new Map();
    /** The last measurement, with its text. @type {{ from: Point, to: Point, words?: string } | null} */
    this.laid = null;
    /** The object that the pointer drags. @type {{ from: Point, at: Point, measures?: boolean, handle?: Handle, by?: Point } | null} */
    this.drag = null;
    /** @type {Map<string, HTMLButtonElement>} */
    this.tools = new Map();
    this.adds = make("div", { className: "adds", role: "group", ariaLabel: "Add to the level, in front of the body" });
    this.list = make("select", { id: "parts", size: 7, ariaLabel: "The parts of the level" });
    this.form = make("div", { id: "part" });
    this.measured = make("p", { id: "measured", ariaLive: "polite" });
    this.save = make("button", { id: "save-place", textContent: "Save level" });
    this.saveAs = make("button", { id: "save-place-as", textContent: "Save level as…", title: "Write it to a new file" });
    this.build(root, askName);
    stage.addEventListener("pointerdown", (event) => this.on && event.button === 0 && this.down(event));
    stage.addEventListener("pointermove", (event) => this.drag && this.moved(event));
    for (const end of ["pointerup", "pointercancel"]) stage.addEventListener(end, () => this.drag && this.up());
  }

  /** @param {HTMLElement} root @param {(what: string, usual: string, done: (name: string) => void) => void} askName */
  build(root, askName) {
    const tools = make("div", { className: "adds", role: "group", ariaLabel: "The effect of the pointer" });
    for (const [name, title] of [["pick", "Pick parts, move them, drag their corners"], ["measure", "Measure from one point to another"], ["start", "Put the body at the pointer, and begin there"]]) {
      const button = make("button", { id: `tool-${name}`, textContent: name, title });
      button.addEventListener("click", () => this.use(name));
      this.tools.set(name, button);
      tools.append(button);
    }
    const grid = make("select", { id: "grid", title: "Points snap to this grid" },
      ...[0.05, 0.1, 0.25, 0.5, 1].map((size) => make("option", { value: String(size), textContent: `${size} m`, selected: size === this.grid })));
    grid.addEventListener("change", () => (this.grid = Number(grid.value)));
    tools.append(make("label", {}, "grid ", grid));
    this.list.addEventListener("change", () => this.choose(this.list.value));
    this.list.addEventListener("keydown", (event) => event.code === "Delete" && this.remove());
    this.save.addEventListener("click", () => this.request({ request: "save-place", name: null }));
    this.saveAs.addEventListener("click", () => askName("A name for this level", "my-place", (name) => this.request({ request: "save-place", name })));
    root.append(make("h2", { textContent: "Add" }), this.adds, make("h2", { textContent: "Pointer" }), tools, this.measured, make("h2", { textContent: "Parts" }),
      this.list, this.form, make("div", { className: "adds" }, this.save, this.saveAs));
    this.use("pick");
  }

  /** @param {string} tool */
  use(tool) {
    this.tool = tool;
    for (const [name, button] of this.tools) button.setAttribute("aria-pressed", String(name === tool));
    if (tool !== "measure") this.laid = null;
    this.measured.textContent = tool === "measure" ? "Drag from one point to another." : "";
  }

  /** @param {PlaceMessage} place */
  open(place) {
    this.flat = place.dimensions === 2;
    this.axes = new Axes(place);
    this.unit = unitOf(place);
    this.place = place;
    if (!place.reshaped) [this.chosen, this.laid] = [null, null];
    const name = (/** @type {PlacePart} */ { part, fields }) => `${part.of === "zone" ? fields.kind : shapeOf(fields)}${fields.name ? `: ${fields.name}` : ` ${part.number}`}`;
    this.parts = new Map(place.parts.map((one) => [`${one.part.of} ${one.part.number}`, one]));
    const listed = [...this.parts].slice(0, LISTED);
    const rest = this.parts.size - listed.length;
    this.list.replaceChildren(...listed.map(([key, one]) => make("option", { value: key, textContent: name(one) })));
    if (rest > 0) this.list.append(make("option", { value: "", disabled: true, textContent: `and ${rest} more: pick them in the picture` }));
    this.adds.replaceChildren(...Object.entries(models(this.axes, place.kinds)).map(([kind, model]) => {
      const button = make("button", { textContent: kind, id: `add-${kind}`, title: `Add a ${kind} in front of the body` });
      button.addEventListener("click", () => this.add(model));
      return button;
    }));
    this.save.disabled = !place.source || !place.changed;
    this.save.title = place.source ? `Write the level to ${place.source}` : "This level has no file yet; save it as a new one";
    if (this.awaited && this.parts.has(this.awaited)) this.choose(this.awaited);
    else this.choose(this.chosen && this.parts.has(this.chosen) ? this.chosen : null);
    this.awaited = null;
  }

  get part() { return this.chosen === null ? undefined : this.parts.get(this.chosen); }

  /** @param {number} value */
  snap(value) { return tidy(Math.round(value / this.step) * this.step); }
  /** The distance between two lines of the grid, in units of the level. */
  get step() { return this.grid * this.axes.scale; }
  /** @param {Point} point */
  snapped(point) { return point.map((part) => this.snap(part)); }

  /** @param {Change} change */
  change(change) { this.request({ request: "change-place", change }); }

  /** Returns the number of parts in a list. @param {string} of */
  count(of) { return [...this.parts.values()].filter(({ part }) => part.of === of).length; }

  /** Adds a model two metres in front of the body, and selects it. @param {Model[]} model */
  add(model) {
    const { body } = this.seen().frame;
    const far = 2 * this.axes.scale;
    const before = body.facing.map((part, i) => body.feet[i] + part * far);
    // A part that extends from its corner toward +x is shifted to the other side of its place.
    if (body.facing[0] < -0.5) before[0] -= far;
    const at = this.snapped(before);
    const { of } = model[0];
    const count = this.count(of);
    const changes = model.flatMap(({ fields: { at: more = [0, 0, 0], ...fields }, ride }, i) => {
      const part = { of, number: count + i };
      /** @type {Change[]} */
      const all = [{ do: "add", of, fields: shifted(fields, at.map((place, axis) => place + more[axis])) }];
      if (ride) all.push({ do: "ride", part, ...ride });
      return all;
    });
    this.awaited = `${of} ${count}`;
    this.change(changes.length === 1 ? changes[0] : { do: "all", changes });
  }

  /** @param {Fields} fields */
  set(fields) { if (this.part) this.change({ do: "set", part: this.part.part, fields }); }
  remove() { if (this.part) this.change({ do: "delete", part: this.part.part }); }
  copy() {
    if (!this.part) return;
    const { part } = this.part;
    this.awaited = `${part.of} ${this.count(part.of)}`;
    this.change({ do: "copy", part, by: this.axes.inLevel(this.flat ? [1, 1] : [1, 0, 1]).map(tidy) });
  }

  /** @param {string | null} key */
  choose(key) {
    this.chosen = key;
    this.list.value = key ?? "";
    const focused = document.activeElement;
    const hadFocus = focused instanceof HTMLInputElement && focused.closest("#part") ? focused.name : null;
    this.form.replaceChildren();
    if (this.part) this.fill(this.part);
    const again = hadFocus ? this.form.querySelector(`[name="${CSS.escape(hadFocus)}"]`) : null;
    if (again instanceof HTMLElement) again.focus();
  }

  // ---- the fields of the selected part ----

  /** @param {string} label @param {Array<Node | string>} inputs */
  row(label, ...inputs) { this.form.append(make("div", { className: "row" }, make("span", { textContent: label }), ...inputs)); }

  /** Creates a field for each number. @param {string} name @param {Point} values @param {(values: Point) => void} changed @param {number | "any"} [step] */
  fields(name, values, changed, step = this.step) {
    return values.map((value, i) => {
      const full = values.length > 1 ? `${name} ${AXES[i]}` : name;
      const input = make("input", { type: "number", value: String(tidy(value)), step: String(step), name: full, ariaLabel: full });
      input.addEventListener("change", () => Number.isFinite(input.valueAsNumber) && changed(values.map((old, j) => (i === j ? input.valueAsNumber : old))));
      return input;
    });
  }

  /** @param {PlacePart} part */
  fill({ part, fields, ride }) {
    this.shapeFields(fields);
    if (part.of === "piece") this.pieceFields(fields);
    else this.zoneFields(fields);
    const name = make("input", { type: "text", name: "name", value: String(fields.name ?? ""), maxLength: 60, ariaLabel: "name" });
    name.addEventListener("change", () => this.set({ name: name.value.trim() || null }));
    this.row("name", name);
    const rides = make("input", { type: "checkbox", name: "rides", checked: !!fields.carrier });
    const put = (/** @type {{ by: Point | null, seconds: number }} */ leg) => this.change({ do: "ride", part, ...leg });
    rides.addEventListener("change", () => put({ by: rides.checked ? this.axes.inLevel(this.flat ? [3, 0] : [3, 0, 0]).map(tidy) : null, seconds: USUAL }));
    const label = make("label", {}, rides, " moves");
    if (ride) {
      this.row("", label, ...this.fields("moves by", ride.by, (by) => put({ by, seconds: ride.seconds })));
      this.row("one direction, s", ...this.fields("seconds", [ride.seconds], ([seconds]) => put({ by: ride.by, seconds })));
    } else {
      this.row("", label);
    }
    const ends = make("div", { className: "adds" });
    for (const [text, title, act] of /** @type {Array<[string, string, () => void]>} */ ([["copy", "Duplicate the part beside it", () => this.copy()], ["delete", "Delete the part (Delete in the list)", () => this.remove()]])) {
      const button = make("button", { textContent: text, title, id: `part-${text}` });
      button.addEventListener("click", act);
      ends.append(button);
    }
    this.form.append(ends);
  }

  /** @param {Fields} fields */
  shapeFields(fields) {
    const key = shapeOf(fields);
    const corners = cornersOf(fields);
    if (!key) return;
    if (corners) {
      const [a, b] = corners;
      const low = a.map((part, i) => Math.min(part, b[i])), size = a.map((part, i) => Math.abs(b[i] - part));
      const put = (/** @type {Point} */ from, /** @type {Point} */ by) => this.set({ [key]: [from, from.map((part, i) => tidy(part + by[i]))] });
      this.row(`at, ${this.unit}`, ...this.fields("at", low, (from) => put(from, size)));
      this.row(`size, ${this.unit}`, ...this.fields("size", size, (by) => put(low, by)));
      if (key !== "block") return;
      const turn = fields.turn_deg ?? (this.flat ? 0 : [0, 0, 0]);
      const changed = (/** @type {Point} */ to) => this.set({ turn_deg: to.every((angle) => angle === 0) ? null : this.flat ? to[0] : to });
      this.row("turn, °", ...this.fields("turn", this.flat ? [turn] : turn, changed, 5));
    } else if (key === "ball") {
      const { centre, radius } = fields.ball;
      this.row(`centre, ${this.unit}`, ...this.fields("centre", centre, (to) => this.set({ ball: { centre: to, radius } })));
      this.row(`radius, ${this.unit}`, ...this.fields("radius", [radius], ([to]) => this.set({ ball: { centre, radius: to } })));
    } else {
      const points = /** @type {Point[]} */ (fields[key]);
      points.slice(0, 8).forEach((point, i) => this.row(`point ${i + 1}, ${this.unit}`, ...this.fields(`point ${i + 1}`, point, (to) => this.set({ [key]: points.map((old, j) => (i === j ? to : old)) }))));
    }
  }

  /** @param {Fields} fields */
  pieceFields(fields) {
    const surfaces = this.place?.surfaces ?? [];
    const surface = make("select", { name: "surface", ariaLabel: "surface" },
      ...surfaces.map((name, i) => make("option", { value: i ? name : "", textContent: name, selected: (fields.surface ?? "") === (i ? name : "") })));
    surface.addEventListener("change", () => this.set({ surface: surface.value || null }));
    const oneWay = make("input", { type: "checkbox", name: "one-way", checked: !!fields.one_way });
    oneWay.addEventListener("change", () => this.set({ one_way: oneWay.checked || null }));
    this.row("surface", surface, make("label", {}, oneWay, " one-way"));
  }

  /** @param {Fields} fields */
  zoneFields(fields) {
    const own = this.place?.kinds.find(({ kind }) => kind === fields.kind)?.fields ?? {};
    for (const [name, usual] of Object.entries(own)) {
      const value = /** @type {any} */ (fields[name] ?? usual);
      const changed = (/** @type {Point} */ to) => this.set({ [name]: Array.isArray(usual) ? to : to[0] });
      this.row(name, ...this.fields(name, Array.isArray(usual) ? value : [value], changed, name === "number" ? 1 : "any"));
    }
  }

  // ---- the pointer ----

  /** Returns the handles of the selected part, in two dimensions only. @returns {Handle[]} */
  handles() {
    if (!this.on || !this.flat || !this.part) return [];
    const { fields } = this.part;
    const key = shapeOf(fields);
    if (!key) return [];
    if (key === "ball") {
      const { centre, radius } = /** @type {any} */ (fields.ball);
      return [{ at: [centre[0] + radius, centre[1]], dragged: (to) => ({ ball: { centre, radius: Math.max(this.step / 2, tidy(Math.hypot(to[0] - centre[0], to[1] - centre[1]))) } }) }];
    }
    const corners = cornersOf(fields);
    if (!corners) {
      const points = /** @type {Point[]} */ (fields[key]);
      return points.map((at, i) => ({ at, dragged: (to) => ({ [key]: points.map((old, j) => (i === j ? to : old)) }) }));
    }
    const [a, b] = corners;
    const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    const turn = Number(fields.turn_deg ?? 0);
    const ends = turn ? [] : [[a, b], [[b[0], a[1]], [a[0], b[1]]], [b, a], [[a[0], b[1]], [b[0], a[1]]]];
    /** @type {Handle[]} */
    const all = ends.map(([at, other]) => ({
      at,
      dragged: (to) => (to[0] === other[0] || to[1] === other[1] ? null : { [key]: [to.map((part, i) => Math.min(part, other[i])), to.map((part, i) => Math.max(part, other[i]))] }),
    }));
    if (key !== "block") return all;
    const { up: [, high], scale } = this.axes;
    const up = turnedAbout(middle, turn)([middle[0], middle[1] + high * (Math.abs(b[1] - a[1]) / 2 + 0.7 * scale)]);
    // By steps of five degrees.
    const spun = (/** @type {Point} */ _, /** @type {Point} */ [x, y]) => ({ turn_deg: Math.round(((Math.atan2(y - middle[1], x - middle[0]) * 180) / Math.PI - 90 * high) / 5) * 5 || null });
    return [...all, { at: up, round: true, dragged: spun }];
  }

  /** @param {PointerEvent} event */
  down(event) {
    if (around(event, "#pad, .card")) return;
    const { view } = this.seen();
    const hit = view.pointed(event, this.parts);
    if (!hit) return;
    this.stage.setPointerCapture(event.pointerId);
    const start = { from: hit.at, at: hit.at };
    if (this.tool === "start") {
      this.request({ request: "start", at: this.flat ? this.snapped(hit.at) : along(hit.at, this.axes.up, 0.02 * this.axes.scale) });
      this.use("pick");
    } else if (this.tool === "measure") {
      const from = this.flat ? this.snapped(hit.at) : hit.at;
      this.laid = { from, to: from };
      this.drag = { ...start, measures: true };
    } else {
      const handle = this.handles().find(({ at }) => Math.hypot(at[0] - hit.at[0], at[1] - hit.at[1]) * view.scale / this.axes.scale < NEAR);
      if (handle) this.drag = { ...start, handle };
      else {
        if (hit.key !== this.chosen) this.choose(hit.key);
        if (this.part) this.drag = { ...start, by: hit.at.map(() => 0) };
      }
    }
    event.preventDefault();
  }

  /** @param {PointerEvent} event */
  moved(event) {
    const { view } = this.seen();
    const { drag } = this;
    if (!drag) return;
    const at = drag.measures ? view.pointed(event, this.parts)?.at : view.dragged(event, drag.from, event.shiftKey);
    if (!at) return;
    drag.at = at;
    if (drag.measures && this.laid) this.laid.to = this.flat ? this.snapped(at) : at;
    else if (drag.by) drag.by = this.snapped(at.map((part, i) => part - drag.from[i]));
  }

  up() {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    if (drag.measures && this.laid) this.request({ request: "measure", from: this.laid.from, to: this.laid.to });
    else if (drag.handle) {
      const fields = drag.handle.dragged(this.snapped(drag.at), drag.at);
      if (fields && drag.at !== drag.from) this.set(fields);
    } else if (this.part && drag.by?.some((part) => part !== 0)) {
      this.change({ do: "shift", part: this.part.part, by: drag.by });
    }
  }

  /** Shows a measurement: the lengths, and whether a jump reaches that far. @param {MeasurementMessage} measured */
  show({ from, to, across, up, length, reach }) {
    const { unit } = this;
    const words = [`${length.toFixed(2)} ${unit}: ${across.toFixed(2)} across, ${Math.abs(up).toFixed(2)} ${up < 0 ? "down" : "up"}.`];
    const spare = (reach ?? 0) - across;
    let short = "";
    if (reach !== null && across > 0.01) {
      words.push(`A jump at full speed reaches ${reach.toFixed(2)} ${unit} at that height: ${spare >= 0 ? `clears it by ${spare.toFixed(2)} ${unit}` : `${(-spare).toFixed(2)} ${unit} too short`}.`);
      short = spare >= 0 ? `, ${spare.toFixed(2)} ${unit} to spare` : `, ${(-spare).toFixed(2)} ${unit} too far`;
    } else if (up > 0.01) {
      words.push("No jump reaches that height.");
    }
    this.laid = { from, to, words: `${length.toFixed(2)} ${unit}${short}` };
    this.measured.textContent = words.join(" ");
  }

  /** Returns the lines of the overlay: the selection, the dragged object, the measurement. @returns {OverlayLine[]} */
  lines() {
    if (!this.on) return [];
    /** @type {OverlayLine[]} */
    const lines = [];
    if (this.laid) {
      const { from, to, words } = this.laid;
      const long = Math.hypot(...to.map((part, i) => part - from[i]));
      lines.push({ points: [from, to], colour: PAPER, width: 2.5, dash: [7, 4], words: words ?? `${long.toFixed(2)} ${this.unit}` });
    }
    if (!this.part) return lines;
    const { drag } = this;
    const dragged = drag?.handle?.dragged(this.snapped(drag.at), drag.at) ?? {};
    const by = drag?.by ?? [0, 0, 0];
    const outlines = this.outline(this.part, dragged);
    return [...lines, ...outlines.map((line) => ({ points: line.map((point) => sum(point, by)), colour: LAMP, width: 2.5, dash: [7, 4] }))];
  }

  /** @param {PlacePart} part @param {Fields} dragged @returns {Point[][]} */
  outline({ part, fields }, dragged) {
    const now = /** @type {Fields} */ ({ ...fields, ...dragged });
    const corners = cornersOf(now);
    const key = shapeOf(now);
    if (!key) return [];
    if (!this.flat) {
      const shape = this.place?.shapes[part.number];
      if (part.of === "zone" && corners) return edgesOf(corners[0], corners[1]);
      return shape ? edgesOf(...boundsOf(shape.outline)) : [];
    }
    if (corners) {
      const [a, b] = corners;
      const turned = turnedAbout([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], Number(now.turn_deg ?? 0));
      return [[a, [b[0], a[1]], b, [a[0], b[1]], a].map(turned)];
    }
    if (now.ball) {
      const { centre, radius } = now.ball;
      return [Array.from({ length: 33 }, (_, i) => [centre[0] + radius * Math.cos((i * Math.PI) / 16), centre[1] + radius * Math.sin((i * Math.PI) / 16)])];
    }
    const points = /** @type {Point[]} */ (now[key]);
    return [key === "segment" ? points : [...points, points[0]]];
  }
}

/** Returns a function that rotates points about another by an angle in degrees. @param {Point} middle @param {number} degrees */
function turnedAbout(middle, degrees) {
  const angle = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return (/** @type {Point} */ [x, y]) => [middle[0] + (x - middle[0]) * c - (y - middle[1]) * s, middle[1] + (x - middle[0]) * s + (y - middle[1]) * c];
}

/** Returns the corners of the bounding box of an outline. @param {Outline} outline @returns {[Point, Point]} */
function boundsOf(outline) {
  const points = outline.form === "ball" ? [-1, 1].map((side) => outline.centre.map((part) => part + side * outline.radius)) : outline.points;
  const bound = (/** @type {(...values: number[]) => number} */ pick) => points[0].map((_, i) => pick(...points.map((point) => point[i])));
  return [bound(Math.min), bound(Math.max)];
}
