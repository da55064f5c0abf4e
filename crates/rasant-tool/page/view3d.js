// Three dimensions: the level is lit from above, with the body's shadow below it.

import { Axes, PLAIN } from "./axes.js";
import { CANAL, LAMP, ghostLook, otherLook, stone, zoneColour } from "./colours.js";
import { figureOf } from "./figure.js";
import { unbroken } from "./history.js";
import { ghostAt } from "./scene.js";
import { maneuvers, TONES } from "./view2d.js";
import { along, cross, dot, length, scaled, sub, unit } from "./vectors.js";

/** @import { Body, Outline, Place, PlacePart, Shape } from "./messages.js" */
/** @import { Scene, Shown } from "./scene.js" */
/** @import { Point } from "./vectors.js" */

/** @typedef {(point: Point, normal: Point) => void} AddCorner */
/** @typedef {(point: Point, normal: Point, colour: Point) => void} AddColoured */
/** A triangle, with the number of its shape. @typedef {[Point, Point, Point, number]} Wall */
/** @typedef {{ buffer: WebGLBuffer, count: number }} Mesh */

const VERTEX = `#version 300 es
in vec3 place; in vec3 normal; in vec3 colour;
uniform mat4 view;
out vec3 shade; out vec3 at; out vec3 facing;
void main() { at = place; facing = normal; shade = colour; gl_Position = view * vec4(at, 1.0); }`;
const FRAGMENT = `#version 300 es
precision highp float;
in vec3 shade; in vec3 at; in vec3 facing;
uniform vec3 eye; uniform vec3 feet; uniform float radius; uniform float plain;
out vec4 seen;
void main() {
  vec3 normal = normalize(facing);
  float light = 0.42 + 0.5 * max(0.0, dot(normal, normalize(vec3(0.35, 0.9, 0.45)))) + 0.1 * normal.y;
  vec3 colour = shade * mix(light, 1.0, plain);
  if (plain < 0.2) {
    // A grid of one metre, and the body's shadow straight below it, which shows its height.
    vec2 cell = abs(fract(at.xz - 0.5) - 0.5) / fwidth(at.xz);
    if (normal.y > 0.6) colour *= mix(0.86, 1.0, clamp(min(cell.x, cell.y), 0.0, 1.0));
    float away = length(at.xz - feet.xz);
    if (at.y < feet.y + 0.05 && normal.y > 0.2 && away < radius) colour *= 0.35 + 0.3 * smoothstep(radius * 0.7, radius, away);
  }
  float haze = clamp(length(at - eye) / 90.0, 0.0, 0.85);
  seen = vec4(mix(colour, vec3(0.09, 0.11, 0.15), haze), 1.0);
}`;

/** The vertical field of view, in radians. */
const FIELD = 1.15;
/** The time between two frames from which on the picture gets coarser, in milliseconds, and how coarse it
 *  can get: as a fraction of its pixels along each side. */
const SLOW = 34, COARSEST = 0.5;
/** The range of the pointer, in metres. */
const FAR = 200;
const UNIFORMS = /** @type {const} */ (["view", "eye", "feet", "radius", "plain"]);

/** Returns the components of a colour such as #f2b544, 0 to 1. @param {string} hex */
const rgb = (hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255);

export class View3d {
  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    this.canvas = canvas;
    const gl = this.gl = canvas.getContext("webgl2", { antialias: true });
    /** @type {Place | null} */
    this.place = null;
    /** @type {Outline[]} */
    this.outlines = [];
    /** @type {Wall[]} Triangles that stop the camera. */
    this.walls = [];
    /** @type {Point} */
    this.eye = [0, 0, 0];
    /** @type {Point} The direction in which the camera looks. */
    this.aim = [0, 0, -1];
    /** @type {Point} A direction that is up in the picture. */
    this.top = [0, 1, 0];
    /** The extension of the camera arm, 0 to 1. */
    this.reach = 1;
    this.fresh = true;
    /** The fraction of the pixels along each side that are drawn: fewer where the frames are slow, as
     *  without a graphics processor. */
    this.fineness = 1;
    /** The time of the last frame, and the mean time between two, in milliseconds. */
    this.pace = { last: 0, mean: 0, frames: 0 };
    this.steering = "view";
    this.axes = PLAIN;
    /** @type {Mesh | null} */
    this.still = null;
    if (!gl) return;
    const program = this.program = link(gl);
    this.uniforms = Object.fromEntries(UNIFORMS.map((name) => [name, gl.getUniformLocation(program, name)]));
    this.attributes = ["place", "normal", "colour"].map((name) => gl.getAttribLocation(program, name));
  }

  /** @param {Place} level */
  open(level) {
    this.axes = new Axes(level);
    const place = this.place = this.axes.place(level);
    if (!place.reshaped) {
      this.fresh = true;
      this.beFine();
    }
    if (this.still) this.gl?.deleteBuffer(this.still.buffer);
    this.still = this.mesh((add) => {
      for (const shape of place.shapes) if (!shape.moves) solid(shape, shape.outline, add);
    });
    this.walls = place.shapes.flatMap((shape, number) => (!shape.moves ? wallsOf(shape.outline, number) : []));
  }

  /** @param {(add: AddColoured) => void} fill @returns {Mesh | null} */
  mesh(fill) {
    const { gl } = this;
    if (!gl) return null;
    /** @type {number[]} */
    const numbers = [];
    fill((p, n, c) => numbers.push(p[0], p[1], p[2], n[0], n[1], n[2], c[0], c[1], c[2]));
    const buffer = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(numbers), gl.STATIC_DRAW);
    return { buffer, count: numbers.length / 9 };
  }

  /** Draws a mesh that is used once. @param {(add: AddColoured) => void} fill @param {number} plain @param {number} [kind] */
  once(fill, plain, kind) {
    const mesh = this.mesh(fill);
    if (!mesh) return;
    this.show(mesh, plain, kind);
    this.gl?.deleteBuffer(mesh.buffer);
  }

  /** Returns the free fraction of a displacement among triangles, and the shape that
   *  ends it. @param {Point} from @param {Point} by @param {Wall[]} walls */
  hit(from, by, walls) {
    /** @type {{ fraction: number, number: number | null }} */
    const nearest = { fraction: 1, number: null };
    for (const [a, b, c, number] of walls) {
      const [e, f] = [sub(b, a), sub(c, a)];
      const p = cross(by, f);
      const d = dot(e, p);
      if (Math.abs(d) < 1e-9) continue;
      const s = sub(from, a);
      const u = dot(s, p) / d;
      const q = cross(s, e);
      const v = dot(by, q) / d;
      if (u < 0 || v < 0 || u + v > 1) continue;
      const t = dot(f, q) / d;
      if (t > 1e-4 && t < nearest.fraction) Object.assign(nearest, { fraction: t, number });
    }
    return nearest;
  }

  /** Returns the ray from the eye through the pointer, up to its range. @param {MouseEvent} event */
  ray(event) {
    const box = this.canvas.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * 2 - 1, y = 1 - ((event.clientY - box.top) / box.height) * 2;
    const { right, up, ahead } = axesOf(this.aim, this.top);
    const wide = Math.tan(0.5 * FIELD);
    return ahead.map((part, i) => (part + right[i] * x * wide * (box.width / box.height) + up[i] * y * wide) * FAR);
  }

  /** Returns the point under the pointer, and its part.
   *  @param {MouseEvent} event @param {Map<string, PlacePart>} parts @returns {{ at: Point, key: string | null } | null} */
  pointed(event, parts) {
    const ray = this.ray(event);
    const moving = (this.place?.shapes ?? []).flatMap((shape, number) => (!shape.moves ? [] : wallsOf(this.outlines[number] ?? shape.outline, number)));
    const { fraction, number } = this.hit(this.eye, ray, [...this.walls, ...moving]);
    if (number === null) return null;
    const key = `piece ${number}`;
    return { at: this.axes.inLevel(along(this.eye, ray, fraction)), key: parts.has(key) ? key : null };
  }

  /** Returns the position to which the pointer drags a point: horizontally, or with `upright` vertically.
   *  @param {MouseEvent} event @param {Point} from @param {boolean} upright @returns {Point | null} */
  dragged(event, from, upright) {
    const to = this.draggedInPicture(event, this.axes.seen(from), upright);
    return to && this.axes.inLevel(to);
  }

  /** @param {MouseEvent} event @param {Point} from @param {boolean} upright @returns {Point | null} */
  draggedInPicture(event, from, upright) {
    const ray = this.ray(event);
    if (!upright) {
      const fraction = (from[1] - this.eye[1]) / ray[1];
      return fraction > 0 && fraction < 1 ? this.eye.map((part, i) => (i === 1 ? from[1] : part + ray[i] * fraction)) : null;
    }
    // Along the upright line, at the distance of the point.
    const away = Math.hypot(from[0] - this.eye[0], from[2] - this.eye[2]) / (Math.hypot(ray[0], ray[2]) || 1);
    return [from[0], this.eye[1] + ray[1] * away, from[2]];
  }

  /** Handles are not dragged in three dimensions. */
  get scale() { return 0; }

  /** Returns the position of a point of the level on the stage, in pixels; null behind the camera.
   *  @param {Point} point @returns {Point | null} */
  onStage(point) {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const { right, up, ahead } = axesOf(this.aim, this.top);
    const by = sub(this.axes.seen(point), this.eye);
    const deep = dot(by, ahead);
    const size = height / 2 / Math.tan(0.5 * FIELD);
    return deep > 0.1 ? [width / 2 + (dot(by, right) / deep) * size, height / 2 - (dot(by, up) / deep) * size] : null;
  }

  /** @param {Shown} frame @param {Scene} scene */
  aimAt({ body: { at, up, hull }, camera }, scene) {
    const head = along(at, up, hull.middle + hull.height * 0.36);
    const { arm } = camera;
    if (arm) [this.aim, this.top] = [arm.ahead, arm.up];
    if (arm && scene.firstPerson) {
      this.eye = head;
      return;
    }
    const seesAll = this.steering === "plan" || this.steering === "hop";
    if (arm && !seesAll) {
      // The camera of the game, and with the wheel the same camera on a longer or shorter arm.
      this.eye = arm.eye;
      if (Math.abs(scene.zoom - 1) < 0.01) return;
      const own = scaled(sub(arm.eye, camera.focus), 1 / scene.zoom);
      this.eye = along(camera.focus, own, this.extended(camera.focus, own, scene.zoom));
      return;
    }
    // Steered by the axes of the screen, the body is seen from above.
    const own = scaled(uprightTo(up)([0, 9, 5.5]), 1 / scene.zoom);
    this.eye = along(head, own, this.extended(head, own, scene.zoom));
    [this.aim, this.top] = [unit(sub(head, this.eye)), up];
  }

  /** Returns the fraction of an arm that is free. It retracts at once, so that the camera is never in a
   *  wall, and extends smoothly. @param {Point} from @param {Point} arm @param {number} zoom */
  extended(from, arm, zoom) {
    const { fraction, number } = this.hit(from, arm, this.walls);
    const free = number === null ? 1 : Math.max(0.12 * Math.min(1, zoom), fraction - 0.06);
    this.reach = free < this.reach || this.fresh ? free : this.reach + (free - this.reach) * 0.1;
    this.fresh = false;
    return this.reach;
  }

  /** Draws all pixels from now on. */
  beFine() {
    this.fineness = 1;
    this.pace.frames = 0;
  }

  /** Makes the picture coarser where frames take long. A new place begins with all pixels. @param {number} now */
  watchPace(now) {
    const { pace } = this;
    const took = now - pace.last;
    pace.last = now;
    // A pause of the page is no slow frame.
    if (took > 500) return;
    pace.mean += (took - pace.mean) / Math.min(++pace.frames, 20);
    if (pace.frames < 30 || pace.mean < SLOW || this.fineness === COARSEST) return;
    this.fineness = Math.max(COARSEST, this.fineness * 0.8);
    pace.frames = 0;
  }

  /** @param {Shown} seen @param {Scene} all */
  draw(seen, all) {
    const { gl, canvas, still, place, uniforms, axes } = this;
    const [frame, scene] = [axes.frame(seen), axes.scene(all)];
    const { body } = frame;
    this.aimAt(frame, scene);
    if (!gl || !still || !place || !uniforms || !this.program) return;
    this.watchPace(performance.now());
    const ratio = Math.min(devicePixelRatio || 1, 1.5) * this.fineness;
    const [width, height] = [Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio)];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    gl.viewport(0, 0, width, height);
    gl.clearColor(0.09, 0.11, 0.15, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.enable(gl.DEPTH_TEST);
    gl.useProgram(this.program);
    gl.uniformMatrix4fv(uniforms.view, false, seenFrom(this.eye, this.aim, this.top, width / height));
    gl.uniform3fv(uniforms.eye, this.eye);
    gl.uniform3fv(uniforms.feet, body.feet);
    gl.uniform1f(uniforms.radius, Math.max(0.25, body.hull.width / 2));
    this.show(still, 0);
    let carried = 0;
    this.outlines = place.shapes.map((shape) => (!shape.moves ? shape.outline : frame.carried[carried++] ?? shape.outline));
    if (carried) this.once((add) => place.shapes.forEach((shape, i) => shape.moves && solid(shape, this.outlines[i], add)), 0);
    this.once((add) => {
      for (const { body: other, isSecondPlayer } of frame.others) {
        if (scene.figure && isSecondPlayer) figure(other, add);
        else hull(other, add, otherLook(isSecondPlayer)[0]);
      }
      if (!scene.firstPerson) {
        if (scene.figure) figure(body, add);
        else hull(body, add, LAMP);
      }
    }, 0.2);
    this.lines(frame, scene, place);
  }

  /** @param {Shown} frame @param {Scene} scene @param {Place} place */
  lines(frame, scene, place) {
    const trail = scene.history.upTo(frame.tick, 900);
    /** @type {Array<[Point[], Point]>} */
    const lines = unbroken(trail).map((part) => [part.map((one) => one.feet), [0.93, 0.95, 0.96]]);
    // Several parallel lines make a wide one.
    for (const part of maneuvers(trail)) for (const lift of [0.02, 0.06, 0.1]) lines.push([part.map(({ feet: [x, y, z] }) => [x, y + lift, z]), rgb(CANAL)]);
    scene.ghosts.forEach((ghost, i) => {
      const colour = rgb(ghostLook(i)[0]);
      lines.push([ghost.path, colour]);
      const at = ghostAt(ghost, frame.tick);
      if (at) for (const line of wires({ ...frame.body, at })) lines.push([line, colour]);
    });
    if (scene.replayed) lines.push([scene.replayed.path, rgb(LAMP)]);
    for (const zone of place.zones) for (const line of edgesOf(zone.min, zone.max)) lines.push([line, rgb(zoneColour(zone.kinds[0]))]);
    if (scene.figure && !scene.firstPerson) for (const line of wires(frame.body)) lines.push([line, [0.6, 0.46, 0.2]]);
    this.once((add) => {
      for (const [path, colour] of lines) {
        for (let i = 0; i + 1 < path.length; i++) for (const [x, y, z] of [path[i], path[i + 1]]) add([x, y + 0.03, z], [0, 1, 0], colour);
      }
    }, 1, this.gl?.LINES);
  }

  /** @param {Mesh} mesh @param {number} plain 0 for the level, which has a grid and a shadow, to 1 for lines, which are not lit @param {number} [kind] */
  show(mesh, plain, kind) {
    const { gl, attributes, uniforms } = this;
    if (!gl || !attributes || !uniforms) return;
    gl.bindBuffer(gl.ARRAY_BUFFER, mesh.buffer);
    attributes.forEach((slot, i) => {
      if (slot < 0) return;
      gl.enableVertexAttribArray(slot);
      gl.vertexAttribPointer(slot, 3, gl.FLOAT, false, 36, i * 12);
    });
    gl.uniform1f(uniforms.plain, plain);
    gl.drawArrays(kind ?? gl.TRIANGLES, 0, mesh.count);
  }
}

/** @param {WebGL2RenderingContext} gl */
function link(gl) {
  const program = gl.createProgram();
  for (const [kind, text] of /** @type {Array<[number, string]>} */ ([[gl.VERTEX_SHADER, VERTEX], [gl.FRAGMENT_SHADER, FRAGMENT]])) {
    const shader = gl.createShader(kind);
    if (!shader) throw new Error("the browser has lost its graphics");
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? "a shader does not compile");
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return program;
}

/** @param {Shape} shape @param {Outline} outline @param {AddColoured} add */
function solid(shape, outline, add) {
  const colour = rgb(stone(shape.surface));
  triangles(outline, (p, n) => add(p, n, colour));
}

/** Adds the triangles of an outline, each corner with its normal. @param {Outline} outline @param {AddCorner} add */
function triangles(outline, add) {
  const fan = (/** @type {Point[]} */ points) => {
    const normal = unit(cross(sub(points[1], points[0]), sub(points[2], points[0])));
    for (let i = 1; i + 1 < points.length; i++) for (const p of [points[0], points[i], points[i + 1]]) add(p, normal);
  };
  if (outline.form === "solid") {
    const { points, faces } = outline;
    for (let i = 0; i < faces.length; i += faces[i] + 1) fan(Array.from({ length: faces[i] }, (_, k) => points[faces[i + 1 + k]]));
  } else if (outline.form === "ball") {
    rounded(outline.centre, [0, 0, 0], outline.radius, 6, add);
  } else if (outline.points.length > 2) {
    fan(outline.points);
  }
}

/** Adds a rounded box with these half sides: a box, a capsule or a ball.
 *  @param {Point} centre @param {Point} half of its core, without the rounding @param {number} radius @param {number} steps of a quarter turn @param {AddCorner} add */
function rounded(centre, half, radius, steps, add) {
  // The angle between two quarters occurs twice, with the flat faces between.
  /** @type {Array<[number, number]>} */
  const around = [];
  /** @type {Array<[number, number]>} */
  const upward = [];
  for (let quarter = 0; quarter < 4; quarter++) for (let i = 0; i <= steps; i++) around.push([((quarter + i / steps) * Math.PI) / 2, quarter]);
  around.push(around[0]);
  for (const side of [-1, 1]) for (let i = 0; i <= steps; i++) upward.push([(side < 0 ? i / steps - 1 : i / steps) * Math.PI * 0.5, side]);
  const corner = (/** @type {number} */ ring, /** @type {number} */ turn) => {
    const [[a, quarter], [b, side]] = [around[turn], upward[ring]];
    const n = [Math.cos(b) * Math.cos(a), Math.sin(b), Math.cos(b) * Math.sin(a)];
    const core = [quarter === 0 || quarter === 3 ? half[0] : -half[0], side * half[1], quarter < 2 ? half[2] : -half[2]];
    return { p: centre.map((part, i) => part + core[i] + n[i] * radius), n };
  };
  const quad = (/** @type {Array<{ p: Point, n: Point }>} */ [a, b, c, d]) => { for (const { p, n } of [a, b, c, a, c, d]) add(p, n); };
  for (let ring = 0; ring + 1 < upward.length; ring++) {
    for (let turn = 0; turn + 1 < around.length; turn++) quad([corner(ring, turn), corner(ring, turn + 1), corner(ring + 1, turn + 1), corner(ring + 1, turn)]);
  }
  for (const ring of [0, upward.length - 1]) quad([0, 1, 2, 3].map((quarter) => corner(ring, quarter * (steps + 1))));
}

/** @param {Body} body */
const middleOf = ({ at, up, hull }) => along(at, up, hull.middle);

/** Returns a function that turns a vector of an upright body to one with this up.
 *  @param {Point} up @returns {(of: Point) => Point} */
function uprightTo(up) {
  if (up[1] > 0.9999) return (of) => of;
  const level = sub([1, 0, 0], scaled(up, up[0]));
  const right = length(level) < 1e-3 ? [0, 0, 1] : unit(level);
  const back = cross(right, up);
  return ([x, y, z]) => right.map((part, i) => part * x + up[i] * y + back[i] * z);
}

/** @param {Body} body @param {AddColoured} add @param {string} colour */
function hull(body, add, colour) {
  const { hull, facing, up } = body;
  const middle = middleOf(body);
  const turned = uprightTo(up);
  const half = [hull.width, hull.height, hull.depth].map((side) => Math.max(0, side / 2 - hull.rounding));
  const steps = hull.rounding ? 6 : 1;
  rounded([0, 0, 0], half, hull.rounding, steps, (p, n) => add(along(middle, turned(p), 1), turned(n), rgb(colour)));
  // A dark visor shows the facing.
  const reach = hull.width / 2;
  const visor = along(along(middle, facing, reach * 0.8), up, hull.height * 0.27);
  rounded(visor, [0, 0, 0], reach * 0.34, 3, (p, n) => add(p, n, rgb("#1a1f2b")));
}

/** Returns the hull as thin lines. @param {Body} body @returns {Point[][]} */
function wires(body) {
  const turned = uprightTo(body.up);
  const middle = middleOf(body);
  return uprightWires(body).map((line) => line.map((point) => along(middle, turned(point), 1)));
}

/** Returns the lines of an upright hull about its middle. @param {Body} body @returns {Point[][]} */
function uprightWires({ hull }) {
  const middle = [0, 0, 0];
  const half = [hull.width / 2, hull.height / 2, hull.depth / 2];
  const r = hull.rounding;
  const ring = (/** @type {number} */ height) => Array.from({ length: 25 }, (_, i) => {
    const a = (i / 24) * 2 * Math.PI;
    const [x, z] = [Math.cos(a), Math.sin(a)];
    return [middle[0] + Math.sign(x) * (half[0] - r) + x * r, middle[1] + height, middle[2] + Math.sign(z) * (half[2] - r) + z * r];
  });
  if (r === 0) return edgesOf(sub(middle, half), middle.map((part, i) => part + half[i]));
  const upright = (/** @type {number} */ axis) => Array.from({ length: 25 }, (_, i) => {
    const a = (i / 24) * 2 * Math.PI;
    const [x, y] = [Math.cos(a), Math.sin(a)];
    const across = Math.sign(x) * (half[axis] - r) + x * r;
    const point = [...middle];
    point[axis] += across;
    point[1] += Math.sign(y) * (half[1] - r) + y * r;
    return point;
  });
  return [ring(half[1] - r), ring(r - half[1]), upright(0), upright(2)];
}

/** @param {Body} body @param {AddColoured} add */
function figure(body, add) {
  const { at, facing, up } = body;
  const right = cross(facing, up);
  const place = (/** @type {Point} */ [f, u, s]) => at.map((part, i) => part + facing[i] * f + up[i] * u + right[i] * s);
  for (const limb of figureOf(body)) {
    const colour = rgb(TONES[limb.tone]);
    const paint = (/** @type {Point} */ p, /** @type {Point} */ n) => add(p, n, colour);
    const [from, to] = [place(limb.from), place(limb.to)];
    const by = sub(to, from);
    rounded(from, [0, 0, 0], limb.radius, limb.from === limb.to ? 4 : 2, paint);
    if (length(by) < 1e-4) continue;
    rounded(to, [0, 0, 0], limb.radius, 2, paint);
    tube(from, by, limb.radius, paint);
  }
}

/** @param {Point} from @param {Point} by @param {number} radius @param {AddCorner} add */
function tube(from, by, radius, add) {
  const ahead = unit(by);
  const side = unit(cross(ahead, Math.abs(ahead[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
  const other = cross(ahead, side);
  const sides = 8;
  const at = (/** @type {number} */ i) => side.map((part, axis) => part * Math.cos((i / sides) * 2 * Math.PI) + other[axis] * Math.sin((i / sides) * 2 * Math.PI));
  for (let i = 0; i < sides; i++) {
    const [n, m] = [at(i), at(i + 1)];
    const [a, b] = [along(from, n, radius), along(from, m, radius)];
    const [c, d] = [along(b, by, 1), along(a, by, 1)];
    for (const [p, normal] of [[a, n], [b, m], [c, m], [a, n], [c, m], [d, n]]) add(p, normal);
  }
}

/** Returns the triangles of an outline, with the number of its shape. @param {Outline} outline @param {number} number @returns {Wall[]} */
function wallsOf(outline, number) {
  /** @type {Point[]} */
  const corners = [];
  /** @type {Wall[]} */
  const walls = [];
  triangles(outline, (p) => corners.push(p));
  for (let i = 0; i + 2 < corners.length; i += 3) walls.push([corners[i], corners[i + 1], corners[i + 2], number]);
  return walls;
}

/** Returns the edges of an axis-aligned box, as lines. @param {Point} min @param {Point} max @returns {Point[][]} */
export function edgesOf(min, max) {
  const corner = (/** @type {number} */ bits) => min.map((part, i) => ((bits >> i) & 1 ? max[i] : part));
  return [[0, 1, 3, 2, 0, 4, 5, 7, 6, 4], [1, 5], [3, 7], [2, 6]].map((line) => line.map(corner));
}

/** Returns the axes of a camera that looks along `aim`. @param {Point} aim @param {Point} top up in its picture */
function axesOf(aim, top) {
  const back = scaled(aim, -1);
  const level = cross(top, back);
  const right = length(level) < 1e-3 ? [1, 0, 0] : unit(level);
  return { right, up: cross(back, right), back, ahead: aim };
}

/** Returns the matrix of a camera at `eye` that looks along `aim`, column by column.
 *  @param {Point} eye @param {Point} aim @param {Point} top @param {number} aspect */
function seenFrom(eye, aim, top, aspect) {
  const { right, up, back } = axesOf(aim, top);
  const focus = 1 / Math.tan(0.5 * FIELD);
  const [near, far] = [0.06, 400];
  const turned = [right, up, back];
  const sx = [focus / aspect, focus, -1];
  const moved = turned.map((axis) => -dot(axis, eye));
  const a = (far + near) / (near - far), b = (2 * far * near) / (near - far);
  /** @type {number[]} */
  const columns = [];
  for (let c = 0; c < 4; c++) {
    const part = (/** @type {number} */ row) => (c < 3 ? turned[row][c] : moved[row]);
    columns.push(sx[0] * part(0), sx[1] * part(1), a * part(2) + (c === 3 ? b : 0), -part(2));
  }
  return new Float32Array(columns);
}
