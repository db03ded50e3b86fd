// The field notebook: stations in a list beside the map, taken one after the other and ticked off.

import { showBeside } from "./beside.js";
import { targetOf } from "../frame/elements.js";
import { token } from "../frame/tokens.js";

const CARD = token("card");
const INK = token("ink");
const SIGNAL = token("signal");
const SOUND = token("sound");

export function startNotebook(desk, takePen) {
  const { map } = desk;
  const panel = document.getElementById("notebook");
  const opener = document.getElementById("notebook-count");
  let current = null;

  function paintCount() {
    const left = Number(document.getElementById("notebook-list")?.dataset.left ?? 0);
    const all = Number(document.getElementById("notebook-list")?.dataset.all ?? 0);
    opener.querySelector(".count-words").textContent = all ? `${all - left} of ${all}` : "none";
    for (const row of panel.querySelectorAll(".station-row"))
      row.classList.toggle("current", row.dataset.station === current);
  }

  function toggle(open = panel.hidden) {
    showBeside(panel, opener, open);
  }

  opener.addEventListener("click", () => toggle());
  document.getElementById("close-notebook").addEventListener("click", () => {
    if (!panel.hidden) {
      toggle(false);
      map.field.focus();
    }
  });
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (targetOf(event).id === "notebook-list" || targetOf(event).querySelector?.("#notebook-list")) paintCount();
  });

  panel.addEventListener("click", (event) => {
    if (targetOf(event).id === "leave-table") {
      document.getElementById("notebook-preview").replaceChildren();
      return;
    }
    const row = targetOf(event).closest(".station-go")?.closest(".station-row");
    if (row) desk.inTurn(() => take(row));
  });

  async function take(row) {
    const { x, y, kind, reading, station } = row.dataset;
    current = station;
    const place = [Number(x), Number(y)];
    if (!(await takePen(`${kind}-certain`))) return;
    [map.view.x, map.view.y] = place;
    map.stand(map.ladder.at(-1));
    map.pointer = [map.view.width / 2, map.view.height / 2];
    const answer = await desk.askMap({ do: "station", station: Number(station) });
    if (answer.refused) return;
    document.dispatchEvent(new CustomEvent("orvik-station", { detail: { answer, reading, name: row.dataset.name } }));
    paintCount();
    row.scrollIntoView({ block: "nearest" });
  }

  // Tab after a reading goes on to the next station that is not ticked off.
  document.addEventListener("orvik-next-station", () =>
    desk.inTurn(async () => {
      const rows = [...panel.querySelectorAll(".station-row")];
      const at = rows.findIndex((row) => row.dataset.station === current);
      if (at < 0) return;
      const next = [...rows.slice(at + 1), ...rows.slice(0, at)].find((row) => !row.classList.contains("done"));
      if (next) await take(next);
    }),
  );

  function refresh() {
    return htmx
      .ajax("GET", `/p/${map.slug}/notebook`, { source: "#notebook-list", target: "#notebook-list", swap: "outerHTML" })
      .then(paintCount);
  }

  function changed(words) {
    const touched = words.tables || [];
    if (document.getElementById("notebook-preview")?.childElementCount) return;
    if (touched.includes("stations") || touched.includes("points")) refresh();
    if (touched.includes("kinds") || touched.includes("pens"))
      htmx.ajax("GET", `/p/${map.slug}/pens`, { source: "#pens", target: "#pens", swap: "outerHTML" });
  }

  // Stations that wait stand on the map as small open squares while the list is open.
  map.on("overlay", (context, view) => {
    if (panel.hidden) return;
    for (const row of panel.querySelectorAll(".station-row")) {
      const [x, y] = view.toScreen(Number(row.dataset.x), Number(row.dataset.y));
      if (x < -9 || y < -9 || x > view.width + 9 || y > view.height + 9) continue;
      const done = row.classList.contains("done");
      context.strokeStyle = row.dataset.station === current ? SIGNAL : done ? SOUND : INK;
      context.lineWidth = 1.5;
      context.strokeRect(x - 6, y - 6, 12, 12);
      if (!done) {
        context.fillStyle = CARD;
        context.globalAlpha = 0.6;
        context.fillRect(x - 5, y - 5, 10, 10);
        context.globalAlpha = 1;
      }
    }
  });

  paintCount();
  return { changed };
}
