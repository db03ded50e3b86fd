// The colours of the style sheet, for what scripts paint.

const style = getComputedStyle(document.documentElement);

/** @param {string} name as in the style sheet, without its two hyphens */
export function token(name) {
  return style.getPropertyValue(`--${name}`).trim();
}
