/** A PDF read in a process of its own, with limits of time and memory: one page can unpack to any size. */
import { Failure } from "@larder/core/model/failure";
import { spawn, type ChildProcess } from "node:child_process";
import { readFileSync } from "node:fs";
import { interruption } from "../../interruption";
import { programFile } from "../../program-file";
import { settings } from "../../settings";
import type { PdfAnswer, PdfRequest } from "./messages";

export type PdfLimits = { seconds: number; bytes: number };
export const pdfLimits: PdfLimits = { seconds: 60, bytes: 800 * 2 ** 20 };

const watchMilliseconds = 25;
const pageBytes = 4096;

/** Resident memory of a process; 0 where it is gone. Source: proc(5), statm, second field. */
function residentBytes(pid: number): number {
  try {
    return Number(readFileSync(`/proc/${pid}/statm`, "latin1").split(" ")[1]) * pageBytes;
  } catch {
    return 0;
  }
}

/** One PDF, opened when it is first asked about, and anew after a page that had to be ended. */
export class PdfReader {
  private child: ChildProcess | null = null;
  private ready = false;
  private last: Promise<unknown> = Promise.resolve();
  private count: number | null = null;

  constructor(
    private readonly file: string,
    private readonly resolution: number,
    private readonly maxPixels: number,
    private readonly limits: PdfLimits = pdfLimits,
  ) {}

  /** Pages of the PDF. Throws a Failure where it cannot be read. */
  async pages(): Promise<number> {
    return (this.count ??= await this.inTurn(async () => (await this.opened()).pages));
  }

  /** Page `page`, from 1, as PNG. */
  async picture(page: number): Promise<Uint8Array> {
    const answer = await this.inTurn(async () => {
      await this.opened();
      return this.ask({ do: "picture", page });
    });
    return "picture" in answer ? answer.picture : new Uint8Array();
  }

  async words(page: number): Promise<Extract<PdfAnswer, { words: unknown }>["words"]> {
    const answer = await this.inTurn(async () => {
      await this.opened();
      return this.ask({ do: "words", page });
    });
    return "words" in answer ? answer.words : [];
  }

  close(): void {
    this.child?.kill("SIGKILL");
    this.child = null;
  }

  /** One request after the other: limits are of one page. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.last.then(work, work);
    this.last = turn.catch(() => undefined);
    return turn;
  }

  private async opened(): Promise<{ pages: number }> {
    // What a page left behind in memory is not counted against the next.
    if (this.child?.pid !== undefined && residentBytes(this.child.pid) > this.limits.bytes / 2) this.close();
    if (this.child && this.count !== null) return { pages: this.count };
    this.ready = false;
    const heap = `--max-old-space-size=${Math.floor(this.limits.bytes / 2 ** 20)}`;
    this.child = spawn(process.execPath, [heap, programFile("read-pdf")], {
      cwd: settings().root,
      serialization: "advanced",
      stdio: ["ignore", "ignore", "ignore", "ipc"],
    });
    const { file, resolution, maxPixels } = this;
    const answer = await this.ask({ do: "open", file, resolution, maxPixels });
    this.count = "pages" in answer ? answer.pages : 0;
    return { pages: this.count };
  }

  /** Asks the process, which is ended where it takes too long or too much, or where the job is interrupted. */
  private async ask(request: PdfRequest): Promise<PdfAnswer> {
    const { child, limits } = this;
    if (!child) throw new Error("no process reads the PDF");
    const what = request.do === "open" ? "The PDF" : "The page";
    const signal = interruption();
    const ends: (() => void)[] = [];
    try {
      return await new Promise<PdfAnswer>((resolve, reject) => {
        const end = (reason: unknown) => {
          this.close();
          reject(reason instanceof Error ? reason : new Error(String(reason)));
        };
        const refuse = (why: string) => end(new Failure("image-unreadable", `${what} ${why}; it is left out.`));
        let timer: NodeJS.Timeout | undefined;
        // How long a busy machine takes to start the process is not the PDF's doing.
        const startTimer = () => {
          const late = () => refuse(`takes longer than ${limits.seconds} s to read`);
          timer = setTimeout(late, limits.seconds * 1000);
        };
        const watch = setInterval(() => {
          if (this.ready && residentBytes(child.pid ?? 0) > limits.bytes)
            refuse(`takes more than ${Math.round(limits.bytes / 2 ** 20)} MB of memory to read`);
        }, watchMilliseconds);
        const interrupted = () => end(signal?.reason);
        const fallen = () => refuse("could not be read: its reader fell");
        const answered = (answer: PdfAnswer) => {
          if ("ready" in answer) {
            this.ready = true;
            startTimer();
          } else if ("failure" in answer) reject(new Failure(answer.failure.code, answer.failure.message));
          else resolve(answer);
        };
        ends.push(
          () => clearTimeout(timer),
          () => clearInterval(watch),
          () => signal?.removeEventListener("abort", interrupted),
          () => child.removeListener("exit", fallen),
          () => child.removeListener("message", answered),
        );
        if (signal?.aborted) return interrupted();
        signal?.addEventListener("abort", interrupted);
        child.once("exit", fallen);
        child.on("message", answered);
        if (this.ready) startTimer();
        child.send(request, (error) => error && fallen());
      });
    } finally {
      for (const end of ends) end();
    }
  }
}
