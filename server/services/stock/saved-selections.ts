/** Selections that a collection's people gave a name: shared, and counted as things stand. */
import { Failure } from "@larder/core/model/failure";
import { selectionSchema } from "@larder/core/selection/chosen";
import { parseSelection } from "@larder/core/selection/parse";
import { longestText } from "@larder/core/selection/tokens";
import { and, asc, eq } from "drizzle-orm";
import { z } from "zod";
import { db, transaction, type Database } from "../../db/database";
import { savedSelections } from "../../db/schema";
import { changed } from "../../jobs/events";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";

export type SavedSelection = { id: number; name: string; where: string; images: number | null; problem: string | null };

export const savedSelectionSchema = z.object({
  /** Plans name it after an @: a word without blanks. */
  name: z
    .string()
    .trim()
    .regex(/^[^\s(){},"=<>!@]{1,60}$/, "A name is one word of at most 60 characters, without brackets and signs."),
  where: z.string().trim().min(1, "A selection of everything needs no name.").max(longestText),
});

/** How many images a selection means now; what cannot be understood any more says why. */
async function counted(collection: number, where: string): Promise<Pick<SavedSelection, "images" | "problem">> {
  try {
    return { images: await ask("count", collection, selectionSchema.parse({ where })), problem: null };
  } catch (error) {
    if (!(error instanceof Failure) || error.code !== "selection-invalid") throw error;
    return { images: null, problem: error.message };
  }
}

/** The saved selections of a collection, by name. */
export async function savedSelectionsOf(actor: Actor, collection: number): Promise<SavedSelection[]> {
  await allow(actor, "see", { collection });
  const rows = await db()
    .select({ id: savedSelections.id, name: savedSelections.name, where: savedSelections.where })
    .from(savedSelections)
    .where(eq(savedSelections.collectionId, collection))
    .orderBy(asc(savedSelections.name));
  return Promise.all(rows.map(async (row) => ({ ...row, ...(await counted(collection, row.where)) })));
}

/** What each saved selection means, by its name. Whoever calls it has asked `allow`. */
export async function savedConditions(collection: number, on: Database = db()): Promise<Map<string, string>> {
  const rows = await on
    .select({ name: savedSelections.name, where: savedSelections.where })
    .from(savedSelections)
    .where(eq(savedSelections.collectionId, collection));
  return new Map(rows.map((row) => [row.name, row.where]));
}

/** Saves a selection under a name; one that is there under it is replaced. Throws where it cannot be understood. */
export async function saveSelection(
  actor: Actor,
  collection: number,
  input: z.infer<typeof savedSelectionSchema>,
): Promise<{ id: number }> {
  await allow(actor, "label", { collection });
  const { name, where } = savedSelectionSchema.parse(input);
  parseSelection(where);
  await ask("count", collection, selectionSchema.parse({ where }));
  return transaction(async (tx) => {
    await changed(tx, collection, "selections");
    const [row] = await tx
      .insert(savedSelections)
      .values({ collectionId: collection, name, where, createdBy: actor.id })
      .onConflictDoUpdate({ target: [savedSelections.collectionId, savedSelections.name], set: { where } })
      .returning({ id: savedSelections.id });
    return { id: row?.id as number };
  });
}

/** Takes the name away; nothing else changes. */
export async function forgetSelection(actor: Actor, collection: number, id: number): Promise<void> {
  await allow(actor, "label", { collection });
  await transaction(async (tx) => {
    await changed(tx, collection, "selections");
    const gone = await tx
      .delete(savedSelections)
      .where(and(eq(savedSelections.id, id), eq(savedSelections.collectionId, collection)))
      .returning({ id: savedSelections.id });
    if (gone.length === 0) throw new Failure("selection-missing", "There is no such selection any more.", 404);
  });
}
