/**
 * Features of large collections as files beside the database, as it sent them: what a process that was started anew reads
 * in a tenth of the time. The worker that learns them keeps them. Each file holds what was made after a number, up to
 * another; nothing depends on there being one.
 */
import { mkdir, open, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import type pg from "pg";
import { z } from "zod";
import { steadyRead } from "../db/database";
import { isLeftBehind, processMark } from "../files/process-mark";
import { settings } from "../settings";
import { copyPieces } from "./copy-out";
import { featuresQuery } from "./features-query";

/** Fewer rows than this are read from the database sooner than they are worth a file. */
export const rowsWorthKeeping = 5000;

const folder = () => path.join(settings().home, "features");
const fileOf = (collection: number, after: number) => path.join(folder(), `${collection}-${after}`);

/** Of a file that is being written, whose it is; "" of a whole one. */
const markIn = (name: string): string => (name.includes(".") ? name.slice(name.indexOf(".") + 1) : "");

/** What the database had when a file was written. `born`: when the collection was made. */
const holdingSchema = z.object({ rows: z.number(), sum: z.string(), upTo: z.number(), born: z.string() });
type Holding = z.infer<typeof holdingSchema>;

async function holdingOf(
  client: pg.ClientBase,
  collection: number,
  { after, upTo }: { after: number; upTo: number },
): Promise<Holding> {
  const { rows } = await client.query(
    `select count(*)::int as rows, coalesce(sum(f.made), 0)::text as sum, coalesce(max(f.made), 0)::float8 as "upTo",
        (select extract(epoch from created_at)::text from collections where id = $1) as born
      from image_features f where f.collection_id = $1 and f.made > $2 and f.made <= $3`,
    [collection, after, upTo],
  );
  return holdingSchema.parse(rows[0]);
}

/**
 * Whether a file still has all that the database would send. What was learned anew since has a higher number and takes the
 * place of what the file has; what is gone is asked for by nobody. Where that is most of it, it is kept anew.
 */
const holds = (kept: Holding, now: Holding): boolean =>
  now.born === kept.born &&
  (now.rows === kept.rows ? now.sum === kept.sum : now.rows < kept.rows && now.rows >= kept.rows / 2);

const mostHeaderBytes = 400;

/** What a file begins with, and where what follows starts; null where it is something else. */
async function headerOf(file: string): Promise<{ kept: Holding; start: number } | null> {
  const handle = await open(file).catch(() => null);
  if (!handle) return null;
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(mostHeaderBytes), 0, mostHeaderBytes, 0);
    const end = buffer.subarray(0, bytesRead).indexOf("\n");
    const kept = holdingSchema.safeParse(parsed(buffer.toString("utf8", 0, Math.max(0, end))));
    return kept.success ? { kept: kept.data, start: end + 1 } : null;
  } finally {
    await handle.close();
  }
}

/** The files of a collection that still hold, each going on where the one before ends. */
async function* filesThatHold(client: pg.ClientBase, collection: number) {
  for (let after = 0; ;) {
    const file = fileOf(collection, after);
    const header = await headerOf(file);
    if (!header || header.kept.upTo <= after) return;
    const { upTo } = header.kept;
    if (!holds(header.kept, await holdingOf(client, collection, { after, upTo }))) return;
    yield { file, upTo, start: header.start };
    after = upTo;
  }
}

/** Keeps what a collection got of features since some were kept last, where that is many or `least` asks for fewer. */
export async function keepNewFeatures(collection: number, least = rowsWorthKeeping): Promise<void> {
  await steadyRead(async (_, client) => {
    let after = 0;
    for await (const { upTo } of filesThatHold(client, collection)) after = upTo;
    const holding = await holdingOf(client, collection, { after, upTo: Number.MAX_SAFE_INTEGER });
    if (holding.rows >= least) await write(client, collection, after, holding);
  });
}

/** Writes a file, within the transaction that `holding` was read in. Where it cannot be (a full disk), nothing is kept. */
async function write(client: pg.ClientBase, collection: number, after: number, holding: Holding): Promise<void> {
  const file = fileOf(collection, after);
  const unfinished = `${file}.${processMark()}`;
  await mkdir(folder(), { recursive: true });
  for (const name of await readdir(folder())) if (isLeftBehind(markIn(name))) await rm(path.join(folder(), name));
  try {
    const handle = await open(unfinished, "w");
    try {
      await handle.writeFile(`${JSON.stringify(holding)}\n`);
      await writeFile(handle, copyPieces(client, featuresQuery(collection, after)));
    } finally {
      await handle.close();
    }
    await rename(unfinished, file);
  } catch {
    await rm(unfinished, { force: true });
    return;
  }
  // What went on from numbers behind this one no longer goes on from anything.
  for (const other of await filesOf(collection)) if (startOf(other) > after) await rm(other, { force: true });
}

/** About how many bytes of features are kept of a collection. */
export async function keptFeatureBytes(collection: number): Promise<number> {
  const sizes = (await filesOf(collection)).map(async (file) => (await stat(file).catch(() => null))?.size ?? 0);
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}

/** What is kept of a collection's features that were made after a number, oldest first; for `rowsOfBytes`. */
export async function* keptFeatures(
  client: pg.ClientBase,
  collection: number,
  after: number,
): AsyncGenerator<Uint8Array> {
  for await (const { file, upTo, start } of filesThatHold(client, collection)) {
    if (upTo <= after) continue;
    const content = await readFile(file).catch(() => null);
    if (!content) return;
    yield content.subarray(start);
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** The number after which what is in a file was made. */
const startOf = (file: string): number => Number.parseInt(path.basename(file).split("-")[1] ?? "", 10);

async function filesOf(collection: number): Promise<string[]> {
  const names = await readdir(folder()).catch(() => []);
  return names.filter((name) => name.startsWith(`${collection}-`)).map((name) => path.join(folder(), name));
}

/** Removes what is kept of a collection's features. */
export async function removeKeptFeatures(collection: number): Promise<void> {
  for (const file of await filesOf(collection)) await rm(file, { force: true });
}
