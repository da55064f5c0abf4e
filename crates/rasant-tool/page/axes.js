// The axes and the unit of a level. Pictures are drawn in metres, with y up.

import { cross, dot, scaled } from "./vectors.js";

/** @import { Body, Outline, Place, Shape, Tick } from "./messages.js" */
/** @import { Scene, Shown } from "./scene.js" */
/** @import { Point } from "./vectors.js" */

/** Converts between the points of a level and those of its picture. */
export class Axes {
  /** @param {Pick<Place, "up" | "scale">} place */
  constructor({ up, scale }) {
    /** Units of length per metre. */
    this.scale = scale;
    this.up = up;
    const right = up.map((_, i) => (i ? 0 : 1));
    /** The axes of the picture in the level. */
    this.axes = up.length === 2 ? [right, up] : [right, up, cross(right, up)];
    /** True if the picture has the numbers of the level. */
    this.isPlain = scale === 1 && up[1] === 1;
  }

  /** A direction of the level in the picture. @param {Point} of @returns {Point} */
  turned(of) { return this.isPlain ? of : this.axes.map((axis) => dot(of, axis)); }

  /** A point of the level in the picture. @param {Point} of @returns {Point} */
  seen(of) { return this.isPlain ? of : scaled(this.turned(of), 1 / this.scale); }

  /** A point of the picture in the level. @param {Point} of @returns {Point} */
  inLevel(of) {
    if (this.isPlain) return of;
    return this.up.map((_, i) => this.scale * of.reduce((sum, part, axis) => sum + part * this.axes[axis][i], 0));
  }

  /** Two opposite corners of a box of the level, in the picture. @param {Point} min @param {Point} max @returns {[Point, Point]} */
  box(min, max) { return sorted(this.seen(min), this.seen(max)); }

  /** @param {Outline} outline @returns {Outline} */
  outline(outline) {
    if (this.isPlain) return outline;
    if (outline.form === "ball") return { ...outline, centre: this.seen(outline.centre), radius: outline.radius / this.scale };
    return { ...outline, points: outline.points.map((point) => this.seen(point)) };
  }

  /** @param {Place} place @returns {Place} */
  place(place) {
    if (this.isPlain) return place;
    const shapes = place.shapes.map((shape) => /** @type {Shape} */ ({ ...shape, outline: this.outline(shape.outline) }));
    const zones = place.zones.map((zone) => { const [min, max] = this.box(zone.min, zone.max); return { ...zone, min, max }; });
    const [min, max] = this.box(place.min, place.max);
    return { ...place, shapes, zones, min, max };
  }

  /** @param {Body} body @returns {Body} */
  body(body) {
    if (this.isPlain) return body;
    const by = 1 / this.scale;
    const { hull } = body;
    return {
      ...body, at: this.seen(body.at), feet: this.seen(body.feet), up: this.turned(body.up), facing: this.turned(body.facing), velocity: this.seen(body.velocity),
      speed: body.speed * by, rise: body.rise * by, lift: body.lift * by, hover: body.hover * by,
      hull: { ...hull, width: hull.width * by, height: hull.height * by, depth: hull.depth * by, rounding: hull.rounding * by, middle: hull.middle * by, standing: hull.standing * by },
    };
  }

  /** @param {Tick} tick @returns {Tick} */
  tick(tick) {
    return { ...tick, feet: this.seen(tick.feet), height: tick.height / this.scale, events: tick.events.map((event) => ({ ...event, at: this.seen(event.at) })) };
  }

  /** @param {Shown} frame @returns {Shown} */
  frame(frame) {
    if (this.isPlain) return frame;
    const { camera } = frame;
    const arm = camera.arm && { eye: triple(this.seen(camera.arm.eye)), ahead: triple(this.turned(camera.arm.ahead)), up: triple(this.turned(camera.arm.up)) };
    return {
      ...frame, body: this.body(frame.body), camera: { focus: this.seen(camera.focus), arm },
      others: frame.others.map((other) => ({ ...other, body: this.body(other.body) })), carried: frame.carried.map((outline) => this.outline(outline)),
    };
  }

  /** @param {Scene} scene @returns {Scene} */
  scene(scene) {
    if (this.isPlain) return scene;
    const seen = (/** @type {Point[]} */ path) => path.map((point) => this.seen(point));
    const own = Object.assign(Object.create(Object.getPrototypeOf(scene)), scene);
    own.ghosts = scene.ghosts.map((ghost) => ({ ...ghost, path: seen(ghost.path) }));
    own.replayed = scene.replayed && { ...scene.replayed, path: seen(scene.replayed.path) };
    own.history = { upTo: (/** @type {number} */ tick, /** @type {number} */ count) => scene.history.upTo(tick, count).map((one) => this.tick(one)) };
    return own;
  }
}

/** The axes of a level in metres with y up, before one is opened. @type {Axes} */
export const PLAIN = new Axes({ up: [0, 1], scale: 1 });

/** @param {Point} point @returns {[number, number, number]} */
const triple = ([x, y, z]) => [x, y, z];

/** The lowest and the highest corner of the box between two points. @param {Point} a @param {Point} b @returns {[Point, Point]} */
export function sorted(a, b) {
  return [a.map((part, i) => Math.min(part, b[i])), a.map((part, i) => Math.max(part, b[i]))];
}

/** The name of the unit of length of a place: metres, or its own. @param {Pick<Place, "scale">} place */
export const unitOf = ({ scale }) => (scale === 1 ? "m" : "units");
