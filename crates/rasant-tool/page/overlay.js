// Lines and texts over both views, at projected points of the level: debug lines, names,
// and edited parts.

import { unitOf } from "./axes.js";
import { BRICK, CANAL, FOG, LAMP, NIGHT, PAPER, otherLook } from "./colours.js";
import { along, add, length, scaled } from "./vectors.js";

/** @import { FrameMessage, Other, Place } from "./messages.js" */
/** @import { OverlayLine } from "./scene.js" */
/** @import { Point } from "./vectors.js" */

/** A view that projects points of the level onto the stage.
 *  @typedef {{ onStage(point: Point): Point | null }} Projection */

const FONT = `12px system-ui, "DejaVu Sans", sans-serif`;
const NORMAL = "#9ad08a";

/**
 * Returns the debug lines of the body in a place with this scale.
 * @param {FrameMessage} frame
 * @param {Pick<Place, "scale">} place
 * @returns {OverlayLine[]}
 */
export function debugLines({ body, debug }, place) {
  if (!debug) return [];
  const { scale } = place;
  const unit = unitOf(place);
  const { at, up, facing, hull, velocity } = body;
  const middle = along(at, up, hull.middle);
  const speed = length(velocity);
  /** @type {OverlayLine[]} */
  const lines = [];
  if (speed > 0.05 * scale) lines.push({ points: [middle, along(middle, velocity, 0.25)], colour: CANAL, width: 3, arrow: true, words: `${speed.toFixed(1)} ${unit}/s` });
  if (length(debug.steered) > 0.01) lines.push({ points: [middle, along(middle, debug.steered, scale)], colour: PAPER, width: 2.5, arrow: true, words: "steered" });
  if (debug.normal && debug.ground) lines.push({ points: [debug.ground, along(debug.ground, debug.normal, 0.8 * scale)], colour: NORMAL, width: 2.5, arrow: true, words: `footing ${((body.slope * 180) / Math.PI).toFixed(0)}°` });
  for (const contact of debug.contacts) {
    lines.push({ points: [contact.point, along(contact.point, contact.normal, 0.45 * scale)], colour: BRICK, width: 2, dot: true, words: `${((contact.gap / scale) * 1000).toFixed(1)} mm` });
  }
  // The step height before the feet, and the snap distance below them.
  if (hull.middle) {
    const base = along(at, up, hull.middle - hull.height / 2);
    const toe = along(base, facing, hull.width / 2);
    const top = along(toe, up, debug.step);
    if (debug.step > 0) lines.push({ points: [toe, top, along(top, facing, 0.2 * scale)], colour: FOG, width: 1.5, words: `step ${debug.step.toFixed(2)} ${unit}` });
    const low = along(base, up, -debug.snap);
    const wide = scaled(facing, 0.14 * scale);
    if (debug.snap > 0) lines.push({ points: [base, low, add(low, wide), along(low, wide, -1)], colour: FOG, width: 1.5, dash: [2, 3], words: `snap ${debug.snap.toFixed(2)} ${unit}` });
  }
  const [held, tapped] = debug.arcs;
  lines.push({ points: held, colour: `${LAMP}cc`, width: 2, dash: [5, 5], words: held.length ? "jump held" : "" });
  lines.push({ points: tapped, colour: `${LAMP}cc`, width: 2, dash: [2, 5], words: tapped.length ? "tapped" : "" });
  return lines;
}

/** The most other bodies whose names are shown. */
const MOST_NAMES = 12;

/**
 * Returns the names of the other bodies, above their heads.
 * @param {Other[]} others
 * @returns {OverlayLine[]}
 */
export function namesOf(others) {
  // Of a crowd, only the second player has a name.
  const named = others.length <= MOST_NAMES ? others : others.filter(({ isSecondPlayer }) => isSecondPlayer);
  return named.map(({ name, isSecondPlayer, body: { at, up, hull } }) => {
    const top = along(at, up, hull.middle + hull.height * 0.55);
    return { points: [top, along(top, up, 0.12)], colour: otherLook(isSecondPlayer)[2], width: 1.5, words: name };
  });
}

export class Overlay {
  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    const pen = canvas.getContext("2d");
    if (!pen) throw new Error("this browser cannot draw in two dimensions");
    this.canvas = canvas;
    this.pen = pen;
    /** Rectangles that already contain text. @type {Array<[number, number, number]>} */
    this.taken = [];
  }

  clear() {
    const { canvas, pen } = this;
    const ratio = devicePixelRatio || 1;
    const [width, height] = [Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio)];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, canvas.clientWidth, canvas.clientHeight);
    pen.font = FONT;
    pen.lineJoin = pen.lineCap = "round";
    this.taken = [];
  }

  /** @param {OverlayLine[]} lines @param {Projection} view */
  lines(lines, view) {
    for (const line of lines) {
      const points = line.points.map((point) => view.onStage(point)).filter((point) => point !== null);
      if (points.length < 2) continue;
      this.line(points, line);
    }
  }

  /** @param {Point[]} points on the stage @param {OverlayLine} line */
  line(points, { colour, width = 2, dash = [], words, arrow, dot }) {
    const { pen } = this;
    pen.strokeStyle = pen.fillStyle = colour;
    pen.lineWidth = width;
    pen.setLineDash(dash);
    pen.beginPath();
    points.forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
    pen.stroke();
    pen.setLineDash([]);
    const [x, y] = points[points.length - 1];
    const before = points[points.length - 2];
    if (dot) { pen.beginPath(); pen.arc(points[0][0], points[0][1], 3.5, 0, 7); pen.fill(); }
    if (arrow && Math.hypot(x - before[0], y - before[1]) > 5) {
      const angle = Math.atan2(y - before[1], x - before[0]);
      pen.beginPath();
      for (const turn of [0, 2.6, -2.6]) pen.lineTo(x + 8 * Math.cos(angle + turn) * (turn ? 1 : 0.4), y + 8 * Math.sin(angle + turn) * (turn ? 1 : 0.4));
      pen.fill();
    }
    if (words) this.words(words, x + 7, y + 4, colour);
  }

  /** Draws text, moved down where it would cover other text.
   *  @param {string} text @param {number} x @param {number} y @param {string} colour */
  words(text, x, y, colour) {
    const { pen } = this;
    const width = pen.measureText(text).width;
    x = Math.max(4, Math.min(x, this.canvas.clientWidth - width - 6));
    while (this.taken.some(([left, right, line]) => Math.abs(line - y) < 14 && x < right && x + width > left)) y += 14;
    this.taken.push([x, x + width, y]);
    pen.lineWidth = 3;
    pen.strokeStyle = `${NIGHT}cc`;
    pen.strokeText(text, x, y);
    pen.fillStyle = colour.slice(0, 7);
    pen.fillText(text, x, y);
  }

  /** Draws the handles of a part. @param {Array<{ at: Point, round?: boolean }>} handles @param {Projection} view */
  handles(handles, view) {
    const { pen } = this;
    for (const { at, round } of handles) {
      const place = view.onStage(at);
      if (!place) continue;
      pen.beginPath();
      if (round) pen.arc(place[0], place[1], 6, 0, 7);
      else pen.rect(place[0] - 5, place[1] - 5, 10, 10);
      pen.fillStyle = NIGHT;
      pen.strokeStyle = LAMP;
      pen.lineWidth = 2;
      pen.fill();
      pen.stroke();
    }
  }
}
