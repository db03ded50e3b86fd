// The sheet on the desk of Proof: enlarged by wheel and keys, moved by hand; its marks stay as large as they are read.

import { spread } from "./spread_marks.js";

const NEAREST = 40;
const STEP = 1.25;
// Pixels of a mark's radius, whatever the enlargement, and the radius that marks are drawn with, in millimetres.
const MARK_PX = 13,
  MARK_MM = 7;
// Where a note leads, so many pixels of the screen are a millimetre, if not more already: on ground, of a part.
const NOTE_PX = 9,
  PART_PX = 4;
// From so many pixels a millimetre on the finer picture is fetched.
const FINE_PX = 6;
const KEYS = new Map(
  Object.entries({ ArrowLeft: [-60, 0], ArrowRight: [60, 0], ArrowUp: [0, -60], ArrowDown: [0, 60] }),
);

export class ProofView {
  constructor(desk) {
    this.desk = desk;
    // Pixels per millimetre, and the place of the page in the desk's upper left corner; null for the whole page.
    this.k = null;
    this.x = 0;
    this.y = 0;
    this.drag = null;
    this.plate = "";
    // Where a note is being pinned, in millimetres.
    this.pinned = null;
    desk.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    desk.addEventListener("pointerdown", (event) => this.down(event));
    desk.addEventListener("pointermove", (event) => this.moved(event));
    desk.addEventListener("pointerup", () => (this.drag = null));
    desk.addEventListener("keydown", (event) => this.key(event));
    new ResizeObserver(() => this.paint()).observe(desk);
  }

  get sheet() {
    return this.desk.querySelector(".proof-sheet");
  }

  get whole() {
    const { width, height } = this.size();
    return Math.min((this.desk.clientWidth - 32) / width, (this.desk.clientHeight - 32) / height);
  }

  size() {
    const { width, height } = this.sheet.dataset;
    return { width: Number(width), height: Number(height) };
  }

  // As it is now, or as a new picture of the sheet is to be.
  paint() {
    if (!this.sheet) return;
    const { width, height } = this.size();
    const k = this.k ?? this.whole;
    const across = this.desk.clientWidth / k,
      down = this.desk.clientHeight / k;
    if (this.k === null) [this.x, this.y] = [(width - across) / 2, (height - down) / 2];
    this.sheet.setAttribute("viewBox", `${this.x} ${this.y} ${across} ${down}`);
    const scale = MARK_PX / (MARK_MM * k);
    const marks = [...this.sheet.querySelectorAll(".mark")];
    const rings = marks.map((mark) => [mark.dataset.x / scale, mark.dataset.y / scale]);
    const places = spread(rings, [width / scale, height / scale]);
    marks.forEach((mark, i) => {
      const { x, y } = mark.dataset;
      mark.setAttribute("transform", `translate(${x} ${y}) scale(${scale})`);
      mark.querySelector("g").setAttribute("transform", `translate(${places[i]})`);
      const line = mark.querySelector("line");
      const [far, lower] = places[i];
      const rim = MARK_MM / Math.hypot(far, lower);
      for (const [name, value] of [
        ["x1", far * rim],
        ["y1", lower * rim],
        ["x2", far],
        ["y2", lower],
      ])
        line.setAttribute(name, value.toFixed(2));
    });
    const pin = this.sheet.querySelector(".being-pinned");
    pin.toggleAttribute("hidden", !this.pinned);
    if (this.pinned) pin.setAttribute("transform", `translate(${this.pinned}) scale(${scale})`);
    if (k > FINE_PX) this.refine();
    document.getElementById("proof-zoom").textContent = `${Math.round((k / (96 / 25.4)) * 100)} %`;
  }

  // A plate of the press on the page, or the page as it is printed where none is named; `failed` is told otherwise.
  show(plate, failed) {
    if (!this.sheet) return;
    this.plate = plate;
    const image = this.sheet.querySelector("image");
    this.sheet.dataset.printed ??= image.getAttribute("href");
    const wanted = plate || this.sheet.dataset.printed;
    const coming = new Image();
    const done = (drawn) => {
      if (this.plate !== plate || !image.isConnected) return;
      this.desk.removeAttribute("aria-busy");
      if (drawn) image.setAttribute("href", wanted);
      else failed();
    };
    this.desk.setAttribute("aria-busy", "true");
    coming.addEventListener("load", () => done(true));
    coming.addEventListener("error", () => done(false));
    coming.src = wanted;
    this.paint();
  }

  // After the page came anew: it shows the plate that it showed.
  resume(failed) {
    if (this.plate && this.sheet && !this.sheet.dataset.printed) this.show(this.plate, failed);
  }

  refine() {
    if (this.plate) return;
    const image = this.sheet.querySelector("image");
    const { fine } = this.sheet.dataset;
    if (!fine || image.getAttribute("href") === fine) return;
    const coming = new Image();
    // What is seen stays until the finer picture is there.
    coming.addEventListener("load", () => image.isConnected && !this.plate && image.setAttribute("href", fine));
    coming.src = fine;
    delete this.sheet.dataset.fine;
  }

  zoomTo(k, [px, py] = [this.desk.clientWidth / 2, this.desk.clientHeight / 2]) {
    const now = this.k ?? this.whole;
    const next = Math.min(NEAREST, k);
    if (next <= this.whole) {
      this.k = null;
    } else {
      this.x += px / now - px / next;
      this.y += py / now - py / next;
      this.k = next;
    }
    this.paint();
  }

  zoomBy(factor, at) {
    // Before the notes have come nothing is there to be enlarged.
    if (this.sheet) this.zoomTo((this.k ?? this.whole) * factor, at);
  }

  fit() {
    this.k = null;
    this.paint();
  }

  moveBy(px, py) {
    if (this.k === null) return;
    this.x += px / this.k;
    this.y += py / this.k;
    this.paint();
  }

  // The place of the page below a place of the window, in millimetres; null beside the page.
  placeOf(px, py) {
    if (!this.sheet) return null;
    const box = this.desk.getBoundingClientRect();
    const k = this.k ?? this.whole;
    const { width, height } = this.size();
    const place = [this.x + (px - box.left) / k, this.y + (py - box.top) / k];
    return place[0] >= 0 && place[0] <= width && place[1] >= 0 && place[1] <= height ? place : null;
  }

  // The place of the page in the middle of the desk.
  middle() {
    const box = this.desk.getBoundingClientRect();
    return this.placeOf(box.left + box.width / 2, box.top + box.height / 2);
  }

  // Show where a note is being pinned, or nothing.
  pin(place) {
    this.pinned = place;
    this.paint();
  }

  // To the place of a mark, enlarged.
  go(mark) {
    if (!this.sheet) return;
    const [x, y] = [Number(mark.dataset.x), Number(mark.dataset.y)];
    this.k = Math.max(this.k ?? this.whole, "close" in mark.dataset ? NOTE_PX : PART_PX);
    this.x = x - this.desk.clientWidth / this.k / 2;
    this.y = y - this.desk.clientHeight / this.k / 2;
    this.paint();
  }

  wheel(event) {
    if (!this.sheet) return;
    event.preventDefault();
    const box = this.desk.getBoundingClientRect();
    this.zoomBy(Math.exp(-event.deltaY * 0.002), [event.clientX - box.left, event.clientY - box.top]);
  }

  down(event) {
    if (this.k === null || event.target.closest(".mark") || event.button > 1) return;
    this.drag = [event.clientX, event.clientY];
    this.desk.setPointerCapture(event.pointerId);
    event.preventDefault();
    this.desk.focus({ preventScroll: true });
  }

  moved(event) {
    if (!this.drag) return;
    const [x, y] = this.drag;
    this.drag = [event.clientX, event.clientY];
    this.moveBy(x - event.clientX, y - event.clientY);
  }

  key(event) {
    if (!this.sheet || event.ctrlKey || event.metaKey || event.altKey) return;
    const way = KEYS.get(event.key);
    if (way) this.moveBy(...way);
    else if (event.key === "+" || event.key === "=") this.zoomBy(STEP);
    else if (event.key === "-") this.zoomBy(1 / STEP);
    else if (event.key === "Home") this.fit();
    else return;
    event.preventDefault();
  }
}
