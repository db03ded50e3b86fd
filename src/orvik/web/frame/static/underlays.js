// The underlays: each in sight is fetched as it is sharp in the view, as a picture, as lines, or as both.

import { decode } from "./ink.js";
import { paintItem } from "./paint.js";

export class Underlays {
  // `changed` is called when something has come, `notice` with words when one cannot be shown.
  constructor(slug, changed, notice) {
    this.slug = slug;
    this.changed = changed;
    this.notice = notice;
    this.held = new Map();
  }

  // What is held may no longer be what is so.
  forget() {
    for (const held of this.held.values()) held.asked = "";
  }

  // Painted as one, then laid over what is below with its strength, as a print does it.
  paint(context, row, wide) {
    const held = this.held.get(row.id);
    if (!row.shown || !row.strength || !held) return;
    const whole = held.lines && row.shows.includes("lines") ? this.together(context, row, wide, held) : null;
    context.save();
    context.globalAlpha = row.strength;
    context.globalCompositeOperation = row.multiply ? "multiply" : "source-over";
    if (whole) {
      context.setTransform(1, 0, 0, 1, 0, 0);
      context.drawImage(whole, 0, 0);
    } else this.paintPicture(context, row, wide, held);
    context.restore();
  }

  // Picture and lines on a canvas of their own: lines lie on the picture, and darken it no more than what is below.
  together(context, row, wide, held) {
    const layer = document.createElement("canvas");
    layer.width = context.canvas.width;
    layer.height = context.canvas.height;
    const inner = layer.getContext("2d");
    inner.setTransform(context.getTransform());
    this.paintPicture(inner, row, wide, held);
    const window = wide.window(20);
    for (const item of held.lines) paintItem(inner, item, wide, null, window);
    return layer;
  }

  paintPicture(context, row, wide, held) {
    if (!held.image || !row.shows.includes("picture")) return;
    const [x, y] = wide.toScreen(held.window[0], held.window[3]);
    const [x2, y2] = wide.toScreen(held.window[2], held.window[1]);
    context.drawImage(held.image, x, y, x2 - x, y2 - y);
  }

  ask(rows, wide, dpr) {
    for (const row of rows) {
      if (!row.shown || !row.strength) continue;
      const [west, south, east, north] = wide.window();
      const size = Math.min(1, 4096 / (Math.max(wide.width, wide.height) * dpr)) * dpr;
      const asked = new URLSearchParams({
        west,
        south,
        east,
        north,
        width: String(Math.round(wide.width * size)),
        height: String(Math.round(wide.height * size)),
      }).toString();
      const held = this.held.get(row.id) || {};
      if (held.asked === asked) continue;
      held.asked = asked;
      this.held.set(row.id, held);
      this.fetch(row, held, asked, [west, south, east, north]);
    }
  }

  // Picture and lines come together, so that they never show two places.
  async fetch(row, held, asked, window) {
    const at = `/p/${this.slug}/underlays/${row.id}`;
    const take = async (path) => {
      const response = await fetch(`${path}?${asked}`);
      if (!response.ok) throw new Refused(await response.text());
      return response;
    };
    try {
      const [picture, lines] = await Promise.all([
        row.shows.includes("picture") ? take(`${at}.png`) : null,
        row.shows.includes("lines") ? take(`${at}/ink`) : null,
      ]);
      const image = picture && picture.status !== 204 ? await createImageBitmap(await picture.blob()) : null;
      const ink = lines ? decode(await lines.arrayBuffer()) : null;
      if (held.asked !== asked) return;
      held.image = image;
      held.lines = ink ? ink.layers.flatMap((layer) => layer.items) : null;
      held.window = window;
      this.changed();
    } catch (error) {
      if (held.asked !== asked) return;
      const why = error instanceof Refused ? `: ${error.message}` : " cannot be shown: Orvik does not answer.";
      this.notice(`${row.name}${why}`);
    }
  }
}

// What the server refuses in words.
class Refused extends Error {}
