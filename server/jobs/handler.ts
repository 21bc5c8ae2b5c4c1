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

/** What a job writes last, in the transaction that ends it. */
export type Ending = (tx: Transaction) => Promise<unknown>;

export type JobHandler = {
  /**
   * Does the work, and returns what is to be written as the job ends. Whoever sees that and asks for the same work once
   * more never meets a job that is about to end, in which the wish would be lost.
   */
  run: (context: JobContext) => Promise<Ending | void>;
  /** Takes back step by step what `run` did, where one transaction could not; goes on where a lost worker left it. */
  takeBack?: (context: Pick<JobContext, "job" | "write">, sentence: string, stopped: boolean) => Promise<void>;
  /**
   * Puts the job's subject back where it was, in the transaction that ends the job as stopped or failed; `stopped` tells
   * a wish from a failure. Returns false where it cannot be yet: it is asked again.
   */
  putBack?: (tx: Transaction, job: Job, sentence: string, stopped: boolean) => Promise<boolean | void>;
  /**
   * Clears away what nobody waits for, once the job is done. A worker may be lost before: what is left then is cleared
   * after the next job of its kind.
   */
  afterwards?: () => Promise<void>;
};
