/** Cut-outs of a large stock: features made up straight into the database, then pages in several orders. */
import { selectionSchema } from "@larder/core/selection/chosen";
import { db } from "@larder/server/db/database";
import { announce } from "@larder/server/jobs/events";
import { act } from "@larder/server/services/acts";
import { localActor } from "@larder/server/services/actor";
import { classTable } from "@larder/server/services/classes";
import { cutoutsPage } from "@larder/server/services/stock/cutouts";
import { ask, closeSnapshots } from "@larder/server/snapshot/ask";
import { keepNewFeatures } from "@larder/server/snapshot/kept-features";
import { featureLength } from "@larder/core/learning/features";
import { sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { milliseconds, percentile } from "./timing";

const batchSize = 1000;
const secondsBehind = 10;

/** Features of every image and of the boxes that `largeStock` gave it, as core/learning/image-features packs them. */
async function makeFeatures(collection: number, first: number, images: number, objectsEach: number): Promise<void> {
  const entry = 16 + featureLength;
  const template = new Uint8Array(featureLength + objectsEach * entry);
  const view = new DataView(template.buffer);
  for (let k = 1; k <= objectsEach; k++) {
    const at = featureLength + (k - 1) * entry;
    [(k * 97) % 1200, (k * 53) % 900, 60, 40].forEach((value, n) => view.setFloat32(at + 4 * n, value, true));
  }
  let state = 1;
  for (let done = 0; done < images; done += batchSize) {
    const rows = Array.from({ length: Math.min(batchSize, images - done) }, (_, n) => {
      const packed = template.slice();
      for (let at = 0; at < packed.length; at++)
        if (at < featureLength || (at - featureLength) % entry >= 16)
          packed[at] = (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) >>> 24;
      return { id: first + done + n, features: Buffer.from(packed).toString("base64") };
    });
    await db().execute(sql`insert into image_features (image_id, collection_id, features)
      select f.id, ${collection}, decode(f.features, 'base64') from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as f(id bigint, features text)`);
  }
  await db().execute(sql`update images set learned = true where collection_id = ${collection}`);
  // As the worker does that learns them.
  await keepNewFeatures(collection);
  await announce({ collection, topics: ["features"], revision: null });
}

export async function benchCutouts(
  collection: number,
  first: number,
  images: number,
  objectsEach: number,
): Promise<void> {
  await makeFeatures(collection, first, images, objectsEach);
  const everything = selectionSchema.parse({});
  const [shown] = await classTable(localActor, collection);
  const page = (by: "size" | "outlying" | "other", start: number) =>
    milliseconds(() =>
      cutoutsPage(localActor, collection, everything, {
        group: { of: "class", id: shown?.id ?? 0 },
        by,
        down: true,
        start,
        limit: 200,
        pictures: "none",
      }),
    );
  // Learning that much takes an hour; a process in which somebody looked before reads along, a few seconds behind.
  await sleep(secondsBehind * 1000);
  const [along, bySize] = [await page("outlying", 0), await page("size", 0)];
  // A process that is started anew: an earlier one has kept what it read.
  await closeSnapshots();
  const histograms = await milliseconds(() => ask("facets", collection, everything));
  const started = await page("outlying", 0);
  const after: number[] = [];
  for (let round = 0; round < 8; round++) {
    const only = Array.from({ length: 100 }, (_, n) => first + ((round * 7919 + n * 613) % images));
    await act(localActor, collection, { only, act: { do: "tag", tag: `looked at ${round}` } });
    after.push(await page(round % 2 === 0 ? "outlying" : "other", 0));
  }
  const pages: number[] = [];
  for (let n = 0; n < 100; n++)
    pages.push(await page("outlying", (n * 997) % Math.max(1, (shown?.objects ?? 1) - 200)));
  const ofOrder = (from: number) => after.filter((_, round) => round % 2 === from).map((ms) => ms.toFixed(0));
  console.log(`  cut-outs of ${(shown?.objects ?? 0).toLocaleString("en-US")} objects, first page (aim: 300 ms):`);
  console.log(
    `    by size ${bySize.toFixed(0)} ms; after an act each what stands out ${ofOrder(0).join(", ")} ms, nearer to another class ${ofOrder(1).join(", ")} ms`,
  );
  console.log(
    `    right after the first histograms of a process (${(histograms / 1000).toFixed(1)} s): ${started.toFixed(0)} ms; ${secondsBehind} s after the last was learned, in one that nobody asked meanwhile: ${along.toFixed(0)} ms`,
  );
  console.log(`    200 at any depth: 95th percentile ${percentile(pages, 0.95).toFixed(0)} ms`);
}
