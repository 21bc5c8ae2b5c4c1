/** What checks look at: the stock or a part of it, what a plan leaves of it, a version. */
import type { CheckedStock, Mend } from "@larder/core/checks/check";
import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { stockNumbers, type StockNumbers } from "@larder/core/checks/numbers/stock-numbers";
import { Judgements } from "@larder/core/checks/judgements";
import { gatedChecks, gateResults, type GateResult } from "@larder/core/checks/gates";
import { describeFinding, shownProofs, type ShownFinding, type ShownProof } from "@larder/core/checks/shown-finding";
import { allChecks, looksChecks, takeStock, type StockFinding, type Thresholds } from "@larder/core/checks/stocktake";
import type { Looks } from "@larder/core/checks/looks";
import type { Learned } from "@larder/core/snapshot/learned";
import type { Selection } from "@larder/core/selection/chosen";
import { failures } from "@larder/core/snapshot/matching";
import { outcomeOf } from "@larder/core/snapshot/outcome";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { derived, flowOf, type PlanQuestion } from "./derived";
import { canCompare, comparisonOf, wantsComparing } from "./load-comparison";
import { presentSlots } from "@larder/core/snapshot/present-slots";
import { versionStock } from "./version-stock";

export type CheckedPart = {
  /** The part of it that is looked at; null for all of it. */
  selection: Selection | null;
  /** The plan whose outcome is looked at; null where it is none. */
  plan: PlanQuestion | null;
  /** The digest of the version that is looked at; null where it is none. */
  version: string | null;
};

/** `exempt`: by a check's code the images it says nothing of, each as it was when that was said. */
export type StocktakeQuestion = CheckedPart & {
  thresholds: Thresholds;
  exempt: readonly { code: string; image: number; changed: number }[];
};

/** Up to so many objects all but their looks is checked anew for a number on the line of stations. */
const mostCountedObjects = 100_000;
type Taken = { key: string; findings: StockFinding[]; snapshot: Snapshot };
const takenOf = new WeakMap<Snapshot, { whole?: Taken; withoutLooks?: Taken; part?: Taken }>();

const isStock = ({ selection, plan, version }: CheckedPart) => selection === null && plan === null && version === null;

/** The images that are looked at, without what they look like. */
function checkedPart(base: Snapshot, { selection, plan, version }: CheckedPart): CheckedStock {
  const { snapshot, slots } = version
    ? versionStock(base, version)
    : plan
      ? outcomeOf(base, derived(base).slotted, flowOf(base, plan))
      : { snapshot: base, slots: presentSlots(base) };
  const measures = version ? (base.learned?.under(versionStock(base, version).ids) ?? null) : base.learned;
  if (selection === null) return checkedStockOf(snapshot, slots, null, measures);
  const fails = failures(snapshot, selection);
  return checkedStockOf(
    snapshot,
    slots.filter((slot) => fails[slot] === 0),
    null,
    measures,
  );
}

/** What was judged of each image of a snapshot. */
const judgementsOf = new WeakMap<Snapshot, Judgements>();
function judgementsFor(snapshot: Snapshot): Judgements {
  const known = judgementsOf.get(snapshot) ?? new Judgements(snapshot);
  judgementsOf.set(snapshot, known);
  return known;
}

/** All that is found in it, worked out once for as long as nothing changes. */
function stocktake(
  snapshot: Snapshot,
  question: StocktakeQuestion,
  kind: "whole" | "withoutLooks" = "whole",
): Pick<Taken, "findings" | "snapshot"> {
  const { thresholds: _, exempt: __, ...part } = question;
  const known = kind === "whole" ? snapshot.learned : null;
  const learned = canCompare(snapshot) ? known : null;
  // What a job found speaks of the stock's own objects and labels.
  const comparison = kind === "whole" && !part.plan && !part.version ? comparisonOf(snapshot) : null;
  const key = JSON.stringify([snapshot.revision, known?.upTo ?? null, comparison?.stale ?? null, question]);
  const taken = takenOf.get(snapshot) ?? {};
  const place = isStock(part) ? kind : "part";
  if (taken[place]?.key === key) return taken[place];
  const made = { key, ...findIn(snapshot, question, { known, learned, looks: comparison?.looks ?? null }) };
  takenOf.set(snapshot, { ...taken, [place]: made });
  return made;
}

/**
 * All that is found in it. `known`: what pictures are like; `learned`: the same where what they look like is to be
 * compared; `looks`: what came of that, where it was compared before.
 */
function findIn(
  snapshot: Snapshot,
  { thresholds, exempt, ...part }: StocktakeQuestion,
  { known, learned, looks }: { known: Learned | null; learned: Learned | null; looks: Looks | null },
): Pick<Taken, "findings" | "snapshot"> {
  const stock = checkedPart(snapshot, part);
  const findings = takeStock(
    {
      ...stock,
      measures: known && (stock.measures ?? null),
      looks,
      learned: part.version && learned ? learned.under(versionStock(snapshot, part.version).ids) : learned,
    },
    thresholds,
    part.version ? new Map() : exemptSlots(snapshot, exempt),
    allChecks,
    isStock(part) ? judgementsFor(snapshot) : null,
  );
  return { snapshot: stock.snapshot, findings: part.plan ? findings.map(withoutMoves) : findings };
}

/** By the code of each check the images that it says nothing of, for as long as they are as they were then. */
export function exemptSlots(snapshot: Snapshot, exempt: StocktakeQuestion["exempt"]): Map<string, Set<number>> {
  const slots = new Map<string, Set<number>>(allChecks.map(({ code }) => [code, new Set()]));
  for (const { code, image, changed } of exempt) {
    const slot = snapshot.slotOf(image);
    if (slot !== null && snapshot.changed.at(slot) === changed) slots.get(code)?.add(slot);
  }
  return slots;
}

/** The classes that a mend gives. */
function classesIn(mend: Mend): readonly number[] {
  if ("into" in mend) return [mend.into];
  if (!("request" in mend)) return [];
  const { request } = mend;
  return request.do === "merge" ? [request.from, request.into] : request.do === "set-classes" ? request.classes : [];
}

/** A plan deals splits itself and makes classes that stock does not have: what mends those is the plan. */
const withoutMoves = (finding: StockFinding): StockFinding => ({
  ...finding,
  mends: finding.mends.filter(
    (mend) => !("request" in mend && mend.request.do === "move") && classesIn(mend).every((id) => id > 0),
  ),
});

type Latest = { findings: ShownFinding[]; isWhole: boolean };
/** `wantsComparing`: whether a job is to compare what objects look like, anew or for the first time. */
type Whole = Latest & { wantsComparing: boolean };

/** As many pictures of a finding are kept with an answer: as many as one press mends. */
export const mostMended = 10_000;

/** Findings, and of each the pictures that prove it. */
export type PartStocktake = { findings: ShownFinding[]; proofs: ShownProof[][] };

export type PartNumbersQuestion = CheckedPart & { longEdge: number };
/** What is asked of a part of a stock that takes long to look at, and what a job answers. */
export type PartQuestions = { stocktake: StocktakeQuestion; numbers: PartNumbersQuestion };
export type PartAnswers = { stocktake: PartStocktake; numbers: StockNumbers };
export type PartQuestion = keyof PartQuestions;
type AskedPart = { [Q in PartQuestion]: { question: Q; argument: PartQuestions[Q] } }[PartQuestion];

/** The whole answer, however long it takes; `isCompared`: whether what objects look like is compared for it. */
export function answerOfPart(base: Snapshot, asked: AskedPart, isCompared: boolean): PartAnswers[PartQuestion] {
  if (asked.question === "numbers") return checkQuestions.numbers(base, asked.argument);
  const known = base.learned;
  const { snapshot, findings } = findIn(base, asked.argument, {
    known,
    learned: isCompared ? known : null,
    looks: null,
  });
  const pictureOf = pictures(base, asked.argument);
  return {
    findings: findings.map((finding) => described(base, snapshot, asked.argument, finding)),
    proofs: findings.map((finding) => shownProofs(snapshot, finding, 0, mostMended, pictureOf)),
  };
}

/** Questions about what is found, and about what there is in numbers. */
export const checkQuestions = {
  /** What all checks find, without all that proves it; `isWhole` where what objects look like was compared, too. */
  stocktake: (base: Snapshot, question: StocktakeQuestion): Whole => {
    const { snapshot, findings } = stocktake(base, question);
    const isStocks = !question.plan && !question.version;
    return {
      findings: findings.map((finding) => described(base, snapshot, question, finding)),
      isWhole: canCompare(base) || (isStocks && comparisonOf(base) !== null),
      wantsComparing: isStocks && wantsComparing(base),
    };
  },
  /**
   * The same without waiting long, for numbers: `isWhole` where what objects look like was looked at, too, for all to be
   * counted.
   */
  latestStocktake: (base: Snapshot, question: StocktakeQuestion): Latest => {
    const whole = takenOf.get(base)?.whole;
    const isWhole = whole !== undefined && base.objectClass.length > mostCountedObjects;
    const { snapshot, findings } = isWhole ? whole : stocktake(base, question, "withoutLooks");
    return { findings: findings.map((finding) => described(base, snapshot, question, finding)), isWhole };
  },
  /** The images that prove a finding, from one on; null where it is not found any more. */
  proofs: (
    base: Snapshot,
    { key, start, limit, ...question }: StocktakeQuestion & { key: string; start: number; limit: number },
  ): { finding: ShownFinding; proofs: ShownProof[] } | null => {
    const { snapshot, findings } = stocktake(base, question);
    const finding = findings.find((one) => one.key === key);
    if (!finding) return null;
    const pictureOf = pictures(base, question);
    return {
      finding: described(base, snapshot, question, finding),
      proofs: shownProofs(snapshot, finding, start, limit, pictureOf),
    };
  },
  /** The gates of a plan on what it leaves of the stock; `isWhole` where none had to be left out. */
  gates: (base: Snapshot, question: StocktakeQuestion): { results: GateResult[]; isWhole: boolean } => {
    const gates = question.plan?.plan.gates ?? {};
    const isLooked = canCompare(base);
    const checks = gatedChecks(gates).filter((check) => isLooked || !looksChecks.includes(check));
    const stock = { ...checkedPart(base, question), learned: isLooked ? base.learned : null };
    const findings = takeStock(stock, question.thresholds, exemptSlots(base, question.exempt), checks);
    const results = gateResults(gates, findings);
    return { results: results.filter(({ code }) => checks.some((check) => check.code === code)), isWhole: isLooked };
  },
  /** What there is, in numbers. */
  numbers: (base: Snapshot, { longEdge, ...part }: PartNumbersQuestion): StockNumbers =>
    stockNumbers(checkedPart(base, part), longEdge),
};

const pictures = (base: Snapshot, { version }: CheckedPart) =>
  version ? versionStock(base, version).pictureOf : undefined;

const described = (base: Snapshot, snapshot: Snapshot, part: CheckedPart, finding: StockFinding): ShownFinding =>
  describeFinding(snapshot, part.version ? { ...finding, mends: [] } : finding, pictures(base, part));
