import { classColourCount } from "@larder/core/relabel/class-colours";
import { ClassCodes } from "@larder/core/relabel/class-code";
import type { ClassInfo } from "@larder/core/model/item";
import { eq, inArray } from "drizzle-orm";
import type { Transaction } from "../../db/database";
import { classes } from "../../db/schema";

/** Rows of one insert: a statement takes 65,535 parameters at most. */
const insertedAtOnce = 2000;

type ClassRow = typeof classes.$inferSelect;

/** The class that a row stands for: itself, or what it was merged into. */
function standsFor(row: ClassRow, byId: ReadonlyMap<number, ClassRow>): ClassRow {
  const into = row.mergedInto === null ? undefined : byId.get(row.mergedInto);
  return into ? standsFor(into, byId) : row;
}

/**
 * The ids of classes by name; those that are not there are made at the list's end, in the given order, and one that left
 * with its delivery comes back. A class that was merged into another stands for that one. `added` are the new ones.
 */
export async function ensureClasses(
  tx: Transaction,
  collectionId: number,
  wanted: readonly ClassInfo[],
): Promise<{ ids: Map<string, number>; added: number[] }> {
  const known = await tx.select().from(classes).where(eq(classes.collectionId, collectionId));
  const byId = new Map(known.map((row) => [row.id, row]));
  const byName = new Map(known.map((row) => [row.name, standsFor(row, byId)]));
  const codes = new ClassCodes(known.map((row) => row.code));
  const ids = new Map<string, number>();
  const returning = new Set<number>();
  const made = new Map<string, typeof classes.$inferInsert>();
  let position = known.reduce((highest, row) => Math.max(highest, row.position + 1), 0);
  for (const { name, ...info } of wanted) {
    const there = byName.get(name);
    if (there) {
      ids.set(name, there.id);
      if (there.removedAt !== null) returning.add(there.id);
    } else if (!made.has(name)) {
      const code = codes.take(name);
      made.set(name, { collectionId, name, code, colour: position % classColourCount, position, ...info });
      position++;
    }
  }
  const added = [...returning];
  if (added.length > 0) await tx.update(classes).set({ removedAt: null }).where(inArray(classes.id, added));
  const rows = [...made.values()];
  for (let at = 0; at < rows.length; at += insertedAtOnce) {
    const inserted = await tx
      .insert(classes)
      .values(rows.slice(at, at + insertedAtOnce))
      .returning({ id: classes.id, name: classes.name });
    for (const { id, name } of inserted) {
      ids.set(name, id);
      added.push(id);
    }
  }
  return { ids, added };
}
