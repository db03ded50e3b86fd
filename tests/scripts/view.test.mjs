// Where the map stands on the screen, against sums by hand.

import assert from "node:assert/strict";
import { test } from "node:test";
import { at, chance } from "./page.mjs";

const { PX_PER_MM, View } = await at("frame/static/view.js");

function view(random) {
  const made = new View(5e5 * random(), 6.8e6 * random(), 100 + 5e6 * random(), random() < 0.5 ? 1 : 0.3048);
  made.width = 200 + 1500 * random();
  made.height = 200 + 900 * random();
  return made;
}

const near = (one, other, within = 1e-6) =>
  one.forEach((value, i) => assert.ok(Math.abs(value - other[i]) <= within, `${one} is not ${other}`));

test("a millimetre of the screen is a denominator of millimetres of the ground", () => {
  assert.ok(Math.abs(PX_PER_MM - 96 / 25.4) < 1e-12);
  const metric = new View(0, 0, 25000, 1);
  assert.ok(Math.abs(metric.unitsPerPx * PX_PER_MM - 25) < 1e-9);
  const feet = new View(0, 0, 24000, 0.3048);
  assert.ok(Math.abs(feet.unitsPerPx * PX_PER_MM * 0.3048 - 24) < 1e-9);
});

test("the middle of the view is its centre, right is east, down is south", () => {
  const random = chance(7);
  for (let i = 0; i < 200; i += 1) {
    const made = view(random);
    near(made.toScreen(made.x, made.y), [made.width / 2, made.height / 2]);
    const u = made.unitsPerPx;
    near(made.toScreen(made.x + 10 * u, made.y + 20 * u), [made.width / 2 + 10, made.height / 2 - 20], 1e-3);
    const [px, py] = [made.width * random(), made.height * random()];
    near(made.toScreen(...made.toGround(px, py)), [px, py], 1e-3);
  }
});

test("the window reaches as far as the screen and its margin", () => {
  const random = chance(11);
  for (let i = 0; i < 200; i += 1) {
    const made = view(random);
    const margin = i % 2 ? 0 : 50 * random();
    const u = made.unitsPerPx;
    const [across, up] = [(made.width / 2 + margin) * u, (made.height / 2 + margin) * u];
    near(made.window(margin), [made.x - across, made.y - up, made.x + across, made.y + up], 1e-6 * made.denominator);
  }
});

test("moved by dots, the ground goes along with the pointer", () => {
  const random = chance(13);
  for (let i = 0; i < 200; i += 1) {
    const made = view(random);
    const ground = made.toGround(100, 80);
    made.moveBy(33, -21);
    near(made.toScreen(...ground), [133, 59], 1e-3);
  }
});

test("at another scale the ground below the pointer stays, and without a pointer the middle", () => {
  const random = chance(17);
  for (let i = 0; i < 200; i += 1) {
    const made = view(random);
    const [px, py] = [made.width * random(), made.height * random()];
    const ground = made.toGround(px, py);
    const other = made.copy();
    made.scaleTo(50000, px, py);
    assert.equal(made.denominator, 50000);
    near(made.toScreen(...ground), [px, py], 1e-3);
    const middle = [other.x, other.y];
    other.scaleTo(1000);
    near([other.x, other.y], middle, 1e-6 * other.denominator);
  }
});

test("a copy goes its own way", () => {
  const made = view(chance(19));
  const other = made.copy();
  assert.deepEqual({ ...other }, { ...made });
  other.moveBy(5, 5);
  assert.notEqual(other.x, made.x);
});
