import { interruption } from "../../interruption";
import { inOwnThread } from "../../own-thread";
import type { answerPart, compareCollection } from "./checks-thread";

type Tasks = { compareCollection: typeof compareCollection; answerPart: typeof answerPart };

/**
 * Runs a task of checks-thread.ts in a thread of its own: it looks up for nothing, and the worker has to keep its lease.
 * A job that is stopped ends it.
 */
export const inChecksThread = <T extends keyof Tasks>(
  task: T,
  argument: Parameters<Tasks[T]>[0],
): Promise<Awaited<ReturnType<Tasks[T]>>> => inOwnThread("checks-thread", task, argument, interruption());
