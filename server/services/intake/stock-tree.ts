import { Failure } from "@larder/core/model/failure";
import type { FileEntry } from "@larder/core/model/file-tree";
import { and, eq, isNull, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { deliveryFiles, images } from "../../db/schema";
import { WholeFiles } from "../../files/whole-files";
import { readSource } from "../source-bytes";

export type StoredFile = { path: string; sha256: string; bytes: number };

/** Pictures that are in the store, under the paths given, as a file tree. */
export class StockTree extends WholeFiles {
  private readonly byPath: Map<string, StoredFile>;

  constructor(files: readonly StoredFile[]) {
    super();
    this.byPath = new Map(files.map((file) => [file.path, file]));
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve([...this.byPath.values()].map(({ path, bytes }) => ({ path, size: bytes })));
  }

  read(path: string): Promise<Uint8Array> {
    const file = this.byPath.get(path);
    if (!file) return Promise.reject(new Failure("file-missing", `There is no ${path} in stock.`));
    return readSource(file.sha256);
  }
}

/** The pictures of a collection by name; names that stand more than once are told apart by their delivery. */
export async function stockFiles(collectionId: number, keys?: readonly string[]): Promise<StoredFile[]> {
  const rows = await db()
    .select({
      path: images.name,
      sha256: images.sha256,
      bytes: images.bytes,
      delivery: images.deliveryId,
      extension: images.extension,
    })
    .from(images)
    .where(
      and(
        eq(images.collectionId, collectionId),
        isNull(images.removedAt),
        keys ? sql`${images.sha256} = any(${sql.param([...keys])}::text[])` : undefined,
      ),
    )
    .orderBy(images.id);
  const often = new Map<string, number>();
  for (const { path } of rows) often.set(path, (often.get(path) ?? 0) + 1);
  return rows.map(({ path, sha256, bytes, delivery, extension }) => {
    // A picture out of a container may have a name without an extension.
    const named = /\.[A-Za-z]{3,5}$/.test(path) ? path : `${path}.${extension}`;
    return { path: (often.get(path) ?? 0) > 1 ? `delivery ${delivery}/${named}` : named, sha256, bytes };
  });
}

/** Files of a delivery that were not sent because their bytes were there. */
export async function knownFiles(deliveryId: number): Promise<StoredFile[]> {
  return db()
    .select({ path: deliveryFiles.path, sha256: deliveryFiles.sha256, bytes: deliveryFiles.bytes })
    .from(deliveryFiles)
    .where(eq(deliveryFiles.deliveryId, deliveryId));
}
