/** The job that works out what is found or counted in a plan's outcome or a version of a large stock. */
import { eq } from "drizzle-orm";
import { promisify } from "node:util";
import { deflateRaw } from "node:zlib";
import { db } from "../../db/database";
import { partAnswers } from "../../db/schema";
import { announce } from "../../jobs/events";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import { isLearned } from "../learning/compare-looks";
import { inChecksThread } from "./in-checks-thread";
import { answerKey } from "./part-answers";
import { partOf, questionOf } from "./scope";

const deflated = promisify(deflateRaw);

async function answerPart({ job, progress }: JobContext): Promise<Ending | void> {
  const [row] = await db().select().from(partAnswers).where(eq(partAnswers.id, job.subject));
  if (!row) return;
  await progress(0, 1);
  const { collectionId: collection, question, scope } = row;
  const asked =
    question === "stocktake"
      ? { question, argument: (await questionOf(collection, scope)).question }
      : { question, argument: { ...(await partOf(collection, scope)), longEdge: scope.longEdge as number } };
  // Before everything is learned it is answered without what objects look like, and again after it.
  const isCompared = await isLearned(collection);
  const { answer, revision, learned } = await inChecksThread("answerPart", { collection, ...asked, isCompared });
  const key = answerKey(question, asked.argument, { revision, learned: isCompared ? learned : null });
  const kept = { key, answer: await deflated(JSON.stringify(answer)) };
  return async (tx) => {
    await tx.update(partAnswers).set(kept).where(eq(partAnswers.id, row.id));
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  };
}

export const answerPartHandler: JobHandler = { run: answerPart };
