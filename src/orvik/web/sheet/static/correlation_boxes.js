// The boxes of the correlation selected: taken on the page itself, and dragged; the server says where they may go.

import { PartPieces } from "./part_pieces.js";

// Pixels from which a press is a drag, and within which an edge is taken hold of.
const DRAG_PX = 3,
  EDGE_PX = 5;

export class CorrelationBoxes extends PartPieces {
  constructor(slug, view) {
    super(slug, view, { id: "correlation-boxes", path: "boxes", first: "box-lane" });
    /** @type {{ box: any, hold: string, from: number[], right: number, down: number, moved: boolean } | null} */
    this.drag = null;
  }

  leave() {
    super.leave();
    this.drag = null;
  }

  placed(box) {
    const { drag } = this;
    if (!drag || drag.box !== box) return box;
    const { hold, right, down } = drag;
    if (hold === "whole") return { ...box, x: box.x + right, y: box.y + down };
    if (hold === "older") return { ...box, height: Math.max(1, box.height + down) };
    const y = Math.min(box.y + down, box.y + box.height - 1);
    return { ...box, y, height: box.y + box.height - y };
  }

  // Whether a press was one on a box: it is taken, and may be dragged.
  press(event, at) {
    const box = this.under(event);
    if (!box) return false;
    const reach = Math.min(EDGE_PX / this.view.k, box.height / 4);
    const hold = at[1] - box.y < reach ? "younger" : box.y + box.height - at[1] < reach ? "older" : "whole";
    this.drag = { box, hold, from: at, right: 0, down: 0, moved: false };
    return true;
  }

  move(at) {
    const { drag } = this;
    if (!drag) return false;
    drag.right = at[0] - drag.from[0];
    drag.down = at[1] - drag.from[1];
    drag.moved ||= Math.hypot(drag.right, drag.down) * this.view.k >= DRAG_PX;
    if (drag.moved) this.view.paint();
    return true;
  }

  release() {
    const { drag } = this;
    if (!drag) return false;
    this.drag = null;
    if (drag.moved) this.keep(drag);
    else this.take(drag.box.key);
    return true;
  }

  keep({ box, hold, right, down }) {
    const values = { code: box.key, hold, right: right.toFixed(3), down: down.toFixed(3) };
    this.view.paint();
    return htmx.ajax("POST", `${this.url}/drag`, {
      source: this.list,
      values,
      target: "#correlation-boxes",
      swap: "innerHTML",
    });
  }
}
