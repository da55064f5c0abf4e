// The card with the state of the body, and the table of ghosts.

import { unitOf } from "./axes.js";
import { ghostLook, LAMP, PAPER } from "./colours.js";
import { make, shown } from "./dom.js";

/** @import { Body, Debug, Place, Summary } from "./messages.js" */
/** @import { Scene } from "./scene.js" */

/** Shows the state of the body, and with `debug` the timers and the inputs.
 *  @param {HTMLElement} card @param {Body} body @param {Debug | null} debug @param {string} unit of length */
export function showState(card, body, debug, unit) {
  const line = (/** @type {Array<Node | string>} */ ...parts) => make("div", {}, ...parts);
  const small = (/** @type {string} */ textContent) => make("small", { textContent });
  const lines = [
    line(make("b", { textContent: body.mode }), ` ${body.gait}`),
    line(`${body.speed.toFixed(2)} ${unit}/s, ${body.rise >= 0 ? "up" : "down"} ${Math.abs(body.rise).toFixed(2)}`),
  ];
  if (debug) {
    const slope = body.footing === "none" ? "" : ` ${((body.slope * 180) / Math.PI).toFixed(0)}°`;
    lines.push(line(small("footing"), ` ${body.footing}${slope} ${body.surface ?? ""}`));
    lines.push(line(small("velocity by"), ` ${body.velocityOwner} `, small("facing by"), ` ${body.facingOwner}`));
    if (body.maneuver) lines.push(line(small("maneuver"), ` ${body.maneuver.name} ${body.maneuver.phase} ${(100 * body.maneuver.progress).toFixed(0)} %`));
    lines.push(make("div", { className: "intent" }, stick(body.steer), ...body.held.map((textContent) => make("kbd", { textContent }))));
    for (const { name, seconds } of debug.timers) {
      const bar = make("i");
      bar.style.width = `${Math.min(100, seconds * 100)}%`;
      lines.push(line(small(`${name} ${seconds.toFixed(2)} s`), make("div", { className: "bar" }, bar)));
    }
  }
  card.replaceChildren(...lines);
}

/** Draws the steering as a stick in its circle. @param {[number, number]} steer */
function stick([x, y]) {
  const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  svg.setAttribute("viewBox", "-22 -22 44 44");
  svg.setAttribute("aria-label", `steered ${x.toFixed(2)} right, ${y.toFixed(2)} up`);
  svg.id = "steer";
  const draw = (/** @type {string} */ name, /** @type {Record<string, string | number>} */ attributes) => {
    const element = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
    svg.append(element);
  };
  draw("circle", { r: 20, fill: "none", stroke: "#3a4658", "stroke-width": 2 });
  draw("line", { x1: 0, y1: 0, x2: x * 20, y2: -y * 20, stroke: PAPER, "stroke-width": 2 });
  draw("circle", { cx: x * 20, cy: -y * 20, r: 4, fill: LAMP });
  return svg;
}

/** The figures of a run that are compared. Those that are lengths have
 *  a third part: what follows the unit of length. @type {Array<[keyof Summary, string, string?]>} */
const COMPARED = [["distance_m", "distance", ""], ["highest_m", "highest", ""], ["fastest_m_per_s", "fastest", "/s"], ["airborne_s", "airborne, s"], ["jumps", "jumps"], ["landings", "landings"]];

/** Returns the table of ghosts, and of the same inputs with other numbers.
 *  @param {Scene} scene @param {Pick<Place, "rate" | "scale">} place @param {((ghost: number) => void) | null} forget */
export function ghostTable(scene, { rate, scale }, forget) {
  const unit = unitOf({ scale });
  /** @type {Array<{ title: string, summary: Summary, colour: string, ghost?: number }>} */
  const columns = scene.ghosts.map((ghost, i) => ({ title: forget ? `ghost ${i + 1}` : ghost.title, summary: ghost.summary, colour: ghostLook(i)[0], ghost: i }));
  if (scene.replayed) {
    columns.push({ title: "original", summary: scene.replayed.before, colour: PAPER }, { title: "these numbers", summary: scene.replayed.summary, colour: LAMP });
  }
  if (!columns.length) return [make("p", { textContent: "A kept attempt stays in the picture while you continue, and its figures stay here." })];
  const head = columns.map(({ title, colour, ghost }) => {
    const swatch = make("span", { className: "swatch" });
    swatch.style.color = colour;
    const cell = make("th", { className: "n" }, swatch, title);
    if (ghost !== undefined && forget) {
      const button = make("button", { id: `forget-${ghost}`, textContent: "×", title: `Remove ghost ${ghost + 1}` });
      button.addEventListener("click", () => forget(ghost));
      cell.append(" ", button);
    }
    return cell;
  });
  const rows = COMPARED.map(([key, name, per]) => make("tr", {}, make("td", { textContent: per === undefined ? name : `${name}, ${unit}${per}` }), ...columns.map(({ title, summary }) => {
    const cell = make("td", { className: "n", textContent: shown(/** @type {number | null} */ (summary[key])) });
    cell.dataset.sum = `${title} ${key}`;
    return cell;
  })));
  const table = make("table", {}, make("thead", {}, make("tr", {}, make("th"), ...head)), make("tbody", {}, ...rows));
  if (!scene.replayed) return [table];
  const { parts } = scene.replayed;
  const words = parts === null ? "The two paths are the same." : `The two paths diverge after ${(parts / rate).toFixed(2)} s.`;
  return [table, make("p", { textContent: words })];
}
