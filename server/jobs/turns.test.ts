/** Whose turn it is, and what a worker does between two jobs; the work itself is made up here. */
import { Failure } from "@larder/core/model/failure";
import { eq, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../db/database";
import { jobs, type JobKind } from "../db/schema";
import { localActor } from "../services/actor";
import { createCollection } from "../services/collections";
import { addJob, handOut, requestPause, requestStop, resumeJob } from "./queue";
import { runJob, work, type JobContext, type JobHandler } from "./run";
import { untilDone, untilEnded } from "./wait";

let one: number;
let other: number;
beforeAll(async () => {
  [one, other] = [
    (await createCollection(localActor, { name: "One" })).id,
    (await createCollection(localActor, { name: "Other" })).id,
  ];
});

const stops: (() => void)[] = [];
afterAll(() => {
  for (const stop of stops) stop();
});

/** Handlers that all do `run`, and what they did, in order. */
function handlers(run: (context: JobContext) => Promise<void>) {
  const begun: string[] = [];
  const abandoned: [string, string, boolean][] = [];
  const handler: JobHandler = {
    run: async (context) => {
      begun.push(context.job.title);
      await run(context);
    },
    abandon: (job, sentence, stopped) => {
      abandoned.push([job.title, sentence, stopped]);
      return Promise.resolve();
    },
  };
  const kinds: JobKind[] = ["read-delivery", "look-into", "take-in", "build-version", "pack"];
  return {
    begun,
    abandoned,
    all: Object.fromEntries(kinds.map((kind) => [kind, handler])) as Record<JobKind, JobHandler>,
  };
}
const waiting = (title: string, kind: JobKind = "pack", collectionId = one) =>
  addJob(localActor, { kind, subject: 1, collectionId, title });
const row = async (id: string) => (await db().select().from(jobs).where(eq(jobs.id, id)))[0];

describe("a worker", () => {
  it("begins what waits as soon as it is free, by one word from the queue", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    const ids = [await waiting("first"), await waiting("second"), await waiting("third")];
    const stop = await work(all, 1);
    stops.push(stop);
    // Nobody was told of the second and the third.
    await handOut(ids[0] as string);
    for (const id of ids) await untilDone(id);
    expect(begun).toEqual(["first", "second", "third"]);
    stop();
  });
  it("that was stopped finishes what it does and begins nothing", async () => {
    let release: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    const { begun, all } = handlers(() => held);
    const [running, next] = [await waiting("running"), await waiting("next")];
    const stop = await work(all, 1);
    await handOut(running);
    while (begun.length === 0) await sleep(20);
    stop();
    release();
    await untilDone(running);
    await sleep(700);
    expect(begun).toEqual(["running"]);
    expect((await row(next))?.status).toBe("queued");
    await requestStop(next);
    await runJob("a later one", all);
    expect((await row(next))?.status).toBe("stopped");
  });
});

describe("whose turn it is", () => {
  it("is the collection's that has none running, then what people wait for before looking into pictures, then the oldest", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    await waiting("looking", "look-into");
    await waiting("packing");
    await waiting("packing later");
    await waiting("the other's", "pack", other);
    // One job of the first collection runs elsewhere.
    const elsewhere = await waiting("elsewhere");
    await db().execute(
      sql`update jobs set status = 'running', worker = 'elsewhere', lease_until = now() + interval '1 minute' where id = ${elsewhere}`,
    );
    while (await runJob("here", all));
    expect(begun).toEqual(["the other's", "packing", "packing later", "looking"]);
    await db().execute(sql`update jobs set status = 'done' where id = ${elsewhere}`);
  });
  it("comes again for a job whose worker was lost, and not while that one's lease lasts", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    const id = await waiting("lost");
    await db().execute(
      sql`update jobs set status = 'running', worker = 'gone', runs = 1, lease_until = now() + interval '1 minute' where id = ${id}`,
    );
    expect(await runJob("here", all)).toBe(false);
    await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${id}`);
    expect(await runJob("here", all)).toBe(true);
    expect([begun, (await row(id))?.status, (await row(id))?.runs]).toEqual([["lost"], "done", 2]);
  });
  it("does not come for the thirty-first time: a job that takes its workers down is given up", async () => {
    const { begun, abandoned, all } = handlers(() => Promise.resolve());
    const id = await waiting("deadly");
    await db().execute(sql`update jobs set runs = 30 where id = ${id}`);
    await runJob("here", all);
    expect(begun).toEqual([]);
    expect(abandoned[0]?.[1]).toMatch(/lost 30 times/);
    expect((await row(id))?.status).toBe("failed");
  });
});

describe("a job", () => {
  it("that fails keeps its sentence, and puts things back", async () => {
    const { abandoned, all } = handlers(() => Promise.reject(new Failure("not-a-zip", "It is not a zip.")));
    const id = await waiting("failing");
    await runJob("here", all);
    expect(abandoned).toEqual([["failing", "It is not a zip.", false]]);
    expect(await row(id)).toMatchObject({ status: "failed", message: "It is not a zip." });
    await expect(untilDone(id)).rejects.toThrow("failing ended: It is not a zip.");
  });
  it("says how far it is, pauses at its next step with that kept, goes on, and stops", async () => {
    const steps = handlers(async ({ job, progress }) => {
      for (let n = job.done + 1; n <= 10; n++) {
        if (n === 4 && !job.pauseRequested && job.runs === 1) await requestPause(job.id);
        if (n === 8) await requestStop(job.id);
        // Each step is far enough from the last to be written down.
        await sleep(410);
        await progress(n, 10, "Counting");
      }
    });
    const id = await waiting("counting");
    await runJob("here", steps.all);
    expect(await row(id)).toMatchObject({ status: "paused", done: 4, total: 10, message: "Counting", worker: null });
    expect(await runJob("here", steps.all)).toBe(false);
    await resumeJob(id);
    await runJob("here", steps.all);
    expect(steps.begun).toEqual(["counting", "counting"]);
    expect(steps.abandoned).toEqual([["counting", "Stopped.", true]]);
    expect(await untilEnded(id)).toMatchObject({ status: "stopped", done: 8, runs: 2 });
  });
});
