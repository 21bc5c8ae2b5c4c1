/** Fills a snapshot from the database, whole or with what changed since. Runs within one unchanging state of it. */
import { Column } from "@larder/core/stock/column";
import { Snapshot, type SnapshotImage } from "@larder/core/snapshot/snapshot";
import { labelStates, splitNames } from "@larder/core/model/item";
import { Failure } from "@larder/core/model/failure";
import type pg from "pg";
import { z } from "zod";
import { copyOut, type BinaryRow } from "./copy-out";

const revisionSchema = z.object({ revision: z.number() });
const classSchema = z.object({ id: z.number(), name: z.string(), colour: z.number(), code: z.string() });
const deliverySchema = z.object({
  id: z.number(),
  name: z.string(),
  source: z.string(),
  licence: z.string(),
  camera: z.string(),
  day: z.string(),
  place: z.string(),
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
    `select id, name, colour, code from classes where collection_id = $1 and merged_into is null and removed_at is null
      order by position, id`,
    [collection],
  );
  const fact = (name: string) => `coalesce(facts->>'${name}', '') as "${name}"`;
  const deliveries = await client.query(
    `select id, name, ${fact("source")}, ${fact("licence")}, ${fact("camera")}, coalesce(facts->>'takenFrom', '') as day,
      coalesce(to_char((facts->>'latitude')::float8, 'FM990.00') || ' ' || to_char((facts->>'longitude')::float8, 'FM990.00'), '') as place
      from deliveries where collection_id = $1 and status in ('taken', 'undoing') order by id`,
    [collection],
  );
  snapshot.classes = z.array(classSchema).parse(classes.rows);
  snapshot.deliveries = z.array(deliverySchema).parse(deliveries.rows);
}

const code = (column: string, names: readonly string[]) =>
  `case ${column} ${names.map((name, at) => `when '${name}' then ${at + 1}`).join(" ")} else 0 end::int4`;

const imageColumns = `i.id::int8, decode(i.sha256, 'hex'), i.delivery_id::int8, ${code("i.split", splitNames)}, ${code("i.state", labelStates)},
  i.width::int4, i.height::int4, i.bytes::int8, i.pinned, i.removed_at is null,
  to_char(i.taken_at, 'YYYY-MM-DD'), to_char(i.latitude, 'FM990.00') || ' ' || to_char(i.longitude, 'FM990.00'),
  case when i.tags = '{}' then null else array_to_json(i.tags)::text end, array_to_string(i.image_class_ids, ',')`;

function imageIn(row: BinaryRow): SnapshotImage {
  const tags = row.text(12);
  const classes = row.text(13);
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
    tags: tags === null ? [] : z.array(z.string()).parse(JSON.parse(tags)),
    classes: classes === null || classes === "" ? [] : classes.split(",").map(Number),
  };
}

const objectColumns = `o.image_id::int8, o.class_id::int8, o.x::float4, o.y::float4, o.width::float4, o.height::float4, o.area::float4,
  case when o.flags = '{}' then null else (o.flags->>'confidence')::float4 end, o.attributes::text`;

function pushObject(snapshot: Snapshot, row: BinaryRow): void {
  snapshot.pushObject(
    row.int8(1),
    row.float4(2),
    row.float4(3),
    row.float4(4),
    row.float4(5),
    row.float4(6),
    row.float4(7),
    row.text(8),
  );
}

/** Builds the snapshot of a collection, images in the bin among them: they may come back to their places. */
export async function buildSnapshot(client: pg.ClientBase, collection: number): Promise<Snapshot> {
  const snapshot = new Snapshot();
  snapshot.revision = await revisionIn(client, collection);
  await loadLists(client, collection, snapshot);
  await copyOut(
    client,
    `select ${imageColumns} from images i where i.collection_id = ${Number(collection)} order by i.id`,
    (row) => snapshot.putImage(imageIn(row)),
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

/** With more images changed than this, building anew is the shorter way. */
const mostCaughtUp = 20_000;

/** Brings a snapshot to the state of the database; false where so much changed that it is to be built anew. */
export async function catchUp(client: pg.ClientBase, collection: number, snapshot: Snapshot): Promise<boolean> {
  const revision = await revisionIn(client, collection);
  if (revision === snapshot.revision) return true;
  const changed = `i.collection_id = ${Number(collection)} and i.changed_revision > ${snapshot.revision}`;
  const images: SnapshotImage[] = [];
  await copyOut(
    client,
    `select ${imageColumns} from images i where ${changed} order by i.id limit ${mostCaughtUp + 1}`,
    (row) => {
      const image = imageIn(row);
      images.push({ ...image, hash: image.hash.slice() });
    },
  );
  if (images.length > mostCaughtUp || snapshot.worn) return false;
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
      `select ${objectColumns} from images i join objects o on o.image_id = i.id where ${changed} order by i.id`,
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
