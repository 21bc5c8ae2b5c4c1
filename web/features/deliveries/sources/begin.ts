import type { SourceInput } from "@larder/server/services/intake/receive";

/** Begins a delivery from a source. */
export type Begin = (input: SourceInput) => Promise<void>;
