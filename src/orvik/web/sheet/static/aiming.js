// Aiming: a state of its own in which the wheel and the hand move the ground inside one panel, and nothing else.

import { spaced } from "../frame/figures.js";

const KEEP_MS = 350;
const ARROW_MM = 1;

export class Aiming {
  constructor(slug, view, parts) {
    this.slug = slug;
    this.view = view;
    this.parts = parts;
    this.panel = null;
    // Where the panel is aimed at now, and where it was when its ink was drawn.
    this.now = null;
    this.drag = null;
    this.timer = 0;
    this.bubble = document.getElementById("aim-bubble");
    document.body.addEventListener("htmx:afterSwap", (event) => {
      if (event.detail.target.id === "aim-slip") this.read();
    });
  }

  get on() {
    return this.panel !== null;
  }

  async begin(id) {
    await this.end();
    this.panel = id;
    await htmx.ajax("GET", `/p/${this.slug}/parts/${id}/aim`, { target: "#aim-slip", swap: "innerHTML" });
    if (!this.now) {
      this.panel = null;
      return;
    }
    document.querySelector(".frame").classList.add("aiming");
    document.getElementById("aim-name").textContent = `Aiming ${this.now.label}`;
    this.view.ground = (edge) => this.axis(edge);
    this.offer();
    this.view.field.focus({ preventScroll: true });
    this.view.paint();
  }

  // Puts the page back in its place; what was aimed is kept.
  async end() {
    if (!this.on) return;
    if (this.timer) await this.keep();
    this.parts.find(this.panel)?.layer.endAim();
    this.panel = null;
    this.now = null;
    this.drag = null;
    this.bubble.hidden = true;
    this.view.ground = null;
    document.querySelector(".frame").classList.remove("aiming");
    document.getElementById("aim-slip").replaceChildren();
    document.getElementById("aim-targets").replaceChildren();
    this.view.paint();
  }

  read() {
    const state = document.getElementById("aim-state");
    if (!state || !this.on || this.timer) return;
    this.now = JSON.parse(state.dataset.aim ?? "null");
    this.draft();
  }

  // What Compile shows and has selected, which only this browser knows.
  offer() {
    const seen = this.working();
    const row = document.getElementById("aim-working");
    row.hidden = !seen;
    if (seen) {
      const scale = spaced(seen.denominator);
      document.getElementById("aim-working-scale").textContent = `1:${scale}`;
    }
    const hand = JSON.parse(this.selected());
    document.getElementById("aim-hand").hidden = !hand.length;
    document.getElementById("aim-upright").hidden = !hand.some(([table]) => table === "lines");
    document.getElementById("aim-hand-count").textContent = hand.length ? `${hand.length}` : "";
  }

  working() {
    const key = `orvik-view-compile-${document.getElementById("desk").dataset.crs}-${this.slug}`;
    const seen = JSON.parse(sessionStorage.getItem(key) || "null");
    return seen && Number.isFinite(seen.x) ? seen : null;
  }

  selected() {
    return sessionStorage.getItem(`orvik-hand-${this.slug}`) || "[]";
  }

  ask(what, values) {
    return htmx.ajax("POST", `/p/${this.slug}/parts/${this.panel}/aim${what}`, {
      target: "#aim-slip",
      swap: "innerHTML",
      values,
    });
  }

  // From the ground to the page, as it is aimed now.
  toPage() {
    const { scale, centre, rotation, mmPerMetre } = this.now;
    const part = this.parts.find(this.panel);
    const k = mmPerMetre / scale;
    const angle = (rotation * Math.PI) / 180;
    const cos = k * Math.cos(angle),
      sin = k * Math.sin(angle);
    const x = part.x + part.width / 2,
      y = part.y + part.height / 2;
    return [cos, sin, x - cos * centre[0] - sin * centre[1], sin, -cos, y - sin * centre[0] + cos * centre[1]];
  }

  toGround([x, y]) {
    const [a, b, c, d, e, f] = this.toPage();
    const size = a * e - b * d;
    return [(e * (x - c) - b * (y - f)) / size, (a * (y - f) - d * (x - c)) / size];
  }

  // The ground along one edge of the page, through the middle of the panel.
  axis(edge) {
    const part = this.parts.find(this.panel);
    const middle = [part.x + part.width / 2, part.y + part.height / 2];
    const along = edge === "top" ? 0 : 1;
    const place = (mm) => this.toGround(along ? [middle[0], mm] : [mm, middle[1]]);
    const [one, other] = [place(0), place(1)];
    const which = Math.abs(other[0] - one[0]) >= Math.abs(other[1] - one[1]) ? 0 : 1;
    const per = other[which] - one[which];
    return { of: (mm) => one[which] + per * mm, at: (v) => (v - one[which]) / per, letter: "EN"[which] };
  }

  // Shows the ink that is there where it belongs now, until the sharp one has come.
  draft() {
    const part = this.parts.find(this.panel);
    if (!part) return;
    part.layer.aim(this.view, this.toPage());
    this.tell();
    this.view.rulers();
  }

  paint(marks) {
    const part = this.on && this.parts.find(this.panel);
    if (!part) return;
    const far = 4000;
    const hole = `M${part.x} ${part.y}h${part.width}v${part.height}h${-part.width}z`;
    const around = `M${-far} ${-far}h${2 * far}v${2 * far}h${-2 * far}z`;
    this.view.make("path", marks, { class: "aim-shade", d: around + hole, "fill-rule": "evenodd" });
    const { x, y, width, height } = part;
    this.view.make("rect", marks, { class: "aim-frame", x, y, width, height });
  }

  within([x, y]) {
    const part = this.parts.find(this.panel);
    return x >= part.x && y >= part.y && x <= part.x + part.width && y <= part.y + part.height;
  }

  press(at) {
    if (!this.within(at)) {
      this.end();
      return;
    }
    this.drag = { from: at, centre: this.now.centre };
  }

  move(event, at) {
    this.pointer = at;
    this.event = event;
    if (this.drag) {
      const before = this.toGround(this.drag.from);
      const after = this.toGround(at);
      this.now.centre = [this.now.centre[0] + before[0] - after[0], this.now.centre[1] + before[1] - after[1]];
      this.drag.from = at;
      this.drag.moved = true;
      this.soon();
    }
    this.tell();
  }

  release() {
    const { drag } = this;
    this.drag = null;
    if (drag?.moved) this.keep();
  }

  wheel(event, at) {
    if (!this.within(at)) return;
    this.pointer = at;
    this.event = event;
    if (event.shiftKey) this.scaleTo(this.now.scale * Math.exp((event.deltaY || event.deltaX) * 0.0008), at, false);
    else this.step(Math.sign(event.deltaY), at);
  }

  // One round scale further: in for less than nought, out for more.
  step(way, at = null) {
    const { scales, scale } = this.now;
    const next = way < 0 ? scales.filter((s) => s < scale - 0.5).pop() : scales.find((s) => s > scale + 0.5);
    if (next) this.scaleTo(next, at, true);
  }

  scaleTo(scale, at, round) {
    const part = this.parts.find(this.panel);
    const place = at || [part.x + part.width / 2, part.y + part.height / 2];
    const before = this.toGround(place);
    const power = 10 ** Math.max(0, Math.floor(Math.log10(scale)) - 2);
    const [least, most] = [this.now.scales[0], this.now.scales.at(-1)];
    this.now.scale = Math.min(most, Math.max(least, round ? scale : Math.round(scale / power) * power));
    const after = this.toGround(place);
    this.now.centre = [this.now.centre[0] + before[0] - after[0], this.now.centre[1] + before[1] - after[1]];
    this.soon();
    this.later();
  }

  nudge(dx, dy, far) {
    const k = (ARROW_MM * far * this.now.scale) / this.now.mmPerMetre;
    const angle = (this.now.rotation * Math.PI) / 180;
    const cos = Math.cos(angle) * k,
      sin = Math.sin(angle) * k;
    this.now.centre = [this.now.centre[0] + cos * dx + sin * dy, this.now.centre[1] + sin * dx - cos * dy];
    this.soon();
    this.later();
  }

  // At most one draft for each frame of the screen.
  soon() {
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (this.on && this.now) this.draft();
    });
  }

  // Kept when the hand rests.
  later() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.keep(), KEEP_MS);
  }

  keep() {
    clearTimeout(this.timer);
    this.timer = 0;
    const { scale, centre } = this.now;
    return this.ask("", { scale: `1:${scale}`, east: centre[0].toFixed(3), north: centre[1].toFixed(3) });
  }

  // The scale and the place at the pointer.
  tell() {
    const { bubble, pointer, event } = this;
    bubble.hidden = !pointer || !this.within(pointer);
    if (bubble.hidden || !this.now) return;
    const [east, north] = this.toGround(pointer);
    const [scale, place] = bubble.children;
    scale.textContent = `1:${spaced(this.now.scale)}`;
    place.textContent = `${spaced(east)} E ${spaced(north)} N`;
    const area = this.view.field.getBoundingClientRect();
    const left = Math.min(event.clientX - area.left + 18, area.width - bubble.offsetWidth - 6);
    const top = Math.min(event.clientY - area.top + 18, area.height - bubble.offsetHeight - 6);
    bubble.style.transform = `translate(${left}px, ${top}px)`;
  }

  // Whether a key was one for aiming.
  key(event) {
    if (!this.on) return false;
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === "Escape") this.end();
    else if (arrows) {
      event.preventDefault();
      this.nudge(arrows[0], arrows[1], event.shiftKey ? 0.1 : 1);
    } else if (event.key === "+" || event.key === "=") this.step(-1);
    else if (event.key === "-") this.step(1);
    else return false;
    return true;
  }

  // Whether a click was one on what aiming offers beside the page.
  click(target) {
    if (target.closest("#begin-aim")) this.begin(Number(target.closest("#begin-aim").dataset.panel));
    else if (!this.on) return false;
    else if (target.closest("#end-aim")) this.end();
    else if (target.closest("[data-aim-panel]"))
      this.begin(Number(target.closest("[data-aim-panel]").dataset.aimPanel));
    else if (target.closest("#aim-working")) this.ask("/working", this.working());
    else if (target.closest("#aim-hand")) this.ask("/hand", { keys: this.selected() });
    else if (target.closest("#aim-upright")) this.ask("/upright", { keys: this.selected() });
    else return false;
    return true;
  }
}
