// Compile: pens, pointer and keys. What they mean is decided by the server; here they are sent and shown.

import "./refusals.js";
import { Live } from "./live.js";
import { OrvikMap, startLadder } from "./map.js";
import { drawHand } from "./hand.js";
import { startViews } from "./saved_views.js";
import { startSnapBar } from "./snap_bar.js";
import { startStrip, typing } from "./strip.js";
import { PX_PER_MM } from "./view.js";

const map = new OrvikMap(document.getElementById("map"));
const live = new Live(map.slug);
const slip = document.getElementById("slip");
const label = document.getElementById("ring-label");
const line = document.getElementById("place-line");
// What is in hand: the pen, the drawing, the ring, an attitude that waits, and the picked feature.
const hand = { pen: null, table: null, vertices: [], ring: null, at: null, waiting: null, picked: null, radius: 15, crosses: false, free: false };

// While something is being drawn, undo takes back its last vertex, not what was kept before it.
startStrip(live, (what) => {
  const drawing = hand.vertices.length > 0 || Boolean(hand.waiting);
  if (drawing && what === "undo") inTurn(back);
  return drawing;
});
startLadder(map);
startViews(map);
startSnapBar(live, (radius) => { hand.radius = radius; map.paintOverlay(); });
map.on("overlay", (context, view) => drawHand(context, view, hand));
map.start();

async function ask(message) {
  try {
    const answer = await live.ask(message);
    if (answer.refused) refuse(answer.refused);
    return answer;
  } catch (error) {
    refuse(error.message);
    return { refused: error.message };
  }
}

// A refusal stands where the hand is: in the slip and beside the ring.
function refuse(sentence) {
  map.notice(sentence);
  const place = document.getElementById("slip-refusal");
  if (place) { place.textContent = sentence; place.hidden = !sentence; }
}

function unit() { return document.getElementById("current-unit")?.value || localStorage.getItem("orvik-unit") || ""; }

function fetchSlip(path) {
  return htmx.ajax("GET", `/p/${map.slug}/${path}`, { target: "#slip", swap: "innerHTML" }).then(() => {
    const select = document.getElementById("current-unit");
    const kept = localStorage.getItem("orvik-unit");
    if (select && kept && [...select.options].some((o) => o.value === kept)) select.value = kept;
  });
}

// Pens

async function takePen(name) {
  const answer = await ask({ do: "pen", name });
  if (answer.refused) return;
  hand.pen = name;
  Object.assign(hand, { vertices: [], waiting: null, picked: null, crosses: false, ring: null });
  for (const pen of document.querySelectorAll(".pen")) {
    const taken = pen.dataset.pen === name;
    pen.setAttribute("aria-pressed", String(taken));
    if (taken) hand.table = pen.dataset.table;
  }
  map.field.classList.toggle("drawing", Boolean(name));
  await fetchSlip(name ? `slip/pen/${name}` : "empty-slip");
  map.paintOverlay();
  if (map.pointer) hover();
}

document.getElementById("pens").addEventListener("click", (event) => {
  const pen = event.target.closest(".pen");
  if (pen) { inTurn(() => takePen(pen.dataset.pen === hand.pen ? null : pen.dataset.pen)); map.field.focus(); }
});

// The ring: the latest place is asked for as soon as the answer before is in.

let hovering = false;
let pressing = false;
let asked = null;
async function hover() {
  if (hovering || pressing || !map.pointer || !live.idle) return;
  hovering = true;
  while (map.pointer && asked !== map.pointer && !pressing) {
    asked = map.pointer;
    const [x, y] = map.view.toGround(...asked);
    const answer = await live.ask({ do: "hover", x, y, free: hand.free, scale: map.view.denominator }).catch(() => null);
    if (!answer || answer.refused) break;
    showRing(answer);
  }
  hovering = false;
}

function showRing(answer) {
  hand.ring = answer.ring;
  hand.at = answer.at;
  hand.held = answer.held || null;
  line.textContent = `${answer.place.grid} · ${answer.place.geographic}`;
  document.getElementById("coarse-note").hidden = !answer.coarse;
  if (answer.drawing) showDrawing(answer.drawing, false);
  if (hand.held && hand.pen) {
    const [px, py] = map.view.toScreen(...hand.at);
    label.textContent = hand.held.label.replace(/ 0$/, "");
    label.hidden = false;
    label.style.left = `${Math.min(px + 20, map.view.width - label.offsetWidth - 4)}px`;
    label.style.top = `${py < 40 ? py + 16 : py - 34}px`;
  } else label.hidden = true;
  map.soon(() => map.paintOverlay());
}

function showDrawing(drawing, whole = true) {
  if (whole) hand.vertices = drawing ? drawing.vertices : [];
  hand.crosses = Boolean(drawing?.crosses);
  for (const name of ["count", "length", "sheet", "captured"]) {
    const fact = slip.querySelector(`[data-fact="${name}"]`);
    if (fact) fact.textContent = drawing ? drawing[name] : name === "count" ? "0" : "–";
  }
  const crossing = document.getElementById("crossing");
  if (crossing) crossing.hidden = !hand.crosses;
  const bar = document.querySelector("#true-length path");
  if (bar) {
    const px = Math.min((drawing?.sheet_mm || 0) * PX_PER_MM, 236);
    bar.setAttribute("d", px ? `M0.75 2V10M0.75 6H${px}M${px} 2V10` : "");
  }
}

// Without the pointer: arrows move the ring, full stop presses.
function nudge(dx, dy) {
  const [x, y] = map.pointer || [map.view.width / 2, map.view.height / 2];
  map.pointer = [Math.max(0, Math.min(map.view.width, x + dx)), Math.max(0, Math.min(map.view.height, y + dy))];
  if (map.pointer[0] !== x + dx || map.pointer[1] !== y + dy) { map.view.moveBy(-dx * 4, -dy * 4); map.moved(); }
  hover();
}

// Clicks and keys are carried out one after the other, however fast they come; each click with the ring
// that its own place shows.
let turn = Promise.resolve();
function inTurn(work) {
  turn = turn.then(work).catch((error) => refuse(error.message));
}

function press(px, py, free) {
  const [x, y] = map.view.toGround(px, py);
  const scale = map.view.denominator;
  inTurn(async () => {
    if (!hand.pen) { await pick(x, y); return; }
    // The ring stands still from the moment it is asked for until its click is answered.
    pressing = true;
    try { await place({ x, y, free, scale }); } finally { pressing = false; }
    map.paintOverlay();
  });
}

async function place({ x, y, free, scale }) {
  const ring = await ask({ do: "hover", x, y, free, scale });
  if (ring.refused) return;
  showRing(ring);
  const answer = await ask({ do: "press", x, y, ring: ring.ring, scale, unit: unit() });
  if (answer.refused) return;
  refuse("");
  if (answer.waiting) startReading(answer);
  if (answer.drawing) showDrawing(answer.drawing);
  if (answer.closed) await finish();
}

map.field.addEventListener("pointerdown", (event) => {
  if (event.button !== 0 || map.spaceHeld) return;
  map.field.focus({ preventScroll: true });
  hand.free = event.ctrlKey;
  // The second press of a double-click would fall on the vertex just placed.
  if (event.detail >= 2 && hand.pen && hand.table !== "points") return;
  press(...map.place(event), event.ctrlKey);
});
map.field.addEventListener("dblclick", () => { if (hand.pen && hand.table !== "points") inTurn(finish); });
map.on("pointer", (at, event) => { hand.free = event.ctrlKey; hover(); });
map.field.addEventListener("pointerleave", () => { label.hidden = true; });

async function finish() {
  const answer = await ask({ do: "finish", unit: unit() });
  if (answer.refused) return;
  refuse("");
  showDrawing(null);
  map.paintOverlay();
}

async function drop() {
  await ask({ do: "drop" });
  hand.waiting = null;
  showDrawing(null);
  refuse("");
  const input = document.getElementById("reading");
  if (input) { input.value = ""; input.disabled = true; }
  map.paintOverlay();
}

// Attitudes: one click, then figures; the sign turns with every figure.

function startReading(answer) {
  hand.waiting = answer;
  const input = document.getElementById("reading");
  input.disabled = false;
  input.value = "";
  input.focus();
  document.getElementById("reading-words").textContent = "Type strike and dip, such as 350/60; Enter keeps it.";
}

slip.addEventListener("input", async (event) => {
  if (event.target.id !== "reading") return;
  const words = document.getElementById("reading-words");
  const refusal = slip.querySelector(".reading .refusal");
  refusal.hidden = true;
  const text = event.target.value.trim();
  if (!/\d[/\s,;]+\d/.test(text)) { words.textContent = "Strike, then a stroke or a space, then dip."; return; }
  const answer = await live.ask({ do: "reading", text }).catch(() => null);
  if (!answer) return;
  if (answer.refused) { words.textContent = ""; refusal.textContent = answer.refused; refusal.hidden = false; return; }
  hand.waiting = answer;
  words.textContent = answer.words;
  map.paintOverlay();
});

slip.addEventListener("submit", async (event) => {
  if (event.target.id !== "reading-form") return;
  event.preventDefault();
  const input = document.getElementById("reading");
  const answer = await live.ask({ do: "keep_reading", text: input.value }).catch((error) => ({ refused: error.message }));
  const refusal = slip.querySelector(".reading .refusal");
  refusal.textContent = answer.refused || "";
  refusal.hidden = !answer.refused;
  if (answer.refused) return;
  hand.waiting = null;
  input.value = "";
  input.disabled = true;
  document.getElementById("reading-words").textContent = `Kept: ${answer.words}.`;
  map.field.focus();
  map.paintOverlay();
});

slip.addEventListener("change", (event) => {
  if (event.target.id === "current-unit") localStorage.setItem("orvik-unit", event.target.value);
});

// Selecting

async function pick(x, y) {
  const answer = await ask({ do: "pick", x, y, reach: map.view.unitsPerPx * 7 });
  if (answer.refused) return;
  hand.picked = answer.picked;
  await fetchSlip(answer.picked ? `slip/${answer.picked.table}/${answer.picked.id}` : "empty-slip");
  map.paintOverlay();
}

async function deletePicked() {
  const form = document.getElementById("feature-form");
  if (!hand.picked || !form) return;
  const answer = await ask({ do: "delete", table: hand.picked.table, id: hand.picked.id, revision: Number(form.dataset.revision) });
  if (answer.refused) return;
  hand.picked = null;
  await fetchSlip("empty-slip");
  map.paintOverlay();
}

slip.addEventListener("click", (event) => { if (event.target.closest("#delete-feature")) inTurn(deletePicked); });

// Keys

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && event.target.id === "reading") { inTurn(drop); map.field.focus(); return; }
  if (typing(event.target) || event.ctrlKey || event.metaKey) return;
  const digit = /^(?:Digit|Numpad)(\d)$/.exec(event.code);
  if (digit) {
    const key = `${event.shiftKey ? "Shift+" : event.altKey ? "Alt+" : ""}${digit[1]}`;
    const pen = document.querySelector(`.pen[data-key="${key}"]`);
    if (pen) { event.preventDefault(); inTurn(() => takePen(pen.dataset.pen)); }
    return;
  }
  const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  const onButton = event.target.closest?.("button, a, input");
  if (arrows && !onButton) { event.preventDefault(); const far = event.shiftKey ? 1 : 10; nudge(arrows[0] * far, arrows[1] * far); }
  else if (event.key === "." && map.pointer) press(...map.pointer, false);
  else if (event.key === "Enter" && !onButton) { event.preventDefault(); inTurn(async () => { if (hand.vertices.length) await finish(); }); }
  else if (event.key === "Backspace") { event.preventDefault(); inTurn(back); }
  else if (event.key === "Delete") { event.preventDefault(); inTurn(deletePicked); }
  else if (event.key === "Escape") inTurn(escape);
});

async function back() {
  const answer = await ask({ do: "back" });
  if (!answer.refused) { refuse(""); showDrawing(answer.drawing); map.paintOverlay(); hover(); }
}

async function escape() {
  if (hand.vertices.length || hand.waiting) await drop();
  else if (hand.pen) await takePen(null);
  else if (hand.picked) { hand.picked = null; await fetchSlip("empty-slip"); map.paintOverlay(); }
}

// What others and undo have changed

live.on("ink", (buffer) => map.takeInk(buffer));
live.on("lost", () => map.notice("The connection to Orvik is lost; what is being drawn must be drawn again."));
live.on("found", async () => {
  if (hand.pen) { const pen = hand.pen; hand.pen = null; hand.vertices = []; await takePen(pen); }
});
live.on("changed", async (words) => {
  map.takeWords(words);
  if (hand.picked && !hand.pen) {
    const { table, id } = hand.picked;
    const answer = await live.ask({ do: "show", table, id }).catch(() => null);
    hand.picked = answer?.picked || null;
    const editing = slip.contains(document.activeElement) && typing(document.activeElement);
    if (!hand.picked) fetchSlip("empty-slip");
    else if (!editing) fetchSlip(`slip/${table}/${id}`);
    else { const form = document.getElementById("feature-form"); if (form) { form.dataset.revision = words.revision; } }
    map.paintOverlay();
  }
});
