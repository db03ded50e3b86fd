// Findings of one note: a step from place to place, on the sheet and in the list of its places.

import { targetOf } from "../frame/elements.js";

export function startSteps(view) {
  document.addEventListener("click", (event) => {
    const button = targetOf(event).closest("[data-step]");
    const note = button?.closest(".note");
    if (!button || !note) return;
    const places = [...note.querySelectorAll(".note-places li")];
    const step = Number(button.dataset.step);
    const now = places.findIndex((place) => place.hasAttribute("aria-current"));
    const next = now < 0 && step < 0 ? places.length - 1 : (now + step + places.length) % places.length;
    places.forEach((place, i) => {
      if (i === next) place.setAttribute("aria-current", "true");
      else place.removeAttribute("aria-current");
    });
    places[next].scrollIntoView({ block: "nearest" });
    note.querySelector(".step-at").textContent = String(next + 1);
    const number = note.id.replace("note-", "");
    const marks = [...document.querySelectorAll(`.mark[data-note="${number}"]`)];
    for (const mark of marks) mark.classList.toggle("held", mark.dataset.which === places[next].dataset.which);
    const mark = marks.find((one) => one.dataset.which === places[next].dataset.which);
    if (mark) view.go(mark);
  });
}
