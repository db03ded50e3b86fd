// A new project: the land in outline, where one points at the ground and sees what each candidate covers.

import { targetOf } from "../frame/elements.js";

const NS = "http://www.w3.org/2000/svg";
const svg = document.getElementById("land-map");
const areas = document.getElementById("land-areas");
const mark = document.getElementById("land-mark");
const east = document.getElementById("ground-longitude");
const north = document.getElementById("ground-latitude");
const take = document.getElementById("ground-take");
const found = document.getElementById("crs-found");
// From Greenland to Cape Horn: less of the poles leaves more room for the rest, and they are a drag away.
const SHARE = 145 / 360;
const view = { x: -180, y: -84, width: 360, height: 145 };
/** @type {[number, number]} */
let place = [0, 0];
let drag = null;

function paint() {
  svg.setAttribute("viewBox", `${view.x} ${view.y} ${view.width} ${view.height}`);
  const r = view.width / 60;
  const [x, y] = place;
  mark.setAttribute(
    "d",
    `M${x - r} ${-y}H${x - r / 3}M${x + r / 3} ${-y}H${x + r}` +
      `M${x} ${-y - r}V${-y - r / 3}M${x} ${-y + r / 3}V${-y + r}`,
  );
}

// Degrees at a pointer.
/** @returns {[number, number]} */
function at(event) {
  const box = svg.getBoundingClientRect();
  const scale = Math.max(view.width / box.width, view.height / box.height);
  const x = view.x + view.width / 2 + (event.clientX - box.left - box.width / 2) * scale;
  const y = view.y + view.height / 2 + (event.clientY - box.top - box.height / 2) * scale;
  return [Math.max(-180, Math.min(180, x)), Math.max(-90, Math.min(90, -y))];
}

function say() {
  const [x, y] = place;
  east.value = `${Math.abs(x).toFixed(2)}° ${x < 0 ? "W" : "E"}`;
  north.value = `${Math.abs(y).toFixed(2)}° ${y < 0 ? "S" : "N"}`;
}

function zoom(factor, [x, y]) {
  const width = Math.max(4, Math.min(360, view.width * factor));
  const k = width / view.width;
  Object.assign(view, { x: x - (x - view.x) * k, y: -y - (-y - view.y) * k, width, height: width * SHARE });
  view.x = Math.max(-180, Math.min(180 - view.width, view.x));
  view.y = Math.max(-90, Math.min(90 - view.height, view.y));
  paint();
}

svg.addEventListener(
  "wheel",
  (event) => {
    event.preventDefault();
    zoom(Math.exp(event.deltaY * 0.002), at(event));
  },
  { passive: false },
);
svg.addEventListener("pointerdown", (event) => {
  drag = { from: [event.clientX, event.clientY], x: view.x, y: view.y, far: false };
  svg.setPointerCapture(event.pointerId);
});
svg.addEventListener("pointermove", (event) => {
  if (!drag) return;
  const dx = event.clientX - drag.from[0],
    dy = event.clientY - drag.from[1];
  if (Math.hypot(dx, dy) > 4) drag.far = true;
  if (!drag.far) return;
  const scale = view.width / svg.getBoundingClientRect().width;
  view.x = Math.max(-180, Math.min(180 - view.width, drag.x - dx * scale));
  view.y = Math.max(-90, Math.min(90 - view.height, drag.y - dy * scale));
  paint();
});
svg.addEventListener("pointerup", (event) => {
  const moved = drag?.far;
  drag = null;
  if (moved) return;
  place = at(event);
  say();
  paint();
  take.click();
});
svg.addEventListener("keydown", (event) => {
  const step = view.width / 72;
  const move = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
  if (move) {
    event.preventDefault();
    place = [Math.max(-180, Math.min(180, place[0] + move[0])), Math.max(-90, Math.min(90, place[1] + move[1]))];
    say();
    paint();
  } else if (event.key === "Enter") {
    event.preventDefault();
    take.click();
  } else if (event.key === "+" || event.key === "-") {
    event.preventDefault();
    zoom(event.key === "+" ? 0.7 : 1.4, place);
  }
});

// What a system is made for; an area across 180 degrees shows at both edges.
function show(row) {
  areas.replaceChildren();
  const text = row?.dataset.area;
  if (!text) return;
  const [west, south, right, top] = text.split(",").map(Number);
  for (const [a, b] of west <= right
    ? [[west, right]]
    : [
        [west, 180],
        [-180, right],
      ]) {
    const rect = document.createElementNS(NS, "rect");
    for (const [name, value] of Object.entries({
      class: "land-area",
      x: a,
      y: -top,
      width: Math.max(b - a, 0.5),
      height: Math.max(top - south, 0.5),
    }))
      rect.setAttribute(name, value);
    areas.append(rect);
  }
}

const chosen = () => found.querySelector("input[name=crs]:checked")?.closest(".crs-row");
found.addEventListener("pointerover", (event) => show(targetOf(event).closest(".crs-row") || chosen()));
found.addEventListener("pointerleave", () => show(chosen()));
found.addEventListener("change", () => show(chosen()));
found.addEventListener("focusin", (event) => show(targetOf(event).closest(".crs-row")));
document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target === found) show(chosen());
});
paint();
