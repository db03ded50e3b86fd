// A picture of the ink for a view: painted once, laid over others as the view moves on.

import { paintItem } from "./paint.js";
import { token } from "./tokens.js";

const SHEET = token("sheet");
const MARGIN = 0.3;
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

// A view with a margin all around that can be moved into sight.
export function widened(view) {
  const wide = view.copy();
  wide.width = view.width * (1 + 2 * MARGIN);
  wide.height = view.height * (1 + 2 * MARGIN);
  return wide;
}

export class MapPicture {
  constructor() {
    this.canvas = document.createElement("canvas");
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
    const { canvas } = this;
    const { dpr, ink, rows, stack, underlays } = map;
    canvas.width = Math.round(view.width * dpr);
    canvas.height = Math.round(view.height * dpr);
    const context = canvas.getContext("2d");
    context.setTransform(dpr, 0, 0, dpr, 0, 0);
    context.fillStyle = SHEET;
    context.fillRect(0, 0, view.width, view.height);
    const window = view.window(20);
    const layer = (name, over) => ink.each(name, (item, gone) => paintItem(over, item, view, gone, window));
    for (const row of rows.filter((u) => !u.multiply)) underlays.paint(context, row, view);
    this.withStrength(map, context, view, "units", (inner) => layer("units", inner));
    for (const row of rows.filter((u) => u.multiply)) underlays.paint(context, row, view);
    for (const name of OVER_UNITS) {
      const state = stack[STACK[name]];
      if (!state || !state.shown || !state.strength) continue;
      if (state.strength < 1 && name !== "labels") {
        this.withStrength(map, context, view, STACK[name], (inner) => layer(name, inner));
      } else layer(name, context);
    }
    this.view = view;
  }

  // Paints into a layer of its own, then lays that over the map with the layer's strength.
  withStrength(map, context, view, name, paint) {
    const state = map.stack[name];
    if (!state || !state.shown || !state.strength) return;
    if (state.strength >= 1) {
      paint(context);
      return;
    }
    const inner = document.createElement("canvas");
    inner.width = context.canvas.width;
    inner.height = context.canvas.height;
    const own = inner.getContext("2d");
    own.setTransform(map.dpr, 0, 0, map.dpr, 0, 0);
    paint(own);
    context.globalAlpha = state.strength;
    context.drawImage(inner, 0, 0, view.width, view.height);
    context.globalAlpha = 1;
  }
}
