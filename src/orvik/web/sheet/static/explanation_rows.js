// The rows of the explanation selected: taken on the page itself, and by keys.

export class ExplanationRows {
  constructor(slug, view) {
    this.slug = slug;
    this.view = view;
    this.boxes = [];
    this.chosen = "";
    this.pressed = "";
    document.body.addEventListener("htmx:afterSwap", (event) => {
      const { id } = event.detail.target;
      if (id === "explanation-rows") this.read();
      else if (id === "part-slip") this.leave();
    });
  }

  get list() {
    return document.getElementById("explanation-rows");
  }

  read() {
    const { boxes = "[]", chosen = "" } = document.getElementById("row-boxes").dataset;
    this.boxes = JSON.parse(boxes);
    this.chosen = chosen;
    this.view.paint();
  }

  leave() {
    this.boxes = [];
    this.chosen = "";
  }

  paint(marks) {
    for (const { key, x, y, width, height } of this.boxes)
      this.view.make("rect", marks, {
        class: key === this.chosen ? "row-box selected" : "row-box",
        "data-row": key,
        "data-hit": this.list?.dataset.part,
        x,
        y,
        width,
        height,
      });
  }

  // A press on a row may be the beginning of a drag of the explanation; only a click takes the row.
  press(event) {
    this.pressed = event.shiftKey ? "" : event.target.dataset?.row || "";
  }

  release(moved) {
    if (this.pressed && !moved) this.take(this.pressed);
    this.pressed = "";
  }

  // Shows the fields of a row, or closes them again.
  take(key) {
    this.chosen = key === this.chosen ? "" : key;
    this.show();
  }

  async show() {
    const url = `/p/${this.slug}/parts/${this.list.dataset.part}/rows?chosen=${encodeURIComponent(this.chosen)}`;
    await htmx.ajax("GET", url, { source: this.list, target: "#explanation-rows", swap: "innerHTML" });
    document.getElementById("row-name")?.focus({ preventScroll: true });
    document.querySelector(".explanation-rows .selected")?.scrollIntoView({ block: "nearest" });
  }

  // Whether a click was one on the list.
  click(target) {
    const row = target.closest(".row-name[data-row]");
    if (row) this.take(row.dataset.row);
    return Boolean(row);
  }
}
