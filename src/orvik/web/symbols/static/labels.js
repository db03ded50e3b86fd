// The bench of labels: selected on the map, dragged, moved and turned by keys.

import { targetOf } from "../frame/elements.js";
import { counted } from "../frame/request_counter.js";
import { labelAt, middleOf, neighbour, sameKey, stepOf, traceBox } from "../frame/held_label.js";
import { startLadder } from "../frame/ladder.js";
import { Live } from "../frame/live.js";
import { OrvikMap } from "../frame/map.js";
import { startStrip, typing } from "../frame/strip.js";
import { token } from "../frame/tokens.js";
import { PX_PER_MM } from "../frame/view.js";

const TURN = 5;
// A press that moves less than this is a click.
const DRAG_PX = 3;

const map = new OrvikMap(document.getElementById("map"));
const live = new Live(map.slug);
const words = document.getElementById("label-words");
let labels = [];
let selected = null;
let drag = null;
let hovered = null;

startStrip(live);
startLadder(map);
map.on("labels", () => readPlaces());
map.start();
live.on("ink", (buffer) => map.takeInk(buffer));
live.on("labels", (told) => map.notice(told.failed));
live.on("changed", (told) => map.takeWords(told));

const toScreen = (x, y) => map.view.toScreen(x, y);
const middle = (label) => middleOf(label, toScreen, PX_PER_MM);
const shown = () => labels.filter((label) => map.view.denominator <= label.largest);
const url = (key) => `/p/${map.slug}/symbols/labels/${key.join("/")}`;

async function readPlaces() {
  const response = await counted(fetch(`/p/${map.slug}/symbols/labels/places`)).catch(() => null);
  if (!response?.ok) return;
  labels = await response.json();
  if (selected) selected = labels.find((label) => sameKey(label.key, selected.key)) || null;
  drag = null;
  map.root.dataset.places = String(labels.length);
  document.body.dispatchEvent(new CustomEvent("orvik-labelled"));
  map.paintOverlay();
}

function takeSelected(label) {
  selected = label;
  if (label) htmx.ajax("GET", url(label.key), { target: "#label-slip", swap: "innerHTML" });
  else document.getElementById("label-slip").replaceChildren();
  words.textContent = label ? `${label.text} selected` : "";
  map.paintOverlay();
}

// Keeps a label with its middle at a place on the screen.
function keepAt(label, [px, py]) {
  const [ax, ay] = toScreen(...label.at);
  const offset = [(px - ax) / PX_PER_MM, (py - ay) / PX_PER_MM];
  const [x, y] = label.keptBy === "offset" ? offset : map.view.toGround(px, py);
  keep(label, { x: x.toFixed(3), y: y.toFixed(3) });
}

function keep(label, values) {
  return htmx.ajax("POST", url(label.key), { values, target: "#label-slip", swap: "innerHTML" });
}

map.field.addEventListener("pointerdown", (event) => {
  if (event.button !== 0 || map.spaceHeld) return;
  const at = map.place(event);
  const label = labelAt(shown(), at, toScreen, PX_PER_MM);
  if (!label) {
    takeSelected(null);
    return;
  }
  if (!sameKey(label.key, selected?.key)) takeSelected(label);
  drag = { label, from: at, by: [0, 0], moved: false };
  map.field.setPointerCapture(event.pointerId);
});

map.field.addEventListener("pointerup", () => {
  const ended = drag;
  drag = null;
  if (!ended?.moved) return;
  const [x, y] = middle(ended.label);
  // Its box stays where it was let go until the letters follow.
  drag = { ...ended, kept: true };
  keepAt(ended.label, [x + ended.by[0], y + ended.by[1]]);
});

map.on("pointer", (at) => {
  if (drag && !drag.kept) {
    drag.by = [at[0] - drag.from[0], at[1] - drag.from[1]];
    drag.moved ||= Math.hypot(...drag.by) >= DRAG_PX;
  } else hovered = labelAt(shown(), at, toScreen, PX_PER_MM);
  map.field.classList.toggle("over-label", Boolean(hovered));
});

map.on("overlay", (context) => {
  context.lineWidth = 1.5;
  if (hovered && !drag) {
    context.strokeStyle = token("edge");
    traceBox(context, hovered, middle(hovered), PX_PER_MM);
  }
  const held = drag?.label || selected;
  if (!held) return;
  const [x, y] = middle(held);
  const by = drag?.moved ? drag.by : [0, 0];
  context.strokeStyle = token("signal");
  traceBox(context, held, [x + by[0], y + by[1]], PX_PER_MM);
  if (drag?.moved) {
    context.setLineDash([3, 3]);
    context.beginPath();
    context.moveTo(...toScreen(...held.at));
    context.lineTo(x + by[0], y + by[1]);
    context.stroke();
    context.setLineDash([]);
  }
});

function next(way) {
  const inSight = shown().filter((label) => {
    const [x, y] = middle(label);
    return x >= 0 && x <= map.view.width && y >= 0 && y <= map.view.height;
  });
  const label = neighbour(inSight, selected, way, middle);
  if (label) takeSelected(label);
}

function turn(by) {
  const angle = ((selected.angle + by + 540) % 360) - 180;
  keep(selected, { angle: angle.toFixed(1) });
}

// What was refused goes back to where it stands.
document.body.addEventListener("htmx:responseError", () => {
  drag = null;
  map.paintOverlay();
});

document.addEventListener("keydown", (event) => {
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "n" || event.key === "b") next(event.key === "n" ? 1 : -1);
  if (!selected) return;
  const step = stepOf(event);
  if (step) {
    event.preventDefault();
    const [x, y] = middle(selected);
    keepAt(selected, [x + step[0] * PX_PER_MM, y + step[1] * PX_PER_MM]);
  } else if (event.key === "," || event.key === ".") turn(event.key === "," ? -TURN : TURN);
  else if (event.key === "Delete") keep(selected, { hidden: "1" });
  else if (event.key === "Backspace") htmx.ajax("POST", `${url(selected.key)}/back`, { target: "#label-slip" });
  else if (event.key === "Escape") takeSelected(null);
});

// A unit that is selected in the column is shown, wherever its slip was folded away.
document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "unit-slip" || event.detail.requestConfig?.verb !== "get") return;
  const slip = document.getElementById("selected-unit");
  slip.open = true;
  slip.scrollIntoView({ block: "nearest" });
});

document.addEventListener("click", (event) => {
  const place = targetOf(event).closest("[data-at]");
  if (place) {
    [map.view.x, map.view.y] = String(place.dataset.at).split(" ").map(Number);
    map.moved();
    htmx.ajax("GET", url(String(place.dataset.key).split(" ")), { target: "#label-slip", swap: "innerHTML" });
  }
  const attribute = targetOf(event).closest("[data-insert]");
  if (attribute) {
    const field = /** @type {HTMLInputElement} */ (document.getElementById(String(attribute.dataset.into)));
    field.setRangeText(`{${attribute.dataset.insert}}`, field.selectionStart ?? 0, field.selectionEnd ?? 0, "end");
    field.focus();
  }
});
