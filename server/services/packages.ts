/** Packages of versions: made, deleted, served, and the links under which they can be fetched for a while. */
import { checkedOptions } from "@larder/core/formats/options";
import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { Failure } from "@larder/core/model/failure";
import { and, eq, sql } from "drizzle-orm";
import type { Readable } from "node:stream";
import { z } from "zod";
import { blobs } from "../blobs/store";
import { db, transaction } from "../db/database";
import { packages } from "../db/schema";
import { changed } from "../jobs/events";
import { allow } from "./access";
import type { Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { addPackage } from "./building/build-version";
import { frozenVersion } from "./versions";
import { nameCandidates } from "./name-candidates";

export type Package = typeof packages.$inferSelect;

export const packageSchema = z.object({
  format: z.string(),
  options: z.record(z.string(), z.string()).optional(),
});

/** Packs a frozen version in one more format, or again where packing failed. */
export async function startPackage(
  actor: Actor,
  versionId: number,
  input: z.infer<typeof packageSchema>,
): Promise<{ job: string }> {
  await allow(actor, "build", { version: versionId });
  if (!packageFormats.includes(input.format))
    throw new Failure(
      "format-unknown",
      `A package cannot be written as "${input.format}". It can be: ${packageFormats.join(", ")}.`,
    );
  const options = checkedOptions(formatNamed(input.format), input.options ?? {});
  const version = await frozenVersion(versionId);
  const { number } = version;
  if (number === null) throw new Failure("version-missing", "A packed selection is packed once.", 409);
  return transaction(async (tx) => {
    await changed(tx, version.collectionId, "versions");
    const [known] = await tx
      .select()
      .from(packages)
      .where(and(eq(packages.versionId, versionId), eq(packages.format, input.format)));
    if (known && known.status !== "failed")
      throw new Failure("package-there", `v${number} is packed as ${input.format} already.`, 409);
    if (known) await tx.delete(packages).where(eq(packages.id, known.id));
    return { job: await addPackage(tx, version, number, { format: input.format, options, by: actor.id }) };
  });
}

/** Deletes a package; the same one can be packed again from its version. */
export async function deletePackage(actor: Actor, id: number): Promise<void> {
  const collection = await allow(actor, "build", { package: id });
  await transaction(async (tx) => {
    await changed(tx, collection, "versions", "shelf");
    const [row] = await tx.select().from(packages).where(eq(packages.id, id)).for("update");
    if (row?.status === "packing")
      throw new Failure("package-busy", "It is being packed. Stop that first, or wait for its end.", 409);
    if (row?.sha256) await nameCandidates(tx, sql`select 'blob', ${row.sha256}::text`);
    await tx.delete(packages).where(eq(packages.id, id));
  });
  await removeUnusedBlobs();
}

/** A package that is ready, for serving its bytes. */
export async function readyPackage(actor: Actor, id: number): Promise<Package & { sha256: string; bytes: number }> {
  await allow(actor, "download", { package: id });
  const [row] = await db().select().from(packages).where(eq(packages.id, id));
  if (!row || row.status !== "ready" || !row.sha256 || row.bytes === null)
    throw new Failure("package-missing", "There is no such package, or it is not packed yet.", 404);
  return { ...row, sha256: row.sha256, bytes: row.bytes };
}

/** The bytes of a package, or a range of them, both ends included. */
export async function packageStream(
  actor: Actor,
  id: number,
  range?: { start: number; end: number },
): Promise<Readable> {
  const { sha256 } = await readyPackage(actor, id);
  return blobs().stream(sha256, range);
}
