/** What a kind of job is to the worker that runs it. */
import type { transaction, Transaction } from "../db/database";
import type { Job } from "./queue";

export type JobContext = {
  job: Job;
  /** Says how far the work is; throws Stopped where somebody asked to stop. Not to be called within `write`. */
  progress: (done: number, total: number, message?: string) => Promise<void>;
  /**
   * The one way a job writes: a transaction that is committed only while this claim of the job is the latest. A worker
   * that stalls and wakes up after another has taken over writes nothing.
   */
  write: <T>(
    work: (tx: Transaction, client: Parameters<Parameters<typeof transaction>[0]>[1]) => Promise<T>,
  ) => Promise<T>;
};

export type JobHandler = {
  run: (context: JobContext) => Promise<void>;
  /** Puts the job's subject back where it was; `stopped` tells a wish from a failure. */
  abandon: (context: Pick<JobContext, "job" | "write">, sentence: string, stopped: boolean) => Promise<void>;
  /**
   * Clears away what nobody waits for, once the job is done. A worker may be lost before: what is left then is cleared
   * after the next job of its kind.
   */
  afterwards?: () => Promise<void>;
};
