// Ink that later changes replace, against a plain list of what was last said of each feature.

import assert from "node:assert/strict";
import { test } from "node:test";
import { at, chance } from "./page.mjs";

const { decode, InkStore } = await at("frame/static/ink.js");

// A message of strokes, one for each key, as session/ink_wire.py packs them.
function message(revision, keys, replaces, origin = [1000, 2000]) {
  const xy = new Float32Array(keys.flatMap((key) => [key, 0, key, revision]));
  const starts = new Uint32Array([...keys.keys(), keys.length].map((i) => 2 * i));
  const named = new Uint32Array(keys);
  const parts = [xy, starts, named];
  let offset = 0;
  const [a, b, c] = parts.map((array, i) => {
    const where = [i === 0 ? "f" : "u", offset, array.length];
    offset += array.byteLength;
    return where;
  });
  const items = [{ t: "stroke", width: 0.3, xy: a, starts: b, keys: c }];
  let head = JSON.stringify({ revision, origin, replaces, layers: [{ name: "linework", items }] });
  head += " ".repeat((4 - ((head.length + 4) % 4)) % 4);
  const buffer = new ArrayBuffer(4 + head.length + offset);
  new DataView(buffer).setUint32(0, head.length, true);
  new Uint8Array(buffer, 4).set(new TextEncoder().encode(head));
  let start = 4 + head.length;
  for (const array of parts) {
    new Uint8Array(buffer, start).set(new Uint8Array(array.buffer));
    start += array.byteLength;
  }
  return buffer;
}

test("arrays are where the head says, with the box of each path", () => {
  const head = decode(message(5, [3, 8], null));
  const [item] = head.layers[0].items;
  assert.deepEqual([...item.xy], [3, 0, 3, 5, 8, 0, 8, 5]);
  assert.deepEqual([...item.starts], [0, 2, 4]);
  assert.deepEqual([...item.keys], [3, 8]);
  assert.deepEqual([...item.boxes], [3, 0, 3, 5, 8, 0, 8, 5]);
  assert.deepEqual(item.origin, [1000, 2000]);
});

test("what is painted is what was last said of each feature", async () => {
  for (let seed = 1; seed <= 60; seed += 1) {
    const random = chance(seed);
    const store = new InkStore("small");
    const last = new Map();
    const all = Array.from({ length: 1 + Math.floor(10 * random()) }, (_, i) => i + 1);
    for (const key of all) last.set(key, 1);
    globalThis.fetch = async () => ({ ok: true, arrayBuffer: async () => message(1, all, null) });
    await store.load();
    for (let revision = 2; revision < 30; revision += 1) {
      const touched = [
        ...new Set(Array.from({ length: 1 + Math.floor(3 * random()) }, () => 1 + Math.floor(14 * random()))),
      ];
      const kept = touched.filter(() => random() < 0.7);
      assert.equal(store.add(message(revision, kept, touched)), false);
      for (const key of touched) last.delete(key);
      for (const key of kept) last.set(key, revision);
      // One that comes again, or late, changes nothing.
      if (random() < 0.2) store.add(message(revision - 1, [99], [99]));
    }
    const painted = new Map();
    store.each("linework", (item, gone) => {
      item.keys.forEach((key, i) => {
        if (gone?.has(key)) return;
        assert.ok(!painted.has(key), `${key} is painted twice`);
        painted.set(key, item.xy[4 * i + 3]);
      });
    });
    assert.deepEqual([...painted].sort(), [...last].sort());
  }
});

test("a change that comes while all ink is fetched is not lost", async () => {
  const store = new InkStore("small");
  globalThis.fetch = async () => {
    store.add(message(3, [1], [1]));
    return { ok: true, arrayBuffer: async () => message(2, [1, 2], null) };
  };
  await store.load();
  const seen = [];
  store.each("linework", (item, gone) =>
    item.keys.forEach((key, i) => gone?.has(key) || seen.push([key, item.xy[4 * i + 3]])),
  );
  assert.deepEqual(seen.sort(), [
    [1, 3],
    [2, 2],
  ]);
  assert.equal(store.revision, 3);
});

test("labels are taken whole, and older ones never in the place of newer", () => {
  const store = new InkStore("small");
  assert.equal(store.add(message(4, [1], null)), false);
  store.add(message(3, [2], null));
  assert.equal(store.labels.revision, 4);
  store.add(message(6, [2, 3], null));
  assert.equal(store.labels.revision, 6);
});

test("after many changes all is fetched anew, and what cannot be fetched is said", async () => {
  const store = new InkStore("small");
  let again = false;
  for (let revision = 1; revision <= 202; revision += 1) again = store.add(message(revision, [1], [1]));
  assert.ok(again);
  globalThis.fetch = async () => ({ ok: false, text: async () => "The project is gone." });
  await assert.rejects(store.load(), /The project is gone/);
});
