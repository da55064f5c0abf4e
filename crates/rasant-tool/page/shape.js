// The place, shaped: its parts picked, moved, sized and told what they are.

import { LAMP, PAPER } from "./colours.js";

/** The keys of a piece's shape, and of a zone's. */
const SHAPES = ["block", "box", "polygon", "segment", "solid", "facet", "ball"];
const AXES = ["x", "y", "z"];
/** Pixels within which a handle is taken. */
const NEAR = 11;

const make = (name, more = {}) => Object.assign(document.createElement(name), more);
const tidy = (value) => Number(value.toFixed(4));
const shapeOf = (fields) => SHAPES.find((key) => fields[key] !== undefined);
const cornersOf = (fields) => { const key = shapeOf(fields); return key === "block" || key === "box" ? fields[key] : null; };

/** What can be added, as fields at the origin; sizes in metres. */
function models(flat, kinds) {
  const box = (w, h, d) => [[0, 0, 0], [w, h, d]].map((point) => point.slice(0, flat ? 2 : 3));
  const steps = Array.from({ length: 4 }, (_, i) => ({ of: "piece", fields: { block: box(0.5, 0.2 * (i + 1), 2), at: [0.5 * i, 0, 0] } }));
  const ramp = flat ? { polygon: [[0, 0], [3, 0], [3, 1]] } : { solid: [[0, 0, 0], [3, 0, 0], [3, 1, 0], [0, 0, 2], [3, 0, 2], [3, 1, 2]] };
  const pieces = {
    block: [{ of: "piece", fields: { block: box(2, 1, 2) } }],
    "one-way": [{ of: "piece", fields: { block: box(2, 0.2, 2), one_way: true } }],
    ramp: [{ of: "piece", fields: ramp }],
    steps,
    ball: [{ of: "piece", fields: { ball: { centre: flat ? [0, 0.5] : [0, 0.5, 0], radius: 0.5 } } }],
    platform: [{ of: "piece", fields: { block: box(2, 0.3, 2) }, ride: { by: flat ? [3, 0] : [3, 0, 0], seconds: 3 } }],
  };
  const zones = kinds.map(({ kind, fields }) => [kind, [{ of: "zone", fields: { box: box(kind === "ladder" ? 0.6 : 2, 3, 2), kind, ...fields } }]]);
  return { ...pieces, ...Object.fromEntries(zones) };
}

function shifted(fields, by) {
  const move = (point) => point.map((part, i) => tidy(part + by[i]));
  const key = shapeOf(fields);
  if (key === "ball") return { ...fields, ball: { ...fields.ball, centre: move(fields.ball.centre) } };
  return { ...fields, [key]: fields[key].map(move) };
}

export class Shaping {
  /** `root` is the panel; `seen` gives the view, the frame and the place of now. */
  constructor(root, stage, ask, seen) {
    Object.assign(this, { root, stage, ask, seen, on: false, chosen: null, tool: "pick", grid: 0.25 });
    this.build();
    stage.addEventListener("pointerdown", (event) => this.on && event.button === 0 && this.down(event));
    stage.addEventListener("pointermove", (event) => this.drag && this.moved(event));
    for (const end of ["pointerup", "pointercancel"]) stage.addEventListener(end, (event) => this.drag && this.up(event));
  }

  build() {
    this.adds = make("div", { className: "adds", role: "group", ariaLabel: "Add to the place, before the body" });
    const tools = make("div", { className: "adds", role: "group", ariaLabel: "What the pointer does" });
    this.tools = new Map();
    for (const [name, title] of [["pick", "Take parts, move them, pull their corners"], ["tape", "Measure from one point to another"], ["start", "Put the body where you point, and begin there"]]) {
      const button = make("button", { textContent: name, title });
      button.addEventListener("click", () => this.use(name));
      this.tools.set(name, button);
      tools.append(button);
    }
    const grid = make("select", { id: "grid", title: "Points come to rest on such a grid" });
    grid.append(...[0.05, 0.1, 0.25, 0.5, 1].map((size) => make("option", { value: size, textContent: `${size} m`, selected: size === this.grid })));
    grid.addEventListener("change", () => (this.grid = Number(grid.value)));
    const label = make("label", { textContent: "grid " });
    label.append(grid);
    tools.append(label);
    this.list = make("select", { id: "parts", size: 7, ariaLabel: "The parts of the place" });
    this.list.addEventListener("change", () => this.choose(this.list.value));
    this.list.addEventListener("keydown", (event) => event.code === "Delete" && this.remove());
    this.form = make("div", { id: "part" });
    this.measured = make("p", { id: "measured", ariaLive: "polite" });
    const keep = make("div", { className: "adds" });
    this.save = make("button", { id: "save-place", textContent: "Save place", title: "Write the place to its file" });
    this.save.addEventListener("click", () => this.ask("save-place", { name: null }));
    this.saveAs = make("button", { id: "save-place-as", textContent: "Save place as…", title: "Write it to a new file" });
    this.saveAs.addEventListener("click", () => { const name = prompt("A name for this place", "my-place"); if (name) this.ask("save-place", { name }); });
    keep.append(this.save, this.saveAs);
    this.root.append(make("h2", { textContent: "Add" }), this.adds, make("h2", { textContent: "Pointer" }), tools, this.measured, make("h2", { textContent: "Parts" }), this.list, this.form, keep);
    this.use("pick");
  }

  use(tool) {
    this.tool = tool;
    for (const [name, button] of this.tools) button.setAttribute("aria-pressed", String(name === tool));
    if (tool !== "tape") this.laid = null;
    this.measured.textContent = tool === "tape" ? "Drag from one point to another." : "";
  }

  open(place) {
    this.flat = place.dimensions === 2;
    this.place = place;
    if (!place.reshaped) { this.chosen = null; this.laid = null; }
    const name = ({ part, fields }) => `${part.of === "zone" ? fields.kind : shapeOf(fields)}${fields.name ? `: ${fields.name}` : ` ${part.number}`}`;
    this.parts = new Map(place.parts.map((one) => [`${one.part.of} ${one.part.number}`, one]));
    this.list.replaceChildren(...[...this.parts].map(([key, one]) => make("option", { value: key, textContent: name(one) })));
    const all = models(this.flat, place.kinds);
    this.adds.replaceChildren(...Object.entries(all).map(([kind, model]) => {
      const button = make("button", { textContent: kind, id: `add-${kind}`, title: `Add a ${kind}, before the body` });
      button.addEventListener("click", () => this.add(model));
      return button;
    }));
    this.save.disabled = !place.source || !place.changed;
    this.save.title = place.source ? `Write the place to ${place.source}` : "This place has no file yet: save it as one";
    if (this.awaited && this.parts.has(this.awaited)) this.choose(this.awaited);
    else this.choose(this.parts.has(this.chosen) ? this.chosen : null);
    this.awaited = null;
  }

  get part() { return this.parts?.get(this.chosen); }

  snap(value) { return tidy(Math.round(value / this.grid) * this.grid); }
  snapped(point) { return point.map((part) => this.snap(part)); }

  /** Adds a model two metres before the body, and chooses it. */
  add(model) {
    const { frame } = this.seen();
    const before = frame.facing.map((part, i) => frame.feet[i] + part * 2);
    // What reaches from its corner toward x begins on the other side of its place.
    if (frame.facing[0] < -0.5) before[0] -= 2;
    const at = this.snapped(before);
    const of = model[0].of;
    const count = this.place.parts.filter(({ part }) => part.of === of).length;
    const changes = model.flatMap(({ fields: { at: more = [0, 0, 0], ...fields }, ride }, i) => {
      const add = { do: "add", of, fields: shifted(fields, at.map((part, axis) => part + more[axis])) };
      const part = { of, number: count + i };
      return ride ? [add, { do: "ride", part, ...ride }] : [add];
    });
    this.awaited = `${of} ${count}`;
    this.ask("shape", { change: changes.length === 1 ? changes[0] : { do: "all", changes } });
  }

  set(fields) { this.ask("shape", { change: { do: "set", part: this.part.part, fields } }); }
  remove() { if (this.part) this.ask("shape", { change: { do: "delete", part: this.part.part } }); }
  copy() {
    const { part } = this.part;
    this.awaited = `${part.of} ${this.place.parts.filter((one) => one.part.of === part.of).length}`;
    this.ask("shape", { change: { do: "copy", part, by: this.flat ? [1, 1] : [1, 0, 1] } });
  }

  choose(key) {
    this.chosen = key;
    this.list.value = key ?? "";
    const hadFocus = document.activeElement?.closest?.("#part") ? document.activeElement.name : null;
    this.form.replaceChildren();
    if (this.part) this.fill();
    if (hadFocus) this.form.querySelector(`[name="${CSS.escape(hadFocus)}"]`)?.focus();
  }

  // ---- the fields of the chosen part ----

  fill() {
    const { part, fields, ride } = this.part;
    const key = shapeOf(fields);
    const row = (label, ...inputs) => {
      const line = make("div", { className: "row" });
      line.append(make("span", { textContent: label }), ...inputs);
      this.form.append(line);
    };
    const numbers = (name, values, changed, step = this.grid) => values.map((value, i) => {
      const input = make("input", { type: "number", value: tidy(value), step, name: `${name} ${AXES[i] ?? ""}`, ariaLabel: `${name} ${values.length > 1 ? AXES[i] : ""}` });
      input.addEventListener("change", () => Number.isFinite(input.valueAsNumber) && changed(values.map((old, j) => (i === j ? input.valueAsNumber : old))));
      return input;
    });
    if (cornersOf(fields)) {
      const [a, b] = fields[key];
      const low = a.map((part, i) => Math.min(part, b[i])), size = a.map((part, i) => Math.abs(b[i] - part));
      const put = (from, by) => this.set({ [key]: [from, from.map((part, i) => tidy(part + by[i]))] });
      row("at, m", ...numbers("at", low, (from) => put(from, size)));
      row("size, m", ...numbers("size", size, (by) => put(low, by)));
      if (key === "block") {
        const turn = fields.turn_deg ?? (this.flat ? 0 : [0, 0, 0]);
        const changed = (to) => this.set({ turn_deg: to.every((angle) => angle === 0) ? null : this.flat ? to[0] : to });
        row("turn, °", ...numbers("turn", this.flat ? [turn] : turn, changed, 5));
      }
    } else if (key === "ball") {
      const { centre, radius } = fields.ball;
      row("centre, m", ...numbers("centre", centre, (to) => this.set({ ball: { centre: to, radius } })));
      row("radius, m", ...numbers("radius", [radius], ([to]) => this.set({ ball: { centre, radius: to } })));
    } else if (key) {
      fields[key].slice(0, 8).forEach((point, i) => row(`point ${i + 1}, m`, ...numbers(`point ${i + 1}`, point, (to) => this.set({ [key]: fields[key].map((old, j) => (i === j ? to : old)) }))));
    }
    if (part.of === "piece") {
      const surface = make("select", { name: "surface", ariaLabel: "surface" });
      surface.append(...this.place.surfaces.map((name, i) => make("option", { value: i ? name : "", textContent: name, selected: (fields.surface ?? "") === (i ? name : "") })));
      surface.addEventListener("change", () => this.set({ surface: surface.value || null }));
      const way = make("input", { type: "checkbox", name: "one-way", checked: !!fields.one_way });
      way.addEventListener("change", () => this.set({ one_way: way.checked || null }));
      const label = make("label", { textContent: " one-way" });
      label.prepend(way);
      row("made of", surface, label);
    } else {
      const told = this.place.kinds.find(({ kind }) => kind === fields.kind)?.fields ?? {};
      for (const [name, usual] of Object.entries(told)) {
        const value = fields[name] ?? usual;
        const changed = (to) => this.set({ [name]: Array.isArray(usual) ? to : to[0] });
        row(name, ...numbers(name, Array.isArray(usual) ? value : [value], changed, "any"));
      }
    }
    const name = make("input", { type: "text", name: "name", value: fields.name ?? "", maxLength: 60, ariaLabel: "name" });
    name.addEventListener("change", () => this.set({ name: name.value.trim() || null }));
    row("name", name);
    const rides = make("input", { type: "checkbox", name: "rides", checked: !!fields.carrier });
    const still = { by: null, seconds: 3 };
    const put = (way) => this.ask("shape", { change: { do: "ride", part, ...way } });
    rides.addEventListener("change", () => put(rides.checked ? { ...still, by: this.flat ? [3, 0] : [3, 0, 0] } : still));
    const label = make("label", { textContent: " moves" });
    label.prepend(rides);
    if (ride) {
      row("", label, ...numbers("moves by", ride.by, (by) => put({ by, seconds: ride.seconds })));
      row("one way in, s", ...numbers("seconds", [ride.seconds], ([seconds]) => put({ by: ride.by, seconds })));
    } else {
      row("", label);
    }
    const ends = make("div", { className: "adds" });
    for (const [text, title, act] of [["copy", "The same once more, beside it", () => this.copy()], ["delete", "Take it away (Delete in the list)", () => this.remove()]]) {
      const button = make("button", { textContent: text, title, id: `part-${text}` });
      button.addEventListener("click", act);
      ends.append(button);
    }
    this.form.append(ends);
  }

  // ---- the pointer ----

  /** The points by which a part is pulled, flat only, and what a pull makes of it. */
  handles() {
    if (!this.flat || !this.part) return [];
    const { fields } = this.part;
    const key = shapeOf(fields);
    if (key === "ball") {
      const { centre, radius } = fields.ball;
      return [{ at: [centre[0] + radius, centre[1]], pulled: (to) => ({ ball: { centre, radius: Math.max(this.grid / 2, tidy(Math.hypot(to[0] - centre[0], to[1] - centre[1]))) } }) }];
    }
    if (!cornersOf(fields)) return fields[key].map((at, i) => ({ at, pulled: (to) => ({ [key]: fields[key].map((old, j) => (i === j ? to : old)) }) }));
    const [a, b] = fields[key];
    const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    const turn = fields.turn_deg ?? 0;
    const along = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    const turned = ([x, y]) => [middle[0] + (x - middle[0]) * along[0] - (y - middle[1]) * along[1], middle[1] + (x - middle[0]) * along[1] + (y - middle[1]) * along[0]];
    const corners = turn ? [] : [[a, b], [[b[0], a[1]], [a[0], b[1]]], [b, a], [[a[0], b[1]], [b[0], a[1]]]].map(([at, other]) => ({ at, pulled: (to) => to[0] === other[0] || to[1] === other[1] ? null : { [key]: [0, 1].reduce((box, i) => { box[0][i] = Math.min(to[i], other[i]); box[1][i] = Math.max(to[i], other[i]); return box; }, [[0, 0], [0, 0]]) } }));
    if (key !== "block") return corners;
    const up = [middle[0], Math.max(a[1], b[1]) + 0.7];
    // By steps of five degrees.
    const spun = (_, [x, y]) => ({ turn_deg: Math.round(((Math.atan2(y - middle[1], x - middle[0]) * 180) / Math.PI - 90) / 5) * 5 || null });
    return [...corners, { at: turned(up), round: true, pulled: spun }];
  }

  down(event) {
    if (event.target.closest("#pad, .card")) return;
    const { view } = this.seen();
    const hit = view.pointed(event, this.parts);
    if (!hit) return;
    this.stage.setPointerCapture(event.pointerId);
    const start = { from: hit.at, at: hit.at };
    if (this.tool === "start") {
      this.ask("start", { at: this.flat ? this.snapped(hit.at) : [hit.at[0], hit.at[1] + 0.02, hit.at[2]] });
      this.use("pick");
    } else if (this.tool === "tape") {
      const from = this.flat ? this.snapped(hit.at) : hit.at;
      this.laid = { from, to: from };
      this.drag = { ...start, tape: true };
    } else {
      const handle = this.handles().find(({ at }) => Math.hypot(at[0] - hit.at[0], at[1] - hit.at[1]) * view.scale < NEAR);
      if (handle) this.drag = { ...start, handle };
      else {
        if (hit.key !== this.chosen) this.choose(hit.key);
        if (this.part) this.drag = { ...start, by: hit.at.map(() => 0) };
      }
    }
    event.preventDefault();
  }

  moved(event) {
    const { view } = this.seen();
    const at = this.drag.tape ? view.pointed(event, this.parts)?.at : view.pulled(event, this.drag.from, event.shiftKey);
    if (!at) return;
    this.drag.at = at;
    if (this.drag.tape) this.laid.to = this.flat ? this.snapped(at) : at;
    else if (this.drag.by) this.drag.by = this.snapped(at.map((part, i) => part - this.drag.from[i]));
  }

  up() {
    const { drag } = this;
    this.drag = null;
    if (drag.tape) this.ask("tape", { from: this.laid.from, to: this.laid.to });
    else if (drag.handle) {
      const fields = drag.handle.pulled(this.snapped(drag.at), drag.at);
      if (fields && drag.at !== drag.from) this.set(fields);
    } else if (drag.by?.some((part) => part !== 0)) {
      this.ask("shape", { change: { do: "shift", part: this.part.part, by: drag.by } });
    }
  }

  /** What a tape told: the lengths, and whether a jump goes that far. */
  tape(told) {
    const { across, up, length, reach } = told;
    const words = [`${length.toFixed(2)} m: ${across.toFixed(2)} across, ${Math.abs(up).toFixed(2)} ${up < 0 ? "down" : "up"}.`];
    if (reach !== null && across > 0.01) {
      const spare = reach - across;
      words.push(`A jump at full speed comes ${reach.toFixed(2)} m far there: ${spare >= 0 ? `clears it by ${spare.toFixed(2)} m` : `${(-spare).toFixed(2)} m too short`}.`);
    } else if (up > 0.01) {
      words.push("No jump comes up there.");
    }
    const spare = reach === null || across <= 0.01 ? "" : reach >= across ? `, ${(reach - across).toFixed(2)} m to spare` : `, ${(across - reach).toFixed(2)} m too far`;
    this.laid = { ...told, words: `${length.toFixed(2)} m${spare}` };
    this.measured.textContent = words.join(" ");
  }

  /** Outlines as lines of points, each with a colour: what is chosen, what is pulled, the tape. */
  lines() {
    if (!this.on) return [];
    const lines = [];
    if (this.laid) lines.push([[this.laid.from, this.laid.to], PAPER]);
    if (!this.part) return lines;
    const pulled = this.drag?.handle?.pulled(this.snapped(this.drag.at), this.drag.at);
    const by = this.drag?.by ?? [0, 0, 0];
    const outline = this.outline(pulled).map((line) => line.map((point) => point.map((part, i) => part + by[i])));
    return [...lines, ...outline.map((line) => [line, LAMP])];
  }

  outline(pulled) {
    const { part, fields } = this.part;
    const now = { ...fields, ...pulled };
    const corners = cornersOf(now);
    if (this.flat && corners) {
      const [a, b] = corners;
      const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
      const angle = ((now.turn_deg ?? 0) * Math.PI) / 180;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      const ring = [a, [b[0], a[1]], b, [a[0], b[1]], a];
      return [ring.map(([x, y]) => [middle[0] + (x - middle[0]) * c - (y - middle[1]) * s, middle[1] + (x - middle[0]) * s + (y - middle[1]) * c])];
    }
    if (this.flat && now.ball) {
      const { centre, radius } = now.ball;
      return [Array.from({ length: 33 }, (_, i) => [centre[0] + radius * Math.cos((i * Math.PI) / 16), centre[1] + radius * Math.sin((i * Math.PI) / 16)])];
    }
    if (this.flat) { const points = now[shapeOf(now)]; return [now.segment ? points : [...points, points[0]]]; }
    const [low, high] = part.of === "zone" ? corners : boundsOf(this.place.shapes[part.number]);
    return edgesOf(low, high);
  }
}

/** The edges of an upright box, as lines. */
export function edgesOf(min, max) {
  const corner = (bits) => min.map((part, i) => (bits >> i & 1 ? max[i] : part));
  return [[0, 1, 3, 2, 0, 4, 5, 7, 6, 4], [1, 5], [3, 7], [2, 6]].map((line) => line.map(corner));
}

/** The corners of the box round a drawn shape. */
function boundsOf(shape) {
  const points = shape.points ?? shape.line ?? [shape.centre.map((part) => part - shape.radius), shape.centre.map((part) => part + shape.radius)];
  return [Math.min, Math.max].map((pick) => points[0].map((_, i) => pick(...points.map((point) => point[i]))));
}
