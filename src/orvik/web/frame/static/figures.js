// Whole figures with thin spaces between thousands, as all pages write them.

export function spaced(value) {
  return Math.round(value).toLocaleString("en").replaceAll(",", "\u2009").replace("-", "−");
}
