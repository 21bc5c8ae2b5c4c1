import type { Snapshot } from "./snapshot";

/** What is worked out of a snapshot, once for as long as it shows the same revision of its collection. */
export function onceARevision<Value>(workOut: (snapshot: Snapshot) => Value): (snapshot: Snapshot) => Value {
  const keptOf = new WeakMap<Snapshot, { revision: number; value: Value }>();
  return (snapshot) => {
    const { revision } = snapshot;
    const known = keptOf.get(snapshot);
    if (known?.revision === revision) return known.value;
    const value = workOut(snapshot);
    keptOf.set(snapshot, { revision, value });
    return value;
  };
}
