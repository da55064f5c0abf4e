// A jointed figure that uses only data of the pose that a game receives: gait and its age, the
// phase of the walking cycle, facing, velocity, the phase of a maneuver, spin and lift.
//
// Its points are in the body's own axes: forward, up and to its right, in metres from the
// point where the body is drawn.

import { clamp, length, sub } from "./vectors.js";

/** @import { Body } from "./messages.js" */
/** @import { Point } from "./vectors.js" */

/**
 * A limb: a thick line. Those of the right side are darker.
 * @typedef {{ from: Point, to: Point, radius: number, tone: "coat" | "shade" | "skin" | "lamp" | "dark" }} Limb
 */

/** Lengths as fractions of the standing height. */
const THIGH = 0.25, SHIN = 0.25, TORSO = 0.27, NECK = 0.045, HEAD = 0.088, ARM = 0.155, HIP_WIDTH = 0.055, SHOULDER_WIDTH = 0.095;

/**
 * The posture of the figure, in fractions of the standing height.
 * @typedef {{
 *   hip: number, shift: number, lean: number, tumble: number,
 *   feet: [Point, Point], hands: [Point, Point]
 * }} Stance
 * `hip` is how high the hips are, `shift` how far forward; `lean` turns the torso forward and
 * `tumble` the whole figure, in radians. Feet are from the point below the hips on the ground,
 * hands from their shoulders; left before right.
 */

/** @param {Partial<Stance>} [more] @returns {Stance} */
function stance(more) {
  return { hip: 0.48, shift: 0, lean: 0, tumble: 0, feet: [[0, 0, -HIP_WIDTH], [0, 0, HIP_WIDTH]], hands: [[0.03, -0.29, -0.03], [0.03, -0.29, 0.03]], ...more };
}

/** Returns a left and a right point, mirrored. @param {number} f @param {number} u @param {number} s @returns {[Point, Point]} */
const both = (f, u, s) => [[f, u, -s], [f, u, s]];

/** The position of a foot in the walking cycle: on the ground for the first half, from the front to
 *  the back. @param {number} phase @param {number} reach @param {number} lift @param {Point} direction @param {number} side */
function step(phase, reach, lift, direction, side) {
  const t = ((phase % 1) + 1) % 1;
  const swing = t < 0.5 ? 0 : (t - 0.5) * 2;
  const place = t < 0.5 ? 1 - 4 * t : -1 + 2 * swing * swing * (3 - 2 * swing);
  return [reach * place * direction[0], lift * Math.sin(Math.PI * swing), side + reach * place * direction[1]];
}

/** @param {Body} body @param {number} size @param {Point} direction of its motion, forward and to the right @param {number} speed */
function onFoot(body, size, direction, speed) {
  const runs = body.gait === "run", crouches = body.gait === "crouch";
  // The knees bend at a landing.
  const low = (crouches ? clamp((body.hull.height - 0.5 * size) / size, 0.2, 0.48) : 0.47) - 0.2 * body.landing;
  if (body.gait === "turn") {
    const pace = 1.4 * body.gaitAge;
    const feet = /** @type {[Point, Point]} */ ([step(pace, 0.02, 0.05, [1, 0], -HIP_WIDTH), step(pace + 0.5, 0.02, 0.05, [1, 0], HIP_WIDTH)]);
    return stance({ hip: low, feet, hands: both(0.04, -0.27, 0.06) });
  }
  if (speed < 0.05) {
    const breath = 0.004 * Math.sin(2.2 * body.gaitAge);
    return crouches
      ? stance({ hip: low, shift: -0.04, lean: 0.55, feet: [[0.07, 0, -HIP_WIDTH], [-0.07, 0, HIP_WIDTH]], hands: both(0.12, -0.2, 0.02) })
      : stance({ hip: low + breath, hands: both(0.03, -0.285 + breath, 0.035) });
  }
  const reach = clamp(0.06 + 0.032 * speed, 0.07, 0.24);
  const lift = runs ? 0.13 : 0.06;
  const feet = /** @type {[Point, Point]} */ ([step(body.stride, reach, lift, direction, -HIP_WIDTH), step(body.stride + 0.5, reach, lift, direction, HIP_WIDTH)]);
  const bent = runs ? 0.16 : 0.27;
  const swing = (/** @type {Point} */ foot, /** @type {number} */ side) => [0.02 - foot[0] * (runs ? 0.9 : 0.7), -bent + 0.06 * Math.abs(foot[0]), side];
  return stance({
    hip: low - 0.02 - 0.012 * Math.cos(4 * Math.PI * body.stride), lean: direction[0] * clamp(speed * 0.028, 0, 0.3) + 0.5 * body.lean[1] + (crouches ? 0.5 : 0),
    feet, hands: [swing(feet[0], -0.03), swing(feet[1], 0.03)],
  });
}

/** @param {Body} body */
function maneuver(body) {
  const { phase, progress } = body.maneuver ?? { phase: "active", progress: 0.5 };
  const kind = body.maneuver?.name ?? body.gait;
  const low = clamp(body.hull.height / body.hull.standing - 0.5, 0.18, 0.46);
  if (kind === "roll") {
    if (phase !== "active") return stance({ hip: Math.min(low + 0.1, 0.42), lean: 0.8, hands: both(0.16, -0.16, 0.03), feet: [[0.06, 0, -HIP_WIDTH], [-0.05, 0, HIP_WIDTH]] });
    return stance({ hip: 0.22, lean: 1.25, tumble: 2 * Math.PI * progress, feet: both(0.08, 0.05, HIP_WIDTH), hands: both(0.1, -0.16, 0.02) });
  }
  if (kind === "knockback") return stance({ lean: -0.5, shift: 0.03, hands: both(0.22, -0.08, 0.02), feet: [[0.16, 0.05, -HIP_WIDTH], [-0.02, 0, HIP_WIDTH]] });
  if (kind === "hop") {
    const air = Math.sin(Math.PI * progress);
    return stance({ hip: 0.4 + 0.05 * air, lean: 0.15, feet: both(0.03 * air, 0.05 * air, HIP_WIDTH), hands: both(0.08 + 0.05 * air, -0.22 + 0.14 * air, 0.05) });
  }
  if (phase === "startup") return stance({ hip: 0.4, lean: -0.2, hands: both(-0.1, -0.22, 0.05), feet: [[0.1, 0, -HIP_WIDTH], [-0.12, 0, HIP_WIDTH]] });
  if (phase === "recovery") return stance({ hip: 0.42, lean: -0.15, hands: both(0.12, -0.2, 0.06), feet: [[0.2, 0, -HIP_WIDTH], [-0.05, 0, HIP_WIDTH]] });
  return stance({ hip: 0.42, shift: -0.02, lean: 0.85, hands: both(-0.24, -0.12, 0.05), feet: [[-0.2, 0.12, -HIP_WIDTH], [-0.3, 0.06, HIP_WIDTH]] });
}

/** @param {Body} body @param {number} size @returns {Stance} */
function stanceOf(body, size) {
  const { gait, gaitAge: age, rise } = body;
  const velocity = velocityInBody(body);
  const speed = length(velocity);
  const direction = speed > 0.01 ? velocity.map((part) => part / speed) : [1, 0];
  if (["idle", "walk", "run", "strafe", "back", "turn", "crouch"].includes(gait)) return onFoot(body, size, direction, body.footing === "firm" || body.hull.middle === 0 ? Math.max(speed, body.speed) : 0);
  if (body.maneuver) return maneuver(body);
  const wave = Math.sin(5 * age);
  switch (gait) {
    case "rise": return stance({ hip: 0.5, lean: 0.1, feet: [[0.12, 0.14, -HIP_WIDTH], [-0.1, -0.01, HIP_WIDTH]], hands: [[0.14, 0.12, -0.05], [0.06, -0.14, 0.07]] });
    case "fall": {
      const fast = clamp(-rise / 12, 0, 1);
      return stance({ hip: 0.5, lean: 0.12, feet: [[0.08, 0.1 - 0.06 * fast, -HIP_WIDTH - 0.02], [-0.09, 0.03, HIP_WIDTH + 0.02]], hands: both(0.04, -0.02 + 0.2 * fast, 0.16) });
    }
    case "slide": return stance({ hip: 0.36, shift: -0.08, lean: -0.45, feet: [[0.22, 0, -HIP_WIDTH], [0.16, 0, HIP_WIDTH]], hands: both(-0.16, -0.16, 0.08) });
    case "wall-slide": return stance({ shift: -0.05, lean: 0.05, feet: [[0.12, 0.12, -HIP_WIDTH], [0.1, 0.02, HIP_WIDTH]], hands: [[0.16, 0.12, -0.02], [0.17, -0.02, 0.02]] });
    case "climb": {
      const rung = 2 * Math.PI * (body.feet[1] / (0.5 * size));
      const hand = 0.09 * Math.sin(rung);
      return stance({ hip: 0.46, shift: -0.06, lean: 0.1, feet: [[0.13, 0.07 - hand, -HIP_WIDTH], [0.13, 0.07 + hand, HIP_WIDTH]], hands: [[0.15, 0.12 + hand, 0.02], [0.15, 0.12 - hand, -0.02]] });
    }
    case "ledge": return stance({ hip: 0.47, shift: -0.04, lean: -0.05, feet: [[0.08, 0.05 + 0.01 * wave, -HIP_WIDTH], [0.02, 0, HIP_WIDTH]], hands: both(0.13, 0.26, 0) });
    case "climb-up": return stance({ hip: 0.42, lean: 0.4, feet: [[0.16, 0.22, -HIP_WIDTH], [0, 0, HIP_WIDTH]], hands: both(0.2, -0.18, 0.03) });
    case "glide": return stance({ lean: 0.35, feet: [[-0.1, 0.05, -HIP_WIDTH], [-0.14, 0.02, HIP_WIDTH]], hands: both(0.02, 0.05 + 0.01 * wave, 0.27) });
    case "swim": case "dive": {
      const flat = gait === "dive" ? 1.35 : clamp(speed * 0.7, 0.15, 1.25);
      return stance({ tumble: flat, feet: [[0.04 * wave, 0.02, -HIP_WIDTH], [-0.04 * wave, 0.02, HIP_WIDTH]], hands: [[0.16 * Math.cos(4 * age), 0.18 * Math.sin(4 * age), -0.04], [-0.16 * Math.cos(4 * age), -0.18 * Math.sin(4 * age), 0.04]] });
    }
    case "slam": return stance({ hip: 0.44, lean: 0.25, feet: both(0.08, 0.16, HIP_WIDTH), hands: both(0.1, 0.24, 0.03) });
    case "slam-end": return stance({ hip: 0.24, lean: 0.9, feet: [[0.1, 0, -HIP_WIDTH - 0.03], [-0.12, 0, HIP_WIDTH + 0.03]], hands: both(0.12, -0.27, 0.04) });
    // A game's own move: it holds on to something above.
    default: return stance({ lean: 0.1, feet: [[0.05, 0.06, -HIP_WIDTH], [-0.06, 0.02, HIP_WIDTH]], hands: [[0.1, 0.25, 0.02], [0.05, 0.28, -0.02]] });
  }
}

/** The velocity in the body's axes: forward and to the right. @param {Body} body */
function velocityInBody({ facing, up, velocity, hull }) {
  const forward = velocity.reduce((sum, part, i) => sum + part * facing[i], 0);
  // A view from above has a right side, a side view has none.
  if (velocity.length === 2) return [forward, hull.middle === 0 ? velocity[0] * facing[1] - velocity[1] * facing[0] : 0];
  const right = [facing[1] * up[2] - facing[2] * up[1], facing[2] * up[0] - facing[0] * up[2], facing[0] * up[1] - facing[1] * up[0]];
  return [forward, velocity.reduce((sum, part, i) => sum + part * right[i], 0)];
}

/** The joint between two limbs of these lengths from `a` to `b`, bent toward `side`.
 *  @param {Point} a @param {Point} b @param {number} upper @param {number} lower @param {number} side 1 for forward, −1 for back */
function joint(a, b, upper, lower, side) {
  const by = sub(b, a);
  const far = clamp(length(by), 1e-4, (upper + lower) * 0.999);
  const ahead = by.map((part) => part / (length(by) || 1));
  const near = (upper * upper - lower * lower + far * far) / (2 * far);
  const out = Math.sqrt(Math.max(0, upper * upper - near * near));
  // At right angles to the limb, in the plane of forward and up.
  const flat = Math.hypot(ahead[0], ahead[1]) || 1;
  const bend = [(-ahead[1] / flat) * side, (ahead[0] / flat) * side, 0];
  const middle = ahead.map((part, i) => a[i] + part * near + bend[i] * out);
  return { middle, end: ahead.map((part, i) => a[i] + part * far) };
}

/** The right hand during an overlay, which strikes out. @param {NonNullable<Body["overlay"]>} overlay @param {Point} own @returns {Point} */
function struck({ phase, progress }, own) {
  const back = [-0.12, 0.12, 0.06], out = [0.3, 0.02, 0.02];
  const mixed = (/** @type {Point} */ a, /** @type {Point} */ b) => a.map((part, i) => part + (b[i] - part) * progress);
  if (phase === "startup") return mixed(own, back);
  return phase === "active" ? mixed(back, out) : mixed(out, own);
}

/**
 * The limbs of the figure.
 * @param {Body} body
 * @returns {Limb[]}
 */
export function figureOf(body) {
  const { hull } = body;
  const size = hull.standing;
  const base = hull.middle - hull.height / 2 + body.lift - body.hover;
  if (hull.shape === "ball") return ballOf(body, base);
  const { hip, shift, lean, tumble, feet, hands: own } = stanceOf(body, size);
  const hands = body.overlay ? [own[0], struck(body.overlay, own[1])] : own;
  const at = (/** @type {Point} */ [f, u, s]) => [f * size, u * size, s * size];
  const turned = (/** @type {Point} */ [f, u, s], /** @type {number} */ angle) => [f * Math.cos(angle) + u * Math.sin(angle), u * Math.cos(angle) - f * Math.sin(angle), s];
  const hips = [shift, hip, 0];
  const up = (/** @type {number} */ far) => { const [f, u] = turned([0, far, 0], lean); return [hips[0] + f, hips[1] + u, 0]; };
  const chest = up(TORSO), head = up(TORSO + NECK + HEAD);
  /** @type {Limb[]} */
  const limbs = [];
  for (const [i, side] of [[0, -1], [1, 1]]) {
    const tone = side < 0 ? "coat" : "shade";
    const from = [hips[0], hips[1], side * HIP_WIDTH];
    const leg = joint(from, feet[i], THIGH, SHIN, 1);
    limbs.push({ from, to: leg.middle, radius: 0.04, tone }, { from: leg.middle, to: leg.end, radius: 0.033, tone });
    const toe = [leg.end[0] + 0.055, Math.max(leg.end[1], 0) + 0.012, leg.end[2]];
    limbs.push({ from: [leg.end[0], leg.end[1] + 0.012, leg.end[2]], to: toe, radius: 0.024, tone: "dark" });
    const shoulder = [chest[0], chest[1] - 0.02, side * SHOULDER_WIDTH];
    const hand = hands[i].map((part, axis) => shoulder[axis] + part);
    const arm = joint(shoulder, hand, ARM, ARM, -1);
    limbs.push({ from: shoulder, to: arm.middle, radius: 0.029, tone }, { from: arm.middle, to: arm.end, radius: 0.025, tone });
    // The left hand carries a lamp.
    limbs.push({ from: arm.end, to: arm.end, radius: side < 0 ? 0.042 : 0.028, tone: side < 0 ? "lamp" : "skin" });
  }
  limbs.push({ from: hips, to: chest, radius: 0.068, tone: "coat" });
  limbs.push({ from: head, to: head, radius: HEAD, tone: "skin" });
  // The peak of a cap shows the facing.
  limbs.push({ from: add3(head, turned([0.01, 0.055, 0], lean)), to: add3(head, turned([0.115, 0.035, 0], lean)), radius: 0.026, tone: "dark" });
  const whole = tumble + body.spin;
  const middle = [shift, hip + 0.02, 0];
  const placed = (/** @type {Point} */ point) => {
    const spun = whole ? add3(middle, turned(sub(point, middle), whole)) : point;
    const [f, u, s] = at(spun);
    return [f, u + base, s];
  };
  return limbs.map((limb) => ({ ...limb, from: placed(limb.from), to: placed(limb.to), radius: limb.radius * size }));
}

/** @param {Point} a @param {Point} b */
const add3 = (a, b) => a.map((part, i) => part + b[i]);

/** A ball with a band round it, which shows the rolling. @param {Body} body @param {number} base @returns {Limb[]} */
function ballOf(body, base) {
  const radius = body.hull.height / 2;
  const middle = [0, base + radius, 0];
  // In a side view it rolls to the right whatever its facing.
  const turn = body.up.length === 2 && body.hull.middle ? body.rolled * Math.sign(body.facing[0] || 1) : body.rolled;
  /** @type {Limb[]} */
  const limbs = [{ from: middle, to: middle, radius, tone: "coat" }];
  for (let i = 0; i < 6; i++) {
    const angle = -turn + (i * Math.PI) / 3;
    const spot = [middle[0] + Math.cos(angle) * radius * 0.78, middle[1] + Math.sin(angle) * radius * 0.78, 0];
    limbs.push({ from: spot, to: spot, radius: radius * (i ? 0.13 : 0.22), tone: i ? "dark" : "lamp" });
  }
  return limbs;
}
