// Columns of the trace over time, in lanes, with the events above them.

import { FOG, LAMP, LINES, PAPER } from "./colours.js";
import { clamp } from "./vectors.js";
import { inWords } from "./history.js";

/** @import { ColumnInfo, Tick } from "./messages.js" */
/** @import { History } from "./history.js" */

const FONT = `12px system-ui, "DejaVu Sans", sans-serif`;
const LEFT = 66, RIGHT = 14, EVENTS = 20, TIME = 20, LANE = 62;
/** The maximum number of lanes. */
export const MOST_LANES = 4;
/** The initial, the minimum and the maximum length shown, in seconds. */
const SHOWN = 10, LEAST = 0.2, MOST = 300;
/** Frequent events, which are marked without text. */
const QUIET = new Set(["footfall"]);

/** Returns the title of a column: its name without its unit. @param {string} name */
export const columnInWords = (name) => name.replace(/_(m_per_s|m|s|deg)$/, "").replaceAll("_", " ");

/** Returns a distance between marks of about this size: 1, 2 or 5 times a power of ten. @param {number} about */
export function niceStep(about) {
  const power = 10 ** Math.floor(Math.log10(about));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= about * 0.999) ?? about;
}

export class Plot {
  /** @param {HTMLCanvasElement} canvas @param {History} history @param {(tick: number) => void} seek */
  constructor(canvas, history, seek) {
    const pen = canvas.getContext("2d");
    if (!pen) throw new Error("this browser cannot draw in two dimensions");
    this.canvas = canvas;
    this.pen = pen;
    this.history = history;
    this.seek = seek;
    /** @type {ColumnInfo[]} */
    this.columns = [];
    this.seconds = SHOWN;
    /** The last visible tick; null to follow the attempt. @type {number | null} */
    this.last = null;
    this.rate = 60;
    this.now = 0;
    /** What was drawn, for tests and for readers: each lane's range, and the events with words. */
    this.drawn = { lanes: /** @type {Array<{ name: string, low: number, high: number, points: number }>} */ ([]), events: /** @type {string[]} */ ([]), from: 0, to: 0 };
    /** @type {{ x: number, last: number, moved: boolean } | null} */
    this.drag = null;
    canvas.addEventListener("wheel", (event) => { event.preventDefault(); this.zoom(event.deltaY < 0 ? 0.8 : 1.25, event.offsetX); }, { passive: false });
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      this.drag = { x: event.offsetX, last: this.end, moved: false };
    });
    canvas.addEventListener("pointermove", (event) => {
      if (!this.drag) return;
      const by = event.offsetX - this.drag.x;
      if (Math.abs(by) > 3) this.drag.moved = true;
      if (this.drag.moved) this.last = Math.max(0, this.drag.last - by / this.perTick);
    });
    canvas.addEventListener("pointerup", (event) => {
      if (this.drag && !this.drag.moved) seek(Math.max(0, Math.round(this.tickAt(event.offsetX))));
      this.drag = null;
    });
    canvas.addEventListener("pointercancel", () => (this.drag = null));
    canvas.addEventListener("dblclick", () => this.follow());
    canvas.addEventListener("keydown", (event) => {
      if (event.key === "+" || event.key === "=") this.zoom(0.8);
      else if (event.key === "-") this.zoom(1.25);
      else if (event.key === "0") this.follow();
      else return;
      event.stopPropagation();
    });
  }

  /** The height of the lanes, in pixels. */
  get height() { return EVENTS + Math.max(1, this.columns.length) * LANE + TIME; }
  get end() { return this.last ?? this.now; }
  get perTick() { return (this.canvas.clientWidth - LEFT - RIGHT) / (this.seconds * this.rate); }
  /** @param {number} x */
  tickAt(x) { return this.end - (this.canvas.clientWidth - RIGHT - x) / this.perTick; }
  /** @param {number} tick */
  xOf(tick) { return this.canvas.clientWidth - RIGHT - (this.end - tick) * this.perTick; }

  /** Zooms the time axis about a point of the canvas. @param {number} factor @param {number} [x] */
  zoom(factor, x) {
    const about = x === undefined ? this.end : this.tickAt(x);
    const before = this.seconds;
    this.seconds = clamp(this.seconds * factor, LEAST, MOST);
    if (this.last !== null || x !== undefined) {
      const last = about + ((this.end - about) * this.seconds) / before;
      this.last = last >= this.now - 1 ? null : last;
    }
  }

  /** Shows the last seconds again. */
  follow() { [this.last, this.seconds] = [null, SHOWN]; }

  /** @param {number} tick @param {number} rate */
  draw(tick, rate) {
    const { canvas, pen } = this;
    [this.now, this.rate] = [Math.max(tick, this.history.ticks.at(-1)?.tick ?? 0), rate];
    const ratio = devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) [canvas.width, canvas.height] = [Math.round(width * ratio), Math.round(height * ratio)];
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, width, height);
    pen.font = FONT;
    pen.textBaseline = "alphabetic";
    const [from, to] = [Math.max(0, Math.floor(this.tickAt(LEFT))), Math.ceil(this.end)];
    const ticks = this.history.between(from, to);
    this.drawn = { lanes: [], events: [], from, to };
    this.time(height);
    this.columns.forEach((column, i) => this.lane(column, i, ticks, tick));
    this.events(ticks);
    const now = this.xOf(tick);
    if (now >= LEFT) {
      pen.strokeStyle = PAPER;
      pen.lineWidth = 1;
      pen.strokeRect(now, EVENTS - 4, 0, height - EVENTS - TIME + 4);
    }
  }

  /** @param {number} height */
  time(height) {
    const { pen, rate } = this;
    const step = niceStep(this.seconds / 8);
    pen.textAlign = "center";
    for (let second = Math.ceil(this.tickAt(LEFT) / rate / step) * step; second <= this.end / rate + 1e-6; second += step) {
      const x = this.xOf(second * rate);
      if (second < -1e-9) continue;
      pen.strokeStyle = "#2b3445";
      pen.lineWidth = 1;
      pen.strokeRect(x, EVENTS, 0, height - EVENTS - TIME);
      pen.fillStyle = FOG;
      const words = `${Number(second.toFixed(3))} s`;
      pen.fillText(words, clamp(x, LEFT + 12, this.canvas.clientWidth - 22), height - 5);
    }
    pen.textAlign = "left";
  }

  /** @param {ColumnInfo} column @param {number} i @param {Tick[]} ticks @param {number} now */
  lane(column, i, ticks, now) {
    const { pen } = this;
    const [top, bottom] = [EVENTS + i * LANE + 18, EVENTS + (i + 1) * LANE - 4];
    const colour = LINES[i % LINES.length];
    const values = ticks.map((tick) => tick.values[i]);
    // The ticks are in increasing order; the current one is among the last.
    let at = ticks.length - 1;
    while (at > 0 && ticks[at - 1].tick >= now) at--;
    const present = values[at];
    const shown = typeof present === "number" ? Number(present.toFixed(3)) : present ?? "";
    pen.fillStyle = colour;
    pen.fillText(`${columnInWords(column.name)}${column.unit ? `, ${column.unit}` : ""}: ${shown}`, LEFT + 4, top - 5);
    pen.strokeStyle = "#38435480";
    pen.lineWidth = 1;
    pen.strokeRect(LEFT, bottom + 2, this.canvas.clientWidth - LEFT - RIGHT, 0);
    if (values.some((value) => typeof value === "string")) return this.bands(column, ticks, values, colour, top, bottom);
    const numbers = values.filter((value) => typeof value === "number");
    if (!numbers.length) return;
    let low = Infinity, high = -Infinity;
    for (const value of numbers) { low = Math.min(low, value); high = Math.max(high, value); }
    if (column.unit === "m/s") low = Math.min(low, 0);
    if (high - low < 1e-3) [low, high] = [low - 0.5, high + 0.5];
    const y = (/** @type {number} */ value) => bottom - ((value - low) / (high - low)) * (bottom - top);
    pen.textAlign = "right";
    const step = niceStep((high - low) / 3.2);
    for (let mark = Math.ceil(low / step) * step; mark <= high + 1e-9; mark += step) {
      pen.fillStyle = FOG;
      pen.fillText(String(Number(mark.toFixed(4))), LEFT - 6, clamp(y(mark) + 4, top + 4, bottom + 2));
      pen.strokeStyle = "#2b344590";
      pen.strokeRect(LEFT, y(mark), this.canvas.clientWidth - LEFT - RIGHT, 0);
    }
    pen.textAlign = "left";
    pen.strokeStyle = colour;
    pen.lineWidth = 1.8;
    pen.setLineDash(i % 2 ? [6, 3] : []);
    pen.beginPath();
    let points = 0;
    ticks.forEach((tick, k) => {
      const value = values[k];
      if (typeof value !== "number") return;
      // Missing ticks interrupt the line.
      if (points && ticks[k - 1]?.tick === tick.tick - 1) pen.lineTo(this.xOf(tick.tick), y(value));
      else pen.moveTo(this.xOf(tick.tick), y(value));
      points++;
    });
    pen.stroke();
    pen.setLineDash([]);
    this.drawn.lanes.push({ name: column.name, low, high, points });
  }

  /** Draws words as bands. @param {ColumnInfo} column @param {Tick[]} ticks @param {Array<string | number>} values @param {string} colour @param {number} top @param {number} bottom */
  bands(column, ticks, values, colour, top, bottom) {
    const { pen } = this;
    let bands = 0;
    for (let start = 0; start < ticks.length; bands++) {
      let stop = start + 1;
      while (stop < ticks.length && values[stop] === values[start]) stop++;
      const [from, to] = [this.xOf(ticks[start].tick), this.xOf(ticks[Math.min(stop, ticks.length - 1)].tick)];
      pen.fillStyle = bands % 2 ? "#38435499" : "#2b344599";
      pen.fillRect(from, top, to - from, bottom - top);
      pen.fillStyle = colour;
      pen.fillRect(from, top, 1, bottom - top);
      const words = String(values[start]);
      if (pen.measureText(words).width + 8 < to - from) pen.fillText(words, from + 5, (top + bottom) / 2 + 4);
      start = stop;
    }
    this.drawn.lanes.push({ name: column.name, low: 0, high: 0, points: bands });
  }

  /** @param {Tick[]} ticks */
  events(ticks) {
    const { pen } = this;
    let free = LEFT;
    for (const tick of ticks) {
      for (const event of tick.events) {
        const x = this.xOf(tick.tick);
        pen.fillStyle = pen.strokeStyle = QUIET.has(event.name) ? "#6b788c" : LAMP;
        pen.lineWidth = 1;
        pen.beginPath();
        pen.moveTo(x - 3.5, EVENTS - 3);
        pen.lineTo(x + 3.5, EVENTS - 3);
        pen.lineTo(x, EVENTS + 3);
        pen.fill();
        const words = inWords(event);
        const width = pen.measureText(words).width;
        const left = Math.min(x - 3, this.canvas.clientWidth - RIGHT - width);
        if (QUIET.has(event.name) || left < free) continue;
        pen.fillText(words, left, 12);
        this.drawn.events.push(words);
        free = left + width + 8;
      }
    }
  }
}
