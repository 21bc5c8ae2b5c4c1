/**
 * A stock of 100,000 images and 1,000,000 objects: building and keeping its snapshot, facets, flows, the shelves; each
 * beside what the database takes for the plainest query of the same kind.
 */
import { planSchema } from "@larder/core/plans/plan";
import { selectionSchema, type Selection } from "@larder/core/selection/chosen";
import { db, steadyRead } from "@larder/server/db/database";
import { untilDone } from "@larder/server/jobs/wait";
import { work } from "@larder/server/jobs/work";
import { act, undoAct, type ActOutcome } from "@larder/server/services/acts";
import { localActor } from "@larder/server/services/actor";
import { classTable } from "@larder/server/services/classes";
import { shelves } from "@larder/server/services/collections";
import { jobHandlers } from "@larder/server/services/job-handlers";
import { stockPage } from "@larder/server/services/stock";
import { ask, closeSnapshots } from "@larder/server/snapshot/ask";
import { buildSnapshot, catchUp } from "@larder/server/snapshot/load";
import { analyze, largeStock } from "@larder/server/tests/large-stock";
import { sql } from "drizzle-orm";
import { benchCutouts } from "./cutouts";
import { milliseconds, percentile } from "./timing";

/** What is asked of a stock, each as somebody would press or type it; # stands for a number from 0 to 11. */
const asked = [
  "",
  'has "bread #"',
  "split = train",
  '(has {"bread #", "bread 2"} or class in {"bread #", "bread 2"}) and split in {val, test}',
  "tag = night and state = labeled",
  'has "bread #" and tag = night and split = none',
  "objects = 10 and licence = CC0",
  'taken = 2026-11-01 and has "bread #"',
  'has #.. any and no "bread 3"',
  'has "bread #" (share < 0.3%)',
  "has any (x > 0.#, width = 20..80) and not split = val",
  'name like "*_#*"',
  "width = 640..1280 and ratio > 1.#",
  'has "bread #" (y < 0.5 or y > 0.#) or tag != night',
  "arrived >= 2026-01-01 and near-copies = 0",
];

/** `count` of them, numbers dealt in turn by steps that share no divisor: the same each time. */
const selections = (count: number): Selection[] =>
  Array.from({ length: count }, (_, nth) =>
    selectionSchema.parse({
      where: (asked[(nth * 7) % asked.length] as string).replaceAll("#", String((nth * 5) % 12)),
    }),
  );

/** Half of the stock moved to another split and back, and two classes merged and told apart again, by a worker. */
async function benchLargeActs(collection: number): Promise<void> {
  const stop = await work(jobHandlers, 2);
  try {
    const timed = async (begin: () => Promise<ActOutcome>) => {
      let outcome: ActOutcome | null = null;
      const took = await milliseconds(async () => {
        outcome = await begin();
        if (outcome.job) await untilDone(outcome.job);
      });
      return { took, act: (outcome as ActOutcome | null)?.act ?? 0 };
    };
    const everything = selectionSchema.parse({});
    const moved = await ask("count", collection, selectionSchema.parse({ where: "split = train" }));
    const move = await timed(() =>
      act(localActor, collection, { where: "split = train", act: { do: "move", split: "test" } }),
    );
    const back = await timed(() => undoAct(localActor, move.act));
    console.log(
      `  ${moved.toLocaleString("en-US")} images moved to another split in ${(move.took / 1000).toFixed(1)} s, undone in ${(back.took / 1000).toFixed(1)} s (aim: 5 s each)`,
    );
    const [from, into] = await classTable(localActor, collection);
    const merge = await timed(() =>
      act(localActor, collection, { ...everything, act: { do: "merge", from: from?.id ?? 0, into: into?.id ?? 0 } }),
    );
    const apart = await timed(() => undoAct(localActor, merge.act));
    console.log(
      `  a class with ${(from?.objects ?? 0).toLocaleString("en-US")} objects merged in ${(merge.took / 1000).toFixed(1)} s, undone in ${(apart.took / 1000).toFixed(1)} s (aim: 10 s)`,
    );
  } finally {
    stop();
  }
}

export async function benchStock(images: number, objectsEach: number, collections: number): Promise<void> {
  console.log(`stock of ${images.toLocaleString("en-US")} images with ${objectsEach} objects each`);
  const { collection } = await largeStock("Large", images, objectsEach);
  await analyze();
  const plain = await milliseconds(() =>
    db().execute(
      sql`select count(*) from objects o join images i on i.id = o.image_id where i.collection_id = ${collection}`,
    ),
  );
  const built: number[] = [];
  for (let round = 0; round < 3; round++)
    built.push(await milliseconds(() => steadyRead((_, client) => buildSnapshot(client, collection))));
  const { bytes } = await ask("size", collection, undefined);
  console.log(
    `  snapshot built: ${built.map((ms) => (ms / 1000).toFixed(2)).join(", ")} s, ${(bytes / 1e6).toFixed(0)} MB (aims: 4 s, 200 MB); counting its objects in SQL: ${(plain / 1000).toFixed(2)} s`,
  );

  const filters = selections(200);
  const facets: number[] = [];
  for (const selection of filters) facets.push(await milliseconds(() => ask("facets", collection, selection)));
  console.log(
    `  facets, warm: median ${percentile(facets.slice(8), 0.5).toFixed(1)} ms, 95th percentile ${percentile(facets.slice(8), 0.95).toFixed(1)} ms over ${filters.length} selections (aim: 60 ms)`,
  );
  const pages: number[] = [];
  for (const [nth, selection] of filters.entries())
    pages.push(
      await milliseconds(() =>
        stockPage(localActor, collection, selection, { start: (nth * 997) % images, limit: 200 }),
      ),
    );
  console.log(
    `  the next 200 tiles at any depth, shapes included: 95th percentile ${percentile(pages, 0.95).toFixed(1)} ms (aim: 60 ms)`,
  );

  const kept = await steadyRead((_, client) => buildSnapshot(client, collection));
  const first = kept.ids.at(0);
  const current: number[] = [];
  const acts: number[] = [];
  for (let round = 0; round < 12; round++) {
    const image = Array.from({ length: 100 }, (_, n) => first + ((round * 7919 + n * 613) % images));
    const request = { do: "tag" as const, tag: `round ${round}` };
    acts.push(await milliseconds(() => act(localActor, collection, { only: image, act: request })));
    current.push(await milliseconds(() => steadyRead((_, client) => catchUp(client, collection, kept))));
  }
  console.log(
    `  kept current after an act on 100 images: median ${percentile(current, 0.5).toFixed(1)} ms, 95th percentile ${percentile(current, 0.95).toFixed(1)} ms (aim: 50 ms); the act itself: median ${percentile(acts, 0.5).toFixed(0)} ms`,
  );

  await benchCutouts(collection, first, images, objectsEach);
  await benchLargeActs(collection);

  const plan = planSchema.parse({
    relabel: { rename: { "bread 1": "bread 0" }, leaveOut: ["bread 7"] },
    split: { ratio: { train: 70, val: 20, test: 10 } },
    augment: { copies: 2 },
  });
  const anew = await milliseconds(() => ask("count", collection, selectionSchema.parse({})));
  const flows: number[] = [];
  for (let round = 0; round < 5; round++)
    flows.push(await milliseconds(() => ask("flow", collection, { plan: { ...plan, seed: round }, like: null })));
  console.log(
    `  flow count: ${flows.map((ms) => ms.toFixed(0)).join(", ")} ms (aim: 1,000 ms); the snapshot read anew after those acts ${(anew / 1000).toFixed(1)} s`,
  );

  for (let n = 1; n < collections; n++) await largeStock(`Shelf ${n}`, images, 0);
  await analyze();
  const looks: number[] = [];
  for (let round = 0; round < 10; round++) looks.push(await milliseconds(() => shelves(localActor)));
  console.log(
    `  shelves with ${collections} collections of ${images.toLocaleString("en-US")} images: first ${(looks[0] ?? 0).toFixed(0)} ms, median ${percentile(looks, 0.5).toFixed(0)} ms (aim: 100 ms)`,
  );
  await closeSnapshots();
}
