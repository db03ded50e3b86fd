// The snap bar: the ring's radius and what it may hold, kept for this browser.

export function startSnapBar(live, changed) {
  const bar = document.getElementById("snap-bar");
  const radius = document.getElementById("snap-radius");
  const unit = document.getElementById("snap-unit");
  const words = document.getElementById("snap-words");
  const switches = [...bar.querySelectorAll(".switch")];
  const kept = JSON.parse(localStorage.getItem("orvik-snap") || "null");
  if (kept) {
    radius.value = kept.radius;
    unit.value = kept.unit;
    for (const s of switches) s.setAttribute("aria-pressed", String(kept[s.dataset.switch]));
  }

  async function send() {
    const settings = { radius: radius.value.replace(",", "."), unit: unit.value };
    for (const s of switches) settings[s.dataset.switch] = s.getAttribute("aria-pressed") === "true";
    const answer = await live.ask({ do: "snap", ...settings }).catch(() => null);
    if (!answer) return;
    const refused = Boolean(answer.refused);
    radius.setAttribute("aria-invalid", String(refused));
    words.textContent = refused ? answer.refused : answer.words;
    words.classList.toggle("caution", refused);
    bar.title = words.textContent;
    if (refused) return;
    localStorage.setItem("orvik-snap", JSON.stringify(settings));
    changed(answer.radius);
  }

  live.on("found", send);
  bar.addEventListener("submit", (event) => event.preventDefault());
  radius.addEventListener("input", send);
  unit.addEventListener("change", send);
  for (const s of switches) {
    s.addEventListener("click", () => { s.setAttribute("aria-pressed", String(s.getAttribute("aria-pressed") !== "true")); send(); });
  }
}
