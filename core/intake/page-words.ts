/** From the runs of text on a page to words with boxes. */
import type { LabeledObject, Size } from "../model/item";

/**
 * A run of text as a page description places it: `transform` [a, b, c, d, e, f] takes text space, whose unit is the
 * font's
 * size, to the page; `width` is the run's length on the page; ascent and descent are shares of the font's size.
 */
export type TextRun = { text: string; width: number; transform: readonly number[]; ascent: number; descent: number };

/** How wide a sign is beside others where the font is not at hand: in quarters of the widest. */
function weight(sign: string): number {
  if (/[iljtfI.,:;'|!()[\] ]/.test(sign)) return 2;
  if (/[mwMW@%]/.test(sign)) return 4;
  return 3;
}

function times(m: readonly number[], [x, y]: readonly [number, number]): [number, number] {
  const [a = 1, b = 0, c = 0, d = 1, e = 0, f = 0] = m;
  return [a * x + c * y + e, b * x + d * y + f];
}

/**
 * The words of a page, each an object of the class "word" with the attribute "text" and an upright box in pixels.
 * Within a run, signs share its length by their usual widths. `toPixels` takes the page to pixels of its picture, whose
 * `size` cuts off what lies outside.
 */
export function wordBoxes(runs: readonly TextRun[], toPixels: readonly number[], size: Size): LabeledObject[] {
  const words: LabeledObject[] = [];
  for (const run of runs) {
    const signs = [...run.text];
    const total = signs.reduce((sum, sign) => sum + weight(sign), 0);
    const [a = 1, b = 0, c = 0, d = 1, e = 0, f = 0] = run.transform;
    const fontSize = Math.hypot(c, d);
    const length = Math.hypot(a, b);
    if (total === 0 || fontSize === 0 || length === 0) continue;
    const along = [a / length, b / length] as const;
    const up = [c / fontSize, d / fontSize] as const;
    let before = 0;
    let start = 0;
    let word = "";
    const close = () => {
      if (word !== "") {
        const from = (start / total) * run.width;
        const to = (before / total) * run.width;
        const corners = [
          [from, run.descent],
          [to, run.descent],
          [from, run.ascent],
          [to, run.ascent],
        ].map(([x = 0, y = 0]) =>
          times(toPixels, [e + along[0] * x + up[0] * y * fontSize, f + along[1] * x + up[1] * y * fontSize]),
        );
        const left = Math.max(0, Math.min(...corners.map(([x]) => x)));
        const top = Math.max(0, Math.min(...corners.map(([, y]) => y)));
        const right = Math.min(size.width, Math.max(...corners.map(([x]) => x)));
        const bottom = Math.min(size.height, Math.max(...corners.map(([, y]) => y)));
        if (right > left && bottom > top)
          words.push({
            class: "word",
            shape: { kind: "box", x: left, y: top, width: right - left, height: bottom - top },
            attributes: { text: word },
          });
      }
      word = "";
    };
    for (const sign of signs) {
      if (/\s/.test(sign)) close();
      else {
        if (word === "") start = before;
        word += sign;
      }
      before += weight(sign);
    }
    close();
  }
  return words;
}
