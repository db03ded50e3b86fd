// The cells of the table: the current one, a range of them, typing in one, copying and filling down, by keyboard.

import { targetOf } from "../frame/elements.js";

export function startCells(desk, view) {
  const body = document.getElementById("table-body");
  const { shown } = view;
  // The current cell, and the other corner of the range.
  const at = { row: 0, column: 0 };
  const anchor = { row: 0, column: 0 };
  /** @type {{ input: any, row: number, column: number, before: string | null } | null} */
  let edit = null;
  // Whether the grid has the focus, also while its rows are replaced.
  let held = false;

  const heads = () => /** @type {HTMLElement[]} */ ([...view.grid().querySelectorAll("th[data-column]")]);
  const cell = (row, column) =>
    /** @type {HTMLElement | null} */ (
      document.querySelector(`#table-rows tr[data-row="${row}"] td:nth-child(${column + 1})`)
    );
  const rowOf = (td) => Number(td.parentElement.dataset.row);
  const range = () => ({
    rows: [Math.min(at.row, anchor.row), Math.max(at.row, anchor.row)],
    columns: [Math.min(at.column, anchor.column), Math.max(at.column, anchor.column)],
  });
  /** @param {number[]} columns */
  const names = ([first, last]) =>
    heads()
      .slice(first, last + 1)
      .map((th) => th.dataset.column);

  function paint() {
    const { rows, columns } = range();
    const many = rows[0] !== rows[1] || columns[0] !== columns[1];
    for (const td of /** @type {NodeListOf<HTMLTableCellElement>} */ (
      document.querySelectorAll("#table-rows td[tabindex]")
    )) {
      const row = rowOf(td);
      const column = td.cellIndex;
      const current = row === at.row && column === at.column;
      td.tabIndex = current ? 0 : -1;
      td.classList.toggle("current", current);
      td.classList.toggle(
        "in-range",
        many && row >= rows[0] && row <= rows[1] && column >= columns[0] && column <= columns[1],
      );
    }
  }

  function focus() {
    const there = cell(at.row, at.column);
    if (there) {
      held = true;
      there.focus({ preventScroll: true });
    }
  }

  // At once where the cell is in sight; keys that follow find it.
  function go(row, column, extend = false) {
    if (!shown.listed) return;
    at.row = Math.max(0, Math.min(shown.listed - 1, row));
    at.column = Math.max(0, Math.min(heads().length - 1, column));
    if (!extend) Object.assign(anchor, at);
    held = true;
    paint();
    focus();
    view.reveal(at.row).then(() => {
      paint();
      if (held && !edit) focus();
      const there = cell(at.row, at.column);
      there?.scrollIntoView({ block: "nearest", inline: "nearest" });
      view.light(Number(there?.parentElement?.dataset.id));
    });
  }

  // Typing in a cell

  function begin(text) {
    const td = cell(at.row, at.column);
    if (!td || edit) return;
    if (td.getAttribute("aria-readonly")) {
      view.tell("This column is not typed; it follows from the feature.");
      return;
    }
    view.tell("");
    /** @type {any} */
    const input = document.createElement("input");
    input.className = "input cell-input";
    input.setAttribute("aria-label", heads()[at.column].textContent.trim());
    const list = document.getElementById(`cells-${td.dataset.column}`);
    if (list) input.setAttribute("list", list.id);
    edit = { input, row: at.row, column: at.column, before: td.textContent };
    input.value = text ?? td.textContent;
    td.replaceChildren(input);
    input.focus();
    if (text == null) input.select();
  }

  function leave() {
    if (!edit) return;
    const td = edit.input.parentElement;
    const { before } = edit;
    edit = null;
    if (td) td.textContent = before;
  }

  // What is typed is saved while the hand goes on; where it is refused, it stands in its cell again.
  function save(dx, dy) {
    if (!edit) return;
    const { input, row, column, before } = edit;
    const text = input.value;
    leave();
    const td = cell(row, column);
    if (td) td.textContent = text;
    go(row + dy, column + dx);
    if (text === before) return;
    desk.inTurn(async () => {
      const told = await view.change({ what: "type", rows: [row, row], columns: names([column, column]), text });
      if (told.saved) return;
      const said = document.createElement("template");
      said.innerHTML = told.waiting ?? "";
      const why = told.refused ?? said.content.querySelector(".refusal")?.textContent ?? "";
      const back = cell(row, column);
      if (back) back.textContent = before;
      if (edit) {
        back?.classList.add("refused");
        view.tell(`No ${back?.parentElement?.dataset.id ?? ""}, “${text.slice(0, 40)}”: ${why}`);
        return;
      }
      go(row, column);
      await view.reveal(row);
      begin(text);
      view.tell(why);
      const again = /** @type {any} */ (edit).input;
      again.setAttribute("aria-invalid", "true");
      again.setAttribute("aria-describedby", "table-refusal");
      again.select();
    });
  }

  // Many cells

  async function fillDown() {
    const { rows, columns } = range();
    const [first, last] = rows[0] === rows[1] && rows[0] > 0 ? [rows[0] - 1, rows[1]] : rows;
    const asked = {
      what: "fill",
      rows: [first, last],
      columns: typed(columns),
    };
    if (!asked.columns.length) view.tell("These columns are not typed; they follow from the features.");
    else await tools.shown(asked, await view.change(asked));
    focus();
  }

  /** @param {number[]} columns */
  function typed([first, last]) {
    return heads()
      .slice(first, last + 1)
      .filter((th) => "typed" in th.dataset)
      .map((th) => th.dataset.column);
  }

  async function clear() {
    const { rows, columns } = range();
    const asked = { what: "type", rows, columns: typed(columns), text: "" };
    if (!asked.columns.length) view.tell("These columns are not typed; they follow from the features.");
    else await tools.shown(asked, await view.change(asked));
    focus();
  }

  async function copy() {
    const { rows, columns } = range();
    const asked = new URLSearchParams({
      listing: String(shown.listing),
      first: String(rows[0]),
      last: String(rows[1]),
      dip_direction: String(view.dipFirst()),
    });
    for (const name of names(columns)) asked.append("columns", String(name));
    try {
      const answer = await view.fetched(view.path(`/block?${asked}`));
      await navigator.clipboard.writeText(await answer.text());
      view.map.say(
        rows[0] === rows[1] && columns[0] === columns[1]
          ? "1 cell is copied."
          : `${(rows[1] - rows[0] + 1) * (columns[1] - columns[0] + 1)} cells are copied.`,
      );
    } catch (error) {
      view.tell(error.message);
    }
  }

  body.addEventListener("paste", (event) => {
    if (edit || !targetOf(event).closest?.("td[data-column]")) return;
    event.preventDefault();
    const text = /** @type {ClipboardEvent} */ (event).clipboardData?.getData("text/plain") ?? "";
    desk.inTurn(() => tools.paste(text));
  });

  // Keys

  const MOVES = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };

  function keyInEdit(event) {
    const back = event.shiftKey ? -1 : 1;
    if (event.key === "Enter") save(0, back);
    else if (event.key === "Tab") save(back, 0);
    else if (event.key === "Escape") {
      leave();
      view.tell("");
      focus();
    } else return;
    event.preventDefault();
  }

  function keyInGrid(event) {
    const page = Math.max(1, Math.floor(view.scroll().clientHeight / 30) - 2);
    const whole = event.ctrlKey || event.metaKey;
    const last = heads().length - 1;
    const { key } = event;
    if (key in MOVES) {
      const [dy, dx] = MOVES[key];
      const far = whole ? shown.listed + last : 1;
      go(at.row + dy * far, at.column + dx * far, event.shiftKey);
    } else if (key === "PageDown" || key === "PageUp")
      go(at.row + (key === "PageDown" ? page : -page), at.column, event.shiftKey);
    else if (key === "Home") go(whole ? 0 : at.row, 0, event.shiftKey);
    else if (key === "End") go(whole ? shown.listed - 1 : at.row, last, event.shiftKey);
    else if (key === "Tab") {
      // At either end of a row, the next control has its turn.
      const next = at.column + (event.shiftKey ? -1 : 1);
      if (next < 0 || next > last) return false;
      go(at.row, next);
    } else if (key === "Enter" || key === "F2") begin();
    else if (key === " ") desk.inTurn(() => view.select(range().rows, event.shiftKey).then(focus));
    else if (key === "Delete" || key === "Backspace") desk.inTurn(clear);
    else if (key === "Escape") view.map.field.focus();
    else if (whole && key.toLowerCase() === "d") desk.inTurn(fillDown);
    else if (whole && key.toLowerCase() === "c") desk.inTurn(copy);
    else if (whole && key.toLowerCase() === "a") {
      Object.assign(anchor, { row: 0, column: 0 });
      Object.assign(at, { row: shown.listed - 1, column: last });
      paint();
    } else if (!whole && !event.altKey && key.length === 1) begin(key);
    else return false;
    return true;
  }

  body.addEventListener("keydown", (event) => {
    const input = edit && event.target === edit.input;
    const inGrid = targetOf(event).closest("td[data-column]");
    if (!input && !inGrid) {
      if (event.key === "Escape" && !targetOf(event).closest("dialog")) {
        event.stopPropagation();
        if (!tools.escape()) focus();
      }
      return;
    }
    // Keys of the map are not meant; undo and redo are.
    if (!(event.ctrlKey || event.metaKey)) event.stopPropagation();
    if (input) keyInEdit(event);
    else if (keyInGrid(event)) event.preventDefault();
  });

  body.addEventListener("pointerdown", (event) => {
    const td = targetOf(event).closest("td[data-column]");
    if (!td || event.button !== 0 || (edit && td.contains(edit.input))) return;
    const row = rowOf(td);
    const column = /** @type {HTMLTableCellElement} */ (td).cellIndex;
    event.preventDefault();
    save(0, 0);
    go(row, column, event.shiftKey);
  });
  body.addEventListener("dblclick", (event) => {
    if (targetOf(event).closest("td[data-column]")) begin();
  });
  body.addEventListener("focusout", (event) => {
    if (event.relatedTarget) held = body.contains(/** @type {Node} */ (event.relatedTarget));
  });

  // Listed anew: the same column, the first row.
  function listed() {
    edit = null;
    Object.assign(at, { row: Math.min(at.row, Math.max(0, shown.listed - 1)) });
    at.column = Math.min(at.column, Math.max(0, heads().length - 1));
    Object.assign(anchor, at);
  }

  // Rows were fetched: the current cell is marked again, and has the focus if it had it.
  function placed() {
    paint();
    if (edit) {
      // What is being typed stays.
      const { input } = edit;
      const [from, to] = [input.selectionStart, input.selectionEnd];
      cell(edit.row, edit.column)?.replaceChildren(input);
      input.focus({ preventScroll: true });
      input.setSelectionRange(from, to);
      return;
    }
    const outside = document.activeElement && document.activeElement !== document.body;
    if (held && !outside && !edit) focus();
  }

  let tools = /** @type {any} */ (null);
  return {
    listed,
    placed,
    focus,
    range,
    names,
    editing: () => edit !== null,
    with: (/** @type {any} */ given) => {
      tools = given;
    },
  };
}
