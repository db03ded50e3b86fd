// Pinning a note: a place of the sheet is chosen by a click, or by Enter for the middle of the desk; then it is said.

import { targetOf } from "../frame/elements.js";
import { fillSignatures } from "./signature.js";

export function startPinning(desk, view) {
  const button = document.getElementById("pin-note");
  const form = document.getElementById("pin-form");
  if (!button || !form) return;

  function choose(on) {
    button.setAttribute("aria-pressed", String(on));
    desk.classList.toggle("pinning", on);
    if (on) desk.focus({ preventScroll: true });
  }

  function close() {
    form.hidden = true;
    form.reset();
    view.pin(null);
    choose(false);
  }

  function pinAt(place) {
    if (!place) return;
    const [x, y] = place.map((v) => v.toFixed(2));
    form.querySelector('[name="at"]').value = `${x} ${y}`;
    document.getElementById("pin-place").textContent = `at ${Number(x).toFixed(0)}, ${Number(y).toFixed(0)} mm`;
    view.pin(place);
    choose(false);
    form.hidden = false;
    fillSignatures();
    document.getElementById("pin-text").focus();
  }

  button.addEventListener("click", () => choose(button.getAttribute("aria-pressed") !== "true"));
  document.getElementById("pin-cancel").addEventListener("click", () => {
    close();
    button.focus();
  });
  // Before the desk takes it for a move.
  desk.addEventListener(
    "pointerdown",
    (event) => {
      if (!desk.classList.contains("pinning") || event.button !== 0) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      pinAt(view.placeOf(event.clientX, event.clientY));
    },
    true,
  );
  desk.addEventListener("keydown", (event) => {
    if (!desk.classList.contains("pinning")) return;
    if (event.key === "Enter") pinAt(view.middle());
    else if (event.key === "Escape") choose(false);
    else return;
    event.preventDefault();
  });
  form.addEventListener("keydown", (event) => {
    if (event.key === "Escape") close();
  });
  document.body.addEventListener("htmx:afterRequest", (event) => {
    if (targetOf(event) === form && event.detail.successful) close();
  });
}
