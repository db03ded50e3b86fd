// The boxes of the correlation selected: taken on the page itself, and dragged; the server says where they may go.

// Pixels from which a press is a drag, and within which an edge is taken hold of.
const DRAG_PX = 3,
  EDGE_PX = 5;

export class CorrelationBoxes {
  constructor(slug, view) {
    this.slug = slug;
    this.view = view;
    /** @type {{ code: string, x: number, y: number, width: number, height: number }[]} */
    this.places = [];
    this.chosen = "";
    /** @type {{ box: any, hold: string, from: number[], right: number, down: number, moved: boolean } | null} */
    this.drag = null;
    document.body.addEventListener("htmx:afterSwap", (event) => {
      const { id } = event.detail.target;
      if (id === "correlation-boxes") this.read();
      else if (id === "part-slip") this.leave();
    });
  }

  get list() {
    return document.getElementById("correlation-boxes");
  }

  read() {
    const { places = "[]", chosen = "" } = document.getElementById("box-places").dataset;
    this.places = JSON.parse(places);
    this.chosen = chosen;
    this.view.paint();
  }

  leave() {
    this.places = [];
    this.chosen = "";
    this.drag = null;
  }

  paint(marks) {
    for (const box of this.places) {
      const { code, x, y, width, height } = this.drag?.box === box ? this.dragged(this.drag) : box;
      this.view.make("rect", marks, {
        class: code === this.chosen ? `row-box selected` : "row-box",
        "data-box": code,
        "data-hit": this.list?.dataset.part,
        x,
        y,
        width,
        height,
      });
    }
  }

  // Where a box is shown while it is dragged.
  dragged({ box, hold, right, down }) {
    if (hold === "whole") return { ...box, x: box.x + right, y: box.y + down };
    if (hold === "older") return { ...box, height: Math.max(1, box.height + down) };
    const y = Math.min(box.y + down, box.y + box.height - 1);
    return { ...box, y, height: box.y + box.height - y };
  }

  // Whether a press was one on a box: it is taken, and may be dragged.
  press(event, at) {
    const code = event.target.dataset?.box;
    const box = code && !event.shiftKey ? this.places.find((one) => one.code === code) : null;
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
    else this.take(drag.box.code);
    return true;
  }

  keep({ box, hold, right, down }) {
    const values = { code: box.code, hold, right: right.toFixed(3), down: down.toFixed(3) };
    const url = `/p/${this.slug}/parts/${this.list.dataset.part}/boxes/drag`;
    this.view.paint();
    return htmx.ajax("POST", url, { source: this.list, values, target: "#correlation-boxes", swap: "innerHTML" });
  }

  // Shows the fields of a box, or closes them again.
  async take(code) {
    this.chosen = code === this.chosen ? "" : code;
    const url = `/p/${this.slug}/parts/${this.list.dataset.part}/boxes?chosen=${encodeURIComponent(this.chosen)}`;
    await htmx.ajax("GET", url, { source: this.list, target: "#correlation-boxes", swap: "innerHTML" });
    document.getElementById("box-lane")?.focus({ preventScroll: true });
    document.querySelector("#correlation-boxes .selected")?.scrollIntoView({ block: "nearest" });
  }

  // Whether a click was one on the list.
  click(target) {
    const row = target.closest(".row-name[data-box]");
    if (row) this.take(row.dataset.box);
    return Boolean(row);
  }
}
