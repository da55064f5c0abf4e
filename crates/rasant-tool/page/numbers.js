// The numbers: a slider and a field for each, grouped by move as listed by the tool.

import { make, shown } from "./dom.js";

/** @import { Figure, HelloMessage, KnobInfo, NumbersMessage, Request } from "./messages.js" */

/** @typedef {{ row: HTMLElement, field: HTMLInputElement, slider: HTMLInputElement, knob: KnobInfo, isSwitch: boolean, scale: Scale }} Row */
/** @typedef {{ body: HTMLDetailsElement, count: HTMLElement, keys: HTMLElement, reset: HTMLButtonElement, moves: HTMLElement }} Group */
/** @typedef {{ place(value: number): number, value(place: number): number }} Scale */

/** The number of steps of a slider. */
const STEPS = 1000;

/**
 * Converts between a value and a slider position: linear, or finer toward 0 for wide ranges.
 * @param {KnobInfo} knob @param {number} min @param {number} max
 * @returns {Scale}
 */
function scaleOf(knob, min, max) {
  const power = max - min > 12 * Math.max(1, Math.abs(knob.default)) && min <= 0 ? 3 : 1;
  const tidy = (/** @type {number} */ value) => {
    if (knob.whole) return Math.round(value);
    const digits = Math.max(0, 3 - Math.floor(Math.log10(Math.max(Math.abs(value), 1e-3)) + 1));
    return Number(value.toFixed(Math.min(digits, 4)));
  };
  const side = (/** @type {number} */ value) => (value < 0 ? -min : max);
  const low = min < 0 ? -1 : 0;
  if (power === 1) {
    return {
      place: (value) => (STEPS * (value - min)) / (max - min),
      value: (place) => Math.min(max, Math.max(min, tidy(min + (max - min) * (place / STEPS)))),
    };
  }
  return {
    place: (value) => (STEPS * (Math.sign(value) * Math.pow(Math.abs(value) / (side(value) || 1), 1 / power) - low)) / (1 - low),
    value: (place) => {
      const fraction = low + (1 - low) * (place / STEPS);
      return Math.min(max, Math.max(min, tidy(Math.sign(fraction) * Math.pow(Math.abs(fraction), power) * side(fraction))));
    },
  };
}

/** @param {string} path */
const groupOf = (path) => path.split(".")[0];
/** @param {number | null} a @param {number | null} b */
const same = (a, b) => a === b || (a !== null && b !== null && Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b)));

export class Numbers {
  /** @param {HTMLElement} root @param {HTMLInputElement} find @param {(request: Request) => void} request @param {() => void} done gives the focus back after a drag */
  constructor(root, find, request, done) {
    this.root = root;
    this.find = find;
    this.request = request;
    this.done = done;
    /** @type {Map<string, Row>} */
    this.rows = new Map();
    /** @type {Map<string, Group>} */
    this.groups = new Map();
    /** @type {KnobInfo[]} */
    this.knobs = [];
    this.shape = make("select", { id: "knob-hull.shape", title: "The shape of the hull" });
    this.drags = 0;
    /** @type {number | null} The slider drag that is going on. */
    this.drag = null;
    find.addEventListener("input", () => this.filter());
    this.shape.addEventListener("change", () => request({ request: "hull-shape", shape: this.shape.value }));
  }

  /** @param {Pick<HelloMessage, "knobs" | "shapes">} hello */
  list({ knobs, shapes }) {
    this.knobs = knobs;
    this.root.replaceChildren();
    this.groups.clear();
    this.rows.clear();
    for (const knob of knobs) {
      const name = groupOf(knob.path);
      const group = this.groups.get(name) ?? this.group(name);
      this.groups.set(name, group);
      // Figures appear below the numbers, so that the numbers keep their position.
      group.moves.before(this.row(knob));
    }
    this.shape.replaceChildren(...shapes.map((name) => make("option", { value: name, textContent: name })));
    const row = make("div", { className: "knob", id: "shape-row" }, make("label", { className: "what", htmlFor: this.shape.id, textContent: "shape" }), this.shape);
    this.groups.get("hull")?.body.querySelector(".knob")?.before(row);
  }

  /** @param {string} name @returns {Group} */
  group(name) {
    const count = make("span", { className: "count" });
    const keys = make("span", { className: "keys" });
    const reset = make("button", { id: `reset-${name}`, textContent: "reset", title: `Restore ${name} from the file` });
    reset.addEventListener("click", (event) => {
      event.preventDefault();
      this.request({ request: "reset", knobs: this.knobs.filter((knob) => groupOf(knob.path) === name).map((knob) => knob.path) });
    });
    const moves = make("div", { className: "moves" });
    const body = make("details", { open: ["walk", "jump"].includes(name), id: `group-${name}` }, make("summary", {}, name, keys, count, reset), moves);
    this.root.append(body);
    return { body, count, keys, reset, moves };
  }

  /** @param {KnobInfo} knob */
  row(knob) {
    // A whole number from 0 to 1 is shown as a switch.
    const isSwitch = knob.whole && knob.min === 0 && knob.max === 1;
    const id = `knob-${knob.path}`;
    const label = make("label", { className: "what", htmlFor: id }, `${knob.path.split(".")[1]} `, make("small", { textContent: isSwitch ? "off or on" : knob.unit }));
    const field = make("input", { type: "number", id, min: String(knob.min), max: String(knob.max), step: knob.whole ? "1" : "any" });
    const undo = make("button", { className: "undo", id: `undo-${knob.path}`, textContent: "↺", title: `Restore ${knob.path} from the file` });
    const slider = make("input", { type: "range", id: `slider-${knob.path}`, min: "0", max: isSwitch ? "1" : String(STEPS), step: "1", ariaLabel: `${knob.path}, slider` });
    const row = make("div", { className: "knob", title: `${knob.meaning}\n${knob.min} to ${knob.max} ${knob.unit}, default ${knob.default}` }, label, field, undo, slider);
    /** @type {Row} */
    const one = { row, field, slider, knob, isSwitch, scale: scaleOf(knob, knob.min, knob.max) };
    const turn = (/** @type {number} */ value, /** @type {number | null} */ drag) => Number.isFinite(value) && this.request({ request: "turn", knob: knob.path, value, drag });
    slider.addEventListener("pointerdown", () => (this.drag = ++this.drags));
    slider.addEventListener("input", () => turn(isSwitch ? Number(slider.value) : one.scale.value(Number(slider.value)), this.drag));
    // After a drag the keys control the body again.
    slider.addEventListener("change", () => { if (this.drag !== null) this.done(); this.drag = null; });
    field.addEventListener("change", () => turn(field.valueAsNumber, null));
    field.addEventListener("keydown", (event) => event.key === "Enter" && this.done());
    undo.addEventListener("click", () => this.request({ request: "reset", knobs: [knob.path] }));
    this.rows.set(knob.path, one);
    return row;
  }

  /** @param {NumbersMessage} values */
  show({ values, file, ranges, shape, fileShape }) {
    /** @type {Map<string, number>} */
    const others = new Map();
    this.knobs.forEach((knob, i) => {
      const one = this.rows.get(knob.path);
      if (!one) return;
      const { row, field, slider, isSwitch } = one;
      const value = values[i];
      row.classList.toggle("absent", value === null);
      const other = value !== null && !same(value, file[i]);
      row.classList.toggle("other", other);
      if (value === null) return;
      if (other) others.set(groupOf(knob.path), (others.get(groupOf(knob.path)) ?? 0) + 1);
      if (knob.path.startsWith("hull.") && this.drag === null) {
        // The part of the allowed range near the current size.
        const [min, max] = ranges[i] ?? [knob.min, knob.max];
        one.scale = scaleOf(knob, min, Math.min(max, Math.max(min, 4 * Math.max(knob.default, value, file[i] ?? 0, 0.25))));
      }
      if (document.activeElement !== field) field.value = shown(value);
      if (document.activeElement !== slider || this.drag === null) slider.value = String(isSwitch ? value : one.scale.place(value));
    });
    this.shape.value = shape;
    if (shape !== fileShape) others.set("hull", (others.get("hull") ?? 0) + 1);
    for (const [name, { count, reset }] of this.groups) {
      const changed = others.get(name) ?? 0;
      count.textContent = changed ? `${changed} changed` : "";
      reset.hidden = !changed;
    }
  }

  /** Shows the keys of each move beside its group. @param {Map<string, string>} keys */
  showKeys(keys) {
    for (const [name, group] of this.groups) group.keys.textContent = keys.get(name) ?? "";
  }

  /** Shows the figures of each group beside it, and figures of other groups that
   *  have changed by it. @param {Figure[]} figures */
  measured(figures) {
    for (const [name, { moves }] of this.groups) {
      const own = figures.filter((figure) => figure.groups[0] === name || (figure.groups.includes(name) && changeOf(figure)));
      moves.replaceChildren(...own.map((figure) => {
        const change = changeOf(figure);
        const line = make("span", { title: figure.meaning }, `${figure.name} `, make("b", { textContent: `${shown(figure.value)} ${figure.unit}` }));
        if (change) line.append(" ", make("i", { textContent: shown(Math.abs(change)), className: change > 0 ? "up" : "down" }));
        return line;
      }));
    }
  }

  filter() {
    const words = this.find.value.trim().toLowerCase().split(/\s+/).filter(Boolean);
    for (const { body } of this.groups.values()) body.hidden = words.length > 0;
    for (const { row, knob } of this.rows.values()) {
      const text = `${knob.path} ${knob.meaning} ${knob.unit}`.toLowerCase();
      row.hidden = !words.every((word) => text.includes(word));
      const group = this.groups.get(groupOf(knob.path));
      if (words.length && !row.hidden && group) Object.assign(group.body, { hidden: false, open: true });
    }
  }
}

/** Returns the change of a figure relative to the file's numbers; 0 within rounding.
 *  @param {Figure} figure */
function changeOf({ value, file }) {
  const change = file === null ? 0 : value - file;
  return Math.abs(change) > 1e-6 * Math.max(1, Math.abs(value)) ? change : 0;
}

/** Shows the figures of the sheet, with their changes relative to the file's numbers.
 *  @param {HTMLElement} root @param {Figure[]} figures */
export function showFigures(root, figures) {
  const head = make("tr", {}, make("th", { textContent: "figure" }), ...["file", "now", "change"].map((textContent) => make("th", { className: "n", textContent })));
  const rows = figures.map((figure) => {
    const change = changeOf(figure);
    const cell = (/** @type {string} */ textContent, className = "n") => make("td", { className, textContent });
    const now = cell(`${shown(figure.value)} ${figure.unit}`);
    now.dataset.figure = figure.name;
    return make("tr", { title: figure.meaning }, cell(figure.name, ""), cell(figure.file === null ? "–" : `${shown(figure.file)} ${figure.unit}`), now, cell(change ? shown(Math.abs(change)) : "", change ? `n ${change > 0 ? "up" : "down"}` : "n"));
  });
  root.replaceChildren(make("table", {}, make("thead", {}, head), make("tbody", {}, ...rows)));
}
