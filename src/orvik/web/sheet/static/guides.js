// Guides: drawn out of the rulers, moved by hand, and taken away by being put back.

const NEAR_PX = 4;

export class PageGuides {
  // `keep(axis, at, before)` keeps a guide; a place of null takes it away.
  constructor(view, keep) {
    this.view = view;
    this.keep = keep;
    this.lines = [];
    this.own = [];
    /** @type {{ axis: string, before: number | null, at: number | null } | null} */
    this.drag = null;
    for (const [id, axis] of [
      ["ruler-top", "y"],
      ["ruler-left", "x"],
    ]) {
      const ruler = document.getElementById(id);
      ruler.addEventListener("pointerdown", (event) => {
        if (event.button !== 0 || view.ground) return;
        this.drag = { axis, before: null, at: null };
        view.field.setPointerCapture(event.pointerId);
        event.preventDefault();
      });
    }
  }

  // All lines that parts are drawn to, by axis.
  along(axis) {
    return this.lines.filter(([of]) => of === axis).map(([, at]) => at);
  }

  paint(marks) {
    const { width, height } = this.view.page;
    const own = new Set(this.own.map(([axis, at]) => `${axis}${at}`));
    for (const [axis, at] of this.lines) {
      if (this.drag && this.drag.axis === axis && this.drag.before === at) continue;
      this.line(marks, axis, at, own.has(`${axis}${at}`) ? "page-line own" : "page-line", width, height);
    }
    if (this.drag?.at != null) this.line(marks, this.drag.axis, this.drag.at, "page-line own drawn", width, height);
  }

  line(marks, axis, at, kind, width, height) {
    const ends = axis === "x" ? { x1: at, x2: at, y1: 0, y2: height } : { y1: at, y2: at, x1: 0, x2: width };
    this.view.make("line", marks, { class: kind, ...ends });
  }

  // Whether a press was on a guide of one's own.
  press([x, y]) {
    const reach = NEAR_PX / this.view.k;
    const near = this.own.find(([axis, at]) => Math.abs((axis === "x" ? x : y) - at) < reach);
    if (near) this.drag = { axis: near[0], before: near[1], at: near[1] };
    return Boolean(near);
  }

  move([x, y]) {
    if (!this.drag) return false;
    const { axis } = this.drag;
    const { width, height } = this.view.page;
    const at = Math.round((axis === "x" ? x : y) * 2) / 2;
    this.drag.at = at >= 0 && at <= (axis === "x" ? width : height) ? at : null;
    this.view.paint();
    return true;
  }

  release() {
    const done = this.drag;
    this.drag = null;
    if (!done) return false;
    if (done.at !== done.before && !(done.at == null && done.before == null))
      this.keep(done.axis, done.at, done.before);
    this.view.paint();
    return true;
  }
}
