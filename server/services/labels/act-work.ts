import { requestSchema } from "@larder/core/labels/request";
import { selectionSchema } from "@larder/core/selection/chosen";
import { z } from "zod";

/** What an act that is worked off in batches does: the same to all of a selection, or the inverse of another act. */
export const workSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("request"),
    request: requestSchema,
    selection: selectionSchema,
    /** Names that stood for attributes when the act was begun: it may take the last one of a name away. */
    attributes: z.array(z.string()).default([]),
  }),
  z.object({ kind: z.literal("undo"), text: z.string() }),
]);
export type ActWork = z.infer<typeof workSchema>;
