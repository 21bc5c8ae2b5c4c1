/**
 * Features of large collections as files beside the database, as it sent them: what a process that was started anew reads
 * in a tenth of the time. Each file holds what was made after a number, up to another; nothing depends on there being one.
 */
import { mkdir, open, readdir, readFile, rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import type pg from "pg";
import { z } from "zod";
import { isLeftBehind, processMark } from "../files/process-mark";
import { settings } from "../settings";

const folder = () => path.join(settings().home, "features");
const fileOf = (collection: number, after: number) => path.join(folder(), `${collection}-${after}`);

/** Of a file that is being written, whose it is; "" of a whole one. */
const markIn = (name: string): string => (name.includes(".") ? name.slice(name.indexOf(".") + 1) : "");

/** What has to be the same in the database for a file to be what it would send. `born`: when the collection was made. */
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
 * Keeps what the database sent of the features that a collection got after a number, within the transaction that it was
 * read in. Where it cannot be written (a full disk), it is not kept.
 */
export async function keepFeatures(
  client: pg.ClientBase,
  collection: number,
  after: number,
  bytes: Uint8Array,
): Promise<void> {
  const holding = await holdingOf(client, collection, { after, upTo: Number.MAX_SAFE_INTEGER });
  const file = fileOf(collection, after);
  const unfinished = `${file}.${processMark()}`;
  try {
    await mkdir(folder(), { recursive: true });
    for (const name of await readdir(folder())) if (isLeftBehind(markIn(name))) await rm(path.join(folder(), name));
    const handle = await open(unfinished, "w");
    try {
      await handle.writeFile(`${JSON.stringify(holding)}\n`);
      await handle.writeFile(bytes);
    } finally {
      await handle.close();
    }
    await rename(unfinished, file);
  } catch {
    await rm(unfinished, { force: true });
  }
}

/** About how many bytes of features are kept of a collection. */
export async function keptFeatureBytes(collection: number): Promise<number> {
  const sizes = (await filesOf(collection)).map(async (file) => (await stat(file).catch(() => null))?.size ?? 0);
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}

/** What is kept of a collection's features and still is what the database would send, oldest first; for `rowsOfBytes`. */
export async function* keptFeatures(client: pg.ClientBase, collection: number): AsyncGenerator<Uint8Array> {
  for (let after = 0; ;) {
    const content = await readFile(fileOf(collection, after)).catch(() => null);
    const end = content?.indexOf("\n") ?? -1;
    if (!content || end < 0) return;
    const kept = holdingSchema.safeParse(parsed(content.toString("utf8", 0, end)));
    if (!kept.success || kept.data.upTo <= after) return;
    const now = await holdingOf(client, collection, { after, upTo: kept.data.upTo });
    if (JSON.stringify(now) !== JSON.stringify(kept.data)) return;
    yield content.subarray(end + 1);
    after = kept.data.upTo;
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

async function filesOf(collection: number): Promise<string[]> {
  const names = await readdir(folder()).catch(() => []);
  return names.filter((name) => name.startsWith(`${collection}-`)).map((name) => path.join(folder(), name));
}

/** Removes what is kept of a collection's features. */
export async function removeKeptFeatures(collection: number): Promise<void> {
  for (const file of await filesOf(collection)) await rm(file, { force: true });
}
