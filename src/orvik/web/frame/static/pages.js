// Pages without a map: the strip alone.

import { Live } from "./live.js";
import { startStrip } from "./strip.js";

startStrip(new Live(document.querySelector(".frame").dataset.slug));
