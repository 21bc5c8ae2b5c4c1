/** What is said of a class beside its name: its code, its colour, the class it belongs under, its place in the list. */
import { Failure } from "@larder/core/model/failure";
import { classColourCount } from "@larder/core/relabel/class-colours";
import { and, eq, isNull, ne } from "drizzle-orm";
import { z } from "zod";
import { transaction, type Transaction } from "../../db/database";
import { classes } from "../../db/schema";
import { changed } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";

export const classChangeSchema = z
  .object({
    code: z
      .string()
      .trim()
      .min(1, "A code has at least one sign.")
      .max(4, "A code has four signs at most.")
      .regex(/^[\p{L}\p{N}]+$/u, "A code is made of letters and digits.")
      .transform((code) => code.toUpperCase())
      .optional(),
    colour: z
      .number()
      .int()
      .min(0)
      .max(classColourCount - 1)
      .optional(),
    parent: z.number().int().nullable().optional(),
  })
  .refine((change) => Object.values(change).some((value) => value !== undefined), "Nothing to change was sent.");

/** Throws where the code is another class's: it would not tell the two apart. */
export async function refuseTakenCode(tx: Transaction, collection: number, id: number, code: string): Promise<void> {
  const [other] = await tx
    .select({ name: classes.name })
    .from(classes)
    .where(
      and(eq(classes.collectionId, collection), eq(classes.code, code), ne(classes.id, id), isNull(classes.mergedInto)),
    );
  if (other) throw new Failure("class-code-taken", `${code} is the code of ${other.name} already.`, 409);
}

/** Throws where a class would come to stand under itself. */
async function refuseCircle(tx: Transaction, collection: number, id: number, parent: number): Promise<void> {
  const rows = await tx.select().from(classes).where(eq(classes.collectionId, collection));
  const byId = new Map(rows.map((row) => [row.id, row]));
  if (!byId.has(parent)) throw new Failure("class-missing", "There is no such class in this collection any more.", 404);
  for (let at: number | null = parent; at !== null; at = byId.get(at)?.parentId ?? null)
    if (at === id)
      throw new Failure("class-circle", "A class cannot stand under itself, nor under one that is under it.", 422);
}

export async function changeClass(actor: Actor, id: number, input: z.input<typeof classChangeSchema>): Promise<void> {
  const collection = await allow(actor, "label", { class: id });
  const { code, colour, parent } = classChangeSchema.parse(input);
  await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    if (code !== undefined) await refuseTakenCode(tx, collection, id, code);
    if (parent !== undefined && parent !== null) await refuseCircle(tx, collection, id, parent);
    await tx
      .update(classes)
      .set({
        ...(code === undefined ? {} : { code }),
        ...(colour === undefined ? {} : { colour }),
        ...(parent === undefined ? {} : { parentId: parent }),
      })
      .where(eq(classes.id, id));
  });
}

export const classOrderSchema = z.object({ classes: z.array(z.number().int()).min(1).max(50_000) });

/** Puts the classes of a collection in an order; those that it does not name stay behind the others. */
export async function orderClasses(
  actor: Actor,
  collection: number,
  input: z.infer<typeof classOrderSchema>,
): Promise<void> {
  await allow(actor, "label", { collection });
  await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    const rows = await tx
      .select({ id: classes.id, position: classes.position })
      .from(classes)
      .where(eq(classes.collectionId, collection));
    const place = new Map(input.classes.map((id, at) => [id, at]));
    const ordered = [...rows].sort(
      (a, b) => (place.get(a.id) ?? Infinity) - (place.get(b.id) ?? Infinity) || a.position - b.position || a.id - b.id,
    );
    for (const [position, row] of ordered.entries())
      if (row.position !== position) await tx.update(classes).set({ position }).where(eq(classes.id, row.id));
  });
}
