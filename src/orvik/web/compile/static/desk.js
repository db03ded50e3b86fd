// What all the tools of Compile share: the map, the live connection, what is selected, and how work is done in turn.

import { Live } from "../frame/live.js";
import { OrvikMap } from "../frame/map.js";
import { counted } from "../frame/request_counter.js";

export class Desk {
  constructor() {
    this.map = new OrvikMap(document.getElementById("map"));
    this.live = new Live(this.map.slug);
    this.slip = document.getElementById("slip");
    // Where the hand is: on the map, or on a section under it.
    /** @type {any} */
    this.surface = this.map;
    /** @type {((surface: any) => void)[]} */
    this.surfaceHooks = [];
    this.surfaces = [this.surface];
    // The pen, the drawing, the ring, an attitude that waits, and the selected features.
    /**
     * @type {{ pen: any, table: string | null, vertices: any[], line: any, ring: any, at: any, held: any,
     *   waiting: any, picked: { table: string, id: number, paths: any[], knots: number[] | null }[], lit: any,
     *   vertex: any,
     *   drag: any, box: any, radius: number, crosses: boolean, free: boolean, tool: string | null, purpose: any,
     *   closes: boolean, begun: any, trace: number[][] | null, way: string,
     *   plane: number[][][] | null, places: number[][] }}
     */
    this.hand = {
      pen: null,
      table: null,
      vertices: [],
      line: null,
      ring: null,
      at: null,
      held: null,
      waiting: null,
      picked: [],
      lit: null,
      vertex: null,
      drag: null,
      box: null,
      radius: 15,
      crosses: false,
      free: false,
      tool: null,
      purpose: null,
      closes: false,
      begun: null,
      trace: null,
      way: "straight",
      plane: null,
      places: [],
    };
    this.turn = Promise.resolve();
    this.hooks = [];
    // Who wants the places that the tool "place" picks.
    /** @type {{ taken: (at: number[]) => void, laid: () => void }} */
    this.placed = { taken: () => {}, laid: () => {} };
  }

  // Called with each place that is picked, and when the tool is put down.
  onPlace(taken, laid) {
    this.placed = { taken, laid };
  }

  // Called with each surface that pens draw on: the map, and a section.
  onSurface(hook) {
    this.surfaceHooks.push(hook);
    for (const surface of this.surfaces) hook(surface);
  }

  addSurface(surface) {
    this.surfaces.push(surface);
    for (const hook of this.surfaceHooks) hook(surface);
  }

  get pickedOnMap() {
    return this.surface === this.map ? this.hand.picked : [];
  }

  // The hand goes to another surface with its pen, but not in the middle of a line.
  async goTo(surface, quiet = false) {
    const { hand } = this;
    if (surface === this.surface) return true;
    const busy = hand.vertices.length || hand.waiting || hand.purpose || hand.begun || hand.drag;
    if (busy) {
      if (!quiet) surface.notice("Finish with Enter or discard with Escape what is being drawn, then go on here.");
      return false;
    }
    if (hand.pen) {
      const answer = await this.live.ask({ do: "pen", name: hand.pen, section: surface.section });
      if (answer.refused) {
        if (!quiet) surface.notice(answer.refused);
        return false;
      }
    }
    const left = this.surface;
    this.surface = surface;
    Object.assign(hand, { picked: [], vertex: null, tool: null, ring: null, at: null, held: null });
    left.label.hidden = true;
    left.field.classList.remove("drawing");
    surface.field.classList.toggle("drawing", Boolean(hand.pen));
    left.paintOverlay();
    await this.fetchSlip(hand.pen ? `slip/pen/${hand.pen}` : "empty-slip");
    return true;
  }

  // What is asked of the map, wherever the hand is.
  async askMap(message) {
    await this.goTo(this.map);
    return this.ask(message);
  }

  // Called whenever something else is in the slip.
  onSlip(hook) {
    this.hooks.push(hook);
  }

  async ask(message) {
    try {
      const answer = await this.tell(message);
      if (answer.refused) this.refuse(answer.refused);
      return answer;
    } catch (error) {
      this.refuse(error.message);
      return { refused: error.message };
    }
  }

  // A message about where the hand is; a refusal is an answer, and fails where the connection does.
  tell(message) {
    return this.live.ask({ ...message, section: this.surface.section });
  }

  // A refusal stands where the hand is: in the slip and beside the ring.
  refuse(sentence) {
    this.surface.notice(sentence);
    const place = document.getElementById("slip-refusal");
    if (place) {
      place.textContent = sentence;
      place.hidden = !sentence;
    }
  }

  // Clicks and keys are carried out one after the other, however fast they come.
  inTurn(work) {
    this.turn = counted(this.turn.then(work).catch((error) => this.refuse(error.message)));
    return this.turn;
  }

  // What is drawn for: a pen, or something selected.
  get drawing() {
    return Boolean(this.hand.pen || this.hand.purpose);
  }

  unit() {
    return document.getElementById("current-unit")?.value || localStorage.getItem("orvik-unit") || "";
  }

  fields() {
    const values = {};
    for (const input of document.querySelectorAll("#custom-fields [name]"))
      if (input.value) values[input.name] = input.value;
    return values;
  }

  async fetchSlip(path) {
    const { section } = this.surface;
    const at = section === null ? "" : `section/${section}/`;
    await htmx.ajax("GET", `/p/${this.map.slug}/${at}${path}`, {
      source: this.slip,
      target: "#slip",
      swap: "innerHTML",
    });
    const select = document.getElementById("current-unit");
    const kept = localStorage.getItem("orvik-unit");
    if (select && kept && [...select.options].some((o) => o.value === kept)) select.value = kept;
    for (const hook of this.hooks) hook();
  }

  // The features selected as messages name them, with the revision that the slip shows.
  named() {
    const form = document.getElementById("feature-form");
    return {
      features: this.hand.picked.map(({ table, id }) => ({ table, id })),
      revision: Number(form?.dataset.revision ?? 0),
    };
  }

  async takeSelected(picked) {
    this.surface.label.hidden = true;
    Object.assign(this.hand, { picked, vertex: null, tool: null, begun: null, drag: null });
    // A panel of a sheet can be aimed at it.
    const keys = this.pickedOnMap.map(({ table, id }) => [table, id]);
    sessionStorage.setItem(`orvik-hand-${this.map.slug}`, JSON.stringify(keys));
    await this.showSlip();
    this.surface.paintOverlay();
  }

  async showSlip() {
    const { picked } = this.hand;
    if (!picked.length) await this.fetchSlip("empty-slip");
    else if (picked.length === 1) await this.fetchSlip(`slip/${picked[0].table}/${picked[0].id}`);
    else await this.fetchSlip(`slips?${picked.map((f) => `keys=${f.table}-${f.id}`).join("&")}`);
  }

  pointer() {
    const { view, pointer } = this.surface;
    const [px, py] = pointer || [view.width / 2, view.height / 2];
    const [x, y] = view.toGround(px, py);
    return { x, y, reach: view.unitsPerPx * 7, scale: view.denominator };
  }
}
