// Findings: a count in the strip that opens into a list beside the map; each leads to its place and may be fixed.

import { showBeside } from "./beside.js";
import { targetOf } from "../frame/elements.js";
import { token } from "../frame/tokens.js";

const CARD = token("card");
const CAUTION = token("caution");
const ERROR = token("error");

export function startFindings(desk) {
  const { map, live } = desk;
  const count = document.getElementById("findings-count");
  const list = document.getElementById("findings");
  const rows = document.getElementById("findings-list");
  const form = document.getElementById("form-units");
  const failed = document.getElementById("findings-failed");
  let marks = [];

  function take(words) {
    failed.hidden = !words.failed;
    if (words.failed) {
      failed.textContent = words.failed;
      count.querySelector(".count-words").textContent = "not known";
      count.dataset.worst = "error";
      return;
    }
    marks = words.findings;
    const parts = [];
    if (words.errors) parts.push(`${words.errors} ${words.errors === 1 ? "error" : "errors"}`);
    const warnings = `${words.warnings} ${words.warnings === 1 ? "warning" : "warnings"}`;
    if (words.warnings) parts.push(words.errors ? `+${words.warnings}` : warnings);
    count.querySelector(".count-words").textContent = parts.join(" ") || "none";
    count.dataset.worst = words.errors ? "error" : words.warnings ? "warning" : "none";
    form.querySelector(".count-words").textContent = words.formed;
    form.dataset.open = words.open ? "1" : "0";
    rows.replaceChildren(...marks.map(row));
    document.getElementById("no-findings").hidden = marks.length > 0;
    const more = words.errors + words.warnings - marks.length;
    const rest = document.getElementById("more-findings");
    rest.hidden = more <= 0;
    rest.textContent = `and ${more} more, which follow when some of these are fixed`;
    map.paintOverlay();
  }

  function row(finding, i) {
    const li = document.createElement("li");
    li.className = `finding ${finding.severity}`;
    li.dataset.rule = finding.rule;
    const go = document.createElement("button");
    go.type = "button";
    go.className = "finding-go";
    const number = document.createElement("span");
    number.className = "finding-number figures";
    number.textContent = String(i + 1);
    const words = document.createElement("span");
    words.textContent = finding.message;
    go.append(number, words);
    go.addEventListener("click", () => jump(finding));
    li.append(go);
    if (finding.fix) {
      const fix = document.createElement("button");
      fix.type = "button";
      fix.className = "plain-button finding-fix";
      fix.textContent = finding.fix;
      fix.addEventListener("click", () =>
        desk.inTurn(async () => {
          const answer = await desk.askMap({
            do: "fix",
            key: finding.key,
            unit: document.getElementById("finding-unit")?.value,
          });
          if (!answer.refused) desk.refuse("");
        }),
      );
      li.append(fix);
    }
    return li;
  }

  function jump(finding) {
    if (finding.at) {
      [map.view.x, map.view.y] = finding.at;
      map.stand(map.ladder.at(-1));
    }
    if (desk.drawing || !finding.features.length) return;
    desk.inTurn(async () => {
      const answer = await desk.askMap({ do: "show", features: finding.features });
      if (!answer.refused) await desk.takeSelected(answer.hand);
    });
  }

  function toggle(open = list.hidden) {
    showBeside(list, count, open);
  }

  count.addEventListener("click", () => toggle());
  document.getElementById("close-findings").addEventListener("click", () => {
    toggle(false);
    map.field.focus();
  });
  const formUnits = (taking) =>
    desk.inTurn(async () => {
      form.disabled = true;
      const slow = setTimeout(() => map.say("Forming units…"), 200);
      try {
        const answer = await fetch(`/p/${map.slug}/form-units?take=${taking}`, { method: "POST" });
        const words = await answer.text();
        if (answer.ok) {
          desk.refuse("");
          map.say(words);
          await showTakings(Number(answer.headers.get("Orvik-Waiting")) > 0);
        } else {
          map.say("");
          desk.refuse(words);
        }
      } catch {
        desk.refuse("Not formed: Orvik does not answer.");
      } finally {
        clearTimeout(slow);
        form.disabled = false;
      }
    });

  // Ground that tags would take from other units is shown before they have it.
  async function showTakings(waiting) {
    const there = document.getElementById("takings");
    if (!waiting) {
      there.replaceChildren();
      return;
    }
    const answer = await fetch(`/p/${map.slug}/form-units/takings`);
    if (answer.ok) there.outerHTML = await answer.text();
    document.querySelector("#takings [data-take='no']")?.focus();
  }

  form.addEventListener("click", () => formUnits(false));
  document.addEventListener("click", (event) => {
    const button = targetOf(event).closest("#takings button");
    if (!button) return;
    if (button.dataset.x) jump({ at: [Number(button.dataset.x), Number(button.dataset.y)], features: [] });
    if (!button.dataset.take) return;
    document.getElementById("takings").replaceChildren();
    if (button.dataset.take === "yes") formUnits(true);
    else map.field.focus();
  });
  live.on("findings", take);
  live.on("changed", (words) => {
    if (!words.tables?.includes("units")) return;
    htmx.ajax("GET", `/p/${map.slug}/units/to-tag`, {
      source: "#finding-unit-row",
      target: "#finding-unit-row",
      swap: "outerHTML",
    });
  });
  map.on("overlay", (context, view) => {
    if (!list.hidden) paint(context, view);
  });

  // Numbered marks on the map while the list is open.
  function paint(context, view) {
    context.font = '600 12px "Barlow Semi Condensed"';
    context.textAlign = "center";
    context.textBaseline = "middle";
    marks.forEach((finding, i) => {
      if (!finding.at) return;
      const [x, y] = view.toScreen(...finding.at);
      if (x < -20 || y < -20 || x > view.width + 20 || y > view.height + 20) return;
      context.beginPath();
      context.arc(x, y, 10, 0, 2 * Math.PI);
      context.lineWidth = 1.5;
      context.strokeStyle = finding.severity === "error" ? ERROR : CAUTION;
      context.stroke();
      context.fillStyle = CARD;
      context.fillRect(x + 8, y - 22, 18, 16);
      context.strokeRect(x + 8, y - 22, 18, 16);
      context.fillStyle = context.strokeStyle;
      context.fillText(String(i + 1), x + 17, y - 14);
    });
  }

  async function ask() {
    const words = await live.ask({ do: "findings" }).catch(() => null);
    if (words?.findings) take(words);
  }

  return { ask, toggle };
}
