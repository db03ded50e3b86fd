// Pages without a map: the strip alone.

import { targetOf } from "./elements.js";
import { Live } from "./live.js";
import { startStrip } from "./strip.js";

// What is typed into a field that is marked so is for a button beside it, and asks nothing by itself.
document.addEventListener(
  "change",
  (event) => {
    if (targetOf(event).closest("[data-quiet]")) event.stopPropagation();
  },
  true,
);

startStrip(new Live(document.querySelector(".frame").dataset.slug));
