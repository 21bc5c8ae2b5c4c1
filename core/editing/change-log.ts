/**
 * What one does to an image from the opening on: shown at once, sent as soon as may be, undone and done again. Every
 * function gives a new log; none changes the one it is given.
 */
import { applySteps, stateStep } from "../labels/apply";
import type { Labels } from "../labels/labels";
import { collide, type Step } from "../labels/step";
import { Failure } from "../model/failure";

/** One act: `key` is its own, by which it is sent again where an answer was lost. */
export type Change = {
  key: string;
  steps: readonly Step[];
  inverse: readonly Step[];
  /** The key of the change it takes back. */
  undoes: string | null;
};

export type ChangeLog = {
  /** The labels as they are shown: those of the server with what is not sent yet. */
  labels: Labels;
  /** The revision of the server that this knows of. */
  revision: number;
  /** What is still to be sent, oldest first. */
  unsent: readonly Change[];
  /** What can be undone, oldest first, and what can be done again, the last undone at the end. */
  done: readonly Change[];
  undone: readonly Change[];
};

export const openedLog = (labels: Labels, revision: number): ChangeLog => ({
  labels,
  revision,
  unsent: [],
  done: [],
  undone: [],
});

function withChange(
  log: ChangeLog,
  key: string,
  steps: readonly Step[],
  undoes: string | null,
): { log: ChangeLog; change: Change } {
  const { after, inverse } = applySteps(log.labels, steps);
  const change: Change = { key, steps, inverse, undoes };
  return { log: { ...log, labels: after, unsent: [...log.unsent, change] }, change };
}

/**
 * The log after steps, with the state brought in line with what the image says unless a step sets it. Throws a Failure
 * `step-misfit` where they do not fit; no steps change nothing.
 */
export function withSteps(log: ChangeLog, key: string, steps: readonly Step[]): ChangeLog {
  if (steps.length === 0) return log;
  const settled = steps.some((step) => step.do === "set-state") ? null : stateStep(applySteps(log.labels, steps).after);
  const { log: after, change } = withChange(log, key, settled ? [...steps, settled] : steps, null);
  return { ...after, done: [...log.done, change], undone: [] };
}

/** The log with the last change taken back; null where there is none, or where it does not fit any more. */
export function undone(log: ChangeLog, key: string): ChangeLog | null {
  const last = log.done.at(-1);
  const taken = last && tried(log, key, last);
  return taken ? { ...taken.log, done: log.done.slice(0, -1), undone: [...log.undone, taken.change] } : null;
}

/** The log with the change that was undone last done again; null as above. */
export function doneAgain(log: ChangeLog, key: string): ChangeLog | null {
  const last = log.undone.at(-1);
  const taken = last && tried(log, key, last);
  return taken ? { ...taken.log, undone: log.undone.slice(0, -1), done: [...log.done, taken.change] } : null;
}

function tried(log: ChangeLog, key: string, of: Change): { log: ChangeLog; change: Change } | null {
  try {
    return withChange(log, key, of.inverse, of.key);
  } catch (error) {
    if (error instanceof Failure) return null;
    throw error;
  }
}

/** The log once a change has arrived: the server stands at `revision` with it. */
export const withSent = (log: ChangeLog, key: string, revision: number): ChangeLog => ({
  ...log,
  revision,
  unsent: log.unsent.filter((change) => change.key !== key),
});

/**
 * The log on labels as the server has them by now. What is not sent yet is put on top of them; what does not fit any more
 * comes beside it, oldest first.
 */
export function rebased(log: ChangeLog, labels: Labels, revision: number): { log: ChangeLog; lost: Change[] } {
  let current = labels;
  const unsent: Change[] = [];
  const lost: Change[] = [];
  for (const change of log.unsent) {
    // What stands on something that was lost is lost with it.
    if (
      collide(
        change.steps,
        lost.flatMap(({ steps }) => steps),
      )
    ) {
      lost.push(change);
      continue;
    }
    try {
      const { after, inverse } = applySteps(current, change.steps);
      current = after;
      unsent.push({ ...change, inverse });
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      lost.push(change);
    }
  }
  const gone = new Set(lost.map(({ key }) => key));
  const kept = (changes: readonly Change[]) => changes.filter(({ key }) => !gone.has(key));
  return { log: { labels: current, revision, unsent, done: kept(log.done), undone: kept(log.undone) }, lost };
}

/** The log without what waits under these keys, on labels as the server has them: what somebody gave up. */
export const withoutUnsent = (log: ChangeLog, keys: readonly string[]): ChangeLog => ({
  ...log,
  unsent: log.unsent.filter(({ key }) => !keys.includes(key)),
  done: log.done.filter(({ key }) => !keys.includes(key)),
  undone: log.undone.filter(({ key }) => !keys.includes(key)),
});

/** Of what was done to an image before, newest first, what still holds: without undoings and what they took back. */
export function standingChanges<T extends { act: number; undoes: number | null }>(changes: readonly T[]): T[] {
  const takenBack = new Set<number>();
  return changes.filter(({ act, undoes }) => {
    if (takenBack.has(act)) return false;
    if (undoes === null) return true;
    takenBack.add(undoes);
    return false;
  });
}

/** The log with what was done before the opening, newest first, under what can be undone. */
export function withEarlier(
  log: ChangeLog,
  earlier: readonly { act: number; steps: readonly Step[]; inverse: readonly Step[] }[],
): ChangeLog {
  const changes = earlier.map(({ act, steps, inverse }): Change => ({
    key: `act ${act}`,
    steps,
    inverse,
    undoes: null,
  }));
  return { ...log, done: [...changes.reverse(), ...log.done] };
}
