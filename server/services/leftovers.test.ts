/** A hundred random acts, with workers killed in between: the store holds what the rows need, no more and no less. */
import { planSchema } from "@larder/core/plans/plan";
import fc from "fast-check";
import { sql } from "drizzle-orm";
import { existsSync, readdirSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, expect, it } from "vitest";
import { z } from "zod";
import { Failure } from "@larder/core/model/failure";
import { db } from "../db/database";
import { rowsOf } from "../db/query";
import { jobs } from "../db/schema";
import { isLeftBehind } from "../files/process-mark";
import { settings } from "../settings";
import { cocoFiles, noisyPicture, saveArchive, spawnWorker, zipBytes } from "../tests/bakery";
import { act } from "./acts";
import { localActor } from "./actor";
import { emptyBin } from "./bin";
import { removeUnusedBlobs } from "./blob-sweep";
import { createCollection, deleteCollection } from "./collections";
import { readAgain, takeInDelivery, undoDelivery } from "./deliveries";
import { receiveArchive } from "./intake/receive";
import { createPlan } from "./plans";
import { dismissFailed, startBuild } from "./versions";

let worker = spawnWorker();
afterAll(() => worker.kill("SIGKILL"));

async function kill(): Promise<void> {
  worker.kill("SIGKILL");
  await new Promise((resolve) => worker.once("exit", resolve));
  worker = spawnWorker();
}

const nameSchema = z.object({ name: z.string() });
const names = async (query: ReturnType<typeof sql>) => (await rowsOf(db(), nameSchema, query)).map(({ name }) => name);

/** Names of the files below a folder of Larder's home. */
function filesIn(...parts: string[]): string[] {
  const folder = path.join(settings().home, ...parts);
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map(({ name }) => name)
    .sort();
}

async function untilQuiet(): Promise<void> {
  for (;;) {
    if ((await db().$count(jobs, sql`${jobs.status} in ('queued', 'running')`)) === 0) return;
    await sleep(50);
  }
}

const idSchema = z.object({ id: z.coerce.number(), status: z.string() });
type Row = z.infer<typeof idSchema>;
const statusOf = {
  deliveries: sql`select d.id, d.status from deliveries d join collections c on c.id = d.collection_id where c.deleting_at is null order by d.id`,
  versions: sql`select v.id, v.status from versions v join collections c on c.id = v.collection_id where c.deleting_at is null order by v.id`,
};

it("after a hundred acts, deletions and kills no file is too many and none is missing", async () => {
  const archives = await Promise.all(
    [0, 1, 2, 3].map(async (n) =>
      saveArchive(`some-${n}.zip`, await zipBytes(await cocoFiles(5, (k) => noisyPicture(k + 10 * n, 640, 480)))),
    ),
  );
  const shelf: { id: number; name: string }[] = [];
  const plans = new Map<number, number>();
  const draws = fc.sample(fc.tuple(fc.nat(99), fc.nat(99), fc.nat(40)), { numRuns: 100, seed: 20_261_126 });
  const of = <T>(list: readonly T[], n: number): T | undefined => list[n % Math.max(1, list.length)];
  const rows = async (which: keyof typeof statusOf, ...statuses: string[]): Promise<Row[]> =>
    (await rowsOf(db(), idSchema, statusOf[which])).filter(({ status }) => statuses.includes(status));

  async function step(kind: number, which: number): Promise<void> {
    const collection = of(shelf, which);
    if (!collection || kind < 6) {
      const name = `Shelf ${shelf.length} ${which} ${kind}`;
      const { id } = await createCollection(localActor, { name });
      shelf.push({ id, name });
    } else if (kind < 30) {
      const archive = of(archives, which) as string;
      const input = { collectionId: collection.id, archive, fileName: path.basename(archive), keep: true };
      await receiveArchive(localActor, input);
    } else if (kind < 50) {
      const delivery = of(await rows("deliveries", "read"), which);
      if (delivery) await takeInDelivery(localActor, delivery.id);
    } else if (kind < 60) {
      const delivery = of(await rows("deliveries", "read", "taken", "arriving", "reading", "failed"), which);
      if (delivery) await undoDelivery(localActor, delivery.id);
    } else if (kind < 64) {
      const delivery = of(await rows("deliveries", "read"), which);
      if (delivery) await readAgain(localActor, delivery.id);
    } else if (kind < 74) {
      const body = planSchema.parse({
        prepare: { resize: { mode: "stretch", width: 64 + which, height: 64, larger: true } },
        split: { ratio: { train: 1, val: 0, test: 0 } },
        pack: { formats: ["yolo", "coco"] },
      });
      const plan = plans.get(collection.id) ?? (await createPlan(localActor, collection.id, { body })).id;
      plans.set(collection.id, plan);
      await startBuild(localActor, { planId: plan });
    } else if (kind < 78) {
      await act(localActor, collection.id, { act: { do: "remove" } });
    } else if (kind < 82) await emptyBin(localActor, collection.id);
    else if (kind < 85) {
      const version = of(await rows("versions", "failed"), which);
      if (version) await dismissFailed(localActor, version.id);
    } else if (kind < 89) {
      shelf.splice(shelf.indexOf(collection), 1);
      await deleteCollection(localActor, collection.id, { typedName: collection.name });
    } else await kill();
  }

  for (const [kind, which, pause] of draws) {
    await step(kind, which).catch((error: unknown) => {
      // What cannot be done at this moment is refused in a sentence; anything else is a fault.
      if (!(error instanceof Failure)) throw error;
    });
    await sleep(pause * 5);
  }
  await untilQuiet();
  await removeUnusedBlobs();

  const blobNames =
    await names(sql`select sha256 as name from images where not exists (select 1 from links l where l.sha256 = images.sha256)
    union select sha256 from version_sources union select digest from versions where digest is not null
    union select sha256 from packages where sha256 is not null union select sha256 from delivery_items where sha256 is not null`);
  expect(filesIn("store", "blobs")).toEqual(blobNames.sort());
  const pictures = await names(
    sql`select sha256 as name from images union select sha256 from version_sources union select sha256 from delivery_items where sha256 is not null`,
  );
  expect(filesIn("store", "thumbnails")).toEqual(pictures.sort());
  const renders = await names(
    sql`select r.key as name from version_renders r join versions v on v.id = r.version_id where v.status = 'frozen'`,
  );
  for (const key of renders) expect(filesIn("store", "renders")).toContain(key);
  const registered = await names(sql`select distinct key as name from version_renders`);
  for (const key of filesIn("store", "renders")) expect(registered).toContain(key);
  expect(filesIn("store", "scratch")).toEqual([]);
  const sent = await names(
    sql`select 'delivery-' || id as name from deliveries where status not in ('taken', 'undone', 'undoing')`,
  );
  const folders = readdirSync(path.join(settings().home, "uploads")).filter((name) => name.startsWith("delivery-"));
  expect(folders.filter((name) => !sent.includes(name))).toEqual([]);
  expect(sent.filter((name) => !folders.includes(name))).toEqual([]);
  const marks = readdirSync(tmpdir()).flatMap((name) => /^larder-unpacked-(.+)-[^-]+$/.exec(name)?.[1] ?? []);
  expect(marks.filter(isLeftBehind)).toEqual([]);
  // What no foreign key sees to: steps of images and of acts that are gone, objects of classes that are.
  const orphans = await names(
    sql`select s.act_id || ' on ' || s.image_id as name from label_steps s
      where not exists (select 1 from images i where i.id = s.image_id) or not exists (select 1 from acts a where a.id = s.act_id)
      union all select 'object ' || o.id from objects o where not exists (select 1 from classes k where k.id = o.class_id)`,
  );
  expect(orphans).toEqual([]);
  expect(blobNames.length).toBeGreaterThan(5);
}, 240_000);
