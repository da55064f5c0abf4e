// Two dimensions: side view and view from above.

import { Axes, PLAIN } from "./axes.js";
import { BRICK, CANAL, COAT, FOG, LAMP, NIGHT, SHADE, ghostLook, otherLook, stone, zoneColour } from "./colours.js";
import { figureOf } from "./figure.js";
import { unbroken } from "./history.js";
import { ghostAt } from "./scene.js";

/** @import { Body, Outline, Place, PlacePart, Shape, Tick, Zone } from "./messages.js" */
/** @import { Scene, Shown } from "./scene.js" */
/** @import { Point } from "./vectors.js" */

/** The length of the trail, in ticks. */
const TRAIL = 900;
/** The time between two hulls of a dash in its trail, in seconds. */
const AFTERIMAGE = 0.05;

export const TONES = { coat: COAT, shade: SHADE, skin: "#f0d9a8", lamp: "#ffe9a8", dark: "#2a2f3b" };

/** Writes the lower left and the upper right corner of the box around an outline.
 *  @param {Outline} outline @param {Float64Array} boxes @param {number} at */
function writeBox(outline, boxes, at) {
  boxes.set([Infinity, Infinity, -Infinity, -Infinity], at);
  const add = (/** @type {Point} */ [x, y], radius = 0) => {
    [boxes[at], boxes[at + 1]] = [Math.min(boxes[at], x - radius), Math.min(boxes[at + 1], y - radius)];
    [boxes[at + 2], boxes[at + 3]] = [Math.max(boxes[at + 2], x + radius), Math.max(boxes[at + 3], y + radius)];
  };
  if (outline.form === "ball") add(outline.centre, outline.radius);
  else for (const point of outline.points) add(point);
}

export class View2d {
  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    const pen = canvas.getContext("2d");
    if (!pen) throw new Error("this browser draws nothing in two dimensions");
    this.canvas = canvas;
    this.pen = pen;
    /** @type {Point} */
    this.middle = [0, 0];
    /** Pixels per metre. */
    this.scale = 40;
    this.axes = PLAIN;
    /** @type {Place | null} */
    this.place = null;
    /** The outline of each shape. @type {Outline[]} */
    this.outlines = [];
    /** The numbers of the shapes whose outlines come with each frame. @type {number[]} */
    this.moving = [];
    /** The boxes around the outlines, four numbers each. */
    this.boxes = new Float64Array(0);
  }

  /** @param {Place} level */
  open(level) {
    this.axes = new Axes(level);
    const place = this.place = this.axes.place(level);
    this.outlines = place.shapes.map((shape) => shape.outline);
    this.moving = place.shapes.flatMap((shape, i) => (shape.moves ? [i] : []));
    this.boxes = new Float64Array(4 * this.outlines.length);
    this.outlines.forEach((outline, i) => writeBox(outline, this.boxes, 4 * i));
  }

  /** @param {Shown} seen @param {Scene} all */
  draw(seen, all) {
    const { pen, canvas, place, axes } = this;
    if (!place) return;
    const [frame, scene] = [axes.frame(seen), axes.scene(all)];
    const ratio = devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      [canvas.width, canvas.height] = [Math.round(width * ratio), Math.round(height * ratio)];
    }
    const { body } = frame;
    const scale = this.scale = Math.max(18, Math.min(height / 13, width / 20)) * scene.zoom;
    this.middle = frame.camera.focus;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.fillStyle = NIGHT;
    pen.fillRect(0, 0, width, height);
    pen.translate(width / 2, height / 2);
    pen.scale(scale, -scale);
    pen.translate(-this.middle[0], -this.middle[1]);
    pen.lineJoin = pen.lineCap = "round";
    const px = 1 / scale;
    this.grid(px, width / scale, height / scale);
    for (const zone of place.zones) this.zone(zone, px);
    this.moving.forEach((number, i) => (this.outlines[number] = frame.carried[i] ?? place.shapes[number].outline));
    const [across, up] = [width / scale / 2 + px, height / scale / 2 + px];
    const [x, y] = this.middle;
    const { boxes } = this;
    place.shapes.forEach((shape, i) => {
      const at = 4 * i;
      const isSeen = boxes[at + 2] >= x - across && boxes[at] <= x + across && boxes[at + 3] >= y - up && boxes[at + 1] <= y + up;
      if (isSeen || shape.moves) this.shape(shape, this.outlines[i], px);
    });
    scene.ghosts.forEach((ghost, i) => {
      const [colour, dashes] = ghostLook(i);
      this.line(ghost.path, colour, 2 * px, dashes.map((dash) => dash * px));
      const at = ghostAt(ghost, frame.tick);
      if (at) this.hullAt(at, body, colour, px);
    });
    if (scene.replayed) this.line(scene.replayed.path, LAMP, 3 * px, [6 * px, 3 * px]);
    this.trail(scene.history.upTo(frame.tick, TRAIL), body, place.rate, px);
    for (const { body: other, isSecondPlayer } of frame.others) this.body(other, scene.figure && isSecondPlayer, px, otherLook(isSecondPlayer));
    this.body(body, scene.figure, px, [LAMP, "#5a3f0c"]);
  }

  /** Returns the position of a point of the level on the stage, in pixels. @param {Point} point @returns {Point} */
  onStage(point) {
    const { canvas, scale, middle } = this;
    const [x, y] = this.axes.seen(point);
    return [canvas.clientWidth / 2 + (x - middle[0]) * scale, canvas.clientHeight / 2 - (y - middle[1]) * scale];
  }

  /** Returns the point of the picture under the pointer. @param {MouseEvent} event @returns {Point} */
  at(event) {
    const box = this.canvas.getBoundingClientRect();
    const { scale, middle } = this;
    return [middle[0] + (event.clientX - box.left - box.width / 2) / scale, middle[1] - (event.clientY - box.top - box.height / 2) / scale];
  }

  /** Returns that point, and the topmost part there.
   *  @param {MouseEvent} event @param {Map<string, PlacePart>} parts @returns {{ at: Point, key: string | null } | null} */
  pointed(event, parts) {
    const at = this.at(event);
    const near = 6 / this.scale;
    const covered = (/** @type {[string, PlacePart]} */ [, { part }]) => {
      if (part.of === "piece") return covers(this.outlines[part.number], at, near);
      const zone = this.place?.zones[part.number];
      return !!zone && at.every((value, i) => value >= zone.min[i] && value <= zone.max[i]);
    };
    const all = [...parts].reverse();
    const found = all.find((one) => one[1].part.of === "piece" && covered(one)) ?? all.find(covered);
    return { at: this.axes.inLevel(at), key: found?.[0] ?? null };
  }

  /** Returns the position to which the pointer drags a point. @param {MouseEvent} event @param {Point} _from @param {boolean} _upright @returns {Point | null} */
  dragged(event, _from, _upright) { return this.axes.inLevel(this.at(event)); }

  /** @param {number} px @param {number} wide @param {number} high */
  grid(px, wide, high) {
    const { pen } = this;
    const [x, y] = this.middle;
    pen.strokeStyle = "#232b39";
    pen.lineWidth = px;
    pen.beginPath();
    // A line for each metre.
    for (let i = Math.floor(x - wide / 2); i <= x + wide / 2; i++) { pen.moveTo(i, y - high); pen.lineTo(i, y + high); }
    for (let i = Math.floor(y - high / 2); i <= y + high / 2; i++) { pen.moveTo(x - wide, i); pen.lineTo(x + wide, i); }
    pen.stroke();
  }

  /** @param {Point[]} points @param {boolean} closed */
  outline(points, closed) {
    const { pen } = this;
    pen.beginPath();
    points.forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
    if (closed) pen.closePath();
  }

  /** @param {Shape} shape @param {Outline} outline @param {number} px */
  shape(shape, outline, px) {
    const { pen } = this;
    pen.fillStyle = shape.oneWay ? "#55627a55" : stone(shape.surface);
    pen.strokeStyle = "#93a1b8";
    pen.lineWidth = 1.5 * px;
    pen.setLineDash(shape.oneWay ? [5 * px, 4 * px] : []);
    if (outline.form === "ball") {
      pen.beginPath();
      pen.arc(outline.centre[0], outline.centre[1], outline.radius, 0, 7);
    } else {
      this.outline(outline.points, outline.form !== "segment");
    }
    if (outline.form !== "segment") pen.fill();
    pen.stroke();
    pen.setLineDash([]);
  }

  /** @param {Zone} zone @param {number} px */
  zone(zone, px) {
    const { pen } = this;
    const [[x, y], [right, top]] = [zone.min, zone.max];
    const colour = zoneColour(zone.kinds[0]);
    pen.strokeStyle = colour;
    pen.fillStyle = `${colour}22`;
    pen.lineWidth = 1.5 * px;
    pen.fillRect(x, y, right - x, top - y);
    pen.setLineDash([3 * px, 3 * px]);
    pen.strokeRect(x, y, right - x, top - y);
    pen.setLineDash([]);
    if (zone.kinds.includes("ladder")) {
      pen.beginPath();
      for (let rung = y + 0.3; rung < top; rung += 0.35) { pen.moveTo(x, rung); pen.lineTo(right, rung); }
      pen.stroke();
    }
    const kinds = zone.kinds.join(", ");
    pen.save();
    pen.translate(x + 4 * px, top - 14 * px);
    pen.scale(px, -px);
    pen.font = `12px system-ui, "DejaVu Sans", sans-serif`;
    pen.fillStyle = colour;
    pen.fillText(zone.name ? `${kinds}: ${zone.name}` : kinds, 0, 0);
    pen.restore();
  }

  /** @param {Point[]} points @param {string} colour @param {number} width @param {number[]} dash */
  line(points, colour, width, dash) {
    if (points.length < 2) return;
    const { pen } = this;
    pen.strokeStyle = colour;
    pen.lineWidth = width;
    pen.setLineDash(dash);
    this.outline(points, false);
    pen.stroke();
    pen.setLineDash([]);
  }

  /** Draws the path of the body, tick by tick, with marks at events.
   *  @param {Tick[]} ticks @param {Body} body @param {number} rate @param {number} px */
  trail(ticks, body, rate, px) {
    for (const part of unbroken(ticks)) this.line(part.map((tick) => tick.feet), "#edf1f666", 2 * px, []);
    for (const part of maneuvers(ticks)) {
      this.line(part.map((tick) => tick.feet), CANAL, 4 * px, []);
      const every = Math.max(1, Math.round(AFTERIMAGE * rate));
      part.filter((_, i) => i % every === 0).forEach((tick) => this.hullAt(tick.feet, lowered(body, tick.height), `${CANAL}66`, px));
    }
    for (const tick of ticks) for (const event of tick.events) this.mark(event.name, event.at, px);
  }

  /** @param {Point} feet @param {Body} body @param {string} colour @param {number} px */
  hullAt(feet, body, colour, px) {
    const { pen } = this;
    pen.save();
    pen.translate(feet[0], feet[1]);
    pen.rotate(Math.atan2(-body.up[0], body.up[1]));
    this.hull(body);
    pen.strokeStyle = colour;
    pen.lineWidth = 1.5 * px;
    pen.stroke();
    pen.restore();
  }

  /** @param {string} name @param {Point} at @param {number} px */
  mark(name, [x, y], px) {
    const colours = /** @type {Record<string, string>} */ ({ jumped: LAMP, landed: CANAL, apex: FOG, footfall: "#6b788c", "bumped-head": BRICK });
    const colour = colours[name];
    if (!colour) return;
    const { pen } = this;
    pen.strokeStyle = colour;
    pen.lineWidth = 2 * px;
    pen.beginPath();
    const r = 5 * px;
    if (name === "jumped") { pen.moveTo(x - r, y - r); pen.lineTo(x, y + r); pen.lineTo(x + r, y - r); }
    else if (name === "landed") { pen.moveTo(x - r, y + r); pen.lineTo(x, y - r); pen.lineTo(x + r, y + r); }
    else if (name === "footfall") { pen.arc(x, y, 2 * px, 0, 7); }
    else { pen.arc(x, y, 3.5 * px, 0, 7); }
    pen.stroke();
  }

  /** Draws the outline of the hull, with the body's position at the origin. @param {Body} body */
  hull({ hull }) {
    const { pen } = this;
    pen.beginPath();
    pen.roundRect(-hull.width / 2, hull.middle - hull.height / 2, hull.width, hull.height, hull.rounding);
  }

  /** @param {Body} body @param {boolean} asFigure @param {number} px @param {string[]} look fill and rim */
  body(body, asFigure, px, [fill, rim]) {
    const { pen } = this;
    const [x, y] = body.at;
    pen.save();
    pen.translate(x, y);
    pen.rotate(Math.atan2(-body.up[0], body.up[1]));
    this.hull(body);
    pen.fillStyle = asFigure ? `${fill}18` : fill;
    pen.fill();
    pen.strokeStyle = asFigure ? `${fill}99` : rim;
    pen.lineWidth = (asFigure ? 1.2 : 2) * px;
    pen.stroke();
    pen.restore();
    if (asFigure) this.figure(body);
    else this.eye(body, px);
  }

  /** @param {Body} body */
  figure(body) {
    const { pen } = this;
    const { at, facing, up, hull } = body;
    const above = hull.middle === 0;
    // In a view from above, up is toward the viewer and right is drawn.
    const right = [facing[1], -facing[0]];
    const place = (/** @type {Point} */ [f, u, s]) => at.map((part, i) => part + facing[i] * f + (above ? right[i] * s : up[i] * u));
    const near = above ? 1 : Math.sign(facing[0] * up[1] - facing[1] * up[0]) || 1;
    const depth = (/** @type {import("./figure.js").Limb} */ { from, to }) => (above ? from[1] + to[1] : near * (from[2] + to[2]));
    for (const limb of figureOf(body).sort((a, b) => depth(a) - depth(b))) {
      const [from, to] = [place(limb.from), place(limb.to)];
      pen.strokeStyle = pen.fillStyle = TONES[limb.tone];
      pen.lineWidth = 2 * limb.radius;
      if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 1e-4) {
        pen.beginPath();
        pen.arc(from[0], from[1], limb.radius, 0, 7);
        pen.fill();
      } else {
        this.outline([from, to], false);
        pen.stroke();
      }
    }
  }

  /** Draws an eye that shows the facing. @param {Body} body @param {number} px */
  eye({ at, facing, up, hull }, px) {
    const { pen } = this;
    const reach = hull.width * 0.275;
    // A view from above has no up.
    const rise = hull.middle ? hull.middle + hull.height * 0.28 : 0;
    pen.fillStyle = NIGHT;
    pen.beginPath();
    pen.arc(at[0] + facing[0] * reach + up[0] * rise, at[1] + facing[1] * reach + up[1] * rise, 3.4 * px, 0, 7);
    pen.fill();
  }
}

/** Returns a body with another height of its hull and the same underside. @param {Body} body @param {number} height @returns {Body} */
function lowered(body, height) {
  const { hull } = body;
  return { ...body, hull: { ...hull, height, middle: hull.middle + (height - hull.height) / 2, rounding: Math.min(hull.rounding, height / 2) } };
}

/** Returns the runs of ticks in a maneuver. @param {Tick[]} ticks */
export function maneuvers(ticks) {
  /** @type {Tick[][]} */
  const parts = [];
  let inside = false;
  for (const tick of ticks) {
    const now = tick.maneuver;
    if (now && !inside) parts.push([]);
    if (now) parts[parts.length - 1].push(tick);
    inside = now;
  }
  return parts;
}

/** Returns true if an outline covers a point. @param {Outline | undefined} outline @param {Point} point @param {number} near */
function covers(outline, [x, y], near) {
  if (!outline) return false;
  if (outline.form === "ball") return Math.hypot(x - outline.centre[0], y - outline.centre[1]) <= outline.radius;
  if (outline.form === "segment") {
    const [a, b] = outline.points;
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const fraction = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy)));
    return Math.hypot(x - a[0] - fraction * dx, y - a[1] - fraction * dy) <= near;
  }
  let inside = false;
  const { points } = outline;
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[(i + 1) % points.length];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
  });
  return inside;
}
