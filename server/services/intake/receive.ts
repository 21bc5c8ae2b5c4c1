/** How deliveries begin: each source is written down as where to read from, and reading starts. */
import { readAddressList } from "@larder/core/intake/address-list";
import { allChoices, type IntakeChoices } from "@larder/core/intake/choices";
import { noFacts, type DeliveryFacts } from "@larder/core/intake/facts";
import { Failure } from "@larder/core/model/failure";
import { unsafeName } from "@larder/core/model/file-tree";
import { and, eq, sql } from "drizzle-orm";
import { existsSync } from "node:fs";
import { mkdir, rename, copyFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { selectionSchema } from "@larder/core/selection/chosen";
import { z } from "zod";
import { transaction, type Transaction } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { deliveries, deliveryFiles, intakeSources, type Origin } from "../../db/schema";
import { changed } from "../../jobs/events";
import { namedPlace } from "../../files/named-place";
import { FolderTree } from "../../files/folder-tree";
import { checkAddress } from "../../files/fetch-address";
import { settings } from "../../settings";
import { allow } from "../access";
import type { Actor } from "../actor";
import { holdBlobs } from "../../db/blob-lock";
import { collectionRow } from "../collections";
import { deliveryName, deliveryRow, readAgain, startReading } from "../deliveries";
import { untilDeliveryRests } from "./delivery-jobs";
import { addressListFile, serverFolder } from "./origin";
import { knownFiles } from "./stock-tree";
import { sampleNamed } from "./samples";
import { uploadFolder } from "./sent-files";

/** The name proposed for a delivery: its source's, made legible, and the day. */
export function proposedName(source: string, day: Date): string {
  const stem = source
    .replace(/(\.tar)?\.(zip|tar|gz|tgz|pdf)$/i, "")
    .replace(/[_-]+/g, " ")
    .trim();
  const legible = stem === "" ? "Delivery" : (stem[0] as string).toUpperCase() + stem.slice(1);
  return `${legible.slice(0, 90)}, ${day.toLocaleDateString("en-GB", { day: "numeric", month: "long" })}`;
}

/**
 * What stays the same from one delivery to the next of the same source: an archive's name without dates and numbers.
 */
function recurringName(source: string): string {
  return source
    .replace(/(\.tar)?\.[a-z0-9]{2,4}$/i, "")
    .toLowerCase()
    .replace(/[\d_\-. ]+/g, " ")
    .trim();
}

function locationOf(origin: Origin, source: string): string {
  switch (origin.kind) {
    case "files":
      return `files ${recurringName(source)}`;
    case "folder":
      return `folder ${path.posix.join(origin.root, origin.path)}`;
    case "bucket":
      return `bucket ${origin.bucket} ${origin.prefix}`;
    case "addresses":
      return `addresses ${recurringName(source)}`;
    case "collection":
      return `collection ${origin.collection}`;
    case "sample":
      return `sample ${origin.sample}`;
  }
}

type Beginning = {
  collectionId: number;
  source: string;
  origin: Origin;
  name?: string | undefined;
  imageClass?: string | null | undefined;
  facts?: Partial<DeliveryFacts> | undefined;
  decided?: Partial<IntakeChoices> | undefined;
};

async function begin(
  actor: Actor,
  { collectionId, source, origin, name, imageClass, facts, decided }: Beginning,
): Promise<number> {
  await allow(actor, "deliver", { collection: collectionId });
  return transaction(async (tx) => {
    await changed(tx, collectionId, "deliveries");
    const given = name ?? proposedName(source, new Date());
    const [row] = await tx
      .insert(deliveries)
      .values({
        collectionId,
        name: deliveryName.parse(given),
        source,
        status: "begun",
        createdBy: actor.id,
        origin,
        facts: { ...noFacts, ...facts },
      })
      .returning({ id: deliveries.id });
    const deliveryId = row?.id as number;
    const [known] = await tx
      .insert(intakeSources)
      .values({ collectionId, location: locationOf(origin, source) })
      .onConflictDoUpdate({
        target: [intakeSources.collectionId, intakeSources.location],
        set: { location: sql`excluded.location` },
      })
      .returning();
    const choices = allChoices({ classes: known?.classes ?? {}, imageClass: imageClass ?? null, ...decided });
    await tx
      .update(deliveries)
      .set({ sourceId: known?.id ?? null, choices })
      .where(eq(deliveries.id, deliveryId));
    return deliveryId;
  });
}

export type Received = { id: number; job: string };

async function beginAndRead(actor: Actor, beginning: Beginning): Promise<Received> {
  const id = await begin(actor, beginning);
  return { id, ...(await readAgain(actor, id)) };
}

export const uploadSchema = z.object({
  source: z.string().trim().min(1).max(255),
  name: z.string().optional(),
  imageClass: z.string().trim().min(1).max(200).nullish(),
});

/** Begins a delivery whose files will be sent; reading starts when `filesArrived` says that all are there. */
export async function beginUpload(
  actor: Actor,
  collectionId: number,
  input: z.infer<typeof uploadSchema>,
): Promise<{ id: number }> {
  const id = await begin(actor, {
    collectionId,
    ...input,
    origin: { kind: "files" },
  });
  await mkdir(uploadFolder(id), { recursive: true });
  return { id };
}

/** From its first file on a delivery stands in the book. */
async function markArriving(tx: Transaction, collection: number, id: number): Promise<void> {
  await changed(tx, collection, "deliveries");
  await tx
    .update(deliveries)
    .set({ status: "arriving" })
    .where(and(eq(deliveries.id, id), eq(deliveries.status, "begun")));
}

/**
 * Where a file sent for a delivery has to be put. Throws a Failure for a path that would leave its folder, and where
 * nothing is waited for.
 */
export async function placeForFile(actor: Actor, id: number, relative: string): Promise<string> {
  await allow(actor, "deliver", { delivery: id });
  const delivery = await deliveryRow(id);
  if (delivery.origin.kind !== "files" || !["begun", "arriving", "read", "failed"].includes(delivery.status))
    throw new Failure(
      "delivery-busy",
      "Files can be added until a delivery is taken in, while it is not being read.",
      409,
    );
  const clean = relative.replaceAll("\\", "/").replace(/^(\.?\/)+/, "");
  const unsafe = clean === "" ? "it has no name" : unsafeName(clean);
  if (unsafe) throw new Failure("entry-unsafe", `"${relative.slice(0, 200)}" is not taken: ${unsafe}.`);
  if (delivery.status === "begun") await transaction((tx) => markArriving(tx, delivery.collectionId, id));
  return namedPlace(uploadFolder(id), clean);
}

export const knownSchema = z.object({
  files: z.array(z.object({ path: z.string().min(1).max(4000), sha256: z.string().regex(/^[0-9a-f]{64}$/) })).max(5000),
});

/**
 * Of files that would be sent, those whose bytes are in this collection's stock: they need not be, and are noted as
 * part of the delivery.
 */
export async function noteKnownFiles(
  actor: Actor,
  id: number,
  input: z.infer<typeof knownSchema>,
): Promise<{ known: string[] }> {
  const collection = await allow(actor, "deliver", { delivery: id });
  return transaction(async (tx) => {
    // From here on no sweep takes away what is counted on.
    await holdBlobs(tx);
    const rows = await rowsOf(
      tx,
      z.object({ path: z.string(), sha256: z.string(), bytes: z.coerce.number() }),
      sql`select f.path, f.sha256, i.bytes from jsonb_to_recordset(${JSON.stringify(input.files)}::jsonb) as f(path text, sha256 text)
        join images i on i.collection_id = ${collection} and i.sha256 = f.sha256 and i.removed_at is null`,
    );
    const safe = rows.filter((row) => unsafeName(row.path) === null);
    if (safe.length > 0)
      await tx
        .insert(deliveryFiles)
        .values(safe.map((row) => ({ deliveryId: id, ...row })))
        .onConflictDoNothing();
    if (safe.length > 0) await markArriving(tx, collection, id);
    return { known: safe.map((row) => row.path) };
  });
}

/** The files that have arrived for a delivery, or were spared because their bytes are in stock. */
export async function arrivedFiles(actor: Actor, id: number): Promise<{ path: string; size: number }[]> {
  await allow(actor, "see", { delivery: id });
  const sent = await new FolderTree(uploadFolder(id)).entries().catch(() => []);
  const spared = await knownFiles(id);
  return [...sent, ...spared.map(({ path: name, bytes }) => ({ path: name, size: bytes }))];
}

/** Whether anything was sent for a delivery, or spared from being sent. */
export async function hasArrived(tx: Transaction, id: number): Promise<boolean> {
  return existsSync(uploadFolder(id)) && (await bytesOf(tx, id)) > 0;
}

/** How much was sent for a delivery, or spared from being sent because its bytes are in stock. */
async function bytesOf(tx: Transaction, id: number): Promise<number> {
  const sent = await new FolderTree(uploadFolder(id)).entries();
  const spared = await numberOf(
    tx,
    sql`select coalesce(sum(bytes), 0) as n from delivery_files where delivery_id = ${id}`,
  );
  return sent.reduce((sum, { size }) => sum + size, spared);
}

/** Says that what was to be sent is there: reading starts. Saying it again is harmless. */
export async function filesArrived(actor: Actor, id: number): Promise<Received> {
  const collection = await allow(actor, "deliver", { delivery: id });
  await untilDeliveryRests(id);
  return transaction(async (tx) => {
    const { job } = await startReading(tx, actor, collection, id);
    await tx
      .update(deliveries)
      .set({ bytes: await bytesOf(tx, id) })
      .where(eq(deliveries.id, id));
    return { id, job };
  });
}

/**
 * Brings one archive that lies on this machine, which is moved to Larder's own folder (or copied, where `keep` is
 * set).
 */
export async function receiveArchive(
  actor: Actor,
  input: {
    collectionId: number;
    archive: string;
    fileName: string;
    name?: string;
    keep?: boolean;
    facts?: Partial<DeliveryFacts>;
  },
): Promise<Received> {
  const { collectionId, archive, fileName, name, facts } = input;
  const id = await begin(actor, {
    collectionId,
    source: fileName,
    name,
    facts,
    origin: { kind: "files" },
  });
  await mkdir(uploadFolder(id), { recursive: true });
  const target = path.join(uploadFolder(id), fileName);
  if (input.keep) await copyFile(archive, target);
  else await rename(archive, target);
  return filesArrived(actor, id);
}

export const sourceSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("folder"), root: z.string(), path: z.string().default("") }),
  z.object({ kind: z.literal("bucket"), bucket: z.string(), prefix: z.string().max(1000).default("") }),
  z.object({
    kind: z.literal("addresses"),
    list: z.string().max(50_000_000),
    fileName: z.string().trim().min(1).max(255).default("addresses"),
    keep: z.enum(["copy", "link"]),
  }),
  z.object({
    kind: z.literal("collection"),
    collection: z.number().int().positive(),
    class: z.string().nullable().default(null),
    selection: selectionSchema.nullable().default(null),
    labels: z.boolean(),
    /** Whether what is taken in leaves the other collection. */
    move: z.boolean().optional(),
  }),
  z.object({ kind: z.literal("sample"), sample: z.string() }),
]);
export type SourceInput = z.infer<typeof sourceSchema>;

/**
 * Begins a delivery from a source that is not sent from a browser, and reads it. Scanning one again brings what is new
 * or changed.
 */
export async function receiveFrom(
  actor: Actor,
  collectionId: number,
  input: SourceInput,
  decided?: Partial<IntakeChoices>,
): Promise<Received> {
  await allow(actor, "deliver", { collection: collectionId });
  switch (input.kind) {
    case "folder": {
      await serverFolder(input.root, input.path);
      return beginAndRead(actor, {
        collectionId,
        source: path.posix.join(input.root, input.path),
        name: proposedName(path.posix.basename(path.posix.join(input.root, input.path)), new Date()),
        origin: { kind: "folder", root: input.root, path: input.path },
      });
    }
    case "bucket": {
      if (!settings().buckets.some(({ name }) => name === input.bucket))
        throw new Failure(
          "bucket-missing",
          `There is no bucket called ${input.bucket} in the settings (LARDER_BUCKETS).`,
          404,
        );
      const prefix = input.prefix.replace(/^\/+|\/+$/g, "");
      return beginAndRead(actor, {
        collectionId,
        source: `${input.bucket}/${prefix}`,
        name: proposedName(prefix.split("/").at(-1) || input.bucket, new Date()),
        origin: { kind: "bucket", bucket: input.bucket, prefix },
      });
    }
    case "addresses": {
      const { addresses, problems } = readAddressList(input.list);
      if (problems.length > 0)
        throw new Failure(
          "address-invalid",
          `${problems.length === 1 ? "One line holds" : `${problems.length} lines hold`} no web address: ${problems.slice(0, 3).join("; ")}.`,
        );
      if (addresses.length === 0) throw new Failure("address-invalid", "There is no web address in this list.");
      for (const { url } of addresses) checkAddress(url, settings().addresses);
      const id = await begin(actor, {
        collectionId,
        source: `${input.fileName}, ${addresses.length} ${addresses.length === 1 ? "address" : "addresses"}`,
        name: proposedName(input.fileName.replace(/\.(txt|csv|tsv)$/i, ""), new Date()),
        origin: { kind: "addresses", keep: input.keep },
      });
      await mkdir(uploadFolder(id), { recursive: true });
      await writeFile(path.join(uploadFolder(id), addressListFile), input.list);
      return { id, ...(await readAgain(actor, id)) };
    }
    case "collection": {
      if (input.collection === collectionId)
        throw new Failure("same-collection", "These images are in this collection already. Choose another one.");
      await allow(actor, input.move ? "label" : "download", { collection: input.collection });
      const { name } = await collectionRow(input.collection);
      return beginAndRead(actor, {
        collectionId,
        source: input.class ? `${name}, class ${input.class}` : name,
        name: proposedName(`From ${name}`, new Date()),
        origin: input,
        decided,
      });
    }
    case "sample": {
      const { title, licence, citation } = sampleNamed(input.sample);
      return beginAndRead(actor, {
        collectionId,
        source: `Sample: ${title}`,
        name: proposedName(title, new Date()),
        facts: { source: "Larder's shelf of samples", licence, citation },
        origin: { kind: "sample", sample: input.sample },
      });
    }
  }
}

/** Reads a source again that a delivery came from: a delivery of its own with what is new or changed. */
export async function scanAgain(actor: Actor, id: number): Promise<Received> {
  await allow(actor, "deliver", { delivery: id });
  const { origin, collectionId } = await deliveryRow(id);
  if (origin.kind === "folder" || origin.kind === "bucket") return receiveFrom(actor, collectionId, origin);
  throw new Failure("not-a-scan", "Only folders of the server and buckets can be scanned again.", 409);
}
