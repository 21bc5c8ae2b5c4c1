/** Fills a snapshot from the database, whole or with what changed since. Runs within one unchanging state of it. */
import { Column } from "@larder/core/columns/column";
import { flagBits, Snapshot, type SnapshotImage } from "@larder/core/snapshot/snapshot";
import { shapeKinds } from "@larder/core/selection/fields";
import { labelStates, splitNames } from "@larder/core/model/item";
import { kindsOfFields } from "@larder/core/model/field-kinds";
import { attributeSchemaSchema } from "@larder/core/model/attribute-schema";
import { keypointSchema } from "@larder/core/model/shape";
import { Failure } from "@larder/core/model/failure";
import type pg from "pg";
import { z } from "zod";
import { changedSince } from "../db/stock-changes";
import { copyOut, type BinaryRow } from "./copy-out";
import { suggestedIn } from "./suggested";

const revisionSchema = z.object({ revision: z.number() });
const classSchema = z.object({
  ...{ id: z.number(), name: z.string(), colour: z.number(), code: z.string() },
  parent: z.number().nullable(),
  attributes: z.array(attributeSchemaSchema),
  keypoints: z.array(z.string()).optional(),
  pairs: z.array(z.tuple([z.number(), z.number()])).optional(),
});
const deliverySchema = z.object({
  id: z.number(),
  name: z.string(),
  source: z.string(),
  licence: z.string(),
  camera: z.string(),
  day: z.string(),
  place: z.string(),
  listed: z.boolean(),
});

/** The collection's revision in this state of the database. */
export async function revisionIn(client: pg.ClientBase, collection: number): Promise<number> {
  const { rows } = await client.query("select revision from collections where id = $1", [collection]);
  if (rows.length === 0) throw new Failure("collection-missing", `There is no collection ${collection}.`, 404);
  return revisionSchema.parse(rows[0]).revision;
}

/** Classes and deliveries are few, and change by name and facts alone: they are read anew each time. */
async function loadLists(client: pg.ClientBase, collection: number, snapshot: Snapshot): Promise<void> {
  const classes = await client.query(
    `select id, name, colour, code, parent_id as parent, attributes, keypoints, pairs from classes where collection_id = $1 and merged_into is null and removed_at is null
      order by position, id`,
    [collection],
  );
  const fact = (name: string) => `coalesce(facts->>'${name}', '') as "${name}"`;
  const deliveries = await client.query(
    `select id, name, ${fact("source")}, ${fact("licence")}, ${fact("camera")}, coalesce(facts->>'takenFrom', '') as day,
      coalesce(to_char((facts->>'latitude')::float8, 'FM990.00') || ' ' || to_char((facts->>'longitude')::float8, 'FM990.00'), '') as place, status in ('taken', 'undoing') as listed
      from deliveries where collection_id = $1 and status in ('taken', 'undoing', 'undone') order by id`,
    [collection],
  );
  const declared = await client.query(
    `select a.value->>'name' as name from classes k, jsonb_array_elements(k.attributes) a where k.collection_id = $1
      union select a.value->>'name' from collections c, jsonb_array_elements(c.image_attributes) a where c.id = $1`,
    [collection],
  );
  snapshot.declaredAttributes = z
    .array(z.object({ name: z.string() }))
    .parse(declared.rows)
    .map(({ name }) => name);
  snapshot.classes = z.array(classSchema).parse(classes.rows.map(withoutNulls));
  snapshot.deliveries = z.array(deliverySchema).parse(deliveries.rows);
}

const keypointsSchema = z.array(keypointSchema);
const withoutNulls = (row: Record<string, unknown>) => ({
  ...row,
  keypoints: row["keypoints"] ?? undefined,
  pairs: row["pairs"] ?? undefined,
});

const place = (column: string, names: readonly string[]) =>
  `case ${column} ${names.map((name, at) => `when '${name}' then ${at}`).join(" ")} else 0 end::int4`;

const code = (column: string, names: readonly string[]) =>
  `case ${column} ${names.map((name, at) => `when '${name}' then ${at + 1}`).join(" ")} else 0 end::int4`;

/** Milliseconds since 1970; times without a zone are taken as UTC, wherever this machine stands. */
const milliseconds = (column: string) => `(extract(epoch from ${column}) * 1000)::int8`;

const imageColumns = `i.id::int8, decode(i.sha256, 'hex'), i.delivery_id::int8, ${code("i.split", splitNames)}, ${code("i.state", labelStates)},
  i.width::int4, i.height::int4, i.bytes::int8, i.pinned, i.removed_at is null,
  to_char(i.taken_at, 'YYYY-MM-DD'), to_char(i.latitude, 'FM990.00') || ' ' || to_char(i.longitude, 'FM990.00'),
  case when i.tags = '{}' then null else array_to_json(i.tags)::text end, array_to_string(i.image_class_ids, ','),
  i.name, ${milliseconds("i.taken_at")}, ${milliseconds("i.created_at")}, ${milliseconds("i.labels_at")}, i.orientation > 1,
  case when i.captions = '[]' then null else i.captions::text end, case when i.findings = '{}' then null else array_to_json(i.findings)::text end,
  case when i.attributes = '{}' then null else i.attributes::text end, case when i.suggestions = '[]' then null else i.suggestions::text end,
  (select string_agg(p.other_id::text, ',') from near_pairs p where p.image_id = i.id),
  case when i.fields = '{}' then null else i.fields::text end`;

const textsSchema = z.array(z.string());
const texts = (json: string | null): readonly string[] => (json === null ? [] : textsSchema.parse(JSON.parse(json)));
const fieldsSchema = z.record(z.string(), z.union([z.string(), textsSchema]));
const kindsIn = (json: string | null) => (json === null ? [] : kindsOfFields(fieldsSchema.parse(JSON.parse(json))));
const ids = (list: string | null): number[] => (list === null || list === "" ? [] : list.split(",").map(Number));
const orNaN = (row: BinaryRow, field: number) => (row.isNull(field) ? Number.NaN : row.int8(field));

function imageIn(row: BinaryRow, classNames: ReadonlyMap<number, string>): SnapshotImage {
  return {
    id: row.int8(0),
    hash: row.raw(1),
    delivery: row.int8(2),
    split: splitNames[row.int4(3) - 1] ?? null,
    state: labelStates[row.int4(4) - 1] ?? "unlabeled",
    width: row.int4(5),
    height: row.int4(6),
    bytes: row.int8(7),
    pinned: row.bool(8),
    present: row.bool(9),
    day: row.text(10) ?? "",
    place: row.text(11) ?? "",
    tags: texts(row.text(12)),
    classes: ids(row.text(13)),
    name: row.text(14) ?? "",
    taken: orNaN(row, 15),
    arrived: row.int8(16),
    changed: row.int8(17),
    turned: row.bool(18),
    captions: texts(row.text(19)),
    findings: texts(row.text(20)),
    attributes: row.text(21),
    suggestions: suggestedIn(row.text(22), classNames),
    nearCopies: ids(row.text(23)),
    fieldKinds: kindsIn(row.text(24)),
  };
}

const flagSum = Object.entries(flagBits)
  .map(([flag, bit]) => `case when (o.flags->>'${flag}')::bool then ${bit} else 0 end`)
  .join(" + ");

const objectColumns = `o.image_id::int8, o.class_id::int8, o.x::float4, o.y::float4, o.width::float4, o.height::float4, o.area::float4,
  case when o.flags = '{}' then null else (o.flags->>'confidence')::float4 end, o.attributes::text,
  ${place("o.shape->>'kind'", shapeKinds)}, case when o.flags = '{}' then 0 else ${flagSum} end::int4, o.id::int8,
  case when o.shape->>'kind' = 'keypoints' then (o.shape->'points')::text end`;

function pushObject(snapshot: Snapshot, row: BinaryRow): void {
  snapshot.pushObject({
    id: row.int8(11),
    classId: row.int8(1),
    x: row.float4(2),
    y: row.float4(3),
    width: row.float4(4),
    height: row.float4(5),
    area: row.float4(6),
    confidence: row.float4(7),
    attributes: row.text(8),
    shape: row.int4(9),
    flags: row.int4(10),
    keypoints: row.isNull(12) ? null : keypointsSchema.parse(JSON.parse(row.text(12) ?? "[]")),
  });
}

const namesOf = ({ classes }: Snapshot) => new Map(classes.map(({ id, name }) => [id, name]));

/** Builds the snapshot of a collection, images in the bin among them: they may come back to their places. */
export async function buildSnapshot(client: pg.ClientBase, collection: number): Promise<Snapshot> {
  const snapshot = new Snapshot();
  snapshot.revision = await revisionIn(client, collection);
  await loadLists(client, collection, snapshot);
  const classNames = namesOf(snapshot);
  await copyOut(
    client,
    `select ${imageColumns} from images i where i.collection_id = ${Number(collection)} order by i.id`,
    (row) => snapshot.putImage(imageIn(row, classNames)),
  );
  const owners = new Column(Uint32Array);
  await copyOut(
    client,
    `select ${objectColumns} from objects o join images i on i.id = o.image_id where i.collection_id = ${Number(collection)}`,
    (row) => {
      owners.push(snapshot.slotOf(row.int8(0)) ?? 0);
      pushObject(snapshot, row);
    },
  );
  snapshot.gatherObjects(owners);
  return snapshot;
}

/** With more changes of images than this, building anew is the shorter way. */
const mostCaughtUp = 20_000;

/** Brings a snapshot to the state of the database; false where so much changed that it is to be built anew. */
export async function catchUp(client: pg.ClientBase, collection: number, snapshot: Snapshot): Promise<boolean> {
  const revision = await revisionIn(client, collection);
  if (revision === snapshot.revision) return true;
  const changed = snapshot.worn ? null : await changedSince(client, collection, snapshot.revision, mostCaughtUp);
  if (changed === null) return false;
  const someIds = `any('{${changed.map(Number).join(",")}}'::bigint[])`;
  const images: SnapshotImage[] = [];
  const classNames = namesOf(snapshot);
  if (changed.length > 0)
    await copyOut(client, `select ${imageColumns} from images i where i.id = ${someIds} order by i.id`, (row) => {
      const image = imageIn(row, classNames);
      images.push({ ...image, hash: image.hash.slice() });
    });
  await loadLists(client, collection, snapshot);
  if (images.length > 0) {
    // Objects come in the order of their images, so each image is put in just before its own.
    let next = 0;
    const putUntil = (id: number) => {
      let slot = -1;
      while (next < images.length && (images[next] as SnapshotImage).id <= id)
        slot = snapshot.putImage(images[next++] as SnapshotImage);
      return slot;
    };
    let [owner, slot] = [-1, -1];
    await copyOut(
      client,
      `select ${objectColumns} from objects o where o.image_id = ${someIds} order by o.image_id`,
      (row) => {
        if (row.int8(0) !== owner) [owner, slot] = [row.int8(0), putUntil(row.int8(0))];
        pushObject(snapshot, row);
        snapshot.countObject(slot);
      },
    );
    putUntil(Number.MAX_SAFE_INTEGER);
  }
  snapshot.revision = revision;
  return true;
}
