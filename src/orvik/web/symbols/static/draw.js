// The millimetre grid: pieces are taken hold of and dragged, their corners too; what was dragged is kept when let go.

import { targetOf } from "../frame/elements.js";
import { Live } from "../frame/live.js";
import { startStrip, typing } from "../frame/strip.js";
import { PX_PER_MM } from "../frame/view.js";

const NS = "http://www.w3.org/2000/svg";
const GRID = 0.1;
const HANDLE_PX = 9;
const SNAP_PX = 7;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const SHAPE_KEYS = ["1", "2", "3", "4", "5"];

const bench = document.getElementById("draw-bench");
const slug = bench.dataset.slug;
const live = new Live(slug);
startStrip(live);
let drag = null;

const grid = () => /** @type {SVGSVGElement} */ (/** @type {Element} */ (document.querySelector("#draw-grid")));
const hand = () => JSON.parse(grid().dataset.hand ?? "{}");
const onScreen = () => /** @type {DOMMatrix} */ (grid().getScreenCTM());
const round = (value) => Math.round(value * 1000) / 1000;

/** @returns {[number, number]} */
function toMm(event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(onScreen().inverse());
  return [at.x, at.y];
}

const pxPerMm = () => onScreen().a;

// To corners and middles of other pieces within reach, else to the tenth of a millimetre; with Alt to nothing.
function snapped([x, y], event) {
  if (event.altKey) return [round(x), round(y)];
  const reach = SNAP_PX / pxPerMm();
  for (const [sx, sy] of hand().snaps) if (Math.hypot(sx - x, sy - y) < reach) return [sx, sy];
  return [round(Math.round(x / GRID) * GRID), round(Math.round(y / GRID) * GRID)];
}

function make(name, parent, attributes) {
  const element = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent.append(element);
  return element;
}

function polar([x, y], degrees, reach) {
  const angle = (degrees * Math.PI) / 180;
  return [x + reach * Math.sin(angle), y - reach * Math.cos(angle)];
}

// What a piece is held by: each point of a line; the first corner of another shape, a star's inner one, an arc's end.
function grips(piece) {
  if (piece.shape === "line") return piece.points.map((at, i) => ({ name: `point-${i}`, at }));
  const out = [{ name: "reach", at: polar(piece.at, piece.turned, piece.reach) }];
  if (piece.shape === "star")
    out.push({ name: "inner", at: polar(piece.at, piece.turned + 180 / piece.sides, piece.inner) });
  if (piece.shape === "arc") out.push({ name: "sweep", at: polar(piece.at, piece.turned + piece.sweep, piece.reach) });
  return out;
}

function outline(piece) {
  if (piece.shape === "line") return piece.closed ? [...piece.points, piece.points[0]] : piece.points;
  const { at, sides, reach, inner, turned, sweep } = piece;
  const count = piece.shape === "polygon" ? sides : piece.shape === "star" ? 2 * sides : 48;
  const whole = piece.shape === "arc" ? sweep : 360;
  const far = (i) => (piece.shape === "star" && i % 2 ? inner : reach);
  return Array.from({ length: count + 1 }, (_, i) => polar(at, turned + (whole * i) / count, far(i)));
}

function paint() {
  if (!grid()) return;
  const layer = document.getElementById("grid-hand");
  layer.replaceChildren();
  const size = HANDLE_PX / pxPerMm();
  const { piece: held, caption } = hand();
  const piece = drag?.piece || held;
  const scale = document.getElementById("draw-scale");
  scale.textContent = `Millimetres on the sheet, ${Math.round(pxPerMm() / PX_PER_MM)} × true size`;
  const cross = drag?.what === "anchor" ? drag.at : [0, 0];
  if (!hand().pattern) {
    const anchor = make("g", layer, { class: "grid-anchor", "data-grip": "anchor" });
    make("circle", anchor, { cx: cross[0], cy: cross[1], r: size * 0.8 });
    make("path", anchor, {
      d: `M${cross[0] - size * 1.3} ${cross[1]}h${size * 2.6}M${cross[0]} ${cross[1] - size * 1.3}v${size * 2.6}`,
    });
  }
  if (caption) {
    const at = drag?.what === "caption" ? drag.at : caption;
    make("rect", layer, {
      class: "grid-caption",
      "data-grip": "caption",
      x: at[0] - caption[2] * 0.7,
      y: at[1] - caption[2] / 2,
      width: caption[2] * 1.4,
      height: caption[2],
    });
  }
  if (!piece) return;
  const path = outline(piece)
    .map((at, i) => `${i ? "L" : "M"}${at[0]} ${at[1]}`)
    .join("");
  make("path", layer, { class: "grid-outline", d: path });
  for (const { name, at } of grips(piece)) {
    const box = { x: at[0] - size / 2, y: at[1] - size / 2, width: size, height: size };
    make("rect", layer, { class: "grid-grip", "data-grip": name, ...box });
  }
  const all = outline(piece);
  const wide = Math.max(...all.map(([x]) => x)) - Math.min(...all.map(([x]) => x));
  const low = Math.max(...all.map(([, y]) => y));
  const middle = (Math.max(...all.map(([x]) => x)) + Math.min(...all.map(([x]) => x))) / 2;
  const text = make("text", layer, { class: "grid-measure", x: middle, y: low + size * 2, "font-size": size * 1.4 });
  text.textContent = `${wide.toFixed(2)} mm`;
}

function moved(piece, dx, dy) {
  if (piece.shape === "line") return { ...piece, points: piece.points.map(([x, y]) => [round(x + dx), round(y + dy)]) };
  return { ...piece, at: [round(piece.at[0] + dx), round(piece.at[1] + dy)] };
}

// A piece with one of its grips at a place.
function gripped(piece, name, at, event) {
  if (name.startsWith("point-")) {
    const points = piece.points.map((point, i) => (name === `point-${i}` ? at : point));
    return { ...piece, points };
  }
  const [dx, dy] = [at[0] - piece.at[0], at[1] - piece.at[1]];
  const far = Math.max(0.05, event.altKey ? Math.hypot(dx, dy) : Math.round(Math.hypot(dx, dy) / 0.05) * 0.05);
  const angle = (Math.atan2(dx, -dy) * 180) / Math.PI;
  const even = event.altKey ? angle : Math.round(angle / 5) * 5;
  if (name === "inner") return { ...piece, inner: round(far) };
  if (name === "sweep") {
    const sweep = (((even - piece.turned) % 360) + 360) % 360 || 360;
    return { ...piece, sweep: round(sweep) };
  }
  return { ...piece, reach: round(far), turned: piece.shape === "circle" ? piece.turned : round(even) };
}

function where() {
  const { ornament, piece } = grid().dataset;
  return { ornament, piece };
}

function post(address, values) {
  return htmx.ajax("POST", grid().dataset.url + address, {
    source: bench,
    target: "#draw-bench",
    swap: "innerHTML",
    values: { ...where(), ...values },
  });
}

function keepPiece(piece) {
  const values =
    piece.shape === "line"
      ? { points: piece.points.map(([x, y]) => `${x} ${y}`).join("; ") }
      : { x: piece.at[0], y: piece.at[1], reach: piece.reach, inner: piece.inner };
  if (piece.shape !== "line") Object.assign(values, { turned: piece.turned, sweep: piece.sweep });
  return post("/piece", { do: "set", ...values });
}

function choose(number) {
  const { url, ornament } = grid().dataset;
  htmx.ajax("GET", `${url}?piece=${number}&ornament=${ornament}`, {
    source: bench,
    target: "#draw-bench",
    swap: "innerHTML",
  });
}

bench.addEventListener("pointerdown", (event) => {
  if (event.button !== 0 || !grid() || !targetOf(event).closest?.("#draw-grid")) return;
  event.preventDefault();
  bench.focus({ preventScroll: true });
  const grip = targetOf(event).closest("[data-grip]")?.dataset.grip;
  const { piece } = hand();
  const from = toMm(event);
  if (grip === "anchor" || grip === "caption") drag = { what: grip, at: from, from };
  else if (grip && piece) drag = { what: grip, piece, start: piece, from };
  else {
    const number = targetOf(event).closest("[data-number]")?.dataset.number;
    if (number === undefined) return;
    if (number !== grid().dataset.piece) choose(number);
    else drag = { what: "whole", piece, start: piece, from };
  }
  if (drag) bench.setPointerCapture(event.pointerId);
});

bench.addEventListener("pointermove", (event) => {
  if (!grid()) return;
  const at = toMm(event);
  const place = document.getElementById("draw-place");
  place.textContent = `${at[0].toFixed(2)} right · ${at[1].toFixed(2)} down, mm`;
  if (!drag) return;
  drag.moved ||= Math.hypot(at[0] - drag.from[0], at[1] - drag.from[1]) * pxPerMm() > 3;
  if (!drag.moved) return;
  if (drag.what === "anchor" || drag.what === "caption") drag.at = snapped(at, event);
  else if (drag.what === "whole") {
    // By its first point or its middle, so that this comes to rest on the grid.
    const hold = drag.start.shape === "line" ? drag.start.points[0] : drag.start.at;
    const to = snapped([hold[0] + at[0] - drag.from[0], hold[1] + at[1] - drag.from[1]], event);
    drag.piece = moved(drag.start, to[0] - hold[0], to[1] - hold[1]);
  } else drag.piece = gripped(drag.start, drag.what, snapped(at, event), event);
  paint();
});

bench.addEventListener("pointerup", () => {
  const done = drag;
  drag = null;
  if (!done?.moved) return;
  if (done.what === "anchor") post("", { anchor_x: done.at[0], anchor_y: done.at[1] });
  else if (done.what === "caption") post("", { caption_x: done.at[0], caption_y: done.at[1] });
  else {
    // It stays where it was let go until the drawing follows.
    drag = { ...done, moved: false };
    keepPiece(done.piece).finally(() => {
      drag = null;
      paint();
    });
  }
});

bench.addEventListener("pointercancel", () => {
  drag = null;
  paint();
});

document.addEventListener("keydown", (event) => {
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || !grid()) return;
  const shape = SHAPE_KEYS.indexOf(event.key);
  const press = (css) => document.querySelector(css)?.click();
  if (shape >= 0) document.querySelectorAll("[data-shape]")[shape]?.click();
  const pieces = document.querySelectorAll(".grid-piece").length;
  if (event.key === "Tab" && document.activeElement === bench && pieces > 1) {
    const now = Number(grid().dataset.piece || -1);
    const to = now + (event.shiftKey ? -1 : 1);
    if (to < 0 || to >= pieces) return;
    event.preventDefault();
    choose(to);
    return;
  }
  const { piece } = hand();
  const arrow = ARROWS[event.key];
  if (!piece) return;
  if (arrow && document.activeElement === bench) {
    event.preventDefault();
    const step = event.shiftKey ? 1 : GRID;
    keepPiece(moved(piece, arrow[0] * step, arrow[1] * step));
  } else if (event.key === "w") press('[data-do="swap"]');
  else if (event.key === "d") press('[data-do="copy"]');
  else if (event.key === "Delete") press('[data-do="remove"]');
});

// What another window, or undo, has changed is shown, with the same piece selected; what this page asked for comes by
// itself, so that nobody's typing is swept away by the answer to what was typed before.
let latest = 0;
let waiting = 0;
document.body.addEventListener("htmx:beforeRequest", () => {
  waiting += 1;
});
document.body.addEventListener("htmx:afterRequest", () => {
  waiting -= 1;
  setTimeout(follow);
});
live.on("changed", (words) => {
  latest = words.revision;
  follow();
});
function follow() {
  if (!grid() || drag || waiting || latest <= Number(grid().dataset.revision)) return;
  const { url, ornament, piece } = grid().dataset;
  htmx.ajax("GET", `${url}?piece=${piece}&ornament=${ornament}`, {
    source: bench,
    target: "#draw-bench",
    swap: "innerHTML",
  });
}
document.body.addEventListener("htmx:afterSettle", paint);
new ResizeObserver(paint).observe(bench);
paint();
