// The panels beside the map: one at a time, and the map knows whether one covers a part of it.

export function showBeside(panel, opener, open) {
  const panels = /** @type {HTMLElement[]} */ ([...document.querySelectorAll(".beside-map")]);
  for (const other of panels) {
    const close = /** @type {HTMLElement | null} */ (other.querySelector(".tray-head .move"));
    if (open && other !== panel && !other.hidden) close?.click();
  }
  panel.hidden = !open;
  opener.setAttribute("aria-expanded", String(open));
  document.querySelector(".middle")?.classList.toggle(
    "with-list",
    panels.some((other) => !other.hidden),
  );
}
