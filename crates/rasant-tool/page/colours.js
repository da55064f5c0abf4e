// The colours of what is drawn. What differs also differs in shape or words.

export const NIGHT = "#171c26", PAPER = "#edf1f6", LAMP = "#f2b544", CANAL = "#59b3ae", BRICK = "#e07f63", FOG = "#a9b5c6";

const STONES = ["#55627a", "#5d7a78", "#7a6a58", "#66608a", "#6d7c52", "#84606a"];
export const stone = (surface) => STONES[surface % STONES.length];

export const ZONES = {
  ladder: "#caa46a", wind: "#8fc7ea", slow: "#8a9a6a", water: "#4f9fd8", hazard: BRICK, goal: LAMP, checkpoint: CANAL,
  gravity: "#b58be0", own: FOG,
};

/** The colours of ghosts, and the dashes that tell them apart without colour. */
export const GHOSTS = [
  ["#8fc7ea", [8, 4]], ["#b58be0", [2, 4]], ["#9ad08a", [10, 3, 2, 3]], ["#e8a0b8", [4, 4]], ["#d9c36a", [14, 4]], ["#c0c8d4", [2, 2]],
];
