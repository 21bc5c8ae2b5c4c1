/** What is typed into a ledger becomes steps: one act a call; what somebody else changed meanwhile is refused and told. */
import { attributeValueSchema } from "@larder/core/model/item";
import { cellText, parseCell } from "@larder/core/ledger/cell-text";
import { cellSteps } from "@larder/core/ledger/cell-steps";
import {
  cellValue,
  columnTitle,
  sameValue,
  type CellValue,
  type LedgerColumn,
  type LedgerRow,
} from "@larder/core/ledger/column";
import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { transaction, type Transaction } from "../../db/database";
import { acts } from "../../db/schema";
import { changed } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";
import { standingClasses } from "../classes";
import { changeLabels } from "../labels/change-labels";
import { ledgerColumns } from "./columns";
import { ledgerRowsOf } from "./rows";

const cellSchema = z.object({
  image: z.number().int(),
  column: z.string().max(300),
  /** What it is to say, and what it said as far as the person saw. */
  value: attributeValueSchema.nullable(),
  before: attributeValueSchema.nullable(),
});
export const cellsSchema = z.array(cellSchema).min(1).max(20_000);
export type CellChange = z.infer<typeof cellSchema>;

export type RefusedCell = { image: number; column: string; now: CellValue };
export type SavedCells = { act: number | null; saved: number; rows: LedgerRow[]; refused: RefusedCell[] };

const mostImages = 1000;

const imagesText = (n: number) => `${n.toLocaleString("en-US")} ${n === 1 ? "image" : "images"}`;

function textOf(cells: readonly { column: LedgerColumn; value: CellValue }[], images: number): string {
  const titles = [...new Set(cells.map(({ column }) => columnTitle(column)))];
  const [only] = cells;
  if (images === 1 && cells.length === 1 && only)
    return only.value === null
      ? `took ${titles[0]} off an image`
      : `set ${titles[0]} of an image to ${cellText(only.value).slice(0, 80)}`;
  return `filled in ${titles.slice(0, 4).join(", ")}${titles.length > 4 ? " and more" : ""} of ${imagesText(images)}`;
}

/** A change as its column takes it. Throws a Failure where the column is gone or the value does not fit it. */
export function checkedCell(columns: ReadonlyMap<string, LedgerColumn>, { column: key, value }: CellChange) {
  const column = columns.get(key);
  if (!column) throw new Failure("column-missing", "There is no such column in this ledger any more.", 404);
  const parsed = parseCell(column, cellText(value));
  if ("misfit" in parsed) throw new Failure("cell-misfit", parsed.misfit, 422);
  return { column, value: parsed.value };
}

/**
 * Writes cells in the caller's transaction, as one act. A cell that says something else by now than its `before` is left
 * as it is.
 */
export async function writeCells(
  tx: Transaction,
  actor: Actor,
  collection: number,
  columns: ReadonlyMap<string, LedgerColumn>,
  changes: readonly CellChange[],
): Promise<SavedCells> {
  const revision = await changed(tx, collection, "stock", "classes", "shelf");
  const classIds = new Map((await standingClasses(collection)).map(({ id, name }) => [name, id]));
  const ids = [...new Set(changes.map(({ image }) => image))];
  const standing = new Map((await ledgerRowsOf(tx, collection, ids)).map((row) => [row.id, row]));
  const refused: RefusedCell[] = [];
  const byImage = new Map<number, { column: LedgerColumn; value: CellValue }[]>();
  for (const change of changes) {
    const row = standing.get(change.image);
    if (!row) throw new Failure("image-missing", "One of these images is not in stock any more.", 404);
    const cell = checkedCell(columns, change);
    const now = cellValue(row, cell.column);
    if (sameValue(now, cell.value)) continue;
    if (!sameValue(now, change.before)) refused.push({ image: row.id, column: change.column, now });
    else byImage.set(row.id, [...(byImage.get(row.id) ?? []), cell]);
  }
  const cells = [...byImage.values()].flat();
  if (cells.length === 0) return { act: null, saved: 0, rows: [...standing.values()], refused };
  const [row] = await tx
    .insert(acts)
    .values({ collectionId: collection, kind: "edit", text: textOf(cells, byImage.size), actor: actor.id })
    .returning({ id: acts.id });
  const act = row?.id as number;
  let images = 0;
  const wanted = [...byImage.keys()];
  for (let at = 0; at < wanted.length; at += mostImages) {
    const done = await changeLabels(
      tx,
      { act, collection, revision },
      wanted.slice(at, at + mostImages),
      ({ labels }, image) => cellSteps(byImage.get(image) ?? [], labels, (name) => classIds.get(name) ?? 0),
      // A state follows from all that is said, objects among it.
      { objects: "whole" },
    );
    images += done.changed;
  }
  await tx.update(acts).set({ status: "done", images }).where(eq(acts.id, act));
  return { act, saved: cells.length, rows: await ledgerRowsOf(tx, collection, ids), refused };
}

/** Writes what was typed, pasted or filled down, of at most 1,000 images. */
export async function setCells(
  actor: Actor,
  collection: number,
  input: z.input<typeof cellsSchema>,
): Promise<SavedCells> {
  await allow(actor, "label", { collection });
  const changes = cellsSchema.parse(input);
  if (new Set(changes.map(({ image }) => image)).size > mostImages)
    throw new Failure(
      "cells-many",
      `Cells of ${mostImages.toLocaleString("en-US")} images are written at a time.`,
      422,
    );
  const columns = new Map((await ledgerColumns(actor, collection)).map((column) => [column.key as string, column]));
  return transaction((tx) => writeCells(tx, actor, collection, columns, changes));
}
