import { Learned } from "@larder/core/snapshot/learned";
import { unpackMeasures } from "@larder/core/learning/measures";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import type pg from "pg";
import { copyOut } from "./copy-out";

/** Brings the features beside a snapshot up to what is known by now; the first time, all of them. */
export async function loadLearned(client: pg.ClientBase, collection: number, snapshot: Snapshot): Promise<void> {
  const learned = (snapshot.learned ??= new Learned());
  await copyOut(
    client,
    `select f.image_id::int8, f.made::int8, f.features, f.measures from image_features f
      where f.collection_id = ${Number(collection)} and f.made > ${learned.upTo}`,
    (row) => learned.put(row.int8(0), row.raw(2), row.int8(1), unpackMeasures(row.raw(3))),
  );
}
