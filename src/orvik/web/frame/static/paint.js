// Paints ink on a canvas: lines, areas, symbols and text, all sizes in millimetres on the sheet.

import { PX_PER_MM } from "./view.js";

const FACES = {
  "Spectral-Regular": ["400", "Spectral"],
  "Spectral-Italic": ["italic 400", "Spectral"],
  "Spectral-SemiBold": ["600", "Spectral"],
  "Companion-Regular": ["400", "Orvik Companion"],
  "Companion-Italic": ["italic 400", "Orvik Companion"],
  "Companion-SemiBold": ["600", "Orvik Companion"],
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
  const near = [
    window[0] - item.origin[0],
    window[1] - item.origin[1],
    window[2] - item.origin[0],
    window[3] - item.origin[1],
  ];
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

// How far in pixels a painted line may pass beside its vertices: less than can be seen.
const UNSEEN = 0.2;

// Leaves out vertices that the line passes within UNSEEN: from the last vertex painted, a cone holds the
// directions that pass all vertices since; a vertex outside it, or one that turns back, ends the stretch.
function trace(context, xy, from, to, frame) {
  const { x, y, k } = frame;
  let px = x + xy[2 * from] * k,
    py = y - xy[2 * from + 1] * k;
  context.moveTo(px, py);
  let leftX = 0,
    leftY = 0,
    rightX = 0,
    rightY = 0,
    reach = 0,
    lastX = px,
    lastY = py;
  for (let j = from + 1; j < to; j += 1) {
    const qx = x + xy[2 * j] * k,
      qy = y - xy[2 * j + 1] * k;
    let dx = qx - px,
      dy = qy - py,
      far = Math.sqrt(dx * dx + dy * dy);
    if (reach && (far < reach || dx * leftY - dy * leftX < 0 || dx * rightY - dy * rightX > 0)) {
      context.lineTo(lastX, lastY);
      px = lastX;
      py = lastY;
      dx = qx - px;
      dy = qy - py;
      far = Math.sqrt(dx * dx + dy * dy);
      reach = 0;
    }
    lastX = qx;
    lastY = qy;
    if (far <= UNSEEN) continue;
    const tx = (-dy / far) * UNSEEN,
      ty = (dx / far) * UNSEEN;
    if (!reach || (dx + tx) * leftY - (dy + ty) * leftX > 0) {
      leftX = dx + tx;
      leftY = dy + ty;
    }
    if (!reach || (dx - tx) * rightY - (dy - ty) * rightX < 0) {
      rightX = dx - tx;
      rightY = dy - ty;
    }
    reach = far;
  }
  context.lineTo(lastX, lastY);
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
    if (
      near &&
      b &&
      (b[first * 4] > near[2] || b[first * 4 + 2] < near[0] || b[first * 4 + 1] > near[3] || b[first * 4 + 3] < near[1])
    )
      continue;
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

// One path for all places of a symbol, piece by piece: a hundred times fewer calls than one mark at a time.
function paintMarks(context, item, frame, gone, near) {
  const turns = [];
  for (let i = 0; i < item.angles.length; i += 1) {
    const x = item.at[2 * i],
      y = item.at[2 * i + 1];
    if ((gone && item.keys && gone.has(item.keys[i])) || !inside(x, y, near)) continue;
    const angle = (item.angles[i] * Math.PI) / 180;
    turns.push(frame.x + x * frame.k, frame.y - y * frame.k, Math.cos(angle) * PX_PER_MM, Math.sin(angle) * PX_PER_MM);
  }
  for (const piece of item.symbol) {
    if (piece.t === "stroke") dress(context, piece);
    else context.fillStyle = piece.colour;
    context.beginPath();
    for (let t = 0; t < turns.length; t += 4)
      traceTurned(context, piece, turns[t], turns[t + 1], turns[t + 2], turns[t + 3]);
    if (piece.t === "stroke") context.stroke();
    else context.fill("nonzero");
  }
  context.setLineDash([]);
}

function traceTurned(context, piece, x, y, cos, sin) {
  const { xy, starts } = piece;
  for (let i = 0; i < starts.length - 1; i += 1) {
    for (let j = starts[i]; j < starts[i + 1]; j += 1) {
      const px = x + xy[2 * j] * cos - xy[2 * j + 1] * sin,
        py = y + xy[2 * j] * sin + xy[2 * j + 1] * cos;
      if (j === starts[i]) context.moveTo(px, py);
      else context.lineTo(px, py);
    }
    if (piece.t === "fill") context.closePath();
  }
}

function paintTexts(context, item, frame, gone, near, denominator) {
  let face = "";
  context.textBaseline = "alphabetic";
  context.textAlign = "left";
  for (let i = 0; i < item.run.length; i += 1) {
    if (denominator > item.largest[i] || (gone && gone.has(item.keys[i]))) continue;
    const x = item.at[2 * i],
      y = item.at[2 * i + 1];
    if (!inside(x, y, near)) continue;
    const run = item.runs[item.run[i]];
    const [colour, halo] = item.colours[item.colour[i]];
    let left = frame.x + x * frame.k + item.offset[2 * i] * PX_PER_MM,
      base = frame.y - y * frame.k + item.offset[2 * i + 1] * PX_PER_MM;
    const turned = item.angles[i] !== 0;
    if (turned) {
      context.save();
      context.translate(left, base);
      context.rotate((item.angles[i] * Math.PI) / 180);
      left = 0;
      base = 0;
    }
    for (const piece of run.pieces) {
      const [style, family] = FACES[piece.font];
      const wanted = `${style} ${(run.size * PX_PER_MM).toFixed(2)}px "${family}"`;
      if (wanted !== face) {
        context.font = wanted;
        face = wanted;
      }
      if (halo) {
        context.strokeStyle = halo;
        context.lineWidth = 0.35 * PX_PER_MM;
        context.lineJoin = "round";
        piece.chars.forEach((char, c) => context.strokeText(char, left + piece.x[c] * PX_PER_MM, base));
      }
      context.fillStyle = colour;
      piece.chars.forEach((char, c) => context.fillText(char, left + piece.x[c] * PX_PER_MM, base));
    }
    // A font set within a saved state is gone with it.
    if (turned) {
      context.restore();
      face = "";
    }
  }
}
