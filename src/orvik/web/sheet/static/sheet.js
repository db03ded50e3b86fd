// Sheet: the page on the desk; parts are dragged, resized and nudged, and their places sent as millimetres.

import { counted } from "../frame/answers.js";
import { drawRuler, niceStep } from "../frame/collar.js";
import { Live } from "../frame/live.js";
import { flag } from "../frame/refusals.js";
import { startStrip, typing } from "../frame/strip.js";
import { PX_PER_MM } from "../frame/view.js";
import { PanelLabels } from "./panel_labels.js";
import { token } from "../frame/tokens.js";

const SHEET = token("sheet");
const SOFT = token("soft");

const slug = document.querySelector(".frame").dataset.slug;
const live = new Live(slug);
startStrip(live);
const desk = document.getElementById("desk");
if (desk) startDesk();

function startDesk() {
  const NS = "http://www.w3.org/2000/svg";
  const svg = document.getElementById("page");
  const field = document.getElementById("desk-field");
  const line = document.getElementById("place-line");
  const page = { id: desk.dataset.sheet, width: Number(desk.dataset.width), height: Number(desk.dataset.height) };
  // Pixels per millimetre and the page's upper left corner on the desk.
  const view = { k: 1, x: 0, y: 0 };
  let parts = [];
  let chosen = null;
  let drag = null;
  let pointer = null;
  let spaceHeld = false;

  const world = make("g", svg);
  const paper = make("rect", world, {
    x: 0,
    y: 0,
    width: page.width,
    height: page.height,
    fill: SHEET,
    stroke: SOFT,
    "stroke-width": 0.2,
  });
  const inks = make("g", world);
  const marks = make("g", world);

  function make(name, parent, attributes = {}) {
    const element = document.createElementNS(NS, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    parent.append(element);
    return element;
  }

  const labels = new PanelLabels(slug, make, () => paint());

  async function load() {
    const busy = document.getElementById("desk-busy");
    const timer = setTimeout(() => {
      busy.hidden = false;
    }, 200);
    try {
      const response = await fetch(`/p/${slug}/sheets/${page.id}/ink`);
      if (!response.ok) throw new Error(await response.text());
      const sheet = await response.json();
      parts = sheet.parts;
      inks.replaceChildren();
      for (const part of parts) {
        part.element = make("g", inks, { "data-part": part.id });
        part.element.replaceChildren(...drawn(part.svg));
        delete part.svg;
        part.hit = make("rect", part.element, { class: part.locked ? "hit locked" : "hit", "data-hit": part.id });
        frame(part.hit, part);
      }
      desk.dataset.revision = sheet.revision;
    } catch (error) {
      const p = document.getElementById("desk-refusal");
      p.textContent = error.message;
      p.hidden = false;
    }
    clearTimeout(timer);
    busy.hidden = true;
    paint();
  }

  // What the server has drawn, as SVG and nothing else.
  function drawn(text) {
    const parsed = new DOMParser().parseFromString(`<svg xmlns="${NS}">${text}</svg>`, "image/svg+xml");
    return [...document.importNode(parsed.documentElement, true).childNodes];
  }

  function frame(rect, part) {
    for (const name of ["x", "y", "width", "height"]) rect.setAttribute(name, part[name]);
  }

  function fit() {
    const bounds = field.getBoundingClientRect();
    view.k = Math.min((bounds.width - 56) / page.width, (bounds.height - 56) / page.height);
    view.x = (bounds.width - page.width * view.k) / 2;
    view.y = (bounds.height - page.height * view.k) / 2;
    paint();
  }

  function toPage(event) {
    const bounds = field.getBoundingClientRect();
    return [(event.clientX - bounds.left - view.x) / view.k, (event.clientY - bounds.top - view.y) / view.k];
  }

  function paint() {
    world.setAttribute("transform", `translate(${view.x} ${view.y}) scale(${view.k})`);
    document.getElementById("zoom").textContent = `${Math.round((view.k / PX_PER_MM) * 100)} %`;
    marks.replaceChildren();
    const part = parts.find((p) => p.id === chosen);
    if (part && !labels.on) paintMarks(part);
    labels.paint(marks);
    rulers();
  }

  function paintMarks(part) {
    const at = drag?.now || part;
    frame(make("rect", marks, { class: "frame-line" }), at);
    for (const guide of drag?.guides || []) {
      if (guide.x != null) make("line", marks, { class: "guide", x1: guide.x, x2: guide.x, y1: 0, y2: page.height });
      else make("line", marks, { class: "guide", y1: guide.y, y2: guide.y, x1: 0, x2: page.width });
    }
    if (part.locked) return;
    const size = 8 / view.k;
    /** @type {[string, number, number][]} */
    const grips = [
      ["nw", 0, 0],
      ["n", 0.5, 0],
      ["ne", 1, 0],
      ["e", 1, 0.5],
      ["se", 1, 1],
      ["s", 0.5, 1],
      ["sw", 0, 1],
      ["w", 0, 0.5],
    ];
    for (const [name, fx, fy] of grips) {
      make("rect", marks, {
        class: `grip grip-${name}`,
        "data-grip": name,
        width: size,
        height: size,
        x: at.x + at.width * fx - size / 2,
        y: at.y + at.height * fy - size / 2,
      });
    }
  }

  function rulers() {
    const bounds = field.getBoundingClientRect();
    const step = niceStep(60 / view.k);
    const label = (v) => `${Number(v.toFixed(3))}`;
    drawRuler(
      document.getElementById("ruler-top"),
      "top",
      -view.x / view.k,
      (bounds.width - view.x) / view.k,
      step,
      (v) => v * view.k + view.x,
      label,
      pointer && pointer[0] * view.k + view.x,
    );
    drawRuler(
      document.getElementById("ruler-left"),
      "left",
      -view.y / view.k,
      (bounds.height - view.y) / view.k,
      step,
      (v) => v * view.k + view.y,
      label,
      pointer && pointer[1] * view.k + view.y,
    );
  }

  async function choose(id) {
    if (labels.on) labels.end();
    chosen = id;
    for (const row of document.querySelectorAll(".placed-part"))
      row.setAttribute("aria-pressed", String(Number(row.dataset.part) === id));
    paint();
    if (id)
      await htmx.ajax("GET", `/p/${slug}/parts/${id}`, {
        source: "#part-slip",
        target: "#part-slip",
        swap: "innerHTML",
      });
  }

  function zoomTo(k, px, py) {
    const next = Math.min(40, Math.max(0.2, k));
    view.x = px - ((px - view.x) * next) / view.k;
    view.y = py - ((py - view.y) * next) / view.k;
    view.k = next;
    paint();
  }

  // Edges and middles of the page and the other parts draw the dragged part to them.
  function aligned(now, part, edges) {
    const reach = 6 / view.k;
    const guides = [];
    const others = parts.filter((p) => p.id !== part.id);
    for (const axis of ["x", "y"]) {
      const size = axis === "x" ? "width" : "height";
      const targets = [
        0,
        page[size] / 2,
        page[size],
        ...others.flatMap((p) => [p[axis], p[axis] + p[size] / 2, p[axis] + p[size]]),
      ];
      let best = null;
      for (const fraction of edges[axis]) {
        const value = now[axis] + now[size] * fraction;
        for (const target of targets) {
          const gap = target - value;
          if (Math.abs(gap) < reach && (!best || Math.abs(gap) < Math.abs(best.gap))) best = { gap, target, fraction };
        }
      }
      if (best) {
        if (edges.resize) {
          if (best.fraction === 0) {
            now[axis] += best.gap;
            now[size] -= best.gap;
          } else now[size] += best.gap;
        } else now[axis] += best.gap;
        guides.push({ [axis]: best.target });
      }
    }
    return guides;
  }

  field.addEventListener("pointerdown", (event) => {
    if (event.button === 1 || (event.button === 0 && spaceHeld)) {
      event.preventDefault();
      drag = { pan: [event.clientX, event.clientY] };
      field.classList.add("moving");
    } else if (event.button === 0) {
      field.focus({ preventScroll: true });
      if (labels.press(event, toPage(event))) {
        field.setPointerCapture(event.pointerId);
        return;
      }
      const grip = event.target.dataset?.grip;
      const hit = event.target.dataset?.hit;
      const id = grip ? chosen : hit ? Number(hit) : null;
      if (!grip && id !== chosen) choose(id);
      const part = parts.find((p) => p.id === id);
      if (part && !part.locked)
        drag = { part, grip, from: toPage(event), start: { ...box(part) }, now: null, guides: [] };
    }
    if (drag) field.setPointerCapture(event.pointerId);
  });

  function box({ x, y, width, height }) {
    return { x, y, width, height };
  }

  field.addEventListener("pointermove", (event) => {
    pointer = toPage(event);
    line.textContent = `${pointer[0].toFixed(1)} mm from left · ${pointer[1].toFixed(1)} mm from top`;
    if (drag?.pan) {
      view.x += event.clientX - drag.pan[0];
      view.y += event.clientY - drag.pan[1];
      drag.pan = [event.clientX, event.clientY];
      paint();
      return;
    }
    if (labels.move(pointer)) return;
    if (!drag) {
      rulers();
      return;
    }
    const dx = pointer[0] - drag.from[0],
      dy = pointer[1] - drag.from[1];
    if (!drag.now && Math.hypot(dx, dy) * view.k < 3) return;
    const now = { ...drag.start };
    const grip = drag.grip || "";
    const edges = { x: [0, 0.5, 1], y: [0, 0.5, 1], resize: false };
    if (!grip) {
      now.x += dx;
      now.y += dy;
    } else {
      edges.resize = true;
      edges.x = grip.includes("w") ? [0] : grip.includes("e") ? [1] : [];
      edges.y = grip.includes("n") ? [0] : grip.includes("s") ? [1] : [];
      if (grip.includes("w")) {
        now.x += dx;
        now.width -= dx;
      }
      if (grip.includes("e")) now.width += dx;
      if (grip.includes("n")) {
        now.y += dy;
        now.height -= dy;
      }
      if (grip.includes("s")) now.height += dy;
    }
    drag.guides = event.altKey ? [] : aligned(now, drag.part, edges);
    now.width = Math.max(1, now.width);
    now.height = Math.max(1, now.height);
    drag.now = now;
    if (!grip)
      drag.part.element.setAttribute("transform", `translate(${now.x - drag.start.x} ${now.y - drag.start.y})`);
    paint();
  });

  field.addEventListener("pointerup", () => {
    field.classList.remove("moving");
    if (labels.release()) return;
    const done = drag;
    drag = null;
    if (done?.now) place(done.part, done.now);
  });
  field.addEventListener("pointercancel", () => {
    drag = null;
    field.classList.remove("moving");
    load();
  });
  field.addEventListener("pointerleave", () => {
    pointer = null;
    rulers();
  });

  async function place(part, now) {
    Object.assign(part, now);
    const values = {};
    for (const name of ["x", "y", "width", "height"]) values[name] = now[name].toFixed(3);
    await htmx.ajax("POST", `/p/${slug}/parts/${part.id}`, {
      source: field,
      target: "#part-slip",
      swap: "innerHTML",
      values,
    });
  }

  field.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      const area = field.getBoundingClientRect();
      zoomTo(view.k * Math.exp(-event.deltaY * 0.0015), event.clientX - area.left, event.clientY - area.top);
    },
    { passive: false },
  );

  const middle = () => {
    const area = field.getBoundingClientRect();
    return [area.width / 2, area.height / 2];
  };
  document.getElementById("zoom-in").addEventListener("click", () => zoomTo(view.k * 1.25, ...middle()));
  document.getElementById("zoom-out").addEventListener("click", () => zoomTo(view.k / 1.25, ...middle()));
  document.getElementById("zoom-fit").addEventListener("click", fit);

  document.addEventListener("click", (event) => {
    const row = event.target.closest(".placed-part");
    if (row) choose(Number(row.dataset.part));
    const toggle = event.target.closest("#panel-labels");
    if (toggle && labels.on) labels.end();
    else if (toggle) labels.begin(Number(toggle.dataset.panel));
    const kind = event.target.closest(".part-kind");
    if (kind) addPart(kind.dataset.kind);
  });

  async function addPart(kind) {
    const refusal = document.getElementById("parts-refusal");
    refusal.hidden = true;
    const asked = fetch(`/p/${slug}/sheets/${page.id}/parts`, { method: "POST", body: new URLSearchParams({ kind }) });
    const response = await counted(asked);
    if (!response.ok) {
      refusal.textContent = await response.text();
      refusal.hidden = false;
      return;
    }
    chosen = Number(response.headers.get("Orvik-Part"));
    await load();
    choose(chosen);
  }

  document.addEventListener("keydown", (event) => {
    if (typing(event.target)) return;
    if (event.code === "Space") {
      spaceHeld = true;
      if (event.target === field || event.target === document.body) event.preventDefault();
    }
    const part = parts.find((p) => p.id === chosen);
    const inField = document.activeElement === field;
    if (event.key === "Tab" && inField && parts.length) {
      const at = parts.findIndex((p) => p.id === chosen) + (event.shiftKey ? -1 : 1);
      if (parts[at]) {
        event.preventDefault();
        choose(parts[at].id);
      }
      return;
    }
    if (labels.key(event) || !part) return;
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (arrows && inField && !part.locked) {
      event.preventDefault();
      const far = event.shiftKey ? 0.1 : 1;
      const now = { ...box(part), x: part.x + arrows[0] * far, y: part.y + arrows[1] * far };
      place(part, now);
      frame(part.hit, now);
      paint();
    } else if (event.key === "Delete") document.getElementById("remove-part")?.click();
    else if (event.key === "Escape") {
      choose(null);
    }
  });
  document.addEventListener("keyup", (event) => {
    if (event.code === "Space") spaceHeld = false;
  });

  live.on("changed", async () => {
    await load();
    await labels.read();
    if (chosen && !parts.some((p) => p.id === chosen)) {
      chosen = null;
      document.getElementById("part-slip").replaceChildren();
      paint();
    }
  });
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id === "placed") showChosen();
    // The slip of the panel came anew, and with it the button.
    if (event.detail.target.id === "part-slip" && labels.on) labels.read();
  });
  document.body.addEventListener("htmx:responseError", (event) => {
    if (event.detail.elt === field) {
      flag(event.detail.xhr.responseText);
      load();
    }
  });
  function showChosen() {
    for (const row of document.querySelectorAll(".placed-part"))
      row.setAttribute("aria-pressed", String(Number(row.dataset.part) === chosen));
  }
  new ResizeObserver(fit).observe(field);
  paper.setAttribute("class", "paper");
  load();
}
