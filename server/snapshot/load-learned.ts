import { expectedFeatureBytes } from "@larder/core/learning/image-features";
import { unpackMeasures } from "@larder/core/learning/measures";
import { Learned } from "@larder/core/snapshot/learned";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import type pg from "pg";
import { sql } from "drizzle-orm";
import { setImmediate as nextTurn } from "node:timers/promises";
import { db, steadyRead } from "../db/database";
import { numberOf } from "../db/query";
import { inOwnThread } from "../own-thread";
import { copyOut, rowsOfBytes, type BinaryRow } from "./copy-out";
import { featuresQuery } from "./features-query";
import { keptFeatures, rowsWorthKeeping } from "./kept-features";

function put(learned: Learned, row: BinaryRow): void {
  learned.put(row.int8(0), row.raw(2), row.int8(1), unpackMeasures(row.raw(3)));
}

/** Brings the features of a collection up to what is known by now; where there are none yet, all of them. */
export async function loadLearned(
  client: pg.ClientBase,
  collection: number,
  learned: Learned | null,
): Promise<Learned> {
  const known = learned ?? new Learned();
  await copyOut(client, featuresQuery(collection, known.upTo), (row) => put(known, row));
  return known;
}

/** About as much memory as the features of a stock take, in bytes. */
export const expectedBytes = (snapshot: Snapshot): number =>
  expectedFeatureBytes(snapshot.length, snapshot.objectClass.length);

/** After so many rows others get a turn. */
const rowsAtOnce = 4000;

/** Puts in what a thread of its own reads: many rows would make this one clear up all that is kept here, again and again. */
async function readMany(collection: number, learned: Learned, expected: number): Promise<void> {
  const argument = { collection, after: learned.upTo, expected };
  const bytes = await inOwnThread<typeof argument, Uint8Array>("features-thread", "readFeatures", argument);
  await putAll(learned, bytes);
}

/** Puts in what was made later than all that is there. */
async function putAll(learned: Learned, bytes: Uint8Array): Promise<void> {
  const { upTo } = learned;
  learned.expect(bytes.length);
  let rows = 0;
  for (const row of rowsOfBytes(bytes)) {
    if (row.int8(1) > upTo) put(learned, row);
    if (++rows % rowsAtOnce === 0) await nextTurn();
  }
}

/** Puts in what was kept of a collection's features and is not there yet. */
async function putKept(collection: number, learned: Learned): Promise<void> {
  await steadyRead(async (_, client) => {
    for await (const bytes of keptFeatures(client, collection, learned.upTo)) await putAll(learned, bytes);
  });
}

/** The features of a collection as far as they were kept; null where none were. */
export async function readKept(collection: number): Promise<Learned | null> {
  const learned = new Learned();
  await putKept(collection, learned);
  return learned.upTo > 0 ? learned : null;
}

/** The features of a snapshot's collection as they are known by now, and how many rows of them are new. */
type Reading = { learned: Learned; rows: number };

/** How many rows of features a collection has that were made after a number. */
const rowsAfter = (collection: number, upTo: number): Promise<number> =>
  numberOf(
    db(),
    sql`select count(*) as n from image_features f where f.collection_id = ${collection} and f.made > ${upTo}`,
  );

async function read(collection: number, snapshot: Snapshot): Promise<Reading> {
  const learned = snapshot.learned ?? new Learned();
  const rows = await rowsAfter(collection, learned.upTo);
  if (rows >= rowsWorthKeeping) await putKept(collection, learned);
  const left = rows >= rowsWorthKeeping ? await rowsAfter(collection, learned.upTo) : rows;
  if (left < rowsWorthKeeping) await steadyRead((_, client) => loadLearned(client, collection, learned));
  else await readMany(collection, learned, Math.ceil((1.1 * left * expectedBytes(snapshot)) / snapshot.length));
  return { learned, rows };
}

const readings = new Map<number, Promise<Reading>>();

/** Whether the features of a collection are being read. */
export const isReading = (collection: number): boolean => readings.has(collection);

/** Reads what is not known of a collection's features yet, after whatever is being read of them. */
export async function readLearned(collection: number, snapshot: Snapshot): Promise<Reading> {
  const running = await readings.get(collection)?.catch(() => null);
  if (running) snapshot.learned ??= running.learned;
  const reading = read(collection, snapshot);
  readings.set(collection, reading);
  const forget = () => readings.get(collection) === reading && readings.delete(collection);
  reading.then(forget, forget);
  return reading;
}
