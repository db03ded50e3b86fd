// Parts in the hand: dragged, resized and drawn to edges and middles, with the marks that show it.

import { framed } from "./placed_parts.js";

// Pixels within which an edge is drawn to another, and from which a press is a drag.
const REACH_PX = 6,
  DRAG_PX = 3,
  GRIP_PX = 8;
/** @type {[string, number, number][]} */
const GRIPS = [
  ["nw", 0, 0],
  ["n", 0.5, 0],
  ["ne", 1, 0],
  ["e", 1, 0.5],
  ["se", 1, 1],
  ["s", 0.5, 1],
  ["sw", 0, 1],
  ["w", 0, 0.5],
];

export class PartHand {
  // `place(part, box)` keeps where a part was put.
  constructor(view, parts, place) {
    this.view = view;
    this.parts = parts;
    this.place = place;
    this.chosen = null;
    this.drag = null;
  }

  get part() {
    return this.parts.find(this.chosen);
  }

  paint(marks) {
    const { part, view, drag } = this;
    if (!part) return;
    const at = drag?.now || part;
    framed(view.make("rect", marks, { class: "frame-line" }), at);
    for (const guide of drag?.guides || []) {
      const { width, height } = view.page;
      if (guide.x != null) view.make("line", marks, { class: "guide", x1: guide.x, x2: guide.x, y1: 0, y2: height });
      else view.make("line", marks, { class: "guide", y1: guide.y, y2: guide.y, x1: 0, x2: width });
    }
    if (part.locked || part.onPanel) return;
    const size = GRIP_PX / view.k;
    for (const [name, fx, fy] of GRIPS)
      view.make("rect", marks, {
        class: `grip grip-${name}`,
        "data-grip": name,
        width: size,
        height: size,
        x: at.x + at.width * fx - size / 2,
        y: at.y + at.height * fy - size / 2,
      });
  }

  press(event, at) {
    const grip = event.target.dataset?.grip;
    const hit = event.target.dataset?.hit;
    const part = this.parts.find(grip ? this.chosen : hit ? Number(hit) : null);
    if (part && !part.locked) this.drag = { part, grip, from: at, start: box(part), now: null, guides: [] };
    return part?.id ?? null;
  }

  move(at, free) {
    const { drag, view } = this;
    if (!drag) return false;
    const dx = at[0] - drag.from[0],
      dy = at[1] - drag.from[1];
    if (!drag.now && Math.hypot(dx, dy) * view.k < DRAG_PX) return true;
    const now = { ...drag.start };
    const grip = drag.grip || "";
    const edges = { x: [0, 0.5, 1], y: [0, 0.5, 1], resize: Boolean(grip) };
    if (!grip) {
      now.x += dx;
      now.y += dy;
    } else {
      edges.x = grip.includes("w") ? [0] : grip.includes("e") ? [1] : [];
      edges.y = grip.includes("n") ? [0] : grip.includes("s") ? [1] : [];
      if (grip.includes("w")) [now.x, now.width] = [now.x + dx, now.width - dx];
      if (grip.includes("e")) now.width += dx;
      if (grip.includes("n")) [now.y, now.height] = [now.y + dy, now.height - dy];
      if (grip.includes("s")) now.height += dy;
    }
    drag.guides = free ? [] : this.aligned(now, drag.part, edges);
    now.width = Math.max(1, now.width);
    now.height = Math.max(1, now.height);
    drag.now = now;
    if (!grip)
      drag.part.element.setAttribute("transform", `translate(${now.x - drag.start.x} ${now.y - drag.start.y})`);
    view.paint();
    return true;
  }

  release() {
    const done = this.drag;
    this.drag = null;
    if (done?.now) this.put(done.part, done.now);
  }

  put(part, now) {
    Object.assign(part, now);
    this.place(part, now);
  }

  nudge(dx, dy) {
    const { part } = this;
    if (!part || part.locked || part.onPanel) return;
    this.put(part, { ...box(part), x: part.x + dx, y: part.y + dy });
    if (part.hit) framed(part.hit, part);
    this.view.paint();
  }

  // Edges and middles of the page and the other parts draw the dragged part to them.
  aligned(now, part, edges) {
    const reach = REACH_PX / this.view.k;
    const guides = [];
    const others = this.parts.all.filter((p) => p.id !== part.id && !p.onPanel);
    for (const axis of ["x", "y"]) {
      const size = axis === "x" ? "width" : "height";
      const whole = this.view.page[size];
      const targets = [
        0,
        whole / 2,
        whole,
        ...others.flatMap((p) => [p[axis], p[axis] + p[size] / 2, p[axis] + p[size]]),
      ];
      let best = null;
      for (const fraction of edges[axis]) {
        const value = now[axis] + now[size] * fraction;
        for (const target of targets) {
          const gap = target - value;
          if (Math.abs(gap) < reach && (!best || Math.abs(gap) < Math.abs(best.gap))) best = { gap, target, fraction };
        }
      }
      if (!best) continue;
      if (!edges.resize) now[axis] += best.gap;
      else if (best.fraction === 0) [now[axis], now[size]] = [now[axis] + best.gap, now[size] - best.gap];
      else now[size] += best.gap;
      guides.push({ [axis]: best.target });
    }
    return guides;
  }
}

function box({ x, y, width, height }) {
  return { x, y, width, height };
}
