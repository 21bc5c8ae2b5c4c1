import { ownEntry } from "../model/own-entry";
import type { Plan } from "../plans/plan";

/** What a class is called after relabeling; null where it is left out. */
export function renamed(name: string, relabel: Plan["relabel"]): string | null {
  if (relabel.leaveOut.includes(name)) return null;
  return ownEntry(relabel.rename, name) ?? name;
}

/** The class list after relabeling, in the old order, merged names at their first place. */
export function classesAfter(names: readonly string[], relabel: Plan["relabel"]): string[] {
  const kept = names.map((name) => renamed(name, relabel)).filter((name): name is string => name !== null);
  return [...new Set(kept)];
}
