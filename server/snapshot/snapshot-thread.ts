/** The thread that keeps snapshots: answers questions about collections, each at the newest revision. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { keptBytes } from "@larder/core/snapshot/kept-bytes";
import type { Learned } from "@larder/core/snapshot/learned";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { SelectionError } from "@larder/core/selection/selection-error";
import { workerData } from "node:worker_threads";
import { numberOf } from "../db/query";
import { db, steadyRead } from "../db/database";
import { sql } from "drizzle-orm";
import { onEvent } from "../jobs/events";
import { buildSnapshot, catchUp } from "./load";
import { loadComparison } from "./load-comparison";
import { keptFeatureBytes } from "./kept-features";
import { expectedBytes, isReading, loadLearned, readKept, readLearned } from "./load-learned";
import { isAboutFindings, isAskedLooking, looksAtLearned, questions, versionAsked, type Question } from "./questions";
import { loadVersion } from "./version-stock";

export type Request = { collection: number; question: Question; argument: unknown };
export type Reply =
  | { answer: unknown }
  | {
      failure: { code: string; message: string; status: number; details: Record<string, unknown> | undefined } | null;
      problem: string;
    };

const { mostBytes } = workerData as { mostBytes: number };

/** Snapshots by collection, the one that was asked last at the end. */
const kept = new Map<number, Snapshot>();
/** One collection's questions are answered one after the other, so that it is brought up to date once. */
const turns = new Map<number, Promise<unknown>>();

const allKeptBytes = () => [...kept.values()].reduce((sum, one) => sum + keptBytes(one), 0);

function keep(collection: number, snapshot: Snapshot): void {
  kept.delete(collection);
  kept.set(collection, snapshot);
  let total = allKeptBytes();
  for (const [oldest, one] of kept) {
    if (total <= mostBytes || oldest === collection) break;
    kept.delete(oldest);
    total -= keptBytes(one);
  }
}

/** The snapshot of a collection as it is now. */
async function current(collection: number): Promise<Snapshot> {
  const known = kept.get(collection);
  if (known) {
    const revision = await numberOf(db(), sql`select revision as n from collections where id = ${collection}`);
    if (revision === known.revision) return known;
    if (await steadyRead((_, client) => catchUp(client, collection, known))) return known;
    kept.delete(collection);
  }
  const [fresh, learned] = await Promise.all([
    steadyRead((_, client) => buildSnapshot(client, collection)),
    known?.learned ?? readWhatFits(collection),
  ]);
  fresh.learned = learned;
  // Laid beside the objects now: whoever asks what stands out is not to wait for that, either.
  learned?.objectFeatures(fresh);
  return fresh;
}

/** What an earlier process kept of a collection's features, where there is room for it. */
async function readWhatFits(collection: number): Promise<Learned | null> {
  if (allKeptBytes() + (await keptFeatureBytes(collection)) > mostBytes) return null;
  // Where something is wrong with it, it is read from the database once somebody looks.
  return readKept(collection).catch(() => null);
}

/** When the features of collections were looked for ahead last. */
const looked = new Map<number, number>();
/** Features are looked for ahead again after so many milliseconds: more may have been learned. */
const lookAgainAfter = 5000;

/**
 * Has the features of a stock that somebody looks at read for when they ask what stands out in it, where they fit: of a
 * million objects that takes a second, which nobody is to wait for.
 */
function lookAhead(collection: number, snapshot: Snapshot): void {
  if (performance.now() - (looked.get(collection) ?? -lookAgainAfter) >= lookAgainAfter)
    readAhead(collection, snapshot);
}

function readAhead(collection: number, snapshot: Snapshot): void {
  if (isReading(collection)) return;
  if (!snapshot.learned && allKeptBytes() + expectedBytes(snapshot) > mostBytes) return;
  looked.set(collection, performance.now());
  readLearned(collection, snapshot).then(
    ({ learned, rows }) => {
      const now = kept.get(collection);
      if (!now || rows === 0) return;
      now.learned ??= learned;
      // Laid beside the objects now, not when somebody waits for it.
      now.learned.objectFeatures(now);
    },
    // What was read in part is not to be trusted. Whoever asks has all of it read again, and is told what is wrong.
    () => kept.delete(collection),
  );
}

const aboutToRead = new Set<number>();

/** Of a stock that somebody looked at, what is learned while nobody does is read soon after, all that came till then. */
function readSoon(collection: number): void {
  if (!looked.has(collection) || aboutToRead.has(collection)) return;
  aboutToRead.add(collection);
  setTimeout(() => {
    aboutToRead.delete(collection);
    const snapshot = kept.get(collection);
    if (!snapshot) return;
    if (isReading(collection)) readSoon(collection);
    else readAhead(collection, snapshot);
  }, lookAgainAfter).unref();
}

onEvent(({ collection, topics }) => {
  if (collection !== null && topics.includes("features")) readSoon(collection);
});

async function reply({ collection, question, argument }: Request): Promise<Reply> {
  try {
    const snapshot = await current(collection);
    if (looksAtLearned(question, argument)) {
      snapshot.learned = (await readLearned(collection, snapshot)).learned;
      if (isAboutFindings(question))
        await steadyRead(async (_, client) => {
          snapshot.learned = await loadLearned(client, collection, snapshot.learned);
          await loadComparison(client, collection, snapshot);
        });
    }
    const version = versionAsked(question, argument);
    if (version !== null) await loadVersion(snapshot, version);
    keep(collection, snapshot);
    if (isAskedLooking(question)) lookAhead(collection, snapshot);
    return { answer: (questions[question] as (snapshot: Snapshot, argument: unknown) => unknown)(snapshot, argument) };
  } catch (error) {
    // A snapshot that was being brought up to date when something went wrong is not to be trusted; a question that cannot
    // be answered harms none.
    if (!(error instanceof SelectionError)) kept.delete(collection);
    const failure =
      error instanceof Failure ? { ...sentenceFor(error), status: error.status, details: error.details } : null;
    return { failure, problem: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
}

/**
 * Answers one question; errors are told, not thrown, since they lose their kind on the way out of a thread.
 * @public The pool calls it by its name.
 */
export function answer(request: Request): Promise<Reply> {
  const before = turns.get(request.collection) ?? Promise.resolve();
  const turn = before.then(() => reply(request));
  turns.set(request.collection, turn);
  void turn.finally(() => turns.get(request.collection) === turn && turns.delete(request.collection));
  return turn;
}
