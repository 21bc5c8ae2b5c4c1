/** JSON in rows of which many say the same: each distinct text is parsed once. The counterpart of `distinctValues`. */
import type { z } from "zod";

/** Reads texts by a schema; equal texts give the very same value, which nobody may change. Throws where one does not fit. */
export function repeatedJson<T extends z.ZodType>(schema: T): (text: string) => z.infer<T> {
  const known = new Map<string, z.infer<T>>();
  return (text) => {
    const there = known.get(text);
    if (there !== undefined) return there;
    const value = schema.parse(JSON.parse(text));
    known.set(text, value);
    return value;
  };
}
