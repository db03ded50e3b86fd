// The parts of the page as the server draws them; those that have not changed since are not asked for again.

export class PlacedParts {
  constructor(slug, view, guides) {
    this.slug = slug;
    this.view = view;
    this.guides = guides;
    this.all = [];
    this.loading = null;
    this.next = null;
  }

  find(id) {
    return this.all.find((part) => part.id === id);
  }

  // Fetches what has changed; of several wishes while one is on its way, one more is carried out for all of them.
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
    const busy = document.getElementById("desk-busy");
    const refusal = document.getElementById("desk-refusal");
    const timer = setTimeout(() => {
      busy.hidden = false;
    }, 200);
    try {
      const have = this.all.map((part) => part.key).join(",");
      const response = await fetch(`/p/${this.slug}/sheets/${this.view.page.id}/ink?have=${have}`);
      if (!response.ok) throw new Error(await response.text());
      this.take(await response.json());
      refusal.hidden = true;
    } catch (error) {
      refusal.textContent = error.message;
      refusal.hidden = false;
    }
    clearTimeout(timer);
    busy.hidden = true;
    this.view.paint();
  }

  take(sheet) {
    const { view } = this;
    const before = new Map(this.all.map((part) => [part.id, part]));
    this.all = sheet.parts;
    this.guides.lines = sheet.lines;
    this.guides.own = sheet.guides;
    view.resized(sheet.width, sheet.height, sheet.colour);
    view.inks.replaceChildren();
    for (const part of this.all) {
      const old = before.get(part.id);
      if (part.svg == null && old) part.element = old.element;
      else {
        part.element = view.make("g", view.inks, { "data-part": part.id });
        part.element.replaceChildren(...view.drawn(part.svg ?? ""));
      }
      delete part.svg;
      part.element.removeAttribute("transform");
      part.element.querySelector(".hit")?.remove();
      view.inks.append(part.element);
      // What lies on a panel lets the pointer through to it.
      if (part.onPanel) continue;
      part.hit = view.make("rect", part.element, { class: part.locked ? "hit locked" : "hit", "data-hit": part.id });
      framed(part.hit, part);
    }
    document.getElementById("desk").dataset.revision = sheet.revision;
  }
}

/** Gives a rectangle the place and size of a part. */
export function framed(rect, part) {
  for (const name of ["x", "y", "width", "height"]) rect.setAttribute(name, part[name]);
}
