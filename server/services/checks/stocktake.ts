/** The stocktake of a collection: what its stock shows, what its deliveries found, what people have settled of it. */
import type { Check } from "@larder/core/checks/check";
import { allChecks, learnedChecks } from "@larder/core/checks/stocktake";
import type { ShownFinding } from "@larder/core/checks/shown-finding";
import { worstFirst, type Severity } from "@larder/core/model/finding";
import { setTimeout as sleep } from "node:timers/promises";
import { announce } from "../../jobs/events";
import { ask } from "../../snapshot/ask";
import type { StocktakeQuestion } from "../../snapshot/questions";
import { addComparing } from "../learning/compare-looks";
import { allow } from "../access";
import type { Actor } from "../actor";
import { deliveredFindings } from "./delivered-findings";
import { keepNumbers, lastStocktake } from "./history";
import { asEntry, codeOf, type CheckEntry } from "./check-entry";
import { isLarge, needsJob, partAnswer } from "./part-answers";
import { isAll, questionOf, type DismissalRow, type Scope } from "./scope";

export type Dismissal = {
  id: number;
  key: string;
  /** The image it is about; null for the whole finding. */
  image: number | null;
  reason: string;
  actor: string;
  at: Date;
};

/**
 * `isTaken`: false where there is so much that a job looks at it first; the findings are those of before, or none.
 * `isWhole`: false where it is not compared yet what objects look like, as they are too many for it to be done at once.
 * `isComparing`: whether a job does so.
 */
export type Stocktake = {
  findings: CheckEntry[];
  dismissed: Dismissal[];
  isTaken: boolean;
  isWhole: boolean;
  isComparing: boolean;
};

const wholeStock: Scope = { where: "" };

/** So many milliseconds somebody waits for a stocktake; what takes longer is said once it is there. */
const waitsFor = 1000;

/**
 * What is worth a look in a collection: what its stock shows, and what its deliveries found of files that are no stock; of
 * a part of it, of what a plan leaves of it, or of a version, what that shows.
 */
export async function checksOf(actor: Actor, collection: number, scope: Scope = wholeStock): Promise<Stocktake> {
  await allow(actor, "see", { collection });
  const taken = await stocktakeOf(collection, scope, waitsFor);
  if (isAll(scope) && taken.isTaken) await keepNumbers(collection, taken.findings);
  return taken;
}

const known = new Map<string, Check>(allChecks.map((check) => [check.code, check]));
const learnedCodes = new Set<string>(learnedChecks.map(({ code }) => code));
const isLoud = ({ severity }: { severity: Severity }) => severity !== "info";

/**
 * How many findings there are, and how many of them are more than worth knowing. What objects look like takes long: of
 * that it is what the last stocktake that was kept found.
 */
export async function checkCounts(collection: number): Promise<{ all: number; toLookAt: number }> {
  const { question, dismissals } = await questionOf(collection, wholeStock);
  const [{ findings, isWhole }, delivered, last] = await Promise.all([
    ask("latestStocktake", collection, question),
    deliveredFindings(collection),
    lastStocktake(collection),
  ]);
  const standing = withoutDismissed([...findings.map(asEntry), ...delivered], dismissals);
  const dismissed = new Set(dismissals.filter(({ imageId }) => imageId === null).map(({ key }) => key));
  const looked = isWhole
    ? []
    : Object.keys(last?.counts ?? {}).flatMap((key) => {
        const check = known.get(codeOf(key));
        return check && learnedCodes.has(check.code) && !dismissed.has(key) ? [check] : [];
      });
  return {
    all: standing.length + looked.length,
    toLookAt: standing.filter(isLoud).length + looked.filter(isLoud).length,
  };
}

/** Findings but for those that were dismissed as a whole and are proved by the same. */
export const withoutDismissed = (entries: readonly CheckEntry[], dismissals: readonly DismissalRow[]): CheckEntry[] =>
  entries.filter(
    ({ key, mark }) => !dismissals.some((one) => one.imageId === null && one.key === key && one.mark === mark),
  );

/** The same for whoever has asked `allow`; waits for all of it where it is not said for how long. */
export async function stocktakeOf(collection: number, scope: Scope, milliseconds = Infinity): Promise<Stocktake> {
  const { question, dismissals } = await questionOf(collection, scope);
  const [found, delivered] = await Promise.all([
    findingsOf(collection, scope, question, milliseconds),
    isAll(scope) ? deliveredFindings(collection) : [],
  ]);
  const all = [...found.findings.map(asEntry), ...delivered].sort(worstFirst);
  const dismissed = dismissals
    .filter(({ key, imageId, mark }) => imageId !== null || all.some((one) => one.key === key && one.mark === mark))
    .map(({ id, key, imageId: image, reason, actor, at }) => ({ id, key, image, reason, actor, at }));
  const { isTaken, isWhole, isComparing } = found;
  return { findings: withoutDismissed(all, dismissals), dismissed, isTaken, isWhole, isComparing };
}

type FoundInScope = Pick<Stocktake, "isTaken" | "isWhole" | "isComparing"> & { findings: readonly ShownFinding[] };

const nothingYet: FoundInScope = { findings: [], isTaken: false, isWhole: false, isComparing: true };

async function findingsOf(
  collection: number,
  scope: Scope,
  question: StocktakeQuestion,
  milliseconds: number,
): Promise<FoundInScope> {
  if (await needsJob(collection, scope)) {
    const { answer, isCurrent, isWhole } = await partAnswer(collection, "stocktake", question, scope);
    const { findings } = answer ?? { findings: [] };
    return { findings, isTaken: isCurrent, isWhole: isCurrent && isWhole, isComparing: !isCurrent || !isWhole };
  }
  const asked = ask("stocktake", collection, question);
  const found = await inTime(asked, (await isLarge(collection)) ? milliseconds : Infinity);
  if (found === null) {
    void asked.then(() => announce({ collection, topics: ["checks"], revision: null })).catch(() => undefined);
    return nothingYet;
  }
  const { findings, isWhole, wantsComparing } = found;
  if (wantsComparing) await addComparing(collection);
  return { findings, isTaken: true, isWhole, isComparing: wantsComparing };
}

/** What a promise comes to; null where that takes longer. */
async function inTime<T>(promise: Promise<T>, milliseconds: number): Promise<T | null> {
  if (milliseconds === Infinity) return promise;
  const waiting = new AbortController();
  try {
    return await Promise.race([promise, sleep(milliseconds, null, { signal: waiting.signal })]);
  } finally {
    waiting.abort();
  }
}
