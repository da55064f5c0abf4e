// What devices say, with times, as the tool wants it: it has the bindings.

/** The gamepad that the stick on the screen counts as. */
const SCREEN_PAD = 9;

/** Collects what devices say between two frames. */
export class Devices {
  constructor(stage) {
    this.said = [];
    this.began = performance.now();
    this.pads = new Map();
    this.held = new Set();
    this.stage = stage;
    const typing = (event) => event.target.closest?.("input, select, textarea");
    addEventListener("keydown", (event) => {
      if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target.closest?.("button") && (event.code === "Space" || event.code === "Enter")) return;
      if (event.target.closest?.("nav")) return;
      if (["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Space"].includes(event.code)) event.preventDefault();
      if (!event.repeat) this.say({ key: [event.code, true] });
    });
    addEventListener("keyup", (event) => this.say({ key: [event.code, false] }));
    const away = () => this.say({ away: true });
    addEventListener("blur", away);
    document.addEventListener("visibilitychange", () => document.hidden && away());
    stage.addEventListener("contextmenu", (event) => event.preventDefault());
    stage.addEventListener("pointermove", (event) => {
      // The place is shaped by the first button, and looked round in by the second.
      const turns = document.pointerLockElement === stage || (event.buttons & (stage.classList.contains("shaped") ? 2 : 1) && this.turnsByPointer);
      if (turns && !event.target.closest("#pad")) this.say({ moved: [event.movementX, event.movementY] });
    });
  }

  /** A key or stick was moved: when, and what. */
  say(what) { this.said.push({ at: Math.max(0, performance.now() - this.began), ...what }); }

  /** Reads the gamepads; names come from the tool, in the order of the W3C mapping. */
  readPads(buttons, axes) {
    for (const pad of navigator.getGamepads?.() ?? []) {
      if (!pad || pad.mapping !== "standard") continue;
      const before = this.pads.get(pad.index) ?? { buttons: [], axes: [] };
      pad.buttons.forEach((button, i) => {
        if (buttons[i] && button.pressed !== !!before.buttons[i]) this.say({ pad: [pad.index, buttons[i], button.pressed] });
      });
      pad.axes.forEach((value, i) => {
        if (axes[i] && value !== before.axes[i]) this.say({ axis: [pad.index, axes[i], value] });
      });
      this.pads.set(pad.index, { buttons: pad.buttons.map((button) => button.pressed), axes: [...pad.axes] });
    }
  }

  /** What was said since the last call, and begins anew; `oldest` is when the first was. */
  take() {
    const said = this.said;
    this.oldest = said.length ? this.began + said[0].at : null;
    this.said = [];
    this.began = performance.now();
    return said;
  }
}

/** A stick and buttons for touch and mouse. */
export function screenPad(devices, stick, buttons, actions) {
  const knob = stick.firstElementChild;
  const push = (x, y) => {
    devices.say({ axis: [SCREEN_PAD, "left-x", x] });
    devices.say({ axis: [SCREEN_PAD, "left-y", y] });
    knob.style.transform = `translate(${x * 38}px, ${y * 38}px)`;
  };
  const at = (event) => {
    const box = stick.getBoundingClientRect();
    const x = (event.clientX - box.left - box.width / 2) / (box.width / 2);
    const y = (event.clientY - box.top - box.height / 2) / (box.height / 2);
    const far = Math.max(1, Math.hypot(x, y));
    push(x / far, y / far);
  };
  stick.addEventListener("pointerdown", (event) => { stick.setPointerCapture(event.pointerId); at(event); });
  stick.addEventListener("pointermove", (event) => stick.hasPointerCapture(event.pointerId) && at(event));
  for (const end of ["pointerup", "pointercancel"]) stick.addEventListener(end, () => push(0, 0));
  for (const [label, button] of actions) {
    const element = document.createElement("button");
    element.textContent = label;
    element.addEventListener("pointerdown", (event) => {
      element.setPointerCapture(event.pointerId);
      devices.say({ pad: [SCREEN_PAD, button, true] });
    });
    for (const end of ["pointerup", "pointercancel"]) {
      element.addEventListener(end, () => devices.say({ pad: [SCREEN_PAD, button, false] }));
    }
    buttons.append(element);
  }
}
