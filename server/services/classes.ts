import { tallyClasses, type ClassTally } from "@larder/core/checks/balance";
import { Failure } from "@larder/core/model/failure";
import { classCode } from "@larder/core/relabel/class-code";
import { readClassNames } from "@larder/core/relabel/class-names-file";
import { asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db, type Transaction } from "../db/database";
import { classes } from "../db/schema";
import { announce } from "../jobs/events";
import { mustEdit, type Actor } from "./actor";
import { stockRows } from "./stock-rows";

/** Class colours of the interface, given out in turn. */
const colourCount = 12;

export type ClassRow = { id: number; name: string; code: string; colour: number; keypoints: string[] | null } & Omit<
  ClassTally,
  "name"
>;

/** The class table: each class with its images, its objects, and its objects a split. */
export async function classTable(_actor: Actor, collectionId: number): Promise<ClassRow[]> {
  const [list, { rows, names }] = await Promise.all([
    db()
      .select()
      .from(classes)
      .where(eq(classes.collectionId, collectionId))
      .orderBy(asc(classes.position), asc(classes.id)),
    stockRows(collectionId),
  ]);
  const tallies = new Map(tallyClasses(rows, names).map((tally) => [tally.name, tally]));
  return list.map(({ id, name, code, colour, keypoints }) => {
    const tally = tallies.get(name);
    return {
      id,
      name,
      code,
      colour,
      keypoints,
      images: tally?.images ?? 0,
      objects: tally?.objects ?? 0,
      bySplit: tally?.bySplit ?? { train: 0, val: 0, test: 0, none: 0 },
    };
  });
}

export type NewClass = { name: string; keypoints?: string[] | undefined; skeleton?: [number, number][] | undefined };

/**
 * The ids of classes by name, in the given order; those that are not there are made at the list's end. `added` are the
 * new ones.
 */
export async function ensureClasses(
  tx: Transaction,
  collectionId: number,
  wanted: readonly NewClass[],
): Promise<{ ids: Map<string, number>; added: number[] }> {
  const known = await tx.select().from(classes).where(eq(classes.collectionId, collectionId));
  const ids = new Map(known.map((row) => [row.name, row.id]));
  const codes = new Set(known.map((row) => row.code));
  const added: number[] = [];
  let position = known.reduce((highest, row) => Math.max(highest, row.position + 1), 0);
  for (const { name, keypoints, skeleton } of wanted) {
    if (ids.has(name)) continue;
    const code = classCode(name, codes);
    codes.add(code);
    const [row] = await tx
      .insert(classes)
      .values({
        collectionId,
        name,
        code,
        colour: position % colourCount,
        position,
        keypoints: keypoints ?? null,
        skeleton: skeleton ?? null,
      })
      .returning({ id: classes.id });
    if (!row) throw new Failure("unexpected", "A class could not be written down.");
    ids.set(name, row.id);
    added.push(row.id);
    position++;
  }
  return { ids, added };
}

export const classListSchema = z.object({ text: z.string().max(5_000_000), fileName: z.string().max(255) });

/**
 * Makes the classes that a file lists and that are not there yet. Returns the list in its order, "" where a number has
 * no name.
 */
export async function loadClassList(
  actor: Actor,
  collectionId: number,
  input: z.infer<typeof classListSchema>,
): Promise<{ names: string[]; added: number }> {
  mustEdit(actor);
  const names = readClassNames(input.text, input.fileName);
  const given = names.filter((name) => name !== "");
  if (given.length === 0) throw new Failure("class-list-empty", "There is no class name in this file.");
  const long = given.find((name) => name.length > 200);
  if (long !== undefined)
    throw new Failure(
      "class-list-invalid",
      `"${long.slice(0, 60)}…" is too long for a class name; is it a list with one name a line?`,
    );
  const { added } = await db().transaction(async (tx) => {
    await tx.execute(sql`select id from collections where id = ${collectionId} for update`);
    return ensureClasses(
      tx,
      collectionId,
      given.map((name) => ({ name })),
    );
  });
  await announce({ kind: "collection", collection: collectionId });
  return { names, added: added.length };
}
