// Points and directions, as lists of numbers.

/** @typedef {number[]} Point */

/** @param {Point} a @param {Point} b */
export const add = (a, b) => a.map((part, i) => part + b[i]);
/** @param {Point} a @param {Point} b */
export const sub = (a, b) => a.map((part, i) => part - b[i]);
/** @param {Point} a @param {number} factor */
export const scaled = (a, factor) => a.map((part) => part * factor);
/** The point `from` plus `by` times a factor. @param {Point} from @param {Point} by @param {number} factor */
export const along = (from, by, factor) => from.map((part, i) => part + by[i] * factor);
/** @param {Point} a @param {Point} b */
export const dot = (a, b) => a.reduce((sum, part, i) => sum + part * b[i], 0);
/** @param {Point} a @param {Point} b */
export const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
/** @param {Point} a */
export const length = (a) => Math.hypot(...a);
/** The vector at length 1; a vector of length 0 stays. @param {Point} a */
export const unit = (a) => scaled(a, 1 / (length(a) || 1));
/** @param {number} value @param {number} min @param {number} max */
export const clamp = (value, min, max) => Math.min(max, Math.max(min, value));
/** @param {number} a @param {number} b @param {number} by */
export const blend = (a, b, by) => a + (b - a) * by;
/** @param {Point} a @param {Point} b @param {number} by */
export const blended = (a, b, by) => a.map((part, i) => blend(part, b[i], by));
