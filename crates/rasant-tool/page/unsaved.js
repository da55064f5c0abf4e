// Unsaved numbers, which the browser keeps and offers again.

import { make } from "./dom.js";

/** @import { KnobInfo, NumbersMessage, Request } from "./messages.js" */

const STORED = "rasant-unsaved:";

/** @param {number} a @param {number} b */
const same = (a, b) => Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b));

export class Unsaved {
  /** @param {HTMLElement} root where the offer is shown @param {(request: Request) => void} request */
  constructor(root, request) {
    this.root = root;
    this.request = request;
    /** @type {string | null} The trial and the file of the numbers. */
    this.owner = null;
    /** @type {Record<string, number>} The changed numbers. */
    this.changes = {};
    this.place = false;
    window.addEventListener("beforeunload", (event) => {
      // Browsers show their own question.
      if (Object.keys(this.changes).length || this.place) event.preventDefault();
    });
  }

  /**
   * Keeps the changed numbers, and offers those of an earlier visit once for each trial and file.
   * @param {string} trial @param {KnobInfo[]} knobs @param {NumbersMessage} now
   */
  show(trial, knobs, { values, file, source }) {
    const owner = `${STORED}${trial} ${source ?? ""}`;
    this.changes = {};
    knobs.forEach((knob, i) => {
      const [value, saved] = [values[i], file[i]];
      if (value !== null && saved !== null && !same(value, saved)) this.changes[knob.path] = value;
    });
    if (owner !== this.owner) {
      this.owner = owner;
      this.root.replaceChildren();
      const left = read(owner);
      const others = Object.entries(left).filter(([path, value]) => !(path in this.changes) || !same(this.changes[path], value));
      if (others.length && knobs.some((knob) => knob.path in left)) return this.offer(owner, left);
    }
    // The offered numbers stay until there is an answer, together with later changes.
    write(owner, this.root.childElementCount ? { ...read(owner), ...this.changes } : this.changes);
  }

  /** @param {string} owner @param {Record<string, number>} left */
  offer(owner, left) {
    const count = Object.keys(left).length;
    const title = Object.entries(left).map(([path, value]) => `${path} = ${value}`).join("\n");
    const take = make("button", { id: "take-unsaved", textContent: count === 1 ? "Use it" : "Use them", title });
    const forget = make("button", { id: "forget-unsaved", textContent: count === 1 ? "Discard it" : "Discard them", title });
    take.addEventListener("click", () => {
      this.root.replaceChildren();
      for (const [knob, value] of Object.entries(left)) this.request({ request: "turn", knob, value, drag: null });
    });
    forget.addEventListener("click", () => {
      this.root.replaceChildren();
      write(owner, this.changes);
    });
    const words = count === 1 ? "1 number of an earlier visit was not saved." : `${count} numbers of an earlier visit were not saved.`;
    this.root.replaceChildren(make("p", { className: "note" }, `${words} `, take, " ", forget));
  }
}

/** @param {string} owner @returns {Record<string, number>} */
function read(owner) {
  try {
    const stored = JSON.parse(localStorage.getItem(owner) ?? "{}");
    return Object.fromEntries(Object.entries(stored).filter(([, value]) => typeof value === "number" && Number.isFinite(value)));
  } catch {
    return {};
  }
}

/** @param {string} owner @param {Record<string, number>} changes */
function write(owner, changes) {
  try {
    if (Object.keys(changes).length) localStorage.setItem(owner, JSON.stringify(changes));
    else localStorage.removeItem(owner);
  } catch { /* it is forbidden */ }
}
