import { requestSchema } from "@larder/core/labels/request";
import { selectionSchema } from "@larder/core/selection/chosen";
import { z } from "zod";

const imageIds = z.array(z.number().int());

/**
 * What an act does: the same to all of a selection, the inverse of another act, the splits of a plan, or another
 * name to a class.
 */
export const workSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("request"),
    request: requestSchema,
    selection: selectionSchema,
    /** Names that stood for attributes when the act was begun: it may take the last one of a name away. */
    attributes: z.array(z.string()).default([]),
  }),
  z.object({ kind: z.literal("undo"), text: z.string() }),
  z.object({
    kind: z.literal("deal"),
    /** The plan whose splits they are. */
    plan: z.string(),
    splits: z.object({ train: imageIds, val: imageIds, test: imageIds }),
  }),
  z.object({ kind: z.literal("rename"), class: z.number().int(), from: z.string(), to: z.string() }),
]);
export type ActWork = z.infer<typeof workSchema>;
