/** JSON in rows of which many say the same: each distinct text is parsed once. The counterpart of `distinctValues`. */
import type { z } from "zod";
import { onceEach } from "../once-each";

/** Reads texts by a schema; equal texts give the very same value, which nobody may change. Throws where one does not fit. */
export const repeatedJson = <T extends z.ZodType>(schema: T): ((text: string) => z.infer<T>) =>
  onceEach((text: string) => schema.parse(JSON.parse(text)));
