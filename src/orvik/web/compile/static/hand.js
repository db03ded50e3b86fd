// Paints what is selected over the map: the drawing, the ring, an attitude that waits, the features selected.

import { paintItem } from "../frame/paint.js";
import { token } from "../frame/tokens.js";

const ERROR = token("error");
const INK = token("ink");
const SHEET = token("sheet");
const SIGNAL = token("signal");

function path(context, view, vertices) {
  context.beginPath();
  vertices.forEach(([x, y], i) => {
    const [px, py] = view.toScreen(x, y);
    if (i) context.lineTo(px, py);
    else context.moveTo(px, py);
  });
}

function handles(context, view, vertices, filled) {
  context.lineWidth = 1;
  context.strokeStyle = SIGNAL;
  vertices.forEach(([x, y], i) => {
    const [px, py] = view.toScreen(x, y);
    context.fillStyle = filled(i) ? SIGNAL : SHEET;
    context.fillRect(px - 3, py - 3, 6, 6);
    context.strokeRect(px - 3, py - 3, 6, 6);
  });
}

export function drawHand(context, view, hand) {
  if (hand.plane) pencil(context, view, hand.plane);
  for (const place of hand.places) cross(context, view, place);
  if (hand.lit) lit(context, view, hand.lit);
  for (const feature of hand.picked) picked(context, view, feature, hand);
  if (hand.drag && hand.at) dragged(context, view, hand);
  if (hand.vertices.length) drawing(context, view, hand);
  if (hand.trace) {
    context.strokeStyle = SIGNAL;
    context.lineWidth = 2;
    path(context, view, hand.trace);
    context.stroke();
  }
  if (hand.box) box(context, hand.box);
  if (hand.begun) cross(context, view, hand.begun);
  if (hand.waiting) waiting(context, view, hand);
  if (hand.at && !hand.waiting && (hand.pen || hand.purpose || hand.drag || hand.tool)) ring(context, view, hand);
}

// The trace of a plane, as pencil: a thin line with light around it, on any ground.
function pencil(context, view, lines) {
  for (const [style, width, dash] of [
    [SHEET, 3.5, []],
    [INK, 1.2, [8, 3]],
  ]) {
    context.strokeStyle = style;
    context.lineWidth = width;
    context.setLineDash(dash);
    for (const line of lines) {
      path(context, view, line);
      context.stroke();
    }
  }
  context.setLineDash([]);
}

function drawing(context, view, hand) {
  const { vertices } = hand;
  context.lineWidth = 2;
  context.strokeStyle = hand.crosses ? ERROR : SIGNAL;
  if (hand.line) {
    path(context, view, hand.line);
    context.stroke();
  } else {
    path(context, view, vertices);
    context.stroke();
    if (hand.at) {
      context.setLineDash(hand.crosses ? [2, 3] : [7, 4]);
      const ends = [vertices.at(-1), hand.at];
      path(context, view, hand.closes && vertices.length > 1 ? [...ends, vertices[0]] : ends);
      context.stroke();
      context.setLineDash([]);
    }
  }
  // Handles closer than they are wide would hide the line.
  if (vertices.length * 9 < pixels(view, vertices) || vertices.length < 4)
    handles(context, view, vertices, (i) => i === vertices.length - 1);
  else handles(context, view, [vertices[0], vertices.at(-1)], (i) => i === 1);
}

function box(context, [[ax, ay], [bx, by]]) {
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1;
  context.setLineDash([4, 3]);
  context.strokeRect(Math.min(ax, bx) + 0.5, Math.min(ay, by) + 0.5, Math.abs(bx - ax), Math.abs(by - ay));
  context.setLineDash([]);
}

function cross(context, view, place) {
  const [px, py] = view.toScreen(...place);
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(px - 6, py - 6);
  context.lineTo(px + 6, py + 6);
  context.moveTo(px - 6, py + 6);
  context.lineTo(px + 6, py - 6);
  context.stroke();
}

function ring(context, view, hand) {
  const [px, py] = view.toScreen(...hand.at);
  const radius = hand.radius / view.unitsPerPx;
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.beginPath();
  // Where heights are exaggerated, what is held reaches as far up as along.
  const high = Math.max(radius * view.vertical, 3);
  context.ellipse(px, py, Math.max(radius, 3), high, 0, 0, 2 * Math.PI);
  context.stroke();
  context.strokeStyle = INK;
  context.lineWidth = 1;
  const gap = Math.max(radius, 3) + 4;
  context.beginPath();
  for (const [dx, dy] of [
    [1, 0],
    [-1, 0],
    [0, 1],
    [0, -1],
  ]) {
    context.moveTo(px + dx * gap, py + dy * gap);
    context.lineTo(px + dx * (gap + 11), py + dy * (gap + 11));
  }
  context.stroke();
  if (hand.held) {
    context.fillStyle = SIGNAL;
    context.fillRect(px - 2.5, py - 2.5, 5, 5);
  }
}

function waiting(context, view, hand) {
  const held = hand.waiting;
  const [px, py] = view.toScreen(...held.origin);
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(px, py, 15, 0, 2 * Math.PI);
  context.stroke();
  for (const item of held.symbol) paintItem(context, { ...item, origin: held.origin }, view, null, view.window(40));
  if (hand.along?.length) {
    for (const place of hand.along) cross(context, view, place);
    path(context, view, hand.along);
    context.stroke();
  }
}

// The two spans beside a vertex that is being moved, or the one that gets a new vertex.
function dragged(context, view, hand) {
  const { path: number, vertex, insert } = hand.drag;
  const places = hand.picked[0].paths[number];
  const last = places.length - 1;
  const closed = places[0][0] === places[last][0] && places[0][1] === places[last][1];
  const before = insert ? vertex : vertex > 0 ? vertex - 1 : closed ? last - 1 : null;
  const after = insert ? vertex + 1 : vertex < last ? vertex + 1 : closed ? 1 : null;
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.setLineDash([7, 4]);
  path(
    context,
    view,
    [before, null, after].filter((i, n) => n === 1 || i != null).map((i) => (i == null ? hand.at : places[i])),
  );
  context.stroke();
  context.setLineDash([]);
}

// The feature of the row that one is at: a broad faint line below what is selected.
function lit(context, view, feature) {
  context.strokeStyle = SIGNAL;
  context.globalAlpha = 0.4;
  context.lineWidth = 6;
  for (const vertices of feature.paths) {
    if (feature.table === "points") {
      const [px, py] = view.toScreen(...vertices[0]);
      context.beginPath();
      context.arc(px, py, 15, 0, 2 * Math.PI);
    } else path(context, view, vertices);
    context.stroke();
  }
  context.globalAlpha = 1;
}

function picked(context, view, feature, hand) {
  context.strokeStyle = SIGNAL;
  context.lineWidth = 2.5;
  feature.paths.forEach((vertices, number) => {
    if (feature.table === "points") {
      const [px, py] = view.toScreen(...vertices[0]);
      context.beginPath();
      context.arc(px, py, 12, 0, 2 * Math.PI);
      context.stroke();
      return;
    }
    path(context, view, vertices);
    context.strokeStyle = SIGNAL;
    context.stroke();
    if (hand.picked.length > 1) return;
    const held = feature.knots || vertices.map((_, i) => i);
    const at = hand.vertex && hand.vertex.path === number ? hand.vertex.vertex : -1;
    if (handlesShown(view, feature, vertices))
      handles(
        context,
        view,
        held.map((i) => vertices[i]),
        (i) => held[i] === at,
      );
  });
}

// Whether the vertices of a path are far enough apart to be shown, and so to be taken hold of.
export function handlesShown(view, feature, vertices) {
  const count = feature.knots ? feature.knots.length : vertices.length;
  return count * 8 < pixels(view, vertices);
}

// Length on the screen, to tell whether single vertices can be seen.
function pixels(view, vertices) {
  let length = 0;
  for (let i = 1; i < vertices.length; i += 1)
    length += Math.hypot(vertices[i][0] - vertices[i - 1][0], vertices[i][1] - vertices[i - 1][1]);
  return length / view.unitsPerPx;
}
