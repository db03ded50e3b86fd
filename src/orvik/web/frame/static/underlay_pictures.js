// The pictures below the linework: each underlay in sight, fetched sharp for the view.

export class UnderlayPictures {
  // `changed` is called when a picture has come, `notice` with words when one cannot be shown.
  constructor(slug, changed, notice) {
    this.slug = slug;
    this.changed = changed;
    this.notice = notice;
    this.held = new Map();
  }

  // The pictures that are held may no longer be those of now.
  forget() {
    for (const held of this.held.values()) held.asked = "";
  }

  paint(context, row, wide) {
    const held = this.held.get(row.id);
    if (!row.shown || !row.strength || !held || !held.image) return;
    const [x, y] = wide.toScreen(held.window[0], held.window[3]);
    const [x2, y2] = wide.toScreen(held.window[2], held.window[1]);
    context.globalAlpha = row.strength;
    context.globalCompositeOperation = row.multiply ? "multiply" : "source-over";
    context.drawImage(held.image, x, y, x2 - x, y2 - y);
    context.globalAlpha = 1;
    context.globalCompositeOperation = "source-over";
  }

  // Asks for each underlay in sight as it would be sharp in this view.
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

  async fetch(row, held, asked, window) {
    try {
      const response = await fetch(`/p/${this.slug}/underlays/${row.id}.png?${asked}`);
      if (held.asked !== asked) return;
      if (response.status === 204) {
        held.image = null;
        return;
      }
      if (!response.ok) {
        this.notice(`${row.name}: ${await response.text()}`);
        return;
      }
      const image = await createImageBitmap(await response.blob());
      if (held.asked !== asked) return;
      held.image = image;
      held.window = window;
      this.changed();
    } catch {
      this.notice(`${row.name} cannot be shown: Orvik does not answer.`);
    }
  }
}
