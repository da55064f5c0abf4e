// The data that the views draw besides the body and the level.

import { History } from "./history.js";
import { blended } from "./vectors.js";

/** @import { Ghost, ReplayedMessage } from "./messages.js" */
/** @import { Point } from "./vectors.js" */

/** The data that both views draw besides the frame. */
export class Scene {
  /** @type {Ghost[]} */
  ghosts = [];
  /** @type {ReplayedMessage | null} */
  replayed = null;
  replays = false;
  history = new History();
  debug = false;
  figure = false;
  firstPerson = false;
  /** The zoom factor. */
  zoom = 1;
}

/** The drawn part of a frame, or of a moment of an exported page.
 *  @typedef {{ tick: number, camera: import("./messages.js").Camera, body: import("./messages.js").Body, others: import("./messages.js").Other[], carried: import("./messages.js").Outline[] }} Shown */

/** Returns the position of a ghost at a tick; null after its end. @param {Ghost} ghost @param {number} tick @returns {Point | null} */
export function ghostAt({ path, every }, tick) {
  const place = tick / every;
  const before = Math.floor(place);
  if (before + 1 >= path.length) return null;
  return blended(path[before], path[before + 1], place - before);
}

/**
 * A line of the overlay, in the level: its colour, its width and dashes in pixels, and words
 * at its end.
 * @typedef {{ points: Point[], colour: string, width?: number, dash?: number[], words?: string, arrow?: boolean, dot?: boolean }} OverlayLine
 */
