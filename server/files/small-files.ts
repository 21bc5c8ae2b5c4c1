/** Writes many small files: the first at once, the rest in a thread, since the disk takes its time to make each. */
import { setImmediate } from "node:timers/promises";
import { Piscina } from "piscina";
import { programFile } from "../program-file";
import { writeFilesNow, type FilesWritten, type SmallFile } from "./write-files-now";

/** With fewer files than this no thread is started. */
const worthAThread = 500;
const batchSize = 64;
/** Batches on their way to the thread; beyond, writing waits. */
const mostUnderWay = 64;

export class SmallFiles {
  private count = 0;
  private pool: Piscina<SmallFile[], FilesWritten> | null = null;
  private threadRuns = false;
  private batch: SmallFile[] = [];
  private readonly underWay: Promise<void>[] = [];

  /**
   * Takes a file to write; one that is there already is refused. Throws what went wrong with this or an earlier one.
   */
  async write(file: string, content: string | Uint8Array): Promise<void> {
    if (++this.count === worthAThread) this.startThread();
    this.batch.push({ file, content });
    if (!this.threadRuns) heed(writeFilesNow(this.drain()));
    else if (this.batch.length >= batchSize) this.send();
    if (!this.pool || this.count % batchSize !== 0) return;
    // Whoever writes may never wait for anything else, and what the thread says has to be heard.
    await setImmediate();
    if (this.underWay.length > mostUnderWay) await this.underWay.shift();
  }

  private drain(): SmallFile[] {
    const batch = this.batch;
    this.batch = [];
    return batch;
  }

  /** Until the thread is there, files are written in this one. */
  private startThread(): void {
    this.pool = new Piscina({
      filename: programFile("write-files-thread"),
      name: "writeFilesNow",
      minThreads: 1,
      maxThreads: 1,
    });
    this.pool.run([]).then(
      () => (this.threadRuns = true),
      () => undefined,
    );
  }

  private send(): void {
    const sent = (this.pool as Piscina<SmallFile[], FilesWritten>).run(this.drain()).then(heed);
    // Heard when it is waited for; until then it must not count as unheard.
    sent.catch(() => undefined);
    this.underWay.push(sent);
  }

  /** Resolves when every file is written; throws what went wrong with one. The thread ends either way. */
  async finish(): Promise<void> {
    try {
      if (this.batch.length > 0) this.send();
      await Promise.all(this.underWay.splice(0));
    } finally {
      this.threadRuns = false;
      await this.pool?.destroy();
      this.pool = null;
    }
  }
}

/** An error loses its code on the way out of a thread, so it is made anew here. */
function heed({ code, message }: FilesWritten): void {
  if (message !== undefined) throw Object.assign(new Error(message), { code });
}
