// Ground: the map to look at, beside the settings.

import { targetOf } from "../frame/elements.js";
import { Live } from "../frame/live.js";
import { startLadder } from "../frame/ladder.js";
import { OrvikMap } from "../frame/map.js";
import { startViews } from "../frame/saved_views.js";
import { startStrip } from "../frame/strip.js";

const map = new OrvikMap(document.getElementById("map"));
const live = new Live(map.slug);
startStrip(live);
startLadder(map);
startViews(map);
map.start();

live.on("ink", (buffer) => map.takeInk(buffer));
live.on("labels", (words) => map.notice(words.failed));
live.on("changed", (words) => {
  map.takeWords(words);
});

const line = document.getElementById("place-line");
let place = "";
let height = "";
const say = () => {
  line.textContent = height ? `${height} · ${place}` : place;
};
map.on("pointer", async ([px, py]) => {
  const [x, y] = map.view.toGround(px, py);
  askHeight(x, y);
  if (!live.idle) return;
  const answer = await live.ask({ do: "hover", x, y }).catch(() => null);
  if (answer?.place) {
    place = answer.place;
    say();
  }
});

// The height at the pointer, where a grid of heights lies below it; one question at a time.
let asking = false;
let last = null;
async function askHeight(x, y) {
  last = [x, y];
  if (asking || !document.querySelector("#stack [data-heights]")) return;
  asking = true;
  while (last) {
    const [qx, qy] = last;
    last = null;
    const response = await fetch(`/p/${map.slug}/height?x=${qx}&y=${qy}`).catch(() => null);
    height = response?.ok ? await response.text() : "";
    say();
  }
  asking = false;
}
document.getElementById("underlay-form").addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) targetOf(event).reset();
});
