// Shows what the server refuses where the hand is: in the form that asked, next to the field it concerns.

function clear(form) {
  for (const p of form.querySelectorAll(".refusal")) p.hidden = true;
}

function show(element, sentence) {
  element.textContent = sentence;
  element.hidden = false;
}

let flagTimer = 0;

export function flag(sentence) {
  const p = document.getElementById("refusal-flag");
  if (!p) return;
  show(p, sentence);
  clearTimeout(flagTimer);
  flagTimer = setTimeout(() => {
    p.hidden = true;
  }, 8000);
}

document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.detail.elt.closest("form, [data-asks]");
  if (form) clear(form);
});

// A file that was fixed and is chosen again counts as chosen, though it has the same name.
document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.detail.elt.closest("form[hx-encoding]");
  for (const field of form?.querySelectorAll("input[type=file]") || []) field.value = "";
});

document.addEventListener("htmx:responseError", (event) => {
  const { elt, xhr } = event.detail;
  const sentence = xhr.responseText;
  const form = elt.closest("form, [data-asks]");
  const where = xhr.getResponseHeader("Orvik-Where") || "form";
  const place =
    form && (form.querySelector(`[data-refusal="${where}"]`) || form.querySelector('[data-refusal="form"]'));
  if (place) show(place, sentence);
  else flag(sentence);
});

document.addEventListener("htmx:sendError", () => flag("Not saved: Orvik does not answer. Is it still running?"));
