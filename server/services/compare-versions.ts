/** Two frozen versions of a collection compared, with pictures of what differs. */
import { Failure } from "@larder/core/model/failure";
import { planToYaml } from "@larder/core/plans/plan-text";
import { upgradePlan } from "@larder/core/plans/upgrade";
import { compareVersions, HeldImages, type ComparedGroup, type VersionComparison } from "@larder/core/versions/compare";
import { and, eq, inArray, isNull } from "drizzle-orm";
import { blobs } from "../blobs/store";
import { db } from "../db/database";
import { images, versions } from "../db/schema";
import { allow } from "./access";
import type { Actor } from "./actor";
import { manifestLines } from "../blobs/manifest-lines";

type Side = {
  number: number;
  name: string;
  frozenAt: Date | null;
  digest: string;
  images: number;
  objects: number;
  bySplit: Record<string, { images: number; objects: number }>;
  yaml: string;
};
/** `stock` gives the id of each named image that is in stock, by the hash of its bytes. */
export type ComparedVersions = VersionComparison & { first: Side; second: Side; stock: Record<string, number> };

async function frozen(collection: number, number: number): Promise<Side> {
  const [row] = await db()
    .select()
    .from(versions)
    .where(and(eq(versions.collectionId, collection), eq(versions.number, number), eq(versions.status, "frozen")));
  if (!row?.digest || !row.numbers)
    throw new Failure("version-missing", `This collection has no version v${number}.`, 404);
  const { name, frozenAt, digest, numbers, plan } = row;
  const { images: all, objects, bySplit } = numbers;
  return { number, name, frozenAt, digest, images: all, objects, bySplit, yaml: planToYaml(upgradePlan(plan)) };
}

async function heldBy(digest: string): Promise<HeldImages> {
  const held = new HeldImages();
  for await (const line of manifestLines(await blobs().stream(digest))) held.add(line);
  return held;
}

export async function comparedVersions(
  actor: Actor,
  collection: number,
  numbers: { first: number; second: number },
): Promise<ComparedVersions> {
  await allow(actor, "see", { collection });
  const [first, second] = await Promise.all([frozen(collection, numbers.first), frozen(collection, numbers.second)]);
  const [before, after] = await Promise.all([heldBy(first.digest), heldBy(second.digest)]);
  const comparison = compareVersions(before, after);
  const groups: ComparedGroup[] = [
    comparison.onlyFirst,
    comparison.onlySecond,
    comparison.relabeled,
    ...comparison.moved,
  ];
  const hashes = [...new Set(groups.flatMap((group) => group.images.map(({ source }) => source)))];
  const rows =
    hashes.length === 0
      ? []
      : await db()
          .select({ id: images.id, sha256: images.sha256 })
          .from(images)
          .where(and(eq(images.collectionId, collection), isNull(images.removedAt), inArray(images.sha256, hashes)));
  return { ...comparison, first, second, stock: Object.fromEntries(rows.map(({ id, sha256 }) => [sha256, id])) };
}
