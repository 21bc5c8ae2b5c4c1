/** The stocktake of a collection: what its stock shows, what its deliveries found, what people have settled of it. */
import { allChecks, looksChecks, type Thresholds } from "@larder/core/checks/stocktake";
import type { StockNumbers } from "@larder/core/checks/numbers";
import type { ShownFinding, ShownProof } from "@larder/core/checks/shown-finding";
import type { LabelRequest } from "@larder/core/labels/request";
import { Failure } from "@larder/core/model/failure";
import { Findings, worstFirst, type Severity } from "@larder/core/model/finding";
import { selectionSchema } from "@larder/core/selection/chosen";
import { selecting } from "@larder/core/selection/dimensions";
import { longestText } from "@larder/core/selection/tokens";
import { and, desc, eq, inArray } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { checkDismissals, checkThresholds, collections, deliveries, objects, stocktakes } from "../db/schema";
import { announce } from "../jobs/events";
import { ask } from "../snapshot/ask";
import type { StocktakeQuestion } from "../snapshot/questions";
import type { Actor } from "./actor";
import { act, type ActOutcome } from "./acts";
import { allow } from "./access";

export type CheckEntry = {
  /** Stands for it from one stocktake to the next. */
  key: string;
  severity: Severity;
  code: string;
  sentence: string;
  examples: string[];
  count: number;
  /** Which deliveries said it; none for what the stock as a whole shows. */
  deliveries: { id: number; name: string }[];
  /** The selection that shows it; null where none does. */
  where: string | null;
  /** How many images prove it, and the first of them; none for what deliveries said. */
  images: number;
  proofs: ShownProof[];
  /** What mends it, each by its place in this list. */
  mends: { label: string; images: number }[];
  /** What the check goes by; null where it has no threshold. */
  threshold: number | null;
  mark: string;
};

export type Dismissal = {
  id: number;
  key: string;
  /** The image it is about; null for the whole finding. */
  image: number | null;
  reason: string;
  actor: string;
  at: Date;
};

export type Stocktake = { findings: CheckEntry[]; dismissed: Dismissal[] };

/** Findings about files that never became stock. */
const notInStock = new Set([
  "image-unreadable",
  "image-missing",
  "annotation-unreadable",
  "entry-unsafe",
  "file-not-taken",
  "address-failed",
  "classes-missing",
  "format-ambiguous",
]);

/** Findings that the stock says itself, as it is now. */
const shownByStock = new Set([
  ...allChecks.map(({ code }) => code),
  ...["class-similar", "image-unlabeled", "near-copy", "object-duplicate"],
]);

/** Findings that the images still show themselves. */
const shownByImages: Record<string, string> = {
  "image-empty": "state = empty",
};

/** As much of what people settled as the checks need to know. */
async function settled(collection: number, where: string) {
  const [thresholds, dismissals] = await Promise.all([
    db().select().from(checkThresholds).where(eq(checkThresholds.collectionId, collection)),
    db()
      .select()
      .from(checkDismissals)
      .where(eq(checkDismissals.collectionId, collection))
      .orderBy(desc(checkDismissals.id)),
  ]);
  const set: Thresholds = Object.fromEntries(thresholds.map(({ code, value }) => [code, value]));
  const exempt = dismissals.flatMap(({ key, imageId, mark }) =>
    imageId === null ? [] : [{ code: key, image: imageId, changed: Number(mark) }],
  );
  const selection = where.trim() === "" ? null : selectionSchema.parse({ where });
  const question: StocktakeQuestion = { thresholds: set, exempt, selection };
  return { question, dismissals };
}

const asEntry = ({ mends, ...finding }: ShownFinding): CheckEntry => ({
  ...finding,
  ...{
    examples: [],
    deliveries: [],
    mends: mends.map(({ label, only }) => ({ label, images: only?.length ?? finding.images })),
  },
});

/** The part of the stock that is looked at: a text of the selection language; an empty one for all of it. */
export const scopeSchema = z.object({ where: z.string().max(longestText).default("") });

/**
 * What is worth a look in a collection: what its stock shows, and what its deliveries found of files that are no stock; of
 * a part of the stock, what that shows.
 */
export async function checksOf(
  actor: Actor,
  collection: number,
  { where }: z.output<typeof scopeSchema> = { where: "" },
): Promise<Stocktake> {
  await allow(actor, "see", { collection });
  const taken = await stocktakeOf(collection, where);
  if (where.trim() === "") await keepNumbers(collection, taken.findings);
  return taken;
}

/** The sentences of all findings, worst first, for whoever has asked `allow`. */
export const checkSentences = async (collection: number): Promise<string[]> =>
  (await stocktakeOf(collection, "")).findings.map(({ sentence }) => sentence);

const looksCodes = new Set(looksChecks.map(({ code }) => code));
const isLoud = ({ severity }: { severity: Severity }) => severity !== "info";

/**
 * How many findings there are, and how many of them are more than worth knowing. What objects look like takes long: of
 * that it is what the last stocktake that was kept found.
 */
export async function checkCounts(collection: number): Promise<{ all: number; toLookAt: number }> {
  const { question, dismissals } = await settled(collection, "");
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
        return check && looksCodes.has(check.code) && !dismissed.has(key) ? [check] : [];
      });
  return {
    all: standing.length + looked.length,
    toLookAt: standing.filter(isLoud).length + looked.filter(isLoud).length,
  };
}

type DismissalRow = typeof checkDismissals.$inferSelect;

/** Findings but for those that were dismissed as a whole and are proved by the same. */
const withoutDismissed = (entries: readonly CheckEntry[], dismissals: readonly DismissalRow[]): CheckEntry[] =>
  entries.filter(
    ({ key, mark }) => !dismissals.some((one) => one.imageId === null && one.key === key && one.mark === mark),
  );

async function stocktakeOf(collection: number, where: string): Promise<Stocktake> {
  const { question, dismissals } = await settled(collection, where);
  const [found, delivered] = await Promise.all([
    ask("stocktake", collection, question),
    question.selection ? [] : deliveredFindings(collection),
  ]);
  const all = [...found.map(asEntry), ...delivered].sort(worstFirst);
  const dismissed = dismissals
    .filter(({ key, imageId, mark }) => imageId !== null || all.some((one) => one.key === key && one.mark === mark))
    .map(({ id, key, imageId: image, reason, actor, at }) => ({ id, key, image, reason, actor, at }));
  return { findings: withoutDismissed(all, dismissals), dismissed };
}

/** What deliveries found that the stock itself does not show: one sentence with the number of all. */
async function deliveredFindings(collectionId: number): Promise<CheckEntry[]> {
  const delivered = await db()
    .select({ id: deliveries.id, name: deliveries.name, findings: deliveries.findings })
    .from(deliveries)
    .where(and(eq(deliveries.collectionId, collectionId), eq(deliveries.status, "taken")))
    .orderBy(deliveries.id);
  const said = new Set(await ask("findings", collectionId, undefined));
  // What several deliveries found is one sentence with the number of all.
  const together = new Findings();
  for (const { findings } of delivered) together.merge(findings.filter(({ code }) => !shownByStock.has(code)));
  return together.list().map((finding): CheckEntry => {
    const from = delivered
      .filter(({ findings }) => findings.some(({ code }) => code === finding.code))
      .map(({ id, name }) => ({ id, name }));
    // Images that came before findings were kept beside them are shown by their deliveries.
    const shows =
      shownByImages[finding.code] ??
      (said.has(finding.code)
        ? `finding = ${finding.code}`
        : selecting({ delivery: from.map((delivery) => delivery.name) }));
    const { severity, code, sentence, examples, count } = finding;
    return {
      severity,
      code,
      sentence,
      examples,
      count,
      deliveries: from,
      where: notInStock.has(finding.code) ? null : shows,
      ...{ key: `delivered ${code}`, images: 0, proofs: [], mends: [], threshold: null, mark: String(count) },
    };
  });
}

async function lastStocktake(collection: number) {
  const [last] = await db()
    .select({ counts: stocktakes.counts, images: stocktakes.images })
    .from(stocktakes)
    .where(eq(stocktakes.collectionId, collection))
    .orderBy(desc(stocktakes.id))
    .limit(1);
  return last;
}

/** A stocktake is kept in numbers where they are other ones than the last time. */
async function keepNumbers(collection: number, findings: readonly CheckEntry[]): Promise<void> {
  const counts = Object.fromEntries(findings.map(({ key, count }) => [key, count]));
  const [last, [stock]] = await Promise.all([
    lastStocktake(collection),
    db().select({ images: collections.images }).from(collections).where(eq(collections.id, collection)),
  ]);
  const images = stock?.images ?? 0;
  const isSame =
    last?.images === images &&
    Object.keys(last.counts).length === Object.keys(counts).length &&
    Object.entries(counts).every(([key, count]) => last.counts[key] === count);
  if (isSame) return;
  await transaction(async (tx) => {
    await tx.insert(stocktakes).values({ collectionId: collection, images, counts });
    // The line of stations shows the number of the latest.
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}

export type PastStocktake = { at: Date; images: number; counts: Record<string, number> };
const mostPast = 200;

/** The latest stocktakes in numbers, oldest first. */
export async function pastStocktakes(actor: Actor, collection: number): Promise<PastStocktake[]> {
  await allow(actor, "see", { collection });
  const rows = await db()
    .select({ at: stocktakes.at, images: stocktakes.images, counts: stocktakes.counts })
    .from(stocktakes)
    .where(eq(stocktakes.collectionId, collection))
    .orderBy(desc(stocktakes.id))
    .limit(mostPast);
  return rows.reverse();
}

export const numbersSchema = z.object({
  ...scopeSchema.shape,
  /** The longer edge of an image as a trainer sees it, in pixels. */
  longEdge: z.coerce.number().int().min(16).max(16_384).default(640),
});

/** What is in a collection's stock, or in a part of it, in numbers. */
export async function numbersOf(
  actor: Actor,
  collection: number,
  { longEdge, where }: z.output<typeof numbersSchema>,
): Promise<StockNumbers> {
  await allow(actor, "see", { collection });
  const { question } = await settled(collection, where);
  return ask("numbers", collection, { longEdge, selection: question.selection });
}

const gone = () =>
  new Failure("finding-gone", "This is not found any more: it was mended, or what it goes by changed.", 404);

export const proofsSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  start: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

/** Images that prove a finding, in its order. Throws where it is not found any more. */
export async function proofsOf(
  actor: Actor,
  collection: number,
  { where, ...page }: z.output<typeof proofsSchema>,
): Promise<{ finding: CheckEntry; proofs: ShownProof[] }> {
  await allow(actor, "see", { collection });
  const { question } = await settled(collection, where);
  const answer = await ask("proofs", collection, { ...question, ...page });
  if (!answer) throw gone();
  return { finding: asEntry(answer.finding), proofs: answer.proofs };
}

export const mendSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  /** Which of its mends, by its place. */
  mend: z.number().int().min(0),
  /** What was seen to prove it; where that is not so any more, nothing is done. */
  mark: z.string(),
});

/** As many images and objects as one press mends. */
const mostMended = 10_000;

/** Does what mends a finding, as one act that is undone as one. */
export async function mendFinding(
  actor: Actor,
  collection: number,
  input: z.input<typeof mendSchema>,
): Promise<ActOutcome> {
  await allow(actor, "label", { collection });
  const { key, mend: place, mark, where } = mendSchema.parse(input);
  const { question } = await settled(collection, where);
  const answer = await ask("proofs", collection, { ...question, key, start: 0, limit: mostMended });
  if (!answer) throw gone();
  const { finding, proofs } = answer;
  if (finding.mark !== mark)
    throw new Failure("finding-changed", `By now it is: ${finding.sentence} Look at it again.`, 409);
  const mend = finding.mends[place];
  if (!mend) throw new Failure("mend-missing", "There is no such way to mend it.", 404);
  if ("request" in mend && mend.request.do === "merge") return act(actor, collection, { act: mend.request });
  const request = "request" in mend ? mend.request : await objectRequest(mend, proofs);
  const only = (mend.only ?? proofs.map(({ image }) => image)).slice(0, mostMended);
  return act(actor, collection, { only, act: request });
}

async function objectRequest(
  mend: { removes: "objects" } | { into: number },
  proofs: readonly ShownProof[],
): Promise<LabelRequest> {
  const ids = proofs.flatMap(({ objects: list }) => list.map(({ id }) => id)).slice(0, mostMended);
  const rows = await db().select({ uid: objects.uid }).from(objects).where(inArray(objects.id, ids));
  const uids = rows.map(({ uid }) => uid);
  return "into" in mend ? { do: "reclass", objects: uids, class: mend.into } : { do: "remove-objects", objects: uids };
}

const known = new Map(allChecks.map((check) => [check.code, check]));

export const thresholdSchema = z.object({ code: z.string().max(100), value: z.number().nullable() });

/** Sets what a check goes by in a collection; null is what is usual. */
export async function setThreshold(
  actor: Actor,
  collection: number,
  input: z.input<typeof thresholdSchema>,
): Promise<void> {
  await allow(actor, "label", { collection });
  const { code, value } = thresholdSchema.parse(input);
  const threshold = known.get(code)?.threshold;
  if (!threshold) throw new Failure("threshold-missing", "This check goes by no number.", 404);
  if (value !== null && (value < threshold.least || value > threshold.most))
    throw new Failure(
      "threshold-invalid",
      `This is from ${threshold.least} to ${threshold.most} ${threshold.unit}.`,
      422,
    );
  await transaction(async (tx) => {
    await tx
      .delete(checkThresholds)
      .where(and(eq(checkThresholds.collectionId, collection), eq(checkThresholds.code, code)));
    if (value !== null) await tx.insert(checkThresholds).values({ collectionId: collection, code, value });
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}

export const dismissSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  /** One of its images; null for all of it. */
  image: z.number().int().nullable().default(null),
  reason: z.string().trim().min(1, "Say why, for whoever wonders later.").max(1000),
});

/** Says of a finding, or of one image of it, that it is no fault: it is not said again until what proves it changes. */
export async function dismissFinding(
  actor: Actor,
  collection: number,
  input: z.input<typeof dismissSchema>,
): Promise<void> {
  await allow(actor, "label", { collection });
  const { key, image, reason, where } = dismissSchema.parse(input);
  const mark = image === null ? await markOf(collection, key, where) : await changedOf(collection, key, where, image);
  await transaction(async (tx) => {
    await tx.insert(checkDismissals).values({
      ...{ collectionId: collection, key: image === null ? key : codeOf(key), imageId: image },
      ...{ mark, reason, actor: actor.id },
    });
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}

const codeOf = (key: string) => key.split(" ")[0] ?? key;

async function markOf(collection: number, key: string, where: string): Promise<string> {
  const found = (await stocktakeOf(collection, where)).findings.find((one) => one.key === key);
  if (!found) throw gone();
  return found.mark;
}

async function changedOf(collection: number, key: string, where: string, image: number): Promise<string> {
  const { question } = await settled(collection, where);
  const answer = await ask("proofs", collection, { ...question, key, start: 0, limit: mostMended });
  const proof = answer?.proofs.find((one) => one.image === image);
  if (!proof) throw gone();
  return String(proof.changed);
}

/** Takes a dismissal back. */
export async function recallDismissal(actor: Actor, collection: number, id: number): Promise<void> {
  await allow(actor, "label", { collection });
  await transaction(async (tx) => {
    await tx
      .delete(checkDismissals)
      .where(and(eq(checkDismissals.id, id), eq(checkDismissals.collectionId, collection)));
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}
