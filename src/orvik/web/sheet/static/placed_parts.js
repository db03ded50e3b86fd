// The parts of the page as the server draws them; those that have not changed since are not asked for again.

import { PanelLayer } from "./panel_layer.js";
import { PartLayer } from "./part_layer.js";

export class PlacedParts {
  constructor(slug, view, guides) {
    this.slug = slug;
    this.view = view;
    this.guides = guides;
    this.all = [];
    this.layers = new Map();
    this.under = 0;
    this.timer = 0;
    this.loading = null;
    this.next = null;
  }

  find(id) {
    return this.all.find((part) => part.id === id);
  }

  // Fetches what has changed; of several asked for meanwhile, one more is carried out for all.
  async load() {
    if (this.loading) {
      this.next ??= this.loading.then(() => {
        this.next = null;
        return this.load();
      });
      return this.next;
    }
    this.loading = this.fetch();
    await this.loading;
    this.loading = null;
    return null;
  }

  async fetch() {
    this.busy(1);
    try {
      const sheet = await this.ask("ink");
      this.refuse("");
      await this.take(sheet);
    } catch (error) {
      this.refuse(error.message);
    }
    this.busy(-1);
    this.view.paint();
  }

  async ask(what) {
    const response = await fetch(`/p/${this.slug}/sheets/${this.view.page.id}/${what}`);
    if (!response.ok) throw new Error(await response.text());
    return response.json();
  }

  // Says that work is under way when it takes longer than a moment.
  busy(more) {
    this.under += more;
    const words = document.getElementById("desk-busy");
    clearTimeout(this.timer);
    if (!this.under) words.hidden = true;
    else
      this.timer = setTimeout(() => {
        words.hidden = false;
      }, 200);
  }

  refuse(words) {
    const refusal = document.getElementById("desk-refusal");
    refusal.textContent = words;
    refusal.hidden = !words;
  }

  async take(sheet) {
    const { view } = this;
    this.all = sheet.parts;
    this.guides.lines = sheet.lines;
    this.guides.own = sheet.guides;
    view.resized(sheet.width, sheet.height, sheet.colour);
    view.hits.replaceChildren();
    await this.fontReady(sheet.font);
    const kept = new Map();
    for (const part of this.all) {
      part.layer = this.layers.get(part.id) ?? this.layerOf(part);
      kept.set(part.id, part.layer);
      this.put(part);
      // What lies on a panel lets the pointer through to it.
      if (part.onPanel) continue;
      part.hit = view.make("rect", view.hits, { class: part.locked ? "hit locked" : "hit", "data-hit": part.id });
      framed(part.hit, part);
    }
    this.layers = kept;
    view.stack([...kept.values()]);
    view.paint();
    // Words and figures come first: what takes a moment would keep them waiting.
    await this.draw((part) => !part.slow);
    const panels = this.all.filter((part) => part.panel);
    await Promise.all([this.draw((part) => part.slow), ...panels.map((part) => part.layer.load(part))]);
    document.getElementById("desk").dataset.revision = sheet.revision;
  }

  // The font file of the sheet, by the name that its letters have in SVG.
  async fontReady(checksum) {
    const name = `own-${checksum}`;
    if (!checksum || [...document.fonts].some((face) => face.family === name)) return;
    const face = new FontFace(name, `url(/p/${this.slug}/fonts/${checksum}.ttf)`);
    document.fonts.add(face);
    await face.load().catch(() => {});
  }

  // All of some parts that has changed and is drawn as SVG, in one answer.
  async draw(these) {
    const wanted = this.all.filter((part) => !part.panel && these(part) && part.key !== part.layer.key);
    if (!wanted.length) return;
    const drawn = await this.ask(`drawn?parts=${wanted.map((part) => part.id).join(",")}`);
    for (const { id, key, layer } of wanted) if (drawn[id] != null) layer.show(drawn[id], key);
  }

  layerOf(part) {
    if (!part.panel) return new PartLayer(part.id);
    return new PanelLayer(
      part.id,
      `/p/${this.slug}/parts/${part.id}/panel-ink`,
      (more) => this.busy(more),
      (words) => this.refuse(words),
    );
  }

  // Where a part is drawn, with all that lies on it, if a hand has taken it somewhere else than it is kept.
  put(part, { x, y } = part) {
    if (part.onPanel) return;
    part.layer.x = x;
    part.layer.y = y;
    for (const other of this.all) {
      if (!other.onPanel || other.panelId !== part.id || !other.layer) continue;
      other.layer.x = x - part.x;
      other.layer.y = y - part.y;
    }
  }
}

/** Gives a rectangle the place and size of a part. */
export function framed(rect, part) {
  for (const name of ["x", "y", "width", "height"]) rect.setAttribute(name, part[name]);
}
