import type { ClassTally } from "@larder/core/checks/balance";
import { Failure } from "@larder/core/model/failure";
import { readClassNames } from "@larder/core/relabel/class-names-file";
import { and, asc, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { classes } from "../db/schema";
import { changed } from "../jobs/events";
import { ask } from "../snapshot/ask";
import { allow } from "./access";
import type { Actor } from "./actor";
import { ensureClasses } from "./classes/ensure-classes";

export type ClassRow = { id: number; name: string; code: string; colour: number; keypoints: string[] | null } & Omit<
  ClassTally,
  "name"
>;

/** The classes of a collection that are in use: neither merged into others nor gone with their delivery. */
export async function standingClasses(collection: number): Promise<(typeof classes.$inferSelect)[]> {
  return db()
    .select()
    .from(classes)
    .where(and(eq(classes.collectionId, collection), isNull(classes.mergedInto), isNull(classes.removedAt)))
    .orderBy(asc(classes.position), asc(classes.id));
}

/** The class table: each class with its images, its objects, and its objects a split. */
export async function classTable(actor: Actor, collection: number): Promise<ClassRow[]> {
  await allow(actor, "see", { collection });
  const [list, tallied] = await Promise.all([standingClasses(collection), ask("classes", collection, undefined)]);
  const tallies = new Map(tallied.map((tally) => [tally.name, tally]));
  return list.map(({ id, name, code, colour, keypoints }) => {
    const tally = tallies.get(name);
    return {
      ...{ id, name, code, colour, keypoints },
      images: tally?.images ?? 0,
      objects: tally?.objects ?? 0,
      bySplit: tally?.bySplit ?? { train: 0, val: 0, test: 0, none: 0 },
    };
  });
}

export const classListSchema = z.object({ text: z.string().max(5_000_000), fileName: z.string().max(255) });

/**
 * Makes the classes that a file lists and that are not there yet. Returns the list in its order, "" where a number has
 * no name.
 */
export async function loadClassList(
  actor: Actor,
  collection: number,
  input: z.infer<typeof classListSchema>,
): Promise<{ names: string[]; added: number }> {
  await allow(actor, "deliver", { collection });
  const names = readClassNames(input.text, input.fileName);
  const given = names.filter((name) => name !== "");
  if (given.length === 0) throw new Failure("class-list-empty", "There is no class name in this file.");
  const long = given.find((name) => name.length > 200);
  if (long !== undefined)
    throw new Failure(
      "class-list-invalid",
      `"${long.slice(0, 60)}…" is too long for a class name; is it a list with one name a line?`,
    );
  const { added } = await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    return ensureClasses(
      tx,
      collection,
      given.map((name) => ({ name })),
    );
  });
  return { names, added: added.length };
}
