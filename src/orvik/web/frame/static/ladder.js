// The ladder in the bottom strip.

import { spaced } from "./figures.js";

export function startLadder(map) {
  const ladder = document.getElementById("ladder");
  const free = document.getElementById("free-zoom");
  const figures = document.getElementById("free-scale");
  function paint() {
    for (const rung of ladder.querySelectorAll("[data-denominator]")) {
      rung.setAttribute("aria-pressed", String(!map.free && Number(rung.dataset.denominator) === map.view.denominator));
    }
    free.setAttribute("aria-pressed", String(map.free));
    figures.textContent = map.free ? `1:${spaced(map.view.denominator)}` : "free";
  }
  for (const rung of ladder.querySelectorAll("[data-denominator]")) {
    rung.addEventListener("click", () => map.stand(Number(rung.dataset.denominator)));
  }
  free.addEventListener("click", () => {
    map.free = true;
    paint();
  });
  const whole = document.getElementById("whole-sheet");
  whole.disabled = !map.home();
  whole.addEventListener("click", () => {
    map.standWhole();
    map.moved();
  });
  map.on("view", paint);
  paint();
}
