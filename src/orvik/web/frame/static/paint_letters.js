// Paints what is written: letters with their clearings and leaders, set letter by letter as the press does it.

import { PX_PER_MM } from "./view.js";

// A canvas does not wait for fonts that its letters need.
export function facesReady() {
  return Promise.all([...document.fonts].map((face) => face.load()));
}

export function paintTexts(context, item, frame, gone, near, denominator) {
  let face = "";
  context.textBaseline = "alphabetic";
  context.textAlign = "left";
  for (let i = 0; i < item.run.length; i += 1) {
    if (denominator > item.largest[i] || (gone && gone.has(item.keys[i]))) continue;
    const x = item.at[2 * i],
      y = item.at[2 * i + 1];
    if (x < near[0] || x > near[2] || y < near[1] || y > near[3]) continue;
    const run = item.runs[item.run[i]];
    const [colour, halo] = item.colours[item.colour[i]];
    let left = frame.x + x * frame.k + item.offset[2 * i] * PX_PER_MM,
      base = frame.y - y * frame.k + item.offset[2 * i + 1] * PX_PER_MM;
    const ahead = [item.leader[2 * i] * PX_PER_MM, item.leader[2 * i + 1] * PX_PER_MM];
    if (ahead[0] || ahead[1]) {
      context.strokeStyle = colour;
      context.lineWidth = item.leaderWidth * PX_PER_MM;
      context.lineCap = "butt";
      context.beginPath();
      context.moveTo(frame.x + x * frame.k + ahead[0], frame.y - y * frame.k + ahead[1]);
      context.lineTo(frame.x + x * frame.k, frame.y - y * frame.k);
      context.stroke();
    }
    const turned = item.angles[i] !== 0;
    if (turned) {
      context.save();
      context.translate(left, base);
      context.rotate((item.angles[i] * Math.PI) / 180);
      left = 0;
      base = 0;
    }
    for (const piece of run.pieces) {
      const [style, family] = item.faces[piece.font];
      const wanted = `${style} ${(run.size * PX_PER_MM).toFixed(2)}px "${family}"`;
      if (wanted !== face) {
        context.font = wanted;
        face = wanted;
      }
      if (halo) {
        context.strokeStyle = halo;
        context.lineWidth = item.haloWidth * PX_PER_MM;
        context.lineJoin = "round";
        piece.chars.forEach((char, c) => context.strokeText(char, left + piece.x[c] * PX_PER_MM, base));
      }
      context.fillStyle = colour;
      piece.chars.forEach((char, c) => context.fillText(char, left + piece.x[c] * PX_PER_MM, base));
    }
    // A font set within a saved state is gone with it.
    if (turned) {
      context.restore();
      face = "";
    }
  }
}
