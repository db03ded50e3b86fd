// Files dropped anywhere on the plan chest are those that a project begins with.

import "../frame/refusals.js";

const field = /** @type {HTMLInputElement} */ (document.getElementById("begin-files"));

document.addEventListener("dragover", (event) => {
  if (!event.dataTransfer?.types.includes("Files")) return;
  event.preventDefault();
  document.body.classList.add("dropping");
});
document.addEventListener("dragleave", (event) => {
  if (!event.relatedTarget) document.body.classList.remove("dropping");
});
document.addEventListener("drop", (event) => {
  document.body.classList.remove("dropping");
  if (!event.dataTransfer?.files.length) return;
  event.preventDefault();
  field.files = event.dataTransfer.files;
  field.dispatchEvent(new Event("change", { bubbles: true }));
});
