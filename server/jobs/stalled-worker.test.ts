/** A worker that stands still long enough for another to take over, and wakes up: it writes nothing any more. */
import { planSchema } from "@larder/core/plans/plan";
import { eq, sql } from "drizzle-orm";
import type { ChildProcess } from "node:child_process";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, expect, it } from "vitest";
import { z } from "zod";
import { db } from "../db/database";
import { numberOf, rowsOf } from "../db/query";
import { jobs, versions } from "../db/schema";
import { localActor } from "../services/actor";
import { createCollection } from "../services/collections";
import { takeInDelivery } from "../services/deliveries";
import { createPlan } from "../services/plans";
import { startBuild } from "../services/versions";
import { cocoFiles, deliver, noisyPicture, saveArchive, spawnWorker, zipBytes } from "../tests/bakery";
import { untilEnded } from "./wait";

const workers: ChildProcess[] = [];
afterAll(() => workers.forEach((worker) => worker.kill("SIGKILL")));
const start = () => {
  const worker = spawnWorker();
  workers.push(worker);
  return worker;
};
const jobRow = async (id: string) => (await db().select().from(jobs).where(eq(jobs.id, id)))[0];

/**
 * Stops a worker (SIGSTOP) in the middle of a job, lets its lease lapse, has another finish the job, and wakes the first
 * one up (SIGCONT). Returns how the job stood before and some time after it woke.
 */
async function stalledIn(job: string, first: ChildProcess): Promise<void> {
  for (;;) {
    const row = await jobRow(job);
    if (row?.status === "done") throw new Error("the job was done before its worker could be stopped");
    if (row?.status === "running" && row.done >= 2) break;
    await sleep(10);
  }
  first.kill("SIGSTOP");
  // What lapses after twelve seconds by itself lapses now; the worker's connections are open all the while.
  await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${job}`);
  const second = start();
  const ended = await untilEnded(job);
  expect(ended).toMatchObject({ status: "done", runs: 2, fence: 2 });
  // What follows of itself on what was taken in comes to its end first.
  while ((await numberOf(db(), sql`select count(*) as n from images where not learned`)) > 0) await sleep(50);
  const before = await standing();
  first.kill("SIGCONT");
  await sleep(2500);
  expect(await standing()).toEqual(before);
  expect(await jobRow(job)).toMatchObject({ status: "done", runs: 2, fence: 2, done: ended.done });
  second.kill("SIGKILL");
  first.kill("SIGKILL");
}

/** All that a job could have written. */
const standing = () =>
  rowsOf(
    db(),
    z.object({ table: z.string(), rows: z.string().nullable() }),
    sql.join(
      [
        "images",
        "objects",
        "acts",
        "label_steps",
        "deliveries",
        "delivery_items",
        "versions",
        "version_sources",
        "packages",
        "classes",
        "collections",
      ].map(
        (table) =>
          sql`select ${table} as table, md5(string_agg(t::text, '|' order by t::text)) as rows from ${sql.raw(table)} t`,
      ),
      sql` union all `,
    ),
  );

it("leaves an intake and a build as the other worker finished them", async () => {
  const reader = start();
  const { id } = await createCollection(localActor, { name: "Stalled" });
  const delivery = await deliver(
    id,
    saveArchive("stalled.zip", await zipBytes(await cocoFiles(60, (n) => noisyPicture(n + 300)))),
  );
  // Nobody looks into the pictures any more: nearly all of them are left to the job that is stopped.
  reader.kill("SIGKILL");
  await db().execute(sql`update jobs set status = 'done' where kind = 'look-into'`);
  const { job } = await takeInDelivery(localActor, delivery.id);
  let first = start();
  await stalledIn(job as string, first);

  first = start();
  const body = planSchema.parse({
    prepare: { resize: { mode: "fit", width: 800, height: 800, larger: true } },
    augment: { copies: 1 },
    pack: { formats: [] },
  });
  const plan = await createPlan(localActor, id, { name: "P", body });
  const build = await startBuild(localActor, { planId: plan.id });
  await stalledIn(build.job, first);
  expect(await db().select({ number: versions.number, status: versions.status }).from(versions)).toEqual([
    { number: 1, status: "frozen" },
  ]);
}, 240_000);
