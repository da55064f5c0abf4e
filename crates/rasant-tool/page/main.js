// The page: frames to the tool and back, drawn; everything else is asked for.

import { GHOSTS } from "./colours.js";
import { Devices, screenPad } from "./devices.js";
import { openLink } from "./link.js";
import { Numbers, showFigures, shown } from "./numbers.js";
import { Plane } from "./plane.js";
import { plot } from "./plot.js";
import { Shaping } from "./shape.js";
import { Sounds } from "./sounds.js";
import { Space } from "./space.js";

const $ = (id) => document.getElementById(id);
const stage = $("stage");
const views = { 2: new Plane($("flat")), 3: new Space($("deep")) };
const scene = { ghosts: [], replayed: null, inside: false, firstPerson: false };
const sounds = new Sounds();
const samples = [];
/** Of each frame that is asked for, when the first was said of what came with it. */
const waiting = [];
let hello, place, frame, answered = null, lastSent = performance.now();

const link = openLink(hear, () => ($("gone").hidden = false));
const ask = (what, more) => link.ask(what, more);
const devices = new Devices(stage);
const numbers = new Numbers($("knobs"), $("find"), ask);
const shaping = scene.shaping = new Shaping($("place"), stage, ask, () => ({ view: views[place.dimensions], frame }));
// For who drives the page by program: what is seen, in numbers.
window.rasant = { get frame() { return frame; }, get place() { return place; }, get scene() { return scene; }, views, latency: [] };

const tells = {
  hello(told) {
    hello = told;
    numbers.list(told.knobs);
    fill($("trial"), told.trials);
    const levels = Object.assign(document.createElement("optgroup"), { label: "levels" });
    levels.append(...told.levels.map(choice));
    $("trial").append(levels);
    fill($("tuning"), ["the trial's own", ...told.tunings]);
  },
  place(told) {
    place = told;
    shaping.open(told);
    views[told.dimensions].open(told);
    if (told.reshaped) return;
    samples.length = 0;
    stretch.splice(0);
    const flat = told.dimensions === 2;
    $("flat").hidden = !flat;
    $("deep").hidden = flat;
    $("eye-label").hidden = flat;
    devices.turnsByPointer = !flat;
    $("trial").value = told.trial;
    scene.replayed = null;
  },
  numbers(told) {
    place.steering = told.steering;
    numbers.show(told);
    $("undo").disabled = !told.undo;
    $("redo").disabled = !told.redo;
    $("take-a").disabled = !told.kept[0];
    $("take-b").disabled = !told.kept[1];
    $("save").title = told.source ? `Write the numbers to ${told.source}` : "These numbers have no file yet: save them as one";
    $("save").disabled = !told.source;
    // The first of the choices is what the trial, or the tool's start, asks for.
    if ($("tuning").selectedIndex === 0) $("tuning").options[0].textContent = told.source ?? "the trial's own";
    document.title = `${told.title} – Rasant`;
  },
  ghosts(told) {
    scene.ghosts = told.ghosts;
    scene.replays = told.replays;
    if (!told.replays) scene.replayed = null;
    showGhosts();
  },
  replayed(told) { scene.replayed = told; showGhosts(); },
  figures(told) {
    showFigures($("figures"), told.figures);
    numbers.measured(told.figures);
  },
  tape(told) { shaping.tape(told); },
  frame(told) {
    frame = told;
    if (told.asked) {
      // The oldest of what was said that is seen with this frame.
      const since = waiting.shift();
      if (since && !answered) answered = { since, tick: told.tick };
    }
    views[place.dimensions].add(told);
    if (!told.paused) {
      samples.push({ tick: told.tick, height: told.feet[1], speed: told.speed, pressed: told.told.some((one) => one.name === "jumped") });
      if (samples.length > 600) samples.shift();
    }
    for (const one of told.told) {
      if (one.words) refuse(one.words);
      sounds.play(one.name, told);
    }
    showState();
  },
  problem(told) { say(told.text, "problem", 6000); },
  note(told) { say(told.text, "note", 3000); },
};

function hear(told) { tells[told.tell]?.(told); }

const choice = (name) => Object.assign(document.createElement("option"), { value: name, textContent: name.replace("demo:", "").replace("levels/", "") });

function fill(select, names) { select.replaceChildren(...names.map(choice)); }

/** What was refused, in words, at the body: where the eye is. */
function refuse(words) {
  const [x, y] = views[place.dimensions].onStage(frame.at.map((part, i) => part + (i === 1 ? frame.hull.middle + frame.hull.height * 0.75 : 0)));
  const line = $("refused");
  line.textContent = words;
  line.hidden = false;
  Object.assign(line.style, { left: `${x}px`, top: `${y}px` });
  clearTimeout(refuse.timer);
  refuse.timer = setTimeout(() => (line.hidden = true), 1600);
}

function say(text, kind, time) {
  const line = Object.assign(document.createElement("p"), { textContent: text, className: kind });
  const words = $("words");
  if (words.lastChild?.textContent === text) words.lastChild.remove();
  words.append(line);
  while (words.childElementCount > 3) words.firstChild.remove();
  setTimeout(() => line.remove(), time);
}

function showState() {
  const rate = place.rate;
  $("when").textContent = `${(frame.tick / rate).toFixed(2)} of ${(frame.ticks / rate).toFixed(2)} s`;
  $("pause").textContent = frame.paused ? "Go on" : "Hold";
  $("loop").setAttribute("aria-pressed", String(!!frame.stretch));
  const seconds = (tick) => (tick / rate).toFixed(2);
  const [from, to] = frame.stretch ?? stretch;
  $("stretch").textContent = from === undefined && to === undefined ? "" : `${from === undefined ? "…" : seconds(from)} to ${to === undefined ? "…" : seconds(to)} s`;
  const scrub = $("scrub");
  scrub.max = frame.ticks;
  if (document.activeElement !== scrub || !scrub.dataset.held) scrub.value = frame.tick;
  const lines = [`<b>${frame.mode}</b> ${frame.gait}`, `${frame.speed.toFixed(2)} m/s, ${frame.rising >= 0 ? "up" : "down"} ${Math.abs(frame.rising).toFixed(2)}`];
  if (scene.inside) {
    const slope = frame.footing === "none" ? "" : ` ${((frame.slope * 180) / Math.PI).toFixed(0)}°`;
    lines.push(`<small>footing</small> ${frame.footing}${slope} ${escape(frame.surface ?? "")}`, `<small>velocity by</small> ${frame.drives} <small>facing by</small> ${frame.turns}`);
    for (const [name, seconds] of frame.timers ?? []) {
      lines.push(`<small>${name} ${seconds.toFixed(2)} s</small><div class="bar"><i style="width:${Math.min(100, seconds * 100)}%"></i></div>`);
    }
  }
  $("state").innerHTML = lines.map((line) => `<div>${line}</div>`).join("");
}

function escape(text) { return text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`); }

function showGhosts() {
  const names = { distance_m: "distance, m", highest_m: "highest, m", fastest_m_per_s: "fastest, m/s", airborne_s: "airborne, s", jumps: "jumps", landings: "landings" };
  const columns = [...scene.ghosts.map((ghost, i) => ({ title: `ghost ${i + 1}`, sums: ghost.sums, colour: GHOSTS[i % GHOSTS.length][0], i }))];
  if (scene.replayed) columns.push({ title: "as it was", sums: scene.replayed.before, colour: "#edf1f6" }, { title: "these numbers", sums: scene.replayed.sums, colour: "#f2b544" });
  const head = columns.map((column) => `<th class=n><span class=swatch style="color:${column.colour}"></span>${column.title}${column.i === undefined ? "" : ` <button data-forget="${column.i}" title="Forget it">×</button>`}</th>`).join("");
  const rows = Object.entries(names).map(([key, name]) => `<tr><td>${name}</td>${columns.map((column) => `<td class=n data-sum="${column.title} ${key}">${shown(column.sums[key])}</td>`).join("")}</tr>`).join("");
  const parts = scene.replayed?.parts;
  const parting = !scene.replayed ? "" : parts === null ? "<p>The two never part.</p>" : `<p>The two part after ${(parts / place.rate).toFixed(2)} s.</p>`;
  $("ghosts").innerHTML = `<p><button id="ghost">Keep this attempt as a ghost (G)</button></p>
    <p><label><input type="checkbox" id="replay" ${scene.replays ? "checked" : ""}> play the same inputs again under the numbers of now</label></p>
    ${columns.length ? `<table><thead><tr><th></th>${head}</tr></thead><tbody>${rows}</tbody></table>${parting}` : "<p>An attempt that is kept stays in the picture while you go on, and its figures stay here.</p>"}`;
}

$("ghosts").addEventListener("click", (event) => {
  if (event.target.id === "ghost") ask("ghost");
  if (event.target.dataset.forget) ask("forget", { ghost: Number(event.target.dataset.forget) });
});
$("ghosts").addEventListener("change", (event) => event.target.id === "replay" && ask("replay", { on: event.target.checked }));
showGhosts();

// ---- asking ----

const open = () => {
  const tuning = $("tuning").selectedIndex > 0 ? $("tuning").value : null;
  ask("open", { trial: $("trial").value, tuning });
  stage.focus();
};
$("trial").addEventListener("change", () => { $("tuning").selectedIndex = 0; open(); });
$("tuning").addEventListener("change", open);
const stretch = [];
function mark(end) {
  stretch[end] = frame.tick;
  if (stretch[0] >= stretch[1]) delete stretch[1 - end];
  showState();
}
const buttons = {
  undo: () => ask("undo"), redo: () => ask("redo"),
  "keep-a": () => ask("keep", { place: 0 }), "take-a": () => ask("take", { place: 0 }),
  "keep-b": () => ask("keep", { place: 1 }), "take-b": () => ask("take", { place: 1 }),
  save: () => ask("save", { name: null }),
  "save-as": () => { const name = prompt("A name for these numbers", "my-tuning"); if (name) ask("save", { name }); },
  record: () => { const name = prompt("A name for this attempt", "my-attempt"); if (name) ask("record", { name }); },
  "reset-all": () => ask("reset", { knobs: hello.knobs.map((knob) => knob.path) }),
  pause: () => ask("pause", { on: !frame.paused }),
  back: () => ask("seek", { tick: Math.max(0, frame.tick - 1) }),
  on: () => ask("seek", { tick: frame.tick + 1 }),
  restart: () => ask("restart"),
  "loop-from": () => mark(0),
  "loop-to": () => mark(1),
  loop: () => {
    if (frame.stretch) return ask("repeat", { ticks: null });
    // Without marks, the last three seconds.
    const to = stretch[1] ?? frame.tick;
    const from = stretch[0] !== undefined && stretch[0] < to ? stretch[0] : Math.max(0, to - 3 * place.rate);
    ask("repeat", { ticks: [from, to] });
  },
};
for (const [id, act] of Object.entries(buttons)) $(id).addEventListener("click", act);
$("speed").addEventListener("change", (event) => ask("speed", { by: Number(event.target.value) }));
const scrub = $("scrub");
scrub.addEventListener("pointerdown", () => (scrub.dataset.held = "1"));
scrub.addEventListener("input", () => ask("seek", { tick: Number(scrub.value) }));
scrub.addEventListener("change", () => delete scrub.dataset.held);
$("show-inside").addEventListener("change", (event) => { 
  scene.inside = event.target.checked;
  ask("inside", { on: scene.inside });
  showState();
});
$("show-plot").addEventListener("change", (event) => ($("plot").hidden = !event.target.checked));
$("show-pad").addEventListener("change", (event) => ($("pad").hidden = !event.target.checked));
$("sound").addEventListener("change", (event) => sounds.turn(event.target.checked));
$("eye").addEventListener("change", (event) => {
  scene.firstPerson = event.target.checked;
  if (scene.firstPerson) stage.requestPointerLock?.();
  else document.exitPointerLock?.();
});
screenPad(devices, $("stick"), $("buttons"), [["dash", "west"], ["crouch", "east"], ["jump", "south"]]);

const shortcuts = { KeyP: "pause", Comma: "back", Period: "on", KeyR: "restart", Digit1: "take-a", Digit2: "take-b", KeyL: "loop", BracketLeft: "loop-from", BracketRight: "loop-to" };
addEventListener("keydown", (event) => {
  if (event.target.closest?.("input, select")) return;
  if (event.ctrlKey || event.metaKey) {
    const undo = { KeyZ: event.shiftKey ? "redo" : "undo", KeyY: "redo" }[event.code];
    if (undo) { event.preventDefault(); buttons[undo](); }
    return;
  }
  if (event.code === "KeyG") ask("ghost");
  else if (shortcuts[event.code] && !event.repeat) buttons[shortcuts[event.code]]();
});
const tabs = ["numbers", "figures", "ghosts", "place"];
function turnTo(name) {
  for (const other of tabs) {
    $(other).hidden = other !== name;
    Object.assign($(`tab-${other}`), { ariaSelected: String(other === name), tabIndex: other === name ? 0 : -1 });
  }
  shaping.on = name === "place";
  stage.classList.toggle("shaped", shaping.on);
}
for (const name of tabs) $(`tab-${name}`).addEventListener("click", () => turnTo(name));
document.querySelector("nav").addEventListener("keydown", (event) => {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.code];
  if (!by) return;
  event.preventDefault();
  const name = tabs[(tabs.findIndex((tab) => !$(tab).hidden) + by + tabs.length) % tabs.length];
  turnTo(name);
  $(`tab-${name}`).focus();
});
turnTo("numbers");
stage.addEventListener("pointerdown", (event) => { if (!event.target.closest("#pad")) stage.focus(); });
addEventListener("resize", () => frame && draw());

// ---- frames ----

function draw() {
  views[place.dimensions].draw(frame, scene);
  if (!$("plot").hidden) plot($("plot"), samples, place.rate);
}

requestAnimationFrame(function next(now) {
  requestAnimationFrame(next);
  if (!hello || !place) return;
  devices.readPads(hello.buttons, hello.axes);
  // What the tool has not listened to is not waited for.
  if (now - lastSent > 1000) waiting.length = 0;
  // The next is asked for before the last has come: the way there and back is longer
  // than a frame.
  if (waiting.length < 4 && link.isOpen && (!frame?.paused || devices.said.length)) {
    ask("frame", { ms: Math.max(0, now - lastSent), events: devices.take() });
    waiting.push(devices.oldest);
    lastSent = now;
  } else if (frame?.paused) {
    lastSent = now;
  }
  if (!frame) return;
  draw();
  // What a device said has been seen, so long after.
  if (answered) {
    window.rasant.latency.push([performance.now() - answered.since, answered.tick]);
    window.rasant.latency.splice(0, window.rasant.latency.length - 1000);
    answered = null;
  }
});
stage.focus();
