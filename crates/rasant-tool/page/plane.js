// Side view and plan, drawn flat.

import { BRICK, CANAL, FOG, GHOSTS, LAMP, NIGHT, PAPER, ZONES, stone } from "./colours.js";

const TRAIL = 900;

export class Plane {
  constructor(canvas) {
    this.canvas = canvas;
    this.pen = canvas.getContext("2d");
    this.middle = [0, 0];
    this.trail = [];
    this.marks = [];
  }

  open(place) {
    this.place = place;
    if (place.reshaped) return;
    this.trail = [];
    this.marks = [];
    this.fresh = true;
  }

  /** Takes a frame: where the body has come, and what was told there. */
  add(frame) {
    if (frame.fresh) [this.trail, this.marks] = [[], []];
    const last = this.trail.at(-1);
    if (last && frame.tick < last.tick) {
      this.trail = this.trail.filter((one) => one.tick <= frame.tick);
      this.marks = this.marks.filter((one) => one.tick <= frame.tick);
    }
    this.trail.push({ tick: frame.tick, at: frame.feet, mode: frame.mode });
    if (this.trail.length > TRAIL) this.trail.shift();
    for (const told of frame.told) {
      if (["jumped", "landed", "apex", "footfall", "bumped-head"].includes(told.name)) {
        this.marks.push({ tick: told.tick, at: frame.feet, name: told.name });
      }
    }
    if (this.marks.length > 200) this.marks.splice(0, 50);
  }

  draw(frame, scene) {
    const { pen, canvas } = this;
    const ratio = devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      [canvas.width, canvas.height] = [Math.round(width * ratio), Math.round(height * ratio)];
    }
    const hull = frame.hull;
    const scale = this.scale = Math.max(18, Math.min(height / 13, width / 20));
    // The view follows softly, and is there at once in a new place.
    const aim = [frame.at[0], frame.at[1] + hull.middle + 0.8];
    const soft = this.fresh ? 1 : 0.12;
    this.middle = this.middle.map((part, i) => part + (aim[i] - part) * soft);
    this.fresh = false;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.fillStyle = NIGHT;
    pen.fillRect(0, 0, width, height);
    pen.translate(width / 2, height / 2);
    pen.scale(scale, -scale);
    pen.translate(-this.middle[0], -this.middle[1]);
    pen.lineJoin = pen.lineCap = "round";
    const px = 1 / scale;
    this.grid(px, width / scale, height / scale);
    for (const zone of this.place.zones) this.zone(zone, px);
    let carried = 0;
    this.drawn = this.place.shapes.map((shape) => (shape.carrier === undefined ? shape : { ...shape, ...frame.carried[carried++] }));
    for (const shape of this.drawn) this.shape(shape, px);
    scene.ghosts.forEach((ghost, i) => this.line(ghost.path, GHOSTS[i % GHOSTS.length][0], 2 * px, GHOSTS[i % GHOSTS.length][1].map((d) => d * px)));
    if (scene.replayed) this.line(scene.replayed.path, LAMP, 3 * px, [6 * px, 3 * px]);
    this.line(this.trail.map((one) => one.at), "#edf1f666", 2 * px, []);
    for (const mark of this.marks) this.mark(mark, px);
    this.body(frame, px);
    if (scene.inside) this.inside(frame, px);
    if (scene.shaping.on) this.shaping(scene.shaping, px);
  }

  /** What is shaped: outlines, the handles it is pulled by, the tape. */
  shaping(shaping, px) {
    const { pen } = this;
    for (const [line, colour] of shaping.lines()) this.line(line, colour, 2.5 * px, [7 * px, 4 * px]);
    for (const { at: [x, y], round } of shaping.handles()) {
      pen.beginPath();
      if (round) pen.arc(x, y, 6 * px, 0, 7);
      else pen.rect(x - 5 * px, y - 5 * px, 10 * px, 10 * px);
      pen.fillStyle = NIGHT;
      pen.strokeStyle = LAMP;
      pen.lineWidth = 2 * px;
      pen.fill();
      pen.stroke();
    }
    if (!shaping.laid) return;
    const { from, to, words } = shaping.laid;
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    this.word(words ?? `${length.toFixed(2)} m`, (from[0] + to[0]) / 2, (from[1] + to[1]) / 2 + 10 * px, PAPER, px, 14);
  }

  /** Where a point of the level is on the stage, in pixels. */
  onStage([x, y]) {
    const { canvas, scale, middle } = this;
    return [canvas.clientWidth / 2 + (x - middle[0]) * scale, canvas.clientHeight / 2 - (y - middle[1]) * scale];
  }

  /** The point of the level under the pointer. */
  at(event) {
    const box = this.canvas.getBoundingClientRect();
    const { scale, middle } = this;
    return [middle[0] + (event.clientX - box.left - box.width / 2) / scale, middle[1] - (event.clientY - box.top - box.height / 2) / scale];
  }

  /** That, and the part that is there, the last drawn first. */
  pointed(event, parts) {
    const at = this.at(event);
    const near = 6 / this.scale;
    const has = ([key, { part }]) => {
      if (part.of === "piece") return covers(this.drawn?.[part.number] ?? this.place.shapes[part.number], at, near);
      const { min, max } = this.place.zones[part.number];
      return at.every((value, i) => value >= min[i] && value <= max[i]);
    };
    const all = [...parts].reverse();
    const found = all.find((one) => one[1].part.of === "piece" && has(one)) ?? all.find(has);
    return { at, key: found?.[0] ?? null };
  }

  pulled(event) { return this.at(event); }

  grid(px, wide, high) {
    const { pen } = this;
    const [x, y] = this.middle;
    pen.strokeStyle = "#232b39";
    pen.lineWidth = px;
    pen.beginPath();
    for (let i = Math.floor(x - wide / 2); i <= x + wide / 2; i++) { pen.moveTo(i, y - high); pen.lineTo(i, y + high); }
    for (let i = Math.floor(y - high / 2); i <= y + high / 2; i++) { pen.moveTo(x - wide, i); pen.lineTo(x + wide, i); }
    pen.stroke();
  }

  trace(points, closed) {
    const { pen } = this;
    pen.beginPath();
    points.forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
    if (closed) pen.closePath();
  }

  shape(shape, px) {
    const { pen } = this;
    pen.fillStyle = shape.oneWay ? "#55627a55" : stone(shape.surface);
    pen.strokeStyle = "#93a1b8";
    pen.lineWidth = 1.5 * px;
    pen.setLineDash(shape.oneWay ? [5 * px, 4 * px] : []);
    if (shape.centre) {
      pen.beginPath();
      pen.arc(shape.centre[0], shape.centre[1], shape.radius, 0, 7);
    } else {
      this.trace(shape.points ?? shape.line, !shape.line);
    }
    if (!shape.line) pen.fill();
    pen.stroke();
    pen.setLineDash([]);
  }

  zone(zone, px) {
    const { pen } = this;
    const [[x, y], [right, top]] = [zone.min, zone.max];
    pen.strokeStyle = ZONES[zone.kind] ?? FOG;
    pen.fillStyle = (ZONES[zone.kind] ?? FOG) + "22";
    pen.lineWidth = 1.5 * px;
    pen.fillRect(x, y, right - x, top - y);
    pen.setLineDash([3 * px, 3 * px]);
    pen.strokeRect(x, y, right - x, top - y);
    pen.setLineDash([]);
    if (zone.kind === "ladder") {
      pen.beginPath();
      for (let rung = y + 0.3; rung < top; rung += 0.35) { pen.moveTo(x, rung); pen.lineTo(right, rung); }
      pen.stroke();
    }
    const kinds = zone.kinds.join(", ");
    this.word(zone.name ? `${kinds}: ${zone.name}` : kinds, x + 4 * px, top - 14 * px, pen.strokeStyle, px);
  }

  word(text, x, y, colour, px, size = 12) {
    const { pen } = this;
    pen.save();
    pen.translate(x, y);
    pen.scale(px, -px);
    pen.font = `${size}px system-ui, "DejaVu Sans", sans-serif`;
    pen.fillStyle = colour;
    pen.fillText(text, 0, 0);
    pen.restore();
  }

  line(points, colour, width, dash) {
    if (points.length < 2) return;
    const { pen } = this;
    pen.strokeStyle = colour;
    pen.lineWidth = width;
    pen.setLineDash(dash);
    this.trace(points, false);
    pen.stroke();
    pen.setLineDash([]);
  }

  mark({ at: [x, y], name }, px) {
    const { pen } = this;
    pen.strokeStyle = pen.fillStyle = { jumped: LAMP, landed: CANAL, apex: FOG, footfall: "#6b788c" }[name] ?? BRICK;
    pen.lineWidth = 2 * px;
    pen.beginPath();
    const r = 5 * px;
    if (name === "jumped") { pen.moveTo(x - r, y - r); pen.lineTo(x, y + r); pen.lineTo(x + r, y - r); }
    else if (name === "landed") { pen.moveTo(x - r, y + r); pen.lineTo(x, y - r); pen.lineTo(x + r, y + r); }
    else if (name === "footfall") { pen.arc(x, y, 2 * px, 0, 7); }
    else { pen.arc(x, y, 3.5 * px, 0, 7); }
    pen.stroke();
  }

  /** The hull's outline, its feet at the origin. */
  outline(hull) {
    const { pen } = this;
    pen.beginPath();
    const bottom = hull.middle - hull.height / 2;
    if (hull.radius) {
      const r = hull.radius;
      pen.arc(0, bottom + r, r, Math.PI, 0);
      pen.arc(0, bottom + hull.height - r, r, 0, Math.PI);
      pen.closePath();
    } else {
      pen.rect(-hull.width / 2, bottom, hull.width, hull.height);
    }
  }

  body(frame, px) {
    const { pen } = this;
    const [x, y] = frame.at;
    pen.save();
    pen.translate(x, y);
    pen.rotate(Math.atan2(-frame.up[0], frame.up[1]));
    this.outline(frame.hull);
    pen.fillStyle = LAMP;
    pen.fill();
    pen.strokeStyle = "#5a3f0c";
    pen.lineWidth = 2 * px;
    pen.stroke();
    pen.restore();
    // Where it faces: an eye and a short line.
    const reach = frame.hull.radius ?? frame.hull.width / 2;
    const [fx, fy] = frame.facing;
    // Seen from above there is no up.
    const rise = frame.hull.middle ? frame.hull.middle + frame.hull.height * 0.28 : 0;
    const eye = [x + fx * reach * 0.55 + frame.up[0] * rise, y + fy * reach * 0.55 + frame.up[1] * rise];
    pen.fillStyle = NIGHT;
    pen.beginPath();
    pen.arc(eye[0], eye[1], 3.4 * px, 0, 7);
    pen.fill();
  }

  inside(frame, px) {
    const { pen } = this;
    const [x, y] = [frame.at[0], frame.at[1] + frame.hull.middle];
    // How high a step is taken, before the feet; how far down they follow, below them.
    const reach = frame.hull.radius ?? frame.hull.width / 2;
    if (frame.hull.middle) {
      const [ax, side] = [frame.at[0], Math.sign(frame.facing[0]) || 1];
      this.line([[ax + side * reach, frame.at[1]], [ax + side * reach, frame.at[1] + frame.step], [ax + side * (reach + 0.15), frame.at[1] + frame.step]], FOG, 1.5 * px, []);
      this.line([[ax, frame.at[1]], [ax, frame.at[1] - frame.snap], [ax + 0.12, frame.at[1] - frame.snap], [ax - 0.12, frame.at[1] - frame.snap]], FOG, 1.5 * px, [2 * px, 3 * px]);
    }
    const arrow = (dx, dy, colour) => this.line([[x, y], [x + dx, y + dy]], colour, 2.5 * px, []);
    arrow(frame.velocity[0] * 0.25, frame.velocity[1] * 0.25, CANAL);
    arrow(frame.steer[0], frame.steer[1], PAPER);
    for (const [arc, dash] of [[frame.arcs?.[0], [5 * px, 5 * px]], [frame.arcs?.[1], [2 * px, 5 * px]]]) {
      if (arc) this.line(arc, "#f2b544aa", 2 * px, dash);
    }
    pen.strokeStyle = BRICK;
    for (const [[px0, py0], [nx, ny]] of frame.contacts) {
      this.line([[px0, py0], [px0 + nx * 0.5, py0 + ny * 0.5]], BRICK, 2 * px, []);
      pen.beginPath();
      pen.arc(px0, py0, 3 * px, 0, 7);
      pen.stroke();
    }
  }
}

/** Whether a drawn shape is under a point. */
function covers(shape, [x, y], near) {
  if (shape.centre) return Math.hypot(x - shape.centre[0], y - shape.centre[1]) <= shape.radius;
  if (shape.line) {
    const [a, b] = shape.line;
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const share = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy)));
    return Math.hypot(x - a[0] - share * dx, y - a[1] - share * dy) <= near;
  }
  let inside = false;
  shape.points.forEach(([ax, ay], i) => {
    const [bx, by] = shape.points[(i + 1) % shape.points.length];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
  });
  return inside;
}
