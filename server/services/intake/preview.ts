/** What the intake sheet shows of single images and counts of them, before anything is stock. */
import { openPicture } from "@larder/core/formats/open-picture";
import { settle } from "@larder/core/formats/settle";
import { Failure } from "@larder/core/model/failure";
import { Findings, type Finding } from "@larder/core/model/finding";
import type { LabeledObject } from "@larder/core/model/item";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { proposeMatches, type Proposal } from "@larder/core/relabel/propose";
import { stringify } from "csv-stringify/sync";
import { unpackShape, unpackShapeOf } from "@larder/core/labels/stored-shape";
import { and, asc, eq, gt, inArray, isNull, sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { classes, deliveryItems, intakeSources } from "../../db/schema";
import { probe } from "../../pixels/probe";
import { thumbnail } from "../../pixels/thumbnail";
import { settings } from "../../settings";
import { rowOf, rowsOf } from "../../db/query";
import { allow } from "../access";
import type { Actor } from "../actor";
import { classNamesById } from "../labels/class-names";
import { objectColumns, objectRowSchema } from "../labels/load-labels";
import { unpackItem } from "./staged-item";
import type { Delivery } from "../../db/schema";
import { deliveryRow } from "../deliveries";
import { choicesOf, withDelivery } from "./open-delivery";

export const itemFilters = [
  "all",
  "labeled",
  "unlabeled",
  "empty",
  "findings",
  "in-stock",
  "near-copies",
  "unreadable",
  "left-out",
] as const;
export type ItemFilter = (typeof itemFilters)[number];
export const previewQuerySchema = z.object({
  filter: z.enum(itemFilters),
  finding: z.string().optional(),
  offset: z.number().int().min(0),
  limit: z.number().int().min(1).max(60),
});

export type PreviewItem = {
  ordinal: number;
  path: string;
  split: string | null;
  state: string;
  leftOut: boolean;
  unreadable: string | null;
  size: { width: number; height: number } | null;
  objects: LabeledObject[];
  classes: string[];
  findings: string[];
  takenAt: string | null;
  place: [number, number] | null;
  /** The image of the same bytes that is in stock already. */
  there: InStock | null;
  /** Another picture that is nearly the same: an image in stock, or another of this delivery, by its place in it. */
  near: (Shown & ({ image: number } | { ordinal: number })) | null;
};

type Shown = {
  name: string;
  size: { width: number; height: number } | null;
  objects: { class: string; shape: LabeledObject["shape"] }[];
};
type InStock = Shown & { id: number; state: string };

const sameBytes = (collectionId: number) =>
  sql`sha256 is not null and exists (select 1 from images i where i.collection_id = ${collectionId} and i.sha256 = delivery_items.sha256 and i.removed_at is null)`;
const nearCopy = sql`(near_ordinal is not null or near_image is not null)`;
const state = sql`coalesce(settled_state, state)`;
/** Being empty or unlabeled is a state with a filter of its own. */
const worthALook = sql`(unreadable is not null or exists (select 1 from jsonb_array_elements(findings) f where f->>'code' not in ('image-empty', 'image-unlabeled')))`;

function condition(filter: ItemFilter, collectionId: number): SQL {
  switch (filter) {
    case "all":
      return sql`true`;
    case "labeled":
    case "unlabeled":
    case "empty":
      return sql`${state} = ${filter} and unreadable is null`;
    case "findings":
      return worthALook;
    case "in-stock":
      return sameBytes(collectionId);
    case "near-copies":
      return nearCopy;
    case "unreadable":
      return sql`unreadable is not null`;
    case "left-out":
      return sql`left_out`;
  }
}

type StockRow = InStock & { sha256: string };

const inStockSchema = z.object({
  sha256: z.string(),
  id: z.coerce.number(),
  state: z.string(),
  name: z.string(),
  width: z.number(),
  height: z.number(),
});

/** Images in stock with their labels, those of some bytes and those of some ids. */
async function imagesInStock(
  collectionId: number,
  hashes: readonly string[],
  ids: readonly number[],
): Promise<StockRow[]> {
  if (hashes.length === 0 && ids.length === 0) return [];
  const images = await rowsOf(
    db(),
    inStockSchema,
    sql`select i.sha256, i.id, i.state, i.name, i.width, i.height from images i where i.collection_id = ${collectionId} and i.removed_at is null
      and (i.sha256 = any(${sql.param([...hashes])}::text[]) or i.id = any(${sql.param([...ids])}::bigint[]))`,
  );
  const names = await classNamesById(db(), collectionId);
  const objects = await rowsOf(
    db(),
    objectRowSchema,
    sql`select ${objectColumns} from objects o where o.image_id = any(${sql.param(images.map(({ id }) => id))}::bigint[]) order by o.image_id, o.ordinal, o.uid`,
  );
  return images.map(({ width, height, ...image }) => ({
    ...image,
    size: { width, height },
    objects: objects
      .filter((row) => row.image === image.id)
      .map(({ object }) => ({ class: names.get(object.class) ?? "", shape: object.shape })),
  }));
}

/** Others of the same delivery with their labels, by their place in it. */
async function othersOfDelivery(
  id: number,
  ordinals: readonly number[],
): Promise<Map<number, Shown & { ordinal: number }>> {
  if (ordinals.length === 0) return new Map();
  const rows = await db()
    .select({
      ordinal: deliveryItems.ordinal,
      name: deliveryItems.path,
      width: deliveryItems.width,
      height: deliveryItems.height,
      objects: deliveryItems.objects,
    })
    .from(deliveryItems)
    .where(and(eq(deliveryItems.deliveryId, id), inArray(deliveryItems.ordinal, [...ordinals])));
  return new Map(
    rows.map(({ ordinal, name, width, height, objects }) => [
      ordinal,
      {
        ordinal,
        name,
        size: width !== null && height !== null ? { width, height } : null,
        objects: (objects ?? []).map((object) => ({ class: object.class, shape: unpackShape(object.shape) })),
      },
    ]),
  );
}

/**
 * Images of a delivery as they would come in, with their labels settled on the files' real size; what was not looked
 * into yet is read on demand.
 */
export async function previewItems(
  actor: Actor,
  id: number,
  input: z.infer<typeof previewQuerySchema>,
): Promise<{ total: number; items: PreviewItem[] }> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const finding =
    input.finding === undefined
      ? sql`true`
      : input.finding === "image-unreadable"
        ? sql`unreadable is not null`
        : sql`findings @> ${JSON.stringify([{ code: input.finding }])}::jsonb`;
  const where = and(eq(deliveryItems.deliveryId, id), condition(input.filter, delivery.collectionId), finding);
  const [counts] = await db()
    .select({ total: sql<number>`count(*)::int` })
    .from(deliveryItems)
    .where(where);
  const rows = await db()
    .select()
    .from(deliveryItems)
    .where(where)
    .orderBy(asc(deliveryItems.ordinal))
    .offset(input.offset)
    .limit(input.limit);
  const total = counts?.total ?? 0;
  if (rows.length === 0) return { total, items: [] };
  const inStock = await imagesInStock(
    delivery.collectionId,
    rows.flatMap((row) => row.sha256 ?? []),
    rows.flatMap((row) => row.nearImage ?? []),
  );
  const others = await othersOfDelivery(
    id,
    rows.flatMap((row) => row.nearOrdinal ?? []),
  );
  const nearTo = (row: (typeof rows)[number]): PreviewItem["near"] => {
    if (row.nearOrdinal !== null) return others.get(row.nearOrdinal) ?? null;
    const image = inStock.find((one) => one.id === row.nearImage);
    return image ? { image: image.id, name: image.name, size: image.size, objects: image.objects } : null;
  };
  const said = rows.map((row): PreviewItem => {
    const { item } = row;
    return {
      ordinal: row.ordinal,
      path: row.path,
      split: row.split,
      leftOut: row.leftOut,
      classes: item.classes,
      state: row.settledState ?? row.state,
      unreadable: row.unreadable,
      size: row.width !== null && row.height !== null ? { width: row.width, height: row.height } : null,
      objects: (row.objects ?? []).map(({ box: _, area: __, ...object }) => unpackShapeOf(object)),
      findings: (row.findings ?? []).map(({ code }) => code),
      takenAt: row.takenAt?.replace(" ", "T") ?? null,
      place: row.latitude !== null && row.longitude !== null ? [row.latitude, row.longitude] : null,
      there: row.sha256 === null ? null : (inStock.find(({ sha256 }) => sha256 === row.sha256) ?? null),
      near: nearTo(row),
    };
  });
  if (rows.every((row) => row.ready || row.unreadable !== null)) return { total, items: said };
  return withDelivery(delivery, async ({ tree }) => {
    const items = await Promise.all(
      said.map(async (shown, index): Promise<PreviewItem> => {
        const row = rows[index];
        if (!row || row.ready || row.unreadable !== null) return shown;
        try {
          const facts = await probe(await openPicture(tree, unpackItem(row.item)), settings().limits.pixels);
          const settled = settle(unpackItem(row.item), facts, new Findings());
          return {
            ...shown,
            state: settled.state,
            size: { width: facts.width, height: facts.height },
            objects: settled.objects,
          };
        } catch (error) {
          if (!(error instanceof Failure)) throw error;
          return { ...shown, unreadable: error.message };
        }
      }),
    );
    return { total, items };
  });
}

/** A thumbnail: the one that was made when the picture was looked into, else made from the file. */
export async function previewPicture(actor: Actor, id: number, ordinal: number): Promise<Uint8Array> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const [row] = await db()
    .select({ item: deliveryItems.item, sha256: deliveryItems.sha256 })
    .from(deliveryItems)
    .where(and(eq(deliveryItems.deliveryId, id), eq(deliveryItems.ordinal, ordinal)));
  if (!row) throw new Failure("image-missing", "There is no such image in this delivery.", 404);
  if (row.sha256 !== null && (await blobs().hasDerived("thumbnails", row.sha256)))
    return blobs().readDerived("thumbnails", row.sha256);
  return withDelivery(delivery, async ({ tree }) => {
    const bytes = await openPicture(tree, unpackItem(row.item));
    await probe(bytes, settings().limits.pixels);
    return thumbnail(bytes, settings().limits.pixels);
  });
}

export type SheetNumbers = {
  all: number;
  labeled: number;
  unlabeled: number;
  empty: number;
  withFindings: number;
  inStock: number;
  nearCopies: number;
  unreadable: number;
  leftOut: number;
  /** Looked into so far. */
  looked: number;
  /**
   * How many pictures taking in would put into stock, and how many there would get labels, as things are decided now.
   */
  toTakeIn: number;
  toRelabel: number;
  findings: Finding[];
  matches: (Proposal & { remembered: boolean })[];
  /** The delivery from the same source whose decisions are proposed. */
  rememberedFrom: string | null;
};

const pictureFindingSchema = z.object({ code: z.string(), count: z.number(), examples: z.array(z.string()) });

/** Findings of single pictures as looking into them shows them, over those that annotations alone told of. */
async function findingsNow(delivery: Delivery, looked: number): Promise<Finding[]> {
  const report = new Findings();
  const foreseen = delivery.sheet?.findings ?? [];
  if (looked === 0) return foreseen;
  const rows = await rowsOf(
    db(),
    pictureFindingSchema,
    sql`select f->>'code' as code, sum((f->>'count')::int)::int as count, (array_agg(path order by ordinal))[1:3] as examples
      from delivery_items, jsonb_array_elements(findings) f where delivery_id = ${delivery.id} group by 1`,
  );
  const ofPictures = new Set(rows.map((row) => row.code));
  report.merge(foreseen.filter(({ code }) => !ofPictures.has(code)));
  for (const row of rows) {
    const foretold = foreseen.find(({ code }) => code === row.code);
    // What the reader itself dropped belongs to no picture; the larger number is the whole.
    report.merge([foretold && foretold.count > row.count ? foretold : { ...row, path: row.examples[0] ?? "" }]);
  }
  return report.list();
}

const whole = z.number();
const countsSchema = z.object({
  all: whole,
  labeled: whole,
  unlabeled: whole,
  empty: whole,
  withFindings: whole,
  inStock: whole,
  nearCopies: whole,
  unreadable: whole,
  leftOut: whole,
  looked: whole,
  takable: whole,
  replaceable: whole,
  addable: whole,
  fillable: whole,
});
type Counted = z.infer<typeof countsSchema>;

async function counted(delivery: Delivery): Promise<Counted> {
  const row = await rowOf(
    db(),
    countsSchema,
    sql`
    with rows as (
      select ordinal, sha256, ready, left_out, unreadable, ${state} as now, ${worthALook} as noteworthy, ${nearCopy} as near from delivery_items where delivery_id = ${delivery.id}
    ), met as (
      select r.*, i.id as there, i.state as state_there, row_number() over (partition by coalesce(r.sha256, r.ordinal::text), r.left_out order by r.ordinal) as nth
      from rows r left join images i on i.collection_id = ${delivery.collectionId} and i.sha256 = r.sha256 and i.removed_at is null
    )
    select count(*)::int as all,
      count(*) filter (where now = 'labeled' and unreadable is null)::int as labeled,
      count(*) filter (where now = 'unlabeled' and unreadable is null)::int as unlabeled,
      count(*) filter (where now = 'empty' and unreadable is null)::int as empty,
      count(*) filter (where noteworthy)::int as "withFindings",
      count(*) filter (where there is not null)::int as "inStock",
      count(*) filter (where near)::int as "nearCopies",
      count(*) filter (where unreadable is not null)::int as unreadable,
      count(*) filter (where left_out)::int as "leftOut",
      count(*) filter (where ready)::int as looked,
      count(*) filter (where not left_out and unreadable is null and there is null and nth = 1)::int as takable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now <> 'unlabeled')::int as replaceable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now = 'labeled')::int as addable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now <> 'unlabeled' and state_there <> 'labeled')::int as fillable
    from met`,
  );
  return row as Counted;
}

/** The live numbers of an intake sheet, from what is staged and decided. */
export async function sheetNumbers(actor: Actor, id: number): Promise<SheetNumbers> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const { takable, replaceable, addable, fillable, ...counts } = await counted(delivery);
  const { sameBytes: mode } = choicesOf(delivery);
  const known = await db()
    .select({ name: classes.name })
    .from(classes)
    .where(and(eq(classes.collectionId, delivery.collectionId), isNull(classes.mergedInto), isNull(classes.removedAt)))
    .orderBy(asc(classes.position), asc(classes.id));
  const [source] =
    delivery.sourceId === null
      ? []
      : await db().select().from(intakeSources).where(eq(intakeSources.id, delivery.sourceId));
  const matches = proposeMatches(
    (delivery.sheet?.classes ?? []).map(({ name }) => name),
    known.map(({ name }) => name),
  );
  const decided = choicesOf(delivery).classes;
  const undecided = matches.filter(
    ({ name, reason }) => reason !== "same" && reason !== "new" && decided[name] === undefined,
  );
  const report = new Findings();
  report.merge((await findingsNow(delivery, counts.looked)).filter(({ code }) => code !== "class-similar"));
  for (const { name, to } of undecided) report.add("class-similar", "", `"${name}" and "${to}"`);
  for (const [a, b] of lookAlikes(matches.map(({ name }) => name)))
    if (!undecided.some(({ name }) => name === a || name === b) && decided[a] === undefined && decided[b] === undefined)
      report.add("class-similar", "", `"${a}" and "${b}"`);
  if (counts.nearCopies > 0) report.add("near-copy", "", undefined, counts.nearCopies);
  return {
    ...counts,
    toTakeIn: takable,
    toRelabel: mode === "replace" ? replaceable : mode === "add" ? addable : mode === "fill" ? fillable : 0,
    findings: report.list(),
    matches: matches.map((match) => ({ ...match, remembered: source?.classes[match.name] !== undefined })),
    rememberedFrom: source && source.lastName !== "" ? source.lastName : null,
  };
}

/** The name of the picture that another is nearly the same as, in its delivery or in stock. */
const nameOfNear = sql<
  string | null
>`coalesce((select o.path from delivery_items o where o.delivery_id = delivery_items.delivery_id and o.ordinal = delivery_items.near_ordinal), (select i.name from images i where i.id = delivery_items.near_image))`;

/** The report of a delivery as CSV: a line a finding of the whole, then a line a picture and finding. */
export async function* deliveryReport(actor: Actor, id: number): AsyncIterable<string> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const line = (cells: readonly (string | number)[]) => stringify([cells], { escape_formulas: true });
  yield line(["severity", "code", "picture", "count", "what"]);
  const whole = delivery.status === "taken" ? delivery.findings : (await sheetNumbers(actor, id)).findings;
  for (const { severity, code, count, message } of whole) yield line([severity, code, "", count, message]);
  for (const name of delivery.sheet?.unmatched.names ?? [])
    yield line(["error", "image-missing", name, 1, "An annotation names this picture, which is not there."]);
  for (const name of delivery.sheet?.files.unusedNames ?? [])
    yield line(["info", "file-unused", name, 1, "This file was not read as an annotation."]);
  for (let last = -1; ;) {
    const rows = await db()
      .select({
        ordinal: deliveryItems.ordinal,
        path: deliveryItems.path,
        findings: deliveryItems.findings,
        unreadable: deliveryItems.unreadable,
        near: nameOfNear,
      })
      .from(deliveryItems)
      .where(
        and(
          eq(deliveryItems.deliveryId, id),
          gt(deliveryItems.ordinal, last),
          sql`(unreadable is not null or jsonb_array_length(findings) > 0 or ${nearCopy})`,
        ),
      )
      .orderBy(asc(deliveryItems.ordinal))
      .limit(1000);
    for (const { path, findings, unreadable, near } of rows) {
      if (near !== null) yield line(["info", "near-copy", path, 1, `It is nearly the same as ${near}.`]);
      if (unreadable !== null) yield line(["error", "image-unreadable", path, 1, unreadable]);
      for (const finding of findings ?? [])
        if (finding.code !== "image-unreadable")
          yield line([finding.severity, finding.code, path, finding.count, finding.message]);
    }
    const end = rows[rows.length - 1];
    if (!end) return;
    last = end.ordinal;
  }
}
