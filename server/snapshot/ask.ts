/** Asks the thread that keeps snapshots, which is started with the first question and started again where it falls. */
import { Failure } from "@larder/core/model/failure";
import path from "node:path";
import { Worker } from "node:worker_threads";
import { settings } from "../settings";
import type { Answer, Argument, Question } from "./questions";
import type { Reply, Request } from "./snapshot-thread";

type Waiting = { resolve: (answer: unknown) => void; reject: (error: Error) => void };
type Thread = { worker: Worker; waiting: Map<number, Waiting> };

const shared = globalThis as { larderSnapshots?: Thread | undefined };
let asked = 0;

function settle(waiting: Map<number, Waiting>, reply: Reply): void {
  const one = waiting.get(reply.id);
  waiting.delete(reply.id);
  if (!one) return;
  if ("answer" in reply) one.resolve(reply.answer);
  else if (reply.failure) one.reject(new Failure(reply.failure.code, reply.failure.message, reply.failure.status));
  else one.reject(new Error(reply.problem));
}

function start(): Thread {
  const { root, snapshotBytes } = settings();
  // A file of the sources, not of the pages' bundle.
  const worker = new Worker(path.join(root, "server", "snapshot", "start-thread.mjs"), {
    workerData: { mostBytes: snapshotBytes },
  });
  const thread: Thread = { worker, waiting: new Map() };
  worker.on("message", (reply: Reply) => settle(thread.waiting, reply));
  const fall = (error: Error) => {
    if (shared.larderSnapshots === thread) shared.larderSnapshots = undefined;
    for (const { reject } of thread.waiting.values()) reject(error);
    thread.waiting.clear();
  };
  worker.on("error", fall);
  worker.on("exit", () => fall(new Error("the thread of snapshots has ended")));
  worker.unref();
  return thread;
}

/** Asks about a collection as it is now. Throws a Failure where the collection is gone. */
export function ask<Q extends Question>(question: Q, collection: number, argument: Argument<Q>): Promise<Answer<Q>> {
  const { worker, waiting } = (shared.larderSnapshots ??= start());
  const id = ++asked;
  return new Promise((resolve, reject) => {
    worker.ref();
    const done = () => waiting.size === 0 && worker.unref();
    waiting.set(id, {
      resolve: (answer) => (done(), resolve(answer as Answer<Q>)),
      reject: (error) => (done(), reject(error)),
    });
    worker.postMessage({ id, collection, question, argument } satisfies Request);
  });
}

/** Ends the thread, for tests and for commands that are done. */
export async function closeSnapshots(): Promise<void> {
  const thread = shared.larderSnapshots;
  shared.larderSnapshots = undefined;
  await thread?.worker.terminate();
}
