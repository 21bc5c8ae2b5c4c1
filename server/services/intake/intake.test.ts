import { eq, sql } from "drizzle-orm";
import { existsSync, readdirSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../../db/database";
import { deliveries, jobs } from "../../db/schema";
import { runJob } from "../../jobs/run";
import { numberOf } from "../../db/query";
import { settings } from "../../settings";
import {
  cocoFiles,
  deliver,
  deliverAndTakeIn,
  noisyPicture,
  picture,
  saveArchive,
  startWorker,
  undoWhole,
  zipBytes,
} from "../../tests/bakery";
import { untilEnded } from "../../jobs/wait";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { undoLast } from "../acts";
import { binOf, emptyBin } from "../bin";
import { jobHandlers } from "../job-handlers";
import { deliveryRow, leaveOut, takeInDelivery } from "../deliveries";
import { previewItems } from "./preview";
import { requestStop } from "../../jobs/queue";

let stop: () => void;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

const collection = async (name: string) => (await createCollection(localActor, { name })).id;
const counted = async (id: number) =>
  (
    await db().execute<{ images: number; objects: number; classes: number }>(
      sql`select (select count(*)::int from images where collection_id = ${id} and removed_at is null) as images,
        (select count(*)::int from objects o join images i on i.id = o.image_id where i.collection_id = ${id} and i.removed_at is null) as objects,
        (select count(*)::int from classes where collection_id = ${id} and removed_at is null) as classes`,
    )
  ).rows[0];
const liveJobs = (delivery: number) =>
  numberOf(
    db(),
    sql`select count(*) as n from jobs where subject = ${delivery} and kind = 'look-into' and status in ('queued', 'running')`,
  );
const storedBlobs = () => {
  const folder = path.join(settings().home, "store", "blobs");
  return existsSync(folder)
    ? readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile()).length
    : 0;
};

const countsOf = (findings: readonly { code: string; count: number }[]) =>
  Object.fromEntries(findings.map(({ code, count }) => [code, count]));

describe("an intake", () => {
  it("takes images, objects and classes in, and can be undone as a whole", async () => {
    const id = await collection("Whole");
    const before = storedBlobs();
    const delivery = await deliverAndTakeIn(id, saveArchive("whole.zip", await zipBytes(await cocoFiles(12))));
    expect(delivery).toMatchObject({
      status: "taken",
      taken: { images: 12, objects: 24, skipped: 0, leftOut: 0, relabeled: 0 },
    });
    expect(await counted(id)).toEqual({ images: 12, objects: 24, classes: 3 });
    expect(storedBlobs()).toBe(before + 12);
    await undoWhole(delivery.id);
    expect(await deliveryRow(delivery.id)).toMatchObject({ status: "undone", undoneBy: "local" });
    expect(await counted(id)).toEqual({ images: 0, objects: 0, classes: 0 });
    // Until the bin is emptied it can be done again.
    expect(storedBlobs()).toBe(before + 12);
    await undoLast(localActor, id, { again: true });
    expect(await counted(id)).toEqual({ images: 12, objects: 24, classes: 3 });
    expect(await deliveryRow(delivery.id)).toMatchObject({ status: "taken", undoneBy: null });
    await undoWhole(delivery.id);
    expect(await binOf(localActor, id)).toMatchObject({ images: 12 });
    await untilEnded((await emptyBin(localActor, id)).job);
    expect(await binOf(localActor, id)).toMatchObject({ images: 0 });
    while (storedBlobs() > before) await sleep(20);
  });

  it("stores the same bytes once, skips them in the same collection, and keeps what another one holds", async () => {
    const [a, b] = [await collection("Same a"), await collection("Same b")];
    const bytes = await zipBytes(await cocoFiles(5, (n) => picture(n + 500)));
    const before = storedBlobs();
    const first = await deliverAndTakeIn(a, saveArchive("one.zip", bytes));
    const again = await deliverAndTakeIn(a, saveArchive("two.zip", bytes));
    expect(again.taken).toEqual({ images: 0, objects: 0, skipped: 5, leftOut: 0, relabeled: 0 });
    expect(again.findings.find(({ code }) => code === "already-in-stock")?.count).toBe(5);
    await deliverAndTakeIn(b, saveArchive("three.zip", bytes));
    expect(storedBlobs()).toBe(before + 5);
    await undoWhole(first.id);
    expect(storedBlobs()).toBe(before + 5);
    expect(await counted(b)).toMatchObject({ images: 5 });
  });

  it("leaves out what was left out on the sheet, and asking twice takes in once", async () => {
    const id = await collection("Left out");
    const delivery = await deliver(
      id,
      saveArchive("left.zip", await zipBytes(await cocoFiles(6, (n) => picture(n + 900)))),
    );
    expect(delivery.sheet).toMatchObject({ format: "coco", images: 6, labeled: 6, objects: 12 });
    const { items } = await previewItems(localActor, delivery.id, { filter: "all", offset: 0, limit: 12 });
    expect(items[0]?.objects[0]).toEqual({ class: "roll", shape: { kind: "box", x: 1, y: 2, width: 10, height: 12 } });
    await leaveOut(localActor, delivery.id, { ordinals: [0, 2], leftOut: true });
    const [one, two] = await Promise.all([
      takeInDelivery(localActor, delivery.id),
      takeInDelivery(localActor, delivery.id),
    ]);
    expect([one.job, two.job].filter(Boolean)).toHaveLength(1);
    await untilEnded((one.job ?? two.job) as string);
    expect(await counted(id)).toMatchObject({ images: 4, objects: 8 });
  });

  it("sets the camera's rotation upright, clips what reaches outside, and reads sizes from the files", async () => {
    const turned = await sharp({ create: { width: 48, height: 64, channels: 3, background: "#a50" } })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();
    const annotations = [
      { id: 1, image_id: 1, category_id: 1, bbox: [50, 40, 30, 30] },
      { id: 2, image_id: 1, category_id: 1, bbox: [100, 100, 5, 5] },
    ];
    const id = await collection("Turned");
    const delivery = await deliverAndTakeIn(
      id,
      saveArchive(
        "turned.zip",
        await zipBytes({
          "a.jpg": turned,
          "a.json": JSON.stringify({
            images: [{ id: 1, file_name: "a.jpg", width: 640, height: 480 }],
            annotations,
            categories: [{ id: 1, name: "roll" }],
          }),
        }),
      ),
    );
    const [image] = (
      await db().execute<{ width: number; height: number; orientation: number }>(
        sql`select width, height, orientation from images where collection_id = ${id}`,
      )
    ).rows;
    expect(image).toEqual({ width: 64, height: 48, orientation: 6 });
    const { rows } = await db().execute(
      sql`select o.x, o.y, o.width, o.height from objects o join images i on i.id = o.image_id where i.collection_id = ${id}`,
    );
    expect(rows).toEqual([{ x: 50, y: 40, width: 14, height: 8 }]);
    expect(countsOf(delivery.findings)).toEqual({
      "box-outside-image": 2,
      "shape-degenerate": 1,
      "size-mismatch": 1,
      "labels-scaled": 1,
      "exif-rotated": 1,
    });
  });

  it("leaves stock as it was when it is stopped, and can be started again", async () => {
    const id = await collection("Stopped");
    const delivery = await deliver(
      id,
      saveArchive("stop.zip", await zipBytes(await cocoFiles(40, (n) => picture(n + 2000, 900, 700)))),
    );
    const { job } = await takeInDelivery(localActor, delivery.id);
    await requestStop(job as string);
    expect((await untilEnded(job as string)).status).toBe("stopped");
    expect(await counted(id)).toEqual({ images: 0, objects: 0, classes: 0 });
    // The sheet goes on being looked into.
    await expect
      .poll(async () => (await deliveryRow(delivery.id)).looked, { timeout: 60_000 })
      .toMatchObject({ placed: 0 });
    const again = await takeInDelivery(localActor, delivery.id);
    expect((await untilEnded(again.job as string)).status).toBe("done");
    expect(await counted(id)).toMatchObject({ images: 40, objects: 80 });
  });

  it("is looked into again after a stop, also where the looking before it has yet to see that it gave way", async () => {
    const id = await collection("Gave way");
    const { id: delivery } = await deliver(id, saveArchive("way.zip", await zipBytes(await cocoFiles(3))));
    const looked = async () => (await deliveryRow(delivery)).looked;
    await expect.poll(looked, { timeout: 60_000 }).toMatchObject({ placed: 0 });
    await expect.poll(() => liveJobs(delivery), { timeout: 60_000 }).toBe(0);
    // A looking that another worker is at, and a taking in that is stopped while it is.
    await db().update(deliveries).set({ status: "taking", looked: null }).where(eq(deliveries.id, delivery));
    const job = {
      subject: delivery,
      collectionId: id,
      title: "By hand",
      createdBy: "local",
    } as const;
    const leaseUntil = sql`now() + interval '1 hour'`;
    const [looking] = await db()
      .insert(jobs)
      .values({ ...job, kind: "look-into", status: "running", leaseUntil })
      .returning();
    const [taking] = await db()
      .insert(jobs)
      .values({ ...job, kind: "take-in", stopRequested: true })
      .returning();
    if (!looking || !taking) throw new Error("no job");
    const putBack = runJob(taking.id, "ours", jobHandlers);
    await expect.poll(async () => Promise.race([putBack.then(() => "back"), sleep(150, "waits")])).toBe("waits");
    await db().update(jobs).set({ status: "done" }).where(eq(jobs.id, looking.id));
    await putBack;
    expect([(await deliveryRow(delivery)).status, (await untilEnded(taking.id)).status]).toEqual(["read", "stopped"]);
    await expect.poll(looked, { timeout: 60_000 }).toMatchObject({ placed: 0 });
  });
});

describe("bad input gets a sentence and stores nothing", () => {
  const good = async () => zipBytes(await cocoFiles(3, (n) => picture(n + 4000)));
  const failing: [string, () => Promise<Uint8Array>, RegExp][] = [
    ["a zip that is cut off", async () => (await good()).subarray(0, 900), /not a zip, or it was cut off/],
    ["something that is no zip", async () => Buffer.from("hello, I am a letter"), /not a zip/],
    ["nothing at all", async () => Buffer.alloc(0), /not a zip/],
    ["an empty zip", () => zipBytes({}), /empty/],
    [
      "a zip without a picture",
      () => zipBytes({ "a.txt": "x", "b.json": "{}" }),
      /no picture in it, and no annotation of pictures in stock, among its 2 files/,
    ],
  ];
  it.each(failing)("%s", async (name, bytes, sentence) => {
    const id = await collection(`Bad ${name}`);
    const delivery = await deliver(id, saveArchive("bad.zip", await bytes()));
    expect(delivery.status).toBe("failed");
    expect(delivery.failure).toMatch(sentence);
    expect(await counted(id)).toEqual({ images: 0, objects: 0, classes: 0 });
  });

  it("a JSON that is not COCO: its images come in unlabeled, and it is said", async () => {
    const delivery = await deliver(
      await collection("Not COCO"),
      saveArchive("other.zip", await zipBytes({ "a.jpg": await picture(5000), "notes.json": '{"weather":"fine"}' })),
    );
    expect(delivery.sheet).toMatchObject({ images: 1, unlabeled: 1 });
    expect(delivery.sheet?.findings.find(({ code }) => code === "annotation-unreadable")?.message).toMatch(/not COCO/);
  });

  it("entries that climb out, links and bombs are left out; the rest comes in", async () => {
    const files = {
      ...(await cocoFiles(2, (n) => picture(n + 5100))),
      "aa/evil.jpg": await picture(5200),
      "link.jpg": "/etc/passwd",
      "bomb.jpg": new Uint8Array(40_000_000),
    };
    const raw = await zipBytes(files, { "link.jpg": 0o120777 });
    const bytes = Buffer.from(raw.toString("latin1").replaceAll("aa/evil.jpg", "../evil.jpg"), "latin1");
    const id = await collection("Hostile");
    const delivery = await deliverAndTakeIn(id, saveArchive("hostile.zip", bytes));
    const finding = delivery.findings.find(({ code }) => code === "entry-unsafe");
    expect(finding?.count).toBe(3);
    expect(finding?.message).toMatch(/leaves the archive.*it is a link.*times its size/);
    expect(await counted(id)).toMatchObject({ images: 2 });
    expect(existsSync(path.join(settings().home, "evil.jpg"))).toBe(false);
  });

  it("a picture of 60,000 × 60,000 pixels and a .jpg that is text are left out by name", async () => {
    // A PNG whose header claims the size; nothing behind it needs to be true.
    const header = Buffer.from(
      await sharp({ create: { width: 4, height: 4, channels: 3, background: "#fff" } })
        .png()
        .toBuffer(),
    );
    header.writeUInt32BE(60_000, 16);
    header.writeUInt32BE(60_000, 20);
    const { crc32 } = (await import("node:zlib")) as unknown as { crc32?: (data: Buffer) => number };
    header.writeUInt32BE((crc32 ?? plainCrc)(header.subarray(12, 29)), 29);
    const half = (await noisyPicture(5300, 200, 150)).subarray(0, 4000);
    const id = await collection("Huge");
    const delivery = await deliverAndTakeIn(
      id,
      saveArchive(
        "huge.zip",
        await zipBytes({
          ...(await cocoFiles(2, (n) => picture(n + 5400))),
          "huge.png": header,
          "text.jpg": "not a picture",
          "half.jpg": half,
        }),
      ),
    );
    const finding = delivery.findings.find(({ code }) => code === "image-unreadable");
    expect(finding?.count).toBe(3);
    expect(finding?.message).toMatch(/60,000 × 60,000 pixels/);
    expect(await counted(id)).toMatchObject({ images: 2 });
  });

  it("annotations for images that are not there, and unknown categories, are counted", async () => {
    const files = await cocoFiles(2, (n) => picture(n + 5600));
    const json = JSON.parse(files["annotations.json"] as string) as { images: object[]; annotations: object[] };
    json.images.push({ id: 99, file_name: "gone.jpg", width: 5, height: 5 });
    json.annotations.push(
      { id: 90, image_id: 99, category_id: 1, bbox: [0, 0, 2, 2] },
      { id: 91, image_id: 0, category_id: 44, bbox: [0, 0, 2, 2] },
      { id: 92, image_id: 12345, category_id: 1, bbox: [0, 0, 2, 2] },
    );
    files["annotations.json"] = JSON.stringify(json);
    const delivery = await deliverAndTakeIn(await collection("Gone"), saveArchive("gone.zip", await zipBytes(files)));
    expect(countsOf(delivery.findings)).toEqual({ "image-missing": 2, "class-unknown": 1, "near-copy": 1 });
    expect(delivery.taken).toMatchObject({ images: 2, objects: 4 });
  });
});

/** CRC-32 bit by bit, for a Node.js whose zlib has none. */
function plainCrc(data: Buffer): number {
  let crc = 0xffffffff;
  for (const byte of data) {
    crc ^= byte;
    for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
  }
  return (crc ^ 0xffffffff) >>> 0;
}
