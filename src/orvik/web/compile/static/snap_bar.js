// The snap bar: the ring's radius, what it may hold and in which layers, kept for this browser.

import { targetOf } from "../frame/elements.js";

export function startSnapBar(live, changed) {
  const bar = document.getElementById("snap-bar");
  const radius = document.getElementById("snap-radius");
  const unit = document.getElementById("snap-unit");
  const words = document.getElementById("snap-words");
  const switches = [...bar.querySelectorAll(".switch")];
  const nameOf = (button) => String(button.dataset.switch);
  const layerOf = (button) => String(button.dataset.snapLayer);
  const layers = () => [...document.querySelectorAll("[data-snap-layer]")];
  const kept = JSON.parse(localStorage.getItem("orvik-snap") || "null");
  let held = kept?.layers || {};
  if (kept) {
    radius.value = kept.radius;
    unit.value = kept.unit;
    for (const s of switches) if (nameOf(s) in kept) s.setAttribute("aria-pressed", String(kept[nameOf(s)]));
  }

  function paintLayers() {
    for (const b of layers()) b.setAttribute("aria-pressed", String(held[layerOf(b)] !== false));
  }

  async function send() {
    const settings = { radius: radius.value.replace(",", "."), unit: unit.value, layers: held };
    for (const s of switches) settings[nameOf(s)] = s.getAttribute("aria-pressed") === "true";
    const answer = await live.ask({ do: "snap", ...settings }).catch(() => null);
    if (!answer) return;
    const refused = Boolean(answer.refused);
    radius.setAttribute("aria-invalid", String(refused));
    words.textContent = refused ? answer.refused : answer.words;
    words.classList.toggle("caution", refused);
    bar.title = words.textContent;
    if (refused) return;
    localStorage.setItem("orvik-snap", JSON.stringify(settings));
    changed(answer.radius);
  }

  live.on("found", send);
  bar.addEventListener("submit", (event) => event.preventDefault());
  radius.addEventListener("input", send);
  unit.addEventListener("change", send);
  for (const s of switches) {
    s.addEventListener("click", () => {
      s.setAttribute("aria-pressed", String(s.getAttribute("aria-pressed") !== "true"));
      send();
    });
  }
  document.addEventListener("click", (event) => {
    const button = targetOf(event).closest?.("[data-snap-layer]");
    if (!button) return;
    held = { ...held, [layerOf(button)]: button.getAttribute("aria-pressed") !== "true" };
    paintLayers();
    send();
  });
  document.body.addEventListener("htmx:afterSwap", paintLayers);
  paintLayers();
}
