// A plane over the relief: what it is asked of, the places that are picked, its trace, and measures by it.

import { showBeside } from "./beside.js";
import { targetOf } from "../frame/elements.js";

// The trace is asked for anew when the view has stood still for so long.
const REST_MS = 250;
const TOP = "Click a place on the one contact, then one on the other.";

export function startPlanes(desk) {
  const { map, hand } = desk;
  const panel = document.getElementById("plane");
  const opener = document.getElementById("plane-toggle");
  const form = document.getElementById("plane-form");
  const body = document.getElementById("plane-body");
  const measures = document.getElementById("plane-measures");
  const words = document.getElementById("plane-words");
  const selected = document.getElementById("plane-selected");
  // What clicks pick: places of a plane, or of a measure and how many.
  let picks = null;
  let places = [];
  let seen = "";
  // What the plane that is shown was asked of.
  let asked = null;

  function toggle(open = panel.hidden) {
    showBeside(panel, opener, open);
    if (!open) {
      rest();
      hand.plane = null;
      body.replaceChildren();
      measures.hidden = true;
      const name = encodeURIComponent(windowId());
      htmx.ajax("DELETE", `/p/${map.slug}/plane?window_id=${name}`, { source: body, target: body, swap: "none" });
      map.paintOverlay();
      return;
    }
    const feature = meant();
    if (feature) ask({ table: feature.table, id: feature.id });
    else begin("plane", document.getElementById("plane-pick"));
  }

  // The one reading or line that is selected.
  function meant() {
    const [feature] = desk.pickedOnMap;
    return desk.pickedOnMap.length === 1 && feature.table !== "areas" ? feature : null;
  }

  opener.addEventListener("click", () => toggle());
  document.getElementById("close-plane").addEventListener("click", () => {
    if (panel.hidden) return;
    toggle(false);
    map.field.focus();
  });
  selected.addEventListener("click", () => {
    const feature = meant();
    rest();
    if (feature) ask({ table: feature.table, id: feature.id });
  });

  // What is selected, or places; the answer stands in the panel, a refusal in its form.
  function ask(of) {
    asked = of;
    seen = JSON.stringify(map.view.window());
    return send("", body, "innerHTML", of);
  }

  function send(path, target, swap, values) {
    const [west, south, east, north] = map.view.window();
    const view = { west, south, east, north, pixel: map.view.unitsPerPx, window_id: windowId() };
    return htmx.ajax("POST", `/p/${map.slug}/plane${path}`, {
      source: form,
      target,
      swap,
      values: { ...view, ...values },
    });
  }

  // Forms of the panel say which window asks.
  panel.addEventListener("htmx:configRequest", (event) => event.detail.parameters.set("window_id", windowId()));

  body.addEventListener("htmx:afterSettle", () => {
    const lines = document.getElementById("plane-trace")?.dataset.trace;
    hand.plane = lines ? JSON.parse(lines) : null;
    measures.hidden = !lines;
    map.paintOverlay();
  });

  // Places: with the ring, one click each.
  document.getElementById("plane-pick").addEventListener("click", (event) => begin("plane", targetOf(event)));
  measures.addEventListener("click", (event) => {
    const button = targetOf(event).closest("[data-measure]");
    if (button) begin(Number(button.dataset.measure), button);
  });

  function begin(what, button) {
    const same = button.getAttribute("aria-pressed") === "true";
    rest();
    if (same) return;
    picks = what;
    button.setAttribute("aria-pressed", "true");
    hand.tool = "place";
    tell(what === "plane" ? "Click three places or more along a contact." : what === 2 ? TOP : "Click the place.");
    map.field.classList.add("drawing");
    map.field.focus({ preventScroll: true });
  }

  function rest() {
    if (picks !== null) {
      hand.tool = null;
      map.field.classList.remove("drawing");
    }
    picks = null;
    places = [];
    hand.places = [];
    for (const button of panel.querySelectorAll("[aria-pressed=true]")) button.setAttribute("aria-pressed", "false");
    tell("");
    map.paintOverlay();
  }

  function tell(sentence) {
    words.textContent = sentence;
    words.hidden = !sentence;
  }

  // A place as the ring held it.
  desk.onPlace(taken, rest);
  function taken(at) {
    if (picks === null) return;
    places.push(at);
    hand.places = [...places];
    map.paintOverlay();
    if (picks === "plane") {
      ask({ places: JSON.stringify(places) });
    } else if (places.length === picks) {
      const picked = JSON.stringify(places);
      rest();
      send("/measure", "#plane-said", "innerHTML", { places: picked });
    }
  }

  // A line that is selected while a plane is shown is compared with its trace.
  desk.onSlip(() => {
    const feature = meant();
    selected.disabled = !feature;
    // Who selects something has put the tool down.
    if (picks !== null && hand.tool !== "place") rest();
    const at = document.getElementById("plane-compared");
    if (panel.hidden || !at || feature?.table !== "lines") return;
    send("/compare", at, "innerHTML", { table: feature.table, id: feature.id });
  });

  // The trace goes with the view, once that stands still.
  let timer = 0;
  map.on("view", () => {
    const now = JSON.stringify(map.view.window());
    if (panel.hidden || !hand.plane || now === seen) return;
    seen = now;
    clearTimeout(timer);
    timer = setTimeout(retrace, REST_MS);
  });
  document.getElementById("plane-reach").addEventListener("change", retrace);

  function retrace() {
    if (hand.plane) send("/trace", "#plane-trace", "outerHTML", {});
  }

  // The same plane once more, as after a connection that was lost.
  function again() {
    if (panel.hidden || !hand.plane || !asked) return;
    clearTimeout(timer);
    timer = setTimeout(() => ask(asked), REST_MS);
  }

  return {
    again,
    // The plane is that of the map and the heights as they are now.
    changed({ tables = [] }) {
      if (tables.includes("sources") || tables.includes(asked?.table)) again();
    },
  };
}

// The name that the window keeps, by which the server knows whose trace a pen follows.
function windowId() {
  return sessionStorage.getItem("orvik-window") || "";
}
