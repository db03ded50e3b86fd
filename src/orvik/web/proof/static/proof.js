// Proof: marks on the sheet and notes beside it go together; what changes elsewhere is looked at anew.

import { targetOf } from "../frame/elements.js";
import { Live } from "../frame/live.js";
import { flag } from "../frame/refusals.js";
import { startStrip } from "../frame/strip.js";
import { keepFocus } from "./focus.js";
import { startPinning } from "./pinning.js";
import { startSteps } from "./places.js";
import { ProofView } from "./proof_view.js";
import { keepSignature } from "./signature.js";

const live = new Live(document.querySelector(".frame").dataset.slug);
startStrip(live);
keepFocus();
const notes = document.getElementById("margin-notes");
const desk = document.getElementById("proof-desk");
const view = new ProofView(desk);
keepSignature();
startSteps(view);
startPinning(desk, view);
document.getElementById("proof-larger")?.addEventListener("click", () => view.zoomBy(1.25));
document.getElementById("proof-smaller")?.addEventListener("click", () => view.zoomBy(0.8));
document.getElementById("proof-whole")?.addEventListener("click", () => view.fit());
// Marks and the picture come anew with the notes.
document.body.addEventListener("htmx:afterSettle", () => view.paint());
// A note that is opened by its mark lies where one looks already.
let marked = false;
// What this page sends itself comes back with the notes as they are then.
let sending = 0;

// A reason that is being written is not taken away: the notes follow when it is sent, or nothing is left of it.
let late = false;

function follow() {
  const held = document.activeElement?.closest("#margin-notes form");
  late = Boolean(held) || [...notes.querySelectorAll("textarea")].some((reason) => reason.value.trim());
  if (!late) htmx.trigger(notes, "changed");
}
live.on("changed", () => {
  if (!sending) follow();
});
// What takes the focus has it only after this.
notes.addEventListener("focusout", () => late && setTimeout(follow));
notes.addEventListener("htmx:afterSettle", () => (late = false));
const bringsNotes = ({ requestConfig, target }) => requestConfig.verb === "post" && target === notes;
document.body.addEventListener("htmx:beforeRequest", (event) => {
  if (bringsNotes(event.detail)) sending += 1;
});
document.body.addEventListener("htmx:afterRequest", (event) => {
  if (bringsNotes(event.detail)) sending -= 1;
});

function marksOf(number) {
  return [...document.querySelectorAll(`.mark[data-note="${number}"]`)];
}

// The plates of the press: one at a time on the page, also after the page or the buttons came anew.
function pressPlates() {
  for (const button of document.querySelectorAll(".plates [data-plate]"))
    button.setAttribute("aria-pressed", String(button.dataset.plate === view.plate));
}

function withoutPlate() {
  flag("That plate cannot be drawn: look whether the profile of the press is still there, and choose it again.");
  view.show("", () => {});
  pressPlates();
}

document.addEventListener("click", (event) => {
  const button = targetOf(event).closest("[data-plate]");
  if (!button) return;
  view.show(button.dataset.plate, withoutPlate);
  pressPlates();
});
document.body.addEventListener("htmx:afterSettle", () => {
  view.resume(withoutPlate);
  pressPlates();
});

document.addEventListener("click", (event) => {
  const mark = targetOf(event).closest(".mark");
  if (!mark) return;
  event.preventDefault();
  const note = document.getElementById(`note-${mark.dataset.note}`);
  const details = note.querySelector("details");
  marked = !details.open;
  details.open = true;
  note.scrollIntoView({ block: "nearest" });
  note.querySelector("summary").focus({ preventScroll: true });
});

// The marks of the note that is open stand out.
document.addEventListener(
  "toggle",
  (event) => {
    const note = targetOf(event).closest?.(".note");
    if (!note || targetOf(event).parentElement !== note) return;
    const marks = marksOf(note.id.replace("note-", ""));
    for (const mark of marks) mark.classList.toggle("held", targetOf(event).open);
    // Of many places none is the place.
    if (targetOf(event).open && marks.length === 1 && !marked) view.go(marks[0]);
    // What can be done about it is seen with it.
    if (targetOf(event).open) notes.scrollTop += note.getBoundingClientRect().top - notes.getBoundingClientRect().top;
    if (targetOf(event).open) marked = false;
  },
  true,
);

// A proof is fetched as soon as it is there.
document.body.addEventListener("htmx:afterSettle", (event) => {
  if (targetOf(event).id === "taken-proof") targetOf(event).querySelector("[data-fetch]")?.click();
});

// What this page has ordered is fetched as soon as it is there; what was ordered before waits to be taken.
const ordered = new Set();

document.body.addEventListener("htmx:afterRequest", (event) => {
  const number = event.detail.xhr?.getResponseHeader("Orvik-Export");
  if (number) ordered.add(number);
});
document.body.addEventListener("htmx:afterSettle", () => {
  for (const job of document.querySelectorAll('.export-job[data-state="done"]')) {
    if (!ordered.delete(job.dataset.export)) continue;
    for (const file of job.querySelectorAll(".export-file")) file.click();
  }
});
