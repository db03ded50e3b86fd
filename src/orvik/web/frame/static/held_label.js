// Labels on a map or a panel as a pointer takes hold of them: which one is there, and how its box lies.

/**
 * The place of a label's middle, given how ground comes to the screen and how many pixels a millimetre has.
 * @returns {[number, number]}
 */
export function middleOf(label, toScreen, pxPerMm) {
  const [x, y] = toScreen(...label.at);
  return [x + label.offset[0] * pxPerMm, y + label.offset[1] * pxPerMm];
}

// The label at a place on the screen, the one last drawn first; a little beside it counts, too.
export function labelAt(labels, [px, py], toScreen, pxPerMm) {
  for (let i = labels.length - 1; i >= 0; i -= 1) {
    const label = labels[i];
    const [x, y] = middleOf(label, toScreen, pxPerMm);
    const angle = (-label.angle * Math.PI) / 180;
    const dx = px - x,
      dy = py - y;
    const along = Math.abs(dx * Math.cos(angle) - dy * Math.sin(angle)),
      across = Math.abs(dx * Math.sin(angle) + dy * Math.cos(angle));
    if (along <= label.half[0] * pxPerMm + SLACK && across <= label.half[1] * pxPerMm + SLACK) return label;
  }
  return null;
}

// Traces the box of a label about a middle.
export function traceBox(context, label, [x, y], pxPerMm) {
  const angle = (label.angle * Math.PI) / 180;
  const w = label.half[0] * pxPerMm + SLACK,
    h = label.half[1] * pxPerMm + SLACK;
  context.save();
  context.translate(x, y);
  context.rotate(angle);
  context.strokeRect(-w, -h, 2 * w, 2 * h);
  context.restore();
}

// Which way an arrow key moves a label, by how many millimetres; null for another key.
export function stepOf(event) {
  const way = ARROWS[event.key];
  const step = event.shiftKey ? LONG_STEP_MM : STEP_MM;
  return way ? [way[0] * step, way[1] * step] : null;
}

// The label after the one selected, or before it, from left to right and downwards as they are read.
export function neighbour(labels, selected, way, middle) {
  const sorted = labels
    .map((label) => ({ label, at: middle(label) }))
    .sort((one, other) => one.at[1] - other.at[1] || one.at[0] - other.at[0])
    .map(({ label }) => label);
  if (!sorted.length) return null;
  const now = sorted.findIndex((label) => sameKey(label.key, selected?.key));
  const first = way > 0 ? 0 : sorted.length - 1;
  return sorted[now < 0 ? first : (now + way + sorted.length) % sorted.length];
}

export const sameKey = (one, other) => one && other && one.join(" ") === other.join(" ");

const SLACK = 4;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const STEP_MM = 0.5;
const LONG_STEP_MM = 2;
