import { tallyClasses, type ClassTally } from "@larder/core/checks/balance";
import { asc, eq } from "drizzle-orm";
import { db } from "../db/database";
import { classes } from "../db/schema";
import type { Actor } from "./actor";
import { stockRows } from "./stock-rows";

export type ClassRow = { id: number; name: string; code: string; colour: number; keypoints: string[] | null } & Omit<ClassTally, "name">;

/** The class table: each class with its images, its objects, and its objects a split. */
export async function classTable(_actor: Actor, collectionId: number): Promise<ClassRow[]> {
  const [list, { rows, names }] = await Promise.all([
    db().select().from(classes).where(eq(classes.collectionId, collectionId)).orderBy(asc(classes.position), asc(classes.id)),
    stockRows(collectionId),
  ]);
  const tallies = new Map(tallyClasses(rows, names).map((tally) => [tally.name, tally]));
  return list.map(({ id, name, code, colour, keypoints }) => {
    const tally = tallies.get(name);
    return { id, name, code, colour, keypoints, images: tally?.images ?? 0, objects: tally?.objects ?? 0, bySplit: tally?.bySplit ?? { train: 0, val: 0, test: 0, none: 0 } };
  });
}
