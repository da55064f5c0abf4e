// Short synthesised sounds: one for each kind of event, varied by the surface.

/** The first and the last pitch in Hz, and the duration in seconds. @type {Record<string, [number, number, number]>} */
const KINDS = { jumped: [420, 640, 0.09], landed: [170, 90, 0.1], footfall: [240, 150, 0.035], "wall-met": [200, 160, 0.05], refused: [150, 120, 0.12], bounced: [300, 520, 0.1] };

export class Sounds {
  on = false;
  /** The number of played sounds. */
  played = 0;
  /** @type {AudioContext | null} */
  context = null;

  /** @param {boolean} on */
  turn(on) {
    if (on) this.context ??= new AudioContext();
    this.on = on;
  }

  /** @param {string} name of the event @param {string | null} surface */
  play(name, surface) {
    const kind = KINDS[name];
    const { context } = this;
    if (!this.on || !kind || !context) return;
    this.played++;
    const [from, to, time] = kind;
    const pitch = 1 + 0.07 * ((surface ?? "").length % 5);
    const now = context.currentTime;
    const tone = context.createOscillator();
    const loud = context.createGain();
    tone.type = name === "footfall" ? "triangle" : "sine";
    tone.frequency.setValueAtTime(from * pitch, now);
    tone.frequency.exponentialRampToValueAtTime(to * pitch, now + time);
    loud.gain.setValueAtTime(0.12, now);
    loud.gain.exponentialRampToValueAtTime(0.001, now + time + 0.03);
    tone.connect(loud).connect(context.destination);
    tone.start(now);
    tone.stop(now + time + 0.05);
  }
}
