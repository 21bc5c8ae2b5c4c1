/** Whose turn it is, and what a worker does with a job; the work itself is made up here. */
import { Failure } from "@larder/core/model/failure";
import { eq, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { z } from "zod";
import { db, transaction, type Transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { collections, jobKinds, jobs, plans, type JobKind } from "../db/schema";
import { localActor } from "../services/actor";
import { createCollection } from "../services/collections";
import { addJob, mostRuns, requestPause, requestStop, resumeJob } from "./queue";
import { runJob } from "./run";
import { work } from "./work";
import type { JobContext, JobHandler } from "./handler";
import { untilDone, untilEnded } from "./wait";

let one: number;
let other: number;
beforeAll(async () => {
  one = (await createCollection(localActor, { name: "One" })).id;
  other = (await createCollection(localActor, { name: "Other" })).id;
});

const stops: (() => void)[] = [];
const stopAll = () => stops.splice(0).forEach((stop) => stop());
afterEach(stopAll);
afterAll(stopAll);
const startWork = async (all: Record<JobKind, JobHandler>, atOnce = 1) => {
  const stop = await work(all, atOnce);
  stops.push(stop);
  return stop;
};

/** Handlers that all do `run`, and what they did, in order. */
function handlers(run: (context: JobContext) => Promise<void>) {
  const begun: string[] = [];
  const abandoned: [string, string, boolean][] = [];
  const handler: JobHandler = {
    run: async (context) => {
      begun.push(context.job.title);
      await run(context);
    },
    putBack: (_, job, sentence, stopped) => {
      abandoned.push([job.title, sentence, stopped]);
      return Promise.resolve();
    },
  };
  return {
    begun,
    abandoned,
    all: Object.fromEntries(jobKinds.map((kind) => [kind, handler])) as Record<JobKind, JobHandler>,
  };
}

let subjects = 0;
const waiting = (title: string, kind: JobKind = "pack", collectionId = one, subject = ++subjects) =>
  transaction((tx) => addJob(localActor, { kind, subject, collectionId, title }, tx));
const row = async (id: string) => (await db().select().from(jobs).where(eq(jobs.id, id)))[0];
const until = async (test: () => Promise<boolean> | boolean) => {
  while (!(await test())) await sleep(15);
};

describe("a worker", () => {
  it("begins what waits as soon as it is free", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    await startWork(all);
    const ids = [await waiting("first"), await waiting("second"), await waiting("third")];
    for (const id of ids) await untilDone(id);
    expect(begun.sort()).toEqual(["first", "second", "third"]);
  });
  it("that was stopped finishes what it does and begins nothing", async () => {
    let release: () => void = () => undefined;
    const gate = new Promise<void>((resolve) => (release = resolve));
    const { begun, all } = handlers(() => gate);
    const stop = await startWork(all);
    const running = await waiting("running");
    await until(() => begun.length === 1);
    const next = await waiting("next");
    stop();
    release();
    await untilDone(running);
    await sleep(700);
    expect(begun).toEqual(["running"]);
    expect((await row(next))?.status).toBe("queued");
    await requestStop(next);
    await runJob(next, "a later one", all);
    expect((await row(next))?.status).toBe("stopped");
  });
});

describe("whose turn it is", () => {
  it("is what people wait for before looking into pictures, and no collection with many jobs holds up another", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    const ids = [
      await waiting("looking", "look-into"),
      await waiting("packing"),
      await waiting("packing later"),
      await waiting("packing last"),
      await waiting("the other's", "pack", other),
    ];
    await startWork(all);
    for (const id of ids) await untilDone(id);
    expect(begun).toEqual(["the other's", "packing", "packing later", "packing last", "looking"]);
  });
  it("comes once for a kind and subject, however often it is asked for", async () => {
    const { begun, all } = handlers(() => sleep(50));
    const ids = await Promise.all(
      Array.from({ length: 6 }, () => waiting("looked into once", "look-into", one, 777_777)),
    );
    expect(new Set(ids).size).toBe(1);
    await startWork(all, 2);
    await untilDone(ids[0] as string);
    expect(begun).toEqual(["looked into once"]);
  });
  it("comes again for a job whose worker was lost, and not while that one's lease lasts", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    const id = await waiting("lost");
    await db().execute(
      sql`update jobs set status = 'running', worker = 'gone', runs = 1, fence = 1, lease_until = now() + interval '1 minute' where id = ${id}`,
    );
    expect(await runJob(id, "here", all)).toBe(false);
    await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${id}`);
    expect(await runJob(id, "here", all)).toBe(true);
    expect([begun, (await row(id))?.status, (await row(id))?.runs]).toEqual([["lost"], "done", 2]);
  });
  it("does not come once more than the limit: a job that takes its workers down is given up", async () => {
    const { begun, abandoned, all } = handlers(() => Promise.resolve());
    const id = await waiting("deadly");
    await db().execute(sql`update jobs set runs = ${mostRuns} where id = ${id}`);
    await runJob(id, "here", all);
    expect(begun).toEqual([]);
    expect(abandoned[0]?.[1]).toMatch(new RegExp(`lost ${mostRuns} times`));
    expect((await row(id))?.status).toBe("failed");
  });
  it("comes for what the queue has lost sight of", async () => {
    const { begun, all } = handlers(() => Promise.resolve());
    const id = await waiting("forgotten");
    await db().execute(sql`delete from pgboss.job where data->>'jobId' = ${id}`);
    await db().execute(sql`update jobs set created_at = now() - interval '1 minute' where id = ${id}`);
    await startWork(all);
    await untilDone(id);
    expect(begun).toEqual(["forgotten"]);
  });
});

describe("a job", () => {
  it("that fails keeps its sentence, and puts things back", async () => {
    const { abandoned, all } = handlers(() => Promise.reject(new Failure("not-a-zip", "It is not a zip.")));
    const id = await waiting("failing");
    await runJob(id, "here", all);
    expect(abandoned).toEqual([["failing", "It is not a zip.", false]]);
    expect(await row(id)).toMatchObject({ status: "failed", message: "It is not a zip." });
    await expect(untilDone(id)).rejects.toThrow("failing ended: It is not a zip.");
  });
  it("that fails through nobody's fault is tried again after a pause, and not for ever", async () => {
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    let tries = 0;
    const broken = () => Promise.reject(Object.assign(new Error("Connection terminated unexpectedly"), {}));
    const twice = handlers(() => (++tries < 2 ? broken() : Promise.resolve()));
    const id = await waiting("flaky");
    await startWork(twice.all);
    await untilDone(id);
    expect([tries, twice.abandoned, (await row(id))?.runs]).toEqual([2, [], 2]);
    stopAll();
    const never = handlers(broken);
    const hopeless = await waiting("hopeless");
    await expect(runJob(hopeless, "here", never.all, 2)).rejects.toThrow(/terminated/);
    expect((await row(hopeless))?.status).toBe("queued");
    await runJob(hopeless, "here", never.all, 3);
    expect((await row(hopeless))?.status).toBe("failed");
    vi.restoreAllMocks();
  });
  it("says how far it is, pauses at its next step with that kept, goes on, and stops", async () => {
    const steps = handlers(async ({ job, progress }) => {
      for (let n = job.done + 1; n <= 10; n++) {
        if (n === 4 && job.runs === 1) await requestPause(job.id);
        if (n === 8) await requestStop(job.id);
        // Each step is far enough from the last to be written down.
        await sleep(410);
        await progress(n, 10, "Counting");
      }
    });
    const id = await waiting("counting");
    await runJob(id, "here", steps.all);
    expect(await row(id)).toMatchObject({ status: "paused", done: 4, total: 10, message: "Counting", worker: null });
    expect(await runJob(id, "here", steps.all)).toBe(false);
    await resumeJob(id);
    await runJob(id, "here", steps.all);
    expect(steps.begun).toEqual(["counting", "counting"]);
    expect(steps.abandoned).toEqual([["counting", "Stopped.", true]]);
    expect(await untilEnded(id)).toMatchObject({ status: "stopped", done: 8, runs: 2 });
  });
});

describe("a claim", () => {
  it("that another worker has taken over writes nothing any more, and ends nothing", async () => {
    const mark = `written by the first ${Date.now()}`;
    let outcome: unknown = null;
    const late = handlers(async ({ job, write, progress }) => {
      // While this one stalls, its lease lapses and another worker does the job.
      await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${job.id}`);
      await runJob(job.id, "another", quick.all);
      outcome = await write((tx) =>
        tx.insert(plans).values({ collectionId: one, name: mark, body: {} as never }),
      ).catch((error: unknown) => error);
      await progress(1, 1);
    });
    const quick = handlers(async ({ write }) => {
      await write((tx) => tx.insert(plans).values({ collectionId: one, name: `${mark}, second`, body: {} as never }));
    });
    const id = await waiting("contended");
    await runJob(id, "the first", late.all);
    expect((outcome as Error).constructor.name).toBe("Lost");
    const written = await db().select({ name: plans.name }).from(plans).where(eq(plans.collectionId, one));
    expect(written.map(({ name }) => name)).toEqual([`${mark}, second`]);
    expect([late.abandoned, await row(id)]).toMatchObject([[], { status: "done", fence: 2, runs: 2 }]);
  });
  it("cannot be taken over between its last check and its commit", async () => {
    const rival = handlers(() => Promise.resolve());
    let order: string[] = [];
    const slow = handlers(async ({ job, write }) => {
      order = [];
      const writing = write(async (tx) => {
        await tx.execute(sql`select 1 from jobs where id = ${job.id} for share`);
        await sleep(150);
      }).then(() => order.push("committed"));
      await sleep(30);
      const taking = db()
        .execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${job.id}`)
        .then(() => runJob(job.id, "rival", rival.all))
        .then(() => order.push("taken over"));
      await Promise.all([writing, taking]);
    });
    const id = await waiting("raced");
    await runJob(id, "the first", slow.all);
    expect(order).toEqual(["committed", "taken over"]);
  });
});

describe("work that is asked for as it ends", () => {
  const quiet = handlers(() => Promise.resolve());
  const namedOne = async () => (await db().select().from(collections).where(eq(collections.id, one)))[0]?.name;
  it.each(["done", "stopped", "failed"] as const)(
    "is a job of its own for whoever has seen that it is %s",
    async (status) => {
      const rename = async (tx: Transaction) => {
        await tx
          .update(collections)
          .set({ name: `${status} by now` })
          .where(eq(collections.id, one));
      };
      const handler: JobHandler = {
        async run({ job, progress }) {
          if (status === "done") return rename;
          if (status === "failed") throw new Failure("not-a-zip", "It is not a zip.");
          await requestStop(job.id);
          await progress(1, 1);
          await progress(1, 1);
        },
        putBack: rename,
      };
      const subject = ++subjects;
      const id = await waiting("first", "pack", one, subject);
      await runJob(id, "here", { ...quiet.all, pack: handler });
      // The same transaction wrote both: nobody has seen the one without the other.
      const [written] = await rowsOf(
        db(),
        z.object({ name: z.string(), isOne: z.boolean() }),
        sql`select c.name, c.xmin = j.xmin as "isOne" from collections c, jobs j where c.id = ${one} and j.id = ${id}`,
      );
      expect([written, (await row(id))?.status]).toEqual([{ name: `${status} by now`, isOne: true }, status]);
      expect(await waiting("anew", "pack", one, subject)).not.toBe(id);
    },
  );
  it("is put back once it can be, and ends then", async () => {
    let asked = 0;
    const states: (string | undefined)[] = [];
    const handler: JobHandler = {
      run: () => Promise.reject(new Failure("not-a-zip", "It is not a zip.")),
      async putBack(_, job) {
        states.push((await row(job.id))?.status);
        return ++asked === 3;
      },
    };
    const id = await waiting("in its time");
    await runJob(id, "here", { ...quiet.all, pack: handler });
    expect([states, (await row(id))?.status]).toEqual([["running", "running", "running"], "failed"]);
  });
  it("writes nothing last, and ends nothing, where another worker has taken it over", async () => {
    const mark = `last words ${Date.now()}`;
    const handler: JobHandler = {
      async run({ job }) {
        await db().execute(sql`update jobs set fence = fence + 1 where id = ${job.id}`);
        return (tx) => tx.update(collections).set({ name: mark }).where(eq(collections.id, one));
      },
    };
    const id = await waiting("taken over");
    await runJob(id, "here", { ...quiet.all, pack: handler });
    expect([(await namedOne()) === mark, (await row(id))?.status]).toEqual([false, "running"]);
  });
  it("has ended only once whoever was told that it does their work has committed", async () => {
    const order: string[] = [];
    const id = await waiting("patient", "pack", one, ++subjects);
    const subject = subjects;
    const { all } = handlers(async () => {
      const asking = transaction(async (tx) => {
        const job = { kind: "pack" as const, subject, collectionId: one, title: "the same" };
        order.push((await addJob(localActor, job, tx)) === id ? "the same job" : "another");
        await sleep(150);
      }).then(() => order.push("committed"));
      await until(() => order.length === 1);
      void asking;
    });
    await runJob(id, "here", all);
    order.push("ended");
    expect(order).toEqual(["the same job", "committed", "ended"]);
  });
});

type Wish = "pause" | "stop" | "resume";
const wishes: Record<Wish, (id: string) => Promise<void>> = {
  pause: requestPause,
  stop: requestStop,
  resume: resumeJob,
};
const pairs: [Wish, Wish][] = [
  ["pause", "stop"],
  ["pause", "resume"],
  ["stop", "resume"],
  ["pause", "pause"],
  ["stop", "stop"],
  ["resume", "resume"],
];

describe("two wishes at once", () => {
  it.each(["queued", "running", "paused"] as const)(
    "about a job that is %s leave it in one state, and it can end",
    async (from) => {
      for (const pair of pairs)
        for (let round = 0; round < 4; round++) {
          const id = await waiting(`${from} ${pair.join(" ")} ${round}`);
          if (from === "running")
            await db().execute(
              sql`update jobs set status = 'running', fence = 1, lease_until = now() + interval '1 minute' where id = ${id}`,
            );
          if (from === "paused")
            await db().execute(sql`update jobs set status = 'paused', pause_requested = true where id = ${id}`);
          await Promise.all((round % 2 === 0 ? pair : [...pair].reverse()).map((wish) => wishes[wish](id)));
          const after = await row(id);
          const words = `${from}, ${pair.join(" and ")}: ${after?.status}`;
          // A wish to stop is never lost, whatever came with it.
          if (pair.includes("stop"))
            expect([words, after?.stopRequested, after?.status === "paused"]).toEqual([words, true, false]);
          if (from === "running") expect(after?.status).toBe("running");
          if (from === "running")
            await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where id = ${id}`);
          const { all, abandoned } = handlers(() => Promise.resolve());
          if (after?.status === "paused") await resumeJob(id);
          await runJob(id, "finisher", all);
          let last = await row(id);
          if (last?.status === "paused") {
            await resumeJob(id);
            await runJob(id, "finisher", all);
            last = await row(id);
          }
          expect([words, last?.status]).toEqual([words, pair.includes("stop") ? "stopped" : "done"]);
          expect(abandoned.length).toBe(pair.includes("stop") ? 1 : 0);
        }
    },
  );
  it("and the end of the job: what ended stays ended", async () => {
    for (const wish of Object.keys(wishes) as Wish[])
      for (let round = 0; round < 8; round++) {
        const id = await waiting(`${wish} at the end ${round}`);
        const { all } = handlers(() => Promise.resolve());
        await Promise.all([runJob(id, "here", all), sleep(round * 2).then(() => wishes[wish](id))]);
        let last = await row(id);
        if (last?.status === "paused") {
          await resumeJob(id);
          await runJob(id, "here", all);
        } else if (last?.status === "queued") await runJob(id, "here", all);
        last = await row(id);
        expect(["done", "stopped"]).toContain(last?.status);
        await wishes[wish](id);
        expect((await row(id))?.status).toBe(last?.status);
      }
  });
});

it("is not lost where a worker fell between the queue and its claim", async () => {
  const { all, begun } = handlers(() => Promise.resolve());
  const id = await waiting("Taken and dropped");
  // As a worker leaves it that took it from the queue and was killed before it could say so.
  await db().execute(
    sql`update pgboss.job set state = 'active', started_on = now() - interval '20 seconds' where data->>'jobId' = ${id}`,
  );
  await startWork(all);
  await untilDone(id);
  expect(begun).toEqual(["Taken and dropped"]);
});
