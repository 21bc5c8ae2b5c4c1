/** Pictures out of a table, by row; the last row group stays in memory because rows are mostly asked for in turn. */
import { parquetMetadataAsync, parquetReadObjects, type FileMetaData } from "hyparquet";
import { Failure } from "../../model/failure";
import type { FileTree } from "../../model/file-tree";
import { fileBuffer } from "./file-buffer";

type Held = { file: string; metadata: FileMetaData; first: number; images: (Uint8Array | null)[] };

const openTables = new WeakMap<FileTree, Held>();

/** Row groups as `[first row, row after the last]`. */
export function rowGroups(metadata: FileMetaData): [number, number][] {
  let first = 0;
  return metadata.row_groups.map((group): [number, number] => {
    const start = first;
    first += Number(group.num_rows);
    return [start, first];
  });
}

/** The bytes a row's `image` holds; null where it has none. */
export function imageBytes(image: unknown): Uint8Array | null {
  if (image instanceof Uint8Array) return image;
  if (typeof image !== "object" || image === null || !("bytes" in image)) return null;
  return image.bytes instanceof Uint8Array ? image.bytes : null;
}

/** The picture in row `row` of `file`. Throws a Failure where it is not there. */
export async function readImageRow(files: FileTree, file: string, row: number): Promise<Uint8Array> {
  let table = openTables.get(files);
  if (!table || table.file !== file || row < table.first || row >= table.first + table.images.length) {
    const buffer = await fileBuffer(files, file);
    const metadata = table?.file === file ? table.metadata : await parquetMetadataAsync(buffer);
    const group = rowGroups(metadata).find(([start, end]) => row >= start && row < end);
    if (!group) throw new Failure("file-missing", `${file} has no row ${row}.`);
    const rows = await parquetReadObjects({
      file: buffer,
      metadata,
      utf8: false,
      columns: ["image"],
      rowStart: group[0],
      rowEnd: group[1],
    });
    table = { file, metadata, first: group[0], images: rows.map((entry) => imageBytes(entry["image"])) };
    openTables.set(files, table);
  }
  const bytes = table.images[row - table.first];
  if (!bytes) throw new Failure("file-missing", `Row ${row} of ${file} holds no picture.`);
  return bytes;
}
