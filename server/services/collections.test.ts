import { planSchema } from "@larder/core/plans/plan";
import { sql } from "drizzle-orm";
import { existsSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../db/database";
import { onEvent, type LarderEvent } from "../jobs/events";
import { recentJobs, requestStop } from "../jobs/queue";
import { runJob } from "../jobs/run";
import { cocoFiles, deliver, deliverAndTakeIn, picture, saveArchive, startWorker, zipBytes } from "../tests/bakery";
import { untilEnded } from "../jobs/wait";
import { localActor } from "./actor";
import { checksOf } from "./checks/stocktake";
import { collectionRow, createCollection, deleteCollection, line, changeCollection, shelves } from "./collections";
import { changeDelivery, deliveriesOf, readAgain } from "./deliveries";
import { proposedName } from "./intake/receive";
import { goTo } from "./go-to";
import { jobHandlers } from "./job-handlers";
import { createPlan, deletePlan, planRow, plansOf, savePlan } from "./plans";
import { planEvidence } from "./planning/evidence";
import { uploadFolder } from "./intake/sent-files";
import { startBuild } from "./versions";

let stop: () => void;
let racks: number;
beforeAll(async () => {
  stop = await startWorker();
  racks = (await createCollection(localActor, { name: "  Racks  " })).id;
  await deliverAndTakeIn(racks, saveArchive("racks.zip", await zipBytes(await cocoFiles(9))));
});
afterAll(() => stop());

describe("collections", () => {
  it("have a name of their own", async () => {
    expect((await collectionRow(racks)).name).toBe("Racks");
    await expect(createCollection(localActor, { name: "Racks" })).rejects.toThrow(/already/);
    await expect(createCollection(localActor, { name: "   " })).rejects.toThrow(/Give it a name/);
    await expect(createCollection({ ...localActor, roles: "viewer" }, { name: "X" })).rejects.toThrow(/not bring/);
    const other = (await createCollection(localActor, { name: "Other" })).id;
    await expect(changeCollection(localActor, other, { name: "Racks" })).rejects.toThrow(/already/);
    await changeCollection(localActor, other, { name: "Another" });
    expect((await collectionRow(other)).name).toBe("Another");
    await expect(changeCollection(localActor, 99_999, { name: "Z" })).rejects.toThrow(/no collection/);
  });

  it("show their numbers on the shelf and on the line", async () => {
    const [shelf] = await shelves(localActor);
    expect(shelf).toMatchObject({ name: "Racks", images: 9, objects: 18, lastVersion: null });
    expect(shelf?.classes.map(({ name, count }) => [name, count])).toEqual([
      ["roll", 9],
      ["loaf", 6],
      ["tart", 3],
    ]);
    expect(shelf?.pictures).toHaveLength(9);
    expect(await line(localActor, racks)).toMatchObject({
      deliveries: 1,
      deliveriesWaiting: 0,
      stock: 9,
      classes: 3,
      plans: 0,
      versions: 0,
    });
    await deliver(racks, saveArchive("waiting.zip", await zipBytes({ "x.jpg": await picture(800) })));
    expect(await line(localActor, racks)).toMatchObject({ deliveries: 1, deliveriesWaiting: 1 });
  });

  it("say in checks what is rare", async () => {
    const { findings: checks } = await checksOf(localActor, racks);
    expect(checks.filter(({ code }) => code === "class-rare").map(({ sentence }) => sentence)).toEqual([
      "roll has only 9 examples, on 9 images.",
      "loaf has only 6 examples, on 6 images.",
      "tart has only 3 examples, on 3 images.",
    ]);
  });

  it("say what several deliveries found in one sentence, with the way to all of it", async () => {
    const id = (await createCollection(localActor, { name: "Two shifts" })).id;
    const bare = (name: string) =>
      JSON.stringify({ images: [{ id: 1, file_name: name, width: 64, height: 48 }], annotations: [], categories: [] });
    const shift = async (first: number) => ({
      ...(await cocoFiles(2, picture, first)),
      "free.jpg": await picture(first + 70),
      "bare.jpg": await picture(first + 80),
      "bare.json": bare("bare.jpg"),
      "text.jpg": "no picture",
    });
    const early = await deliverAndTakeIn(id, saveArchive("early.zip", await zipBytes(await shift(1000))));
    const late = await deliverAndTakeIn(id, saveArchive("late.zip", await zipBytes(await shift(1200))));
    const found = (await checksOf(localActor, id)).findings.filter(
      ({ code, deliveries: from }) => from.length > 0 && code !== "near-copy",
    );
    expect(found.map(({ code, count, deliveries: from }) => [code, count, from.map(({ name }) => name)])).toEqual([
      ["image-unreadable", 2, [early.name, late.name]],
      ["image-empty", 2, [early.name, late.name]],
    ]);
    expect(found.map(({ where }) => where)).toEqual([null, "state = empty"]);
    expect(found[0]?.sentence).toMatch(/^2 files are not images/);
  });

  it("are found by a few letters, whatever signs are typed", async () => {
    expect((await goTo(localActor, "rack"))[0]).toMatchObject({ kind: "collection", name: "Racks" });
    expect((await goTo(localActor, "p3")).find(({ kind }) => kind === "image")?.name).toBe("images/p3.jpg");
    expect((await goTo(localActor, "tart")).find(({ kind }) => kind === "class")?.where).toBe("Racks");
    expect(await goTo(localActor, "100%_'\\")).toEqual([]);
  });

  it("go with everything in them once their name is typed", async () => {
    const id = (await createCollection(localActor, { name: "Short-lived" })).id;
    await deliverAndTakeIn(id, saveArchive("short.zip", await zipBytes(await cocoFiles(3, (n) => picture(n + 900)))));
    const waiting = await deliver(id, saveArchive("left.zip", await zipBytes({ "x.jpg": await picture(950) })));
    await expect(deleteCollection(localActor, id, { typedName: "short-lived" })).rejects.toThrow(/Type "Short-lived"/);
    const { job } = await deleteCollection(localActor, id, { typedName: "Short-lived" });
    // It is off the shelf at once, and its name is free.
    await expect(collectionRow(id)).rejects.toThrow(/no collection/);
    await createCollection(localActor, { name: "Short-lived" });
    expect(await untilEnded(job)).toMatchObject({ status: "done" });
    expect(existsSync(uploadFolder(waiting.id))).toBe(false);
    for (const table of ["images", "deliveries", "classes"])
      expect(
        (
          await db().execute<{ n: number }>(
            sql.raw(`select count(*)::int as n from ${table} where collection_id = ${id}`),
          )
        ).rows[0]?.n,
      ).toBe(0);
    await expect(collectionRow(id)).rejects.toThrow(/no collection/);
  });
});

describe("deliveries", () => {
  it("are named after their file and day, and can be renamed", async () => {
    expect(proposedName("late-shift_2.zip", new Date("2026-11-19T12:00:00Z"))).toBe("Late shift 2, 19 November");
    expect(proposedName(".zip", new Date("2026-11-02T12:00:00Z"))).toBe("Delivery, 2 November");
    const [delivery] = await deliveriesOf(localActor, racks);
    await changeDelivery(localActor, delivery?.id as number, { name: "Renamed" });
    expect((await deliveriesOf(localActor, racks))[0]?.name).toBe("Renamed");
    await expect(changeDelivery(localActor, delivery?.id as number, { name: "" })).rejects.toThrow(/Give it a name/);
  });
  it("can be read again after a failure, not while they are taken", async () => {
    const id = (await createCollection(localActor, { name: "Again" })).id;
    const failed = await deliver(id, saveArchive("again.zip", Buffer.from("broken")));
    expect(failed.status).toBe("failed");
    writeFileSync(
      path.join(uploadFolder(failed.id), "again.zip"),
      await zipBytes(await cocoFiles(2, (n) => picture(n + 1200))),
    );
    await untilEnded((await readAgain(localActor, failed.id)).job);
    expect((await deliveriesOf(localActor, id))[0]).toMatchObject({ status: "read", failure: null });
    const [taken] = (await deliveriesOf(localActor, racks)).filter(({ status }) => status === "taken");
    await expect(readAgain(localActor, taken?.id as number)).rejects.toThrow(/taken in already/);
  });
});

describe("plans", () => {
  it("are made, renamed, edited as text and deleted", async () => {
    const { id } = await createPlan(localActor, racks, {});
    expect(await planRow(id)).toMatchObject({
      name: "Plan 1",
      body: {
        split: { mode: "ratio", stand: "all", ratio: { train: 80, val: 10, test: 10 } },
        augment: { unchanged: "leave-out" },
      },
    });
    expect((await planRow((await createPlan(localActor, racks, {})).id)).name).toBe("Plan 2");
    await expect(createPlan(localActor, racks, { name: "Plan 2" })).rejects.toThrow(/already/);
    await savePlan(localActor, id, {
      name: "By text",
      yaml: "split:\n  ratio: {train: 50, val: 50, test: 0}\n  seed: 8\n",
    });
    expect(await planRow(id)).toMatchObject({
      name: "By text",
      body: { seed: 8, split: { ratio: { train: 50, val: 50, test: 0 } } },
    });
    await expect(savePlan(localActor, id, { yaml: "split: {seed: -4}" })).rejects.toThrow(/seed: -4 is out of range/);
    await expect(savePlan(localActor, id, { body: { pack: { formats: ["stone tablets"] } } })).rejects.toThrow(
      /cannot be written/,
    );
    await expect(savePlan(localActor, id, { name: "Plan 2" })).rejects.toThrow(/already/);
    await deletePlan(localActor, id);
    expect((await plansOf(localActor, racks)).map(({ name }) => name)).toEqual(["Plan 2"]);
    await expect(planRow(id)).rejects.toThrow(/no plan/);
  });
  it("show a training image before and after, with labels moved", async () => {
    const samples = await planEvidence(
      localActor,
      racks,
      planSchema.parse({
        prepare: { resize: { mode: "stretch", width: 32, height: 24, larger: true } },
        augment: { copies: 2, do: [{ op: "flip-sideways", chance: 1 }] },
      }),
      { turn: 1 },
    );
    expect(samples?.before).toMatchObject({ width: 64, height: 48, words: "in stock" });
    expect(samples?.after.map(({ copy, width, height, words }) => [copy, width, height, words])).toEqual([
      [0, 32, 24, "32 × 24"],
      [1, 32, 24, "moved"],
      [2, 32, 24, "moved"],
    ]);
    const [straight, flipped] =
      samples?.after.map(({ objects }) => objects[0]?.shape as { x: number; width: number }) ?? [];
    expect(flipped?.x).toBeCloseTo(32 - (straight?.x ?? 0) - (straight?.width ?? 0), 9);
    expect(samples?.after[0]?.picture.startsWith("data:image/webp;base64,")).toBe(true);
    expect(await planEvidence(localActor, racks, planSchema.parse({ select: { states: [] } }), {})).toBeNull();
  });
});

describe("jobs", () => {
  it("are told of to whoever listens, end once, and cannot be claimed twice", async () => {
    const heard: LarderEvent[] = [];
    const aboutVersions = ({ collection, topics, revision }: LarderEvent) =>
      collection === racks && topics.includes("versions") && revision !== null;
    const stopHearing = onEvent((event) => heard.push(event));
    const plan = await createPlan(localActor, racks, {
      name: "For jobs",
      body: planSchema.parse({ pack: { formats: [] } }),
    });
    const { job } = await startBuild(localActor, { planId: plan.id });
    const ended = await untilEnded(job);
    expect(ended).toMatchObject({ status: "done", runs: 1 });
    expect(await runJob(job, "somebody else", jobHandlers)).toBe(false);
    expect(await untilEnded(job)).toMatchObject({ runs: 1 });
    for (let i = 0; i < 40 && !heard.some(aboutVersions); i++) await new Promise((resolve) => setTimeout(resolve, 50));
    stopHearing();
    expect(heard.some(aboutVersions)).toBe(true);
    expect((await recentJobs()).find(({ id }) => id === job)?.status).toBe("done");
    await requestStop(job);
    expect((await untilEnded(job)).stopRequested).toBe(false);
  });
  it("that fail leave their sentence and put nothing on the shelf", async () => {
    const plan = await createPlan(localActor, racks, {
      name: "Nothing",
      body: planSchema.parse({ select: { states: [] } }),
    });
    const { job } = await startBuild(localActor, { planId: plan.id });
    expect(await untilEnded(job)).toMatchObject({
      status: "failed",
      message: "No image comes through this plan. Loosen its selection, or label some images first.",
    });
  });
});
