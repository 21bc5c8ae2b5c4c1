/** Asks the thread that keeps snapshots, which is started with the first question and started again where it falls. */
import { Failure } from "@larder/core/model/failure";
import { Piscina } from "piscina";
import { programFile } from "../program-file";
import { settings } from "../settings";
import type { Answer, Argument, Question } from "./questions";
import type { Reply, Request } from "./snapshot-thread";

const shared = globalThis as { larderSnapshots?: Piscina<Request, Reply> | undefined };

function start(): Piscina<Request, Reply> {
  const { snapshotBytes } = settings();
  return new Piscina<Request, Reply>({
    filename: programFile("snapshot-thread"),
    name: "answer",
    workerData: { mostBytes: snapshotBytes },
    // One thread: what it keeps is kept once. While it waits for the database it takes further questions.
    minThreads: 1,
    maxThreads: 1,
    concurrentTasksPerWorker: 64,
    atomics: "disabled",
  });
}

/** Asks about a collection as it is now. Throws a Failure where the collection is gone. */
export async function ask<Q extends Question>(
  question: Q,
  collection: number,
  argument: Argument<Q>,
): Promise<Answer<Q>> {
  const reply = await (shared.larderSnapshots ??= start()).run({ collection, question, argument });
  if ("answer" in reply) return reply.answer as Answer<Q>;
  const { failure, problem } = reply;
  throw failure ? new Failure(failure.code, failure.message, failure.status, failure.details) : new Error(problem);
}

/** Ends the thread, for tests and for commands that are done. */
export async function closeSnapshots(): Promise<void> {
  const threads = shared.larderSnapshots;
  shared.larderSnapshots = undefined;
  await threads?.destroy();
}
