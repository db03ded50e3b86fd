// The scan as it lies: pixels on the screen, zoomed and moved, fetched sharp for what is in sight.

const REST_MS = 90;

export class Scan {
  constructor(slug, source, width, height) {
    this.slug = slug;
    this.source = source;
    this.width = width;
    this.height = height;
    // The middle of what is seen, in pixels of the scan, and how large one of these is on the screen.
    this.x = 0;
    this.y = 0;
    this.k = 1;
    this.across = 1;
    this.down = 1;
    this.dpr = 1;
    this.picture = null;
    // What is called: to paint over the scan, when a place is picked, and with words when the scan cannot be read.
    this.hooks = [];
    this.picked = null;
    this.trouble = null;
    this.field = document.getElementById("scan-field");
    this.canvas = document.getElementById("scan-canvas");
    this.measure();
    this.fit();
    new ResizeObserver(() => {
      this.measure();
      this.moved();
    }).observe(this.field);
    this.listen();
  }

  measure() {
    const box = this.field.getBoundingClientRect();
    this.dpr = window.devicePixelRatio || 1;
    this.across = Math.max(1, box.width);
    this.down = Math.max(1, box.height);
    this.canvas.width = Math.round(this.across * this.dpr);
    this.canvas.height = Math.round(this.down * this.dpr);
  }

  fit() {
    this.k = Math.min(this.across / this.width, this.down / this.height) * 0.96;
    this.x = this.width / 2;
    this.y = this.height / 2;
  }

  toScreen(column, row) {
    return [(column - this.x) * this.k + this.across / 2, (row - this.y) * this.k + this.down / 2];
  }

  toPixel(px, py) {
    return [(px - this.across / 2) / this.k + this.x, (py - this.down / 2) / this.k + this.y];
  }

  moved() {
    this.paint();
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.fetch(), REST_MS);
  }

  async fetch() {
    const [left, top] = this.toPixel(0, 0),
      [right, bottom] = this.toPixel(this.across, this.down);
    const [width, height] = [this.across, this.down].map((length) => Math.round(length * this.dpr));
    const asked = new URLSearchParams(
      Object.entries({ left, top, right, bottom, width, height }).map(([name, value]) => [name, String(value)]),
    ).toString();
    this.asked = asked;
    const busy = document.getElementById("scan-busy");
    const timer = setTimeout(() => {
      busy.hidden = false;
    }, 200);
    try {
      const response = await fetch(`/p/${this.slug}/underlays/${this.source}/scan.png?${asked}`);
      if (!response.ok) throw new Error(await response.text());
      const image = await createImageBitmap(await response.blob());
      if (this.asked !== asked) return;
      this.picture = { image, left, top, right, bottom };
      this.field.dataset.sharp = String(Number(this.field.dataset.sharp || 0) + 1);
      this.paint();
    } catch (error) {
      this.trouble?.(error.message);
    } finally {
      clearTimeout(timer);
      busy.hidden = true;
    }
  }

  paint() {
    const context = this.canvas.getContext("2d");
    context.setTransform(this.dpr, 0, 0, this.dpr, 0, 0);
    context.clearRect(0, 0, this.across, this.down);
    if (this.picture) {
      const { image, left, top, right, bottom } = this.picture;
      const [x, y] = this.toScreen(left, top),
        [x2, y2] = this.toScreen(right, bottom);
      context.drawImage(image, x, y, x2 - x, y2 - y);
    }
    for (const hook of this.hooks) hook(context);
  }

  zoom(factor, px, py) {
    const [column, row] = this.toPixel(px, py);
    this.k = Math.min(40, Math.max(0.01, this.k * factor));
    const [c, r] = this.toPixel(px, py);
    this.x += column - c;
    this.y += row - r;
    this.moved();
  }

  place(event) {
    const box = this.field.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  listen() {
    let from = null,
      spaceHeld = false;
    this.field.addEventListener(
      "wheel",
      (event) => {
        event.preventDefault();
        this.zoom(Math.exp(-event.deltaY * 0.0015), ...this.place(event));
      },
      { passive: false },
    );
    this.field.addEventListener("pointerdown", (event) => {
      this.field.focus({ preventScroll: true });
      if (event.button === 1 || (event.button === 0 && spaceHeld)) {
        event.preventDefault();
        from = [event.clientX, event.clientY];
        this.field.setPointerCapture(event.pointerId);
        this.field.classList.add("moving");
      } else if (event.button === 0) this.picked?.(...this.toPixel(...this.place(event)));
    });
    this.field.addEventListener("pointermove", (event) => {
      if (!from) return;
      this.x -= (event.clientX - from[0]) / this.k;
      this.y -= (event.clientY - from[1]) / this.k;
      from = [event.clientX, event.clientY];
      this.moved();
    });
    const end = () => {
      from = null;
      this.field.classList.remove("moving");
    };
    this.field.addEventListener("pointerup", end);
    this.field.addEventListener("pointercancel", end);
    this.field.addEventListener("keydown", (event) => {
      if (event.code === "Space") {
        spaceHeld = true;
        event.preventDefault();
      }
      const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (arrows) {
        event.preventDefault();
        event.stopPropagation();
        const far = (event.shiftKey ? 1 : 10) / this.k;
        const [c, r] = this.mark || [this.x, this.y];
        this.mark = [c + arrows[0] * far, r + arrows[1] * far];
        this.paint();
      }
      if (event.key === "." && this.mark) this.picked?.(...this.mark);
    });
    document.addEventListener("keyup", (event) => {
      if (event.code === "Space") spaceHeld = false;
    });
  }
}
