// The ticks of an attempt, as far as the page keeps them: for the trail and for the plots.

/** @import { Tick, Event } from "./messages.js" */

/** Ticks that are kept at most. */
const MOST = 20_000;

export class History {
  /** @type {Tick[]} In their order, each one above the last. */
  ticks = [];

  clear() { this.ticks = []; }

  /**
   * Takes the ticks of a frame. Those that come again, after going back, replace what came
   * after them; what the attempt has forgotten is dropped.
   * @param {Tick[]} ticks
   * @param {number} length how many ticks the attempt has
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

  /** Takes a stretch of ticks once more, as for other columns. @param {Tick[]} ticks */
  replace(ticks) {
    if (!ticks.length) return;
    const events = new Map(this.ticks.map((one) => [one.tick, one.events]));
    const before = this.ticks.slice(0, this.after(ticks[0].tick - 1));
    const later = this.ticks.slice(this.after(ticks[ticks.length - 1].tick));
    // What was refused is only told in words while it happens.
    this.ticks = [...before, ...ticks.map((one) => ({ ...one, events: events.get(one.tick) ?? one.events })), ...later];
  }

  /** How many of the kept ticks are not after a tick. @param {number} tick */
  after(tick) {
    let [low, high] = [0, this.ticks.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.ticks[middle].tick <= tick) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The last `count` ticks up to a tick. @param {number} tick @param {number} count */
  upTo(tick, count) {
    const end = this.after(tick);
    return this.ticks.slice(Math.max(0, end - count), end);
  }

  /** The ticks from one to another. @param {number} from @param {number} to */
  between(from, to) { return this.ticks.slice(this.after(from - 1), this.after(to)); }
}

/** The runs of ticks between which the body was put elsewhere. @param {Tick[]} ticks */
export function unbroken(ticks) {
  /** @type {Tick[][]} */
  const parts = [];
  for (const tick of ticks) {
    if (!parts.length || tick.events.some(({ name }) => name === "respawned")) parts.push([]);
    parts[parts.length - 1].push(tick);
  }
  return parts;
}

/** The words of an event. @param {Event} event */
export const inWords = (event) => (event.detail ? `${event.name} ${event.detail}` : event.name);
