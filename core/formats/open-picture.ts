import { Failure } from "../model/failure";
import type { FileTree } from "../model/file-tree";
import type { Item } from "../model/item";
import { concatenate } from "./concatenate";
import { readImageRow } from "./parquet/image-rows";

/** The bytes of an item's picture, whether it is a file of its own or lies inside another. */
export async function openPicture(files: FileTree, item: Pick<Item, "path" | "inside">): Promise<Uint8Array> {
  const { inside } = item;
  if (!inside) return files.read(item.path);
  if ("row" in inside) return readImageRow(files, inside.file, inside.row);
  const pieces: Uint8Array[] = [];
  for (const [offset, length] of inside.pieces) {
    const piece = await files.readRange(inside.file, offset, offset + length);
    if (piece.length !== length) throw new Failure("file-missing", `${inside.file} is shorter than it was.`);
    pieces.push(piece);
  }
  return pieces.length === 1 && pieces[0] ? pieces[0] : concatenate(pieces);
}
