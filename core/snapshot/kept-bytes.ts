import { measuredBytes } from "./object-measures";
import type { Snapshot } from "./snapshot";

/** What a snapshot takes in memory, in bytes, with the large part of what was worked out of it. */
export const keptBytes = (snapshot: Snapshot): number =>
  snapshot.size + measuredBytes(snapshot) + (snapshot.learned?.alignedBytes(snapshot) ?? 0);
