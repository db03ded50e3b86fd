// What is half drawn: it comes back after a reload, and what a closed window has left is offered.

// The window keeps its name, by which what it draws is known after a reload.
export const windowId = sessionStorage.getItem("orvik-window") || crypto.randomUUID();
sessionStorage.setItem("orvik-window", windowId);

// `takenUp` shows a pen with a drawing begun; returns what to do whenever the connection stands.
export function startLeftDrawing(desk, takenUp) {
  const { map } = desk;
  const left = document.getElementById("left-drawing");

  async function show(answer) {
    await takenUp(answer);
    map.say("Here is again what was being drawn; go on, or discard it with Escape.");
    map.paintOverlay();
  }

  left.querySelector("#take-up").addEventListener("click", () =>
    desk.inTurn(async () => {
      left.hidden = true;
      const answer = await desk.askMap({ do: "take_up" });
      if (answer.pen) await show(answer);
    }),
  );
  left.querySelector("#drop-left").addEventListener("click", () =>
    desk.inTurn(async () => {
      left.hidden = true;
      await desk.askMap({ do: "drop_left" });
      map.field.focus();
    }),
  );
  left.querySelector("#leave-drawing").addEventListener("click", () => {
    left.hidden = true;
    map.field.focus();
  });

  // Names the window; returns whether something was half drawn in it, or null where no answer came.
  return async function takeSeat() {
    const answer = await desk.live.ask({ do: "hello", window_id: windowId }).catch(() => null);
    if (!answer) return null;
    left.hidden = !answer.left;
    if (answer.left) document.getElementById("left-words").textContent = answer.left;
    if (answer.pen) await show(answer);
    return Boolean(answer.pen);
  };
}
