import { Failure } from "@larder/core/model/failure";
import { sql } from "drizzle-orm";
import { Piscina } from "piscina";
import { db } from "../../db/database";
import { numberOf } from "../../db/query";
import { programFile } from "../../program-file";
import { ask } from "../../snapshot/ask";
import type { PlanQuestion } from "../../snapshot/questions";
import { classInfos } from "../building/labeled-images";
import type { RunReply, RunRequest, RunTasks } from "./counting-thread";

const shared = globalThis as { larderCounting?: Piscina<RunRequest, RunReply<unknown>> | undefined };

function start(): Piscina<RunRequest, RunReply<unknown>> {
  return new Piscina<RunRequest, RunReply<unknown>>({
    // A file of the sources, not of the pages' bundle.
    filename: programFile("counting-thread"),
    minThreads: 0,
    maxThreads: 1,
    concurrentTasksPerWorker: 8,
    idleTimeout: 60_000,
    atomics: "disabled",
  });
}

/**
 * Runs a task of counting-thread.ts on a plan as a collection stands now, in a thread of its own. Where `signal` says that
 * nobody waits any more it is given up.
 */
export async function inCountingThread<T extends keyof RunTasks>(
  task: T,
  collection: number,
  question: PlanQuestion,
  signal?: AbortSignal,
): Promise<RunTasks[T]> {
  const givenUp = new SharedArrayBuffer(4);
  signal?.addEventListener("abort", () => Atomics.store(new Int32Array(givenUp), 0, 1), { once: true });
  const [{ labeled: _, ...flow }, classes, revision] = await Promise.all([
    ask("planned", collection, question),
    classInfos(db(), collection),
    numberOf(db(), sql`select revision as n from collections where id = ${collection}`),
  ]);
  const run = { plan: question.plan, flow, classes };
  const request = { collection, revision, run, givenUp };
  const reply = await (shared.larderCounting ??= start()).run(request, { name: task });
  if ("answer" in reply) return reply.answer as RunTasks[T];
  throw new Failure(reply.failure.code, reply.failure.message);
}
