// Collects the events of keyboard, pointer and gamepads with their times. The tool has the bindings.

import { around } from "./dom.js";

/** @import { PlayerInput } from "./messages.js" */

/** @typedef {PlayerInput extends infer One ? One extends unknown ? Omit<One, "at"> : never : never} Untimed */

/** The names of the buttons of a pointer, by the number of a mouse event. */
const BUTTONS = ["main", "auxiliary", "secondary", "back", "forward"];

/** Collects device events between two frames. */
export class Devices {
  /** @param {HTMLElement} stage */
  constructor(stage) {
    this.stage = stage;
    /** @type {PlayerInput[]} */
    this.inputs = [];
    this.began = performance.now();
    /** The time of the first input of the last frame. @type {number | null} */
    this.oldest = null;
    /** @type {Map<number, { buttons: boolean[], axes: readonly number[] }>} */
    this.pads = new Map();
    /** Receives presses in place of the game, while a key is being bound. @type {((source: string, down: boolean) => void) | null} */
    this.capture = null;
    /** Whether the pointer's buttons edit the level. */
    this.shapes = false;
    /** Whether dragging with the pointer turns the look. */
    this.looks = false;
    /** The keys, buttons and directions of the wheel that are bound. @type {Set<string>} */
    this.bound = new Set();
    /** Called for notches of the wheel that are not bound. @type {(up: boolean) => void} */
    this.zoom = () => {};
    /** The buttons that were pressed on the stage. @type {Set<number>} */
    this.down = new Set();
    this.listenToKeys();
    this.listenToPointer();
  }

  listenToKeys() {
    addEventListener("keydown", (event) => {
      if (this.capture) {
        if (!event.repeat) this.capture(event.code, true);
        event.preventDefault();
        event.stopImmediatePropagation();
        return;
      }
      if (isTyping(event) || this.isShortcut(event)) return;
      if (around(event, "button, summary") && (event.code === "Space" || event.code === "Enter")) return;
      if (around(event, "nav, dialog")) return;
      if (["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Space"].includes(event.code) || event.ctrlKey || event.altKey) event.preventDefault();
      if (!event.repeat) this.say({ input: "key", code: event.code, down: true });
    }, { capture: true });
    addEventListener("keyup", (event) => {
      if (this.capture) this.capture(event.code, false);
      else this.say({ input: "key", code: event.code, down: false });
    }, { capture: true });
    const away = () => { this.down.clear(); this.say({ input: "away" }); };
    addEventListener("blur", away);
    document.addEventListener("visibilitychange", () => document.hidden && away());
  }

  /** Returns true if a key is for the browser or the page: one with Ctrl, Alt or Meta, unless that key is bound and the
   *  page does not use both together. @param {KeyboardEvent} event */
  isShortcut(event) {
    const { code, ctrlKey, altKey, metaKey } = event;
    const isBound = (/** @type {string} */ key) => this.bound.has(`${key}Left`) || this.bound.has(`${key}Right`);
    if (/^(Control|Alt|Meta)(Left|Right)$/.test(code)) return !this.bound.has(code);
    if (ctrlKey && (code === "KeyZ" || code === "KeyY")) return true;
    return (ctrlKey && !isBound("Control")) || (altKey && !isBound("Alt")) || (metaKey && !isBound("Meta"));
  }

  listenToPointer() {
    const { stage } = this;
    stage.addEventListener("contextmenu", (event) => event.preventDefault());
    stage.addEventListener("mousedown", (event) => {
      const button = BUTTONS[event.button];
      if (!button || around(event, "#pad, .card, button")) return;
      if (this.capture) this.capture(`pointer:${button}`, true);
      else if (!this.shapes) this.say({ input: "pointer-button", button, down: true });
      this.down.add(event.button);
      // By default the middle button scrolls, and others go back in the history.
      if (event.button !== 0) event.preventDefault();
    });
    addEventListener("mouseup", (event) => {
      const button = BUTTONS[event.button];
      if (!button || !this.down.delete(event.button)) return;
      if (this.capture) this.capture(`pointer:${button}`, false);
      else this.say({ input: "pointer-button", button, down: false });
    });
    stage.addEventListener("pointermove", (event) => {
      // The first button edits the level, the second looks round.
      const turns = document.pointerLockElement === stage || (this.looks && event.buttons & (this.shapes ? 2 : 1));
      if (turns && !around(event, "#pad")) this.say({ input: "pointer-moved", x: event.movementX, y: event.movementY });
    });
    stage.addEventListener("wheel", (event) => {
      event.preventDefault();
      if (!event.deltaY) return;
      const turn = event.deltaY < 0 ? "up" : "down";
      if (this.capture) { this.capture(`wheel:${turn}`, true); this.capture?.(`wheel:${turn}`, false); }
      else if (this.bound.has(`wheel:${turn}`) && !event.ctrlKey) this.say({ input: "wheel", turn });
      else this.zoom(turn === "up");
    }, { passive: false });
  }

  /** Adds an input with the current time. @param {Untimed} input */
  say(input) {
    this.inputs.push(/** @type {PlayerInput} */ ({ at: Math.max(0, performance.now() - this.began), ...input }));
  }

  /** Reads the gamepads. The names are in the order of the W3C mapping. @param {string[]} buttons @param {string[]} axes */
  readPads(buttons, axes) {
    for (const pad of navigator.getGamepads?.() ?? []) {
      if (!pad || pad.mapping !== "standard") continue;
      const before = this.pads.get(pad.index) ?? { buttons: [], axes: [] };
      pad.buttons.forEach(({ pressed }, i) => {
        if (!buttons[i] || pressed === !!before.buttons[i]) return;
        if (this.capture) this.capture(`pad:${buttons[i]}`, pressed);
        else this.say({ input: "pad-button", pad: pad.index, button: buttons[i], down: pressed });
      });
      pad.axes.forEach((value, i) => {
        if (axes[i] && value !== before.axes[i]) this.say({ input: "pad-axis", pad: pad.index, axis: axes[i], value });
      });
      this.pads.set(pad.index, { buttons: pad.buttons.map((button) => button.pressed), axes: [...pad.axes] });
    }
  }

  /** Returns the inputs since the last call, and sets `oldest` to the time of the first. */
  take() {
    const { inputs } = this;
    this.oldest = inputs.length ? this.began + inputs[0].at : null;
    this.inputs = [];
    this.began = performance.now();
    return inputs;
  }
}

/** Returns true if a key is typed into a field. @param {KeyboardEvent} event */
export function isTyping(event) {
  return !!around(event, "input:not([type=checkbox]), select, textarea");
}

/** The stick and the buttons for touch and mouse. */
export class ScreenPad {
  /** @param {Devices} devices @param {HTMLElement} stick @param {HTMLElement} buttons */
  constructor(devices, stick, buttons) {
    this.devices = devices;
    this.buttons = buttons;
    this.shown = "";
    const knob = /** @type {HTMLElement} */ (stick.firstElementChild);
    const push = (/** @type {number} */ x, /** @type {number} */ y) => {
      devices.say({ input: "steer", x, y: -y });
      knob.style.transform = `translate(${x * 38}px, ${y * 38}px)`;
    };
    const follow = (/** @type {PointerEvent} */ event) => {
      const box = stick.getBoundingClientRect();
      const x = (event.clientX - box.left - box.width / 2) / (box.width / 2);
      const y = (event.clientY - box.top - box.height / 2) / (box.height / 2);
      const far = Math.max(1, Math.hypot(x, y));
      push(x / far, y / far);
    };
    stick.addEventListener("pointerdown", (event) => { stick.setPointerCapture(event.pointerId); follow(event); });
    stick.addEventListener("pointermove", (event) => stick.hasPointerCapture(event.pointerId) && follow(event));
    for (const end of ["pointerup", "pointercancel"]) stick.addEventListener(end, () => push(0, 0));
  }

  /** A button for each action. @param {string[]} actions @param {(action: string) => string} title the move that it starts */
  show(actions, title) {
    const now = actions.map((action) => `${action} ${title(action)}`).join();
    if (now === this.shown) return;
    this.shown = now;
    this.buttons.replaceChildren(...actions.map((action) => {
      const button = document.createElement("button");
      Object.assign(button, { id: `pad-${action}`, textContent: title(action), title: action });
      const press = (/** @type {boolean} */ down) => {
        button.classList.toggle("held", down);
        this.devices.say({ input: "action", action, down });
      };
      button.addEventListener("pointerdown", (event) => { button.setPointerCapture(event.pointerId); press(true); });
      for (const end of ["pointerup", "pointercancel"]) button.addEventListener(end, () => press(false));
      button.addEventListener("keydown", (event) => (event.code === "Space" || event.code === "Enter") && !event.repeat && press(true));
      button.addEventListener("keyup", (event) => (event.code === "Space" || event.code === "Enter") && press(false));
      return button;
    }));
  }
}
