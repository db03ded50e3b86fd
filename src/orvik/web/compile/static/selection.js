// What is selected, by click and box, its vertices moved, and the tools that its slip offers.

import { handlesShown } from "./hand.js";
import { typing } from "../frame/strip.js";

const CLICK_PX = 5;
const REACH_PX = 7;

export function startSelection(desk, ring) {
  const { slip, hand } = desk;
  let start = null;

  // The vertex of the selected feature at a pixel; in a smooth line only its knots can be taken hold of.
  function vertexAt(at) {
    if (hand.picked.length !== 1 || hand.picked[0].table === "points") return null;
    const feature = hand.picked[0];
    for (let path = 0; path < feature.paths.length; path += 1) {
      if (!handlesShown(desk.surface.view, feature, feature.paths[path])) continue;
      const vertices = feature.knots || feature.paths[path].map((_, i) => i);
      for (const vertex of vertices) {
        const [px, py] = desk.surface.view.toScreen(...feature.paths[path][vertex]);
        if (Math.hypot(px - at[0], py - at[1]) <= REACH_PX) return { path, vertex };
      }
    }
    return null;
  }

  // The segment of the selected feature at a pixel, for a new vertex.
  function segmentAt(at) {
    if (hand.picked.length !== 1 || hand.picked[0].table === "points") return null;
    for (let path = 0; path < hand.picked[0].paths.length; path += 1) {
      if (!handlesShown(desk.surface.view, hand.picked[0], hand.picked[0].paths[path])) continue;
      const places = hand.picked[0].paths[path].map((p) => desk.surface.view.toScreen(...p));
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
    desk.surface.field.setPointerCapture(event.pointerId);
  }

  function moved(at, event) {
    if (!start) return false;
    const far = Math.hypot(at[0] - start.at[0], at[1] - start.at[1]) > CLICK_PX;
    if (far && start.hold) {
      hand.drag = { ...start.hold, apart: event.shiftKey };
      ring.hover();
    } else if (far && !hand.tool) hand.box = [start.at, at];
    desk.surface.soon(() => desk.surface.paintOverlay());
    return true;
  }

  const released = (event) => {
    if (!start || event.button !== 0) return;
    const { at, hold, shift, free } = start;
    const up = desk.surface.place(event);
    const { drag, box } = hand;
    start = null;
    hand.drag = null;
    hand.box = null;
    if (drag) moveVertex(drag, up, free || event.ctrlKey);
    else if (box) takeBox(box, shift);
    else if (hold && !hold.insert) {
      hand.vertex = hold;
      desk.surface.paintOverlay();
    } else click(at, { shiftKey: shift, ctrlKey: free });
  };
  desk.onSurface((surface) => surface.field.addEventListener("pointerup", released));

  function moveVertex(drag, at, free) {
    const [x, y] = desk.surface.view.toGround(...at);
    const scale = desk.surface.view.denominator;
    desk.inTurn(() =>
      ring.still(async () => {
        const shown = await desk.ask({ do: "hover", x, y, free, scale, moving: true });
        if (shown.refused) return;
        const answer = await desk.ask({ do: "move_vertex", ...desk.named(), ...drag, x, y, scale, ring: shown.ring });
        if (!answer.refused) await desk.takeSelected(answer.hand);
        hand.at = null;
        desk.surface.paintOverlay();
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
    const inView = ([x, y]) => x > 0 && y > 0 && x < desk.surface.view.width && y < desk.surface.view.height;
    if (!inView(desk.surface.view.toScreen(...place))) {
      desk.surface.centre(place);
    }
    desk.surface.pointer = desk.surface.view.toScreen(...place);
    desk.surface.paintOverlay();
  }

  // The chosen vertex to where the ring is, as if it had been dragged there.
  function moveChosen(at) {
    const { path, vertex } = hand.vertex;
    moveVertex({ path, vertex, apart: false }, at, false);
  }

  function takeBox([[ax, ay], [bx, by]], more) {
    const [west, north] = desk.surface.view.toGround(Math.min(ax, bx), Math.min(ay, by));
    const [east, south] = desk.surface.view.toGround(Math.max(ax, bx), Math.max(ay, by));
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
    const [x, y] = desk.surface.view.toGround(...at);
    const { tool } = hand;
    const scale = desk.surface.view.denominator;
    const reach = desk.surface.view.unitsPerPx * REACH_PX;
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
          desk.surface.paintOverlay();
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
    desk.surface.field.classList.add("drawing");
    desk.surface.focus();
  }

  function lay() {
    hand.tool = null;
    hand.begun = null;
    desk.placed.laid();
    for (const button of slip.querySelectorAll("[data-point]")) button.setAttribute("aria-pressed", "false");
    tell("");
    desk.surface.field.classList.remove("drawing");
    desk.surface.paintOverlay();
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
    desk.surface.field.classList.add("drawing");
    desk.surface.focus();
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
    const [px, py] = desk.surface.view.toScreen(...answer.at);
    if (px < 40 || py < 40 || px > desk.surface.view.width - 40 || py > desk.surface.view.height - 40) {
      desk.surface.centre(answer.at);
    }
  }

  // What is selected, as it is after a change by whomever.
  async function follow(words) {
    if (!hand.picked.length || hand.pen) return;
    const answer = await desk
      .tell({ do: "show", features: hand.picked.map(({ table, id }) => ({ table, id })) })
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
    desk.surface.paintOverlay();
  }

  return { down, moved, click, remove, neighbour, follow, lay, stepVertex, moveChosen };
}
