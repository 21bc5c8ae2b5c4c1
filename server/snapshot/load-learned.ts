import { expectedFeatureBytes } from "@larder/core/learning/image-features";
import { unpackMeasures } from "@larder/core/learning/measures";
import { Learned } from "@larder/core/snapshot/learned";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import type pg from "pg";
import { setImmediate as nextTurn } from "node:timers/promises";
import { steadyRead } from "../db/database";
import { inOwnThread } from "../own-thread";
import { copyOut, rowsOfBytes, type BinaryRow } from "./copy-out";

/** The features of a collection that were made after a number. */
export const featuresQuery = (collection: number, after: number): string =>
  `select f.image_id::int8, f.made::int8, f.features, f.measures from image_features f
    where f.collection_id = ${Number(collection)} and f.made > ${Number(after)}`;

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

/** Below so many bytes a thread would take longer to start than they take to read. */
const fewBytes = 8_000_000;
/** After so many rows others get a turn. */
const rowsAtOnce = 4000;

async function read(collection: number, expected: number): Promise<Learned> {
  if (expected < fewBytes) return steadyRead((_, client) => loadLearned(client, collection, null));
  const argument = { collection, expected: Math.ceil(expected * 1.1) };
  const bytes = await inOwnThread<typeof argument, Uint8Array>("features-thread", "readFeatures", argument);
  const learned = new Learned();
  learned.expect(bytes.length);
  let rows = 0;
  for (const row of rowsOfBytes(bytes)) {
    put(learned, row);
    if (++rows % rowsAtOnce === 0) await nextTurn();
  }
  return learned;
}

const readings = new Map<number, Promise<Learned>>();

/** All features of the collection of a snapshot. Whoever asks while they are being read waits for the same reading. */
export function wholeLearned(collection: number, snapshot: Snapshot): Promise<Learned> {
  const reading = readings.get(collection) ?? read(collection, expectedBytes(snapshot));
  readings.set(collection, reading);
  const forget = () => readings.get(collection) === reading && readings.delete(collection);
  reading.then(forget, forget);
  return reading;
}
