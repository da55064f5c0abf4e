// The panel in which keys are bound, and the help with all keys.

import { make } from "./dom.js";

/** @import { BindingsMessage, Control, Request } from "./messages.js" */
/** @import { Devices } from "./devices.js" */

/** Readable names of keys. @type {Record<string, string>} */
const WORDS = {
  ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", ControlLeft: "left Ctrl", ControlRight: "right Ctrl",
  ShiftLeft: "left Shift", ShiftRight: "right Shift", AltLeft: "left Alt", AltRight: "right Alt", Comma: ",", Period: ".", Slash: "/", BracketLeft: "[", BracketRight: "]",
  Semicolon: ";", Quote: "'", Backquote: "`", Backslash: "\\", Minus: "-", Equal: "=",
};

/** Returns the text of a chord such as `ShiftLeft + KeyE`. @param {string} chord */
export function chordInWords(chord) {
  return chord.split(" + ").map((source) => {
    const [device, part] = source.split(":");
    if (device === "pad") return `pad ${part.replace("-", " ")}`;
    if (device === "pointer") return `${{ main: "left", secondary: "right", auxiliary: "middle" }[part] ?? part} button`;
    if (device === "wheel") return `wheel ${part}`;
    return WORDS[source] ?? source.replace(/^(Key|Digit)/, "");
  }).join(" + ");
}

/**
 * The keys of the page itself. Each clicks the control with this id.
 * @type {Array<{ code: string, key: string, id: string, words: string }>}
 */
export const SHORTCUTS = [
  { code: "KeyP", key: "P", id: "pause", words: "pause or continue" },
  { code: "Comma", key: ",", id: "back", words: "one tick back" },
  { code: "Period", key: ".", id: "on", words: "one tick forward" },
  { code: "KeyR", key: "R", id: "restart", words: "restart" },
  { code: "KeyG", key: "G", id: "ghost", words: "keep the attempt as a ghost" },
  { code: "Digit1", key: "1", id: "take-a", words: "use the numbers kept as A" },
  { code: "Digit2", key: "2", id: "take-b", words: "use the numbers kept as B" },
  { code: "BracketLeft", key: "[", id: "loop-from", words: "start of the repeated section" },
  { code: "BracketRight", key: "]", id: "loop-to", words: "end of the repeated section" },
  { code: "KeyL", key: "L", id: "loop", words: "repeat the section" },
  { code: "KeyB", key: "B", id: "show-debug", words: "debug drawing" },
  { code: "KeyN", key: "N", id: "show-figure", words: "jointed figure" },
  { code: "KeyM", key: "M", id: "show-plot", words: "plots" },
  { code: "Slash", key: "?", id: "help-open", words: "this help" },
];

export class Keys {
  /** @param {HTMLElement} root @param {HTMLElement} help @param {Devices} devices @param {(request: Request) => void} request @param {(what: string, usual: string, done: (name: string) => void) => void} askName */
  constructor(root, help, devices, request, askName) {
    this.root = root;
    this.help = help;
    this.devices = devices;
    this.request = request;
    this.askName = askName;
    /** @type {BindingsMessage | null} */
    this.bindings = null;
    /** @type {Control[]} */
    this.controls = [];
    /** The action that is being bound. @type {string | null} */
    this.binding = null;
    this.flat = true;
    /** The actions that have an effect. @type {string[]} */
    this.used = [];
  }

  /** The bound keys, which the page itself ignores. */
  get bound() {
    const { bindings = [], second = [] } = this.bindings ?? {};
    // The parts of chords are bound, too.
    return new Set([...bindings, ...second].flatMap(({ chords }) => chords.flatMap((chord) => [chord, ...chord.split(" + ")])));
  }

  /** Returns the text of the chords of an action. @param {string} meaning */
  chordsOf(meaning) {
    return (this.bindings?.bindings.find((one) => one.meaning === meaning)?.chords ?? []).map(chordInWords);
  }

  /** Returns the moves that an action starts, or its own name. @param {string} meaning */
  nameOf(meaning) {
    const moves = this.controls.filter(({ actions }) => actions.includes(meaning)).map(({ name }) => name);
    return moves.length && meaning.startsWith("own-") ? moves.join(", ") : meaning;
  }

  /** Returns the keys of each move by its name. */
  ofMoves() {
    return new Map(this.controls.map(({ name, actions }) => {
      const chords = actions.flatMap((action) => this.chordsOf(action));
      return [name, chords.length ? chords.slice(0, 2).join(", ") : "no key"];
    }));
  }

  /** @param {BindingsMessage} bindings */
  show(bindings) {
    this.bindings = bindings;
    this.draw();
  }

  /** @param {Control[]} controls @param {string[]} used the actions that have an effect @param {boolean} flat */
  showControls(controls, used, flat) {
    this.controls = controls;
    this.used = used;
    this.flat = flat;
    this.draw();
  }

  draw() {
    const { bindings } = this;
    if (!bindings) return;
    const had = document.activeElement?.closest("#keys") ? document.activeElement.id : null;
    const rows = bindings.bindings.map(({ meaning, chords }) => this.row(meaning, chords));
    const button = (/** @type {string} */ id, /** @type {string} */ textContent, /** @type {string} */ title, /** @type {() => void} */ act, disabled = false) => {
      const one = make("button", { id, textContent, title, disabled });
      one.addEventListener("click", act);
      return one;
    };
    const saveAs = () => this.askName("A name for these keys", "my-keys", (name) => this.request({ request: "save-bindings", name }));
    const ends = make("div", { className: "adds" },
      button("keys-reset", "Reset", "Restore the keys of the file", () => this.request({ request: "reset-bindings" }), !bindings.changed),
      button("keys-save", "Save", bindings.source ? `Write the keys to ${bindings.source}` : "The keys have no file yet", () => this.request({ request: "save-bindings", name: null }), !bindings.source || !bindings.changed),
      button("keys-save-as", "Save as…", "Write the keys to a new file", saveAs));
    const conflicts = bindings.conflicts.map((textContent) => make("p", { className: "conflict", textContent }));
    this.root.replaceChildren(make("p", { textContent: "Press + and then a key, a button or a notch of the wheel; several held together are a chord." }), ...rows, ...conflicts, ends);
    if (had) document.getElementById(had)?.focus();
    this.drawHelp();
  }

  /** @param {string} meaning @param {string[]} chords */
  row(meaning, chords) {
    const slug = meaning.replace(" ", "-");
    const name = this.nameOf(meaning);
    const caps = chords.map((chord, i) => {
      const remove = make("button", { className: "cap", id: `unbind-${slug}-${i}`, textContent: `${chordInWords(chord)}${this.isTaken(chord) ? " (second player)" : ""} ×`, title: `Remove ${chord} from ${meaning}` });
      remove.addEventListener("click", () => this.request({ request: "unbind", meaning, chord }));
      return remove;
    });
    const isBinding = this.binding === meaning;
    const add = make("button", { className: "cap add", id: `bind-${slug}`, textContent: isBinding ? "press… (Esc cancels)" : "+", title: `Bind another key to ${meaning}` });
    add.setAttribute("aria-pressed", String(isBinding));
    add.addEventListener("click", () => this.capture(isBinding ? null : meaning));
    const label = make("span", { className: "what", textContent: name });
    if (name !== meaning) label.append(make("small", { textContent: ` ${meaning}` }));
    return make("div", { className: "binding" }, label, make("span", { className: "caps" }, ...caps, add));
  }

  /** Waits for the chord to bind. @param {string | null} meaning */
  capture(meaning) {
    this.binding = meaning;
    /** @type {string[]} */
    const chord = [];
    this.devices.capture = !meaning ? null : (source, down) => {
      if (source === "Escape" || (down && chord.length === 3)) return this.capture(null);
      if (down) {
        if (!chord.includes(source)) chord.push(source);
      } else if (chord.includes(source)) {
        // The first key that is released ends the chord.
        this.capture(null);
        this.request({ request: "bind", meaning, chord: chord.join(" + ") });
      }
    };
    this.draw();
  }

  /** Returns true if a chord has a key that is the second player's. @param {string} chord */
  isTaken(chord) {
    const keys = (this.bindings?.second ?? []).flatMap((one) => one.chords).flatMap((one) => one.split(" + "));
    return chord.split(" + ").some((key) => !key.includes(":") && keys.includes(key));
  }

  /** The keys of the player in words: those of the second player are not the first's. @param {string[]} chords */
  keysOf(chords) {
    const own = chords.filter((chord) => !this.isTaken(chord));
    return own.length ? own.map(chordInWords) : ["no key; bind one under Keys"];
  }

  drawHelp() {
    const caps = (/** @type {string[]} */ words) => words.map((textContent) => make("kbd", { textContent }));
    const table = (/** @type {string} */ title, /** @type {Array<[string, string[]]>} */ rows) => make("section", {}, make("h2", { textContent: title }),
      make("table", {}, make("tbody", {}, ...rows.map(([words, keys]) => make("tr", {}, make("td", { textContent: words }), make("td", {}, ...caps(keys)))))));
    const bound = this.bound;
    const moves = /** @type {Array<[string, string[]]>} */ ((this.bindings?.bindings ?? []).filter(({ meaning }) => meaning.startsWith("steer ") || this.used.includes(meaning))
      .map(({ meaning, chords }) => [this.nameOf(meaning), this.keysOf(chords)]));
    const page = /** @type {Array<[string, string[]]>} */ (SHORTCUTS.map(({ code, key, words }) => [words, bound.has(code) ? ["bound to the game"] : [key]]));
    page.push(["undo, redo", ["Ctrl+Z", "Ctrl+Y"]]);
    const pointer = /** @type {Array<[string, string[]]>} */ ([
      ["nearer, further", bound.has("wheel:up") || bound.has("wheel:down") ? ["Ctrl + wheel"] : ["wheel"]],
      ...(this.flat ? [] : [["look round", ["drag", "lock"]], ["end the lock", ["Esc"]]]),
      ["under Level: pick, move, resize parts", ["left button"]],
      ...(this.flat ? [] : [["under Level: move up and down; look round", ["Shift", "right button"]]]),
      ["in a plot: go to a time, move, zoom", ["click", "drag", "wheel"]],
    ]);
    const second = /** @type {Array<[string, string[]]>} */ ((this.bindings?.second ?? []).map(({ meaning, chords }) => [meaning, chords.map(chordInWords)]));
    if (second.length) second.push(["all of it, with a pad", ["any pad but the first"]]);
    this.help.replaceChildren(table("The body", moves), ...(second.length ? [table("The second player", second)] : []), table("The page", page), table("The pointer", pointer));
  }
}
