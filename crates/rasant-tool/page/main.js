// The page: it requests frames from the tool, draws them, and sends the inputs.

import { unitOf } from "./axes.js";
import { openConnection } from "./connection.js";
import { Devices, ScreenPad, isTyping } from "./devices.js";
import { around, byId, make } from "./dom.js";
import { Keys, SHORTCUTS } from "./keys.js";
import { Numbers, showFigures } from "./numbers.js";
import { debugLines, namesOf, Overlay } from "./overlay.js";
import { ghostTable, showState } from "./panels.js";
import { PlaceEditor } from "./place.js";
import { MOST_LANES, Plot, columnInWords } from "./plot.js";
import { Scene } from "./scene.js";
import { Clip, linkTo, readLink, savePicture } from "./share.js";
import { Sounds } from "./sounds.js";
import { Unsaved } from "./unsaved.js";
import { clamp } from "./vectors.js";
import { View2d } from "./view2d.js";
import { View3d } from "./view3d.js";

/** @import { Answer, FrameMessage, HelloMessage, LinkMessage, NumbersMessage, PiecesMessage, PlaceMessage, Request, SeriesMessage } from "./messages.js" */
/** @typedef {HelloMessage} Hello */
/** @typedef {PlaceMessage} Place */
/** @typedef {FrameMessage} Frame */

const button = (/** @type {string} */ id) => byId(id, HTMLButtonElement);
const checkbox = (/** @type {string} */ id) => byId(id, HTMLInputElement);
const select = (/** @type {string} */ id) => byId(id, HTMLSelectElement);
const element = (/** @type {string} */ id) => byId(id, HTMLElement);
const canvas = (/** @type {string} */ id) => byId(id, HTMLCanvasElement);

const stage = element("stage");
const views = { flat: new View2d(canvas("flat")), deep: new View3d(canvas("deep")) };
const overlay = new Overlay(canvas("overlay"));
const scene = new Scene();
const sounds = new Sounds();
const devices = new Devices(stage);
const pad = new ScreenPad(devices, element("stick"), element("buttons"));

/** @type {Hello | null} */
let hello = null;
/** @type {Place | null} */
let place = null;
/** @type {NumbersMessage | null} */
let values = null;
/** @type {Frame | null} */
let frame = null;
/** The names of the plotted columns. */
let columns = ["y_m", "speed_m_per_s"];
/** @type {Clip | null} */
let clip = null;
/** The marks of the loop, as ticks. @type {{ from?: number, to?: number }} */
const stretch = {};

// ---- messages ----

/** For each requested frame, the time of its first input. @type {Array<number | null>} */
const waiting = [];
/** The oldest input shown by the next drawn frame. @type {{ since: number, tick: number } | null} */
let answered = null;
let lastSent = performance.now();

const connection = openConnection(hear, (text) => { unknown++; say(text, "problem", 6000); }, () => (element("disconnected").hidden = false));
let unknown = 0;
const request = (/** @type {Request} */ one) => connection.request(one);

/** @param {Answer} answer */
function hear(answer) {
  switch (answer.message) {
    case "hello": return begin(answer);
    case "place": return openPlace(answer);
    case "pieces": return editPieces(answer);
    case "numbers": return showNumbers(answer);
    case "bindings":
      keys.show(answer);
      devices.bound = keys.bound;
      return showKeys();
    case "ghosts":
      scene.ghosts = answer.ghosts;
      scene.replays = answer.replays;
      if (!answer.replays) scene.replayed = null;
      return showGhosts();
    case "replayed":
      scene.replayed = answer;
      return showGhosts();
    case "figures":
      showFigures(element("figures"), answer.figures);
      return numbers.measured(answer.figures);
    case "measurement": return editor.show(answer);
    case "frame": return takeFrame(answer);
    case "series": return takeSeries(answer);
    case "link": return void giveLink(answer);
    case "problem": return say(answer.text, "problem", 6000);
    case "note": return say(answer.text, "note", 3500);
  }
}

/** @param {Hello} answer */
function begin(answer) {
  hello = answer;
  numbers.list(answer);
  const option = (/** @type {string} */ name) => make("option", { value: name, textContent: name.replace("demo:", "").replace("levels/", "") });
  select("trial").replaceChildren(...answer.trials.map(option), make("optgroup", { label: "levels" }, ...answer.levels.map(option)));
  select("tuning").replaceChildren(make("option", { value: "", textContent: "the trial's own" }), ...answer.tunings.map(option));
  void openLink();
}

/** @param {Place} answer */
function openPlace(answer) {
  place = answer;
  unsaved.place = answer.changed;
  editor.open(answer);
  const flat = answer.dimensions === 2;
  (flat ? views.flat : views.deep).open(answer);
  if (answer.reshaped) return;
  scene.history.clear();
  [stretch.from, stretch.to] = [undefined, undefined];
  canvas("flat").hidden = !flat;
  canvas("deep").hidden = flat;
  for (const label of document.querySelectorAll(".deep")) if (label instanceof HTMLElement) label.hidden = flat;
  devices.looks = !flat;
  select("trial").value = answer.trial;
  scene.replayed = null;
  columns = columns.filter((name) => answer.columns.some((column) => column.name === name));
  showColumns();
}

/** Applies changes of single pieces. @param {PiecesMessage} answer */
function editPieces(answer) {
  if (!place) return;
  unsaved.place = place.changed = answer.changed;
  place.reshaped = true;
  for (const { number, before, shape, part } of answer.edits) {
    place.shapes.splice(number, before, ...(shape ? [shape] : []));
    place.parts.splice(number, before, ...(part ? [part] : []));
    // The parts after a new or a removed one have other numbers.
    if (before !== 1 || !part) place.parts.forEach((one, i) => { if (one.part.of === "piece") one.part.number = i; });
  }
  editor.open(place);
  (place.dimensions === 2 ? views.flat : views.deep).open(place);
}

/** @param {NumbersMessage} answer */
function showNumbers(answer) {
  values = answer;
  views.deep.steering = answer.steering;
  numbers.show(answer);
  if (hello && place) unsaved.show(place.trial, hello.knobs, answer);
  button("undo").disabled = !answer.undo;
  button("redo").disabled = !answer.redo;
  button("take-a").disabled = !answer.kept[0];
  button("take-b").disabled = !answer.kept[1];
  button("save").title = answer.source ? `Write the numbers to ${answer.source}` : "These numbers have no file yet: save them as one";
  button("save").disabled = !answer.source;
  // The first choice is the one of the trial, or of the tool's command line.
  if (select("tuning").selectedIndex === 0) select("tuning").options[0].textContent = answer.source ?? "the trial's own";
  document.title = `${answer.title} – Rasant`;
  showKeys();
}

function showKeys() {
  if (!values || !place) return;
  keys.showControls(values.controls, values.actions, place.dimensions === 2);
  numbers.showKeys(keys.ofMoves());
  pad.show(values.actions, (action) => keys.nameOf(action));
}

/** @param {Frame} answer */
function takeFrame(answer) {
  frame = answer;
  if (answer.requested) {
    const since = waiting.shift();
    // The oldest input shown by this frame.
    if (since && !answered) answered = { since, tick: answer.tick };
  }
  if (answer.fresh) {
    scene.history.clear();
    // An attempt that exists already, as after opening a link.
    if (answer.length) request({ request: "series", from: 0, to: answer.length + 1 });
  }
  scene.history.add(answer.ticks, answer.length);
  for (const tick of answer.ticks) {
    for (const event of tick.events) {
      if (event.words) refuse(event.words);
      sounds.play(event.name, answer.body.surface);
    }
  }
  showFrame(answer);
}

/** @param {SeriesMessage} answer */
function takeSeries({ columns: names, ticks }) {
  plot.columns = names.map((name) => place?.columns.find((column) => column.name === name) ?? { name, unit: "" });
  scene.history.replace(ticks);
  canvas("plot").style.height = `${plot.height}px`;
}

// ---- notes and questions ----

/** @param {string} text @param {"problem" | "note"} kind @param {number} time */
function say(text, kind, time) {
  const line = make("p", { textContent: text, className: kind });
  const words = element("words");
  if (words.lastChild?.textContent === text) words.lastChild.remove();
  words.append(line);
  while (words.childElementCount > 3) words.firstChild?.remove();
  setTimeout(() => line.remove(), time);
}

/** @type {ReturnType<typeof setTimeout> | undefined} */
let refusal;
/** Shows a refusal beside the body. @param {string} words */
function refuse(words) {
  if (!frame || !place) return;
  const { at, up, hull } = frame.body;
  const top = at.map((part, i) => part + up[i] * (hull.middle + hull.height * 0.75));
  const [x, y] = currentView(place).onStage(top) ?? [stage.clientWidth / 2, stage.clientHeight / 2];
  const line = element("refused");
  line.textContent = words;
  line.hidden = false;
  Object.assign(line.style, { left: `${clamp(x, 80, stage.clientWidth - 80)}px`, top: `${clamp(y, 40, stage.clientHeight - 10)}px` });
  clearTimeout(refusal);
  refusal = setTimeout(() => (line.hidden = true), 1600);
}

/** Asks for a name and calls `done` with it. @param {string} what @param {string} usual @param {(name: string) => void} done */
function askName(what, usual, done) {
  const dialog = byId("naming", HTMLDialogElement);
  const field = checkbox("naming-name");
  element("naming-what").textContent = what;
  field.value = usual;
  dialog.returnValue = "";
  dialog.onclose = () => {
    if (dialog.returnValue === "ok" && field.value.trim()) done(field.value);
    stage.focus();
  };
  dialog.showModal();
  field.select();
}

/** @param {Frame} now */
function showFrame(now) {
  const rate = place?.rate ?? 60;
  element("when").textContent = `${(now.tick / rate).toFixed(2)} of ${(now.length / rate).toFixed(2)} s`;
  button("pause").textContent = now.paused ? "Continue" : "Pause";
  button("loop").setAttribute("aria-pressed", String(!!now.stretch));
  const seconds = (/** @type {number | undefined} */ tick) => (tick === undefined ? "…" : (tick / rate).toFixed(2));
  const [from, to] = now.stretch ?? [stretch.from, stretch.to];
  element("stretch").textContent = from === undefined && to === undefined ? "" : `${seconds(from)} to ${seconds(to)} s`;
  const scrub = checkbox("scrub");
  scrub.max = String(now.length);
  if (!scrub.dataset.held) scrub.value = String(now.tick);
  // Words that change faster cannot be read.
  if (performance.now() - stateShown < 45 && !now.paused) return;
  stateShown = performance.now();
  showState(element("state"), now.body, now.debug, place ? unitOf(place) : "m");
}
let stateShown = 0;

function showGhosts() {
  const keep = make("button", { id: "ghost", textContent: "Keep this attempt as a ghost (G)" });
  keep.addEventListener("click", () => request({ request: "keep-ghost" }));
  const replay = make("input", { type: "checkbox", id: "replay", checked: scene.replays });
  replay.addEventListener("change", () => request({ request: "replay-inputs", on: replay.checked }));
  const had = document.activeElement?.closest("#ghosts") ? document.activeElement.id : null;
  element("ghosts").replaceChildren(
    make("p", {}, keep),
    make("p", {}, make("label", {}, replay, " simulate the same inputs with the current numbers")),
    ...ghostTable(scene, place ?? { rate: 60, scale: 1 }, (ghost) => request({ request: "forget-ghost", ghost })));
  if (had) document.getElementById(had)?.focus();
}

// ---- parts of the page ----

/** @param {Place} now */
const currentView = (now) => (now.dimensions === 2 ? views.flat : views.deep);
const numbers = new Numbers(element("knobs"), checkbox("find"), request, () => stage.focus());
const unsaved = new Unsaved(element("unsaved"), request);
const keys = new Keys(element("keys"), element("help-tables"), devices, request, askName);
const editor = new PlaceEditor(element("place"), stage, request, () => {
  if (!place || !frame) throw new Error("there is no attempt yet");
  return { view: currentView(place), frame };
}, askName);
const plot = new Plot(canvas("plot"), scene.history, (tick) => request({ request: "seek", tick }));
showGhosts();

/** The lanes of the plots, and the columns that can be added. */
function showColumns() {
  const all = place?.columns ?? [];
  const chips = columns.map((name) => {
    const chip = make("button", { className: "cap", id: `unplot-${name}`, textContent: `${columnInWords(name)} ×`, title: `Remove the plot of ${name}` });
    chip.addEventListener("click", () => { columns = columns.filter((one) => one !== name); showColumns(); });
    return chip;
  });
  element("columns").replaceChildren(...chips);
  const rest = all.filter(({ name }) => !columns.includes(name));
  select("column").replaceChildren(make("option", { value: "", textContent: "add…" }), ...rest.map(({ name }) => make("option", { value: name, textContent: name })));
  select("column").disabled = columns.length >= MOST_LANES;
  request({ request: "columns", columns });
  const first = scene.history.ticks[0]?.tick ?? 0;
  request({ request: "series", from: first, to: (scene.history.ticks.at(-1)?.tick ?? 0) + 1 });
}
select("column").addEventListener("change", () => {
  if (select("column").value) columns = [...columns, select("column").value].slice(0, MOST_LANES);
  showColumns();
  stage.focus();
});

// ---- controls ----

function open() {
  request({ request: "open", trial: select("trial").value, tuning: select("tuning").value || null });
  stage.focus();
}
select("trial").addEventListener("change", () => { select("tuning").selectedIndex = 0; open(); });
select("tuning").addEventListener("change", open);

/** Marks an end of the stretch. @param {"from" | "to"} end */
function mark(end) {
  if (!frame) return;
  stretch[end] = frame.tick;
  const other = end === "from" ? "to" : "from";
  if (stretch.from !== undefined && stretch.to !== undefined && stretch.from >= stretch.to) stretch[other] = undefined;
  showFrame(frame);
}

function repeat() {
  if (!frame || !place) return;
  if (frame.stretch) return request({ request: "repeat", ticks: null });
  // Without marks, the last three seconds.
  const to = stretch.to ?? frame.tick;
  const from = stretch.from !== undefined && stretch.from < to ? stretch.from : Math.max(0, to - 3 * place.rate);
  request({ request: "repeat", ticks: [from, to] });
}

/** What each button does. @type {Record<string, () => void>} */
const acts = {
  undo: () => request({ request: "undo" }),
  redo: () => request({ request: "redo" }),
  "keep-a": () => request({ request: "keep", slot: 0 }),
  "take-a": () => request({ request: "take", slot: 0 }),
  "keep-b": () => request({ request: "keep", slot: 1 }),
  "take-b": () => request({ request: "take", slot: 1 }),
  save: () => request({ request: "save", name: null }),
  "save-as": () => askName("A name for these numbers", "my-tuning", (name) => request({ request: "save", name })),
  record: () => askName("A name for this attempt", "my-attempt", (name) => request({ request: "record", name })),
  export: () => askName("A name for the page", "my-attempt", (name) => request({ request: "export", name })),
  picture: () => void keepPicture(),
  clip: recordClip,
  link: () => request({ request: "link" }),
  "reset-all": () => request({ request: "reset", knobs: hello?.knobs.map((knob) => knob.path) ?? [] }),
  pause: () => request({ request: "pause", on: !frame?.paused }),
  back: () => request({ request: "seek", tick: Math.max(0, (frame?.tick ?? 0) - 1) }),
  on: () => request({ request: "step" }),
  restart: () => request({ request: "restart" }),
  "loop-from": () => mark("from"),
  "loop-to": () => mark("to"),
  loop: repeat,
  "help-open": showHelp,
  "help-close": () => byId("help", HTMLDialogElement).close(),
  "plot-in": () => plot.zoom(0.8),
  "plot-out": () => plot.zoom(1.25),
  "plot-follow": () => plot.follow(),
};
for (const [id, act] of Object.entries(acts)) button(id).addEventListener("click", act);

function showHelp() {
  const help = byId("help", HTMLDialogElement);
  if (help.open) return help.close();
  keys.drawHelp();
  help.showModal();
  help.onclose = () => stage.focus();
  remember("rasant-knows-help");
}

/** Notes something in the browser; where that is forbidden, nothing. @param {string} what */
function remember(what) { try { localStorage.setItem(what, "1"); } catch { /* it is forbidden */ } }
/** @param {string} what */
function knows(what) { try { return localStorage.getItem(what) !== null; } catch { return true; } }
if (!knows("rasant-knows-help")) say("Press ? for the keys", "note", 8000);

select("speed").addEventListener("change", () => { request({ request: "speed", factor: Number(select("speed").value) }); stage.focus(); });
const scrub = checkbox("scrub");
scrub.addEventListener("pointerdown", () => (scrub.dataset.held = "1"));
scrub.addEventListener("input", () => request({ request: "seek", tick: Number(scrub.value) }));
scrub.addEventListener("change", () => { if (scrub.dataset.held) stage.focus(); delete scrub.dataset.held; });

/** What each checkbox does. @type {Record<string, (on: boolean) => void>} */
const switches = {
  "show-debug": (on) => { scene.debug = on; request({ request: "debug", on }); },
  "show-figure": (on) => (scene.figure = on),
  "show-plot": (on) => { element("plots").hidden = !on; canvas("plot").style.height = `${plot.height}px`; },
  "show-pad": (on) => (element("pad").hidden = !on),
  sound: (on) => sounds.turn(on),
  lock: (on) => (on ? lockPointer() : document.exitPointerLock()),
  eye: (on) => { scene.firstPerson = on; if (on) lockPointer(); else document.exitPointerLock(); },
};
for (const [id, act] of Object.entries(switches)) checkbox(id).addEventListener("change", () => act(checkbox(id).checked));

async function lockPointer() {
  // A browser may refuse, as right after the lock was left with Esc.
  try { await stage.requestPointerLock(); } catch { checkbox("lock").checked = false; }
}
document.addEventListener("pointerlockchange", () => (checkbox("lock").checked = document.pointerLockElement === stage));
devices.zoom = (/** @type {boolean} */ nearer) => (scene.zoom = clamp(scene.zoom * (nearer ? 1.12 : 1 / 1.12), 0.2, 6));

addEventListener("keydown", (event) => {
  if (isTyping(event) || devices.capture) return;
  if (event.ctrlKey || event.metaKey) {
    const id = event.code === "KeyZ" ? (event.shiftKey ? "redo" : "undo") : event.code === "KeyY" ? "redo" : null;
    if (id) { event.preventDefault(); button(id).click(); }
    return;
  }
  if (event.key === "?") return showHelp();
  // Browsers do so themselves; those that are driven by programs do not.
  if (event.key === "Escape" && document.pointerLockElement) document.exitPointerLock();
  if (event.repeat || event.altKey || around(event, "dialog") || keys.bound.has(event.code)) return;
  const shortcut = SHORTCUTS.find(({ code, id }) => code === event.code && id !== "help-open");
  if (shortcut) document.getElementById(shortcut.id)?.click();
});

// What was clicked with the pointer gives the keys back to the body.
document.addEventListener("click", (event) => {
  const clicked = around(event, "header button, footer button, footer input[type=checkbox]");
  if (!clicked || event.detail === 0) return;
  byId("share", HTMLDetailsElement).open = false;
  if (!document.querySelector("dialog[open]")) stage.focus();
});
document.addEventListener("pointerdown", (event) => { if (!around(event, "#share")) byId("share", HTMLDetailsElement).open = false; });

const tabs = ["numbers", "figures", "ghosts", "place", "keys"];
/** @param {string} name */
function turnTo(name) {
  for (const other of tabs) {
    element(other).hidden = other !== name;
    Object.assign(button(`tab-${other}`), { ariaSelected: String(other === name), tabIndex: other === name ? 0 : -1 });
  }
  if (name !== "keys" && keys.binding) keys.capture(null);
  editor.on = devices.shapes = name === "place";
  stage.classList.toggle("shaped", editor.on);
}
for (const name of tabs) button(`tab-${name}`).addEventListener("click", () => turnTo(name));
byId("tab-numbers", HTMLElement).parentElement?.addEventListener("keydown", (event) => {
  const by = event.code === "ArrowRight" ? 1 : event.code === "ArrowLeft" ? -1 : 0;
  if (!by) return;
  event.preventDefault();
  const name = tabs[(tabs.findIndex((tab) => !element(tab).hidden) + by + tabs.length) % tabs.length];
  turnTo(name);
  button(`tab-${name}`).focus();
});
turnTo("numbers");
stage.addEventListener("pointerdown", (event) => { if (!around(event, "#pad")) stage.focus(); });
addEventListener("resize", () => draw());

// ---- sharing ----

/** The canvases of what is seen, from below to above. */
function layers() {
  return [canvas(place?.dimensions === 2 ? "flat" : "deep"), canvas("overlay")];
}
const fileName = (/** @type {string} */ ending) => `${(place?.trial ?? "rasant").replace(/^.*[:/\\]/, "").replace(/\.\w+$/, "")}-${((frame?.tick ?? 0) / (place?.rate ?? 60)).toFixed(2)}s.${ending}`;

async function keepPicture() {
  views.deep.beFine();
  draw();
  kept.picture = await savePicture(layers(), fileName("png"));
  say(`the picture is saved by the browser (${Math.ceil(kept.picture / 1024)} kB)`, "note", 3500);
}

function recordClip() {
  if (clip) return clip.stop();
  draw();
  clip = new Clip(layers(), fileName("webm"), (bytes) => {
    kept.clip = bytes;
    clip = null;
    button("clip").setAttribute("aria-pressed", "false");
    button("clip").textContent = "Clip";
    element("recording").hidden = true;
    say(bytes ? `the clip is saved by the browser (${Math.ceil(bytes / 1024)} kB)` : "this browser cannot record clips", bytes ? "note" : "problem", 3500);
  });
  button("clip").setAttribute("aria-pressed", "true");
  button("clip").textContent = "End the clip";
  element("recording").hidden = false;
}

/** @param {LinkMessage} answer */
async function giveLink({ message: _, ...link }) {
  const hash = await linkTo(link);
  const address = location.origin + location.pathname + location.search + hash;
  history.replaceState(null, "", address);
  kept.link = address;
  const copied = await navigator.clipboard.writeText(address).then(() => true, () => false);
  say(copied ? "the link is copied, and is the address of this page" : "the link is now the address of this page", "note", 5000);
}

/** Opens what the address leads to. */
async function openLink() {
  try {
    const link = await readLink(location.hash);
    if (link) request({ request: "open-link", ...link });
  } catch {
    say("the link is invalid: it is truncated, or of another version", "problem", 6000);
  }
}
addEventListener("hashchange", () => void openLink());

// ---- frames ----

/** The sizes in bytes of the last picture and clip, and the last link. */
const kept = { picture: 0, clip: 0, link: "" };
/** The number of drawn frames. */
let drawn = 0;
/** The drawing times of the last frames, in milliseconds. @type {number[]} */
const drawTimes = [];

function draw() {
  if (!frame || !place) return;
  const began = performance.now();
  const view = currentView(place);
  view.draw(frame, scene);
  overlay.clear();
  overlay.lines(namesOf(frame.others), view);
  overlay.lines(debugLines(frame, place), view);
  overlay.lines(editor.lines(), view);
  overlay.handles(editor.handles(), view);
  // The stage has priority: the plots are drawn in every second frame.
  drawn++;
  if (!element("plots").hidden && (drawn % 2 === 0 || frame.paused)) plot.draw(frame.tick, place.rate);
  clip?.add(layers());
  if (clip) element("recording").textContent = `● ${clip.seconds.toFixed(1)} s`;
  drawTimes.push(performance.now() - began);
  if (drawTimes.length > 600) drawTimes.splice(0, 100);
}

requestAnimationFrame(function next(now) {
  requestAnimationFrame(next);
  if (!hello || !place) return;
  devices.readPads(hello.padButtons, hello.padAxes);
  // Frames without an answer are given up after a second.
  if (now - lastSent > 1000) waiting.length = 0;
  // The next frame is requested before the last one arrives, because the round trip takes longer than a frame.
  if (waiting.length < 4 && connection.isOpen && (!frame?.paused || devices.inputs.length)) {
    request({ request: "frame", ms: Math.max(0, now - lastSent), events: devices.take() });
    waiting.push(devices.oldest);
    lastSent = now;
  } else if (frame?.paused) {
    lastSent = now;
  }
  draw();
  // The input is now on the screen.
  if (answered) {
    latency.push([performance.now() - answered.since, answered.tick]);
    latency.splice(0, latency.length - 1000);
    answered = null;
  }
});

/** The delays from inputs to their pictures, in milliseconds, and the ticks. @type {Array<[number, number]>} */
const latency = [];
// The state of the page as numbers, for programs that drive it.
Object.assign(window, {
  rasant: {
    get frame() { return frame; }, get place() { return place; }, get values() { return values; }, get hello() { return hello; },
    get columns() { return columns; }, get unknown() { return unknown; },
    scene, views, latency, drawTimes, devices, editor, plot, keys, kept, sounds,
    shortcuts: [...SHORTCUTS.map(({ code }) => code), "KeyZ", "KeyY"],
  },
});
stage.focus();
