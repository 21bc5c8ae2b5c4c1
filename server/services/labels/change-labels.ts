/**
 * The one door through which labels change: steps are applied, rows written, and what takes them back is kept beside the
 * act they belong to.
 */
import { shapeArea, shapeBounds } from "@larder/core/geometry/shape";
import { thumbnailOutline } from "@larder/core/geometry/thumbnail-outline";
import { applySteps } from "@larder/core/labels/apply";
import type { Labels, StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import { packShape } from "@larder/core/labels/stored-shape";
import { packStep } from "@larder/core/labels/stored-step";
import { Failure } from "@larder/core/model/failure";
import { objectFlags, type Size } from "@larder/core/model/item";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import type { Transaction } from "../../db/database";
import { numberList, uuidList } from "../../db/array-literal";
import { executeInTurn, rowsOf } from "../../db/query";
import { distinctValues } from "../../db/distinct-values";
import { noteStockChanges } from "../../db/stock-changes";
import { onceEach } from "../../once-each";
import { loadLabels, unreadShape, type ObjectReading, type StandingLabels } from "./load-labels";

/** The act that changes come from; `revision` is the collection's new one (`changed`). */
export type LabelAct = { act: number; collection: number; revision: number };

/** Of an image: the steps to take, worked out on the labels as they stand; null leaves it out as one that is in the way. */
export type Steps = (standing: StandingLabels, id: number) => readonly Step[] | null;

export type Changes = { /** Images that changed. */ changed: number; /** Images left as they are. */ left: number };

/** What steps make of labels, and what takes them back. */
type Change = { before: Labels; after: Labels; steps: readonly Step[]; inverse: Step[] };
type Changed = { id: number; size: Size; revision: number; counts: StandingLabels["counts"]; change: Change };

/** What steps make of labels; null where they do not fit. */
function changeBy(before: Labels, steps: readonly Step[]): Change | null {
  try {
    return { before, steps, ...applySteps(before, steps) };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    return null;
  }
}

const shapeSteps = new Set<Step["do"]>(["add-object", "remove-object", "set-shape"]);
/** Steps that change what is said of objects, or the classes that are counted with them. */
const sayingSteps = new Set<Step["do"]>([
  "set-class",
  "set-attribute",
  "set-flag",
  "order-object",
  "group-objects",
  "add-class",
  "remove-class",
]);

/** The objects that a step names. */
const namedBy = (step: Step): string[] =>
  step.do === "group-objects" ? Object.keys(step.groups) : "uid" in step ? [step.uid] : [];

/** What has to be read of images' objects for steps to be taken on them. */
export function readingFor(steps: readonly Step[]): ObjectReading {
  if (steps.some((step) => shapeSteps.has(step.do))) return "whole";
  const saying = steps.filter((step) => sayingSteps.has(step.do));
  return saying.length > 0 ? { named: { uids: saying.flatMap(namedBy) } } : "none";
}

const widths = ["none", "named", "whole"];
const widthOf = (reading: ObjectReading) => widths.indexOf(typeof reading === "string" ? reading : "named");

/** Steps that say nothing about what is on the picture. */
const housekeepingSteps = new Set<Step["do"]>(["set-split", "pin", "set-presence"]);

/**
 * Applies steps to images within an act. Steps that do not fit an image leave it as it is. `objects` says what any step
 * may look at of objects.
 */
export async function changeLabels(
  tx: Transaction,
  { act, collection, revision }: LabelAct,
  ids: readonly number[],
  steps: Steps,
  { objects }: { objects: ObjectReading },
): Promise<Changes> {
  const standing = await loadLabels(tx, ids, { objects });
  // Images that share their labels and what is done to them are changed once.
  const changesOf = onceEach((labels: Labels) => onceEach((taken: readonly Step[]) => changeBy(labels, taken)));
  const widthNeeded = onceEach((taken: readonly Step[]) => widthOf(readingFor(taken)));
  const changes: Changed[] = [];
  let left = 0;
  for (const [id, { labels, size, revision, counts }] of standing) {
    const taken = steps({ labels, size, revision, counts }, id);
    if (taken?.length === 0) continue;
    if (taken && widthNeeded(taken) > widthOf(objects))
      throw new Error("more of objects has to be read for these steps");
    const change = taken && changesOf(labels)(taken);
    if (change) changes.push({ id, size, revision, counts, change });
    else left++;
  }
  const { free, taken: inTheWay } = await withoutTakenPlaces(tx, changes);
  if (free.length > 0) {
    await executeInTurn(tx, writesOf(act, free));
    const ids = free.map(({ id }) => id);
    await noteStockChanges(tx, { collection, revision }, sql`select unnest(${numberList(ids)}) as id`);
    await returnClasses(tx, act);
  }
  return { changed: free.length, left: left + inTheWay };
}

/** An image that comes out of the bin stays there where the same bytes are in stock again by now. */
async function withoutTakenPlaces(tx: Transaction, changes: Changed[]): Promise<{ free: Changed[]; taken: number }> {
  const returning = changes.filter(({ change }) => change.after.present && !change.before.present).map(({ id }) => id);
  if (returning.length === 0) return { free: changes, taken: 0 };
  const rows = await rowsOf(
    tx,
    z.object({ id: z.coerce.number() }),
    sql`select i.id from images i where i.id = any(${numberList(returning)}) and exists (
      select 1 from images o where o.collection_id = i.collection_id and o.sha256 = i.sha256 and o.removed_at is null)`,
  );
  const inTheWay = new Set(rows.map(({ id }) => id));
  return { free: changes.filter(({ id }) => !inTheWay.has(id)), taken: inTheWay.size };
}

/** What is said of an object beside where it lies, as its columns hold it. */
function sayingColumns(object: StockObject) {
  const flags = Object.fromEntries(
    objectFlags.flatMap((flag) => (object[flag] === undefined ? [] : [[flag, object[flag]] as const])),
  );
  return {
    class_id: object.class,
    ordinal: object.order,
    group_uid: object.group ?? null,
    attributes: object.attributes ?? null,
    flags: object.givenArea === undefined ? flags : { ...flags, givenArea: object.givenArea },
  };
}

/** An object as its columns hold it; the mask as base64. */
export function objectColumnsOf(object: StockObject, size: Size): Record<string, unknown> {
  if (object.shape === unreadShape) throw new Error("a shape that was not read cannot be written");
  const { runs, ...shape } = { runs: null, ...packShape(object.shape) };
  const box = shapeBounds(object.shape);
  return {
    ...sayingColumns(object),
    uid: object.uid,
    shape,
    mask: runs,
    outline: thumbnailOutline(object.shape, size),
    x: box?.x ?? 0,
    y: box?.y ?? 0,
    width: box?.width ?? 0,
    height: box?.height ?? 0,
    area: shapeArea(object.shape),
  };
}

/** An object of which something else is said, its shape being what it was. */
type Resaid = { former: StockObject; object: StockObject };

/** Whether two objects are told alike in a column. */
const isSaidAlike: Record<keyof ReturnType<typeof sayingColumns>, (one: StockObject, other: StockObject) => boolean> = {
  class_id: (one, other) => one.class === other.class,
  ordinal: (one, other) => one.order === other.order,
  group_uid: (one, other) => one.group === other.group,
  attributes: (one, other) => one.attributes === other.attributes,
  flags: (one, other) => one.givenArea === other.givenArea && objectFlags.every((flag) => one[flag] === other[flag]),
};

/** What writes changes; of rows that say the same, what they say goes to the database once. */
function* writesOf(act: number, changes: readonly Changed[]): Generator<SQL> {
  yield* objectWrites(changes);
  yield imagesWrite(changes);
  yield stepsRecord(act, changes);
}

/** Writes the columns that anything changed in; of thousands of objects that change alike, what is said of them once. */
function* sayingWrites(resaid: readonly Resaid[]): Generator<SQL> {
  const columns = (Object.keys(isSaidAlike) as (keyof typeof isSaidAlike)[]).filter((column) =>
    resaid.some(({ former, object }) => !isSaidAlike[column](former, object)),
  );
  if (columns.length === 0) return;
  const { list: distinct, nths } = distinctValues(
    resaid.map(({ object }) => {
      const said = sayingColumns(object);
      return Object.fromEntries(columns.map((column) => [column, said[column]]));
    }),
  );
  yield sql`
    update objects o set ${sql.raw(columns.map((column) => `${column} = n.${column}`).join(", "))}
    from unnest(${uuidList(resaid.map(({ object }) => object.uid))}, ${numberList(nths, "int")}) as r(uid, nth)
    join (select s.nth, c.* from ${distinct} s cross join lateral jsonb_to_record(s.value)
      as c(class_id bigint, ordinal float8, group_uid uuid, attributes jsonb, flags jsonb)) n on n.nth = r.nth
    where o.uid = r.uid`;
}

function* objectWrites(changes: readonly Changed[]): Generator<SQL> {
  const gone: string[] = [];
  const come: object[] = [];
  const resaid: Resaid[] = [];
  for (const { id, size, change } of changes) {
    const { before, after } = change;
    if (before.objects === after.objects) continue;
    // Steps leave an object, or its shape, that they do not touch as it is: what is the same is the very same.
    const leaving = new Map(before.objects.map((object) => [object.uid, object]));
    for (const object of after.objects) {
      const former = leaving.get(object.uid);
      if (former?.shape === object.shape) leaving.delete(object.uid);
      if (former === object) continue;
      if (former?.shape === object.shape) resaid.push({ former, object });
      else come.push({ image_id: id, ...objectColumnsOf(object, size) });
    }
    gone.push(...leaving.keys());
  }
  yield* sayingWrites(resaid);
  if (gone.length > 0) yield sql`delete from objects where uid = any(${uuidList(gone)})`;
  if (come.length === 0) return;
  yield sql`
    insert into objects (image_id, uid, class_id, ordinal, shape, mask, outline, group_uid, attributes, flags, x, y, width, height, area)
    select image_id, uid, class_id, ordinal, shape, decode(mask, 'base64'), outline, group_uid, attributes, flags, x, y, width, height, area
    from jsonb_to_recordset(${JSON.stringify(come)}::jsonb) as o(image_id bigint, uid uuid, class_id bigint, ordinal float8, shape jsonb, mask text, outline jsonb,
      group_uid uuid, attributes jsonb, flags jsonb, x float8, y float8, width float8, height float8, area float8)`;
}

/** Objects a class after a change, by what it did to the objects that were read. */
function countsAfter({ counts, change: { before, after } }: Changed): Record<string, number> {
  const changed = new Map(Object.entries(counts));
  const count = (objects: readonly StockObject[], by: number) => {
    for (const { class: id } of objects) changed.set(String(id), (changed.get(String(id)) ?? 0) + by);
  };
  count(before.objects, -1);
  count(after.objects, 1);
  return Object.fromEntries([...changed].filter(([, number]) => number > 0));
}

/** How many objects of each class an image has, and of all, as its row keeps them for filters and counts. */
function countColumns(change: Changed): { object_count: number; class_counts: Record<string, number> } {
  const counts = countsAfter(change);
  return { object_count: Object.values(counts).reduce((sum, number) => sum + number, 0), class_counts: counts };
}

/** Whether no object has a shape that none had before: what it looks like is known then. */
function hasOnlyShapesOf(after: Labels, before: Labels): boolean {
  if (after.objects === before.objects) return true;
  const shapes = new Set(before.objects.map(({ shape }) => shape));
  return after.objects.every(({ shape }) => shapes.has(shape));
}

/** What is said of an image as a whole, part by part. */
const sayingParts = [
  "state",
  "split",
  "pinned",
  "tags",
  "captions",
  "fields",
  "attributes",
  "suggestions",
  "classes",
] as const;

function imagesWrite(changes: readonly Changed[]): SQL {
  // Steps leave what they do not touch as it is; a column that none of them touched need not be written.
  const touched = sayingParts.filter((part) =>
    changes.some(({ change: { before, after } }) => before[part] !== after[part]),
  );
  const recounted = changes.some(({ change: { before, after } }) => before.objects !== after.objects);
  const said = onceEach(({ before, after, steps }: Change) => ({
    ...Object.fromEntries(touched.map((part) => [part, after[part]])),
    present: after.present,
    labels_changed: steps.some((step) => !housekeepingSteps.has(step.do)),
    shapes_known: hasOnlyShapesOf(after, before),
  }));
  const rows = changes.map((one) => (recounted ? { ...said(one.change), ...countColumns(one) } : said(one.change)));
  const ids = changes.map(({ id }) => id);
  const { list: distinct, nths } = distinctValues(rows);
  const list = (column: string, type: string) => `array(select jsonb_array_elements_text(n.${column}))::${type}[]`;
  const assigned = (part: (typeof sayingParts)[number]): string => {
    if (part === "classes") return `image_class_ids = ${list(part, "bigint")}, `;
    return part === "tags" ? `tags = ${list(part, "text")}, ` : `${part} = n.${part}, `;
  };
  return sql`
    update images i set ${sql.raw(touched.map(assigned).join(""))}
      ${recounted ? sql`object_count = n.object_count, class_counts = n.class_counts,` : sql``}
      removed_at = case when n.present then null else coalesce(i.removed_at, now()) end, revision = i.revision + 1,
      labels_at = case when n.labels_changed then now() else i.labels_at end, learned = i.learned and n.shapes_known
    from unnest(${numberList(ids)}, ${numberList(nths, "int")}) as r(id, nth)
    join (select s.nth, c.* from ${distinct} s cross join lateral jsonb_to_record(s.value) as c(state text, split text, pinned boolean, tags jsonb, captions jsonb, fields jsonb,
      attributes jsonb, suggestions jsonb, classes jsonb, present boolean, labels_changed boolean, shapes_known boolean, object_count int, class_counts jsonb)) n on n.nth = r.nth
    where i.id = r.id`;
}

/** A class that left with its delivery is on the list again once anything is labeled with it. */
async function returnClasses(tx: Transaction, act: number): Promise<void> {
  await tx.execute(sql`
    update classes k set removed_at = null from acts a where a.id = ${act} and k.collection_id = a.collection_id and k.removed_at is not null and k.labels > 0`);
}

function stepsRecord(act: number, changes: readonly Changed[]): SQL {
  const ids = changes.map(({ id }) => id);
  const revisions = changes.map(({ revision }) => revision);
  const packed = onceEach(({ steps, inverse }: Change) => ({
    steps: steps.map(packStep),
    inverse: inverse.map(packStep),
  }));
  const { list: done, nths } = distinctValues(changes.map(({ change }) => packed(change)));
  return sql`
    insert into label_steps (act_id, image_id, revision_before, steps, inverse)
    select ${act}::bigint, r.image_id, r.revision_before, d.value->'steps', d.value->'inverse'
    from unnest(${numberList(ids)}, ${numberList(revisions, "int")}, ${numberList(nths, "int")}) as r(image_id, revision_before, nth)
    join ${done} d on d.nth = r.nth`;
}
