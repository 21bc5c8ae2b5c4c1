/** The images that a version makes: registered before they are there, made once for all packages, dropped, made again. */
import { kindOf, renderKey, type ReadLine } from "@larder/core/versions/manifest";
import { eq, sql } from "drizzle-orm";
import type { Readable } from "node:stream";
import { blobs } from "../../blobs/store";
import { holdBlobs } from "../../db/blob-lock";
import { type Transaction } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { versionRenders, versions } from "../../db/schema";
import { changed } from "../../jobs/events";
import type { Ending, JobContext } from "../../jobs/handler";
import { imagesUnderWay, renderOutputs } from "../../pixels/render-pool";
import { readSource } from "../source-bytes";
import { nameCandidates } from "../name-candidates";
import { manifestHeader, manifestLines } from "../../blobs/manifest-lines";

type Write = JobContext["write"];

const rendersAtOnce = 500;

/** Says which renderings a version needs, some at a time: from then on no sweep removes them. */
export class RenderingRegister {
  private keys: string[] = [];

  constructor(
    private readonly version: number,
    private readonly write: Write,
  ) {}

  async add(key: string): Promise<void> {
    this.keys.push(key);
    if (this.keys.length >= rendersAtOnce) await this.flush();
  }

  async flush(): Promise<void> {
    const keys = this.keys.splice(0);
    if (keys.length === 0) return;
    await this.write(async (tx) => {
      await holdBlobs(tx);
      await tx.execute(
        sql`insert into version_renders (version_id, key) select ${this.version}::bigint, unnest(${sql.param(keys)}::text[]) on conflict do nothing`,
      );
    });
  }
}

/** The lines of a manifest that belong to one image, one image after the other. */
async function* linesByImage(manifest: NodeJS.ReadableStream): AsyncGenerator<ReadLine[]> {
  let lines: ReadLine[] = [];
  for await (const line of manifestLines(manifest)) {
    if (lines[0] && lines[0].source !== line.source) {
      yield lines;
      lines = [];
    }
    lines.push(line);
  }
  if (lines.length > 0) yield lines;
}

/** Writes down which renderings are there and how long they are, some at a time. */
class MadeRenderings {
  private made: { key: string; bytes: number }[] = [];

  constructor(
    private readonly version: number,
    private readonly write: Write,
  ) {}

  add(key: string, bytes: number): void {
    this.made.push({ key, bytes });
  }

  /** Writes once so many are new. Not to be called while another call is under way. */
  async flush(atLeast: number): Promise<void> {
    if (this.made.length < Math.max(1, atLeast)) return;
    const made = this.made.splice(0);
    await this.write((tx) =>
      tx.execute(sql`update version_renders r set bytes = m.bytes, made_at = now()
        from unnest(${sql.param(made.map(({ key }) => key))}::text[], ${numberList(made.map(({ bytes }) => bytes))}) as m(key, bytes)
        where r.version_id = ${this.version} and r.key = m.key`),
    );
  }
}

/** After so many renderings a page that looks on is shown the newest. */
const shownAfter = 24;

/**
 * Renders what a version makes and is not in the store yet, all cores at once; a run that was cut short goes on where it
 * was. What came out is kept for all packages. `open` gives the manifest's bytes from their beginning.
 */
export async function renderAll(
  version: number,
  open: () => Promise<Readable> | Readable,
  { progress, write }: { progress: (done: number) => Promise<void>; write: Write },
): Promise<void> {
  const store = blobs();
  const { images } = await manifestHeader(await open());
  const written = new MadeRenderings(version, write);
  let done = 0;
  const one = async (lines: readonly ReadLine[]) => {
    const missing: { line: ReadLine; key: string }[] = [];
    for (const line of lines) {
      if (!line.made) continue;
      const key = renderKey(line, images);
      const bytes = await store.derivedSize("renders", key);
      if (bytes === null) missing.push({ line, key });
      else written.add(key, bytes);
    }
    if (missing.length > 0) {
      const outputs = missing.map(({ line }) => ({ recipe: line.recipe, kind: kindOf(line.name) }));
      const files = await renderOutputs(outputs, images.quality, readSource);
      for (const [at, { key }] of missing.entries()) {
        const file = files[at] as Uint8Array;
        await store.putDerived("renders", key, file);
        written.add(key, file.length);
      }
    }
    done += lines.length;
    await progress(done);
  };
  // A few images ahead of the work, so that no core waits for another: a version of any size is never held whole.
  const underWay = new Set<Promise<void>>();
  const failed: unknown[] = [];
  for await (const lines of linesByImage(await open())) {
    const made: Promise<void> = one(lines)
      .catch((error: unknown) => void failed.push(error))
      .finally(() => underWay.delete(made));
    underWay.add(made);
    if (underWay.size >= imagesUnderWay()) await Promise.race(underWay);
    if (failed.length > 0) break;
    await written.flush(shownAfter);
  }
  await Promise.all(underWay);
  if (failed.length > 0) throw failed[0];
  await written.flush(1);
}

/**
 * Lets a version's renderings go: their bytes are named for sweeping, where no other version needs them. They can be
 * made again from the manifest.
 */
export async function dropRenderings(tx: Transaction, version: number): Promise<void> {
  await nameCandidates(tx, sql`select 'render', key from version_renders where version_id = ${version}`);
  await tx.delete(versionRenders).where(eq(versionRenders.versionId, version));
  await tx.update(versions).set({ rendersDroppedAt: new Date() }).where(eq(versions.id, version));
}

/** Makes the renderings of a frozen version again, where they were dropped; returns what is to be written then. */
export async function restoreRenderings(
  {
    id,
    collectionId,
    digest,
    rendersDroppedAt,
    numbers,
  }: Pick<typeof versions.$inferSelect, "id" | "collectionId" | "digest" | "rendersDroppedAt" | "numbers">,
  { progress, write }: Pick<JobContext, "progress" | "write">,
): Promise<Ending | void> {
  if (digest === null || rendersDroppedAt === null) return;
  const open = () => blobs().stream(digest);
  const { images } = await manifestHeader(await open());
  const register = new RenderingRegister(id, write);
  for await (const line of manifestLines(await open())) if (line.made) await register.add(renderKey(line, images));
  await register.flush();
  const total = numbers?.images ?? 0;
  await renderAll(id, open, { write, progress: (done) => progress(done, total, "Making the images again") });
  return async (tx) => {
    await changed(tx, collectionId, "versions");
    await tx.update(versions).set({ rendersDroppedAt: null }).where(eq(versions.id, id));
  };
}
