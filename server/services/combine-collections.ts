/** Several collections into a new one or into one of them: a delivery from each; the sources stay as they are. */
import { Failure } from "@larder/core/model/failure";
import { z } from "zod";
import { allow } from "./access";
import type { Actor } from "./actor";
import { collectionName, collectionRow, createCollection } from "./collections";
import { receiveFrom } from "./intake/receive";

export const combineSchema = z.object({
  sources: z.array(z.number().int().positive()).min(1).max(50),
  into: z.union([z.object({ id: z.number().int().positive() }), z.object({ name: collectionName })]),
  /** Whether images keep the splits they have. */
  splits: z.enum(["keep", "none"]),
});

/**
 * Begins a delivery from each source; what it brings, and how its classes match, stands on its sheet until it is taken in.
 */
export async function combineCollections(
  actor: Actor,
  input: z.input<typeof combineSchema>,
): Promise<{ id: number; deliveries: number[] }> {
  const { sources, into, splits } = combineSchema.parse(input);
  const wanted = [...new Set(sources)].filter((source) => !("id" in into) || source !== into.id);
  if (wanted.length === 0)
    throw new Failure("same-collection", "There is nothing to combine it with. Choose another collection.", 422);
  for (const source of wanted) {
    await allow(actor, "download", { collection: source });
    await collectionRow(source);
  }
  const id = "id" in into ? (await collectionRow(into.id)).id : (await createCollection(actor, into)).id;
  const deliveries: number[] = [];
  for (const collection of wanted) {
    const source = { kind: "collection" as const, collection, class: null, selection: null, labels: true, move: false };
    deliveries.push((await receiveFrom(actor, id, source, { splits: { mode: splits } })).id);
  }
  return { id, deliveries };
}
