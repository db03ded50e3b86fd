// The stratigraphic column: units dragged to their place, or moved with Alt and an arrow key; letters of ages typed.

import { targetOf } from "../frame/elements.js";

const strata = () => document.getElementById("strata");
const rows = () => [...strata().querySelectorAll(".column-row")];
const DRAG = 6;
// A click so soon after a drag is its end, and selects nothing; in milliseconds.
const SOON = 80;
let drag = null;
let dropped = -Infinity;

function placed(row, place) {
  const slug = document.querySelector(".frame").dataset.slug;
  htmx.ajax("POST", `/p/${slug}/units/${row.dataset.unit}/place/${place}`, {
    source: row,
    target: "#strata",
    swap: "outerHTML",
  });
}

// The place among the others that a height on the screen means.
function placeAt(y) {
  const others = rows().filter((row) => row !== drag.row);
  return others.filter((row) => {
    const box = row.getBoundingClientRect();
    return box.top + box.height / 2 < y;
  }).length;
}

document.addEventListener("pointerdown", (event) => {
  const row = targetOf(event).closest?.(".column-row");
  if (!row || event.button !== 0 || targetOf(event).closest(".move")) return;
  drag = { row, y: event.clientY, moved: false, place: Number(row.dataset.place) };
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  const by = event.clientY - drag.y;
  if (!drag.moved && Math.abs(by) < DRAG) return;
  drag.moved = true;
  drag.place = placeAt(event.clientY);
  drag.row.classList.add("dragged");
  drag.row.style.transform = `translateY(${by}px)`;
  const others = rows().filter((row) => row !== drag.row);
  others.forEach((row, i) => {
    row.classList.toggle("drop-before", i === drag.place);
    row.classList.toggle("drop-after", i === others.length - 1 && drag.place === others.length);
  });
});

document.addEventListener("pointerup", () => {
  const done = drag;
  drag = null;
  if (!done?.moved) return;
  dropped = performance.now();
  done.row.classList.remove("dragged");
  done.row.style.transform = "";
  for (const row of rows()) row.classList.remove("drop-before", "drop-after");
  if (done.place !== Number(done.row.dataset.place)) placed(done.row, done.place);
});

document.addEventListener(
  "click",
  (event) => {
    if (performance.now() - dropped < SOON) event.stopPropagation();
  },
  { capture: true },
);

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && drag) {
    drag.row.classList.remove("dragged");
    drag.row.style.transform = "";
    for (const row of rows()) row.classList.remove("drop-before", "drop-after");
    drag = null;
  }
  const row = targetOf(event).closest?.(".column-row");
  if (!row || !event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  event.preventDefault();
  const place = Number(row.dataset.place) + (event.key === "ArrowUp" ? -1 : 1);
  if (place < 0 || place >= rows().length) return;
  const unit = row.dataset.unit;
  document.addEventListener(
    "htmx:afterSettle",
    () => strata().querySelector(`[data-unit="${unit}"] .column-unit`)?.focus(),
    { once: true },
  );
  placed(row, place);
});

document.addEventListener("click", (event) => {
  const letter = targetOf(event).closest?.("[data-letter]");
  if (!letter) return;
  const field = /** @type {HTMLInputElement} */ (document.getElementById("unit-label"));
  field.setRangeText(letter.dataset.letter ?? "", field.selectionStart ?? 0, field.selectionEnd ?? 0, "end");
  field.focus();
});
