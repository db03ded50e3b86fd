// The underlays: each in sight is fetched as it is sharp in the view, as a picture, as lines, or as both.

import { decode } from "./ink.js";
import { paintAsOne, paintItem } from "./paint.js";

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

  // Painted as one, as a print does it: lines lie on the picture, and darken it no more than what is below.
  paint(context, row, wide) {
    const held = this.held.get(row.id);
    if (!row.shown || !row.opacity || !held) return;
    paintAsOne(context, row.opacity, row.multiply, (inner) => {
      this.paintPicture(inner, row, wide, held);
      if (!held.lines || !row.shows.includes("lines")) return;
      const window = wide.window(20);
      for (const item of held.lines) paintItem(inner, item, wide, null, window);
    });
  }

  paintPicture(context, row, wide, held) {
    if (!held.image || !row.shows.includes("picture")) return;
    const [x, y] = wide.toScreen(held.window[0], held.window[3]);
    const [x2, y2] = wide.toScreen(held.window[2], held.window[1]);
    context.drawImage(held.image, x, y, x2 - x, y2 - y);
  }

  ask(rows, wide, dpr) {
    for (const row of rows) {
      if (!row.shown || !row.opacity) continue;
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
