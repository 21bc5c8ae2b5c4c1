/** What pictures are like as a whole, by the measures of their thumbnails. */
import type { PictureMeasures } from "../../learning/measures";
import { imagesAsProofs, plural, type Check, type CheckedStock } from "../check";
import { median } from "../median";

type Measured = { slot: number; measures: PictureMeasures };

/** Those of which it is known what they are like, and that is as `isMeant` says. */
function measured(
  { snapshot, slots, measures }: CheckedStock,
  isMeant: (measures: PictureMeasures) => boolean,
): Measured[] {
  const meant: Measured[] = [];
  for (const slot of slots) {
    const known = measures?.measuresOf(snapshot, slot);
    if (known && isMeant(known)) meant.push({ slot, measures: known });
  }
  return meant;
}

/** The median sharpness of those of which it is known; null where it is known of none. */
function usualSharpness({ snapshot, slots, measures }: CheckedStock): number | null {
  const all = new Float64Array(slots.length);
  let count = 0;
  for (const slot of slots) {
    const known = measures?.measuresOf(snapshot, slot);
    if (known) all[count++] = known.sharpness;
  }
  return count === 0 ? null : median(all.subarray(0, count));
}

/** Those that are meant, by how much they are so. */
function* found(
  meant: readonly Measured[],
  order: (one: PictureMeasures) => number,
  words: [string, string],
  rest: string,
) {
  const slots = [...meant].sort((a, b) => order(a.measures) - order(b.measures)).map(({ slot }) => slot);
  if (slots.length > 0)
    yield {
      subject: "",
      sentence: `${plural(slots.length, words[0], words[1])} ${rest}.`,
      ...{ count: slots.length, proofs: imagesAsProofs(slots), where: null },
    };
}

export const pictureBlurred: Check = {
  code: "picture-blurred",
  severity: "info",
  counts: "images",
  means:
    "Pictures whose thumbnail is much less sharp than the median one of the stock (variance of the Laplacian: Pech-Pacheco et al., 2000). A picture of plain things is not sharp either.",
  threshold: { unit: "% of the median", usual: 5, least: 0.5, most: 90, step: 0.5 },
  *find(stock, percent) {
    const usual = usualSharpness(stock);
    if (usual === null) return;
    const meant = measured(stock, ({ sharpness }) => sharpness * 100 < percent * usual);
    yield* found(
      meant,
      ({ sharpness }) => sharpness,
      ["picture is", "pictures are"],
      `less than ${percent}% as sharp as most`,
    );
  },
};

export const pictureDark: Check = {
  code: "picture-dark",
  severity: "info",
  counts: "images",
  means: "Pictures that are dark on average: mean luma of 0 to 255 (Rec. ITU-R BT.709).",
  threshold: { unit: "of 255", usual: 25, least: 1, most: 200, step: 1 },
  *find(stock, least) {
    const meant = measured(stock, ({ brightness }) => brightness < least);
    yield* found(
      meant,
      ({ brightness }) => brightness,
      ["picture is", "pictures are"],
      `darker than ${least} of 255 on average`,
    );
  },
};

export const pictureBurntOut: Check = {
  code: "picture-burnt-out",
  severity: "info",
  counts: "images",
  means: "Pictures of which so much is white, every channel at 250 or more: what was there cannot be seen any more.",
  threshold: { unit: "% of the picture", usual: 40, least: 1, most: 100, step: 1 },
  *find(stock, percent) {
    const meant = measured(stock, ({ burnt }) => burnt * 100 >= percent);
    yield* found(meant, ({ burnt }) => -burnt, ["picture is", "pictures are"], `white over ${percent}% of it or more`);
  },
};
