import { sql } from "drizzle-orm";
import type { ChildProcess } from "node:child_process";
import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, describe, expect, it, vi } from "vitest";
import { db } from "../../db/database";
import { requestPause, requestStop, resumeJob } from "../../jobs/queue";
import { work } from "../../jobs/work";
import { untilEnded } from "../../jobs/wait";
import { settings } from "../../settings";
import {
  cocoFiles,
  deliver,
  noisyPicture,
  picture,
  saveArchive,
  spawnWorker,
  startWorker,
  zipBytes,
} from "../../tests/bakery";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { deliveriesOf, deliveryRow, takeInDelivery } from "../deliveries";
import { jobHandlers } from "../job-handlers";
import { uploadFolder } from "./sent-files";
import { putForgottenUploadsAside, uploadDays } from "./forgotten-uploads";
import { beginUpload, filesArrived, placeForFile, receiveArchive } from "./receive";

const collection = async (name: string) => (await createCollection(localActor, { name })).id;
const counted = async (id: number) =>
  (
    await db().execute<{ images: number; objects: number; hashes: number }>(
      sql`select count(*)::int as images, count(distinct sha256)::int as hashes, coalesce(sum((select count(*) from objects o where o.image_id = i.id)), 0)::int as objects from images i where collection_id = ${id}`,
    )
  ).rows[0];
const jobRow = async (id: string) =>
  (
    await db().execute<{ status: string; done: number; runs: number; message: string }>(
      sql`select status, done::int, runs, message from jobs where id = ${id}`,
    )
  ).rows[0];

const closing: (() => void)[] = [];
afterAll(() => {
  for (const close of closing) close();
});

describe("a worker that is killed again and again", () => {
  it("leaves an intake whole in the end: nothing lost, nothing twice", async () => {
    const id = await collection("Killed ten times");
    let worker: ChildProcess = spawnWorker();
    closing.push(() => worker.kill("SIGKILL"));
    const bytes = await zipBytes(await cocoFiles(90, (n) => noisyPicture(n + 6000)));
    // Reading, looking and taking in are one way for the person; the worker falls at any place of it.
    const { id: delivery, job: reading } = await receiveArchive(localActor, {
      collectionId: id,
      archive: saveArchive("ten.zip", bytes),
      fileName: "ten.zip",
    });
    let kills = 0;
    const kill = async () => {
      worker.kill("SIGKILL");
      await new Promise((resolve) => worker.once("exit", resolve));
      kills++;
      // Its lease need not be waited out for this test: what a new worker would find in twelve seconds it finds now.
      await db().execute(sql`update jobs set lease_until = now() - interval '1 second' where status = 'running'`);
      worker = spawnWorker();
    };
    let state = 12_345;
    const random = () => (state = (Math.imul(state, 1103515245) + 12345) >>> 0) / 2 ** 32;
    await untilEnded(reading);
    const taking = (await takeInDelivery(localActor, delivery)).job as string;
    for (let runs = 0; kills < 10;) {
      const job = await jobRow(taking);
      if (!job || ["done", "failed"].includes(job.status))
        throw new Error(`it ended before ten kills, after ${kills}: ${job?.status} ${job?.message}`);
      if (job.status !== "running" || job.runs === runs) {
        await sleep(20);
        continue;
      }
      // Once a worker has it, it falls at a moment nobody chose.
      ({ runs } = job);
      await sleep(random() * 120);
      await kill();
    }
    const ended = await untilEnded(taking);
    expect(ended).toMatchObject({ status: "done", runs: 11 });
    expect(await counted(id)).toEqual({ images: 90, hashes: 90, objects: 180 });
    expect(
      (
        await db().execute<{ n: number }>(
          sql`select count(*)::int as n from delivery_items where delivery_id = ${delivery}`,
        )
      ).rows[0]?.n,
    ).toBe(0);
    worker.kill("SIGKILL");
    await new Promise((resolve) => worker.once("exit", resolve));
  }, 180_000);
});

describe("what was sent for a delivery", () => {
  it("goes once it is taken in, also where a worker was lost before it could clear it away", async () => {
    const stop = await startWorker();
    closing.push(stop);
    const id = await collection("Cleared away");
    const delivery = await deliver(
      id,
      saveArchive("first.zip", await zipBytes(await cocoFiles(2, (n) => picture(n + 6500)))),
    );
    expect((await untilEnded((await takeInDelivery(localActor, delivery.id)).job as string)).status).toBe("done");
    await vi.waitFor(() => expect(existsSync(uploadFolder(delivery.id))).toBe(false), { timeout: 60_000 });
    // As a worker leaves it that falls between the two.
    mkdirSync(uploadFolder(delivery.id));
    writeFileSync(path.join(uploadFolder(delivery.id), "first.zip"), "left behind");
    const waiting = await deliver(
      id,
      saveArchive("waiting.zip", await zipBytes(await cocoFiles(2, (n) => picture(n + 6510)))),
    );
    const next = await deliver(
      id,
      saveArchive("next.zip", await zipBytes(await cocoFiles(2, (n) => picture(n + 6520)))),
    );
    expect((await untilEnded((await takeInDelivery(localActor, next.id)).job as string)).status).toBe("done");
    await vi.waitFor(
      () => expect([delivery.id, next.id].map((one) => existsSync(uploadFolder(one)))).toEqual([false, false]),
      { timeout: 60_000 },
    );
    // What is still to be taken in stays.
    expect(existsSync(uploadFolder(waiting.id))).toBe(true);
    stop();
  }, 180_000);
});

describe("a job", () => {
  it("can be paused and resumed, and stopped while it is paused", async () => {
    const stop = await startWorker();
    closing.push(stop);
    const id = await collection("Paused");
    const delivery = await deliver(
      id,
      saveArchive("paused.zip", await zipBytes(await cocoFiles(60, (n) => noisyPicture(n + 7000, 1000, 800)))),
    );
    const { job } = await takeInDelivery(localActor, delivery.id);
    const taking = job as string;
    await requestPause(taking);
    while ((await jobRow(taking))?.status !== "paused") await sleep(30);
    const progress = (await jobRow(taking))?.done;
    await sleep(700);
    expect(await jobRow(taking)).toMatchObject({ status: "paused", done: progress });
    expect((await deliveryRow(delivery.id)).status).toBe("taking");
    await resumeJob(taking);
    expect((await untilEnded(taking)).status).toBe("done");
    expect(await counted(id)).toEqual({ images: 60, hashes: 60, objects: 120 });

    const second = await collection("Paused, then stopped");
    const other = await deliver(
      second,
      saveArchive("stopped.zip", await zipBytes(await cocoFiles(40, (n) => noisyPicture(n + 7100, 1000, 800)))),
    );
    const again = (await takeInDelivery(localActor, other.id)).job as string;
    await requestPause(again);
    while ((await jobRow(again))?.status !== "paused") await sleep(30);
    await requestStop(again);
    expect((await untilEnded(again)).status).toBe("stopped");
    expect(await deliveryRow(other.id)).toMatchObject({
      status: "read",
      failure: "Taking in was stopped; stock is as it was before.",
    });
    expect(await counted(second)).toMatchObject({ images: 0 });
  }, 120_000);

  it("that looks into pictures is over once they are taken in, also where it was paused", async () => {
    const id = await collection("Paused looking");
    const { id: delivery } = await deliver(
      id,
      saveArchive("looking.zip", await zipBytes(await cocoFiles(60, (n) => noisyPicture(n + 7200, 1000, 800)))),
    );
    const [looking] = (
      await db().execute<{ id: string }>(sql`select id from jobs where kind = 'look-into' and subject = ${delivery}`)
    ).rows;
    await requestPause(looking?.id as string);
    while ((await jobRow(looking?.id as string))?.status !== "paused") await sleep(20);
    expect((await untilEnded((await takeInDelivery(localActor, delivery)).job as string)).status).toBe("done");
    expect(await counted(id)).toEqual({ images: 60, hashes: 60, objects: 120 });
    expect((await jobRow(looking?.id as string))?.status).toBe("done");
  }, 120_000);

  it("of one collection does not wait for all of another's", async () => {
    const [busy, late] = [await collection("Busy"), await collection("Late")];
    // Nobody works yet: five deliveries of one collection wait before the one of the other.
    for (const close of closing.splice(0)) close();
    const jobs: string[] = [];
    for (let n = 0; n < 5; n++) {
      const bytes = await zipBytes({ "a.jpg": await picture(8000 + n) });
      jobs.push(
        (
          await receiveArchive(localActor, {
            collectionId: busy,
            archive: saveArchive(`busy-${n}.zip`, bytes),
            fileName: `busy-${n}.zip`,
          })
        ).job,
      );
    }
    const bytes = await zipBytes({ "a.jpg": await picture(8100) });
    const last = (
      await receiveArchive(localActor, {
        collectionId: late,
        archive: saveArchive("late.zip", bytes),
        fileName: "late.zip",
      })
    ).job;
    closing.push(await work(jobHandlers, 2));
    await Promise.all([...jobs, last].map(untilEnded));
    const { rows } = await db().execute<{ id: string }>(
      sql`select id from jobs where kind = 'read-delivery' and id = any(${sql.param([...jobs, last])}::uuid[]) order by started_at`,
    );
    expect(rows.findIndex((row) => row.id === last)).toBeLessThan(3);
  }, 60_000);
});

describe("a full disk", () => {
  // It needs the right to mount a small file system: as root, which the tests run as.
  it("ends the job with a clear word, loses nothing, and the intake goes on once there is room", async () => {
    const stop = await startWorker();
    closing.push(stop);
    const store = path.join(settings().home, "store");
    mkdirSync(store, { recursive: true });
    const id = await collection("Full disk");
    const files = await cocoFiles(12, (n) => noisyPicture(n + 9000, 700, 500));
    execFileSync("mount", ["-t", "tmpfs", "-o", "size=600k", "tmpfs", store]);
    let mounted = true;
    try {
      const delivery = await deliver(id, saveArchive("full.zip", await zipBytes(files)));
      expect(delivery.status).toBe("read");
      const { job } = await takeInDelivery(localActor, delivery.id);
      expect(await untilEnded(job as string)).toMatchObject({
        status: "failed",
        message: "The disk is full. Free some space, then try again.",
      });
      expect(await deliveryRow(delivery.id)).toMatchObject({
        status: "read",
        failure: "The disk is full. Free some space, then try again.",
      });
      expect(await counted(id)).toMatchObject({ images: 0 });
      execFileSync("mount", ["-o", "remount,size=60m", store]);
      const again = await takeInDelivery(localActor, delivery.id);
      expect((await untilEnded(again.job as string)).status).toBe("done");
      expect(await counted(id)).toEqual({ images: 12, hashes: 12, objects: 24 });
      expect((await deliveryRow(delivery.id)).failure).toBeNull();
      execFileSync("umount", [store]);
      mounted = false;
    } finally {
      if (mounted) execFileSync("umount", ["-l", store]);
    }
  }, 120_000);
});

describe("a page that was closed while it sent files", () => {
  it("leaves no row of what never sent a byte, and none for good of what nobody went on with", async () => {
    const id = await collection("Never came");
    const { id: silent } = await beginUpload(localActor, id, { source: "folder" });
    expect(await deliveriesOf(localActor, id)).toEqual([]);
    const { id: announced } = await beginUpload(localActor, id, { source: "large.zip" });
    await placeForFile(localActor, announced, "large.zip");
    const { id: begun } = await beginUpload(localActor, id, { source: "some" });
    writeFileSync(await placeForFile(localActor, begun, "one.jpg"), await picture(77));
    expect((await deliveriesOf(localActor, id)).map((row) => row.id)).toEqual([begun, announced]);
    expect(await putForgottenUploadsAside(new Date())).toBe(0);
    const later = new Date(Date.now() + (uploadDays + 1) * 24 * 3600 * 1000);
    expect(await putForgottenUploadsAside(later)).toBeGreaterThanOrEqual(2);
    await expect.poll(() => deliveriesOf(localActor, id).then((rows) => rows.map((row) => row.id))).toEqual([begun]);
    await expect.poll(() => deliveryRow(silent).catch(() => "gone")).toBe("gone");
  });

  it("leaves what arrived, which can be read or completed", async () => {
    const id = await collection("Closed");
    const files = await cocoFiles(4, (n) => picture(n + 9500));
    const { id: delivery } = await beginUpload(localActor, id, { source: "folder" });
    const names = Object.keys(files);
    for (const name of names.slice(0, 2))
      writeFileSync(await placeForFile(localActor, delivery, name), files[name] as Uint8Array);
    expect((await deliveryRow(delivery)).status).toBe("arriving");
    await untilEnded((await filesArrived(localActor, delivery)).job);
    expect((await deliveryRow(delivery)).sheet).toMatchObject({ images: 2, unlabeled: 2 });
    for (const name of names.slice(1))
      writeFileSync(await placeForFile(localActor, delivery, name), files[name] as Uint8Array);
    await untilEnded((await filesArrived(localActor, delivery)).job);
    expect((await deliveryRow(delivery)).sheet).toMatchObject({ images: 4, labeled: 4 });
  });
});
