// The labels of a panel: while they are being moved, each has a box on the page that is dragged or nudged.

import { neighbour, sameKey, stepOf } from "../frame/held_label.js";

export class PanelLabels {
  // make(name, parent, attributes) makes an element of the page; repaint() has marks drawn anew.
  constructor(slug, make, repaint) {
    this.slug = slug;
    this.make = make;
    this.repaint = repaint;
    this.panel = null;
    this.labels = [];
    this.symbolScale = 1;
    this.selected = null;
    this.drag = null;
    // What was refused goes back to where it stands.
    document.body.addEventListener("htmx:responseError", () => {
      this.drag = null;
      this.repaint();
    });
  }

  get on() {
    return this.panel !== null;
  }

  async begin(panel) {
    this.panel = panel;
    this.selected = null;
    await this.read();
  }

  end() {
    this.panel = null;
    this.labels = [];
    this.selected = this.drag = null;
    document.getElementById("panel-labels")?.setAttribute("aria-pressed", "false");
    for (const id of ["label-slip", "label-lists"]) document.getElementById(id)?.replaceChildren();
    this.repaint();
  }

  async read() {
    if (!this.on) return;
    await htmx.ajax("GET", `/p/${this.slug}/parts/${this.panel}/labels`, { target: "#label-lists" });
    const places = document.getElementById("panel-places");
    if (!places || !this.on) return;
    this.labels = JSON.parse(places.dataset.labels ?? "[]");
    this.toGround = JSON.parse(places.dataset.toGround ?? "[1,0,0,0,1,0]");
    this.symbolScale = Number(places.dataset.symbolScale);
    this.drag = null;
    this.selected = this.labels.find((label) => sameKey(label.key, this.selected?.key)) || null;
    document.getElementById("panel-labels")?.setAttribute("aria-pressed", "true");
    this.repaint();
  }

  /** @returns {[number, number]} */
  middle(label) {
    const by = this.drag && this.drag.label === label ? this.drag.by : [0, 0];
    return [label.at[0] + label.offset[0] + by[0], label.at[1] + label.offset[1] + by[1]];
  }

  paint(marks) {
    if (!this.on) return;
    this.labels.forEach((label, i) => {
      const [x, y] = this.middle(label);
      const [w, h] = [label.half[0] + 0.5, label.half[1] + 0.5];
      this.make("rect", marks, {
        class: label === this.selected ? "label-box selected" : "label-box",
        "data-label": i,
        x: -w,
        y: -h,
        width: 2 * w,
        height: 2 * h,
        transform: `translate(${x} ${y}) rotate(${label.angle})`,
      });
    });
  }

  // Whether a press on the page was one on a label, or is otherwise not the page's own while labels are moved.
  press(event, at) {
    if (!this.on) return false;
    const label = this.labels[event.target.dataset?.label];
    this.take(label || null);
    if (label) this.drag = { label, from: at, by: [0, 0] };
    return true;
  }

  move(at) {
    if (!this.drag || this.drag.kept) return Boolean(this.drag);
    this.drag.by = [at[0] - this.drag.from[0], at[1] - this.drag.from[1]];
    this.repaint();
    return true;
  }

  release() {
    if (!this.drag || this.drag.kept) return Boolean(this.drag);
    if (Math.hypot(...this.drag.by) < 0.3) this.drag = null;
    else {
      const { label } = this.drag;
      const at = this.middle(label);
      this.drag.kept = true;
      this.keepAt(label, at);
    }
    return true;
  }

  take(label) {
    this.selected = label;
    if (label) htmx.ajax("GET", `${this.url(label)}?scope=${this.panel}`, { target: "#label-slip", swap: "innerHTML" });
    else document.getElementById("label-slip")?.replaceChildren();
    this.repaint();
  }

  url(label) {
    return `/p/${this.slug}/symbols/labels/${label.key.join("/")}`;
  }

  keepAt(label, [x, y]) {
    const [a, b, c, d, e, f] = this.toGround;
    const place =
      label.keptBy === "offset"
        ? [(x - label.at[0]) / this.symbolScale, (y - label.at[1]) / this.symbolScale]
        : [a * x + b * y + c, d * x + e * y + f];
    this.keep(label, { x: place[0].toFixed(3), y: place[1].toFixed(3) });
  }

  keep(label, values) {
    const all = { ...values, scope: this.panel };
    return htmx.ajax("POST", this.url(label), { values: all, target: "#label-slip", swap: "innerHTML" });
  }

  next(way) {
    const label = neighbour(this.labels, this.selected, way, (one) => this.middle(one));
    if (label) this.take(label);
  }

  // Whether a key was one for labels.
  key(event) {
    if (!this.on) return false;
    const step = stepOf(event);
    if (event.key === "Escape") {
      if (this.selected) this.take(null);
      else this.end();
    } else if (event.key === "n" || event.key === "b") this.next(event.key === "n" ? 1 : -1);
    else if (this.selected && step) {
      event.preventDefault();
      const [x, y] = this.middle(this.selected);
      this.keepAt(this.selected, [x + step[0], y + step[1]]);
    } else if (this.selected && event.key === "Delete") this.keep(this.selected, { hidden: "1" });
    else return Boolean(step) || event.key === "Delete";
    return true;
  }
}
