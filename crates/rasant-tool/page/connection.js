// The connection to the tool, for requests and answers.

import { FIELDS } from "./messages.js";

/** @import { Answer, Request } from "./messages.js" */

/**
 * Opens the connection.
 * @param {(answer: Answer) => void} hear is called with each answer
 * @param {(text: string) => void} complain gets the name of an unknown field
 * @param {() => void} ended is called when the tool has stopped
 */
export function openConnection(hear, complain, ended) {
  const token = new URLSearchParams(location.search).get("token") ?? "";
  const socket = new WebSocket(`ws://${location.host}/session?token=${encodeURIComponent(token)}`);
  socket.onmessage = (message) => {
    /** @type {Answer} */
    const answer = JSON.parse(message.data);
    const unknown = unknownField(answer, "Answer", answer.message);
    if (unknown) complain(`the page does not know the field ${unknown}: reload it`);
    else hear(answer);
  };
  socket.onclose = ended;
  return {
    /** @param {Request} request */
    request(request) {
      if (socket.readyState === WebSocket.OPEN) socket.send(JSON.stringify(request));
    },
    get isOpen() { return socket.readyState === WebSocket.OPEN; },
  };
}

/**
 * The path of the first field of a value that a type does not have; null if there is none.
 * @param {any} value
 * @param {any} shape as in messages.js
 * @param {string} path
 * @returns {string | null}
 */
export function unknownField(value, shape, path) {
  if (!shape || value === null || typeof value !== "object") return null;
  if (typeof shape === "string") return unknownField(value, FIELDS[shape], path);
  if (shape.tag) return unknownField(value, shape.of[value[shape.tag]] ?? { fields: {} }, path);
  if (shape.list) return first(value, (/** @type {any} */ item, /** @type {string} */ i) => unknownField(item, shape.list, `${path}[${i}]`));
  if (shape.map) return first(value, (/** @type {any} */ item, /** @type {string} */ key) => unknownField(item, shape.map, `${path}.${key}`));
  return first(value, (/** @type {any} */ item, /** @type {string} */ key) => (Object.hasOwn(shape.fields, key) ? unknownField(item, shape.fields[key], `${path}.${key}`) : `${path}.${key}`));
}

/** @param {any} values @param {(item: any, key: string) => string | null} find */
function first(values, find) {
  for (const key in values) {
    const found = find(values[key], key);
    if (found) return found;
  }
  return null;
}
