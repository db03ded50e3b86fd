// The rows of the explanation selected: taken on the page itself, and by keys.

import { PartPieces } from "./part_pieces.js";

export class ExplanationRows extends PartPieces {
  constructor(slug, view) {
    super(slug, view, { id: "explanation-rows", path: "rows", first: "row-name" });
    this.pressed = "";
  }

  // A press on a row may be the beginning of a drag of the explanation; only a click takes the row.
  press(event) {
    this.pressed = this.under(event)?.key ?? "";
  }

  release(moved) {
    if (this.pressed && !moved) this.take(this.pressed);
    this.pressed = "";
  }
}
