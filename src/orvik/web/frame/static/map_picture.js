// A picture of the ink for a view: painted once, laid over others as the view moves on.

import { contextOf } from "./elements.js";
import { paintAsOne, paintItem } from "./paint.js";
import { token } from "./tokens.js";

const SHEET = token("sheet");
const MARGIN = 0.3;
// What reaches into sight from beside it, in pixels.
const BESIDE = 20;
const OVER_UNITS = ["linework", "names", "attitudes", "figures", "labels", "tags", "border"];
// The layer of the stack that an ink layer belongs to.
const STACK = {
  units: "units",
  labels: "units",
  linework: "linework",
  names: "linework",
  border: "linework",
  attitudes: "attitudes",
  figures: "attitudes",
  tags: "attitudes",
};

function marginsOf(view) {
  return [Math.round(view.width * MARGIN), Math.round(view.height * MARGIN)];
}

// A view with a margin all around that can be moved into sight.
export function widened(view) {
  const wide = view.copy();
  const [across, down] = marginsOf(view);
  wide.width = view.width + 2 * across;
  wide.height = view.height + 2 * down;
  return wide;
}

export class MapPicture {
  constructor() {
    this.canvas = document.createElement("canvas");
    this.context = contextOf(this.canvas);
    this.view = null;
  }

  layOver(context, view) {
    const old = this.view;
    if (!old) return;
    const k = old.unitsPerPx / view.unitsPerPx;
    const [gx, gy] = old.toGround(0, 0);
    const [x, y] = view.toScreen(gx, gy);
    context.drawImage(this.canvas, x, y, old.width * k, old.height * k);
  }

  paint(map, view) {
    this.begin(map, view);
    this.paintPart(map, view, [0, 0, view.width, view.height]);
    this.view = view;
  }

  // Paints what lies around a view that another picture shows, a piece at each call: nobody waits for the whole.
  *paintAround(map, near) {
    const view = widened(near.view);
    const [across, down] = marginsOf(near.view);
    const { width, height } = near.view;
    this.begin(map, view);
    this.context.drawImage(near.canvas, across, down, width, height);
    const below = down + height;
    for (const part of [
      [0, down, across, below],
      [across + width, down, view.width, below],
      [0, 0, view.width, down],
      [0, below, view.width, view.height],
    ]) {
      this.paintPart(map, view, part);
      yield;
    }
    this.view = view;
  }

  begin(map, view) {
    this.canvas.width = Math.round(view.width * map.dpr);
    this.canvas.height = Math.round(view.height * map.dpr);
    this.context = contextOf(this.canvas);
    this.context.setTransform(map.dpr, 0, 0, map.dpr, 0, 0);
    this.context.fillStyle = SHEET;
    this.context.fillRect(0, 0, view.width, view.height);
  }

  // part: left, top, right and bottom in pixels of the view.
  paintPart(map, view, part) {
    const { context } = this;
    const { ink, rows, stack, underlays } = map;
    const [west, north] = view.toGround(part[0] - BESIDE, part[1] - BESIDE);
    const [east, south] = view.toGround(part[2] + BESIDE, part[3] + BESIDE);
    const window = [west, south, east, north];
    const layer = (name, over) => ink.each(name, (item, gone) => paintItem(over, item, view, gone, window));
    context.save();
    context.beginPath();
    context.rect(part[0], part[1], part[2] - part[0], part[3] - part[1]);
    context.clip();
    for (const row of rows.filter((u) => !u.multiply)) underlays.paint(context, row, view);
    this.withOpacity(map, context, "units", (inner) => layer("units", inner));
    for (const row of rows.filter((u) => u.multiply)) underlays.paint(context, row, view);
    for (const name of OVER_UNITS) {
      const state = stack[STACK[name]];
      if (!state || !state.shown || !state.opacity) continue;
      if (state.opacity < 1 && name !== "labels") {
        this.withOpacity(map, context, STACK[name], (inner) => layer(name, inner));
      } else layer(name, context);
    }
    context.restore();
  }

  withOpacity(map, context, name, paint) {
    const state = map.stack[name];
    if (state && state.shown && state.opacity) paintAsOne(context, state.opacity, false, paint);
  }
}
