// Paints what is in hand over the map: the drawing, the ring, an attitude that waits, the picked feature.

import { paintItem } from "./paint.js";

const SIGNAL = "#C8431B";
const ERROR = "#A61B1B";

function path(context, view, vertices) {
  context.beginPath();
  vertices.forEach(([x, y], i) => {
    const [px, py] = view.toScreen(x, y);
    if (i) context.lineTo(px, py); else context.moveTo(px, py);
  });
}

function handles(context, view, vertices) {
  context.lineWidth = 1;
  vertices.forEach(([x, y], i) => {
    const [px, py] = view.toScreen(x, y);
    const last = i === vertices.length - 1;
    context.fillStyle = last ? SIGNAL : "#FFFFFF";
    context.strokeStyle = SIGNAL;
    context.fillRect(px - 3, py - 3, 6, 6);
    context.strokeRect(px - 3, py - 3, 6, 6);
  });
}

export function drawHand(context, view, hand) {
  if (hand.picked) picked(context, view, hand.picked);
  if (hand.vertices.length) {
    context.lineWidth = 2;
    context.strokeStyle = hand.crosses ? ERROR : SIGNAL;
    path(context, view, hand.vertices);
    context.stroke();
    if (hand.at) {
      const ends = [hand.vertices.at(-1), hand.at];
      context.setLineDash(hand.crosses ? [2, 3] : [7, 4]);
      path(context, view, hand.table === "areas" && hand.vertices.length > 1 ? [...ends, hand.vertices[0]] : ends);
      context.stroke();
      context.setLineDash([]);
    }
    handles(context, view, hand.vertices);
  }
  if (hand.waiting) waiting(context, view, hand.waiting);
  if (hand.pen && hand.at && !hand.waiting) ring(context, view, hand);
}

function ring(context, view, hand) {
  const [px, py] = view.toScreen(...hand.at);
  const radius = hand.radius / view.unitsPerPx;
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(px, py, Math.max(radius, 3), 0, 2 * Math.PI);
  context.stroke();
  context.strokeStyle = "#22303C";
  context.lineWidth = 1;
  const gap = Math.max(radius, 3) + 4;
  context.beginPath();
  for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) {
    context.moveTo(px + dx * gap, py + dy * gap);
    context.lineTo(px + dx * (gap + 11), py + dy * (gap + 11));
  }
  context.stroke();
  if (hand.held) {
    context.fillStyle = SIGNAL;
    context.fillRect(px - 2.5, py - 2.5, 5, 5);
  }
}

function waiting(context, view, held) {
  const [px, py] = view.toScreen(...held.origin);
  context.strokeStyle = SIGNAL;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(px, py, 15, 0, 2 * Math.PI);
  context.stroke();
  for (const item of held.sign) paintItem(context, { ...item, origin: held.origin }, view, null, view.window(40));
}

function picked(context, view, feature) {
  context.strokeStyle = SIGNAL;
  context.lineWidth = 2.5;
  for (const vertices of feature.paths) {
    if (feature.table === "points") {
      const [px, py] = view.toScreen(...vertices[0]);
      context.beginPath();
      context.arc(px, py, 12, 0, 2 * Math.PI);
      context.stroke();
      continue;
    }
    path(context, view, vertices);
    context.stroke();
    if (vertices.length * 8 < pixels(view, vertices)) handles(context, view, vertices);
  }
}

// Length on the screen, to tell whether single vertices can be seen.
function pixels(view, vertices) {
  let length = 0;
  for (let i = 1; i < vertices.length; i += 1) length += Math.hypot(vertices[i][0] - vertices[i - 1][0], vertices[i][1] - vertices[i - 1][1]);
  return length / view.unitsPerPx;
}
