/** What keeps a claim alive while a job runs. */
import { db } from "../db/database";
import { jobs } from "../db/schema";
import { claimed, lease } from "./claim";
import { announce } from "./events";
import { Lost, Paused, Stopped } from "./job-ends";
import type { Job } from "./queue";

const renewMilliseconds = 3000;
const reportMilliseconds = 400;
const jobUpdate = () => db().update(jobs);

/** Watches over one claim: keeps its lease, reports, and hears of wishes. */
export class Watch {
  private stop: boolean;
  private pause: boolean;
  private lost = false;
  private reported = 0;
  private readonly renewing: NodeJS.Timeout;
  private readonly interrupting = new AbortController();

  constructor(private readonly job: Job) {
    this.stop = job.stopRequested;
    this.pause = job.pauseRequested;
    this.renewing = setInterval(
      () => void this.update({ leaseUntil: lease }).catch(() => undefined),
      renewMilliseconds,
    );
  }

  private async update(set: Parameters<ReturnType<typeof jobUpdate>["set"]>[0]): Promise<void> {
    const [row] = await jobUpdate()
      .set(set)
      .where(claimed(this.job))
      .returning({ stop: jobs.stopRequested, pause: jobs.pauseRequested });
    if (!row) this.lost = true;
    else [this.stop, this.pause] = [row.stop, row.pause];
    const ends = this.ends();
    if (ends) this.interrupting.abort(ends);
  }

  /** Interrupts what the job waits for once it has to end; its reason says how. */
  get signal(): AbortSignal {
    return this.interrupting.signal;
  }

  /** How the job has to end by now; null while it goes on. */
  private ends(): Lost | Stopped | Paused | null {
    if (this.lost) return new Lost();
    if (this.stop) return new Stopped();
    return this.pause ? new Paused() : null;
  }

  async progress(done: number, total: number, message?: string): Promise<void> {
    const now = Date.now();
    if (now - this.reported >= reportMilliseconds || done === total) {
      this.reported = now;
      await this.update({ done, total, ...(message !== undefined ? { message } : {}) });
      await announce({ collection: this.job.collectionId, topics: ["jobs"], revision: null });
    }
    const ends = this.ends();
    if (ends) throw ends;
  }

  end(): void {
    clearInterval(this.renewing);
  }
}
