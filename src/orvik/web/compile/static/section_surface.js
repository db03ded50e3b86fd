// The picture of a section as something that pens draw on: where the hand is on it, in metres along and up.

import { PX_PER_MM } from "../frame/view.js";

// The way between a section and pixels of its stage. Heights are drawn `vertical` times as large as lengths.
class SectionView {
  constructor() {
    this.frame = null;
    this.k = 1;
    this.left = 0;
    this.top = 0;
    this.width = 1;
    this.height = 1;
  }

  get vertical() {
    return this.frame ? this.frame.exaggeration : 1;
  }

  // Metres along that one pixel covers.
  get unitsPerPx() {
    return this.frame ? 1 / (this.frame.along * this.k) : 1;
  }

  get denominator() {
    return this.unitsPerPx * 1000 * PX_PER_MM;
  }

  toScreen(along, up) {
    const { x, y, along: a, up: u } = this.frame;
    return [this.left + (x + along * a) * this.k, this.top + (y - up * u) * this.k];
  }

  toGround(px, py) {
    const { x, y, along: a, up: u } = this.frame;
    return [((px - this.left) / this.k - x) / a, (y - (py - this.top) / this.k) / u];
  }

  window(margin = 0) {
    const [west, north] = this.toGround(-margin, -margin);
    const [east, south] = this.toGround(this.width + margin, this.height + margin);
    return [west, south, east, north];
  }
}

export class SectionSurface {
  constructor(desk, field) {
    this.desk = desk;
    this.slug = desk.map.slug;
    this.field = field;
    this.overlay = /** @type {HTMLCanvasElement} */ (document.getElementById("section-overlay"));
    this.label = document.getElementById("section-ring-label");
    this.told = document.getElementById("section-notice");
    this.view = new SectionView();
    this.section = null;
    this.pointer = null;
    this.spaceHeld = false;
    this.hooks = [];
    this.observer = new ResizeObserver(() => this.measure());
  }

  get stage() {
    return document.getElementById("section-stage");
  }

  get scroll() {
    return document.getElementById("section-scroll");
  }

  // Another picture stands in the stage, or none: what lies over it goes along.
  take(section, frame) {
    this.section = section;
    this.view.frame = frame;
    const { stage, scroll } = this;
    if (stage && scroll && frame) {
      stage.append(this.overlay, this.label, this.told);
      this.observer.disconnect();
      this.observer.observe(stage);
      scroll.addEventListener("scroll", () => this.measure());
      this.measure();
    }
  }

  // Kept out of what is swapped.
  keepAside(panel) {
    panel.append(this.overlay, this.label, this.told);
  }

  measure() {
    const picture = /** @type {SVGSVGElement | null} */ (
      /** @type {unknown} */ (document.getElementById("section-picture"))
    );
    const { stage, view } = this;
    if (!stage || !picture || !view.frame) return;
    const [outer, inner] = [stage.getBoundingClientRect(), picture.getBoundingClientRect()];
    Object.assign(view, {
      left: inner.left - outer.left,
      top: inner.top - outer.top,
      k: inner.width / picture.viewBox.baseVal.width,
      width: Math.max(1, outer.width),
      height: Math.max(1, outer.height),
    });
    this.dpr = window.devicePixelRatio || 1;
    this.overlay.width = Math.round(view.width * this.dpr);
    this.overlay.height = Math.round(view.height * this.dpr);
    this.paintOverlay();
  }

  place(event) {
    const box = this.stage?.getBoundingClientRect() ?? { left: 0, top: 0 };
    return [event.clientX - box.left, event.clientY - box.top];
  }

  // Whether an event is of the picture, and not of the fields around it.
  holds(event) {
    return Boolean(this.view.frame && event.target.closest("#section-stage"));
  }

  moveBy(px, py) {
    if (!this.scroll) return;
    this.scroll.scrollLeft -= px;
    this.scroll.scrollTop -= py;
  }

  centre(place) {
    const [px, py] = this.view.toScreen(...place);
    this.moveBy(this.view.width / 2 - px, this.view.height / 2 - py);
  }

  focus() {
    this.scroll?.focus({ preventScroll: true });
  }

  on(hook) {
    this.hooks.push(hook);
  }

  paintOverlay() {
    const context = this.overlay.getContext("2d");
    if (!context || !this.view.frame) return;
    context.setTransform(this.dpr || 1, 0, 0, this.dpr || 1, 0, 0);
    context.clearRect(0, 0, this.view.width, this.view.height);
    for (const hook of this.hooks) hook(context, this.view);
  }

  notice(sentence) {
    this.told.textContent = sentence;
    this.told.hidden = !sentence;
    clearTimeout(this.timer);
    if (sentence)
      this.timer = setTimeout(() => {
        this.told.hidden = true;
      }, 7000);
  }

  say(sentence) {
    const words = document.getElementById("section-words");
    if (words && sentence) words.textContent = sentence;
  }

  tellPlace(place) {
    this.say(place);
  }

  // At most one repaint a frame.
  soon(paint) {
    this.next = paint;
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      this.next();
    });
  }
}
