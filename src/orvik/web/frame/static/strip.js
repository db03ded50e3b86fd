// The top strip of a project: save state, undo and redo, help.

import { flag } from "./refusals.js";

// `first` may take an undo or redo for what is selected and not kept yet; it says whether it did.
/** @param {(what: string) => boolean} first */
export function startStrip(live, first = () => false) {
  const save = document.getElementById("save-state");
  const undo = document.getElementById("undo");
  const redo = document.getElementById("redo");
  let keptAt = save.dataset.saved ? Date.parse(save.dataset.saved) : null;
  let revision = Number(save.dataset.revision);
  let lost = false;
  let keeping = 0;
  // What is said when the project's file is no longer the one that was opened.
  let replaced = "";
  // What is said while another program keeps the file from being whole by itself.
  let held = "";

  function paint() {
    save.className = lost || replaced ? "not-kept" : keeping ? "keeping" : "";
    save.title = replaced || held;
    if (replaced) save.textContent = "Not saved: another file is in its place";
    else if (lost) save.textContent = "Not saved: no connection";
    else if (keeping) save.textContent = "Saving…";
    else if (!keptAt) save.textContent = "Nothing to save yet";
    else save.textContent = `Saved ${ago((Date.now() - keptAt) / 1000)} · rev ${revision}`;
  }

  live.on("state", (words) => {
    keptAt = words.saved_at ? Date.parse(words.saved_at) : null;
    revision = words.revision;
    if (words.replaced && !replaced) flag(words.replaced);
    replaced = words.replaced || "";
    if (words.held && !held) flag(words.held);
    held = words.held || "";
    undo.disabled = !words.undo;
    redo.disabled = !words.redo;
    undo.title = words.undo ? `Undo: ${words.undo}` : "";
    redo.title = words.redo ? `Redo: ${words.redo}` : "";
    paint();
  });
  live.on("lost", () => {
    lost = true;
    paint();
  });
  live.on("found", () => {
    lost = false;
    paint();
  });
  // In another coordinate system every number on the page is another.
  live.on("changed", (words) => {
    if (words.moved) loadAgain();
    else document.body.dispatchEvent(new CustomEvent("orvik-changed"));
  });
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.detail.requestConfig.verb !== "get") {
      keeping += 1;
      paint();
    }
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.requestConfig.verb !== "get") {
      keeping = Math.max(0, keeping - 1);
      paint();
    }
  });
  setInterval(paint, 1000);
  paint();

  // Not before the answer to what this page itself has asked for: it may lead elsewhere.
  let leaving = false;
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    if (event.detail.xhr.getResponseHeader("HX-Redirect")) leaving = true;
  });
  function loadAgain() {
    if (leaving) return;
    if (keeping) setTimeout(loadAgain, 100);
    else location.reload();
  }

  async function turn(what) {
    if (first(what)) return;
    try {
      const answer = await live.ask({ do: what });
      if (answer.refused) flag(answer.refused);
    } catch (error) {
      flag(error.message);
    }
  }
  undo.addEventListener("click", () => turn("undo"));
  redo.addEventListener("click", () => turn("redo"));
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || typing(event.target)) return;
    const key = event.key.toLowerCase();
    if (key === "z") {
      event.preventDefault();
      turn(event.shiftKey ? "redo" : "undo");
    }
  });
  const dialog = document.getElementById("help-dialog");
  document.getElementById("help").addEventListener("click", () => dialog.showModal());
  document.addEventListener("keydown", (event) => {
    if (event.key === "?" && !typing(event.target)) dialog.showModal();
  });
}

export function typing(element) {
  return (
    element.closest?.("input:not([type=range]):not([type=radio]):not([type=checkbox]), textarea, select, dialog") !=
    null
  );
}

function ago(seconds) {
  const s = Math.max(0, Math.round(seconds));
  if (s < 60) return `${s} s ago`;
  if (s < 3600) return `${Math.floor(s / 60)} min ago`;
  if (s < 86400) return `${Math.floor(s / 3600)} h ago`;
  return `${Math.floor(s / 86400)} d ago`;
}
