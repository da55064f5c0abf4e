// Height and speed over the last seconds, presses marked.

import { CANAL, FOG, LAMP } from "./colours.js";

export function plot(canvas, samples, rate) {
  const ratio = devicePixelRatio || 1;
  const [width, height] = [canvas.clientWidth, canvas.clientHeight];
  [canvas.width, canvas.height] = [width * ratio, height * ratio];
  const pen = canvas.getContext("2d");
  pen.scale(ratio, ratio);
  if (samples.length < 2) return;
  const [first, last] = [samples[0].tick, samples.at(-1).tick];
  const left = 46, right = width - 8;
  const x = (tick) => left + ((tick - first) / Math.max(1, last - first)) * (right - left);
  pen.font = "11px system-ui, 'DejaVu Sans', sans-serif";
  pen.strokeStyle = "#2b3445";
  for (let second = Math.ceil(first / rate); second <= last / rate; second++) {
    pen.strokeRect(x(second * rate), 4, 0, height - 8);
  }
  for (const [key, colour, dash, name] of [["height", LAMP, [], "height"], ["speed", CANAL, [5, 3], "speed"]]) {
    const values = samples.map((sample) => sample[key]);
    const low = Math.min(...values, key === "speed" ? 0 : Infinity);
    const high = Math.max(...values, low + 0.5);
    const y = (value) => height - 8 - ((value - low) / (high - low)) * (height - 22);
    pen.strokeStyle = pen.fillStyle = colour;
    pen.setLineDash(dash);
    pen.lineWidth = 1.6;
    pen.beginPath();
    samples.forEach((sample, i) => (i ? pen.lineTo(x(sample.tick), y(sample[key])) : pen.moveTo(x(sample.tick), y(sample[key]))));
    pen.stroke();
    pen.setLineDash([]);
    pen.fillText(`${name} to ${high.toFixed(1)} ${key === "speed" ? "m/s" : "m"}`, key === "height" ? left + 4 : left + 116, 13);
  }
  pen.fillStyle = FOG;
  for (const sample of samples) {
    if (sample.pressed) { pen.beginPath(); pen.moveTo(x(sample.tick) - 4, height - 2); pen.lineTo(x(sample.tick) + 4, height - 2); pen.lineTo(x(sample.tick), height - 9); pen.fill(); }
  }
}
