// Where the numbers of marks stand, so that none hides another: beside its ring, or further off at the end of a line.

// Half the side of a number's box, the radius of a ring, and room between them, all as marks are drawn, in millimetres.
const HALF = 5,
  RING = 7,
  APART = 1;
// From a ring's middle to that of its box: the upper right first, then around, then further off.
const NEAR = [
  [11, -8],
  [11, 8],
  [-11, -8],
  [-11, 8],
  [0, -14],
  [0, 14],
  [15, 0],
  [-15, 0],
];
const AROUND = 16;

function* places() {
  yield* NEAR;
  for (const radius of [22, 32, 44, 58])
    for (let i = 0; i < AROUND; i += 1) {
      const turn = ((i + 0.5) * 2 * Math.PI) / AROUND - Math.PI / 2;
      yield [radius * Math.cos(turn), radius * Math.sin(turn)];
    }
}

function hits(a, b) {
  return Math.abs(a[0] - b[0]) < 2 * HALF + APART && Math.abs(a[1] - b[1]) < 2 * HALF + APART;
}

function onRing(box, ring) {
  return Math.abs(box[0] - ring[0]) < HALF + RING && Math.abs(box[1] - ring[1]) < HALF + RING;
}

/**
 * The middles of the boxes of rings, each from its ring: none lies on another, and on no other ring where that can be.
 * `rings` are in units of a mark, as they lie on the screen; boxes stay within `page`, from [0, 0] to its two sides.
 */
export function spread(rings, page) {
  const taken = [];
  return rings.map((ring, number) => {
    let kept = null;
    for (const place of places()) {
      const box = [ring[0] + place[0], ring[1] + place[1]];
      const inside = box.every((value, i) => value >= HALF && value <= page[i] - HALF);
      if (!inside || taken.some((other) => hits(box, other))) continue;
      kept ??= place;
      if (rings.some((other, i) => i !== number && onRing(box, other))) continue;
      kept = place;
      break;
    }
    const place = kept ?? NEAR[0];
    taken.push([ring[0] + place[0], ring[1] + place[1]]);
    return place;
  });
}
