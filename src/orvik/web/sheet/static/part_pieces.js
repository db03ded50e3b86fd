// The pieces of the part selected, such as the rows of an explanation: framed on the page, listed in the tray, and one
// of them taken on either. The server says where they stand, in the fragment that lists them.

export class PartPieces {
  // `id` names the list in the tray, `path` what is asked for of the part, `first` the field to type in first.
  constructor(slug, view, { id, path, first }) {
    this.slug = slug;
    this.view = view;
    this.id = id;
    this.path = path;
    this.first = first;
    /** @type {{ key: string, x: number, y: number, width: number, height: number }[]} */
    this.boxes = [];
    this.chosen = "";
    document.body.addEventListener("htmx:afterSwap", (event) => {
      if (event.detail.target.id === id) this.read();
      else if (event.detail.target.id === "part-slip") this.leave();
    });
  }

  get list() {
    return document.getElementById(this.id);
  }

  get url() {
    return `/p/${this.slug}/parts/${this.list.dataset.part}/${this.path}`;
  }

  read() {
    const { boxes = "[]", chosen = "" } = this.list.querySelector("[data-boxes]").dataset;
    this.boxes = JSON.parse(boxes);
    this.chosen = chosen;
    this.view.paint();
  }

  leave() {
    this.boxes = [];
    this.chosen = "";
  }

  // Where a piece is framed; while it is dragged it may be elsewhere.
  placed(box) {
    return box;
  }

  paint(marks) {
    for (const box of this.boxes) {
      const { x, y, width, height } = this.placed(box);
      this.view.make("rect", marks, {
        class: box.key === this.chosen ? "row-box selected" : "row-box",
        "data-piece": box.key,
        "data-hit": this.list?.dataset.part,
        x,
        y,
        width,
        height,
      });
    }
  }

  // The piece that a press is on, if it is one of these; with Shift a press is one on the part.
  under(event) {
    const key = event.shiftKey ? "" : event.target.dataset?.piece;
    return key ? this.boxes.find((one) => one.key === key) : undefined;
  }

  // Shows the fields of a piece, or closes them again.
  async take(key) {
    this.chosen = key === this.chosen ? "" : key;
    const url = `${this.url}?chosen=${encodeURIComponent(this.chosen)}`;
    await htmx.ajax("GET", url, { source: this.list, target: `#${this.id}`, swap: "innerHTML" });
    document.getElementById(this.first)?.focus({ preventScroll: true });
    this.list.querySelector(".selected")?.scrollIntoView({ block: "nearest" });
  }

  // Whether a click was one on the list.
  click(target) {
    const row = target.closest(".row-name");
    if (!row || !this.list?.contains(row)) return false;
    this.take(row.dataset.piece);
    return true;
  }
}
