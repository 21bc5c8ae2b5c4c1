/** What the page of one version shows beside its numbers: data card, disk use, the pictures it makes. */
import { Failure } from "@larder/core/model/failure";
import { cardHtml, cardMarkdown, type DataCard } from "@larder/core/versions/data-card";
import { and, desc, eq, isNotNull, sql } from "drizzle-orm";
import type { Readable } from "node:stream";
import { z } from "zod";
import { blobs } from "../blobs/store";
import { db, transaction } from "../db/database";
import { rowOf } from "../db/query";
import { collections, packages, versionRenders, versions } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { thumbnail } from "../pixels/thumbnail";
import { allow } from "./access";
import type { Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { cardOf } from "./building/card";
import { classPictures } from "./building/class-pictures";
import { dropRenderings } from "./building/renderings";
import { frozenVersion } from "./versions";

/** Bytes on disk. `originals` are kept once for the stock and all versions; `shared` of the renderings other versions use. */
export type VersionDisk = {
  originals: { files: number; bytes: number };
  renderings: { files: number; bytes: number; shared: number };
  packages: { files: number; bytes: number };
  dropped: boolean;
};

const diskSchema = z.object({
  originals: z.coerce.number(),
  originalBytes: z.coerce.number(),
  renderings: z.coerce.number(),
  renderingBytes: z.coerce.number(),
  shared: z.coerce.number(),
});

async function diskOf(version: typeof versions.$inferSelect): Promise<VersionDisk> {
  const { id, collectionId, rendersDroppedAt } = version;
  const found = await rowOf(
    db(),
    diskSchema,
    sql`select o.files as originals, o.bytes as "originalBytes", r.files as renderings, r.bytes as "renderingBytes", r.shared
      from (select count(*) as files, coalesce(sum(i.bytes), 0) as bytes from version_sources s
          left join lateral (select bytes from images i where i.collection_id = ${collectionId} and i.sha256 = s.sha256 limit 1) i on true
          where s.version_id = ${id}) o,
        (select count(*) as files, coalesce(sum(bytes), 0) as bytes,
          coalesce(sum(bytes) filter (where exists (select 1 from version_renders x where x.key = r.key and x.version_id <> r.version_id)), 0) as shared
          from version_renders r where version_id = ${id}) r`,
  );
  const packed = await db()
    .select({ bytes: packages.bytes })
    .from(packages)
    .where(and(eq(packages.versionId, id), isNotNull(packages.bytes)));
  return {
    originals: { files: found?.originals ?? 0, bytes: found?.originalBytes ?? 0 },
    renderings: { files: found?.renderings ?? 0, bytes: found?.renderingBytes ?? 0, shared: found?.shared ?? 0 },
    packages: { files: packed.length, bytes: packed.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0) },
    dropped: rendersDroppedAt !== null,
  };
}

async function cardOfVersion(version: typeof versions.$inferSelect): Promise<DataCard> {
  const [collection] = await db()
    .select({ name: collections.name })
    .from(collections)
    .where(eq(collections.id, version.collectionId));
  const title = `${collection?.name ?? ""} v${version.number}: ${version.name}`;
  // Pictures that cannot be had any more keep nobody from reading the card.
  const pictures = await classPictures(version).catch(() => ({}));
  return cardOf(version, title, pictures);
}

export type VersionDetail = { card: DataCard; disk: VersionDisk };

/** The data card of a frozen version and what it takes on disk. */
export async function versionDetail(actor: Actor, id: number): Promise<VersionDetail> {
  await allow(actor, "see", { version: id });
  const version = await frozenVersion(id);
  const [card, disk] = await Promise.all([cardOfVersion(version), diskOf(version)]);
  return { card, disk };
}

/** The data card as a file: Markdown, or a page. */
export async function cardFile(actor: Actor, id: number, as: "md" | "html"): Promise<string> {
  await allow(actor, "see", { version: id });
  const card = await cardOfVersion(await frozenVersion(id));
  return as === "md" ? cardMarkdown(card) : cardHtml(card);
}

/** A frozen version's manifest: how each of its outputs came about, a line each. */
export async function manifestOf(actor: Actor, id: number): Promise<{ fileName: string; stream: Readable }> {
  await allow(actor, "download", { version: id });
  const { digest, number } = await frozenVersion(id);
  return { fileName: `v${number ?? id}.manifest.jsonl`, stream: await blobs().stream(digest) };
}

/** Keys of the pictures that a version made last, newest first. */
export async function newestRenderings(actor: Actor, id: number, limit: number): Promise<string[]> {
  await allow(actor, "see", { version: id });
  const rows = await db()
    .select({ key: versionRenders.key })
    .from(versionRenders)
    .where(and(eq(versionRenders.versionId, id), isNotNull(versionRenders.madeAt)))
    .orderBy(desc(versionRenders.madeAt))
    .limit(limit);
  return rows.map(({ key }) => key);
}

/** A small WebP of a picture that a version made. */
export async function renderingThumbnail(actor: Actor, id: number, key: string): Promise<Uint8Array> {
  await allow(actor, "see", { version: id });
  const [row] = await db()
    .select({ key: versionRenders.key })
    .from(versionRenders)
    .where(and(eq(versionRenders.versionId, id), eq(versionRenders.key, key), isNotNull(versionRenders.madeAt)));
  if (!row) throw new Failure("rendering-missing", "This version has made no such picture.", 404);
  return thumbnail(await blobs().readDerived("renders", key), Infinity);
}

/** Lets the pictures of a version go; they are made again when a package needs them, or on request. */
export async function dropVersionRenderings(actor: Actor, id: number): Promise<void> {
  const collection = await allow(actor, "build", { version: id });
  await transaction(async (tx) => {
    await changed(tx, collection, "versions");
    const [version] = await tx.select().from(versions).where(eq(versions.id, id)).for("update");
    if (version?.status !== "frozen")
      throw new Failure("version-missing", "There is no such version, or it is not built yet.", 404);
    if (version.rendersDroppedAt === null) await dropRenderings(tx, id);
  });
  await removeUnusedBlobs();
}

/** Makes the dropped pictures of a version again. */
export async function restoreVersionRenderings(actor: Actor, id: number): Promise<{ job: string }> {
  const collectionId = await allow(actor, "build", { version: id });
  const { number, rendersDroppedAt } = await frozenVersion(id);
  if (rendersDroppedAt === null) throw new Failure("renderings-there", "They are there.", 409);
  return transaction(async (tx) => {
    await changed(tx, collectionId, "versions");
    const title = `Making the images of v${number} again`;
    return { job: await addJob(actor, { kind: "build-version", subject: id, collectionId, title }, tx) };
  });
}
