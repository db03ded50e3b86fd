// Compile: pens, pointer and keys. What they mean is decided by the server; here they are sent and shown.

import { targetOf } from "../frame/elements.js";
import { startAttitudes } from "./attitudes.js";
import { Desk } from "./desk.js";
import { startFindings } from "./findings.js";
import { drawHand } from "./hand.js";
import { startKeys } from "./keys.js";
import { startLadder } from "../frame/ladder.js";
import { startLeftDrawing } from "./left_drawing.js";
import { startNets } from "./nets.js";
import { startPlanes } from "./planes.js";
import { startNotebook } from "./notebook.js";
import { Ring } from "./ring.js";
import { startViews } from "../frame/saved_views.js";
import { startSections } from "./sections.js";
import { startSelection } from "./selection.js";
import { startSnapBar } from "./snap_bar.js";
import { startStrip } from "../frame/strip.js";
import { startTable } from "./table.js";

const desk = new Desk();
const { map, live, slip, hand } = desk;
const ring = new Ring(desk);

// While something is being drawn, undo takes back its last vertex, not what was kept before it.
startStrip(live, (what) => {
  const drawing = hand.vertices.length > 0 || Boolean(hand.waiting);
  if (drawing && what === "undo") desk.inTurn(back);
  return drawing;
});
startLadder(map);
startViews(map);
startSnapBar(live, (radius) => {
  hand.radius = radius;
  map.paintOverlay();
});
map.on("overlay", (context, view) => {
  if (desk.surface === map) drawHand(context, view, hand);
});
// The findings are asked for when the map stands: both want the same two hands.
const painted = map.start();
const attitudes = startAttitudes(desk);
const selection = startSelection(desk, ring);
const findings = startFindings(desk);
const notebook = startNotebook(desk, takePen);
startTable(desk);
const planes = startPlanes(desk);
const nets = startNets(desk);
const sections = startSections(desk, { moved, resume });

const takeSeat = startLeftDrawing(desk, async (answer) => {
  await penTaken(answer.pen);
  ring.showDrawing(answer.drawing);
});
startKeys(desk, ring, selection, { take: takePen, press, finish, back, drop, escape });

// Pens

async function takePen(name) {
  const { surface } = desk;
  let answer = await desk.tell({ do: "pen", name });
  // What has no place on a section is drawn on the map above it.
  if (answer.refused && surface !== map && (await desk.goTo(map, true))) answer = await desk.tell({ do: "pen", name });
  if (answer.refused) {
    desk.refuse(answer.refused);
    return false;
  }
  await penTaken(name);
  return true;
}

async function penTaken(name) {
  hand.pen = name;
  Object.assign(hand, {
    vertices: [],
    line: null,
    waiting: null,
    picked: [],
    vertex: null,
    tool: null,
    purpose: null,
    begun: null,
    crosses: false,
    ring: null,
  });
  for (const pen of document.querySelectorAll(".pen")) {
    const taken = pen.dataset.pen === name;
    pen.setAttribute("aria-pressed", String(taken));
    if (taken) {
      hand.table = String(pen.dataset.table);
      hand.closes = pen.dataset.table === "areas";
    }
  }
  const { surface } = desk;
  surface.field.classList.toggle("drawing", Boolean(name));
  await desk.fetchSlip(name ? `slip/pen/${name}` : "empty-slip");
  surface.paintOverlay();
  if (surface.pointer) ring.hover();
}

document.getElementById("pens").addEventListener("click", (event) => {
  const pen = targetOf(event).closest(".pen");
  if (pen) {
    desk.inTurn(() => takePen(pen.dataset.pen === hand.pen ? null : pen.dataset.pen));
    desk.surface.focus();
  }
});

// What was half drawn on a section goes on there.
async function resume(surface, answer) {
  if (!(await desk.goTo(surface, true))) return;
  await penTaken(answer.pen);
  ring.showDrawing(answer.drawing);
  surface.notice("Here is again what was being drawn; go on, or discard it with Escape.");
  surface.paintOverlay();
}

// Ways of drawing, and the direction that the next span keeps to

desk.onSlip(() => {
  for (const button of slip.querySelectorAll("[data-way]"))
    button.setAttribute("aria-pressed", String(button.dataset.way === hand.way));
  for (const field of slip.querySelectorAll("[data-saved]")) {
    const kept = localStorage.getItem(`orvik-${field.dataset.saved}`);
    if (kept == null) continue;
    if (field.type === "checkbox") field.checked = kept === "true";
    else field.value = kept;
  }
  showReading();
});

// A kept reading stands in its field the way that the switch reads it; set before the form sends it.
function showReading() {
  const field = document.getElementById("reading-kept");
  if (!field?.dataset.strike) return;
  field.value = document.getElementById("kept-dip-direction").checked ? field.dataset.direction : field.dataset.strike;
}
slip.addEventListener(
  "change",
  (event) => {
    if (targetOf(event).id === "kept-dip-direction") showReading();
  },
  true,
);

async function takeWay(way) {
  const answer = await desk.ask({ do: "way", way });
  if (answer.refused) return;
  hand.way = way;
  for (const button of slip.querySelectorAll("[data-way]"))
    button.setAttribute("aria-pressed", String(button.dataset.way === way));
  if (answer.drawing) ring.showDrawing(answer.drawing);
  ring.hover();
}

async function align(button) {
  const on = button.getAttribute("aria-pressed") !== "true";
  const answer = await desk.ask({ do: "align", how: on ? button.dataset.align : "", ...desk.pointer() });
  if (answer.refused) return;
  for (const other of slip.querySelectorAll("[data-align]"))
    other.setAttribute("aria-pressed", String(on && other === button));
  if (answer.words) desk.surface.say(answer.words);
  ring.hover();
}

slip.addEventListener("click", (event) => {
  const way = targetOf(event).closest("[data-way]");
  const aligned = targetOf(event).closest("[data-align]");
  const choice = targetOf(event).closest("[data-choice]");
  const answered = targetOf(event).closest("[data-answer]");
  if (answered) {
    desk.inTurn(() => finish(answered.dataset.answer));
    desk.surface.focus();
  }
  if (choice) {
    document.getElementById(String(choice.dataset.of)).value = choice.dataset.choice;
    markChoices();
  }
  if (way) desk.inTurn(() => takeWay(way.dataset.way));
  if (aligned) desk.inTurn(() => align(aligned));
});

function markChoices() {
  for (const button of slip.querySelectorAll("[data-choice]")) {
    button.setAttribute(
      "aria-pressed",
      String(document.getElementById(String(button.dataset.of)).value === button.dataset.choice),
    );
  }
}

slip.addEventListener("submit", (event) => {
  if (targetOf(event).id === "step-form" || targetOf(event).classList.contains("parallel-row")) event.preventDefault();
  if (targetOf(event).id !== "step-form") return;
  const input = document.getElementById("step");
  desk.inTurn(async () => {
    const answer = await desk.ask({ do: "step", text: input.value });
    if (answer.refused) return;
    desk.refuse("");
    ring.showDrawing(answer.drawing);
    input.select();
    desk.surface.paintOverlay();
  });
});

slip.addEventListener("change", (event) => {
  const target = targetOf(event);
  if (target.closest("#custom-fields")) markChoices();
  if (target.id === "current-unit") localStorage.setItem("orvik-unit", target.value);
  if (target.dataset.saved)
    localStorage.setItem(
      `orvik-${target.dataset.saved}`,
      target.type === "checkbox" ? String(target.checked) : target.value,
    );
});

// Clicks

function press(px, py, free) {
  const { view } = desk.surface;
  const [x, y] = view.toGround(px, py);
  const scale = view.denominator;
  desk.inTurn(() =>
    ring.still(async () => {
      const shown = await desk.ask({ do: "hover", x, y, free, scale });
      if (shown.refused) return;
      ring.show(shown);
      const answer = await desk.ask({
        do: "press",
        x,
        y,
        ring: shown.ring,
        scale,
        unit: desk.unit(),
        fields: desk.fields(),
      });
      if (answer.refused) return;
      desk.refuse("");
      for (const button of slip.querySelectorAll("[data-align]")) button.setAttribute("aria-pressed", "false");
      if (answer.waiting) attitudes.begin(answer);
      if (answer.drawing) ring.showDrawing(answer.drawing);
      if (answer.closed) await finish();
      desk.surface.paintOverlay();
    }),
  );
}

desk.onSurface((surface) => {
  surface.field.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || surface.spaceHeld || !surface.holds(event)) return;
    surface.focus();
    const at = surface.place(event);
    if (desk.surface === surface) pointed(surface, at, event);
    else
      desk.inTurn(async () => {
        if (!(await desk.goTo(surface))) return;
        // By now the button may be up again.
        if (desk.drawing) press(...at, event.ctrlKey);
        else selection.click(at, event);
      });
  });
  // Gone to by the Tab key.
  surface.field.addEventListener("focusin", (event) => {
    if (surface.holds(event)) desk.inTurn(() => desk.goTo(surface, true));
  });
  surface.field.addEventListener("dblclick", (event) => {
    if (desk.surface === surface && surface.holds(event) && desk.drawing && hand.table !== "points")
      desk.inTurn(() => finish());
  });
  surface.field.addEventListener("pointerleave", () => {
    surface.label.hidden = true;
  });
});

// The button went down on a surface that the hand is on.
function pointed(surface, at, event) {
  hand.free = event.ctrlKey;
  if (surface === map && attitudes.takes(at, event)) return;
  if (!desk.drawing || hand.tool) {
    selection.down(at, event);
    return;
  }
  // The second press of a double-click would fall on the vertex just placed.
  if (event.detail >= 2 && hand.table !== "points") return;
  if (hand.way === "free" && hand.table !== "points") {
    beginHand(at, event);
    return;
  }
  press(...at, event.ctrlKey);
}

// The pointer has moved over a surface; the hand goes there with its pen.
function moved(surface, at, event) {
  if (desk.surface !== surface) {
    if (hand.pen && surface.unfit !== hand.pen) {
      surface.unfit = hand.pen;
      desk.inTurn(async () => {
        if (!(await desk.goTo(surface, true))) return;
        surface.unfit = null;
        ring.hover();
      });
    }
    return;
  }
  hand.free = event.ctrlKey;
  if (hand.trace) {
    hand.trace.push(surface.view.toGround(...at));
    return;
  }
  if (selection.moved(at, event)) return;
  ring.hover();
}
map.on("pointer", (at, event) => moved(map, at, event));

// A free hand: what the pointer goes over while the button is held. A click without a way to go is a vertex.
function beginHand(at, event) {
  const { surface } = desk;
  hand.trace = [surface.view.toGround(...at)];
  surface.field.setPointerCapture(event.pointerId);
  surface.field.addEventListener(
    "pointerup",
    () => {
      const places = hand.trace ?? [];
      hand.trace = null;
      if (places.length < 3) {
        press(...at, event.ctrlKey);
        return;
      }
      desk.inTurn(async () => {
        const answer = await desk.ask({ do: "free", places, scale: surface.view.denominator });
        if (!answer.refused) {
          desk.refuse("");
          ring.showDrawing(answer.drawing);
        }
        surface.paintOverlay();
      });
    },
    { once: true },
  );
}

async function finish(overlap = document.getElementById("overlap")?.value) {
  const value = (id) => document.getElementById(id)?.value;
  const answer = await desk.ask({
    do: "finish",
    unit: desk.unit(),
    fields: desk.fields(),
    fill: document.getElementById("fill")?.checked ?? false,
    width: value("band-width"),
    width_on: value("band-on"),
    overlap,
  });
  if (answer.refused) return;
  const asks = document.getElementById("asks");
  if (asks) asks.hidden = !answer.asks;
  if (answer.asks) {
    document.getElementById("asks-words").textContent = answer.asks;
    asks.querySelector("button").focus();
    return;
  }
  desk.refuse("");
  const wasFor = hand.purpose;
  ring.showDrawing(null);
  hand.purpose = null;
  if (wasFor) {
    desk.surface.field.classList.remove("drawing");
    await desk.takeSelected(answer.hand);
  }
  desk.surface.paintOverlay();
}

async function drop() {
  await desk.ask({ do: "drop" });
  desk.surface.say("");
  hand.waiting = null;
  hand.begun = null;
  const wasFor = hand.purpose;
  hand.purpose = null;
  ring.showDrawing(null);
  desk.refuse("");
  attitudes.end();
  if (wasFor) {
    desk.surface.field.classList.remove("drawing");
    await desk.showSlip();
  }
  desk.surface.paintOverlay();
}

async function back() {
  const answer = await desk.ask({ do: "back" });
  if (!answer.refused) {
    desk.refuse("");
    ring.showDrawing(answer.drawing);
    desk.surface.paintOverlay();
    ring.hover();
  }
}

async function escape() {
  if (hand.vertices.length || hand.waiting || hand.purpose || hand.begun) await drop();
  else if (hand.tool) selection.lay();
  else if (hand.pen) await takePen(null);
  else if (hand.picked.length) await desk.takeSelected([]);
}

// What others and undo have changed

live.on("ink", (buffer) => map.takeInk(buffer));
live.on("labels", (words) => map.notice(words.failed));
live.on("lost", () =>
  map.notice("The connection to Orvik is lost; what is being drawn is saved and comes back with it."),
);
live.on("found", () =>
  desk.inTurn(async () => {
    const { pen, way } = hand;
    const taken = await takeSeat();
    if (taken === null) return;
    if (!taken && pen) await takePen(pen);
    if (way !== "straight") await takeWay(way);
    planes.again();
    painted.then(() => findings.ask());
  }),
);
live.on("changed", (words) => {
  map.takeWords(words);
  notebook.changed(words);
  nets.changed(words);
  planes.changed(words);
  sections.changed(words);
  desk.inTurn(() => selection.follow(words));
});

// A unit that was made in the slip is the one to go on with.
document.body.addEventListener("htmx:afterSwap", () => {
  const select = document.getElementById("current-unit");
  if (select?.closest("#unit-choice") && select.value) localStorage.setItem("orvik-unit", select.value);
});
