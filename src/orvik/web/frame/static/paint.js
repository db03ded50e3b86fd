// Paints ink on a canvas: lines, areas, symbols and text, all sizes in millimetres on the sheet.

import { contextOf } from "./elements.js";
import { paintTexts } from "./paint_letters.js";
import { PX_PER_MM } from "./view.js";

// frame: {x, y, k}: pixels of the frame's origin and pixels per unit; y grows upwards on the ground. A dot of the
// screen is `dot` pixels, and no line is thinner than `thinnest`.
function frameOf(view, origin) {
  const u = view.unitsPerPx;
  const [x, y] = view.toScreen(origin[0], origin[1]);
  return { x, y, k: 1 / u, dot: view.dot ?? DOT, thinnest: view.thinnest ?? DOT };
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
  else if (item.t === "marks" || item.t === "ornaments") paintMarks(context, item, frame, gone, near, view.denominator);
  else if (item.t === "pattern") paintPattern(context, item, frame, gone, near);
  else if (item.t === "texts") paintTexts(context, item, frame, gone, near, view.denominator);
  else if (item.t === "picture") paintPicture(context, item, frame);
  else if (item.t === "group") paintGroup(context, item, view, frame, gone, window);
}

// Paints on a canvas of its own, then lays that over what is below, once, with an opacity and a blend.
export function paintAsOne(context, opacity, multiply, paint) {
  if (opacity >= 1 && !multiply) {
    paint(context);
    return;
  }
  const layer = document.createElement("canvas");
  layer.width = context.canvas.width;
  layer.height = context.canvas.height;
  const inner = contextOf(layer);
  inner.setTransform(context.getTransform());
  paint(inner);
  context.save();
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.globalAlpha = opacity;
  context.globalCompositeOperation = multiply ? "multiply" : "source-over";
  context.drawImage(layer, 0, 0);
  context.restore();
}

function paintGroup(context, group, view, frame, gone, window) {
  context.save();
  if (group.clip) {
    context.beginPath();
    traceAll(context, group.clip, frame);
    context.clip("evenodd");
  }
  paintAsOne(context, group.opacity, group.multiply, (inner) => {
    for (const item of group.items) paintItem(inner, item, view, gone, window);
  });
  context.restore();
}

// Every path of some, as outlines of areas.
export function traceAll(context, { xy, starts }, { x, y, k }) {
  for (let i = 0; i < starts.length - 1; i += 1) {
    for (let j = starts[i]; j < starts[i + 1]; j += 1) {
      const [px, py] = [x + xy[2 * j] * k, y - xy[2 * j + 1] * k];
      if (j === starts[i]) context.moveTo(px, py);
      else context.lineTo(px, py);
    }
    context.closePath();
  }
}

// The unit square of a picture, y downwards, lies in the frame as `place` says.
function paintPicture(context, { image, place }, { x, y, k }) {
  const [a, b, c, d, e, f] = place;
  context.save();
  context.transform(a * k, -d * k, b * k, -e * k, x + c * k, y - f * k);
  context.drawImage(image, 0, 0, 1, 1);
  context.restore();
}

function hidden(item, i, gone, near) {
  if (gone && item.keys && gone.has(item.keys[i])) return true;
  const b = item.boxes;
  if (!b || !near) return false;
  const j = i * 4;
  return b[j] > near[2] || b[j + 2] < near[0] || b[j + 1] > near[3] || b[j + 3] < near[1];
}

// A dot of the screen in pixels, and how many dots a painted line may pass beside its vertices: less than can be seen.
const DOT = 1 / (window.devicePixelRatio || 1),
  UNSEEN_DOTS = 0.1;

// Leaves out vertices that the line passes unseen: from the last vertex painted, a cone holds the
// directions that pass all vertices since; a vertex outside it, or one that turns back, ends the stretch.
function trace(context, xy, from, to, frame) {
  const { x, y, k } = frame,
    unseen = UNSEEN_DOTS * frame.dot;
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
    if (far <= unseen) continue;
    const tx = (-dy / far) * unseen,
      ty = (dx / far) * unseen;
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

// A path to the right of another, each vertex on the bisector of its bend.
function traceBeside(context, item, i, frame) {
  const from = item.starts[i],
    count = item.starts[i + 1] - from,
    off = item.offset * PX_PER_MM,
    xs = [],
    ys = [];
  for (let j = from; j < from + count; j += 1) {
    xs.push(frame.x + item.xy[2 * j] * frame.k);
    ys.push(frame.y - item.xy[2 * j + 1] * frame.k);
  }
  const normal = (a) => {
    const dx = xs[a + 1] - xs[a],
      dy = ys[a + 1] - ys[a],
      far = Math.max(Math.hypot(dx, dy), 1e-12);
    return [-dy / far, dx / far];
  };
  const last = count - 1,
    closed = count > 2 && xs[0] === xs[last] && ys[0] === ys[last];
  for (let j = 0; j < count; j += 1) {
    const before = normal(j > 0 ? j - 1 : closed ? last - 1 : 0),
      after = normal(j < last ? j : closed ? 0 : last - 1);
    const mx = before[0] + after[0],
      my = before[1] + after[1],
      squared = mx * mx + my * my;
    const reach = off * Math.min(2 / Math.max(squared, 1e-12), item.mitre / Math.max(Math.sqrt(squared), 1e-12));
    if (j === 0) context.moveTo(xs[0] + mx * reach, ys[0] + my * reach);
    else context.lineTo(xs[j] + mx * reach, ys[j] + my * reach);
  }
}

// On the map a line thinner than a dot of the screen would only grow pale, and be hard to follow.
function dress(context, item, thinnest) {
  context.strokeStyle = item.colour;
  context.lineWidth = Math.max(item.width * PX_PER_MM, thinnest);
  context.lineCap = item.cap;
  context.lineJoin = item.join;
  context.setLineDash(item.dash.map((d) => d * PX_PER_MM));
}

function paintStroke(context, item, frame, gone, near) {
  dress(context, item, frame.thinnest);
  context.beginPath();
  for (let i = 0; i < item.starts.length - 1; i += 1) {
    if (hidden(item, i, gone, near)) continue;
    if (item.offset) traceBeside(context, item, i, frame);
    else trace(context, item.xy, item.starts[i], item.starts[i + 1], frame);
  }
  context.stroke();
  context.setLineDash([]);
}

function paintFill(context, item, frame, gone, near) {
  context.fillStyle = item.colour;
  context.strokeStyle = item.colour;
  context.lineWidth = Math.max(item.spread * 2 * PX_PER_MM, 0.6 * frame.thinnest);
  context.lineJoin = "round";
  for (let area = 0; area < item.parts.length - 1; area += 1) {
    if (areaHidden(item, area, gone, near)) continue;
    context.beginPath();
    traceArea(context, item, area, frame);
    context.fill("evenodd");
    if (item.spread) context.stroke();
  }
}

function areaHidden(item, area, gone, near) {
  if (gone && item.keys && gone.has(item.keys[area])) return true;
  const b = item.boxes,
    first = item.parts[area] * 4;
  if (!near || !b) return false;
  return b[first] > near[2] || b[first + 2] < near[0] || b[first + 1] > near[3] || b[first + 3] < near[1];
}

function traceArea(context, item, area, frame) {
  for (let i = item.parts[area]; i < item.parts[area + 1]; i += 1) {
    trace(context, item.xy, item.starts[i], item.starts[i + 1], frame);
    context.closePath();
  }
}

// The tiles that touch an area in sight, on a sheet of their own, which then fills the areas. Tiles stand as in
// core/ink/lattice.py.
function paintPattern(context, item, frame, gone, near) {
  const { tile, anchor } = item,
    width = tile.width * PX_PER_MM * BLOCK,
    height = tile.height * PX_PER_MM * BLOCK;
  const left = frame.x + anchor[0] * frame.k,
    top = frame.y - anchor[1] * frame.k;
  const rows = new Map();
  context.beginPath();
  for (let area = 0; area < item.parts.length - 1; area += 1) {
    if (areaHidden(item, area, gone, near)) continue;
    traceArea(context, item, area, frame);
    const box = sight(item, area, near);
    const first = Math.floor((frame.x + box[0] * frame.k - left) / width) - 1,
      last = Math.floor((frame.x + box[2] * frame.k - left) / width) + 1,
      foot = Math.floor((frame.y - box[1] * frame.k - top) / height) + 1;
    for (let row = Math.floor((frame.y - box[3] * frame.k - top) / height) - 1; row <= foot; row += 1) {
      if (!rows.has(row)) rows.set(row, new Set());
      for (let column = first; column <= last; column += 1) rows.get(row).add(column);
    }
  }
  if (!rows.size) return;
  const place = context.getTransform(),
    stamps = stampsOf(tile, place.a, frame.thinnest);
  context.save();
  context.clip("nonzero");
  context.setTransform(1, 0, 0, 1, 0, 0);
  for (const [row, columns] of rows) {
    const y = (top + row * height) * place.d + place.f;
    for (const column of columns) stamps.press(context, (left + column * width) * place.a + place.e, y);
  }
  context.restore();
}

// So many tiles across and down are drawn once for each of so many places within a dot, and pressed at whole dots:
// nobody sees an eighth of a dot, and strokes take many times longer.
const BLOCK = 3,
  WITHIN = 4;

// The stamps of a tile serve every view of it on the same screen.
const STAMPS = new WeakMap();

function stampsOf(tile, dots, thinnest) {
  if (STAMPS.get(tile)?.dots !== dots) STAMPS.set(tile, new Stamps(tile, dots, thinnest));
  return STAMPS.get(tile);
}

class Stamps {
  constructor(tile, dots, thinnest) {
    this.tile = tile;
    this.thinnest = thinnest;
    this.k = PX_PER_MM * dots;
    this.dots = dots;
    this.made = new Map();
    const reach = tile.pieces.map((piece) => overhang(piece, tile));
    this.margin = Math.ceil(Math.max(...reach, 0) * this.k) + 2;
  }

  press(over, x, y) {
    const across = Math.round(x * WITHIN),
      down = Math.round(y * WITHIN);
    const left = Math.floor(across / WITHIN),
      top = Math.floor(down / WITHIN);
    const stamp = this.stamp(across - left * WITHIN, down - top * WITHIN);
    over.drawImage(stamp, left - this.margin, top - this.margin);
  }

  stamp(across, down) {
    const which = across * WITHIN + down;
    if (!this.made.has(which)) {
      const stamp = new OffscreenCanvas(
        Math.ceil(this.tile.width * this.k * BLOCK) + 2 * this.margin + 1,
        Math.ceil(this.tile.height * this.k * BLOCK) + 2 * this.margin + 1,
      );
      const context = /** @type {OffscreenCanvasRenderingContext2D} */ (stamp.getContext("2d"));
      context.scale(this.dots, this.dots);
      const x = (this.margin + across / WITHIN) / this.dots,
        y = (this.margin + down / WITHIN) / this.dots;
      const turns = [];
      for (let row = 0; row < BLOCK; row += 1)
        for (let column = 0; column < BLOCK; column += 1)
          turns.push(x + column * this.tile.width * PX_PER_MM, y + row * this.tile.height * PX_PER_MM, PX_PER_MM, 0);
      paintPieces(context, this.tile.pieces, turns, this.thinnest);
      this.made.set(which, stamp);
    }
    return this.made.get(which);
  }
}

// How far a piece reaches past the edges of its tile, in millimetres.
function overhang(piece, tile) {
  let most = 0;
  for (let i = 0; i < piece.xy.length; i += 2)
    most = Math.max(most, -piece.xy[i], piece.xy[i] - tile.width, -piece.xy[i + 1], piece.xy[i + 1] - tile.height);
  return most + (piece.width || 0);
}

// The part of an area's box that is in sight.
function sight(item, area, near) {
  const b = item.boxes,
    first = item.parts[area] * 4;
  if (!near) return b.slice(first, first + 4);
  return [
    Math.max(b[first], near[0]),
    Math.max(b[first + 1], near[1]),
    Math.min(b[first + 2], near[2]),
    Math.min(b[first + 3], near[3]),
  ];
}

function inside(x, y, near) {
  return !near || (x >= near[0] && x <= near[2] && y >= near[1] && y <= near[3]);
}

// One path for all places of a stamp, piece by piece: a hundred times fewer calls than one mark at a time.
function paintMarks(context, item, frame, gone, near, denominator) {
  const turns = [];
  for (let i = 0; i < item.angles.length; i += 1) {
    const x = item.at[2 * i],
      y = item.at[2 * i + 1];
    if ((gone && item.keys && gone.has(item.keys[i])) || !inside(x, y, near)) continue;
    if (item.largest && denominator > item.largest[i]) continue;
    const angle = (item.angles[i] * Math.PI) / 180;
    turns.push(frame.x + x * frame.k, frame.y - y * frame.k, Math.cos(angle) * PX_PER_MM, Math.sin(angle) * PX_PER_MM);
  }
  paintPieces(context, item.stamp, turns, frame.thinnest);
}

// turns: for each place x and y in pixels, and the cosine and sine of its turn times pixels per millimetre.
function paintPieces(context, pieces, turns, thinnest) {
  for (const piece of pieces) {
    if (piece.t === "stroke") dress(context, piece, thinnest);
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
