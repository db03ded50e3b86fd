// Who signs at this browser: what was typed once stands in every place for a signature, until it is typed otherwise.

const KEPT = "signature";

// A browser may keep nothing.
function kept(signed) {
  try {
    if (signed) localStorage.setItem(KEPT, signed);
    return localStorage.getItem(KEPT);
  } catch {
    return null;
  }
}

// Have what was signed last stand in every place for a signature that is empty.
export function fillSignatures() {
  const signed = kept();
  for (const field of document.querySelectorAll("input.signature")) if (signed && !field.value) field.value = signed;
}

export function keepSignature() {
  document.addEventListener("change", (event) => {
    const field = event.target;
    if (!(field instanceof HTMLInputElement) || !field.matches("input.signature") || !field.value.trim()) return;
    kept(field.value.trim());
    for (const other of document.querySelectorAll("input.signature")) other.value = field.value;
  });
  document.body.addEventListener("htmx:afterSettle", fillSignatures);
  fillSignatures();
}
