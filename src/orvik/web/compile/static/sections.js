// A section under the map: the pointer on it lights its place on the map, and the other way round.

import { targetOf } from "../frame/elements.js";
import { spaced } from "../frame/figures.js";
import { token } from "../frame/tokens.js";

// The section line is meant by a pointer within so many pixels of it.
const REACH_PX = 12;
const REST_MS = 40;
const SIGNAL = token("signal");
const SHEET = token("sheet");

export function startSections(desk) {
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
      frame = null;
      body.replaceChildren();
      map.field.focus();
    }
    map.paintOverlay();
  }

  // The one section line that is selected.
  function selected() {
    const [feature] = hand.picked;
    const kind = document.getElementById("feature-form")?.dataset.kind;
    return hand.picked.length === 1 && kind === panel.dataset.kind ? feature.id : null;
  }

  function room() {
    return { width: panel.clientWidth - 16, height: Math.max(60, panel.clientHeight - 84) };
  }

  // One picture at a time: what is asked for meanwhile comes after it.
  async function ask(number) {
    shown = number ?? shown;
    if (asking) {
      late = true;
      return;
    }
    asking = true;
    const path = shown === null ? "" : `/${shown}`;
    const values = room();
    await htmx.ajax("GET", `/p/${map.slug}/section${path}`, { source: body, target: body, swap: "innerHTML", values });
    asking = false;
    if (late && !panel.hidden) {
      late = false;
      await ask(null);
    }
  }

  opener.addEventListener("click", () => toggle());
  panel.addEventListener("click", (event) => {
    if (targetOf(event).closest("#close-section")) toggle(false);
  });
  panel.addEventListener("htmx:configRequest", (event) => {
    for (const [name, value] of Object.entries(room())) event.detail.parameters.set(name, String(value));
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

  body.addEventListener("htmx:afterSettle", () => {
    const picture = document.getElementById("section-picture");
    frame = JSON.parse(picture?.dataset.measures || "null");
    const chosen = /** @type {HTMLSelectElement | null} */ (document.getElementById("section-line"));
    if (chosen) shown = Number(chosen.value);
    map.paintOverlay();
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
      const level = up ?? ground;
      const y = frame.y - (ground ?? 0) * frame.up;
      mark.setAttribute("transform", `translate(${frame.x + distance * frame.along} ${y})`);
      const height =
        level === null ? "no height known" : `${spaced(Math.abs(level))} m ${level < 0 ? "below" : "above"} sea level`;
      const depth =
        up !== null && ground !== null && up < ground - 0.5 ? `, ${spaced(ground - up)} m below ground` : "";
      words.textContent = `${spaced(distance)} m along, ${height}${depth}`;
    }
    map.paintOverlay();
  }

  body.addEventListener("pointermove", (event) => {
    const picture = /** @type {SVGSVGElement} */ (targetOf(event).closest("#section-picture"));
    if (!picture || !frame) return;
    const box = picture.getBoundingClientRect();
    const mm = picture.viewBox.baseVal.width / box.width;
    const distance = ((event.clientX - box.left) * mm - frame.x) / frame.along;
    const up = (frame.y - (event.clientY - box.top) * mm) / frame.up;
    show(distance >= 0 && distance <= frame.length ? distance : null, up);
  });
  body.addEventListener("pointerleave", () => show(null, null));

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
      const seen = ["lines", "areas", "points", "units", "sources", "sections"];
      if (words.tables?.some((table) => seen.includes(table))) again();
    },
  };
}
