/** The thread for what checks find and takes long: what all of a collection looks like, what is in a part of a large one. */
import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { compareLooks } from "@larder/core/checks/findings/looks";
import { packLooks } from "@larder/core/checks/looks";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { steadyRead } from "../../db/database";
import { answerOfPart, type PartAnswers, type PartQuestion, type PartQuestions } from "../../snapshot/checked-part";
import { buildSnapshot } from "../../snapshot/load";
import { loadLearned } from "../../snapshot/load-learned";
import { presentSlots } from "@larder/core/snapshot/present-slots";
import { loadVersion } from "../../snapshot/version-stock";

/** A collection in one state of it, with what it looks like. */
const snapshotOf = (collection: number): Promise<Snapshot> =>
  steadyRead(async (_, client) => {
    const built = await buildSnapshot(client, collection);
    built.learned = await loadLearned(client, collection, null);
    return built;
  });

/** `changed`: when labels had last changed, in epoch milliseconds. */
export type Comparison = { changed: number; learned: number; found: Uint8Array };

/**
 * Compares all of a collection.
 * @public The job calls it by its name.
 */
export async function compareCollection(collection: number): Promise<Comparison> {
  const snapshot = await snapshotOf(collection);
  const slots = presentSlots(snapshot);
  const looks = compareLooks(checkedStockOf(snapshot, slots, snapshot.learned));
  const changed = slots.reduce((latest, slot) => Math.max(latest, snapshot.changed.at(slot)), 0);
  return { changed, learned: snapshot.learned?.upTo ?? 0, found: packLooks(snapshot, looks) };
}

/** A question about a part of a collection, and at which state of it that was answered. */
type AskedPart = { [Q in PartQuestion]: { question: Q; argument: PartQuestions[Q] } }[PartQuestion] & {
  collection: number;
  isCompared: boolean;
};
export type AnsweredPart = { revision: number; learned: number; answer: PartAnswers[PartQuestion] };

/**
 * Answers a question about a part of a collection.
 * @public The job calls it by its name.
 */
export async function answerPart(asked: AskedPart): Promise<AnsweredPart> {
  const snapshot = await snapshotOf(asked.collection);
  const { version } = asked.argument;
  if (version !== null) await loadVersion(snapshot, version);
  const { revision, learned } = snapshot;
  return { revision, learned: learned?.upTo ?? 0, answer: answerOfPart(snapshot, asked, asked.isCompared) };
}
