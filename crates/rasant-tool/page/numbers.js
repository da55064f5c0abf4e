// The numbers: a slider and a field each, by move, as the tool lists them.

/** A slider's place, 0 to 1000, for a value: even, or finer toward 0 where the range is wide. */
function scaleOf(knob) {
  const { least, most, default: usual } = knob;
  const wide = most - least > 12 * Math.max(1, Math.abs(usual)) && least <= 0;
  const power = wide ? 3 : 1;
  const whole = knob.whole || knob.switch;
  const tidy = (value) => {
    if (whole) return Math.round(value);
    const digits = Math.max(0, 3 - Math.floor(Math.log10(Math.max(Math.abs(value), 1e-3)) + 1));
    return Number(value.toFixed(Math.min(digits, 4)));
  };
  const side = (value) => (value < 0 ? -least : most);
  const low = least < 0 ? -1 : 0;
  const even = power === 1;
  return {
    place: (value) => {
      if (even) return (1000 * (value - least)) / (most - least);
      const share = Math.sign(value) * Math.pow(Math.abs(value) / (side(value) || 1), 1 / power);
      return (1000 * (share - low)) / (1 - low);
    },
    value: (place) => {
      if (even) return tidy(least + (most - least) * (place / 1000));
      const share = low + (1 - low) * (place / 1000);
      return Math.min(most, Math.max(least, tidy(Math.sign(share) * Math.pow(Math.abs(share), power) * side(share))));
    },
  };
}

const groupOf = (path) => path.split(".")[0];
const same = (a, b) => Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b));
export const shown = (value) => (value === null || value === undefined ? "–" : String(Number(value.toPrecision(4))));

export class Numbers {
  constructor(root, find, ask) {
    Object.assign(this, { root, find, ask });
    this.rows = new Map();
    this.drags = 0;
    find.addEventListener("input", () => this.filter());
  }

  list(knobs) {
    // A whole number from 0 to 1 is a switch.
    this.knobs = knobs.map((knob) => ({ ...knob, switch: knob.whole && knob.min === 0 && knob.max === 1 }));
    this.root.replaceChildren();
    this.groups = new Map();
    for (const knob of this.knobs) {
      const name = groupOf(knob.path);
      if (!this.groups.has(name)) this.groups.set(name, this.group(name));
      this.groups.get(name).body.append(this.row(knob));
    }
  }

  group(name) {
    const body = document.createElement("details");
    body.open = ["walk", "jump"].includes(name);
    const summary = document.createElement("summary");
    const count = Object.assign(document.createElement("span"), { className: "count" });
    const reset = Object.assign(document.createElement("button"), { textContent: "reset", title: `All of ${name} back to the file's` });
    reset.addEventListener("click", (event) => {
      event.preventDefault();
      this.ask("reset", { knobs: this.knobs.filter((knob) => groupOf(knob.path) === name).map((knob) => knob.path) });
    });
    summary.append(name, count, reset);
    const moves = Object.assign(document.createElement("div"), { className: "moves" });
    body.append(summary, moves);
    this.root.append(body);
    return { body, count, reset, moves };
  }

  row(knob) {
    const row = Object.assign(document.createElement("div"), { className: "knob", title: `${knob.meaning}\n${knob.min} to ${knob.max} ${knob.unit}, usually ${knob.default}` });
    const scale = scaleOf(knob);
    const label = document.createElement("label");
    label.className = "what";
    const id = `knob-${knob.path}`;
    label.htmlFor = id;
    label.append(knob.path.split(".")[1] + " ", Object.assign(document.createElement("small"), { textContent: knob.switch ? "off or on" : knob.unit }));
    const field = Object.assign(document.createElement("input"), { type: "number", id, min: knob.min, max: knob.max, step: knob.whole || knob.switch ? 1 : "any" });
    const undo = Object.assign(document.createElement("button"), { className: "undo", textContent: "↺", title: `${knob.path} back to the file's` });
    const slider = Object.assign(document.createElement("input"), { type: "range", min: 0, max: 1000, step: 1, ariaLabel: `${knob.path}, slider` });
    if (knob.switch) Object.assign(slider, { max: 1, min: 0 });
    const turn = (value, drag) => Number.isFinite(value) && this.ask("turn", { knob: knob.path, value, drag });
    slider.addEventListener("pointerdown", () => (this.drag = ++this.drags));
    slider.addEventListener("input", () => turn(knob.switch ? Number(slider.value) : scale.value(Number(slider.value)), this.drag ?? null));
    slider.addEventListener("change", () => (this.drag = null));
    field.addEventListener("change", () => turn(field.valueAsNumber, null));
    field.addEventListener("keydown", (event) => event.key === "Enter" && field.blur());
    undo.addEventListener("click", () => this.ask("reset", { knobs: [knob.path] }));
    row.append(label, field, undo, slider);
    this.rows.set(knob.path, { row, field, slider, scale, knob });
    return row;
  }

  show({ values, file }) {
    const others = new Map();
    this.knobs.forEach((knob, i) => {
      const { row, field, slider, scale } = this.rows.get(knob.path);
      const other = !same(values[i], file[i]);
      row.classList.toggle("other", other);
      if (other) others.set(groupOf(knob.path), (others.get(groupOf(knob.path)) ?? 0) + 1);
      if (document.activeElement !== field) field.value = shown(values[i]);
      if (document.activeElement !== slider || !this.drag) slider.value = knob.switch ? values[i] : scale.place(values[i]);
    });
    for (const [name, { count, reset }] of this.groups) {
      const changed = others.get(name) ?? 0;
      count.textContent = changed ? `${changed} turned` : "";
      reset.hidden = !changed;
    }
  }

  /** Beside each group, the figures that are its own, and others of those that it moves
   *  where they have changed. */
  measured(figures) {
    for (const [name, { moves }] of this.groups) {
      const own = figures.filter((figure) => figure.groups?.[0] === name || (figure.groups?.includes(name) && changeOf(figure)));
      moves.replaceChildren(...own.map((figure) => {
        const change = changeOf(figure);
        const line = Object.assign(document.createElement("span"), { title: figure.meaning ?? "" });
        line.append(`${figure.name} `, Object.assign(document.createElement("b"), { textContent: `${shown(figure.is)} ${figure.unit}` }));
        if (change) line.append(" ", Object.assign(document.createElement("i"), { textContent: shown(Math.abs(change)), className: change > 0 ? "up" : "down" }));
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
      if (words.length && !row.hidden) Object.assign(this.groups.get(groupOf(knob.path)).body, { hidden: false, open: true });
    }
  }
}

/** How far a figure is from what the file's numbers come to; 0 for no further than rounding. */
function changeOf({ is, was }) {
  const change = was === null ? 0 : is - was;
  return Math.abs(change) > 1e-6 * Math.max(1, Math.abs(is)) ? change : 0;
}

/** The sheet's figures, with what has changed since the file's numbers. */
export function showFigures(root, figures) {
  const table = document.createElement("table");
  table.innerHTML = "<thead><tr><th>figure</th><th class=n>file</th><th class=n>now</th><th class=n>change</th></tr></thead>";
  const body = table.createTBody();
  for (const figure of figures) {
    const row = body.insertRow();
    row.title = figure.meaning ?? "";
    row.insertCell().textContent = figure.name;
    const cell = (text, name = "n") => Object.assign(row.insertCell(), { textContent: text, className: name });
    cell(`${shown(figure.was)} ${figure.unit}`);
    cell(`${shown(figure.is)} ${figure.unit}`).dataset.figure = figure.name;
    const change = changeOf(figure);
    cell(change ? shown(Math.abs(change)) : "", change ? `n ${change > 0 ? "up" : "down"}` : "n");
  }
  root.replaceChildren(table);
}
