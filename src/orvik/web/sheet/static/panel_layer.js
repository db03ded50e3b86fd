// A map panel on the page: its ink is painted once as a picture, and that is laid where the panel is now.

import { contextOf } from "../frame/elements.js";
import { decode, withImages } from "../frame/ink.js";
import { paintItem, traceAll } from "../frame/paint.js";
import { facesReady } from "../frame/paint_letters.js";
import { PX_PER_MM } from "../frame/view.js";

// Ink that takes longer than this is shown without its labels first, in milliseconds.
const QUICK_MS = 400;
// A picture that is painted faster than this follows every turn of the wheel; others when the hand rests.
const LIGHT_MS = 12,
  RESTING_MS = 90;
// How much around what is in sight is painted with it, as a share of the field, and of millimetres around the frame.
const AROUND = 0.25,
  AROUND_MM = 40;
// Letters that begin out of sight may reach into it, in millimetres.
const BESIDE = 25;

// A frame of millimetres, in pixels of the canvas before it is scaled.
const MILLIMETRES = { x: 0, y: 0, k: PX_PER_MM };

export class PanelLayer {
  // `busy(more)` counts what is under way, `refuse(words)` says why there is no ink.
  constructor(id, url, busy, refuse) {
    this.url = url;
    this.busy = busy;
    this.refuse = refuse;
    // What its ink is to be made of, and of what that which is shown is.
    this.key = "";
    this.shown = "";
    this.x = 0;
    this.y = 0;
    // From the ground to millimetres from the corner: as the ink is drawn, and where a hand has aimed it since.
    this.drawn = null;
    this.aimed = null;
    this.selected = false;
    this.ink = null;
    this.outside = [];
    // How long the whole of it took, and whether it is wanted and under way.
    this.took = Infinity;
    this.waiting = false;
    this.under = null;
    this.picture = null;
    this.paintMs = 0;
    this.timer = 0;
    this.last = null;
    this.element = document.createElement("canvas");
    this.element.className = "page layer";
    this.element.setAttribute("data-part", id);
    this.element.setAttribute("aria-hidden", "true");
  }

  // Shows the ink where a hand has aimed the ground; `toPage` leads to millimetres on the page.
  aim(view, toPage) {
    this.selected = true;
    this.aimed = fromCorner(toPage, this.x, this.y);
    this.paint(view);
  }

  // Nobody aims any more; what was aimed stays until its own ink has come.
  endAim() {
    this.selected = false;
    if (this.shown === this.key) this.aimed = null;
  }

  // Resolves when something of the wanted ink is shown: all of it, or a draft of what takes long.
  async load({ key, width, height, x, y, toPage }) {
    if (key === this.key) return;
    this.key = key;
    this.wanted = { key, size: [width, height], drawn: toPage && fromCorner(toPage, x, y) };
    if (this.took < QUICK_MS) await this.whole();
    else {
      await this.fetch(this.wanted, false);
      this.whole();
    }
  }

  // One at a time: of several asked for meanwhile, the last is carried out.
  async whole() {
    this.waiting = true;
    this.under ??= this.wholes();
    await this.under;
  }

  async wholes() {
    this.busy(1);
    while (this.waiting) {
      this.waiting = false;
      const begun = performance.now();
      await this.fetch(this.wanted, true);
      this.took = performance.now() - begun;
    }
    this.under = null;
    this.busy(-1);
  }

  async fetch(wanted, lettered) {
    try {
      const response = await fetch(`${this.url}?lettered=${lettered}`);
      if (!response.ok) throw new Error(await response.text());
      const items = decode(await response.arrayBuffer()).layers[0].items;
      await Promise.all([withImages(items), facesReady()]);
      // A draft that comes after its sharp ink, or what is not wanted any more, is let go.
      if (wanted.key !== this.key || (!lettered && this.shown === wanted.key)) return;
      this.shown = wanted.key;
      this.element.dataset.ink = lettered ? "whole" : "draft";
      this.show(wanted, items);
    } catch (error) {
      // Asked for again with the next change, or the next look.
      if (wanted.key === this.key) this.key = "";
      this.refuse(error.message);
    }
  }

  show({ drawn, size }, items) {
    this.ink = items.find((item) => item.t === "group");
    this.outside = items.filter((item) => item !== this.ink);
    this.drawn = drawn;
    this.size = size;
    this.picture = null;
    if (!this.selected) this.aimed = null;
    if (this.last) this.paint(this.last);
  }

  paint(view) {
    this.last = view;
    const { element } = this;
    const dots = window.devicePixelRatio || 1;
    const [width, height] = [view.field.clientWidth, view.field.clientHeight];
    if (element.width !== Math.round(width * dots) || element.height !== Math.round(height * dots)) {
      element.width = Math.round(width * dots);
      element.height = Math.round(height * dots);
    }
    const context = contextOf(element);
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, element.width, element.height);
    const s = (dots * view.k) / PX_PER_MM;
    context.setTransform(s, 0, 0, s, dots * (view.x + this.x * view.k), dots * (view.y + this.y * view.k));
    this.layPicture(context, view, dots);
    const sight = [-1e5, -1e5, 1e5, 1e5];
    for (const item of this.outside) paintItem(context, item, millimetres(s), null, sight);
  }

  // The picture within the neatline, where the ground is now.
  layPicture(context, view, dots) {
    if (!this.ink) return;
    const sight = this.sight(view);
    if (!sight) return;
    let { picture } = this;
    const fits = picture !== null && this.fits(picture, view, sight);
    if (!picture || (this.lightly && !fits)) picture = this.paintPicture(view, sight, dots);
    else if (!fits) this.rest(view);
    context.save();
    if (this.ink.clip) {
      context.beginPath();
      traceAll(context, this.ink.clip, MILLIMETRES);
      context.clip("evenodd");
    }
    context.scale(PX_PER_MM, PX_PER_MM);
    if (this.aimed && this.drawn) context.transform(...between(this.drawn, this.aimed));
    const [left, top, right, bottom] = picture.box;
    context.drawImage(picture.canvas, left, top, right - left, bottom - top);
    context.restore();
  }

  get lightly() {
    return this.paintMs < LIGHT_MS;
  }

  /**
   * The part of the panel and its surroundings that the field shows, in millimetres from the corner.
   * @returns {[number, number, number, number] | null}
   */
  sight(view, around = 0) {
    const across = (view.field.clientWidth * around) / view.k,
      down = (view.field.clientHeight * around) / view.k;
    const left = Math.max(-view.x / view.k - this.x - across, -AROUND_MM),
      top = Math.max(-view.y / view.k - this.y - down, -AROUND_MM),
      right = Math.min((view.field.clientWidth - view.x) / view.k - this.x + across, this.size[0] + AROUND_MM),
      bottom = Math.min((view.field.clientHeight - view.y) / view.k - this.y + down, this.size[1] + AROUND_MM);
    return right > left && bottom > top ? [left, top, right, bottom] : null;
  }

  // Whether the picture shows all that is in sight, dot for dot: at its size, and moved by whole dots.
  fits({ k, box, corner }, view, [left, top, right, bottom]) {
    const [l, t, r, b] = box;
    const [x, y] = this.corner(view);
    const whole = (by) => Math.abs(by - Math.round(by)) < 0.02;
    return (
      k === view.k &&
      l <= left + 0.01 &&
      t <= top + 0.01 &&
      r >= right - 0.01 &&
      b >= bottom - 0.01 &&
      whole(x - corner[0]) &&
      whole(y - corner[1])
    );
  }

  // Where the panel's corner is, in dots of the field.
  corner(view) {
    const dots = window.devicePixelRatio || 1;
    return [dots * (view.x + this.x * view.k), dots * (view.y + this.y * view.k)];
  }

  // Sharp again when the hand rests.
  rest(view) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      const sight = this.sight(view);
      if (!sight || (this.picture && this.fits(this.picture, view, sight))) return;
      this.picture = null;
      this.paint(view);
    }, RESTING_MS);
  }

  paintPicture(view, seen, dots) {
    const begun = performance.now();
    const wanted = this.sight(view, AROUND) ?? seen;
    // Its edges lie between dots, so that it is laid down dot for dot.
    const per = dots * view.k,
      corner = this.corner(view);
    const edge = (i, round) => (round(corner[i % 2] + wanted[i] * per) - corner[i % 2]) / per;
    const [left, top, right, bottom] = [
      edge(0, Math.floor),
      edge(1, Math.floor),
      edge(2, Math.ceil),
      edge(3, Math.ceil),
    ];
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round((right - left) * per));
    canvas.height = Math.max(1, Math.round((bottom - top) * per));
    const context = contextOf(canvas);
    const s = per / PX_PER_MM;
    context.setTransform(s, 0, 0, s, -left * per, -top * per);
    const window = [left - BESIDE, -bottom - BESIDE, right + BESIDE, -top + BESIDE];
    for (const item of this.ink.items) paintItem(context, item, millimetres(s), null, window);
    const picture = { canvas, box: [left, top, right, bottom], k: view.k, corner };
    this.picture = picture;
    this.paintMs = performance.now() - begun;
    return picture;
  }
}

// Millimetres as a view for the painter, on a canvas that is scaled so that a pixel has so many dots.
function millimetres(dots) {
  return {
    unitsPerPx: 1 / PX_PER_MM,
    toScreen: (x, y) => [x * PX_PER_MM, -y * PX_PER_MM],
    denominator: 0,
    dot: 1 / dots,
    thinnest: 0,
  };
}

// The same way to millimetres from a corner of the page.
/** @returns {[number, number, number, number, number, number]} */
function fromCorner([a, b, c, d, e, f], x, y) {
  return [a, b, c - x, d, e, f - y];
}

// The way back from the page as it is drawn, then forward to where it is aimed.
/** @returns {[number, number, number, number, number, number]} */
function between([p, q, r, s, t, u], [a, b, c, d, e, f]) {
  const size = p * t - q * s;
  const [ia, ib, id, ie] = [t / size, -q / size, -s / size, p / size];
  const ic = -(ia * r + ib * u),
    jf = -(id * r + ie * u);
  return [a * ia + b * id, d * ia + e * id, a * ib + b * ie, d * ib + e * ie, a * ic + b * jf + c, d * ic + e * jf + f];
}
