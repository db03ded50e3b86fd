// The map: pictures of the ink that pan and zoom at once and are painted sharp when the view rests.

import { drawCollar } from "./collar.js";
import { InkStore } from "./ink.js";
import { MapPicture, widened } from "./map_picture.js";
import { facesReady } from "./paint_letters.js";
import { PX_PER_MM, View } from "./view.js";
import { typing } from "./strip.js";
import { Underlays } from "./underlays.js";
import { token } from "./tokens.js";

const SHEET = token("sheet");

const REST_MS = 40;
const WIDE_MS = 400;
export class OrvikMap {
  constructor(root) {
    this.root = root;
    this.slug = root.dataset.slug;
    this.field = document.getElementById("map-field");
    this.canvas = document.getElementById("map-canvas");
    this.overlay = document.getElementById("map-overlay");
    this.label = document.getElementById("ring-label");
    // A map is no section; see the surfaces that pens draw on.
    this.section = null;
    this.ladder = JSON.parse(root.dataset.ladder);
    this.view = new View(0, 0, this.ladder[1], Number(root.dataset.metresPerUnit));
    this.ink = new InkStore(this.slug);
    this.underlays = new Underlays(
      this.slug,
      () => this.sharpen(0),
      (words) => this.notice(words),
    );
    this.near = new MapPicture();
    this.wide = new MapPicture();
    this.coming = new MapPicture();
    this.free = false;
    this.dpr = 1;
    this.pointer = null;
    /** @type {Record<string, ((...told: any[]) => void)[]>} */
    this.hooks = { overlay: [], view: [], pointer: [], labels: [] };
    this.measure();
    this.goHome();
    this.restoreView();
    new ResizeObserver(() => {
      this.measure();
      this.moved();
    }).observe(this.field);
    this.listen();
    this.readStack();
    document.body.addEventListener("htmx:afterSwap", () => {
      this.readStack();
      this.sharpen();
    });
  }

  holds() {
    return true;
  }

  focus() {
    this.field.focus({ preventScroll: true });
  }

  moveBy(px, py) {
    this.view.moveBy(px, py);
    this.moved();
  }

  centre(place) {
    [this.view.x, this.view.y] = place;
    this.moved();
  }

  tellPlace(place) {
    document.getElementById("place-line").textContent = place;
  }

  on(name, hook) {
    this.hooks[name].push(hook);
  }

  async start() {
    const busy = document.getElementById("map-busy");
    const timer = setTimeout(() => {
      busy.hidden = false;
    }, 200);
    try {
      await Promise.all([this.ink.load(), facesReady()]);
      this.paintSharp();
      this.root.dataset.painted = String(Math.round(performance.now()));
      await this.writeLabels();
    } catch (error) {
      this.notice(error.message);
    } finally {
      clearTimeout(timer);
      busy.hidden = true;
    }
  }

  async reload() {
    try {
      await this.ink.load();
      this.sharpen(0);
      await this.writeLabels();
    } catch (error) {
      this.notice(error.message);
    }
  }

  // What a change means for the map: another home, all ink anew, or another stack of underlays.
  takeWords(words) {
    if (words.moved) return;
    if (words.tables?.includes("views") && document.getElementById("views")) {
      htmx.ajax("GET", `/p/${this.slug}/views`, { source: "#views", target: "#views", swap: "outerHTML" });
    }
    if (words.tables?.includes("sources")) {
      this.underlays.forget();
      htmx.ajax("GET", `/p/${this.slug}/stack`, { source: "#stack", target: "#stack", swap: "outerHTML" });
    }
    if ("home" in words) {
      this.root.dataset.home = JSON.stringify(words.home);
      document.getElementById("whole-sheet").disabled = !words.home;
    }
    if (words.reload) this.reload();
  }

  takeInk(buffer) {
    if (this.ink.add(buffer)) this.reload();
    else this.sharpen(0);
    this.tellLabelled();
  }

  async writeLabels() {
    await this.ink.loadLabels();
    this.sharpen(0);
    this.tellLabelled();
  }

  // Up to which revision labels are placed.
  tellLabelled() {
    if (!this.ink.labels) return;
    this.root.dataset.labelled = String(this.ink.labels.revision);
    for (const hook of this.hooks.labels) hook(this.ink.labels);
  }

  notice(sentence) {
    const p = document.getElementById("map-notice");
    p.textContent = sentence;
    p.hidden = !sentence;
    clearTimeout(this.noticeTimer);
    if (sentence)
      this.noticeTimer = setTimeout(() => {
        p.hidden = true;
      }, 7000);
  }

  // A word that is not a refusal.
  say(sentence) {
    const p = document.getElementById("map-words");
    if (!p) return;
    p.textContent = sentence || "";
    p.hidden = !sentence;
    clearTimeout(this.wordsTimer);
    if (sentence)
      this.wordsTimer = setTimeout(() => {
        p.hidden = true;
      }, 6000);
  }

  measure() {
    const box = this.field.getBoundingClientRect();
    this.dpr = window.devicePixelRatio || 1;
    this.view.width = Math.max(1, box.width);
    this.view.height = Math.max(1, box.height);
    for (const canvas of [this.canvas, this.overlay]) {
      canvas.width = Math.round(this.view.width * this.dpr);
      canvas.height = Math.round(this.view.height * this.dpr);
    }
  }

  // The publication rung at the middle of the sheet, or the whole sheet where the stage is for looking.
  goHome() {
    const home = this.home();
    if (!home) return;
    this.view.x = (home[0] + home[2]) / 2;
    this.view.y = (home[1] + home[3]) / 2;
    if (this.root.dataset.whole) this.standWhole();
  }

  home() {
    return JSON.parse(this.root.dataset.home || "null");
  }

  // Leaves the ladder to show all of the sheet border, or all features where there is none.
  standWhole() {
    const home = this.home();
    if (!home) return;
    const { metresPerUnit, width, height } = this.view;
    const fill = (side, pixels) => (side * metresPerUnit * 1000 * PX_PER_MM) / (pixels * 0.94);
    const exact = Math.max(fill(home[2] - home[0], width), fill(home[3] - home[1], height), 50);
    // Rounded up to two figures, so that the scale can be read.
    const step = 10 ** (Math.floor(Math.log10(exact)) - 1);
    Object.assign(this.view, {
      x: (home[0] + home[2]) / 2,
      y: (home[1] + home[3]) / 2,
      denominator: Math.ceil(exact / step) * step,
    });
    this.free = !this.ladder.includes(this.view.denominator);
  }

  // Each stage keeps its own view: looking at the whole in one does not leave the ladder in another.
  viewKey() {
    return `orvik-view-${this.root.dataset.stage}-${this.root.dataset.crs}-${this.slug}`;
  }

  restoreView() {
    // An address may name a place to come to, such as that of a finding.
    const asked = new URLSearchParams(location.search);
    if (asked.has("x") && asked.has("y")) {
      const [x, y] = [Number(asked.get("x")), Number(asked.get("y"))];
      if (Number.isFinite(x) && Number.isFinite(y)) {
        Object.assign(this.view, { x, y, denominator: this.ladder.at(-1) });
        history.replaceState(null, "", location.pathname);
        return;
      }
    }
    const kept = JSON.parse(sessionStorage.getItem(this.viewKey()) || "null");
    if (kept && Number.isFinite(kept.x) && kept.denominator > 0) {
      Object.assign(this.view, { x: kept.x, y: kept.y, denominator: kept.denominator });
      this.free = !this.ladder.includes(kept.denominator);
    }
  }

  // What has to follow when the view has moved: the cached picture at once, the sharp one after a rest.
  moved() {
    this.paintFast();
    this.sharpen();
    sessionStorage.setItem(
      this.viewKey(),
      JSON.stringify({ x: this.view.x, y: this.view.y, denominator: this.view.denominator }),
    );
    for (const hook of this.hooks.view) hook(this.view);
  }

  sharpen(after = REST_MS) {
    clearTimeout(this.restTimer);
    clearTimeout(this.wideTimer);
    this.restTimer = setTimeout(() => this.paintSharp(), after);
  }

  paintFast() {
    const context = this.canvas.getContext("2d");
    context.setTransform(this.dpr, 0, 0, this.dpr, 0, 0);
    context.fillStyle = SHEET;
    context.fillRect(0, 0, this.view.width, this.view.height);
    for (const picture of [this.wide, this.near]) picture.layOver(context, this.view);
    this.paintOverlay();
    this.frames = (this.frames || 0) + 1;
  }

  // What is in sight first, and what the hand may move into sight when it has rested a while longer.
  paintSharp() {
    const view = this.view.copy();
    this.near.paint(this, view);
    this.paintFast();
    this.underlays.ask(this.rows, widened(view), this.dpr);
    this.root.dataset.sharp = String(Number(this.root.dataset.sharp || 0) + 1);
    clearTimeout(this.wideTimer);
    const around = this.coming.paintAround(this, this.near);
    this.wideTimer = setTimeout(() => this.widen(around), WIDE_MS);
  }

  // The picture of the surroundings, piece by piece; it takes the place of the old one when it is whole.
  widen(around) {
    if (!around.next().done) this.wideTimer = setTimeout(() => this.widen(around), 0);
    else [this.wide, this.coming] = [this.coming, this.wide];
  }

  readStack() {
    this.stack = {};
    this.rows = [];
    for (const row of document.querySelectorAll("#stack .stack-row[data-layer]")) {
      const state = { shown: row.dataset.shown === "1", opacity: Number(row.dataset.opacity) };
      this.stack[row.dataset.layer] = state;
      if (row.dataset.underlay) {
        this.rows.unshift({
          ...state,
          id: row.dataset.underlay,
          shows: (row.dataset.shows || "").split(" "),
          multiply: row.dataset.multiply === "1",
          name: row.dataset.name,
        });
      }
    }
  }

  paintOverlay() {
    const context = this.overlay.getContext("2d");
    context.setTransform(this.dpr, 0, 0, this.dpr, 0, 0);
    context.clearRect(0, 0, this.view.width, this.view.height);
    for (const hook of this.hooks.overlay) hook(context, this.view);
    drawCollar(document.getElementById("collar-top"), "top", this.view, this.pointer);
    drawCollar(document.getElementById("collar-left"), "left", this.view, this.pointer);
  }

  step(direction, px, py) {
    if (this.free) {
      this.view.scaleTo(this.view.denominator * (direction > 0 ? 1 / 1.4 : 1.4), px, py);
      this.moved();
      return;
    }
    const at = this.ladder.indexOf(this.view.denominator);
    const to = this.ladder[at + direction];
    if (to) {
      this.view.scaleTo(to, px, py);
      this.moved();
    }
  }

  stand(denominator) {
    this.free = false;
    this.view.scaleTo(denominator);
    this.moved();
  }

  listen() {
    let turned = 0;
    this.field.addEventListener(
      "wheel",
      (event) => {
        event.preventDefault();
        const [px, py] = this.place(event);
        const delta = event.deltaY || event.deltaX;
        if (event.shiftKey && !this.free) {
          this.free = true;
        }
        if (this.free) {
          const denominator = Math.min(5e7, Math.max(50, this.view.denominator * Math.exp(delta * 0.0012)));
          this.view.scaleTo(denominator, px, py);
          this.moved();
          return;
        }
        turned += delta;
        if (Math.abs(turned) >= 60) {
          this.step(turned > 0 ? -1 : 1, px, py);
          turned = 0;
        }
      },
      { passive: false },
    );
    this.field.addEventListener("pointerdown", (event) => {
      if (event.button === 1 || (event.button === 0 && this.spaceHeld)) {
        event.preventDefault();
        this.panFrom = [event.clientX, event.clientY];
        this.field.setPointerCapture(event.pointerId);
        this.field.classList.add("moving");
      }
    });
    this.field.addEventListener("pointermove", (event) => {
      const at = this.place(event);
      this.pointer = at;
      if (this.panFrom) {
        this.view.moveBy(event.clientX - this.panFrom[0], event.clientY - this.panFrom[1]);
        this.panFrom = [event.clientX, event.clientY];
        this.soon(() => this.moved());
        return;
      }
      for (const hook of this.hooks.pointer) hook(at, event);
      this.soon(() => this.paintOverlay());
    });
    const end = () => {
      this.panFrom = null;
      this.field.classList.remove("moving");
    };
    this.field.addEventListener("pointerup", end);
    this.field.addEventListener("pointercancel", end);
    this.field.addEventListener("pointerleave", () => {
      this.pointer = null;
      this.paintOverlay();
    });
    document.addEventListener("keydown", (event) => {
      if (typing(event.target)) return;
      if (event.code === "Space") {
        this.spaceHeld = true;
        if (event.target === document.body || event.target === this.field) event.preventDefault();
      }
      if (event.key === "+" || event.key === "=") this.step(1);
      if (event.key === "-") this.step(-1);
      if (event.key === "Home") {
        event.preventDefault();
        this.standWhole();
        this.moved();
      }
    });
    document.addEventListener("keyup", (event) => {
      if (event.code === "Space") this.spaceHeld = false;
    });
    window.addEventListener("blur", () => {
      this.spaceHeld = false;
    });
  }

  /** @returns {[number, number]} */
  place(event) {
    const box = this.field.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
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
