/** Counts a plan's last steps where labels must be moved for that, in a thread of its own. */
import { Failure } from "@larder/core/model/failure";
import type { OutputCounts } from "@larder/core/plans/count-outputs";
import { sql } from "drizzle-orm";
import { Piscina } from "piscina";
import { db } from "../../db/database";
import { numberOf } from "../../db/query";
import { programFile } from "../../program-file";
import { ask } from "../../snapshot/ask";
import type { PlanQuestion } from "../../snapshot/questions";
import { classInfos } from "../building/labeled-images";
import type { CountReply, CountRequest } from "./counting-thread";

const shared = globalThis as { larderCounting?: Piscina<CountRequest, CountReply> | undefined };

function start(): Piscina<CountRequest, CountReply> {
  return new Piscina<CountRequest, CountReply>({
    // A file of the sources, not of the pages' bundle.
    filename: programFile("counting-thread"),
    name: "countRequest",
    minThreads: 0,
    maxThreads: 1,
    concurrentTasksPerWorker: 8,
    idleTimeout: 60_000,
    atomics: "disabled",
  });
}

/** The steps prepare, augment and pack. Where `signal` says that nobody waits any more, counting is given up. */
export async function countMoved(
  collection: number,
  question: PlanQuestion,
  signal?: AbortSignal,
): Promise<OutputCounts> {
  const givenUp = new SharedArrayBuffer(4);
  signal?.addEventListener("abort", () => Atomics.store(new Int32Array(givenUp), 0, 1), { once: true });
  const [{ labeled: _, ...flow }, classes, revision] = await Promise.all([
    ask("planned", collection, question),
    classInfos(db(), collection),
    numberOf(db(), sql`select revision as n from collections where id = ${collection}`),
  ]);
  const run = { plan: question.plan, flow, classes };
  const reply = await (shared.larderCounting ??= start()).run({ collection, revision, run, givenUp });
  if ("counts" in reply) return reply.counts;
  throw new Failure(reply.failure.code, reply.failure.message);
}
