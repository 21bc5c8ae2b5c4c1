/**
 * How work that cannot look up is ended: a job runs with a signal, and what waits for another process listens to it. Its
 * reason is what the work then ends with.
 */
import { AsyncLocalStorage } from "node:async_hooks";

const signals = new AsyncLocalStorage<AbortSignal>();

/** Runs `work` so that whatever it waits for can be interrupted by `signal`. */
export function interruptible<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  return signals.run(signal, work);
}

/** The signal that may interrupt the work going on here; undefined where nothing does. */
export function interruption(): AbortSignal | undefined {
  return signals.getStore();
}
