/** Sends files for one delivery: spares what is in stock, goes on where it was cut off, can be paused and given up. */
import { isImagePath } from "@larder/core/model/file-tree";
import * as tus from "tus-js-client";
import { api, ApiError } from "@/features/live/api";
import { batchesOf, goesAlone, sourceOf, type Outgoing } from "./batches";
import { begunDelivery, fingerprintOf, forgetBegun, rememberBegun } from "./begun";
import { Hashing } from "./hashing";

export type SendingState = {
  id: number;
  collection: number;
  delivery: number | null;
  name: string;
  files: number;
  sentFiles: number;
  spared: number;
  total: number;
  sent: number;
  /** Bytes a second over the last few seconds. */
  speed: number;
  step: "beginning" | "comparing" | "sending" | "done";
  paused: boolean;
  /** The connection broke; it is tried again by itself. */
  waiting: boolean;
  error: string | null;
};

export type SendingOptions = {
  collection: number;
  files: Outgoing[];
  delivery?: number;
  imageClass?: string;
  stocked: boolean;
  onArrived: (delivery: number) => void;
};

const chunkBytes = 16 * 1024 * 1024;
const retryDelays = [500, 1500, 3000, 5000, 10_000, 20_000, 30_000, 60_000];
const comparedAtOnce = 200;

class GivenUp extends Error {}

let nextId = 1;

export class Sending {
  state: SendingState;
  private abort = new AbortController();
  private upload: tus.Upload | null = null;
  private readonly arrived = new Set<string>();
  private samples: { at: number; sent: number }[] = [];
  private running = false;
  private givenUp = false;
  private readonly fingerprint: string;

  constructor(
    private readonly options: SendingOptions,
    private readonly changed: () => void,
  ) {
    const { files, collection, delivery } = options;
    this.fingerprint = fingerprintOf(files);
    this.state = {
      id: nextId++,
      collection,
      delivery: delivery ?? null,
      name: sourceOf(files),
      files: files.length,
      sentFiles: 0,
      spared: 0,
      total: files.reduce((sum, { size }) => sum + size, 0),
      sent: 0,
      speed: 0,
      step: "beginning",
      paused: false,
      waiting: false,
      error: null,
    };
  }

  private set(change: Partial<SendingState>): void {
    this.state = { ...this.state, ...change };
    this.changed();
  }

  private advance(bytes: number, files = 0): void {
    const sent = this.state.sent + bytes;
    const now = performance.now();
    this.samples.push({ at: now, sent });
    while (this.samples.length > 2 && now - (this.samples[0]?.at ?? now) > 4000) this.samples.shift();
    const first = this.samples[0] ?? { at: now, sent };
    this.set({
      sent,
      sentFiles: this.state.sentFiles + files,
      speed: now > first.at ? ((sent - first.sent) / (now - first.at)) * 1000 : 0,
      waiting: false,
    });
  }

  /** Starts, or goes on from where it was paused or failed. */
  async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    this.abort = new AbortController();
    this.set({ paused: false, error: null });
    try {
      await this.sendAll();
    } catch (error) {
      if (this.givenUp || this.state.paused) return;
      this.set({ waiting: false, speed: 0, error: error instanceof Error ? error.message : String(error) });
    } finally {
      this.running = false;
    }
  }

  pause(): void {
    this.set({ paused: true, speed: 0 });
    this.samples = [];
    this.abort.abort();
    void this.upload?.abort();
  }

  /** Gives up: the delivery that was begun is put aside with what was sent of it. */
  async cancel(): Promise<void> {
    this.givenUp = true;
    this.abort.abort();
    void this.upload?.abort(true).catch(() => undefined);
    forgetBegun(this.options.collection, this.fingerprint);
    if (this.state.delivery !== null && this.options.delivery === undefined)
      await api(`/api/deliveries/${this.state.delivery}`, { method: "DELETE" }).catch(() => undefined);
  }

  /** The delivery that was begun for these very files before the page was loaded anew, while it still waits for them. */
  private async begun(): Promise<number | null> {
    const id = begunDelivery(this.options.collection, this.fingerprint);
    if (id === null) return null;
    try {
      const { status } = await api<{ status: string }>(`/api/deliveries/${id}`, { signal: this.abort.signal });
      if (status === "begun" || status === "arriving") return id;
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 404) throw error;
    }
    forgetBegun(this.options.collection, this.fingerprint);
    return null;
  }

  /** Takes what has arrived already as sent. */
  private async noteArrived(id: number): Promise<void> {
    const there = await this.again(() =>
      api<{ path: string; size: number }[]>(`/api/deliveries/${id}/files`, { signal: this.abort.signal }),
    );
    const sizes = new Map(there.map(({ path, size }) => [path, size]));
    const arrived = this.options.files.filter(({ path, size }) => !this.arrived.has(path) && sizes.get(path) === size);
    this.done(arrived);
    this.set({
      sent: this.state.sent + arrived.reduce((sum, { size }) => sum + size, 0),
      sentFiles: this.state.sentFiles + arrived.length,
    });
  }

  private async delivery(): Promise<number> {
    if (this.state.delivery !== null) return this.state.delivery;
    const begun = await this.again(() => this.begun());
    if (begun !== null) {
      this.set({ delivery: begun });
      await this.noteArrived(begun);
      return begun;
    }
    const { id } = await this.again(() =>
      api<{ id: number }>(`/api/collections/${this.options.collection}/deliveries`, {
        method: "POST",
        body: { kind: "files", source: this.state.name, imageClass: this.options.imageClass ?? null },
        signal: this.abort.signal,
      }),
    );
    this.set({ delivery: id });
    rememberBegun(this.options.collection, this.fingerprint, id);
    return id;
  }

  /** Tries again what a broken connection or a busy server prevented. */
  private async again<T>(work: () => Promise<T>): Promise<T> {
    for (let attempt = 0; ; attempt++) {
      try {
        return await work();
      } catch (error) {
        if (this.abort.signal.aborted) throw new GivenUp();
        const passing =
          error instanceof ApiError ? error.status === 0 || error.status >= 500 : error instanceof TypeError;
        const delay = retryDelays[attempt];
        if (!passing || delay === undefined) throw error;
        this.set({ waiting: true });
        await new Promise((resolve) => setTimeout(resolve, delay));
        if (this.abort.signal.aborted) throw new GivenUp();
      }
    }
  }

  private async sendAll(): Promise<void> {
    const id = await this.delivery();
    const left = this.options.files.filter(({ path }) => !this.arrived.has(path));
    this.set({ step: "comparing" });
    const wanted = await this.spare(id, left);
    this.set({ step: "sending" });
    for (const batch of batchesOf(wanted.filter((entry) => !goesAlone(entry)))) await this.sendBatch(id, batch);
    for (const entry of wanted.filter(goesAlone)) await this.sendAlone(id, entry);
    await this.again(() =>
      api(`/api/deliveries/${id}/arrived`, {
        method: "POST",
        body: {},
        signal: this.abort.signal,
      }),
    );
    forgetBegun(this.options.collection, this.fingerprint);
    this.set({ step: "done", speed: 0 });
    this.options.onArrived(id);
  }

  private done(entries: readonly Outgoing[]): void {
    for (const { path } of entries) this.arrived.add(path);
  }

  /** Leaves out the loose pictures whose bytes are in stock already. */
  private async spare(id: number, files: Outgoing[]): Promise<Outgoing[]> {
    const loose = this.options.stocked ? files.filter(({ path }) => isImagePath(path)) : [];
    if (loose.length === 0) return files;
    const hashing = new Hashing();
    try {
      for (let at = 0; at < loose.length; at += comparedAtOnce) {
        const some = loose.slice(at, at + comparedAtOnce);
        const hashes = await hashing.hash(some.map(({ file }) => file));
        if (this.abort.signal.aborted) throw new GivenUp();
        const asked = some
          .map(({ path }, index) => ({ path, sha256: hashes[index] ?? "" }))
          .filter(({ sha256 }) => sha256 !== "");
        if (asked.length === 0) continue;
        const { known } = await this.again(() =>
          api<{ known: string[] }>(`/api/deliveries/${id}/known`, {
            method: "POST",
            body: { files: asked },
            signal: this.abort.signal,
          }),
        );
        const there = new Set(known);
        const spared = some.filter(({ path }) => there.has(path));
        this.done(spared);
        this.set({ spared: this.state.spared + spared.length });
        this.advance(
          spared.reduce((sum, { size }) => sum + size, 0),
          spared.length,
        );
      }
    } finally {
      hashing.close();
    }
    return files.filter(({ path }) => !this.arrived.has(path));
  }

  private async sendBatch(id: number, batch: Outgoing[]): Promise<void> {
    await this.again(async () => {
      const form = new FormData();
      form.set("paths", JSON.stringify(batch.map(({ path }) => path)));
      for (const { file } of batch) form.append("file", file, "file");
      const response = await fetch(`/api/deliveries/${id}/files`, {
        method: "POST",
        body: form,
        signal: this.abort.signal,
      });
      if (!response.ok) {
        const problem = (await response.json().catch(() => null)) as { code?: string; message?: string } | null;
        throw new ApiError(
          problem?.code ?? "unexpected",
          problem?.message ?? `The server answered ${response.status}.`,
          response.status,
        );
      }
    });
    this.done(batch);
    this.advance(
      batch.reduce((sum, { size }) => sum + size, 0),
      batch.length,
    );
  }

  /**
   * One large file by the tus protocol: a part that arrived never has to be sent again, also after the page was
   * closed.
   */
  private sendAlone(id: number, entry: Outgoing): Promise<void> {
    const { path, file, size } = entry;
    let before = 0;
    return new Promise((resolve, reject) => {
      const upload = new tus.Upload(file, {
        endpoint: "/api/uploads",
        chunkSize: chunkBytes,
        retryDelays: [0, ...retryDelays],
        metadata: { path, delivery: String(id) },
        removeFingerprintOnSuccess: true,
        fingerprint: () => Promise.resolve(`larder ${id} ${path} ${size} ${file.lastModified}`),
        onProgress: (sent) => {
          this.advance(sent - before);
          before = sent;
        },
        onShouldRetry: (error) => {
          const status = error.originalResponse?.getStatus() ?? 0;
          const again = status === 0 || status === 423 || status >= 500;
          if (again) this.set({ waiting: true });
          return again;
        },
        onError: (error) => {
          const body = "originalResponse" in error ? error.originalResponse?.getBody() : "";
          reject(new Error(body || "The connection was lost. What was sent is kept; go on when it is back."));
        },
        onSuccess: () => {
          this.done([entry]);
          this.advance(size - before, 1);
          resolve();
        },
      });
      this.upload = upload;
      this.abort.signal.addEventListener("abort", () => {
        // What was counted of this file is counted anew when it goes on.
        this.set({ sent: this.state.sent - before });
        reject(new GivenUp());
      });
      void upload.findPreviousUploads().then((previous) => {
        if (previous[0]) upload.resumeFromPreviousUpload(previous[0]);
        upload.start();
      });
    });
  }
}
