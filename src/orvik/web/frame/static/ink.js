// Ink as it comes from the server: a short head and number arrays, kept with what later changes replace.

import { counted } from "./request_counter.js";

const KINDS = { f: Float32Array, u: Uint32Array, b: Uint8Array };

// A message of ink; `packed` in session/ink_wire.py writes it.
export function decode(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  for (const layer of head.layers) unpack(layer.items, head.origin, buffer, 4 + length);
  return head;
}

function unpack(items, origin, buffer, start) {
  for (const item of items) {
    arrays(item, buffer, start);
    if (item.xy) item.boxes = boxes(item.xy, item.starts);
    item.origin = origin;
    if (item.t !== "group") continue;
    if (item.clip) arrays(item.clip, buffer, start);
    unpack(item.items, origin, buffer, start);
  }
}

function arrays(item, buffer, start) {
  for (const [name, value] of Object.entries(item)) {
    if (Array.isArray(value) && value.length === 3 && value[0] in KINDS)
      item[name] = new KINDS[value[0]](buffer, start + value[1], value[2]);
  }
}

// Pictures among items, ready to be painted.
export async function withImages(items) {
  for (const item of items) {
    if (item.t === "picture") item.image = await createImageBitmap(new Blob([item.png], { type: "image/png" }));
    else if (item.t === "group") await withImages(item.items);
  }
}

// West, south, east and north of each path, so that what is out of sight is not painted.
function boxes(xy, starts) {
  const out = new Float32Array((starts.length - 1) * 4);
  for (let i = 0; i < starts.length - 1; i += 1) {
    let w = Infinity,
      s = Infinity,
      e = -Infinity,
      n = -Infinity;
    for (let j = starts[i]; j < starts[i + 1]; j += 1) {
      const x = xy[2 * j],
        y = xy[2 * j + 1];
      if (x < w) w = x;
      if (x > e) e = x;
      if (y < s) s = y;
      if (y > n) n = y;
    }
    out.set([w, s, e, n], i * 4);
  }
  return out;
}

export class InkStore {
  constructor(slug) {
    this.url = `/p/${slug}/ink`;
    this.labelUrl = `/p/${slug}/labels`;
    this.revision = -1;
    this.batches = [];
    // Labels come all together, after the ink that they are written on.
    this.labels = null;
  }

  async loadLabels() {
    const response = await counted(fetch(this.labelUrl));
    if (!response.ok) throw new Error(await response.text());
    this.takeLabels(decode(await response.arrayBuffer()));
  }

  takeLabels(all) {
    if (!this.labels || all.revision >= this.labels.revision) this.labels = all;
  }

  load() {
    return counted(this.fetch());
  }

  async fetch() {
    const response = await fetch(this.url);
    if (!response.ok) throw new Error(await response.text());
    const late = this.batches.filter((batch) => batch.revision > 0 && batch.replaces);
    const all = decode(await response.arrayBuffer());
    this.batches = [all, ...late.filter((batch) => batch.revision > all.revision)];
    this.revision = Math.max(...this.batches.map((batch) => batch.revision));
    this.settle();
  }

  // A change as it was sent; true if the whole ink should be fetched again instead.
  add(buffer) {
    const change = decode(buffer);
    if (!change.replaces) {
      this.takeLabels(change);
      return false;
    }
    if (change.revision <= this.revision) return false;
    this.revision = change.revision;
    this.batches.push(change);
    this.settle();
    return this.batches.length > 200;
  }

  // For each batch, which features later batches have replaced.
  settle() {
    const gone = new Set();
    for (let i = this.batches.length - 1; i >= 0; i -= 1) {
      this.batches[i].gone = gone.size ? new Set(gone) : null;
      for (const key of this.batches[i].replaces || []) gone.add(key);
    }
  }

  // Calls paint(item, gone) for every item of a layer, in drawing order.
  each(name, paint) {
    for (const batch of this.labels ? [...this.batches, this.labels] : this.batches) {
      for (const layer of batch.layers) {
        if (layer.name === name) for (const item of layer.items) paint(item, batch.gone);
      }
    }
  }
}
