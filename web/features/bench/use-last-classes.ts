"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useMemo, useState } from "react";

/** By collection, how often each class was used on this row of images. */
const uses = new Map<number, Map<number, number>>();

/** The classes in the order of their use on this row, then in their own. */
export function useLastClasses(collection: number, classes: readonly ClassRow[] | undefined) {
  const [round, setRound] = useState(0);
  const ordered = useMemo(() => {
    const counts = uses.get(collection);
    return [...(classes ?? [])].sort((a, b) => (counts?.get(b.id) ?? 0) - (counts?.get(a.id) ?? 0));
    // A use that was noted orders them anew.
  }, [classes, collection, round]);
  return {
    ordered,
    note: (id: number) => {
      const counts = uses.get(collection) ?? new Map<number, number>();
      counts.set(id, (counts.get(id) ?? 0) + 1);
      uses.set(collection, counts);
      setRound((before) => before + 1);
    },
  };
}
