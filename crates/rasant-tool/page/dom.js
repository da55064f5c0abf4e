// Small helpers to find and make elements.

/**
 * The element of the page with this id. Throws if there is none, or one of another kind.
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
 * A new element with properties and children.
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
 * The nearest ancestor of an event's target, or the target itself, that matches.
 * @param {globalThis.Event} event
 * @param {string} selector
 * @returns {Element | null}
 */
export function around(event, selector) {
  return event.target instanceof Element ? event.target.closest(selector) : null;
}

/**
 * A number with four digits at most; a dash for no number.
 * @param {number | null | undefined} value
 */
export const shown = (value) => (value === null || value === undefined ? "–" : String(Number(value.toPrecision(4))));
