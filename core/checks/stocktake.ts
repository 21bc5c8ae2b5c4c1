/** A full run of all checks over a stock: what is found, worst first. */
import { worstFirst, type Severity } from "../model/finding";
import type { Check, CheckedStock, Found, Mend, Proof } from "./check";
import type { CheckCode } from "./codes";
import type { Judgements } from "./judgements";
import {
  classesUneven,
  classInOneDelivery,
  classLacksSplit,
  classRare,
  classUnused,
  splitDiffers,
  splitEmpty,
  splitSmall,
  unlabeledLeft,
} from "./findings/balance";
import { copiesAcrossSplits, copiesWithinSplit } from "./findings/copies";
import { fieldMisfit } from "./findings/fields";
import { boxOutside, boxTiny, boxWholePicture, outlineSparse } from "./findings/geometry";
import { keypointOutsideBox, keypointsSwapped } from "./findings/keypoints";
import { pictureBlurred, pictureBurntOut, pictureDark } from "./findings/light";
import { imageProbablyMislabeled, probablyMislabeled, unlikeItsClass } from "./findings/looks";
import { attributeMisfits, attributeMissing, classesExclude, classSimilar } from "./findings/names";
import { classesOnOnePlace, objectDuplicate } from "./findings/overlaps";
import { sizeUnlikeRest, turnedByCamera } from "./findings/pictures";

/** Those that compare what objects look like: they need features, and take longest. */
export const looksChecks: readonly Check[] = [probablyMislabeled, imageProbablyMislabeled, unlikeItsClass];

/** Those that need what is learned of pictures in the background. */
export const learnedChecks: readonly Check[] = [...looksChecks, pictureBlurred, pictureDark, pictureBurntOut];

/** Every check, in the order in which docs/checks.md describes them. */
export const allChecks: readonly Check[] = [
  ...[copiesAcrossSplits, copiesWithinSplit, objectDuplicate, classesOnOnePlace, ...looksChecks],
  ...[
    boxTiny,
    boxWholePicture,
    boxOutside,
    outlineSparse,
    keypointOutsideBox,
    keypointsSwapped,
    attributeMissing,
    attributeMisfits,
    fieldMisfit,
    classesExclude,
    classSimilar,
  ],
  ...[classRare, classLacksSplit, classesUneven, classInOneDelivery, classUnused],
  ...[splitDiffers, splitSmall, splitEmpty, unlabeledLeft, turnedByCamera, sizeUnlikeRest],
  ...[pictureBlurred, pictureDark, pictureBurntOut],
];

export type StockFinding = {
  /** Stands for it from one stocktake to the next. */
  key: string;
  code: CheckCode;
  severity: Severity;
  sentence: string;
  count: number;
  threshold: number | null;
  where: string | null;
  mends: readonly Mend[];
  proofs: readonly Proof[];
};

/** Thresholds that people set, by the code of the check. */
export type Thresholds = Readonly<Record<string, number>>;

/** What a check goes by: what was set, within its range, or what is usual; 0 where it has no threshold. */
export function thresholdOf({ code, threshold }: Check, set: Thresholds): number {
  if (!threshold) return 0;
  const wanted = Object.hasOwn(set, code) ? (set[code] as number) : threshold.usual;
  return Math.min(threshold.most, Math.max(threshold.least, wanted));
}

/**
 * All that checks find in a stock, worst first. `exempt`: by a check's code the images it is to say nothing of; `checks`:
 * those that are asked, all where it is left out; `judgements`: what was judged before, where the stock is all of a
 * snapshot's.
 */
export function takeStock(
  stock: CheckedStock,
  set: Thresholds = {},
  exempt: ReadonlyMap<string, ReadonlySet<number>> = new Map(),
  checks: readonly Check[] = allChecks,
  judgements: Judgements | null = null,
): StockFinding[] {
  if (stock.slots.length === 0) return [];
  judgements?.catchUp();
  return checks
    .flatMap((check) => {
      const threshold = thresholdOf(check, set);
      const without = exempt.get(check.code) ?? new Set();
      const found = (): Iterable<Found> => {
        const { local } = check;
        if (judgements && local) return judgements.find({ ...check, local }, threshold, (slot) => without.has(slot));
        const slots = without.size > 0 ? stock.slots.filter((slot) => !without.has(slot)) : stock.slots;
        return check.find({ ...stock, slots }, threshold);
      };
      return Array.from(found(), ({ subject, mends = [], ...rest }): StockFinding => ({
        key: subject === "" ? check.code : `${check.code} ${subject}`,
        ...{ code: check.code, severity: check.severity, threshold: check.threshold ? threshold : null },
        ...{ mends, ...rest },
      }));
    })
    .sort(worstFirst);
}
