// Georeferencing: a place on the scan and the same place on the ground make a control point.

import { flag } from "../frame/refusals.js";
import { Live } from "../frame/live.js";
import { startLadder } from "../frame/ladder.js";
import { OrvikMap } from "../frame/map.js";
import { Scan } from "./scan.js";
import { startStrip, typing } from "../frame/strip.js";
import { token } from "../frame/tokens.js";

const OFF = token("switched-off");
const SHEET = token("sheet");
const SIGNAL = token("signal");
const SOUND = token("sound");

// Arrows show residuals magnified, by a round factor with which the longest is at most so many pixels.
const LONGEST = 50;
const root = document.getElementById("georef");
const map = new OrvikMap(document.getElementById("map"));
const live = new Live(map.slug);
const scan = new Scan(map.slug, root.dataset.source, Number(root.dataset.width), Number(root.dataset.height));
const line = document.getElementById("place-line");
const label = document.getElementById("ring-label");
let points = [];
let pixel = null;
let ground = null;
let sent = null;
let held = null;

startStrip(live);
startLadder(map);
scan.trouble = flag;
readPoints();
map.start();
scan.moved();

function readPoints() {
  points = JSON.parse(document.getElementById("control-points").dataset.points ?? "[]");
  scan.paint();
  map.paintOverlay();
}

function cross(context, px, py, colour, number) {
  context.strokeStyle = colour;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(px - 7, py);
  context.lineTo(px + 7, py);
  context.moveTo(px, py - 7);
  context.lineTo(px, py + 7);
  context.stroke();
  if (number == null) return;
  context.font = '12px "IBM Plex Mono"';
  context.lineWidth = 3;
  context.strokeStyle = SHEET;
  context.strokeText(number, px + 6, py - 6);
  context.fillStyle = colour;
  context.fillText(number, px + 6, py - 6);
}

function magnified() {
  const worst = Math.max(...points.map((p) => (p.arrow ? Math.hypot(p.arrow[0], p.arrow[1]) : 0)), 0) * scan.k;
  return [1000, 500, 200, 100, 50, 20, 10, 5, 2].find((factor) => worst * factor <= LONGEST) || 1;
}

scan.hooks.push((context) => {
  const factor = magnified();
  document.getElementById("arrow-note").textContent = points.some((p) => p.arrow) ? `residual arrows × ${factor}` : "";
  points.forEach((point, i) => {
    const [px, py] = scan.toScreen(point.column, point.row);
    const colour = point.on ? SOUND : OFF;
    if (point.arrow) {
      const k = factor * scan.k;
      context.strokeStyle = point.on ? SIGNAL : OFF;
      context.lineWidth = 2;
      context.beginPath();
      context.moveTo(px, py);
      context.lineTo(px - point.arrow[0] * k, py - point.arrow[1] * k);
      context.stroke();
    }
    cross(context, px, py, colour, i + 1);
  });
  if (pixel) cross(context, ...scan.toScreen(...pixel), SIGNAL);
  else if (scan.mark) cross(context, ...scan.toScreen(...scan.mark), OFF);
});

map.on("overlay", (context, view) => {
  points.forEach((point, i) => cross(context, ...view.toScreen(point.x, point.y), point.on ? SOUND : OFF, i + 1));
  if (ground) cross(context, ...view.toScreen(...ground), SIGNAL);
  if (held?.label) {
    const [px, py] = view.toScreen(...held.at);
    context.strokeStyle = SIGNAL;
    context.lineWidth = 1.5;
    context.beginPath();
    context.arc(px, py, 9, 0, 2 * Math.PI);
    context.stroke();
  }
});

async function aim([px, py]) {
  const [x, y] = map.view.toGround(px, py);
  const answer = await live.ask({ do: "aim", x, y, reach: map.view.unitsPerPx * 9 }).catch(() => null);
  return answer && !answer.refused ? answer : null;
}

let aiming = false;
map.on("pointer", async (at) => {
  if (aiming || !live.idle) return;
  aiming = true;
  held = await aim(at);
  aiming = false;
  if (!held) return;
  line.textContent = held.place;
  label.hidden = !held.label;
  if (held.label) {
    const [px, py] = map.view.toScreen(...held.at);
    label.textContent = held.label;
    label.style.left = `${Math.max(4, Math.min(px + 14, map.view.width - label.offsetWidth - 4))}px`;
    label.style.top = `${py < 40 ? py + 14 : py - 34}px`;
  }
  map.soon(() => map.paintOverlay());
});

map.field.addEventListener("pointerdown", async (event) => {
  if (event.button !== 0 || map.spaceHeld) return;
  const found = await aim(map.place(event));
  if (!found) return;
  ground = found.at;
  map.paintOverlay();
  join();
});

scan.picked = (column, row) => {
  pixel = [column, row];
  document.getElementById("pending-pixel").textContent = `${column.toFixed(1)}, ${row.toFixed(1)}`;
  document.getElementById("typed-column").value = String(column);
  document.getElementById("typed-row").value = String(row);
  document.getElementById("typed-add").disabled = false;
  scan.paint();
  join();
};

async function join() {
  if (!pixel || !ground) return;
  const values = {
    column: String(pixel[0]),
    row: String(pixel[1]),
    east: String(ground[0]),
    north: String(ground[1]),
    system: "project",
  };
  drop();
  await htmx.ajax("POST", `/p/${map.slug}/underlays/${root.dataset.source}/points`, {
    source: root,
    target: "#control-points",
    swap: "outerHTML",
    values,
  });
}

function drop() {
  pixel = null;
  ground = null;
  document.getElementById("pending-pixel").textContent = "click it";
  document.getElementById("typed-add").disabled = true;
  scan.paint();
  map.paintOverlay();
}

// The next place may be picked and typed before the last point is answered: only what was sent is dropped.
const typed = document.getElementById("typed-point");
const typedFigures = ["typed-east", "typed-north"].map((id) => document.getElementById(id));
typed.addEventListener("htmx:beforeRequest", () => {
  sent = { pixel, figures: typedFigures.map((field) => field.value) };
});
document.body.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id !== "control-points" || event.detail.requestConfig?.elt !== typed) return;
  if (!event.detail.shouldSwap) return;
  typedFigures.forEach((field, i) => {
    if (field.value === sent.figures[i]) field.value = "";
  });
  if (pixel === sent.pixel) drop();
});
document.body.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id === "control-points" || event.detail.elt?.id === "control-points") readPoints();
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && !typing(event.target)) drop();
});

live.on("ink", (buffer) => map.takeInk(buffer));
live.on("labels", (words) => map.notice(words.failed));
live.on("changed", async (words) => {
  map.takeWords(words);
  if (!words.tables?.includes("sources")) return;
  await htmx.ajax("GET", `/p/${map.slug}/underlays/${root.dataset.source}/points`, {
    source: "#control-points",
    target: "#control-points",
    swap: "outerHTML",
  });
});
