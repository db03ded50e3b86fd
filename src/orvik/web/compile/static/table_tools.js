// What the table asks before it changes many cells: a preview of what is pasted, replaced or filled down.

import { targetOf } from "../frame/elements.js";

export function startTableTools(view, cells) {
  const body = document.getElementById("table-body");
  const preview = () => document.getElementById("table-preview");
  const value = (id) => /** @type {HTMLInputElement} */ (document.getElementById(id)).value;
  // What waits to be applied.
  let waiting = null;

  // Shows what a change would do; nothing is left to show where it was saved.
  async function shown(asked, told) {
    if (told.refused) view.tell(told.refused);
    if (!told.waiting) return;
    waiting = asked;
    // The rows that it speaks of stay in sight.
    hide();
    preview().innerHTML = told.waiting;
    preview().querySelector("button")?.focus();
    for (const li of preview().querySelectorAll(".refused-cells li[data-id]"))
      document
        .querySelector(
          `#table-rows tr[data-id="${li.dataset.id}"] td[data-column="${CSS.escape(li.dataset.column ?? "")}"]`,
        )
        ?.classList.add("refused");
  }

  async function ask(asked) {
    await shown(asked, await view.change({ ...asked, preview: true }));
  }

  function forget() {
    waiting = null;
    preview().replaceChildren();
    for (const td of document.querySelectorAll("#table-rows td.refused")) td.classList.remove("refused");
  }

  async function apply() {
    const told = await view.change({
      ...waiting,
      preview: false,
      leave_out: true,
    });
    if (told.refused) {
      view.tell(told.refused);
      return;
    }
    forget();
    hide();
    cells.focus();
  }

  function hide() {
    let any = false;
    for (const id of ["table-replacing", "table-pasting"]) {
      const tool = document.getElementById(id);
      any = any || !tool.hidden;
      tool.hidden = true;
    }
    for (const id of ["table-replace", "table-paste"])
      document.getElementById(id).setAttribute("aria-expanded", "false");
    return any;
  }

  function toggle(button, tool, field) {
    const open = document.getElementById(tool).hidden;
    hide();
    forget();
    document.getElementById(tool).hidden = !open;
    button.setAttribute("aria-expanded", String(open));
    if (open) document.getElementById(field).focus();
  }

  async function paste(text) {
    const { rows, columns } = cells.range();
    await ask({
      what: "paste",
      rows: [rows[0], rows[0]],
      columns: cells.names([columns[0], columns[0]]),
      text,
    });
  }

  body.addEventListener("click", (event) => {
    const button = targetOf(event).closest("button");
    if (!button) return;
    if (button.id === "table-replace") toggle(button, "table-replacing", "replace-find");
    else if (button.id === "table-paste") toggle(button, "table-pasting", "paste-text");
    else if (button.id === "preview-apply") apply();
    else if (button.id === "preview-cancel" || button.dataset.close) {
      forget();
      hide();
      cells.focus();
    }
  });

  body.addEventListener("submit", (event) => {
    const { id } = targetOf(event);
    if (id !== "table-replacing" && id !== "table-pasting") return;
    event.preventDefault();
    if (id === "table-pasting") paste(value("paste-text"));
    else
      ask({
        what: "replace",
        columns: [value("replace-in")],
        text: value("replace-find"),
        by: value("replace-by"),
        whole: /** @type {HTMLInputElement} */ (document.getElementById("replace-whole")).checked,
      });
  });

  // Escape goes one step back: the preview, then its tool. Says whether there was one.
  function escape() {
    const there = Boolean(waiting);
    forget();
    const open = hide();
    if (there || open) cells.focus();
    return there || open;
  }

  cells.with({ shown, paste, escape });
}
