// A section under the map: the pointer on it lights its place on the map, and the other way round. Pens draw on it.

import { targetOf } from "../frame/elements.js";
import { spaced } from "../frame/figures.js";
import { typing } from "../frame/strip.js";
import { drawHand } from "./hand.js";
import { windowId } from "./left_drawing.js";
import { SectionSurface } from "./section_surface.js";
import { token } from "../frame/tokens.js";

// The section line is meant by a pointer within so many pixels of it.
const REACH_PX = 12;
const REST_MS = 40;
const SIGNAL = token("signal");
const SHEET = token("sheet");

// What a section shows, and what is drawn on it.
const TABLES = ["lines", "areas", "points", "units", "sources"].concat(
  ["settings", "lines", "areas", "points"].map((name) => `section_${name}`),
);
// How many times as large as its room a section is shown, step by step.
const ZOOMS = [1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24, 32];

// `draw` holds what is done with the pen: moved.
export function startSections(desk, draw) {
  const { map, hand } = desk;
  const panel = document.getElementById("section");
  const body = document.getElementById("section-body");
  const opener = document.getElementById("section-toggle");
  // What the pointer needs of the picture, as the server tells it; and how far along the pointer is.
  let frame = null;
  let along = null;
  let shown = null;
  let asking = false;
  let late = false;
  let saving = false;
  let zoom = 1;
  // A place that is to stand at a pixel of the stage once the picture is there in its new size.
  let kept = null;
  const surface = new SectionSurface(desk, body);
  desk.addSurface(surface);
  surface.on((context, view) => {
    if (desk.surface === surface) drawHand(context, view, hand);
    if (surface.pointer) showAt(...view.toGround(...surface.pointer));
  });

  function toggle(open = panel.hidden) {
    panel.hidden = !open;
    opener.setAttribute("aria-expanded", String(open));
    document.querySelector(".middle").classList.toggle("with-table", open);
    if (open) {
      const table = document.getElementById("table");
      if (!table.hidden) document.getElementById("table-toggle").click();
      document.querySelector(".middle").classList.add("with-table");
      ask(selected());
    } else {
      desk.inTurn(() => desk.goTo(map, true));
      surface.keepAside(panel);
      surface.take(null, null);
      frame = null;
      body.replaceChildren();
      map.field.focus();
    }
    map.paintOverlay();
  }

  // The one section line that is selected.
  function selected() {
    const [feature] = desk.pickedOnMap;
    const kind = document.getElementById("feature-form")?.dataset.kind;
    return desk.pickedOnMap.length === 1 && kind === panel.dataset.kind ? feature.id : null;
  }

  function room() {
    const high = surface.stage?.clientHeight ?? panel.clientHeight - 120;
    return { width: panel.clientWidth - 32, height: Math.max(60, high - 8), zoom };
  }

  // One picture at a time: what is asked for meanwhile comes after it.
  async function ask(number) {
    if (number !== null && number !== shown) {
      await desk.goTo(map, true);
      shown = number;
    }
    if (asking || saving) {
      late = true;
      return;
    }
    asking = true;
    const path = shown === null ? "" : `/${shown}`;
    const values = room();
    surface.keepAside(panel);
    await htmx.ajax("GET", `/p/${map.slug}/section${path}`, { source: body, target: body, swap: "innerHTML", values });
    asking = false;
    await askLate();
  }

  async function askLate() {
    if (!late || asking || saving || panel.hidden) return;
    late = false;
    await ask(null);
  }

  opener.addEventListener("click", () => toggle());
  panel.addEventListener("click", (event) => {
    if (targetOf(event).closest("#close-section")) toggle(false);
  });
  panel.addEventListener("htmx:configRequest", (event) => {
    for (const [name, value] of Object.entries(room())) event.detail.parameters.set(name, String(value));
  });
  // What is asked of a section is being saved: until then its form stays where it is, so that the answer reaches it.
  const ofForm = (event) => event.detail.requestConfig.elt.id === "section-form";
  panel.addEventListener("htmx:beforeRequest", (event) => {
    if (ofForm(event)) saving = true;
  });
  // The form itself is gone by then: its answer has brought another.
  document.body.addEventListener("htmx:afterRequest", (event) => {
    if (!ofForm(event)) return;
    saving = false;
    askLate();
  });
  // Another section is chosen: that is no change of this one.
  panel.addEventListener(
    "change",
    (event) => {
      const field = targetOf(event);
      if (field.id !== "section-line") return;
      event.stopPropagation();
      ask(Number(/** @type {HTMLSelectElement} */ (field).value));
    },
    true,
  );

  // The hand's own canvas is kept out of what is swapped.
  body.addEventListener("htmx:beforeSwap", (event) => {
    if (saving && event.detail.requestConfig.verb === "get") {
      event.detail.shouldSwap = false;
      late = true;
    } else surface.keepAside(panel);
  });
  let seen = [0, 0];
  body.addEventListener("htmx:afterSettle", () => {
    const picture = document.getElementById("section-picture");
    frame = JSON.parse(picture?.dataset.measures || "null");
    const chosen = /** @type {HTMLSelectElement | null} */ (document.getElementById("section-line"));
    const before = surface.section;
    if (chosen) shown = Number(chosen.value);
    surface.take(frame ? shown : null, frame);
    // Another section is shown, as when its line is deleted: what was selected belonged to that one.
    if (before !== surface.section && desk.surface === surface) desk.inTurn(() => desk.goTo(map, true));
    if (frame) settled(before === shown);
    map.paintOverlay();
  });

  // The picture stands where it stood, or where the zoom has it.
  function settled(same) {
    const { scroll } = surface;
    if (!scroll) return;
    if (kept) {
      const [px, py] = surface.view.toScreen(...kept.place);
      surface.moveBy(kept.at[0] - px, kept.at[1] - py);
      kept = null;
    } else if (same) [scroll.scrollLeft, scroll.scrollTop] = seen;
    scroll.addEventListener("scroll", () => {
      seen = [scroll.scrollLeft, scroll.scrollTop];
    });
    surface.measure();
    // Chosen from the list: the keys are the pens' again.
    if (!same && document.activeElement?.id === "section-line") surface.focus();
    if (!same && surface.section !== null)
      desk.live.ask({ do: "hello", window_id: windowId, section: surface.section }).then(takenUp, () => {});
  }

  // What was half drawn on it before the page was loaded.
  function takenUp(answer) {
    if (answer.pen) desk.inTurn(() => draw.resume(surface, answer));
  }

  function zoomTo(next, at) {
    const { view } = surface;
    if (!frame || next === zoom || !next) return;
    const px = at ?? [view.width / 2, view.height / 2];
    kept = { at: px, place: view.toGround(...px) };
    zoom = next;
    ask(null);
  }

  /** @param {number} step @param {number[] | null} at */
  function zoomBy(step, at = null) {
    zoomTo(ZOOMS[ZOOMS.indexOf(zoom) + step], at);
  }

  let turned = 0;
  body.addEventListener(
    "wheel",
    (event) => {
      if (!surface.holds(event) || event.shiftKey) return;
      event.preventDefault();
      turned += event.deltaY;
      if (Math.abs(turned) < 60) return;
      zoomBy(turned > 0 ? -1 : 1, surface.place(event));
      turned = 0;
    },
    { passive: false },
  );
  body.addEventListener("click", (event) => {
    const button = targetOf(event).closest("button");
    if (!button) return;
    if (button.id === "section-smaller") zoomBy(-1);
    else if (button.id === "section-larger") zoomBy(1);
    else if (button.dataset.sectionAct) act(button.dataset.sectionAct);
    else if (button.dataset.sectionPlace) {
      const place = JSON.parse(button.dataset.sectionPlace);
      surface.centre(place);
      show(place[0], place[1]);
    }
  });

  // Its units formed, or made to follow the map.
  function act(what) {
    desk.inTurn(async () => {
      const path = `/p/${map.slug}/section/${surface.section}/${what}`;
      const answer = await fetch(path, { method: "POST" }).catch(() => null);
      surface.notice(answer ? await answer.text() : "Not done: Orvik does not answer.");
    });
  }

  // Panned with the space bar held, as the map is.
  let panned = null;
  document.addEventListener("keydown", (event) => {
    if (event.code === "Space" && !typing(event.target)) surface.spaceHeld = true;
  });
  document.addEventListener("keyup", (event) => {
    if (event.code === "Space") surface.spaceHeld = false;
  });
  body.addEventListener("pointerdown", (event) => {
    if (!surface.holds(event) || !(event.button === 1 || (event.button === 0 && surface.spaceHeld))) return;
    event.preventDefault();
    panned = [event.clientX, event.clientY];
    body.setPointerCapture(event.pointerId);
  });
  body.addEventListener("pointerup", () => {
    panned = null;
  });

  // The section that was shown is gone, with its line: the first of those that are left.
  body.addEventListener("htmx:responseError", (event) => {
    if (event.detail.xhr.status !== 404 || shown === null) return;
    shown = null;
    late = true;
  });

  // A place of the map so far along, and where the ground is there.
  function placeAt(distance) {
    const { stations, places } = frame;
    let leg = 0;
    while (leg < stations.length - 2 && stations[leg + 1] <= distance) leg += 1;
    const share = (distance - stations[leg]) / (stations[leg + 1] - stations[leg]);
    return [0, 1].map((i) => places[leg][i] + share * (places[leg + 1][i] - places[leg][i]));
  }

  function groundAt(distance) {
    const next = frame.ground.findIndex(([a]) => a >= distance);
    if (next < 0) return null;
    const [a1, u1] = frame.ground[next];
    const [a0, u0] = frame.ground[Math.max(next - 1, 0)];
    if (u0 === null || u1 === null) return null;
    return a1 === a0 ? u1 : u0 + ((distance - a0) / (a1 - a0)) * (u1 - u0);
  }

  function show(distance, up) {
    along = distance;
    const mark = document.getElementById("section-pointer");
    const words = document.getElementById("section-words");
    if (!mark || !frame) return;
    mark.setAttribute("visibility", distance === null ? "hidden" : "visible");
    if (distance !== null) {
      const ground = groundAt(distance);
      const y = frame.y - (ground ?? 0) * frame.up;
      mark.setAttribute("transform", `translate(${frame.x + distance * frame.along} ${y})`);
      const level = up ?? ground;
      const height = level === null ? "no height known" : `height ${spaced(level)} m`;
      const depth = up !== null && ground !== null && up < ground - 0.5 ? `, depth ${spaced(ground - up)} m` : "";
      // Where the hand is, the ring says it.
      if (desk.surface !== surface) words.textContent = `${spaced(distance)} m along, ${height}${depth}`;
    }
    map.paintOverlay();
  }

  // Where the pointer is, or the ring that arrows move.
  function showAt(distance, up) {
    show(distance >= 0 && distance <= frame.length ? distance : null, up);
  }

  body.addEventListener("pointermove", (event) => {
    if (!frame || !(surface.holds(event) || body.hasPointerCapture(event.pointerId))) return;
    if (panned) {
      surface.moveBy(event.clientX - panned[0], event.clientY - panned[1]);
      panned = [event.clientX, event.clientY];
      return;
    }
    const at = surface.place(event);
    surface.pointer = at;
    draw.moved(surface, at, event);
    surface.soon(() => surface.paintOverlay());
  });
  body.addEventListener("pointerleave", () => {
    surface.pointer = null;
    show(null, null);
    surface.paintOverlay();
  });

  // From the map: the nearest place of the section line.
  map.on("pointer", ([px, py]) => {
    if (panel.hidden || !frame || desk.drawing) return;
    const [x, y] = map.view.toGround(px, py);
    let best = null;
    let least = REACH_PX * map.view.unitsPerPx;
    for (let leg = 0; leg < frame.places.length - 1; leg += 1) {
      const [[x0, y0], [x1, y1]] = [frame.places[leg], frame.places[leg + 1]];
      const [dx, dy] = [x1 - x0, y1 - y0];
      const share = Math.max(0, Math.min(1, ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy)));
      const away = Math.hypot(x - x0 - share * dx, y - y0 - share * dy);
      if (away < least) {
        least = away;
        best = frame.stations[leg] + share * (frame.stations[leg + 1] - frame.stations[leg]);
      }
    }
    if (best !== along) show(best, null);
  });

  // On the map: its line, what it crosses, and where the pointer is.
  map.on("overlay", (context, view) => {
    if (panel.hidden || !frame) return;
    const at = (place) => view.toScreen(...place);
    context.save();
    context.strokeStyle = SIGNAL;
    context.fillStyle = SHEET;
    context.lineWidth = 2;
    context.beginPath();
    for (const place of frame.places) context.lineTo(...at(place));
    context.stroke();
    for (const crossing of frame.crossings) dot(context, at(placeAt(crossing)), 3);
    if (along !== null) {
      context.fillStyle = SIGNAL;
      dot(context, at(placeAt(along)), 5);
    }
    context.restore();
  });

  function dot(context, [x, y], radius) {
    context.beginPath();
    context.arc(x, y, radius, 0, 2 * Math.PI);
    context.fill();
    context.stroke();
  }

  let timer = 0;
  function again() {
    if (panel.hidden) return;
    clearTimeout(timer);
    timer = setTimeout(() => ask(null), REST_MS);
  }
  window.addEventListener("resize", again);
  // The table takes the same room.
  document.getElementById("table-toggle").addEventListener("click", () => {
    if (!panel.hidden && document.getElementById("table").hidden === false) {
      toggle(false);
      document.querySelector(".middle").classList.add("with-table");
    }
  });

  return {
    // What this hand, others and undo have changed.
    changed(words) {
      if (words.tables?.some((table) => TABLES.includes(table))) again();
    },
  };
}
