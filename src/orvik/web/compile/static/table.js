// Features as a table under their map: opened and closed, listed anew, and its rows fetched as they come into sight.

import { targetOf } from "../frame/elements.js";
import { counted } from "../frame/request_counter.js";
import { startCells } from "./table_cells.js";
import { startTableTools } from "./table_tools.js";

const ROW_PX = 30;
// So many rows are fetched beyond those in sight.
const BEYOND = 20;

export function startTable(desk) {
  const { map, live } = desk;
  const panel = document.getElementById("table");
  const body = document.getElementById("table-body");
  const toggle = document.getElementById("table-toggle");
  // What is listed, and which of its rows are there.
  const shown = {
    table: "points",
    listing: 0,
    listed: 0,
    revision: 0,
    first: 0,
    last: -1,
    asked: 0,
  };
  // Whether this page is changing something, and the revisions that it has made.
  let own = false;
  const made = new Set();

  const grid = () => /** @type {HTMLTableElement} */ (document.getElementById("table-grid"));
  const scroll = () => document.getElementById("table-scroll");
  const form = () => /** @type {HTMLFormElement} */ (document.getElementById("table-form"));
  const path = (rest) => `/p/${map.slug}/table/${shown.table}${rest}`;
  const dipFirst = () => localStorage.getItem("orvik-dip-direction") === "true";

  async function fetched(url, options) {
    const answer = await counted(fetch(url, options)).catch(() => null);
    if (!answer) throw new Error("Orvik does not answer. Is it still running?");
    if (!answer.ok) throw new Error(await answer.text());
    return answer;
  }

  function tell(sentence) {
    const refusal = document.getElementById("table-refusal");
    if (!refusal) return;
    refusal.textContent = sentence;
    refusal.hidden = !sentence;
  }

  async function open(table = shown.table) {
    shown.table = table;
    panel.hidden = false;
    toggle.setAttribute("aria-expanded", "true");
    document.querySelector(".middle").classList.add("with-table");
    const first = dipFirst() && table === "points" ? "?dip_direction=true" : "";
    await htmx.ajax("GET", path(first), {
      source: body,
      target: "#table-body",
      swap: "innerHTML",
    });
  }

  function close() {
    panel.hidden = true;
    toggle.setAttribute("aria-expanded", "false");
    document.querySelector(".middle").classList.remove("with-table");
    desk.hand.lit = null;
    body.replaceChildren();
    map.field.focus();
    map.paintOverlay();
  }

  // Listed anew: the first rows are asked for, and the hand stays in its column.
  body.addEventListener("htmx:afterSwap", () => {
    const there = grid();
    if (!there) return;
    Object.assign(shown, {
      table: there.dataset.table,
      listing: Number(there.dataset.listing),
      listed: Number(there.dataset.listed),
      revision: Number(there.dataset.revision),
      first: 0,
      last: -1,
    });
    const typing = body.contains(document.activeElement) && document.activeElement?.closest("#table-form");
    scroll().addEventListener("scroll", () => fill());
    cells.listed();
    fill().then(() => {
      if (!typing) cells.focus();
      showSelected(false);
    });
  });

  // The rows in sight and some beyond; those that are there already stay.
  async function fill(anew = false) {
    if (!grid()) return;
    const top = Math.max(0, Math.floor(scroll().scrollTop / ROW_PX) - BEYOND);
    const bottom = Math.min(shown.listed, Math.ceil((scroll().scrollTop + scroll().clientHeight) / ROW_PX) + BEYOND);
    const inside = top >= shown.first && bottom <= shown.last;
    const seenTop = Math.floor(scroll().scrollTop / ROW_PX);
    const seenBottom = Math.min(shown.listed, seenTop + Math.ceil(scroll().clientHeight / ROW_PX));
    if (!anew && (inside || (seenTop >= shown.first && seenBottom <= shown.last && shown.last > shown.first))) return;
    const mine = ++shown.asked;
    try {
      const answer = await fetched(
        path(
          `/rows?listing=${shown.listing}&first=${top}&count=${Math.max(1, bottom - top)}&dip_direction=${dipFirst()}`,
        ),
      );
      const rows = await answer.text();
      if (mine !== shown.asked || !grid()) return;
      shown.revision = Number(answer.headers.get("Orvik-Revision"));
      shown.first = top;
      shown.last = bottom;
      place(rows, top, bottom);
    } catch (error) {
      tell(error.message);
    }
  }

  function place(rows, top, bottom) {
    const tbody = document.getElementById("table-rows");
    tbody.innerHTML = rows;
    tbody.prepend(space(top));
    tbody.append(space(shown.listed - bottom));
    markSelected();
    cells.placed();
  }

  function space(rows) {
    const tr = document.createElement("tr");
    tr.setAttribute("aria-hidden", "true");
    const td = document.createElement("td");
    td.colSpan = 99;
    td.className = "table-space";
    td.style.height = `${rows * ROW_PX}px`;
    tr.append(td);
    tr.hidden = !rows;
    return tr;
  }

  // A row comes into sight.
  async function reveal(row) {
    const box = scroll();
    const head = /** @type {HTMLElement} */ (grid().tHead).offsetHeight;
    const top = row * ROW_PX;
    if (top < box.scrollTop) box.scrollTop = top;
    else if (top + ROW_PX + head > box.scrollTop + box.clientHeight)
      box.scrollTop = top + ROW_PX + head - box.clientHeight;
    await fill();
  }

  // Rows of what is selected

  function selected() {
    return new Set(desk.pickedOnMap.filter((f) => f.table === shown.table).map((f) => f.id));
  }

  function markSelected() {
    const ids = selected();
    for (const row of document.querySelectorAll("#table-rows tr[data-id]"))
      row.setAttribute("aria-selected", String(ids.has(Number(row.dataset.id))));
  }

  async function showSelected(follows = true) {
    markSelected();
    const ids = [...selected()].slice(0, 500);
    if (!follows || !ids.length) return;
    const found = await fetched(
      path(`/places?listing=${shown.listing}${ids.map((id) => `&ids=${id}`).join("")}`),
    ).catch(() => null);
    const rows = found ? await found.json() : [];
    if (rows.length) await reveal(rows[0]);
  }

  desk.onSlip(() => {
    if (panel.hidden || !grid()) return;
    if (!own) showSelected();
    else markSelected();
    if (document.getElementById("table-selected")?.checked && !own) listAnew();
  });

  // Selects the features of some rows on the map, or lets them go where they all are.
  async function select(rows, more) {
    let ids = [];
    try {
      const answer = await fetched(path(`/ids?listing=${shown.listing}&first=${rows[0]}&last=${rows[1]}`));
      ids = await answer.json();
    } catch (error) {
      tell(error.message);
      return;
    }
    const there = selected();
    const all = ids.every((id) => there.has(id));
    const left = all ? [...there].filter((id) => !ids.includes(id)) : more ? [...there, ...ids] : ids;
    const features = [...new Set(left)].map((id) => ({
      table: shown.table,
      id,
    }));
    own = true;
    try {
      const found = features.length ? await desk.askMap({ do: "show", features }) : { hand: [] };
      tell(found.refused ?? "");
      if (!found.refused) {
        await desk.takeSelected(found.hand);
        if (!all && found.hand.length) bring(found.hand);
      }
    } finally {
      own = false;
    }
  }

  // The map goes to features of which none is in sight.
  function bring(features) {
    const places = features.flatMap((f) => f.paths.flat());
    const { view } = map;
    const seen = places.some((p) => {
      const [x, y] = view.toScreen(...p);
      return x > 0 && y > 0 && x < view.width && y < view.height;
    });
    if (seen || !places.length) return;
    const middle = (i) => (Math.min(...places.map((p) => p[i])) + Math.max(...places.map((p) => p[i]))) / 2;
    [view.x, view.y] = [middle(0), middle(1)];
    map.moved();
  }

  // The feature of the current row is lit on the map.
  let lighting = 0;
  function light(id) {
    clearTimeout(lighting);
    lighting = setTimeout(async () => {
      if (panel.hidden || !id) return;
      const answer = await live.ask({ do: "show", features: [{ table: shown.table, id }] }).catch(() => null);
      desk.hand.lit = answer?.hand?.[0] ?? null;
      map.paintOverlay();
    }, 60);
  }

  // Changes

  function listAnew() {
    const among = document.getElementById("table-selected")?.checked ? [...selected()].join(",") || "0" : "";
    /** @type {HTMLInputElement} */ (form().elements.namedItem("among")).value = among;
    htmx.trigger(form(), "list-anew");
  }

  body.addEventListener(
    "change",
    (event) => {
      if (targetOf(event).id !== "table-selected") return;
      event.stopPropagation();
      listAnew();
    },
    true,
  );

  body.addEventListener("click", (event) => {
    const sort = targetOf(event).closest("[data-sort]");
    const other = targetOf(event).closest("[data-table]:not(table)");
    if (targetOf(event).closest("#close-table")) close();
    else if (targetOf(event).closest("#table-dip-direction")) {
      localStorage.setItem("orvik-dip-direction", String(!dipFirst()));
      /** @type {HTMLInputElement} */ (form().elements.namedItem("dip_direction")).value = String(dipFirst());
      htmx.trigger(form(), "list-anew");
    } else if (other) open(other.dataset.table);
    else if (sort) {
      const by = /** @type {HTMLInputElement} */ (form().elements.namedItem("sort"));
      const down = /** @type {HTMLInputElement} */ (form().elements.namedItem("descending"));
      down.value = String(by.value === sort.dataset.sort && down.value !== "true");
      by.value = String(sort.dataset.sort);
      htmx.trigger(form(), "list-anew");
    }
  });

  live.on("changed", (words) => {
    if (panel.hidden || !grid()) return;
    if (
      words.tables &&
      !["points", "lines", "areas", "units", "sources", "kinds"].some((t) => words.tables.includes(t))
    )
      return;
    // Own changes leave the rows where they are; others may have added some.
    if (own || made.has(words.revision) || cells.editing()) fill(true);
    else listAnew();
  });

  // Sends a change of cells; what cannot be saved at once is shown first. Returns whether it was saved.
  async function change(what) {
    tell("");
    own = true;
    try {
      const answer = await fetched(path("/change"), {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({
          listing: shown.listing,
          revision: shown.revision,
          dip_direction: dipFirst() && shown.table === "points",
          ...what,
        }),
      });
      const words = await answer.text();
      if (answer.headers.get("Orvik-Waiting")) return { waiting: words };
      made.add(Number(answer.headers.get("Orvik-Revision")));
      map.say(words);
      await fill(true);
      return { saved: true };
    } catch (error) {
      return { refused: error.message };
    } finally {
      own = false;
    }
  }

  toggle.addEventListener("click", () => {
    if (panel.hidden) open();
    else close();
  });

  const view = {
    shown,
    grid,
    scroll,
    reveal,
    fill,
    tell,
    select,
    light,
    change,
    path,
    fetched,
    dipFirst,
    close,
    map,
  };
  const cells = startCells(desk, view);
  startTableTools(view, cells);
}
