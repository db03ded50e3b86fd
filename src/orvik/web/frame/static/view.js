// Where the map stands on the screen: a centre, a scale, and the way between ground and pixels.

// CSS pixels in a millimetre; the stored figure is the user's own calibration.
export const PX_PER_MM = Number(localStorage.getItem("orvik-px-per-mm")) || 96 / 25.4;

export class View {
  constructor(x, y, denominator, metresPerUnit) {
    this.x = x;
    this.y = y;
    this.denominator = denominator;
    this.metresPerUnit = metresPerUnit;
    this.width = 1;
    this.height = 1;
  }

  // The ground is as long as it is wide.
  get vertical() {
    return 1;
  }

  // Project units that one pixel covers.
  get unitsPerPx() {
    return this.denominator / 1000 / PX_PER_MM / this.metresPerUnit;
  }

  toScreen(x, y) {
    const u = this.unitsPerPx;
    return [(x - this.x) / u + this.width / 2, (this.y - y) / u + this.height / 2];
  }

  toGround(px, py) {
    const u = this.unitsPerPx;
    return [this.x + (px - this.width / 2) * u, this.y - (py - this.height / 2) * u];
  }

  // West, south, east and north, with a margin in pixels.
  window(margin = 0) {
    const [west, north] = this.toGround(-margin, -margin);
    const [east, south] = this.toGround(this.width + margin, this.height + margin);
    return [west, south, east, north];
  }

  moveBy(px, py) {
    const u = this.unitsPerPx;
    this.x -= px * u;
    this.y += py * u;
  }

  // Another scale, with the ground below a pixel staying where it is.
  scaleTo(denominator, px = this.width / 2, py = this.height / 2) {
    const [x, y] = this.toGround(px, py);
    this.denominator = denominator;
    const [nx, ny] = this.toGround(px, py);
    this.x += x - nx;
    this.y += y - ny;
  }

  copy() {
    return Object.assign(new View(0, 0, 1, 1), this);
  }
}
