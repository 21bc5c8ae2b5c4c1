/** Works on one image: shows every change at once, sends them one after the other, and keeps what cannot be sent yet. */
import {
  doneAgain,
  openedLog,
  rebased,
  standingChanges,
  undone,
  withEarlier,
  withoutUnsent,
  withSent,
  withSteps,
  type Change,
  type ChangeLog,
} from "@larder/core/editing/change-log";
import type { Labels } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { BenchImage, ImageChange } from "@larder/server/services/bench";
import { v4 as uuidV4 } from "uuid";
import { api, ApiError } from "@/features/live/api";
import { keepWaiting, waitingFor } from "./stored-changes";

export type SavingState =
  | { is: "saved" }
  | { is: "saving" }
  /** The server is away, or does not know any more who this is; what waits is kept in the browser. */
  | { is: "waiting"; changes: number; for: "server" | "sign-in" }
  /** Somebody changed the same meanwhile, or the server will not have it: both states are shown. */
  | { is: "refused"; message: string; changes: Change[]; theirs: Labels; revision: number };

export type SessionState = { log: ChangeLog; saving: SavingState };

const shortestPause = 500;
const longestPause = 10_000;

export class Session {
  private listeners = new Set<() => void>();
  private sending = false;
  private pause = shortestPause;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private earlier: ImageChange[] = [];
  private allEarlier = false;
  private closed = false;
  /** By its key the act that a change became. */
  private acts = new Map<string, number>();

  private constructor(
    private readonly collection: number,
    private readonly image: number,
    private state: SessionState,
  ) {}

  /** Opens an image, with what still waits for it from before. */
  static async open(collection: number, image: BenchImage): Promise<Session> {
    const session = new Session(collection, image.id, {
      log: openedLog(image.labels, image.revision),
      saving: { is: "saved" },
    });
    const waiting = await waitingFor(collection, image.id);
    if (waiting) {
      session.acts = new Map(waiting.acts);
      const before = { ...session.state.log, unsent: waiting.unsent, done: waiting.unsent };
      const { log, lost } = rebased(before, image.labels, image.revision);
      // What was sent before its answer was lost is there already: the server tells by its key.
      session.state = { log: { ...log, unsent: [...log.unsent, ...lost] }, saving: { is: "saving" } };
      void session.send();
    }
    return session;
  }

  snapshot = (): SessionState => this.state;

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Nothing is sent from here any more; what waits stays kept. */
  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
  }

  /** Takes steps. Throws a Failure where they do not fit. */
  change(steps: readonly Step[]): void {
    const log = withSteps(this.state.log, uuidV4(), steps);
    if (log !== this.state.log) this.took(log);
  }

  /** Takes the last change back, also one from before the opening. Returns whether there was one. */
  async undo(): Promise<boolean> {
    if (this.state.log.done.length === 0) await this.fetchEarlier();
    const log = undone(this.state.log, uuidV4());
    if (log) this.took(log);
    return log !== null;
  }

  redo(): boolean {
    const log = doneAgain(this.state.log, uuidV4());
    if (log) this.took(log);
    return log !== null;
  }

  /** Labels as somebody else left them: what waits is put on top of them. */
  async refresh(): Promise<void> {
    if (this.closed || this.sending || this.state.saving.is === "refused") return;
    const now = await api<BenchImage>(`/api/collections/${this.collection}/bench/${this.image}`);
    if (this.sending || now.revision <= this.state.log.revision) return;
    const { log, lost } = rebased(this.state.log, now.labels, now.revision);
    this.put({ ...this.state, log });
    if (lost.length > 0)
      this.refuse("Somebody changed the same of this image meanwhile.", lost, now.labels, now.revision);
  }

  /** Answers a refusal: `theirs` gives up what was refused, `mine` does it again on what is there now, where it fits. */
  settle(keep: "theirs" | "mine"): void {
    const { saving, log } = this.state;
    if (saving.is !== "refused") return;
    const keys = saving.changes.map(({ key }) => key);
    const left = withoutUnsent(log, keys);
    const { log: fresh } = rebased(left, saving.theirs, saving.revision);
    this.put({ log: fresh, saving: { is: "saved" } });
    if (keep === "mine") {
      for (const change of saving.changes) {
        try {
          this.change(change.steps);
        } catch {
          // It was about an object that is gone.
        }
      }
    }
    void this.keep();
    void this.send();
  }

  private took(log: ChangeLog): void {
    const { saving } = this.state;
    this.put({ log, saving: saving.is === "saved" ? { is: "saving" } : saving });
    void this.keep();
    void this.send();
  }

  private put(state: SessionState): void {
    this.state = state;
    for (const listener of this.listeners) listener();
  }

  private keep(): Promise<void> {
    const { unsent } = this.state.log;
    const acts = unsent.flatMap(({ undoes }): [string, number][] => {
      const act = undoes === null ? undefined : this.acts.get(undoes);
      return undoes === null || act === undefined ? [] : [[undoes, act]];
    });
    return keepWaiting(this.collection, this.image, { unsent: [...unsent], acts });
  }

  private async send(): Promise<void> {
    if (this.sending || this.closed || this.state.saving.is === "refused") return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      for (let change = this.state.log.unsent[0]; change; change = this.state.log.unsent[0]) {
        const undoes = change.undoes === null ? undefined : this.actOf(change.undoes);
        const entry = {
          image: this.image,
          revision: this.state.log.revision,
          steps: change.steps,
          key: change.key,
          ...(undoes === undefined ? {} : { undoes }),
        };
        const { act, revisions } = await api<{ act: number; revisions: Record<number, number> }>(
          `/api/collections/${this.collection}/steps`,
          { method: "POST", body: [entry] },
        );
        this.acts.set(change.key, act);
        this.pause = shortestPause;
        const log = withSent(this.state.log, change.key, revisions[this.image] ?? this.state.log.revision + 1);
        this.put({ log, saving: { is: log.unsent.length > 0 ? "saving" : "saved" } });
        await this.keep();
      }
    } catch (error) {
      await this.failed(error);
    } finally {
      this.sending = false;
    }
    if (this.state.log.unsent.length > 0 && this.state.saving.is === "saving") void this.send();
  }

  /** The act that a change became; those from before the opening have it in their keys. */
  private actOf(key: string): number | undefined {
    return this.acts.get(key) ?? (key.startsWith("act ") ? Number(key.slice(4)) : undefined);
  }

  private async failed(error: unknown): Promise<void> {
    const changes = [...this.state.log.unsent];
    const signedOut = error instanceof ApiError && error.status === 401;
    if (!(error instanceof ApiError) || error.status === 0 || error.status >= 500 || signedOut) {
      const waitsFor = signedOut ? "sign-in" : "server";
      this.put({ ...this.state, saving: { is: "waiting", changes: changes.length, for: waitsFor } });
      this.timer = setTimeout(() => void this.send(), this.pause);
      this.pause = Math.min(longestPause, this.pause * 2);
      return;
    }
    try {
      const now = await api<BenchImage>(`/api/collections/${this.collection}/bench/${this.image}`);
      this.refuse(error.message, changes, now.labels, now.revision);
    } catch {
      this.refuse(error.message, changes, this.state.log.labels, this.state.log.revision);
    }
  }

  private refuse(message: string, changes: Change[], theirs: Labels, revision: number): void {
    this.put({ ...this.state, saving: { is: "refused", message, changes, theirs, revision } });
  }

  /** Puts what was done to the image before under what can be undone. */
  private async fetchEarlier(): Promise<void> {
    if (this.allEarlier) return;
    const before = this.earlier.at(-1)?.act;
    let page: ImageChange[];
    try {
      page = await api<ImageChange[]>(
        `/api/images/${this.image}/changes${before === undefined ? "" : `?before=${before}`}`,
      );
    } catch {
      return;
    }
    this.allEarlier = page.length === 0;
    const known = new Set(standingChanges(this.earlier).map(({ act }) => act));
    // What was done here since the opening is undone by now, or nothing would be fetched.
    const own = new Set(this.state.log.undone.map(({ undoes }) => undoes && this.actOf(undoes)));
    this.earlier = [...this.earlier, ...page];
    const fresh = standingChanges(this.earlier).filter(({ act }) => !known.has(act) && !own.has(act));
    if (fresh.length > 0) this.put({ ...this.state, log: withEarlier(this.state.log, fresh) });
    else if (!this.allEarlier) await this.fetchEarlier();
  }
}
