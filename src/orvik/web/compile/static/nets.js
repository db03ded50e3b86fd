// The net of readings beside the map: a pole under the pointer lights its station, and the other way round.

import { showBeside } from "./beside.js";
import { targetOf } from "../frame/elements.js";

// A pole, or a station, is meant by a pointer within so many pixels of it.
const REACH_PX = 8;
const REST_MS = 250;

export function startNets(desk) {
  const { map, hand } = desk;
  const panel = document.getElementById("net");
  const opener = document.getElementById("net-toggle");
  const body = document.getElementById("net-body");
  // Number, easting, northing, and the place on the picture, of each reading.
  let stations = [];
  let lit = null;

  function toggle(open = panel.hidden) {
    showBeside(panel, opener, open);
    light(null);
    if (open) ask();
  }

  opener.addEventListener("click", () => toggle());
  document.getElementById("close-net").addEventListener("click", () => {
    if (panel.hidden) return;
    toggle(false);
    map.field.focus();
  });

  function ask() {
    const form = document.getElementById("net-form");
    if (form) htmx.trigger(form, "ask");
    else {
      const values = { density: "true", kind: body.dataset.kind };
      htmx.ajax("POST", `/p/${map.slug}/net`, { source: body, target: body, swap: "innerHTML", values });
    }
  }

  // Every request says which ground the page shows, and what is selected.
  panel.addEventListener("htmx:configRequest", (event) => {
    const { parameters } = event.detail;
    const [west, south, east, north] = map.view.window();
    const view = { west, south, east, north, denominator: map.view.denominator };
    for (const [name, value] of Object.entries(view)) parameters.set(name, String(value));
    const points = desk.pickedOnMap.filter(({ table }) => table === "points").map(({ id }) => id);
    parameters.set("ids", JSON.stringify(points));
  });

  body.addEventListener("htmx:afterSettle", () => {
    const picture = document.getElementById("net-picture");
    stations = JSON.parse(picture?.dataset.stations || "[]").map(([number, x, y, px, py]) => [
      number,
      x,
      y,
      px / 100,
      py / 100,
    ]);
    lit = null;
  });

  function light(station) {
    if (station === lit) return;
    lit = station;
    hand.lit = station ? { table: "points", paths: [[[station[1], station[2]]]] } : null;
    const mark = document.getElementById("net-lit");
    if (mark) {
      mark.setAttribute("visibility", station ? "visible" : "hidden");
      if (station) {
        mark.setAttribute("cx", String(station[3]));
        mark.setAttribute("cy", String(station[4]));
      }
    }
    map.paintOverlay();
  }

  function nearest(of, reach) {
    let best = null;
    let least = reach;
    for (const station of stations) {
      const away = of(station);
      if (away <= least) [best, least] = [station, away];
    }
    return best;
  }

  // From the picture to the map.
  function pole(event) {
    const picture = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (document.getElementById("net-picture")));
    const box = picture.getBoundingClientRect();
    const mm = picture.viewBox.baseVal.width / box.width;
    const [x, y] = [(event.clientX - box.left) * mm, (event.clientY - box.top) * mm];
    return nearest(([, , , px, py]) => Math.hypot(px - x, py - y), REACH_PX * mm);
  }

  body.addEventListener("pointermove", (event) => {
    if (targetOf(event).closest("#net-picture")) light(pole(event));
    else if (lit) light(null);
  });
  body.addEventListener("pointerleave", () => light(null));
  body.addEventListener("click", (event) => {
    const station = targetOf(event).closest("#net-picture") && pole(event);
    if (!station) return;
    desk.inTurn(async () => {
      const answer = await desk.askMap({ do: "show", features: [{ table: "points", id: station[0] }] });
      if (!answer.refused) await desk.takeSelected(answer.hand);
    });
  });

  // From the map to the picture.
  map.on("pointer", ([px, py]) => {
    if (panel.hidden || desk.drawing) return;
    const [x, y] = map.view.toGround(px, py);
    const reach = REACH_PX * map.view.unitsPerPx;
    light(nearest(([, sx, sy]) => Math.hypot(sx - x, sy - y), reach));
  });

  // What is meant by "this view" and "what is selected" goes with them.
  let timer = 0;
  function again(where) {
    const chosen = /** @type {HTMLSelectElement | null} */ (document.getElementById("net-where"));
    if (panel.hidden || (where && chosen?.value !== where)) return;
    clearTimeout(timer);
    timer = setTimeout(ask, REST_MS);
  }
  map.on("view", () => again("view"));
  desk.onSlip(() => again("selected"));

  return {
    // What others and undo have changed.
    changed(words) {
      if (words.tables?.some((table) => ["points", "areas", "units"].includes(table))) again("");
    },
  };
}
