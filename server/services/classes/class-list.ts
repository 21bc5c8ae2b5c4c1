/** A collection's class list as a file, out and in. */
import { keepableName, longestClassName } from "@larder/core/model/class-name";
import { Failure } from "@larder/core/model/failure";
import {
  classListKinds,
  classListText,
  readClassListFile,
  type ClassEntry,
} from "@larder/core/relabel/class-list-file";
import { eq, inArray } from "drizzle-orm";
import { z } from "zod";
import { transaction, type Transaction } from "../../db/database";
import { classes } from "../../db/schema";
import { changed } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";
import { standingClasses } from "../classes";
import { refuseTakenCode } from "./change-class";
import { ensureClasses } from "./ensure-classes";

export const classFileSchema = z.object({ as: z.enum(classListKinds) });

/** The class list as a text with a name a line, as CSV, or as JSON with everything. */
export async function classFile(
  actor: Actor,
  collection: number,
  { as }: z.infer<typeof classFileSchema>,
): Promise<string> {
  await allow(actor, "see", { collection });
  const rows = await standingClasses(collection);
  const names = new Map(rows.map(({ id, name }) => [id, name]));
  return classListText(
    rows.map(({ name, code, colour, parentId, supercategory, attributes, keypoints, skeleton, pairs }) => ({
      ...{ name, code, colour, parent: parentId === null ? null : (names.get(parentId) ?? null) },
      ...{ supercategory, attributes, keypoints, skeleton, pairs },
    })),
    as,
  );
}

export const classListSchema = z.object({ text: z.string().max(5_000_000), fileName: z.string().max(255) });

/** Brings a class in line with what a file says of it. */
async function applyEntry(
  tx: Transaction,
  collection: number,
  id: number,
  entry: ClassEntry,
  ids: ReadonlyMap<string, number>,
): Promise<void> {
  const { name: _, code, parent, ...facts } = entry;
  if (code !== undefined) await refuseTakenCode(tx, collection, id, code);
  const parentId = parent === null || parent === undefined ? null : (ids.get(keepableName(parent)) ?? null);
  if (parentId === id || (parent && parentId === null))
    throw new Failure(
      "class-list-invalid",
      `"${entry.name}" stands under "${parent ?? ""}", which is no other class of the list.`,
    );
  const set = {
    ...Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined)),
    ...(code === undefined ? {} : { code }),
    ...(parent === undefined ? {} : { parentId }),
  };
  if (Object.keys(set).length > 0) await tx.update(classes).set(set).where(eq(classes.id, id));
}

/**
 * Makes the classes that a file lists and that are not there yet, and takes over what it says of all of them. Returns the
 * list in its order, "" where a number has no name.
 */
export async function loadClassList(
  actor: Actor,
  collection: number,
  input: z.infer<typeof classListSchema>,
): Promise<{ names: string[]; added: number }> {
  await allow(actor, "deliver", { collection });
  const listed = readClassListFile(input.text, input.fileName);
  const names = listed.map(({ name }) => keepableName(name));
  const given = listed.filter((_, n) => names[n] !== "");
  if (given.length === 0) throw new Failure("class-list-empty", "There is no class name in this file.");
  const long = listed.find(({ name }) => name.length > longestClassName);
  if (long)
    throw new Failure(
      "class-list-invalid",
      `"${long.name.slice(0, 60)}…" is too long for a class name; is it a list with one name a line?`,
    );
  const added = await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    const { ids, added: made } = await ensureClasses(
      tx,
      collection,
      given.map(({ name }) => ({ name: keepableName(name) })),
    );
    const told = given.filter((entry) => Object.keys(entry).length > 1);
    // Codes may change hands within the list: all are put aside first.
    const taking = told.flatMap((entry) => (entry.code === undefined ? [] : [ids.get(keepableName(entry.name)) ?? 0]));
    const codes = told.flatMap(({ code }) => code ?? []);
    const clash = codes.find((code, n) => codes.indexOf(code) !== n);
    if (clash !== undefined)
      throw new Failure("class-code-taken", `Two classes of this list have the code ${clash}.`, 409);
    if (taking.length > 0) await tx.update(classes).set({ code: "" }).where(inArray(classes.id, taking));
    for (const entry of told) await applyEntry(tx, collection, ids.get(keepableName(entry.name)) ?? 0, entry, ids);
    return made.length;
  });
  return { names, added };
}
