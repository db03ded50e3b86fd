// Sheet: the page on the desk; parts are selected, moved, aimed, and their places sent as millimetres.

import { targetOf } from "../frame/elements.js";
import { counted } from "../frame/request_counter.js";
import { Live } from "../frame/live.js";
import { flag } from "../frame/refusals.js";
import { startStrip } from "../frame/strip.js";
import { Aiming } from "./aiming.js";
import { CorrelationBoxes } from "./correlation_boxes.js";
import { ExplanationRows } from "./explanation_rows.js";
import { PageGuides } from "./guides.js";
import { PageView } from "./page_view.js";
import { PanelLabels } from "./panel_labels.js";
import { PartHand } from "./part_hand.js";
import { PlacedParts } from "./placed_parts.js";
import { SheetKeys } from "./sheet_keys.js";

const slug = document.querySelector(".frame").dataset.slug;
const live = new Live(slug);
startStrip(live);
const desk = document.getElementById("desk");
// The tables that the list of what is placed, and its essentials, are made of.
const LISTED = ["parts", "sheets", "project"];
if (desk) startDesk();

function startDesk() {
  const view = new PageView(desk);
  const { field } = view;
  const url = `/p/${slug}/sheets/${view.page.id}`;
  const guides = new PageGuides(view, (axis, at, before) =>
    send(`${url}/guides`, { axis, at: at ?? "", before: before ?? "" }, showSlip),
  );
  const parts = new PlacedParts(slug, view, guides);
  const hand = new PartHand(view, parts, guides, (places) =>
    send(`${url}/hand/places`, { places: JSON.stringify(places) }, showSlip),
  );
  const aiming = new Aiming(slug, view, parts);
  const labels = new PanelLabels(slug, view.make.bind(view), () => view.paint());
  const rows = new ExplanationRows(slug, view);
  const boxes = new CorrelationBoxes(slug, view);
  const line = document.getElementById("place-line");
  let panning = null;

  view.painters.push((marks) => {
    if (aiming.on) aiming.paint(marks);
    else if (labels.on) labels.paint(marks);
    else {
      guides.paint(marks);
      hand.paint(marks);
      if (!hand.drag) for (const pieces of [rows, boxes]) pieces.paint(marks);
    }
  });

  // Sends what is kept without a slip of its own; what is refused is said, and the page shows again what is there.
  async function send(path, values, then = () => {}) {
    const response = await counted(fetch(path, { method: "POST", body: new URLSearchParams(values) }));
    if (!response.ok) {
      flag(await response.text());
      parts.load();
      return null;
    }
    await then();
    return response;
  }

  function choose(numbers) {
    if (labels.on) labels.end();
    hand.chosen = numbers;
    showChosen();
    view.paint();
    return showSlip();
  }

  // The slip of what is selected: one part, several, or none, and then that of the page.
  function showSlip() {
    const { chosen } = hand;
    const path =
      chosen.length === 1
        ? `/p/${slug}/parts/${chosen[0]}`
        : chosen.length
          ? `${url}/hand?parts=${chosen.join(",")}`
          : `${url}/page`;
    return htmx.ajax("GET", path, { source: "#part-slip", target: "#part-slip", swap: "innerHTML" });
  }

  function showChosen() {
    for (const row of document.querySelectorAll(".placed-part"))
      row.setAttribute("aria-pressed", String(hand.chosen.includes(Number(row.dataset.part))));
  }

  field.addEventListener("pointerdown", (event) => {
    const at = view.toPage(event);
    if (event.button === 1 || (event.button === 0 && keys.space)) {
      event.preventDefault();
      panning = [event.clientX, event.clientY];
      field.classList.add("moving");
    } else if (event.button === 0) {
      field.focus({ preventScroll: true });
      if (aiming.on) aiming.press(at);
      else if (
        !labels.press(event, at) &&
        !boxes.press(event, at) &&
        (targetOf(event).dataset?.hit || targetOf(event).dataset?.grip || !guides.press(at))
      ) {
        rows.press(event);
        const numbers = hand.press(event, at);
        if (String(numbers) !== String(hand.chosen)) choose(numbers);
      }
    }
    if (panning || hand.drag || hand.box || boxes.drag || guides.drag || aiming.drag || labels.on)
      field.setPointerCapture(event.pointerId);
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
    } else if (!guides.move(at) && !labels.move(at) && !boxes.move(at) && !hand.move(at, event.altKey)) view.rulers();
  });

  field.addEventListener("pointerup", () => {
    field.classList.remove("moving");
    panning = null;
    if (aiming.on) aiming.release();
    else if (!guides.release() && !labels.release() && !boxes.release()) {
      rows.release(Boolean(hand.drag?.now));
      const taken = hand.release();
      if (taken) choose(taken);
      else view.paint();
    }
  });
  field.addEventListener("pointercancel", () => {
    panning = null;
    for (const one of [hand, aiming, boxes, guides]) one.drag = null;
    hand.box = null;
    field.classList.remove("moving");
    parts.load();
  });
  field.addEventListener("pointerleave", () => {
    view.pointer = null;
    view.rulers();
  });
  field.addEventListener("dblclick", (event) => {
    const { part } = hand;
    // The field has caught the pointer, so that what is under it is found by its place.
    const [x, y] = view.toPage(event);
    const upon = part && x >= part.x && y >= part.y && x <= part.x + part.width && y <= part.y + part.height;
    if (upon && part.panel && !part.locked && !aiming.on && !labels.on) aiming.begin(part.id);
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
    if (aiming.click(event.target) || rows.click(event.target) || boxes.click(event.target)) return;
    const row = targetOf(event).closest(".placed-part");
    if (row) {
      const met = hand.together(Number(row.dataset.part));
      choose(event.shiftKey ? [...new Set([...hand.chosen, ...met])] : met);
    }
    const toggle = targetOf(event).closest("#panel-labels");
    if (toggle && labels.on) labels.end();
    else if (toggle) labels.begin(Number(toggle.dataset.panel));
    const kind = targetOf(event).closest(".part-kind");
    if (kind) addPart(kind.dataset.kind);
    if (targetOf(event).closest("#show-page")) choose([]);
  });

  async function addPart(kind) {
    const refusal = document.getElementById("parts-refusal");
    refusal.hidden = true;
    const values = new URLSearchParams({ kind });
    if (hand.part?.panel) values.set("panel", String(hand.part.id));
    const response = await counted(fetch(`${url}/parts`, { method: "POST", body: values }));
    if (!response.ok) {
      refusal.textContent = await response.text();
      refusal.hidden = false;
      return;
    }
    // In hand only when it is there: a load that was under way does not know it yet.
    await parts.load();
    choose([Number(response.headers.get("Orvik-Part"))]);
  }

  const keys = new SheetKeys({ slug, url, field, parts, hand, aiming, labels, choose, send });

  live.on("changed", async (words) => {
    // What is listed is asked for anew only where it may be otherwise.
    if (LISTED.some((table) => words.tables.includes(table)))
      document.body.dispatchEvent(new CustomEvent("orvik-placed"));
    await parts.load();
    await labels.read();
    if (aiming.on && !aiming.drag) {
      // Undone or changed elsewhere, too: where the panel is aimed is asked anew.
      if (parts.find(aiming.panel)) aiming.draft();
      else await aiming.end();
    }
    const there = hand.chosen.filter((id) => parts.find(id));
    if (there.length !== hand.chosen.length) await choose(there);
  });
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id === "placed") showChosen();
    if (event.detail.target.id === "most-room") view.paint();
    // The slip of the panel came anew, and with it the button.
    if (event.detail.target.id === "part-slip" && labels.on) labels.read();
  });
  // An address may name a part to select, such as that of a finding.
  parts.load().then(() => {
    const asked = Number(new URLSearchParams(location.search).get("part"));
    if (parts.find(asked)) choose([asked]);
  });
}
