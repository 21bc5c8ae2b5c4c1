import { eq } from "drizzle-orm";
import type { Database } from "../../db/database";
import { classes } from "../../db/schema";

/** Every class of a collection by id, those that were merged or went with their delivery among them. */
export async function classNamesById(on: Database, collection: number): Promise<Map<number, string>> {
  const rows = await on
    .select({ id: classes.id, name: classes.name })
    .from(classes)
    .where(eq(classes.collectionId, collection));
  return new Map(rows.map(({ id, name }) => [id, name]));
}
