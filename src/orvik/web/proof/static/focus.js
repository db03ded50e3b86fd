// What had the focus and is drawn anew or gone hands it on: to itself, to what has come in its place, or to its list.

// A list, what stands in it, what of that takes the focus, and where that goes when nothing is left.
const LISTS = [
  { list: "#margin-notes", item: ".note", takes: "summary", rest: "#margin-notes h2" },
  { list: "#proof-accepted", item: ".accepted", takes: "button", rest: "#proof-accepted h2" },
  { list: "#exports", item: ".export-job", takes: "button, a", rest: "#export-panel-title" },
];

function heldIn(active) {
  for (const kind of LISTS) {
    const list = active.closest?.(kind.list);
    if (!list) continue;
    const items = [...list.querySelectorAll(kind.item)];
    return { kind, at: items.indexOf(active.closest(kind.item)) };
  }
  return null;
}

function focused(place) {
  const items = [...document.querySelectorAll(`${place.kind.list} ${place.kind.item}`)];
  const item = items[Math.min(Math.max(place.at, 0), items.length - 1)];
  const target = item?.querySelector(place.kind.takes) ?? document.querySelector(place.kind.rest);
  if (!target) return;
  // A heading takes the focus only from here.
  if (!target.matches("a, button, summary, input")) target.tabIndex = -1;
  target.focus();
}

export function keepFocus() {
  let place = null;
  document.body.addEventListener("htmx:beforeSwap", () => {
    place = heldIn(document.activeElement) ?? place;
  });
  document.body.addEventListener("htmx:afterSettle", () => {
    if (place && document.activeElement === document.body) focused(place);
    place = null;
  });
}
