// The ring: the latest place is asked for as soon as the answer before is in, and what it holds is shown.

import { PX_PER_MM } from "../frame/view.js";

export class Ring {
  constructor(desk) {
    this.desk = desk;
    this.hovering = false;
    this.pressing = false;
    this.asked = null;
  }

  async hover() {
    const { desk } = this;
    const { live, hand } = desk;
    if (this.hovering || this.pressing || !desk.surface.pointer || !live.idle) return;
    this.hovering = true;
    while (desk.surface.pointer && this.asked !== desk.surface.pointer && !this.pressing) {
      const { surface } = desk;
      this.asked = surface.pointer;
      const [x, y] = surface.view.toGround(...this.asked);
      const moving = Boolean(hand.drag || hand.tool);
      const answer = await desk
        .tell({ do: "hover", x, y, free: hand.free, scale: surface.view.denominator, moving })
        .catch(() => null);
      if (!answer || answer.refused || desk.surface !== surface) break;
      this.show(answer);
    }
    this.hovering = false;
  }

  // The ring stands still from the moment it is asked for until its click is answered.
  async still(work) {
    this.pressing = true;
    try {
      return await work();
    } finally {
      this.pressing = false;
    }
  }

  show(answer) {
    const { hand, surface } = this.desk;
    const { label, view } = surface;
    Object.assign(hand, { ring: answer.ring, at: answer.at, held: answer.held || null, radius: answer.radius });
    surface.tellPlace(answer.place);
    document.getElementById("coarse-note").hidden = !answer.coarse;
    if (answer.drawing) this.showDrawing(answer.drawing, false);
    if (hand.held && (this.desk.drawing || hand.drag || hand.tool)) {
      const [px, py] = view.toScreen(...hand.at);
      label.textContent = hand.held.label.replace(/ 0$/, "");
      label.hidden = false;
      label.style.left = `${Math.min(px + 20, view.width - label.offsetWidth - 4)}px`;
      label.style.top = `${py < 40 ? py + 16 : py - 34}px`;
    } else label.hidden = true;
    surface.soon(() => surface.paintOverlay());
  }

  showDrawing(drawing, whole = true) {
    const { hand, slip } = this.desk;
    if (whole) hand.vertices = drawing ? drawing.vertices : [];
    hand.line = drawing?.line || null;
    hand.crosses = Boolean(drawing?.crosses);
    for (const name of ["count", "length", "sheet", "captured", "side"]) {
      const fact = slip.querySelector(`[data-fact="${name}"]`);
      if (fact) fact.textContent = drawing ? drawing[name] || "–" : name === "count" ? "0" : "–";
    }
    const crossing = document.getElementById("crossing");
    if (crossing) crossing.hidden = !hand.crosses;
    const bar = document.querySelector("#true-length path");
    if (bar) {
      const px = Math.min((drawing?.sheet_mm || 0) * PX_PER_MM, 236);
      bar.setAttribute("d", px ? `M0.75 2V10M0.75 6H${px}M${px} 2V10` : "");
    }
  }
}
