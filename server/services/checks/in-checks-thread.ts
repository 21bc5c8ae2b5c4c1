import { Piscina } from "piscina";
import { interruption } from "../../interruption";
import { programFile } from "../../program-file";
import type { answerPart, compareCollection } from "./checks-thread";

type Tasks = { compareCollection: typeof compareCollection; answerPart: typeof answerPart };

/**
 * Runs a task of checks-thread.ts in a thread of its own: it looks up for nothing, and the worker has to keep its lease.
 * A job that is stopped ends it.
 */
export async function inChecksThread<T extends keyof Tasks>(
  task: T,
  argument: Parameters<Tasks[T]>[0],
): Promise<Awaited<ReturnType<Tasks[T]>>> {
  const threads = new Piscina<typeof argument, Awaited<ReturnType<Tasks[T]>>>({
    filename: programFile("checks-thread"),
    name: task,
    maxThreads: 1,
    atomics: "disabled",
  });
  try {
    const signal = interruption();
    return await threads.run(argument, signal ? { signal } : {});
  } finally {
    await threads.destroy();
  }
}
