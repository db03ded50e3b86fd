// Keys of Compile. Those of tools stand on their buttons: a key presses the button that shows it.

import { targetOf } from "../frame/elements.js";
import { typing } from "../frame/strip.js";

// `draw` holds what keys ask of the pen: take, press, finish, back, drop and escape.
export function startKeys(desk, ring, selection, draw) {
  const { hand } = desk;

  // Without the pointer: arrows move the ring, full stop presses.
  function nudge(dx, dy) {
    const { surface } = desk;
    const { view } = surface;
    const [x, y] = surface.pointer || [view.width / 2, view.height / 2];
    surface.pointer = [Math.max(0, Math.min(view.width, x + dx)), Math.max(0, Math.min(view.height, y + dy))];
    if (surface.pointer[0] !== x + dx || surface.pointer[1] !== y + dy) surface.moveBy(-dx * 4, -dy * 4);
    ring.hover();
  }

  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && targetOf(event).closest?.("#slip")) {
      desk.inTurn(draw.drop);
      desk.surface.focus();
      return;
    }
    if (typing(event.target) || event.ctrlKey || event.metaKey) return;
    const digit = /^(?:Digit|Numpad)(\d)$/.exec(event.code);
    if (digit) {
      const key = `${event.shiftKey ? "Shift+" : event.altKey ? "Alt+" : ""}${digit[1]}`;
      const pen = document.querySelector(`.pen[data-key="${key}"]`);
      if (pen) {
        event.preventDefault();
        desk.inTurn(() => draw.take(pen.dataset.pen));
      }
      return;
    }
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const onButton = targetOf(event).closest?.("button, a, input");
    if (arrows && !onButton) {
      event.preventDefault();
      const far = event.shiftKey ? 1 : 10;
      nudge(arrows[0] * far, arrows[1] * far);
    } else if (event.key === "." && desk.surface.pointer) {
      if (desk.drawing && !hand.tool) draw.press(...desk.surface.pointer, false);
      else selection.click(desk.surface.pointer, event);
    } else if (event.key === "Enter" && !onButton) {
      event.preventDefault();
      desk.inTurn(async () => {
        if (hand.vertices.length) await draw.finish();
        else if (hand.vertex && desk.surface.pointer) selection.moveChosen(desk.surface.pointer);
      });
    } else if (event.key === "Backspace") {
      event.preventDefault();
      desk.inTurn(() => (desk.drawing ? draw.back() : selection.remove()));
    } else if (event.key === "Delete") {
      event.preventDefault();
      desk.inTurn(() => selection.remove());
    } else if (event.key === "Escape") desk.inTurn(draw.escape);
    else if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      desk.inTurn(() => selection.neighbour(event.key === "PageDown"));
    } else if (event.key.toLowerCase() === "v" && !desk.drawing && !hand.tool) {
      selection.stepVertex(!event.shiftKey);
    } else if (event.key.length === 1 && !event.altKey) pressButton(event);
  });
}

function pressButton(event) {
  const key = event.key.toUpperCase();
  const buttons = [...document.querySelectorAll(`[data-tool-key="${CSS.escape(key)}"]`)].filter(
    (b) => !b.disabled && b.offsetParent,
  );
  if (!buttons.length) return;
  event.preventDefault();
  buttons[0].click();
}
