// The collar: rulers along the edges of a view, with coordinates and the pointer's place.

import { spaced } from "./figures.js";
import { token } from "./tokens.js";

const INK = token("ink");
const SIGNAL = token("signal");
const SOFT = token("soft");

export function niceStep(least) {
  const power = 10 ** Math.floor(Math.log10(least));
  for (const digit of [1, 2, 2.5, 5, 10]) if (digit * power >= least) return digit * power;
  return 10 * power;
}

// A ruler along one edge. `at(value)` gives the pixel of a value; `label` its words.
export function drawRuler(canvas, edge, from, to, step, at, label, pointer) {
  const dpr = window.devicePixelRatio || 1;
  const width = canvas.clientWidth,
    height = canvas.clientHeight;
  if (canvas.width !== Math.round(width * dpr)) canvas.width = Math.round(width * dpr);
  if (canvas.height !== Math.round(height * dpr)) canvas.height = Math.round(height * dpr);
  const context = canvas.getContext("2d");
  context.setTransform(dpr, 0, 0, dpr, 0, 0);
  context.clearRect(0, 0, width, height);
  context.lineWidth = 1;
  context.font = '12px "IBM Plex Mono", "Orvik Space"';
  context.textBaseline = "middle";
  const top = edge === "top";
  const depth = top ? height : width;
  const parts = 5;
  for (let i = Math.floor(from / step) * parts; i <= Math.ceil(to / step) * parts; i += 1) {
    const value = (i * step) / parts;
    const px = Math.round(at(value)) + 0.5;
    const main = i % parts === 0;
    context.strokeStyle = main ? INK : SOFT;
    context.beginPath();
    const long = main ? depth * 0.62 : depth * 0.22;
    if (top) {
      context.moveTo(px, depth);
      context.lineTo(px, depth - long);
    } else {
      context.moveTo(depth, px);
      context.lineTo(depth - long, px);
    }
    context.stroke();
    if (!main) continue;
    const words = label(value),
      room = context.measureText(words).width;
    // A figure that the end of the ruler would cut is left out.
    if (top ? px + 5 < 0 || px + 5 + room > width : px - 5 > height || px - 5 - room < 0) continue;
    context.fillStyle = (i / parts) % 2 === 0 ? INK : SOFT;
    if (top) context.fillText(words, px + 5, depth * 0.42);
    else {
      context.save();
      context.translate(depth * 0.42, px - 5);
      context.rotate(-Math.PI / 2);
      context.fillText(words, 0, 0);
      context.restore();
    }
  }
  if (pointer != null) {
    context.strokeStyle = SIGNAL;
    context.beginPath();
    const p = Math.round(pointer) + 0.5;
    if (top) {
      context.moveTo(p, 0);
      context.lineTo(p, depth);
    } else {
      context.moveTo(0, p);
      context.lineTo(depth, p);
    }
    context.stroke();
  }
}

// Project coordinates along an edge of the map.
export function drawCollar(canvas, edge, view, pointer) {
  const [west, south, east, north] = view.window();
  const step = niceStep(view.unitsPerPx * 150);
  if (edge === "top") {
    drawRuler(
      canvas,
      edge,
      west,
      east,
      step,
      (v) => view.toScreen(v, 0)[0],
      (v) => `${spaced(v)} E`,
      pointer && pointer[0],
    );
  } else {
    drawRuler(
      canvas,
      edge,
      south,
      north,
      step,
      (v) => view.toScreen(0, v)[1],
      (v) => `${spaced(v)} N`,
      pointer && pointer[1],
    );
  }
}
