// What a page is sure of and the type checker is not.

/**
 * The element that an event of a page came from: elements alone send them.
 * @param {Event} event
 * @returns {HTMLElement}
 */
export function targetOf(event) {
  return /** @type {HTMLElement} */ (event.target);
}

/**
 * What is painted with on a canvas, which has it as long as it is asked for nothing else.
 * @param {HTMLCanvasElement} canvas
 * @returns {CanvasRenderingContext2D}
 */
export function contextOf(canvas) {
  return /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
}
