// Colours. Anything that differs in colour also differs in shape or in words.

export const NIGHT = "#171c26", PAPER = "#edf1f6", LAMP = "#f2b544", CANAL = "#59b3ae", BRICK = "#e07f63", FOG = "#a9b5c6";
export const COAT = "#c98f2e", SHADE = "#7d5a1e";

const STONES = ["#55627a", "#5d7a78", "#7a6a58", "#66608a", "#6d7c52", "#84606a"];
/** @param {number} surface */
export const stone = (surface) => STONES[surface % STONES.length];

/** @type {Record<string, string>} */
const ZONES = {
  ladder: "#caa46a", wind: "#8fc7ea", slow: "#8a9a6a", water: "#4f9fd8", hazard: BRICK, goal: LAMP, checkpoint: CANAL,
  gravity: "#b58be0", own: FOG,
};
/** @param {string} kind */
export const zoneColour = (kind) => ZONES[kind] ?? FOG;

/** The colours of another body, and of the second player's: fill, rim and name. @param {boolean} isPlayer */
export const otherLook = (isPlayer) => (isPlayer ? ["#59b3ae", "#1d4f4c", "#8fdcd7"] : ["#8d97a8", "#3a4354", FOG]);

/** The colours of ghosts, and the dashes that distinguish them without colour.
 *  @type {Array<[string, number[]]>} */
const GHOSTS = [
  ["#8fc7ea", [8, 4]], ["#b58be0", [2, 4]], ["#9ad08a", [10, 3, 2, 3]], ["#e8a0b8", [4, 4]], ["#d9c36a", [14, 4]], ["#c0c8d4", [2, 2]],
];
/** @param {number} number */
export const ghostLook = (number) => GHOSTS[number % GHOSTS.length];

/** The colours of plotted columns. */
export const LINES = [LAMP, CANAL, "#8fc7ea", "#e8a0b8"];
