// Paints ink on a canvas: lines, areas, symbols and text, all sizes in millimetres on the sheet.

import { PX_PER_MM } from "./view.js";

const FACES = {
  "Spectral-Regular": ["400", "Spectral"],
  "Spectral-Italic": ["italic 400", "Spectral"],
  "Spectral-SemiBold": ["600", "Spectral"],
};

export function facesReady() {
  return Promise.all(Object.values(FACES).map(([style, family]) => document.fonts.load(`${style} 12px "${family}"`)));
}

// frame: {x, y, scale}: pixels of the frame's origin and pixels per unit; y grows upwards on the ground.
function frameOf(view, origin) {
  const u = view.unitsPerPx;
  const [x, y] = view.toScreen(origin[0], origin[1]);
  return { x, y, k: 1 / u };
}

export function paintItem(context, item, view, gone, window) {
  const frame = frameOf(view, item.origin);
  const near = [window[0] - item.origin[0], window[1] - item.origin[1], window[2] - item.origin[0], window[3] - item.origin[1]];
  if (item.t === "stroke") paintStroke(context, item, frame, gone, near);
  else if (item.t === "fill") paintFill(context, item, frame, gone, near);
  else if (item.t === "marks") paintMarks(context, item, frame, gone, near);
  else if (item.t === "texts") paintTexts(context, item, frame, gone, near, view.denominator);
}

function hidden(item, i, gone, near) {
  if (gone && item.keys && gone.has(item.keys[i])) return true;
  const b = item.boxes;
  if (!b || !near) return false;
  const j = i * 4;
  return b[j] > near[2] || b[j + 2] < near[0] || b[j + 1] > near[3] || b[j + 3] < near[1];
}

function trace(context, xy, from, to, frame) {
  const { x, y, k } = frame;
  context.moveTo(x + xy[2 * from] * k, y - xy[2 * from + 1] * k);
  let lastX = Infinity, lastY = Infinity;
  for (let j = from + 1; j < to; j += 1) {
    const px = x + xy[2 * j] * k, py = y - xy[2 * j + 1] * k;
    // Vertices closer than a third of a pixel cannot be seen apart.
    if (j < to - 1 && Math.abs(px - lastX) < 0.3 && Math.abs(py - lastY) < 0.3) continue;
    context.lineTo(px, py);
    lastX = px;
    lastY = py;
  }
}

function dress(context, item) {
  context.strokeStyle = item.colour;
  // A line thinner than a dot of the screen would only grow pale, and be hard to follow.
  context.lineWidth = Math.max(item.width * PX_PER_MM, 1 / (window.devicePixelRatio || 1));
  context.lineCap = item.cap;
  context.lineJoin = item.join;
  context.setLineDash(item.dash.map((d) => d * PX_PER_MM));
}

function paintStroke(context, item, frame, gone, near) {
  dress(context, item);
  context.beginPath();
  for (let i = 0; i < item.starts.length - 1; i += 1) {
    if (!hidden(item, i, gone, near)) trace(context, item.xy, item.starts[i], item.starts[i + 1], frame);
  }
  context.stroke();
  context.setLineDash([]);
}

function paintFill(context, item, frame, gone, near) {
  context.fillStyle = item.colour;
  context.strokeStyle = item.colour;
  context.lineWidth = Math.max(item.spread * 2 * PX_PER_MM, 0.6);
  context.lineJoin = "round";
  const b = item.boxes;
  for (let area = 0; area < item.parts.length - 1; area += 1) {
    if (gone && item.keys && gone.has(item.keys[area])) continue;
    const first = item.parts[area];
    if (near && b && (b[first * 4] > near[2] || b[first * 4 + 2] < near[0] || b[first * 4 + 1] > near[3] || b[first * 4 + 3] < near[1])) continue;
    context.beginPath();
    for (let i = first; i < item.parts[area + 1]; i += 1) {
      trace(context, item.xy, item.starts[i], item.starts[i + 1], frame);
      context.closePath();
    }
    context.fill("evenodd");
    if (item.spread) context.stroke();
  }
}

function inside(x, y, near) {
  return !near || (x >= near[0] && x <= near[2] && y >= near[1] && y <= near[3]);
}

function paintMarks(context, item, frame, gone, near) {
  const local = { x: 0, y: 0, k: PX_PER_MM };
  for (let i = 0; i < item.angles.length; i += 1) {
    const x = item.at[2 * i], y = item.at[2 * i + 1];
    if ((gone && item.keys && gone.has(item.keys[i])) || !inside(x, y, near)) continue;
    context.save();
    context.translate(frame.x + x * frame.k, frame.y - y * frame.k);
    context.rotate((item.angles[i] * Math.PI) / 180);
    // Symbols have y downwards, the ground upwards.
    context.scale(1, -1);
    for (const piece of item.symbol) {
      if (piece.t === "stroke") paintStroke(context, piece, local, null, null);
      else paintFill(context, piece, local, null, null);
    }
    context.restore();
  }
}

function paintTexts(context, item, frame, gone, near, denominator) {
  let face = "";
  context.textBaseline = "alphabetic";
  context.textAlign = "left";
  for (let i = 0; i < item.run.length; i += 1) {
    if (denominator > item.largest[i] || (gone && gone.has(item.keys[i]))) continue;
    const x = item.at[2 * i], y = item.at[2 * i + 1];
    if (!inside(x, y, near)) continue;
    const run = item.runs[item.run[i]];
    const [style, family] = FACES[run.font];
    const wanted = `${style} ${(run.size * PX_PER_MM).toFixed(2)}px "${family}"`;
    if (wanted !== face) { context.font = wanted; face = wanted; }
    const [colour, halo] = item.colours[item.colour[i]];
    context.save();
    context.translate(frame.x + x * frame.k + item.offset[2 * i] * PX_PER_MM, frame.y - y * frame.k + item.offset[2 * i + 1] * PX_PER_MM);
    if (item.angles[i]) context.rotate((item.angles[i] * Math.PI) / 180);
    for (const pass of halo ? ["halo", "text"] : ["text"]) {
      for (let c = 0; c < run.x.length; c += 1) {
        if (pass === "halo") {
          context.strokeStyle = halo;
          context.lineWidth = 0.35 * PX_PER_MM;
          context.lineJoin = "round";
          context.strokeText(run.chars[c], run.x[c] * PX_PER_MM, 0);
        } else {
          context.fillStyle = colour;
          context.fillText(run.chars[c], run.x[c] * PX_PER_MM, 0);
        }
      }
    }
    context.restore();
  }
}
