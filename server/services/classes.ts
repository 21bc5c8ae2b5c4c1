import type { ClassTally } from "@larder/core/checks/tally";
import { Failure } from "@larder/core/model/failure";
import { and, asc, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { attributeMisfit, attributeSchemaSchema, type AttributeSchema } from "@larder/core/model/attribute-schema";
import type { Step } from "@larder/core/labels/step";
import { db, transaction, type Transaction } from "../db/database";
import { classes } from "../db/schema";
import { changed } from "../jobs/events";
import type { ClassExample } from "@larder/core/snapshot/class-examples";
import { ask } from "../snapshot/ask";
import { allow } from "./access";
import type { Actor } from "./actor";

export type ClassRow = {
  id: number;
  name: string;
  code: string;
  colour: number;
  keypoints: string[] | null;
  pairs: [number, number][] | null;
  skeleton: [number, number][] | null;
  attributes: AttributeSchema[];
  parent: number | null;
  /** Names that stand for it: its former ones, and those of classes that were merged into it. */
  formerly: string[];
  /** Deliveries that something of it came with. */
  deliveries: number;
  examples: ClassExample[];
} & Omit<ClassTally, "name">;

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
  const [list, former, tallied, shown] = await Promise.all([
    standingClasses(collection),
    formerNames(collection),
    ask("classes", collection, undefined),
    ask("classExamples", collection, undefined),
  ]);
  const tallies = new Map(tallied.map((tally) => [tally.name, tally]));
  return list.map(({ id, name, code, colour, keypoints, skeleton, pairs, attributes, parentId }) => {
    const tally = tallies.get(name);
    return {
      ...{ id, name, code, colour, keypoints, skeleton, pairs, attributes, parent: parentId },
      formerly: former.get(id) ?? [],
      deliveries: shown.get(id)?.deliveries ?? 0,
      examples: shown.get(id)?.examples ?? [],
      images: tally?.images ?? 0,
      objects: tally?.objects ?? 0,
      bySplit: tally?.bySplit ?? { train: 0, val: 0, test: 0, none: 0 },
    };
  });
}

/** By a class's id the names that stand for it, through any number of mergers. */
async function formerNames(collection: number): Promise<Map<number, string[]>> {
  const rows = await db()
    .select({ id: classes.id, name: classes.name, into: classes.mergedInto })
    .from(classes)
    .where(eq(classes.collectionId, collection));
  const into = new Map(rows.map((row) => [row.id, row.into]));
  const names = new Map<number, string[]>();
  for (const row of rows) {
    if (row.into === null) continue;
    let end = row.into;
    for (let next = into.get(end) ?? null; next !== null; next = into.get(end) ?? null) end = next;
    names.set(end, [...(names.get(end) ?? []), row.name]);
  }
  return names;
}

export const classAttributesSchema = z
  .array(attributeSchemaSchema)
  .max(100)
  .refine((list) => new Set(list.map(({ name }) => name)).size === list.length, "Two attributes have one name.");

/** Says which attributes a class carries, and what may be said of each. What objects say already stays as it is. */
export async function setClassAttributes(
  actor: Actor,
  id: number,
  input: z.input<typeof classAttributesSchema>,
): Promise<void> {
  const collection = await allow(actor, "label", { class: id });
  const attributes = classAttributesSchema.parse(input);
  await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    await tx.update(classes).set({ attributes }).where(eq(classes.id, id));
  });
}

/** Throws where a step says of an object what the attributes of its class do not allow. */
export async function checkAttributes(
  tx: Transaction,
  collection: number,
  steps: readonly Step[],
  classOf: (uid: string) => number | undefined,
): Promise<void> {
  const attributes = steps.flatMap((step): { class: number | undefined; name: string; value: unknown }[] => {
    if (step.do === "set-attribute" && step.value !== null)
      return [{ class: classOf(step.uid), name: step.name, value: step.value }];
    if (step.do !== "add-object") return [];
    return Object.entries(step.object.attributes ?? {}).map(([name, value]) => ({
      class: step.object.class,
      name,
      value,
    }));
  });
  if (attributes.length === 0) return;
  const rows = await tx.select().from(classes).where(eq(classes.collectionId, collection));
  for (const { class: id, name, value } of attributes) {
    const attribute = rows.find((row) => row.id === id)?.attributes.find((candidate) => candidate.name === name);
    const misfit = attribute ? attributeMisfit(attribute, value) : null;
    if (misfit) throw new Failure("attribute-misfit", misfit, 422);
  }
}
