// A part on the page as SVG, in millimetres from its own corner; what lies on a panel is drawn where the panel was.

const NS = "http://www.w3.org/2000/svg";

export class PartLayer {
  constructor(id) {
    // What the ink that is shown is made of.
    this.key = "";
    this.x = 0;
    this.y = 0;
    this.element = document.createElementNS(NS, "svg");
    this.element.setAttribute("class", "page layer");
    this.element.setAttribute("data-part", id);
    this.ink = document.createElementNS(NS, "g");
    this.element.append(this.ink);
  }

  // What the server has drawn, as SVG and nothing else.
  show(text, key) {
    const parsed = new DOMParser().parseFromString(`<svg xmlns="${NS}">${text}</svg>`, "image/svg+xml");
    this.ink.replaceChildren(...document.importNode(parsed.documentElement, true).childNodes);
    this.key = key;
  }

  paint(view) {
    const place = `translate(${view.x + this.x * view.k} ${view.y + this.y * view.k}) scale(${view.k})`;
    if (place !== this.place) this.ink.setAttribute("transform", place);
    this.place = place;
  }
}
