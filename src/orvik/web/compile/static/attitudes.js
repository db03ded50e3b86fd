// Attitudes: one click, then figures; the symbol turns with every figure. Or drawn over the symbol on the scan.

export function startAttitudes(desk) {
  const { map, live, slip, hand } = desk;
  const input = () => document.getElementById("reading");
  const words = () => document.getElementById("reading-words");
  const refusal = () => slip.querySelector(".reading .refusal");
  const asDirection = () => document.getElementById("dip-direction")?.checked ?? false;
  let note = "";

  function begin(answer, text = "", of = "") {
    hand.waiting = answer;
    note = of;
    hand.along = null;
    const field = input();
    field.disabled = false;
    field.value = text;
    field.focus();
    words().textContent = field.dataset.words ?? "";
    if (text) read();
  }

  function end() {
    hand.along = null;
    const field = input();
    if (field) {
      field.value = "";
      field.disabled = true;
    }
  }

  async function read() {
    refusal().hidden = true;
    const text = input().value.trim();
    if (!text) {
      words().textContent = "";
      return;
    }
    const answer = await live.ask({ do: "reading", text, dip_direction: asDirection() }).catch(() => null);
    if (!answer || !hand.waiting) return;
    // A reading that is being typed is not wrong yet: what it lacks is said quietly.
    words().classList.toggle("not-yet", Boolean(answer.refused));
    if (answer.refused) {
      words().textContent = answer.refused;
      return;
    }
    Object.assign(hand.waiting, answer);
    words().textContent = answer.words;
    map.paintOverlay();
  }

  async function keep() {
    const answer = await live
      .ask({ do: "keep_reading", text: input().value, dip_direction: asDirection(), note })
      .catch((error) => ({ refused: error.message }));
    refusal().textContent = answer.refused || "";
    refusal().hidden = !answer.refused;
    if (answer.refused) return false;
    hand.waiting = null;
    end();
    words().classList.remove("not-yet");
    words().textContent = `Saved: ${answer.words}.`;
    map.field.focus();
    map.paintOverlay();
    document.dispatchEvent(new CustomEvent("orvik-attitude-kept", { detail: answer.feature }));
    return true;
  }

  slip.addEventListener("input", (event) => {
    if (event.target.id === "reading") desk.inTurn(read);
  });
  slip.addEventListener("change", (event) => {
    if (event.target.id === "dip-direction" && hand.waiting && input().value) desk.inTurn(read);
  });
  slip.addEventListener("submit", (event) => {
    if (event.target.id !== "reading-form") return;
    event.preventDefault();
    desk.inTurn(keep);
  });
  slip.addEventListener("keydown", (event) => {
    const button = document.getElementById("strike-by-drawing");
    // No reading begins with this letter, so the key works before one is typed.
    if (event.target.id === "reading" && !input().value && event.key.toUpperCase() === button?.dataset.toolKey) {
      event.preventDefault();
      button.click();
      return;
    }
    if (event.target.id !== "reading" || event.key !== "Tab" || event.shiftKey || !input().value.trim()) return;
    event.preventDefault();
    desk.inTurn(async () => {
      if (await keep()) document.dispatchEvent(new CustomEvent("orvik-next-station"));
    });
  });
  slip.addEventListener("click", (event) => {
    if (event.target.id !== "strike-by-drawing") return;
    hand.along = [];
    words().textContent = "Click two places along the symbol on the scan, then the side that it dips to.";
    map.field.focus();
  });

  document.addEventListener("orvik-station", (event) => {
    const { answer, reading, name } = event.detail;
    begin(answer, reading, `Station ${name}`);
  });

  // While a symbol is drawn over, clicks are its strike and then its dip side.
  function takes(at, event) {
    if (!hand.waiting || !hand.along) return false;
    const [x, y] = map.view.toGround(...at);
    if (hand.along.length < 2) {
      hand.along.push([x, y]);
      words().textContent =
        hand.along.length < 2 ? "And the other end of the strike." : "Now the side that it dips to.";
      map.paintOverlay();
      return true;
    }
    desk.inTurn(async () => {
      const answer = await desk.ask({ do: "strike", along: hand.along, x, y });
      hand.along = null;
      map.paintOverlay();
      if (answer.refused) return;
      const dip = /[/\s,;]\s*(\d+(?:[.,]\d+)?)/.exec(input().value);
      input().value = `${answer.azimuth}/${dip ? dip[1] : ""}`;
      input().focus();
      words().textContent = "Now type the dip.";
      if (dip) await read();
    });
    event.preventDefault();
    return true;
  }

  return { begin, end, takes };
}
