type Answer = { id: number; hashes: string[] };

/** Hashes files in a worker; one worker a sending, ended by `close`. */
export class Hashing {
  private readonly worker = new Worker(new URL("./hash-worker.ts", import.meta.url), { type: "module" });
  private next = 0;
  private readonly waiting = new Map<number, { done: (hashes: string[]) => void; failed: (error: Error) => void }>();

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<Answer>) => {
      this.waiting.get(data.id)?.done(data.hashes);
      this.waiting.delete(data.id);
    };
    this.worker.onerror = () => {
      for (const { failed } of this.waiting.values()) failed(new Error("hashing failed"));
      this.waiting.clear();
    };
  }

  /** SHA-256 in hexadecimal of each file, "" where it cannot be read. */
  hash(files: File[]): Promise<string[]> {
    const id = this.next++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed });
      this.worker.postMessage({ id, files });
    });
  }

  close(): void {
    this.worker.terminate();
  }
}
