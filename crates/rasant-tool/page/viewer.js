// The page of an exported attempt: scrubs, slows down and compares with ghosts, without the tool.

import { unitOf } from "./axes.js";
import { byId } from "./dom.js";
import { ghostTable, showState } from "./panels.js";
import { Scene } from "./scene.js";
import { blended, clamp, unit } from "./vectors.js";
import { View2d } from "./view2d.js";
import { View3d } from "./view3d.js";

/** @import { Body, Camera, Exported } from "./messages.js" */

/** @type {Exported} */
const attempt = JSON.parse(byId("attempt", HTMLScriptElement).textContent ?? "");
const { place, moments } = attempt;
const flat = place.dimensions === 2;
const scene = new Scene();
scene.ghosts = attempt.ghosts;
scene.history.add(moments.map(({ tick }) => tick), Infinity);
const canvas = byId(flat ? "flat" : "deep", HTMLCanvasElement);
byId(flat ? "deep" : "flat", HTMLCanvasElement).hidden = true;
canvas.hidden = false;
const view = flat ? new View2d(canvas) : new View3d(canvas);
if (view instanceof View3d) view.steering = attempt.steering;
view.open(place);

/** The time, in ticks from the first moment; fractional in slow motion. */
let time = 0;
let plays = false;
let factor = 1;
const last = moments.length - 1;

/** Returns a body between two ticks. @param {Body} a @param {Body} b @param {number} by @returns {Body} */
function between(a, b, by) {
  if (by === 0) return a;
  // At most half a cycle forward; a larger difference has wrapped at 1.
  const stride = (a.stride + (((b.stride - a.stride + 1.5) % 1) - 0.5) * by + 1) % 1;
  return { ...a, at: blended(a.at, b.at, by), velocity: blended(a.velocity, b.velocity, by), stride, spin: a.spin + (b.spin - a.spin) * by };
}

/** Returns a camera between two ticks. @param {Camera} a @param {Camera} b @param {number} by @returns {Camera} */
function filmed(a, b, by) {
  const arm = a.arm && b.arm && { eye: blended(a.arm.eye, b.arm.eye, by), ahead: unit(blended(a.arm.ahead, b.arm.ahead, by)), up: unit(blended(a.arm.up, b.arm.up, by)) };
  return { focus: blended(a.focus, b.focus, by), arm: /** @type {Camera["arm"]} */ (arm) };
}

function draw() {
  const number = Math.min(Math.floor(time), last);
  const [now, next] = [moments[number], moments[Math.min(number + 1, last)]];
  const by = clamp(time - number, 0, 1);
  const body = between(now.body, next.body, by);
  const tick = now.tick.tick;
  const others = now.others.map((one, i) => ({ ...one, body: between(one.body, next.others[i].body, by) }));
  view.draw({ tick, body, camera: filmed(now.camera, next.camera, by), others, carried: now.carried }, scene);
  byId("when", HTMLOutputElement).textContent = `${(tick / place.rate).toFixed(2)} of ${(moments[last].tick.tick / place.rate).toFixed(2)} s`;
  scrub.value = String(number);
  pause.textContent = plays ? "Pause" : "Play";
  showState(byId("state", HTMLElement), body, null, unitOf(place));
}

const scrub = byId("scrub", HTMLInputElement);
const pause = byId("pause", HTMLButtonElement);
scrub.max = String(last);
/** @param {number} to */
function go(to) { [time, plays] = [clamp(to, 0, last), false]; }
scrub.addEventListener("input", () => go(Number(scrub.value)));
pause.addEventListener("click", () => {
  plays = !plays;
  if (plays && time >= last) time = 0;
});
byId("back", HTMLButtonElement).addEventListener("click", () => go(Math.ceil(time) - 1));
byId("on", HTMLButtonElement).addEventListener("click", () => go(Math.floor(time) + 1));
const speed = byId("speed", HTMLSelectElement);
speed.addEventListener("change", () => (factor = Number(speed.value)));
/** @param {string} id @param {(on: boolean) => void} act */
function onSwitch(id, act) {
  const box = byId(id, HTMLInputElement);
  box.addEventListener("change", () => act(box.checked));
}
onSwitch("show-figure", (on) => (scene.figure = on));
onSwitch("show-ghosts", (on) => (scene.ghosts = on ? attempt.ghosts : []));
onSwitch("eye", (on) => (scene.firstPerson = on));
for (const label of document.querySelectorAll(".deep")) if (label instanceof HTMLLabelElement) label.hidden = flat;
addEventListener("keydown", (event) => {
  if (event.target instanceof HTMLElement && event.target.closest("input, select, button")) return;
  if (event.code === "Space") { event.preventDefault(); pause.click(); }
  else if (event.code === "ArrowLeft") go(Math.ceil(time) - 1);
  else if (event.code === "ArrowRight") go(Math.floor(time) + 1);
});
byId("stage", HTMLElement).addEventListener("wheel", (event) => {
  event.preventDefault();
  scene.zoom = clamp(scene.zoom * (event.deltaY < 0 ? 1.12 : 1 / 1.12), 0.2, 6);
}, { passive: false });
byId("about", HTMLElement).textContent = `${place.title} · ${attempt.title} · written by version ${attempt.version}`;
// The attempt itself is the last column of the table.
const table = new Scene();
table.ghosts = [...attempt.ghosts, { title: "this attempt", path: [], every: 1, summary: attempt.summary }];
byId("ghosts", HTMLElement).replaceChildren(...ghostTable(table, place, null));

let before = performance.now();
requestAnimationFrame(function next(now) {
  requestAnimationFrame(next);
  if (plays) time += ((now - before) / 1000) * place.rate * factor;
  before = now;
  if (time >= last) [time, plays] = [last, plays && time < last];
  draw();
});
// For programs that drive the page.
Object.assign(window, { rasant: { get time() { return time; }, get plays() { return plays; }, attempt, scene, view } });
