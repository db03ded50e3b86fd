// Ground: the map to look at, beside the settings.

import "./refusals.js";
import { Live } from "./live.js";
import { OrvikMap, startLadder } from "./map.js";
import { startStrip } from "./strip.js";

const map = new OrvikMap(document.getElementById("map"));
const live = new Live(map.slug);
startStrip(live);
startLadder(map);
map.start();

live.on("ink", (buffer) => map.takeInk(buffer));
live.on("changed", (words) => {
  map.takeWords(words);
  if (words.tables?.includes("sources")) {
    htmx.ajax("GET", `/p/${map.slug}/stack`, { target: "#stack", swap: "outerHTML" });
  }
});

const line = document.getElementById("place-line");
map.on("pointer", async ([px, py]) => {
  const [x, y] = map.view.toGround(px, py);
  if (!live.idle) return;
  const answer = await live.ask({ do: "hover", x, y }).catch(() => null);
  if (answer?.place) line.textContent = `${answer.place.grid} · ${answer.place.geographic}`;
});
document.getElementById("underlay-form").addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) event.target.reset();
});
