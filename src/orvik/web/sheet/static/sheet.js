// Sheet: the page on the desk; parts are taken in hand, moved, aimed, and their places sent as millimetres.

import { counted } from "../frame/answers.js";
import { Live } from "../frame/live.js";
import { flag } from "../frame/refusals.js";
import { startStrip, typing } from "../frame/strip.js";
import { Aiming } from "./aiming.js";
import { PageView } from "./page_view.js";
import { PanelLabels } from "./panel_labels.js";
import { PartHand } from "./part_hand.js";
import { PlacedParts } from "./placed_parts.js";

const slug = document.querySelector(".frame").dataset.slug;
const live = new Live(slug);
startStrip(live);
const desk = document.getElementById("desk");
if (desk) startDesk();

function startDesk() {
  const view = new PageView(desk);
  const { field } = view;
  const parts = new PlacedParts(slug, view);
  const hand = new PartHand(view, parts, place);
  const aiming = new Aiming(slug, view, parts);
  const labels = new PanelLabels(slug, view.make.bind(view), () => view.paint());
  const line = document.getElementById("place-line");
  let panning = null;
  let spaceHeld = false;

  view.painters.push((marks) => {
    if (aiming.on) aiming.paint(marks);
    else if (labels.on) labels.paint(marks);
    else hand.paint(marks);
  });

  async function choose(id) {
    if (labels.on) labels.end();
    hand.chosen = id;
    showChosen();
    view.paint();
    if (id)
      await htmx.ajax("GET", `/p/${slug}/parts/${id}`, {
        source: "#part-slip",
        target: "#part-slip",
        swap: "innerHTML",
      });
  }

  function showChosen() {
    for (const row of document.querySelectorAll(".placed-part"))
      row.setAttribute("aria-pressed", String(Number(row.dataset.part) === hand.chosen));
  }

  async function place(part, now) {
    const values = {};
    for (const name of ["x", "y", "width", "height"]) values[name] = now[name].toFixed(3);
    await htmx.ajax("POST", `/p/${slug}/parts/${part.id}`, {
      source: field,
      target: "#part-slip",
      swap: "innerHTML",
      values,
    });
  }

  field.addEventListener("pointerdown", (event) => {
    const at = view.toPage(event);
    if (event.button === 1 || (event.button === 0 && spaceHeld)) {
      event.preventDefault();
      panning = [event.clientX, event.clientY];
      field.classList.add("moving");
    } else if (event.button === 0) {
      field.focus({ preventScroll: true });
      if (aiming.on) aiming.press(at);
      else if (!labels.press(event, at)) {
        const id = hand.press(event, at);
        if (id !== hand.chosen) choose(id);
      }
    }
    if (panning || hand.drag || aiming.drag || labels.on) field.setPointerCapture(event.pointerId);
  });

  field.addEventListener("pointermove", (event) => {
    const at = view.toPage(event);
    view.pointer = at;
    line.textContent = `${at[0].toFixed(1)} mm from left · ${at[1].toFixed(1)} mm from top`;
    if (panning) {
      view.moveBy(event.clientX - panning[0], event.clientY - panning[1]);
      panning = [event.clientX, event.clientY];
    } else if (aiming.on) {
      aiming.move(event, at);
      view.rulers();
    } else if (!labels.move(at) && !hand.move(at, event.altKey)) view.rulers();
  });

  field.addEventListener("pointerup", () => {
    field.classList.remove("moving");
    panning = null;
    if (aiming.on) aiming.release();
    else if (!labels.release()) hand.release();
  });
  field.addEventListener("pointercancel", () => {
    panning = null;
    hand.drag = null;
    aiming.drag = null;
    field.classList.remove("moving");
    parts.load();
  });
  field.addEventListener("pointerleave", () => {
    view.pointer = null;
    view.rulers();
  });
  field.addEventListener("dblclick", (event) => {
    const part = parts.find(hand.chosen);
    if (!aiming.on && !labels.on && part?.panel && !part.locked && event.target.dataset?.hit) aiming.begin(part.id);
  });

  field.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      if (aiming.on) aiming.wheel(event, view.toPage(event));
      else view.zoomBy(Math.exp(-event.deltaY * 0.0015), event);
    },
    { passive: false },
  );
  document.getElementById("zoom-in").addEventListener("click", () => view.zoomBy(1.25));
  document.getElementById("zoom-out").addEventListener("click", () => view.zoomBy(1 / 1.25));
  document.getElementById("zoom-fit").addEventListener("click", () => view.fit());

  document.addEventListener("click", (event) => {
    if (aiming.click(event.target)) return;
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
    const values = new URLSearchParams({ kind });
    if (hand.part?.panel) values.set("panel", hand.part.id);
    const asked = fetch(`/p/${slug}/sheets/${view.page.id}/parts`, { method: "POST", body: values });
    const response = await counted(asked);
    if (!response.ok) {
      refusal.textContent = await response.text();
      refusal.hidden = false;
      return;
    }
    hand.chosen = Number(response.headers.get("Orvik-Part"));
    await parts.load();
    choose(hand.chosen);
  }

  document.addEventListener("keydown", (event) => {
    if (typing(event.target)) {
      // Out of a field first, then out of aiming.
      if (event.key === "Escape" && aiming.on) field.focus({ preventScroll: true });
      return;
    }
    if (event.code === "Space") {
      spaceHeld = true;
      if (event.target === field || event.target === document.body) event.preventDefault();
    }
    if (aiming.key(event)) return;
    const inField = document.activeElement === field;
    if (event.key === "Tab" && inField && parts.all.length && !aiming.on) {
      const at = parts.all.findIndex((p) => p.id === hand.chosen) + (event.shiftKey ? -1 : 1);
      if (parts.all[at]) {
        event.preventDefault();
        choose(parts.all[at].id);
      }
      return;
    }
    if (labels.key(event) || !hand.part) return;
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (arrows && inField) {
      event.preventDefault();
      const far = event.shiftKey ? 0.1 : 1;
      hand.nudge(arrows[0] * far, arrows[1] * far);
    } else if (event.key === "Enter" && inField && hand.part.panel && !hand.part.locked) aiming.begin(hand.chosen);
    else if (event.key === "Delete") document.getElementById("remove-part")?.click();
    else if (event.key === "Escape") choose(null);
  });
  document.addEventListener("keyup", (event) => {
    if (event.code === "Space") spaceHeld = false;
  });

  live.on("changed", async () => {
    await parts.load();
    await labels.read();
    if (aiming.on && !aiming.drag) {
      // Undone or changed elsewhere, too: where the panel is aimed is asked anew.
      if (parts.find(aiming.panel)) aiming.draft();
      else await aiming.end();
    }
    if (hand.chosen && !hand.part) {
      hand.chosen = null;
      document.getElementById("part-slip").replaceChildren();
      view.paint();
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
      parts.load();
    }
  });
  parts.load();
}
