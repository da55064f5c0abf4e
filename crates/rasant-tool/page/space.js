// Three dimensions: the level lit from above, the body's shadow on what is below it.

import { FOG, GHOSTS, ZONES, stone } from "./colours.js";
import { edgesOf } from "./shape.js";

const VERTEX = `#version 300 es
in vec3 place; in vec3 normal; in vec3 colour;
uniform mat4 view; uniform vec3 offset;
out vec3 shade; out vec3 at; out vec3 facing;
void main() { at = place + offset; facing = normal; shade = colour; gl_Position = view * vec4(at, 1.0); }`;
const FRAGMENT = `#version 300 es
precision highp float;
in vec3 shade; in vec3 at; in vec3 facing;
uniform vec3 eye; uniform vec3 feet; uniform float radius; uniform float plain;
out vec4 seen;
void main() {
  vec3 normal = normalize(facing);
  float light = 0.42 + 0.5 * max(0.0, dot(normal, normalize(vec3(0.35, 0.9, 0.45)))) + 0.1 * normal.y;
  vec3 colour = shade * mix(light, 1.0, plain);
  if (plain < 0.5) {
    // A metre grid, and the body's shadow straight below it: how high it is is seen.
    vec2 cell = abs(fract(at.xz - 0.5) - 0.5) / fwidth(at.xz);
    if (normal.y > 0.6) colour *= mix(0.86, 1.0, clamp(min(cell.x, cell.y), 0.0, 1.0));
    float away = length(at.xz - feet.xz);
    if (at.y < feet.y + 0.05 && normal.y > 0.2 && away < radius) colour *= 0.35 + 0.3 * smoothstep(radius * 0.7, radius, away);
  }
  float haze = clamp(length(at - eye) / 90.0, 0.0, 0.85);
  seen = vec4(mix(colour, vec3(0.09, 0.11, 0.15), haze), 1.0);
}`;

const rgb = (hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255);
const sub = (a, b) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a) => { const l = Math.hypot(...a) || 1; return a.map((x) => x / l); };

/** The triangles of a drawn shape, each corner with its normal. */
function triangles(shape, add) {
  const fan = (points) => {
    const normal = unit(cross(sub(points[1], points[0]), sub(points[2], points[0])));
    for (let i = 1; i + 1 < points.length; i++) for (const p of [points[0], points[i], points[i + 1]]) add(p, normal);
  };
  if (shape.faces) {
    for (let i = 0; i < shape.faces.length; i += shape.faces[i] + 1) {
      fan(Array.from({ length: shape.faces[i] }, (_, k) => shape.points[shape.faces[i + 1 + k]]));
    }
  } else if (shape.centre) {
    ball(shape.centre, shape.radius, 0, add);
  } else if (shape.points) {
    fan(shape.points);
  }
}

/** A ball, or a capsule whose middle part is 2 * half high. */
function ball(centre, radius, half, add) {
  const [rings, sides] = [12, 20];
  const at = (ring, side) => {
    const [a, b] = [(ring / rings) * Math.PI - Math.PI / 2, (side / sides) * 2 * Math.PI];
    const n = [Math.cos(a) * Math.cos(b), Math.sin(a), Math.cos(a) * Math.sin(b)];
    const lift = n[1] > 0 || (ring * 2 === rings && ring) ? half : -half;
    return [n.map((part, i) => centre[i] + part * radius + (i === 1 ? lift : 0)), n];
  };
  for (let ring = 0; ring < rings; ring++) {
    for (let side = 0; side < sides; side++) {
      const [a, b, c, d] = [at(ring, side), at(ring, side + 1), at(ring + 1, side + 1), at(ring + 1, side)];
      for (const [p, n] of [a, c, b, a, d, c]) add(p, n);
    }
  }
}

export class Space {
  constructor(canvas) {
    this.canvas = canvas;
    const gl = (this.gl = canvas.getContext("webgl2", { antialias: true }));
    if (!gl) return;
    const compiled = (kind, text) => {
      const shader = gl.createShader(kind);
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader));
      return shader;
    };
    const program = (this.program = gl.createProgram());
    gl.attachShader(program, compiled(gl.VERTEX_SHADER, VERTEX));
    gl.attachShader(program, compiled(gl.FRAGMENT_SHADER, FRAGMENT));
    gl.linkProgram(program);
    this.where = Object.fromEntries(["view", "offset", "eye", "feet", "radius", "plain"].map((name) => [name, gl.getUniformLocation(program, name)]));
    this.trail = [];
  }

  open(place) {
    this.place = place;
    if (!place.reshaped) {
      this.trail = [];
      this.fresh = true;
    } else if (this.still) {
      this.gl.deleteBuffer(this.still.buffer);
    }
    this.still = this.mesh((add) => {
      for (const shape of place.shapes) if (shape.carrier === undefined) this.put(shape, add);
    });
    // What a camera does not go through.
    this.walls = [];
    place.shapes.forEach((shape, number) => shape.carrier === undefined && this.walls.push(...wallsOf(shape, number)));
  }

  put(shape, add) {
    const colour = rgb(stone(shape.surface ?? 0));
    triangles(shape, (p, n) => add(p, n, colour));
  }

  mesh(fill) {
    const numbers = [];
    fill((p, n, colour) => numbers.push(...p, ...n, ...colour));
    const { gl } = this;
    const buffer = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(numbers), gl.STATIC_DRAW);
    return { buffer, count: numbers.length / 9 };
  }

  add(frame) {
    if (frame.fresh) this.trail = [];
    const last = this.trail.at(-1);
    if (last && frame.tick < last.tick) this.trail = this.trail.filter((one) => one.tick <= frame.tick);
    this.trail.push({ tick: frame.tick, at: frame.feet });
    if (this.trail.length > 900) this.trail.shift();
  }

  /** How far a camera can go from `from` along `way` before it meets something. */
  free(from, way) { return this.met(from, way, this.walls).share; }

  /** The share of a way that is free among some triangles, and what ends it. */
  met(from, way, walls) {
    let share = 1, number = null;
    for (const [a, b, c, of] of walls) {
      const [e, f] = [sub(b, a), sub(c, a)];
      const p = cross(way, f);
      const d = dot(e, p);
      if (Math.abs(d) < 1e-9) continue;
      const s = sub(from, a);
      const u = dot(s, p) / d;
      const q = cross(s, e);
      const v = dot(way, q) / d;
      if (u < 0 || v < 0 || u + v > 1) continue;
      const t = dot(f, q) / d;
      if (t > 1e-4 && t < share) [share, number] = [t, of];
    }
    return { share, number };
  }

  /** The way from the eye through the pointer, as far as is looked. */
  ray(event) {
    const box = this.canvas.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * 2 - 1, y = 1 - ((event.clientY - box.top) / box.height) * 2;
    const { right, up, ahead } = axesOf(this.aim);
    const wide = Math.tan(0.5 * FIELD);
    return ahead.map((part, i) => (part + right[i] * x * wide * (box.width / box.height) + up[i] * y * wide) * 200);
  }

  /** The point under the pointer, and the part that it is on. */
  pointed(event, parts) {
    const way = this.ray(event);
    const moving = this.place.shapes.flatMap((shape, number) => (shape.carrier === undefined ? [] : wallsOf(this.drawn?.[number] ?? shape, number)));
    const { share, number } = this.met(this.eye, way, [...this.walls, ...moving]);
    if (number === null) return null;
    const key = `piece ${number}`;
    return { at: this.eye.map((part, i) => part + way[i] * share), key: parts.has(key) ? key : null };
  }

  /** Where the pointer pulls a point to: on its level, or with shift up and down. */
  pulled(event, from, upright) {
    const way = this.ray(event);
    if (!upright) {
      const share = (from[1] - this.eye[1]) / way[1];
      return share > 0 && share < 1 ? this.eye.map((part, i) => (i === 1 ? from[1] : part + way[i] * share)) : null;
    }
    // Along the upright line, at the distance of the point.
    const away = Math.hypot(from[0] - this.eye[0], from[2] - this.eye[2]) / (Math.hypot(way[0], way[2]) || 1);
    return [from[0], this.eye[1] + way[1] * away, from[2]];
  }

  get scale() { return 0; }

  /** Where a point of the level is on the stage, in pixels. */
  onStage(point) {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const { right, up, ahead } = axesOf(this.aim);
    const by = sub(point, this.eye);
    const deep = dot(by, ahead);
    const size = height / 2 / Math.tan(0.5 * FIELD);
    return deep > 0.1 ? [width / 2 + (dot(by, right) / deep) * size, height / 2 - (dot(by, up) / deep) * size] : [width / 2, height * 0.7];
  }

  draw(frame, scene) {
    const { gl, canvas } = this;
    if (!gl || !this.still) return;
    const ratio = Math.min(devicePixelRatio || 1, 1.5);
    const [width, height] = [Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio)];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    const [yaw, pitch] = frame.look;
    const ahead = [-Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch), -Math.cos(yaw) * Math.cos(pitch)];
    const hull = frame.hull;
    const head = [frame.at[0], frame.at[1] + hull.middle + hull.height * 0.36, frame.at[2]];
    let eye = head;
    let aim = ahead;
    if (!scene.firstPerson) {
      const seesAll = this.place.steering === "plan" || this.place.steering === "hop";
      const way = seesAll ? [0, 9, 5.5] : [-ahead[0] * 5.2, -ahead[1] * 5.2 + 1.6, -ahead[2] * 5.2];
      const share = Math.max(0.12, this.free(head, way) - 0.06);
      // Nearer at once, so that it is never in a wall; further softly.
      this.share = share < (this.share ?? 1) || this.fresh ? share : this.share + (share - this.share) * 0.1;
      eye = head.map((part, i) => part + way[i] * this.share);
      aim = unit(sub(head, eye));
      this.fresh = false;
    }
    [this.eye, this.aim] = [eye, aim];
    gl.viewport(0, 0, width, height);
    gl.clearColor(0.09, 0.11, 0.15, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.enable(gl.DEPTH_TEST);
    gl.useProgram(this.program);
    gl.uniformMatrix4fv(this.where.view, false, seenFrom(eye, aim, width / height));
    gl.uniform3fv(this.where.eye, eye);
    gl.uniform3fv(this.where.feet, frame.feet);
    gl.uniform1f(this.where.radius, Math.max(0.25, hull.radius ?? hull.width / 2));
    this.show(this.still, [0, 0, 0], 0);
    if (frame.carried.length) {
      let next = 0;
      this.drawn = this.place.shapes.map((shape) => (shape.carrier === undefined ? null : { ...shape, ...frame.carried[next++] }));
      const riding = this.mesh((add) => this.drawn.forEach((shape) => shape && this.put(shape, add)));
      this.show(riding, [0, 0, 0], 0);
      gl.deleteBuffer(riding.buffer);
    }
    if (!scene.firstPerson) {
      const body = this.mesh((add) => bodyOf(frame, (p, n, colour) => add(p, n, colour)));
      this.show(body, [0, 0, 0], 0);
      gl.deleteBuffer(body.buffer);
    }
    const lines = [[this.trail.map((one) => one.at), [0.93, 0.95, 0.96]]];
    scene.ghosts.forEach((ghost, i) => lines.push([ghost.path, rgb(GHOSTS[i % GHOSTS.length][0])]));
    if (scene.replayed) lines.push([scene.replayed.path, rgb("#f2b544")]);
    if (scene.inside) for (const arc of frame.arcs ?? []) lines.push([arc, rgb("#f2b544")]);
    for (const zone of this.place.zones) for (const line of edgesOf(zone.min, zone.max)) lines.push([line, rgb(ZONES[zone.kind] ?? FOG)]);
    for (const [line, colour] of scene.shaping.lines()) lines.push([line, rgb(colour)]);
    for (const [path, colour] of lines) {
      if (path.length < 2) continue;
      const line = this.mesh((add) => path.forEach(([x, y, z]) => add([x, y + 0.03, z], [0, 1, 0], colour)));
      this.show(line, [0, 0, 0], 1, gl.LINE_STRIP);
      gl.deleteBuffer(line.buffer);
    }
  }

  show(mesh, offset, plain, kind = this.gl.TRIANGLES) {
    const { gl } = this;
    gl.bindBuffer(gl.ARRAY_BUFFER, mesh.buffer);
    ["place", "normal", "colour"].forEach((name, i) => {
      const slot = gl.getAttribLocation(this.program, name);
      if (slot < 0) return;
      gl.enableVertexAttribArray(slot);
      gl.vertexAttribPointer(slot, 3, gl.FLOAT, false, 36, i * 12);
    });
    gl.uniform3fv(this.where.offset, offset);
    gl.uniform1f(this.where.plain, plain);
    gl.drawArrays(kind, 0, mesh.count);
  }
}

function bodyOf(frame, add) {
  const { hull, at, facing } = frame;
  const lamp = rgb("#f2b544");
  const middle = [at[0], at[1] + hull.middle, at[2]];
  if (hull.radius) {
    ball(middle, hull.radius, Math.max(0, hull.height / 2 - hull.radius), (p, n) => add(p, n, lamp));
  } else {
    const h = [hull.width / 2, hull.height / 2, hull.depth / 2];
    const corner = (bits) => middle.map((part, i) => part + (bits >> i & 1 ? h[i] : -h[i]));
    const faces = [4, 0, 4, 6, 2, 4, 1, 3, 7, 5, 4, 0, 1, 5, 4, 4, 2, 6, 7, 3, 4, 0, 2, 3, 1, 4, 4, 5, 7, 6];
    triangles({ points: Array.from({ length: 8 }, (_, bits) => corner(bits)), faces }, (p, n) => add(p, n, lamp));
  }
  // A dark visor shows where it faces.
  const reach = hull.radius ?? hull.width / 2;
  const visor = [middle[0] + facing[0] * reach * 0.8, middle[1] + hull.height * 0.27, middle[2] + facing[2] * reach * 0.8];
  ball(visor, reach * 0.34, 0, (p, n) => add(p, n, [0.1, 0.12, 0.17]));
}

/** The triangles of a drawn shape, with its number. */
function wallsOf(shape, number) {
  const corners = [], walls = [];
  triangles(shape, (p) => corners.push(p));
  for (let i = 0; i + 2 < corners.length; i += 3) walls.push([...corners.slice(i, i + 3), number]);
  return walls;
}

/** Radians that are seen from bottom to top. */
const FIELD = 1.15;

/** The axes of a camera that looks along `aim`. */
function axesOf(aim) {
  const back = aim.map((part) => -part);
  const level = cross([0, 1, 0], back);
  const right = Math.hypot(...level) < 1e-3 ? [1, 0, 0] : unit(level);
  return { right, up: cross(back, right), back, ahead: aim };
}

/** The matrix of a camera at `eye` that looks along `aim`, column by column. */
function seenFrom(eye, aim, aspect) {
  const { right, up, back } = axesOf(aim);
  const focus = 1 / Math.tan(0.5 * FIELD);
  const [near, far] = [0.06, 400];
  const turned = [right, up, back];
  const sx = [focus / aspect, focus, -1];
  const moved = turned.map((axis) => -dot(axis, eye));
  const a = (far + near) / (near - far), b = (2 * far * near) / (near - far);
  const columns = [];
  for (let c = 0; c < 4; c++) {
    const part = (row) => (c < 3 ? turned[row][c] : moved[row]);
    columns.push(sx[0] * part(0), sx[1] * part(1), a * part(2) + (c === 3 ? b : 0), -part(2));
  }
  return new Float32Array(columns);
}
