// The keys of the sheet: whatever the pointer does can be done without it.

import { typing } from "../frame/strip.js";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const COPIED = "orvik-copied-parts";

export class SheetKeys {
  constructor(sheet) {
    this.sheet = sheet;
    // Whether the space bar is held, which moves the page.
    this.space = false;
    document.addEventListener("keydown", (event) => this.down(event));
    document.addEventListener("keyup", (event) => {
      if (event.code === "Space") this.space = false;
    });
    // Copied here, put down on another sheet, too.
    document.addEventListener("copy", (event) => {
      if (this.mine(event.target)) this.copy();
    });
    document.addEventListener("paste", (event) => {
      if (this.mine(event.target)) this.paste();
    });
  }

  mine(target) {
    return !typing(target) && !this.sheet.aiming.on && !String(getSelection());
  }

  copy() {
    const { chosen } = this.sheet.hand;
    if (chosen.length) sessionStorage.setItem(`${COPIED}-${this.sheet.slug}`, chosen.join(","));
  }

  async paste() {
    const parts = sessionStorage.getItem(`${COPIED}-${this.sheet.slug}`);
    if (parts) await this.copies(parts);
  }

  async copies(parts) {
    const { send, url, choose } = this.sheet;
    const response = await send(`${url}/hand/copies`, { parts });
    const made = response?.headers.get("Orvik-Parts");
    if (!made) return;
    await this.sheet.parts.load();
    choose(made.split(",").map(Number));
  }

  hand(what, values = {}) {
    const { send, url, hand } = this.sheet;
    return send(`${url}/hand/${what}`, { parts: hand.chosen.join(","), ...values });
  }

  down(event) {
    const { field, parts, hand, aiming, labels, choose } = this.sheet;
    if (typing(event.target)) {
      if (event.key === "Escape" && aiming.on) aiming.end().then(() => field.focus({ preventScroll: true }));
      return;
    }
    if (event.code === "Space") {
      this.space = true;
      if (event.target === field || event.target === document.body) event.preventDefault();
    }
    if (aiming.key(event)) return;
    const inField = document.activeElement === field;
    if (event.key === "Tab" && inField && parts.all.length && !aiming.on) {
      const at = parts.all.findIndex((p) => p.id === hand.chosen[0]) + (event.shiftKey ? -1 : 1);
      if (parts.all[at]) {
        event.preventDefault();
        choose([parts.all[at].id]);
      }
      return;
    }
    if (labels.key(event)) return;
    if ((event.ctrlKey || event.metaKey) && event.key === "a" && inField) {
      event.preventDefault();
      choose(parts.all.filter((p) => !p.onPanel).map((p) => p.id));
    } else if (hand.chosen.length && !event.ctrlKey && !event.metaKey) this.onHand(event, inField);
  }

  onHand(event, inField) {
    const { hand, aiming, choose } = this.sheet;
    const arrow = ARROWS[event.key];
    if (arrow && inField) {
      event.preventDefault();
      const far = event.shiftKey ? 0.1 : 1;
      hand.nudge(arrow[0] * far, arrow[1] * far);
    } else if (event.key === "Enter" && inField && hand.part?.panel && !hand.part.locked) aiming.begin(hand.part.id);
    else if (event.key === "Delete") this.hand("remove");
    else if (event.key === "Escape") choose([]);
    else if (!inField) return;
    else if (event.key === "g") this.hand("group", { on: "true" });
    else if (event.key === "u") this.hand("group", { on: "false" });
    else if (event.key === "d") this.copies(hand.chosen.join(","));
    else if (event.key === "PageUp") this.hand("order", { how: event.shiftKey ? "front" : "forward" });
    else if (event.key === "PageDown") this.hand("order", { how: event.shiftKey ? "back" : "backward" });
    else return;
    event.preventDefault();
  }
}
