import { planSchema } from "@larder/core/plans/plan";
import { and, eq, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, expect, it } from "vitest";
import { db } from "../db/database";
import { jobs, versions } from "../db/schema";
import { localActor } from "../services/actor";
import { createCollection } from "../services/collections";
import { takeInDelivery } from "../services/deliveries";
import { createPlan } from "../services/plans";
import { startBuild } from "../services/versions";
import { cocoFiles, deliver, noisyPicture, saveArchive, spawnWorker, zipBytes } from "../tests/bakery";
import { requestPause } from "./queue";
import { untilEnded } from "./wait";

let worker = spawnWorker();
afterAll(() => worker.kill("SIGKILL"));

/** Kills the worker once the job is between `from` and its end, starts another, and waits for the job's end. */
async function killedAt(jobId: string, from: number): Promise<typeof jobs.$inferSelect> {
  for (;;) {
    const [job] = await db().select().from(jobs).where(eq(jobs.id, jobId));
    if (job?.status === "done") throw new Error("the job was done before its worker could be killed");
    if (job && job.status === "running" && job.total > 0 && job.done >= from) break;
    await sleep(15);
  }
  worker.kill("SIGKILL");
  await new Promise((resolve) => worker.once("exit", resolve));
  const [left] = await db().select().from(jobs).where(eq(jobs.id, jobId));
  expect(left?.status).toBe("running");
  // What a new worker would find in twelve seconds it finds now.
  await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${jobId}`);
  worker = spawnWorker();
  return untilEnded(jobId);
}

/** Holds up looking into a delivery's pictures, so that taking it in has most of them before it. */
async function leaveUnlooked(deliveryId: number): Promise<void> {
  const [looking] = await db()
    .select()
    .from(jobs)
    .where(and(eq(jobs.kind, "look-into"), eq(jobs.subject, deliveryId)));
  if (!looking) throw new Error("nothing looks into this delivery");
  await requestPause(looking.id);
  for (;;) {
    const [job] = await db().select().from(jobs).where(eq(jobs.id, looking.id));
    if (job?.status === "paused" || job?.status === "done") return;
    await sleep(15);
  }
}

const holdings = async (id: number) =>
  (
    await db().execute(
      sql`select i.sha256, i.name, i.split, i.state, i.class_counts is not null as counted,
        (select jsonb_agg(jsonb_build_array(o.x, o.y, o.width, o.height, k.name) order by o.ordinal)
          from objects o join classes k on k.id = o.class_id where o.image_id = i.id) as objects
        from images i where i.collection_id = ${id} order by i.name`,
    )
  ).rows;

it("an intake and a build whose worker is killed are taken up again, with the same result and nothing twice", async () => {
  const bytes = await zipBytes(await cocoFiles(80, (n) => noisyPicture(n)));
  const [killed, whole] = [
    await createCollection(localActor, { name: "Killed" }),
    await createCollection(localActor, { name: "Whole" }),
  ];

  const first = await deliver(killed.id, saveArchive("killed.zip", bytes));
  await leaveUnlooked(first.id);
  const interrupted = await killedAt((await takeInDelivery(localActor, first.id)).job as string, 1);
  expect(interrupted).toMatchObject({ status: "done", runs: 2 });
  const second = await deliver(whole.id, saveArchive("whole.zip", bytes));
  await untilEnded((await takeInDelivery(localActor, second.id)).job as string);
  expect(await holdings(killed.id)).toEqual(await holdings(whole.id));
  expect(await holdings(killed.id)).toHaveLength(80);

  const body = planSchema.parse({
    prepare: { resize: { mode: "fit", width: 900, height: 900, larger: true } },
    augment: { copies: 1, do: [{ op: "flip-sideways", chance: 0.5 }] },
    pack: { formats: [] },
  });
  const digests = [];
  for (const [id, kill] of [
    [killed.id, true],
    [whole.id, false],
  ] as const) {
    const plan = await createPlan(localActor, id, { name: "P", body });
    const { id: version, job } = await startBuild(localActor, { planId: plan.id });
    const ended = kill ? await killedAt(job, 1) : await untilEnded(job);
    expect(ended).toMatchObject({ status: "done", runs: kill ? 2 : 1 });
    const [row] = await db().select().from(versions).where(eq(versions.id, version));
    expect(row).toMatchObject({ status: "frozen", number: 1 });
    digests.push(row?.digest);
  }
  expect(digests[0]).toBe(digests[1]);
  expect((await db().execute<{ n: number }>(sql`select count(*)::int as n from versions`)).rows[0]?.n).toBe(2);
}, 240_000);
