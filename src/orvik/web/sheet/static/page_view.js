// The page on the desk: where it stands on the screen, its rulers, and the drawing layers upon it.

import { drawRuler, niceStep } from "../frame/collar.js";
import { spaced } from "../frame/figures.js";
import { token } from "../frame/tokens.js";
import { PX_PER_MM } from "../frame/view.js";

const NS = "http://www.w3.org/2000/svg";
const NEAREST = 40,
  FARTHEST = 0.2;

export class PageView {
  constructor(desk) {
    this.field = document.getElementById("desk-field");
    this.page = { id: desk.dataset.sheet, width: Number(desk.dataset.width), height: Number(desk.dataset.height) };
    // Pixels per millimetre, and the page's upper left corner on the desk.
    this.k = 1;
    this.x = 0;
    this.y = 0;
    this.pointer = null;
    // Whoever aims a panel has the rulers show ground; it gives the value of a millimetre along an edge.
    this.ground = null;
    // What is painted over the page whenever it is.
    this.painters = [];
    this.paper = this.make("rect", this.make("g", document.getElementById("page-paper")), {
      class: "paper",
      x: 0,
      y: 0,
      width: this.page.width,
      height: this.page.height,
      fill: token("sheet"),
      stroke: token("soft"),
      "stroke-width": 0.2,
    });
    // The parts as they are drawn, from the lowest to the highest, and over them what hands take hold of.
    this.layers = [];
    this.world = this.make("g", document.getElementById("page"));
    this.hits = this.make("g", this.world);
    this.marks = this.make("g", this.world);
    new ResizeObserver(() => this.fit()).observe(this.field);
  }

  make(name, parent, attributes = {}) {
    const element = document.createElementNS(NS, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    parent.append(element);
    return element;
  }

  // Puts layers upon the paper, the lowest first.
  stack(layers) {
    this.layers = layers;
    const held = document.getElementById("page-layers");
    const elements = layers.map((layer) => layer.element);
    if (elements.some((element, i) => held.children[i] !== element) || held.children.length !== elements.length)
      held.replaceChildren(...elements);
  }

  // The page as it is now; another size is shown whole.
  resized(width, height, colour) {
    this.paper.setAttribute("fill", colour || token("sheet"));
    if (width === this.page.width && height === this.page.height) return;
    Object.assign(this.page, { width, height });
    this.paper.setAttribute("width", width);
    this.paper.setAttribute("height", height);
    this.fit();
  }

  fit() {
    const bounds = this.field.getBoundingClientRect();
    this.k = Math.min((bounds.width - 56) / this.page.width, (bounds.height - 56) / this.page.height);
    this.x = (bounds.width - this.page.width * this.k) / 2;
    this.y = (bounds.height - this.page.height * this.k) / 2;
    this.paint();
  }

  /** Millimetres on the page of a pointer event. @returns {[number, number]} */
  toPage(event) {
    const bounds = this.field.getBoundingClientRect();
    return [(event.clientX - bounds.left - this.x) / this.k, (event.clientY - bounds.top - this.y) / this.k];
  }

  zoomTo(k, px, py) {
    const next = Math.min(NEAREST, Math.max(FARTHEST, k));
    this.x = px - ((px - this.x) * next) / this.k;
    this.y = py - ((py - this.y) * next) / this.k;
    this.k = next;
    this.paint();
  }

  /** @param {MouseEvent | null} [event] */
  zoomBy(factor, event = null) {
    const area = this.field.getBoundingClientRect();
    const at = event ? [event.clientX - area.left, event.clientY - area.top] : [area.width / 2, area.height / 2];
    this.zoomTo(this.k * factor, at[0], at[1]);
  }

  moveBy(px, py) {
    this.x += px;
    this.y += py;
    this.paint();
  }

  paint() {
    const place = `translate(${this.x} ${this.y}) scale(${this.k})`;
    this.world.setAttribute("transform", place);
    this.paper.parentNode.setAttribute("transform", place);
    for (const layer of this.layers) layer.paint(this);
    document.getElementById("zoom").textContent = `${Math.round((this.k / PX_PER_MM) * 100)} %`;
    this.marks.replaceChildren();
    for (const painter of this.painters) painter(this.marks);
    this.rulers();
  }

  rulers() {
    const bounds = this.field.getBoundingClientRect();
    this.ruler("ruler-top", "top", this.x, bounds.width, this.pointer?.[0]);
    this.ruler("ruler-left", "left", this.y, bounds.height, this.pointer?.[1]);
  }

  ruler(id, edge, origin, length, pointer) {
    const canvas = document.getElementById(id);
    const at = pointer == null ? null : pointer * this.k + origin;
    const mm = (px) => (px - origin) / this.k;
    if (!this.ground) {
      const label = (v) => `${Number(v.toFixed(3))}`;
      drawRuler(canvas, edge, mm(0), mm(length), niceStep(60 / this.k), (v) => v * this.k + origin, label, at);
      return;
    }
    const axis = this.ground(edge);
    const [from, to] = [axis.of(mm(0)), axis.of(mm(length))].sort((one, other) => one - other);
    const step = niceStep(Math.abs(axis.of(mm(110)) - axis.of(mm(0))));
    const named = (v) => `${spaced(v)} ${axis.letter}`;
    drawRuler(canvas, edge, from, to, step, (v) => axis.at(v) * this.k + origin, named, at);
  }
}
