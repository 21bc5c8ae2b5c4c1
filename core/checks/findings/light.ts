/** What pictures are like as a whole, by the measures of their thumbnails. */
import type { PictureMeasures } from "../../learning/measures";
import { imagesAsProofs, intoTheBin, plural, type Check, type CheckedStock } from "../check";
import { median } from "../median";

type Measured = { slot: number; value: number };

/** Those of which a measure is known and is as `isMeant` says. */
function measured(
  { snapshot, slots, measures }: CheckedStock,
  name: keyof PictureMeasures,
  isMeant: (value: number) => boolean,
): Measured[] {
  const values = measures?.measuresOf(snapshot)[name];
  const meant: Measured[] = [];
  if (!values) return meant;
  for (const slot of slots) {
    const value = values[slot] as number;
    if (!Number.isNaN(value) && isMeant(value)) meant.push({ slot, value });
  }
  return meant;
}

/** The median sharpness of those of which it is known; null where it is known of none. */
function usualSharpness({ snapshot, slots, measures }: CheckedStock): number | null {
  const values = measures?.measuresOf(snapshot).sharpness;
  if (!values) return null;
  const known = Float64Array.from(slots, (slot) => values[slot] as number).filter((value) => !Number.isNaN(value));
  return known.length === 0 ? null : median(known);
}

/** Those that are meant, by how much they are so: the lowest value first, or the highest. */
function* found(meant: readonly Measured[], first: "lowest" | "highest", words: [string, string], rest: string) {
  const sign = first === "lowest" ? 1 : -1;
  const slots = [...meant].sort((a, b) => sign * (a.value - b.value)).map(({ slot }) => slot);
  if (slots.length > 0)
    yield {
      subject: "",
      sentence: `${plural(slots.length, words[0], words[1])} ${rest}.`,
      ...{ count: slots.length, proofs: imagesAsProofs(slots), where: null, mends: [intoTheBin] },
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
    const meant = measured(stock, "sharpness", (sharpness) => sharpness * 100 < percent * usual);
    yield* found(meant, "lowest", ["picture is", "pictures are"], `less than ${percent}% as sharp as most`);
  },
};

export const pictureDark: Check = {
  code: "picture-dark",
  severity: "info",
  counts: "images",
  means: "Pictures that are dark on average: mean luma of 0 to 255 (Rec. ITU-R BT.709).",
  threshold: { unit: "of 255", usual: 25, least: 1, most: 200, step: 1 },
  *find(stock, least) {
    const meant = measured(stock, "brightness", (brightness) => brightness < least);
    yield* found(meant, "lowest", ["picture is", "pictures are"], `darker than ${least} of 255 on average`);
  },
};

export const pictureBurntOut: Check = {
  code: "picture-burnt-out",
  severity: "info",
  counts: "images",
  means: "Pictures of which so much is white, every channel at 250 or more: what was there cannot be seen any more.",
  threshold: { unit: "% of the picture", usual: 40, least: 1, most: 100, step: 1 },
  *find(stock, percent) {
    const meant = measured(stock, "burnt", (burnt) => burnt * 100 >= percent);
    yield* found(meant, "highest", ["picture is", "pictures are"], `white over ${percent}% of it or more`);
  },
};
