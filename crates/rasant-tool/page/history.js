// The ticks of an attempt that the page keeps, for the trail and the plots.

/** @import { Tick, Event } from "./messages.js" */

/** The maximum number of ticks that are kept. */
const MOST = 20_000;

export class History {
  /** @type {Tick[]} In increasing order. */
  ticks = [];

  clear() { this.ticks = []; }

  /**
   * Adds the ticks of a frame. Ticks repeated after going back replace the old ones and those
   * after them. Ticks that the attempt no longer keeps are dropped.
   * @param {Tick[]} ticks
   * @param {number} length the number of ticks of the attempt
   */
  add(ticks, length) {
    for (const tick of ticks) {
      const last = this.ticks.at(-1);
      if (last && tick.tick <= last.tick) this.ticks.length = this.after(tick.tick - 1);
      this.ticks.push(tick);
    }
    const last = this.ticks.at(-1);
    if (last && last.tick > length) this.ticks.length = this.after(length);
    if (this.ticks.length > MOST) this.ticks.splice(0, this.ticks.length - MOST + 1000);
  }

  /** Replaces a range of ticks, for example after the columns changed. @param {Tick[]} ticks */
  replace(ticks) {
    if (!ticks.length) return;
    const events = new Map(this.ticks.map((one) => [one.tick, one.events]));
    const before = this.ticks.slice(0, this.after(ticks[0].tick - 1));
    const later = this.ticks.slice(this.after(ticks[ticks.length - 1].tick));
    // Refusals are shown only while they happen.
    this.ticks = [...before, ...ticks.map((one) => ({ ...one, events: events.get(one.tick) ?? one.events })), ...later];
  }

  /** Returns the number of kept ticks up to a tick, inclusive. @param {number} tick */
  after(tick) {
    let [low, high] = [0, this.ticks.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.ticks[middle].tick <= tick) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Returns the last `count` ticks up to a tick. @param {number} tick @param {number} count */
  upTo(tick, count) {
    const end = this.after(tick);
    return this.ticks.slice(Math.max(0, end - count), end);
  }

  /** Returns the ticks between two numbers. @param {number} from @param {number} to */
  between(from, to) { return this.ticks.slice(this.after(from - 1), this.after(to)); }
}

/** Splits ticks into runs at the respawns. @param {Tick[]} ticks */
export function unbroken(ticks) {
  /** @type {Tick[][]} */
  const parts = [];
  for (const tick of ticks) {
    if (!parts.length || tick.events.some(({ name }) => name === "respawned")) parts.push([]);
    parts[parts.length - 1].push(tick);
  }
  return parts;
}

/** Returns the text of an event. @param {Event} event */
export const inWords = (event) => (event.detail ? `${event.name} ${event.detail}` : event.name);
