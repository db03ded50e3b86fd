// What is selected, by click and box, its vertices moved, and the tools that its slip offers.

import { handlesShown } from "./hand.js";
import { typing } from "../frame/strip.js";

const CLICK_PX = 5;
const REACH_PX = 7;

export function startSelection(desk, ring) {
  const { map, live, slip, hand } = desk;
  let start = null;

  // The vertex of the selected feature at a pixel; in a smooth line only its knots can be taken hold of.
  function vertexAt(at) {
    if (hand.picked.length !== 1 || hand.picked[0].table === "points") return null;
    const feature = hand.picked[0];
    for (let path = 0; path < feature.paths.length; path += 1) {
      if (!handlesShown(map.view, feature, feature.paths[path])) continue;
      const vertices = feature.knots || feature.paths[path].map((_, i) => i);
      for (const vertex of vertices) {
        const [px, py] = map.view.toScreen(...feature.paths[path][vertex]);
        if (Math.hypot(px - at[0], py - at[1]) <= REACH_PX) return { path, vertex };
      }
    }
    return null;
  }

  // The segment of the selected feature at a pixel, for a new vertex.
  function segmentAt(at) {
    if (hand.picked.length !== 1 || hand.picked[0].table === "points") return null;
    for (let path = 0; path < hand.picked[0].paths.length; path += 1) {
      if (!handlesShown(map.view, hand.picked[0], hand.picked[0].paths[path])) continue;
      const places = hand.picked[0].paths[path].map((p) => map.view.toScreen(...p));
      for (let i = 0; i < places.length - 1; i += 1) {
        const [ax, ay] = places[i],
          [bx, by] = places[i + 1];
        const length = (bx - ax) ** 2 + (by - ay) ** 2;
        const t = length ? Math.max(0, Math.min(1, ((at[0] - ax) * (bx - ax) + (at[1] - ay) * (by - ay)) / length)) : 0;
        if (Math.hypot(ax + t * (bx - ax) - at[0], ay + t * (by - ay) - at[1]) <= REACH_PX - 2)
          return { path, vertex: i, insert: true };
      }
    }
    return null;
  }

  function down(at, event) {
    const hold = hand.tool ? null : vertexAt(at) || (event.shiftKey ? null : segmentAt(at));
    start = { at, shift: event.shiftKey, free: event.ctrlKey, hold };
    map.field.setPointerCapture(event.pointerId);
  }

  function moved(at, event) {
    if (!start) return false;
    const far = Math.hypot(at[0] - start.at[0], at[1] - start.at[1]) > CLICK_PX;
    if (far && start.hold) {
      hand.drag = { ...start.hold, apart: event.shiftKey };
      ring.hover();
    } else if (far && !hand.tool) hand.box = [start.at, at];
    map.soon(() => map.paintOverlay());
    return true;
  }

  map.field.addEventListener("pointerup", (event) => {
    if (!start || event.button !== 0) return;
    const { at, hold, shift, free } = start;
    const up = map.place(event);
    const { drag, box } = hand;
    start = null;
    hand.drag = null;
    hand.box = null;
    if (drag) moveVertex(drag, up, free || event.ctrlKey);
    else if (box) takeBox(box, shift);
    else if (hold && !hold.insert) {
      hand.vertex = hold;
      map.paintOverlay();
    } else click(at, { shiftKey: shift, ctrlKey: free });
  });

  function moveVertex(drag, at, free) {
    const [x, y] = map.view.toGround(...at);
    const scale = map.view.denominator;
    desk.inTurn(() =>
      ring.still(async () => {
        const shown = await desk.ask({ do: "hover", x, y, free, scale, moving: true });
        if (shown.refused) return;
        const answer = await desk.ask({ do: "move_vertex", ...desk.named(), ...drag, x, y, scale, ring: shown.ring });
        if (!answer.refused) await desk.takeSelected(answer.hand);
        hand.at = null;
        map.paintOverlay();
      }),
    );
  }

  // The vertex after the chosen one, or before it, of all that can be taken hold of; the ring goes there.
  function stepVertex(forward) {
    if (hand.picked.length !== 1 || hand.picked[0].table === "points") return;
    const feature = hand.picked[0];
    const all = feature.paths.flatMap((places, path) =>
      (feature.knots || places.map((_, i) => i)).map((vertex) => ({ path, vertex })),
    );
    const at = all.findIndex((v) => v.path === hand.vertex?.path && v.vertex === hand.vertex?.vertex);
    const next = at < 0 ? (forward ? 0 : all.length - 1) : (at + (forward ? 1 : -1) + all.length) % all.length;
    hand.vertex = all[next];
    const place = feature.paths[hand.vertex.path][hand.vertex.vertex];
    const inView = ([x, y]) => x > 0 && y > 0 && x < map.view.width && y < map.view.height;
    if (!inView(map.view.toScreen(...place))) {
      [map.view.x, map.view.y] = place;
      map.moved();
    }
    map.pointer = map.view.toScreen(...place);
    map.paintOverlay();
  }

  // The chosen vertex to where the ring is, as if it had been dragged there.
  function moveChosen(at) {
    const { path, vertex } = hand.vertex;
    moveVertex({ path, vertex, apart: false }, at, false);
  }

  function takeBox([[ax, ay], [bx, by]], more) {
    const [west, north] = map.view.toGround(Math.min(ax, bx), Math.min(ay, by));
    const [east, south] = map.view.toGround(Math.max(ax, bx), Math.max(ay, by));
    desk.inTurn(async () => {
      const answer = await desk.ask({ do: "pick_box", west, south, east, north });
      if (!answer.refused) await take(answer.hand, more);
    });
  }

  async function take(found, more) {
    if (!more) {
      await desk.takeSelected(found);
      return;
    }
    const same = (a, b) => a.table === b.table && a.id === b.id;
    const left = hand.picked.filter((f) => !found.some((g) => same(f, g)));
    const added = found.filter((f) => !hand.picked.some((g) => same(f, g)));
    await desk.takeSelected([...left, ...added]);
  }

  function click(at, event) {
    const [x, y] = map.view.toGround(...at);
    const { tool } = hand;
    const scale = map.view.denominator;
    const reach = map.view.unitsPerPx * REACH_PX;
    desk.inTurn(() =>
      ring.still(async () => {
        if (!tool) {
          const answer = await desk.ask({ do: "pick", x, y, reach });
          if (!answer.refused) await take(answer.hand, event.shiftKey);
          return;
        }
        const shown = await desk.ask({ do: "hover", x, y, free: event.ctrlKey, scale, moving: true });
        if (shown.refused) return;
        if (tool === "place") {
          desk.placed.taken(shown.at);
          return;
        }
        const answer = await desk.ask({
          ...settings(),
          ...desk.named(),
          do: tool,
          x,
          y,
          scale,
          reach,
          ring: shown.ring,
        });
        if (answer.refused) return;
        desk.refuse("");
        if (answer.begun) {
          hand.begun = answer.begun;
          tell(answer.words);
          map.paintOverlay();
          return;
        }
        // The pen stays for the next one.
        if (!hand.pen) await desk.takeSelected(answer.hand);
      }),
    );
  }

  // What the slip's own fields say to its tools.
  function settings() {
    const values = { unit: desk.unit() };
    for (const field of slip.querySelectorAll("[data-setting]")) {
      values[field.dataset.setting] = field.type === "checkbox" ? field.checked : field.value;
    }
    return values;
  }

  function tell(words) {
    const line = document.getElementById("tool-words");
    if (line) {
      line.textContent = words;
      line.hidden = !words;
    }
  }

  // Tools: some act at once, some at the next clicks, some draw a line first.
  slip.addEventListener("click", (event) => {
    const button = event.target.closest("[data-act], [data-point], [data-draw], #delete-feature");
    if (!button) return;
    if (button.id === "delete-feature") desk.inTurn(() => remove(true));
    else if (button.dataset.act) desk.inTurn(() => act(button.dataset.act));
    else if (button.dataset.point) point(button);
    else desk.inTurn(() => draw(button.dataset.draw));
  });

  async function act(what) {
    const answer = await desk.ask({ ...settings(), ...desk.named(), ...desk.pointer(), do: what });
    if (answer.refused) return;
    desk.refuse("");
    if (answer.hand) await desk.takeSelected(answer.hand);
  }

  function point(button) {
    const same = hand.tool === button.dataset.point;
    lay();
    if (same) return;
    hand.tool = button.dataset.point;
    button.setAttribute("aria-pressed", "true");
    tell(button.dataset.words || "Click on the map.");
    map.field.classList.add("drawing");
    map.field.focus({ preventScroll: true });
  }

  function lay() {
    hand.tool = null;
    hand.begun = null;
    desk.placed.laid();
    for (const button of slip.querySelectorAll("[data-point]")) button.setAttribute("aria-pressed", "false");
    tell("");
    map.field.classList.remove("drawing");
    map.paintOverlay();
  }

  async function draw(what) {
    const answer = await desk.ask({ do: "begin", what, ...desk.named() });
    if (answer.refused) return;
    lay();
    hand.purpose = what;
    hand.table = answer.closes ? "areas" : "lines";
    hand.closes = answer.closes;
    hand.way = "straight";
    document.getElementById("purpose-ways").hidden = false;
    document.getElementById("tools").hidden = true;
    tell(answer.words);
    map.field.classList.add("drawing");
    map.field.focus({ preventScroll: true });
  }

  async function remove(whole = false) {
    if (!hand.picked.length) return;
    const one = hand.vertex && !whole;
    const answer = await desk.ask(
      one ? { do: "remove_vertex", ...desk.named(), ...hand.vertex } : { do: "delete", ...desk.named() },
    );
    if (!answer.refused) await desk.takeSelected(answer.hand);
  }

  async function neighbour(forward) {
    if (hand.picked.length !== 1) return;
    const answer = await desk.ask({ do: "neighbour", forward, ...desk.named() });
    if (answer.refused) return;
    await desk.takeSelected(answer.hand);
    const [px, py] = map.view.toScreen(...answer.at);
    if (px < 40 || py < 40 || px > map.view.width - 40 || py > map.view.height - 40) {
      [map.view.x, map.view.y] = answer.at;
      map.moved();
    }
  }

  // What is selected, as it is after a change by whomever.
  async function follow(words) {
    if (!hand.picked.length || hand.pen) return;
    const answer = await live
      .ask({ do: "show", features: hand.picked.map(({ table, id }) => ({ table, id })) })
      .catch(() => null);
    if (!answer || !answer.hand) return;
    const fewer = answer.hand.length !== hand.picked.length;
    hand.picked = answer.hand;
    const editing = slip.contains(document.activeElement) && typing(document.activeElement);
    if (fewer || (!editing && !hand.purpose && !hand.begun)) await desk.showSlip();
    else {
      const form = document.getElementById("feature-form");
      if (form) form.dataset.revision = words.revision;
    }
    map.paintOverlay();
  }

  return { down, moved, click, remove, neighbour, follow, lay, stepVertex, moveChosen };
}
