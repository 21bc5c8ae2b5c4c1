/** Another name for a class. The former one goes on standing for it: deliveries that still use it are matched. */
import { keepableName } from "@larder/core/model/class-name";
import { Failure } from "@larder/core/model/failure";
import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { transaction, type Transaction } from "../../db/database";
import { acts, classes } from "../../db/schema";
import { changed } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";
import type { ActWork } from "../labels/act-work";

export type Renaming = Extract<ActWork, { kind: "rename" }>;

/** A former name has no code of its own; nothing is ever labeled with it. */
const formerCode = "";

async function named(tx: Transaction, collection: number, name: string) {
  const [row] = await tx
    .select()
    .from(classes)
    .where(and(eq(classes.collectionId, collection), eq(classes.name, name)));
  return row;
}

/** Gives a class its new name and keeps the former one beside it. Throws where the new one is another class's. */
async function take(tx: Transaction, collection: number, { class: id, from, to }: Renaming): Promise<void> {
  const there = await named(tx, collection, to);
  if (there) {
    const own = there.mergedInto === id && there.code === formerCode;
    if (!own)
      throw new Failure(
        "class-name-taken",
        there.mergedInto === null
          ? `There is a class "${to}" already. Merge the two where they are one.`
          : `"${to}" was merged into another class, and stands for that one.`,
        409,
      );
    await tx.delete(classes).where(eq(classes.id, there.id));
  }
  const [row] = await tx.update(classes).set({ name: to }).where(eq(classes.id, id)).returning();
  const { colour = 0, position = 0 } = row ?? {};
  await tx
    .insert(classes)
    .values({ collectionId: collection, name: from, code: formerCode, colour, position, mergedInto: id });
}

/** Puts a renaming in force, or takes it back. Throws where the class has yet another name by now. */
export async function setRenaming(
  tx: Transaction,
  collection: number,
  renaming: Renaming,
  inForce: boolean,
): Promise<void> {
  const [row] = await tx.select().from(classes).where(eq(classes.id, renaming.class));
  if (row?.name !== (inForce ? renaming.from : renaming.to))
    throw new Failure("class-renamed", `This class was renamed again since: it is "${row?.name ?? "gone"}" now.`, 409);
  if (inForce) return take(tx, collection, renaming);
  await tx
    .delete(classes)
    .where(
      and(
        eq(classes.collectionId, collection),
        eq(classes.name, renaming.from),
        eq(classes.mergedInto, renaming.class),
        eq(classes.code, formerCode),
      ),
    );
  await tx.update(classes).set({ name: renaming.from }).where(eq(classes.id, renaming.class));
}

export const renameSchema = z.object({
  name: z.string().trim().min(1, "A class needs a name.").max(5000).transform(keepableName),
});

/** Renames a class: an act, undone as others are. */
export async function renameClass(
  actor: Actor,
  id: number,
  input: z.input<typeof renameSchema>,
): Promise<{ act: number | null; text: string }> {
  const collection = await allow(actor, "label", { class: id });
  const { name: to } = renameSchema.parse(input);
  return transaction(async (tx) => {
    await changed(tx, collection, "classes", "stock");
    const [row] = await tx.select().from(classes).where(eq(classes.id, id));
    if (!row || row.mergedInto !== null || row.removedAt !== null)
      throw new Failure("class-missing", "There is no such class in this collection any more.", 404);
    const text = `renamed ${row.name} to ${to}`;
    if (row.name === to) return { act: null, text };
    const renaming: Renaming = { kind: "rename", class: id, from: row.name, to };
    await setRenaming(tx, collection, renaming, true);
    const [act] = await tx
      .insert(acts)
      .values({ collectionId: collection, kind: "rename", text, actor: actor.id, request: renaming, status: "done" })
      .returning({ id: acts.id });
    return { act: act?.id ?? null, text };
  });
}
