/**
 * What is found or counted in a plan's outcome or a version of a large stock: a job works it out, and it is kept for as
 * long as what it goes by stays as it is.
 */
import type { ShownFinding, ShownProof } from "@larder/core/checks/shown-finding";
import { sha256OfText } from "@larder/core/model/sha256";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { and, eq, sql } from "drizzle-orm";
import { promisify } from "node:util";
import { inflateRaw } from "node:zlib";
import { db, transaction } from "../../db/database";
import { exists, numberOf } from "../../db/query";
import { collections, partAnswers, plans, type PartScope } from "../../db/schema";
import { addJob } from "../../jobs/queue";
import { settings } from "../../settings";
import { ask } from "../../snapshot/ask";
import type { PartAnswers, PartQuestion, PartQuestions, PartStocktake } from "../../snapshot/checked-part";
import { larderActor } from "../actor";
import { isLearned } from "../learning/compare-looks";
import { isMadeOfStock, questionOf, type Scope } from "./scope";

/**
 * What a collection was when a question was answered: its labels' revision, and the last of its features; null where not
 * all was learned.
 */
export type AnsweredState = { revision: number; learned: number | null };

/** Stands for all that an answer goes by. What is in a version stays as it was frozen, whatever becomes of the stock. */
export function answerKey<Q extends PartQuestion>(
  question: Q,
  argument: PartQuestions[Q],
  { revision, learned }: AnsweredState,
): string {
  const { plan, version, ...rest } = argument;
  const { exempt: _, ...settled } = "exempt" in rest ? rest : { ...rest, exempt: [] };
  const of = version
    ? { version, ...settled, isLearned: learned !== null }
    : { ...rest, revision, learned, plan: plan && { plan: plan.plan, like: plan.like && [...plan.like] } };
  return sha256OfText(canonicalJson({ question, of }));
}

async function stateOf(collection: number): Promise<AnsweredState> {
  const [revision, last, isWhole] = await Promise.all([
    numberOf(db(), sql`select revision as n from ${collections} where ${collections.id} = ${collection}`),
    numberOf(db(), sql`select coalesce(max(made), 0) as n from image_features where collection_id = ${collection}`),
    isLearned(collection),
  ]);
  return { revision, learned: isWhole ? last : null };
}

const inflated = promisify(inflateRaw);

/**
 * `isCurrent`: false where it was worked out of what has changed since; `isWhole`: false where it is not learned yet what
 * everything looks like; `answer`: null where there is none yet.
 */
export type PartAnswer<Q extends PartQuestion> = {
  answer: PartAnswers[Q] | null;
  isCurrent: boolean;
  isWhole: boolean;
};

/** The answer that is kept. Where it is not of what is there now, a job that works it out is put up. */
export async function partAnswer<Q extends PartQuestion>(
  collection: number,
  question: Q,
  argument: PartQuestions[Q],
  scope: PartScope,
): Promise<PartAnswer<Q>> {
  const asked = sha256OfText(canonicalJson({ question, scope }));
  const [row] = await db()
    .select({ key: partAnswers.key, answer: partAnswers.answer })
    .from(partAnswers)
    .where(and(eq(partAnswers.collectionId, collection), eq(partAnswers.asked, asked)));
  const state = await stateOf(collection);
  const isCurrent = row?.key === answerKey(question, argument, state);
  if (!isCurrent) await addAnswering(collection, question, scope, asked);
  const answer = row?.answer ? (JSON.parse((await inflated(row.answer)).toString()) as PartAnswers[Q]) : null;
  return { answer, isCurrent, isWhole: state.learned !== null };
}

/** As many answers are kept of a collection. */
const mostKept = 20;

async function addAnswering(collection: number, question: PartQuestion, scope: PartScope, asked: string) {
  const title = await titleOf(scope);
  await transaction(async (tx) => {
    const [row] = await tx
      .insert(partAnswers)
      .values({ collectionId: collection, question, scope, asked })
      .onConflictDoUpdate({ target: [partAnswers.collectionId, partAnswers.asked], set: { askedAt: sql`now()` } })
      .returning({ id: partAnswers.id });
    await tx.execute(sql`delete from part_answers where id in (
      select id from part_answers where collection_id = ${collection} order by asked_at desc offset ${mostKept})`);
    const subject = row?.id as number;
    await addJob(larderActor, { kind: "answer-part", subject, collectionId: collection, title }, tx);
  });
}

async function titleOf({ plan, version }: PartScope): Promise<string> {
  if (version !== undefined) return `Taking stock of v${version}`;
  const [row] = plan === undefined ? [] : await db().select({ name: plans.name }).from(plans).where(eq(plans.id, plan));
  return `Taking stock of what ${row?.name ?? "a plan"} leaves`;
}

/** Whether there is so much in a collection that looking through it for the first time may take a while. */
export const isLarge = (collection: number): Promise<boolean> =>
  exists(
    db(),
    sql`select 1 from collections where id = ${collection} and images + objects > ${settings().comparedAtOnce}`,
  );

/** Whether a scope of this collection takes so long to look at that a job does it. */
export const needsJob = async (collection: number, scope: Scope): Promise<boolean> =>
  isMadeOfStock(scope) && (await isLarge(collection));

/** A finding and images that prove it, from one on; null where it is not found any more. */
export async function proofsIn(
  collection: number,
  scope: Scope,
  { key, start, limit }: { key: string; start: number; limit: number },
): Promise<{ finding: ShownFinding; proofs: ShownProof[] } | null> {
  const { question } = await questionOf(collection, scope);
  if (await needsJob(collection, scope))
    return provedIn((await partAnswer(collection, "stocktake", question, scope)).answer, key, start, limit);
  return ask("proofs", collection, { ...question, key, start, limit });
}

function provedIn(taken: PartStocktake | null, key: string, start: number, limit: number) {
  const at = taken?.findings.findIndex((one) => one.key === key) ?? -1;
  const finding = taken?.findings[at];
  return finding ? { finding, proofs: taken?.proofs[at]?.slice(start, start + limit) ?? [] } : null;
}
