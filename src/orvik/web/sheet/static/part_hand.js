// Parts in the hand: taken by click and box, dragged, resized, and drawn to lines, edges and equal gaps.

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
  // `place(places)` keeps where parts were put: boxes by number.
  constructor(view, parts, guides, place) {
    this.view = view;
    this.parts = parts;
    this.guides = guides;
    this.place = place;
    // Numbers of the parts selected; the first one stands when others are arranged.
    this.chosen = [];
    /** @type {{ moving: any[], grip?: string, from: number[], start: any[], now: any, guides: any[] } | null} */
    this.drag = null;
    /** @type {{ x: number, y: number, width: number, height: number, from: number[], before: number[] } | null} */
    this.box = null;
  }

  // The selected part, if it is but one.
  get part() {
    return this.chosen.length === 1 ? this.parts.find(this.chosen[0]) : null;
  }

  get all() {
    return this.chosen.map((id) => this.parts.find(id)).filter(Boolean);
  }

  // The part with all others of its group.
  together(id) {
    const group = this.parts.find(id)?.group;
    return group ? this.parts.all.filter((p) => p.group === group).map((p) => p.id) : [id];
  }

  paint(marks) {
    const { view, drag } = this;
    for (const part of this.all)
      framed(view.make("rect", marks, { class: "frame-line" }), drag?.now?.[part.id] || part);
    for (const guide of drag?.guides || []) {
      const { width, height } = view.page;
      if (guide.x != null) view.make("line", marks, { class: "guide", x1: guide.x, x2: guide.x, y1: 0, y2: height });
      else view.make("line", marks, { class: "guide", y1: guide.y, y2: guide.y, x1: 0, x2: width });
    }
    const offer = document.getElementById("offer");
    if (offer) framed(view.make("rect", marks, { class: "offered" }), JSON.parse(offer.dataset.place ?? "{}"));
    if (this.box) framed(view.make("rect", marks, { class: "hand-box" }), this.box);
    const { part } = this;
    if (!part || part.locked || part.onPanel) return;
    const at = drag?.now?.[part.id] || part;
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

  // Takes hold of what is pressed; gives the numbers that are selected then.
  press(event, at) {
    const grip = event.target.dataset?.grip;
    const hit = event.target.dataset?.hit;
    let chosen = this.chosen;
    if (!grip && hit) {
      const met = this.together(Number(hit));
      const there = chosen.includes(met[0]);
      if (event.shiftKey) chosen = there ? chosen.filter((id) => !met.includes(id)) : [...chosen, ...met];
      else if (!there) chosen = met;
    } else if (!grip) {
      chosen = event.shiftKey ? chosen : [];
      this.box = { x: at[0], y: at[1], width: 0, height: 0, from: at, before: chosen };
    }
    const moving = chosen.map((id) => this.parts.find(id)).filter((p) => p && !p.locked && !p.onPanel);
    if ((grip || hit) && moving.length && !event.shiftKey)
      this.drag = { moving, grip, from: at, start: moving.map(box), now: null, guides: [] };
    return chosen;
  }

  move(at, free) {
    if (this.box) return this.moveBox(this.box, at);
    const { drag, view } = this;
    if (!drag) return false;
    const dx = at[0] - drag.from[0],
      dy = at[1] - drag.from[1];
    if (!drag.now && Math.hypot(dx, dy) * view.k < DRAG_PX) return true;
    const now = bounds(drag.start);
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
    drag.guides = free ? [] : this.aligned(drag, now, edges);
    now.width = Math.max(1, now.width);
    now.height = Math.max(1, now.height);
    this.follow(drag, now);
    view.paint();
    return true;
  }

  // Every part selected goes along with what is around all of them.
  follow(drag, now) {
    const before = bounds(drag.start);
    drag.now = {};
    drag.moving.forEach((part, i) => {
      const start = drag.start[i];
      if (drag.grip) {
        drag.now[part.id] = { ...now };
        return;
      }
      const [x, y] = [start.x + now.x - before.x, start.y + now.y - before.y];
      drag.now[part.id] = { ...start, x, y };
      framed(part.hit, drag.now[part.id]);
      this.parts.put(part, { x, y });
    });
  }

  moveBox(taken, at) {
    Object.assign(taken, {
      x: Math.min(at[0], taken.from[0]),
      y: Math.min(at[1], taken.from[1]),
      width: Math.abs(at[0] - taken.from[0]),
      height: Math.abs(at[1] - taken.from[1]),
    });
    this.view.paint();
    return true;
  }

  // Gives the numbers of what a box has selected, or null where none was drawn.
  release() {
    const { drag, box: taken } = this;
    this.drag = null;
    this.box = null;
    if (taken) {
      if (Math.max(taken.width, taken.height) * this.view.k < DRAG_PX) return null;
      const met = this.parts.all.filter((p) => !p.onPanel && within(p, taken)).flatMap((p) => this.together(p.id));
      return [...new Set([...taken.before, ...met])];
    }
    if (drag?.now) this.put(drag.now);
    return null;
  }

  put(places) {
    for (const [id, now] of Object.entries(places)) Object.assign(this.parts.find(Number(id)), now);
    this.place(places);
  }

  nudge(dx, dy) {
    const places = {};
    for (const part of this.all) {
      if (part.locked || part.onPanel) continue;
      places[part.id] = { ...box(part), x: part.x + dx, y: part.y + dy };
      framed(part.hit, places[part.id]);
      this.parts.put(part, places[part.id]);
    }
    if (Object.keys(places).length) this.put(places);
    this.view.paint();
  }

  // Lines of the page, edges and middles of other parts, and equal gaps draw the dragged part to them.
  aligned(drag, now, edges) {
    const reach = REACH_PX / this.view.k;
    const guides = [];
    const moving = new Set(drag.moving);
    const others = this.parts.all.filter((p) => !moving.has(p) && !p.onPanel);
    for (const axis of ["x", "y"]) {
      const size = axis === "x" ? "width" : "height";
      const targets = [0, this.view.page[size], ...this.guides.along(axis)];
      for (const p of others) targets.push(p[axis], p[axis] + p[size] / 2, p[axis] + p[size]);
      /** @type {{ gap: number, target: number, fraction: number }[]} */
      const offers = [];
      const offer = (gap, target, fraction) => {
        if (Math.abs(gap) < reach) offers.push({ gap, target, fraction });
      };
      for (const fraction of edges[axis]) {
        const value = now[axis] + now[size] * fraction;
        for (const target of targets) offer(target - value, target, fraction);
      }
      if (!edges.resize) for (const start of evenStarts(now, others, axis)) offer(start - now[axis], start, 0);
      if (!offers.length) continue;
      const best = offers.reduce((one, other) => (Math.abs(other.gap) < Math.abs(one.gap) ? other : one));
      if (!edges.resize) now[axis] += best.gap;
      else if (best.fraction === 0) [now[axis], now[size]] = [now[axis] + best.gap, now[size] - best.gap];
      else now[size] += best.gap;
      guides.push({ [axis]: best.target });
    }
    return guides;
  }
}

// Where a part would begin so that its gaps to its neighbours in a row are even.
function evenStarts(now, others, axis) {
  const [size, across, deep] = axis === "x" ? ["width", "y", "height"] : ["height", "x", "width"];
  const row = others
    .filter((p) => p[across] < now[across] + now[deep] && now[across] < p[across] + p[deep])
    .sort((one, other) => one[axis] - other[axis]);
  const starts = [];
  for (let i = 0; i + 1 < row.length; i += 1) {
    const end = row[i][axis] + row[i][size];
    const gap = row[i + 1][axis] - end;
    if (gap < 0) continue;
    starts.push(row[i + 1][axis] + row[i + 1][size] + gap, row[i][axis] - gap - now[size]);
    if (gap > now[size]) starts.push(end + (gap - now[size]) / 2);
  }
  return starts;
}

function box({ x, y, width, height }) {
  return { x, y, width, height };
}

// The box around several.
function bounds(boxes) {
  const x = Math.min(...boxes.map((b) => b.x)),
    y = Math.min(...boxes.map((b) => b.y));
  return {
    x,
    y,
    width: Math.max(...boxes.map((b) => b.x + b.width)) - x,
    height: Math.max(...boxes.map((b) => b.y + b.height)) - y,
  };
}

function within(part, taken) {
  return (
    part.x >= taken.x &&
    part.y >= taken.y &&
    part.x + part.width <= taken.x + taken.width &&
    part.y + part.height <= taken.y + taken.height
  );
}
