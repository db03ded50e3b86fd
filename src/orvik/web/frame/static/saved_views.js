// Saved views: going to one, and keeping the present one.

import { targetOf } from "./elements.js";

export function startViews(map) {
  document.addEventListener("click", (event) => {
    const go = targetOf(event).closest(".view-go");
    if (!go) return;
    Object.assign(map.view, {
      x: Number(go.dataset.x),
      y: Number(go.dataset.y),
      denominator: Number(go.dataset.denominator),
    });
    map.free = !map.ladder.includes(map.view.denominator);
    map.moved();
    map.field.focus({ preventScroll: true });
  });
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.elt.id !== "view-form") return;
    Object.assign(event.detail.parameters, { x: map.view.x, y: map.view.y, denominator: map.view.denominator });
  });
}
