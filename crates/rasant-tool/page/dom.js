// Small helpers to find and make elements.

/**
 * Returns the element with this id. Throws if there is none, or if its kind differs.
 * @template {Element} T
 * @param {string} id
 * @param {new () => T} kind
 * @returns {T}
 */
export function byId(id, kind) {
  const element = document.getElementById(id);
  if (!(element instanceof kind)) throw new Error(`the page has no ${kind.name} with the id ${id}`);
  return element;
}

/**
 * Creates an element with properties and children.
 * @template {keyof HTMLElementTagNameMap} K
 * @param {K} name
 * @param {Partial<HTMLElementTagNameMap[K]>} [properties]
 * @param {Array<Node | string>} children
 * @returns {HTMLElementTagNameMap[K]}
 */
export function make(name, properties = {}, ...children) {
  const element = Object.assign(document.createElement(name), properties);
  element.append(...children);
  return element;
}

/**
 * Returns the nearest match among an event's target and its ancestors.
 * @param {globalThis.Event} event
 * @param {string} selector
 * @returns {Element | null}
 */
export function around(event, selector) {
  return event.target instanceof Element ? event.target.closest(selector) : null;
}

/**
 * Formats a number with at most four digits; a dash for no number.
 * @param {number | null | undefined} value
 */
export const shown = (value) => (value === null || value === undefined ? "–" : String(Number(value.toPrecision(4))));
