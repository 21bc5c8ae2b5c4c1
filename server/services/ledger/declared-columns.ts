/** The attributes of images that a collection declares. */
import type { AttributeSchema } from "@larder/core/model/attribute-schema";
import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import type { Transaction } from "../../db/database";
import { collections } from "../../db/schema";

/** Throws a Failure where the collection is gone. */
export async function declaredIn(on: Pick<Transaction, "select">, collection: number): Promise<AttributeSchema[]> {
  const [row] = await on
    .select({ attributes: collections.imageAttributes })
    .from(collections)
    .where(eq(collections.id, collection));
  if (!row) throw new Failure("collection-missing", `There is no collection ${collection}.`, 404);
  return row.attributes;
}

/** Gives a declared attribute its other name, or, where it is taken back, its former one. */
export async function renameColumn(
  tx: Transaction,
  collection: number,
  { from, to }: { from: string; to: string },
  inForce: boolean,
): Promise<void> {
  const [before, after] = inForce ? [from, to] : [to, from];
  const declared = await declaredIn(tx, collection);
  if (declared.some(({ name }) => name === after)) return;
  await tx
    .update(collections)
    .set({ imageAttributes: declared.map((one) => (one.name === before ? { ...one, name: after } : one)) })
    .where(eq(collections.id, collection));
}
