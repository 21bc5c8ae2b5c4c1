/** What people do to labels, what takes it back, and what is left in the history. */
import type { Selection } from "@larder/core/selection/chosen";
import type { LabelRequest } from "@larder/core/labels/request";
import type { Step } from "@larder/core/labels/step";
import { Failure } from "@larder/core/model/failure";
import { and, eq, gt, sql } from "drizzle-orm";
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { db } from "../db/database";
import { rowsOf } from "../db/query";
import { acts, classes, images, jobs, stockChanges } from "../db/schema";
import type { JobContext } from "../jobs/handler";
import { Lost } from "../jobs/job-ends";
import { requestPause, requestStop, resumeJob } from "../jobs/queue";
import { runJob } from "../jobs/run";
import { untilEnded } from "../jobs/wait";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  where,
  wholeStock,
  zipBytes,
} from "../tests/bakery";
import { act, history, historyFacets, historyLines, imageHistory, undoAct, undoLast, type ActOutcome } from "./acts";
import { sendSteps } from "./send-steps";
import { localActor } from "./actor";
import { binOf } from "./bin";
import { classTable, setClassAttributes } from "./classes";
import { renameClass } from "./classes/rename";
import { createCollection } from "./collections";
import { jobHandlers } from "./job-handlers";
import { facets, imageDetail, matchingIds } from "./stock";

const ada = { ...localActor, id: "ada", name: "Ada" };

let stop: () => void;
let made = 0;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

/** A collection of twelve images of its own: roll 12, loaf 8, tart 4 objects. */
async function stocked(
  name: string,
): Promise<{ id: number; ids: number[]; classId: (name: string) => Promise<number> }> {
  const { id } = await createCollection(localActor, { name });
  const first = (made += 20);
  await deliverAndTakeIn(
    id,
    saveArchive(`${first}.zip`, await zipBytes(await cocoFiles(12, (n) => picture(n + 20_000), first))),
  );
  return {
    id,
    ids: await matchingIds(localActor, id, wholeStock),
    classId: async (wanted) => (await classTable(localActor, id)).find((row) => row.name === wanted)?.id as number,
  };
}

async function done(outcome: Promise<ActOutcome>): Promise<ActOutcome> {
  const result = await outcome;
  if (result.job) await untilEnded(result.job);
  return result;
}
const doAll = (collection: number, request: LabelRequest, selection: Selection = wholeStock, except: number[] = []) =>
  done(act(localActor, collection, { ...selection, except, act: request }));

/** Images whose row counts other objects than they have. */
const miscounted = (collection: number) =>
  rowsOf(
    db(),
    z.object({ id: z.coerce.number() }),
    sql`select i.id from images i left join lateral (
        select coalesce(jsonb_object_agg(class_id::text, n), '{}') as counts, coalesce(sum(n), 0) as objects
        from (select class_id, count(*) as n from objects where image_id = i.id group by 1) c) o on true
      where i.collection_id = ${collection} and (i.class_counts <> o.counts or i.object_count <> o.objects)`,
  );

/** Everything that is said in a collection, without what changes with each act. */
const everything = (collection: number) =>
  rowsOf(
    db(),
    z.object({ id: z.coerce.number() }).loose(),
    sql`select i.id, i.split, i.state, i.tags, i.pinned, i.captions, i.fields, i.attributes, i.object_count, i.class_counts, i.image_class_ids, i.removed_at is null as present,
      (select jsonb_agg(jsonb_build_array(o.uid, o.class_id, o.ordinal, o.shape, o.attributes, o.flags, o.x, o.area) order by o.ordinal, o.uid) from objects o where o.image_id = i.id) as objects
      from images i where i.collection_id = ${collection} order by i.id`,
  );

describe("renaming a class", () => {
  it("keeps the former name standing for it, and is undone and done again", async () => {
    const { id, classId } = await stocked("Renamed");
    const roll = await classId("roll");
    const names = async () => (await classTable(localActor, id)).map(({ name }) => name);
    const first = await renameClass(localActor, roll, { name: " bun " });
    expect([await names(), first.text]).toEqual([["bun", "loaf", "tart"], "renamed roll to bun"]);
    expect((await facets(localActor, id, where("has bun"))).matching).toBe(12);
    // A delivery that still says roll is matched through the former name.
    const late = await zipBytes(await cocoFiles(2, (n) => picture(n + 90_000), 90_000));
    await deliverAndTakeIn(id, saveArchive("late-roll.zip", late));
    expect([await names(), (await facets(localActor, id, where("has bun"))).matching]).toEqual([
      ["bun", "loaf", "tart"],
      14,
    ]);
    await expect(renameClass(localActor, roll, { name: "tart" })).rejects.toMatchObject({ code: "class-name-taken" });
    await expect(renameClass(localActor, roll, { name: " " })).rejects.toThrow();
    const second = await renameClass(localActor, roll, { name: "roll" });
    expect(await names()).toEqual(["roll", "loaf", "tart"]);
    await expect(undoAct(localActor, first.act as number)).rejects.toMatchObject({ code: "class-renamed" });
    const back = await done(undoAct(localActor, second.act as number));
    expect(await names()).toEqual(["bun", "loaf", "tart"]);
    await done(undoAct(localActor, back.act));
    expect(await names()).toEqual(["roll", "loaf", "tart"]);
  });
});

describe("an act on a selection", () => {
  it("of every kind changes what it says, and undoing it gives back all that was there, uid for uid", async () => {
    const { id, classId } = await stocked("Every kind");
    const [roll, tart] = [await classId("roll"), await classId("tart")];
    const requests: [LabelRequest, number][] = [
      [{ do: "move", split: "val" }, 12],
      [{ do: "pin", pinned: true }, 12],
      [{ do: "tag", tag: "night" }, 12],
      [{ do: "add-class", class: roll }, 12],
      [{ do: "mark-empty" }, 12],
      [{ do: "mark-unlabeled" }, 12],
      [{ do: "set-classes", classes: [tart, roll] }, 12],
      [{ do: "reclass", objects: "tart", class: roll }, 4],
      [{ do: "remove-objects", objects: "any" }, 12],
      [{ do: "set-attribute", name: "shift", value: "late" }, 12],
      [{ do: "set-object-attribute", objects: "tart", name: "bake", value: "dark" }, 4],
      [{ do: "drop-class", class: tart }, 4],
      [{ do: "merge", from: tart, into: roll }, 4],
      [{ do: "remove" }, 12],
    ];
    for (const [request, images] of requests) {
      const before = await everything(id);
      const outcome = await doAll(id, request);
      expect([request.do, outcome.images, outcome.left]).toEqual([request.do, images, 0]);
      expect(await everything(id)).not.toEqual(before);
      // The same once more changes nothing.
      if (request.do !== "merge") expect((await doAll(id, request)).images).toBe(0);
      expect(await done(undoAct(localActor, outcome.act))).toMatchObject({ images, left: 0 });
      expect([request.do, await everything(id)]).toEqual([request.do, before]);
      await expect(undoAct(localActor, outcome.act)).rejects.toThrow(/undone already/);
    }
  });
  it("gives images another class in the place of one, and leaves them every other", async () => {
    const { id, ids, classId } = await stocked("In its place");
    const [roll, tart, loaf] = [await classId("roll"), await classId("tart"), await classId("loaf")];
    const some = (...these: number[]) =>
      where(
        "",
        these.map((nth) => ids[nth] as number),
      );
    await doAll(id, { do: "set-classes", classes: [tart, loaf] }, some(0, 1));
    await doAll(id, { do: "set-classes", classes: [tart, roll] }, some(2));
    const matching = async (text: string) => (await facets(localActor, id, where(text))).matching;
    const outcome = await doAll(id, { do: "replace-class", from: tart, into: roll }, some(0, 1, 2, 3));
    expect(outcome).toMatchObject({ images: 3, text: "said of 3 images that they are roll, not tart" });
    expect(await Promise.all(["tart", "roll", "loaf"].map((name) => matching(`class = ${name}`)))).toEqual([0, 3, 2]);
    await done(undoAct(localActor, outcome.act));
    expect(await Promise.all(["tart", "roll", "loaf"].map((name) => matching(`class = ${name}`)))).toEqual([3, 1, 2]);
    await expect(doAll(id, { do: "replace-class", from: tart, into: 999_999 })).rejects.toMatchObject({
      code: "class-missing",
    });
  });
  it("speaks of the objects that meet its conditions, and of no other", async () => {
    const { id, classId } = await stocked("Of some objects");
    const roll = await classId("roll");
    const objects = async (text: string) => (await facets(localActor, id, where(text))).matching;
    expect((await doAll(id, { do: "reclass", objects: "loaf (width > 1000)", class: roll })).images).toBe(0);
    expect((await doAll(id, { do: "reclass", objects: "{tart, pie} (width < 1000)", class: roll })).images).toBe(4);
    expect([await objects("has tart"), await objects("has loaf")]).toEqual([0, 8]);
    const rest = await objects("has {loaf, tart}");
    await doAll(id, { do: "remove-objects", objects: "roll (share < 100%)" }, where("has roll and no {loaf, tart}"));
    expect([await objects("state = empty"), await objects("has {loaf, tart}")]).toEqual([12 - rest, rest]);
    // What an act takes away the last of is still understood by its later batches.
    await doAll(id, { do: "set-attribute", name: "bake", value: "dark" }, where("has {loaf, tart}"));
    expect((await doAll(id, { do: "set-attribute", name: "bake", value: null }, where("bake = dark"))).images).toBe(
      rest,
    );
    const wish = (text: string) => act(localActor, id, { act: { do: "reclass", objects: text, class: roll } });
    await expect(wish("roll (widht < 5)")).rejects.toMatchObject({ code: "selection-invalid", details: { at: 7 } });
    await expect(wish("3.. roll")).rejects.toMatchObject({ code: "selection-invalid" });
    await expect(wish("roll and split = train")).rejects.toMatchObject({ code: "selection-invalid" });
  });
  it("means what matches but for what is left out, whatever the act does to the filter", async () => {
    const { id, ids } = await stocked("But for some");
    await doAll(id, { do: "move", split: "train" }, where("has tart"), [ids[0] as number]);
    const inTrain = (await facets(localActor, id, wholeStock)).split["train"] as number;
    const withTart = (await facets(localActor, id, where("has tart"))).matching;
    const first = await imageDetail(localActor, id, ids[0] as number, where("has tart"));
    const firstHasTart = first.objects.length > 0 && withTart > inTrain;
    expect(inTrain).toBe(firstHasTart ? withTart - 1 : withTart);
    // The filter stops matching while the act goes on; all it meant at the start are moved.
    expect((await doAll(id, { do: "move", split: "val" }, where("split = train"))).images).toBe(inTrain);
    expect((await facets(localActor, id, wholeStock)).split).toMatchObject({ train: 0, val: inTrain });
  });
  it("puts images into the bin: they are in no count, and come back", async () => {
    const { id } = await stocked("Binned");
    await doAll(id, { do: "remove" }, where("has tart"));
    expect((await facets(localActor, id, wholeStock)).total).toBe(8);
    expect(await binOf(localActor, id)).toEqual({ images: 4, days: 30 });
    expect((await classTable(localActor, id)).find(({ name }) => name === "tart")?.objects).toBe(0);
    expect((await doAll(id, { do: "restore" })).images).toBe(4);
    expect((await facets(localActor, id, wholeStock)).total).toBe(12);
  });
  it("leaves an image in the bin whose bytes have come again", async () => {
    const { id } = await createCollection(localActor, { name: "Come again" });
    const zip = saveArchive(
      "again.zip",
      await zipBytes({ "roll/a.jpg": await picture(90_001), "roll/b.jpg": await picture(90_002) }),
    );
    await deliverAndTakeIn(id, zip);
    const { act: removal } = await doAll(id, { do: "remove" });
    const again = await deliverAndTakeIn(id, zip);
    expect(again.taken).toMatchObject({ images: 2, skipped: 0 });
    expect(await done(undoAct(localActor, removal))).toMatchObject({ images: 0, left: 2 });
    expect((await facets(localActor, id, wholeStock)).total).toBe(2);
  });
});

describe("merging classes", () => {
  it("sends what comes in later under the old name to the new one, until it is undone", async () => {
    const { id, classId } = await stocked("Merged");
    const [loaf, tart] = [await classId("loaf"), await classId("tart")];
    const rowSchema = z.record(z.string(), z.unknown());
    const rows = () =>
      rowsOf(
        db(),
        rowSchema,
        sql`select o.id, o.uid, o.ordinal, o.shape::text, o.mask, o.outline::text, o.x, o.y, o.width, o.height, o.area
          from objects o join images i on i.id = o.image_id where i.collection_id = ${id} order by o.id`,
      );
    const before = await rows();
    const merger = await doAll(id, { do: "merge", from: tart, into: loaf });
    // What lies where is not touched: the very rows stand there.
    expect(await rows()).toEqual(before);
    expect(await miscounted(id)).toEqual([]);
    // Only four of the twelve had a tart: nothing is said anew of the others, which stay labeled.
    expect(merger.images).toBe(4);
    expect((await facets(localActor, id, wholeStock)).state).toMatchObject({ labeled: 12 });
    expect((await classTable(localActor, id)).map(({ name, objects }) => [name, objects])).toEqual([
      ["roll", 12],
      ["loaf", 12],
    ]);
    const later = saveArchive("later.zip", await zipBytes(await cocoFiles(3, (n) => picture(n + 70_000), 3)));
    const { taken } = await deliverAndTakeIn(id, later);
    expect(taken).toMatchObject({ images: 3, objects: 6 });
    expect((await classTable(localActor, id)).find(({ name }) => name === "loaf")?.objects).toBe(15);
    await done(undoAct(localActor, merger.act));
    expect(await miscounted(id)).toEqual([]);
    const table = await classTable(localActor, id);
    expect(table.map(({ name, objects }) => [name, objects])).toEqual([
      ["roll", 15],
      ["loaf", 11],
      ["tart", 4],
    ]);
    await expect(doAll(id, { do: "merge", from: tart, into: tart })).rejects.toThrow(/into itself/);
    await expect(doAll(id, { do: "add-class", class: 999_999 })).rejects.toThrow(/no such class/);
  });
});

describe("undoing", () => {
  it("leaves images that changed since in the same place, and says how many", async () => {
    const { id, ids } = await stocked("Changed since");
    const first = await doAll(id, { do: "move", split: "train" });
    await doAll(id, { do: "move", split: "test" }, where("", ids.slice(0, 3)));
    // Another place of the same image is in nobody's way.
    await doAll(id, { do: "tag", tag: "seen" }, where("", ids.slice(3, 6)));
    const undone = await done(undoAct(localActor, first.act));
    expect(undone).toMatchObject({
      images: 9,
      left: 3,
      text: "took back: moved 12 images to train (9 of 12; 3 changed since)",
    });
    expect((await facets(localActor, id, wholeStock)).split).toMatchObject({ test: 3, none: 9 });
    expect((await facets(localActor, id, where("tag = seen"))).matching).toBe(3);
  });
  it("is not hindered by what was itself undone since", async () => {
    const { id } = await stocked("There and back");
    const first = await doAll(id, { do: "move", split: "train" });
    const second = await doAll(id, { do: "move", split: "test" });
    await done(undoAct(localActor, second.act));
    expect(await done(undoAct(localActor, first.act))).toMatchObject({ images: 12, left: 0 });
  });
  it("goes back act by act, and forward again, for each person alone", async () => {
    const { id } = await stocked("Back and forth");
    const splits = async () => (await facets(localActor, id, wholeStock)).split;
    await doAll(id, { do: "move", split: "train" });
    await doAll(id, { do: "move", split: "val" });
    await done(act(ada, id, { act: { do: "tag", tag: "hers" } }));
    expect(await done(undoLast(localActor, id, { again: false }))).toMatchObject({
      text: "took back: moved 12 images to val",
    });
    expect(await splits()).toMatchObject({ train: 12 });
    await done(undoLast(localActor, id, { again: false }));
    expect(await splits()).toMatchObject({ none: 12 });
    expect(await done(undoLast(localActor, id, { again: true }))).toMatchObject({
      text: "did again: moved 12 images to train",
    });
    await done(undoLast(localActor, id, { again: true }));
    expect(await splits()).toMatchObject({ val: 12 });
    await expect(undoLast(localActor, id, { again: true })).rejects.toThrow(/nothing to do again/);
    // Her tag is still there, and what she undoes is hers.
    expect(await done(undoLast(ada, id, { again: false }))).toMatchObject({
      text: 'took back: tagged 12 images "hers"',
    });
    await done(undoLast(localActor, id, { again: false }));
    expect(await splits()).toMatchObject({ train: 12 });
  });
});

describe("steps on single images", () => {
  const box = (x: number) => ({ kind: "box" as const, x, y: 1, width: 4, height: 4 });
  it("change what they name; a change on older labels is taken where nobody touched the same", async () => {
    const { id, ids, classId } = await stocked("Steps");
    const [image] = ids as [number];
    const roll = await classId("roll");
    const detail = () => imageDetail(localActor, id, image, wholeStock);
    const { objects, revision } = await detail();
    const [one, two] = objects as [(typeof objects)[0], (typeof objects)[0]];
    const move = (uid: string, x: number): Step => ({ do: "set-shape", uid, shape: box(x) });
    await sendSteps(localActor, id, [{ image, revision, steps: [move(one.uid, 7)] }]);
    // Ada worked on the same revision, on the other object.
    await sendSteps(ada, id, [{ image, revision, steps: [move(two.uid, 9)] }]);
    await expect(sendSteps(ada, id, [{ image, revision, steps: [move(one.uid, 11)] }])).rejects.toMatchObject({
      code: "changed-since",
      status: 409,
    });
    const now = await detail();
    expect(now.objects.map(({ shape }) => (shape as { x: number }).x)).toEqual([7, 9]);
    expect(now.revision).toBe(revision + 2);
    const added = {
      uid: uuidV7(),
      class: roll,
      order: 9,
      shape: { kind: "mask" as const, width: 64, height: 48, counts: [10, 5, 3057] },
    };
    await sendSteps(localActor, id, [{ image, revision: now.revision, steps: [{ do: "add-object", object: added }] }]);
    expect((await detail()).objects.at(-1)).toMatchObject({ uid: added.uid, shape: added.shape });
    const [row] = await rowsOf(
      db(),
      z.object({ mask: z.instanceof(Buffer), shape: z.object({ kind: z.string() }).loose() }),
      sql`select mask, shape from objects where uid = ${added.uid}`,
    );
    expect([row?.shape, [...(row?.mask ?? [])]]).toEqual([
      { kind: "mask", width: 64, height: 48 },
      [10, 5, 0xf1, 0x17],
    ]);
    expect((await imageHistory(localActor, image)).map(({ actor, text }) => [actor, text])).toEqual([
      ["local", "added a roll"],
      ["ada", "changed a shape"],
      ["local", "changed a shape"],
      ["local", "put into stock"],
    ]);
  });
  it("say of an object what the attributes of its class allow, and nothing else", async () => {
    const { id, ids, classId } = await stocked("Attributes");
    const [image] = ids as [number];
    await setClassAttributes(localActor, await classId("roll"), [
      { name: "bake", kind: "choice", values: ["pale", "golden", "dark"] },
      { name: "weight", kind: "number", least: 20, most: 200 },
    ]);
    const { objects, revision } = await imageDetail(localActor, id, image, wholeStock);
    const uid = objects[0]?.uid as string;
    const say = (name: string, value: string | number): Step => ({ do: "set-attribute", uid, name, value });
    for (const [name, value, words] of [
      ["bake", "burnt", /one of pale, golden, dark/],
      ["weight", 5, /at least 20/],
      ["weight", "heavy", /is a number/],
    ] as const)
      await expect(sendSteps(localActor, id, [{ image, revision, steps: [say(name, value)] }])).rejects.toThrow(words);
    await sendSteps(localActor, id, [
      { image, revision, steps: [say("bake", "dark"), say("weight", 60), say("shelf", "top")] },
    ]);
    expect((await imageDetail(localActor, id, image, wholeStock)).objects[0]?.attributes).toEqual({
      bake: "dark",
      weight: 60,
      shelf: "top",
    });
    await expect(
      setClassAttributes(localActor, await classId("roll"), [
        { name: "bake", kind: "text" },
        { name: "bake", kind: "yes-no" },
      ]),
    ).rejects.toThrow(/one name/);
  });
  it("do nothing at all where one of them does not fit", async () => {
    const { id, ids } = await stocked("Misfit");
    const before = await everything(id);
    const [a, b] = ids as [number, number];
    const bad: Step = { do: "remove-object", uid: uuidV7() };
    await expect(
      sendSteps(localActor, id, [
        { image: a, revision: 0, steps: [{ do: "add-tag", tag: "x" }] },
        { image: b, revision: 0, steps: [bad] },
      ]),
    ).rejects.toMatchObject({ code: "step-misfit" });
    expect(await everything(id)).toEqual(before);
    const elsewhere = await stocked("Not this one");
    await expect(
      sendSteps(localActor, elsewhere.id, [{ image: a, revision: 0, steps: [{ do: "pin", pinned: true }] }]),
    ).rejects.toThrow(/not in this collection/);
  });
});

describe("an act on very many images", () => {
  /** A collection of so many images without pixels. */
  async function large(name: string, count: number): Promise<number> {
    const { id } = await createCollection(localActor, { name });
    const { id: from } = await deliverAndTakeIn(
      id,
      saveArchive(`${name}.zip`, await zipBytes({ "roll/seed.jpg": await picture((made += 1) + 300_000) })),
    );
    await db().execute(sql`
      insert into images (collection_id, delivery_id, ordinal, sha256, name, bytes, width, height, extension, state)
      select ${id}, ${from}, n, encode(sha256(${name}::bytea || int4send(n)), 'hex'), 'n' || n, 1, 10, 10, 'jpg', 'unlabeled' from generate_series(1, ${count}::int) n`);
    return id;
  }
  it("is a job that goes in batches, can be paused, and goes on where it was", async () => {
    const id = await large("Large", 5200);
    const outcome = await act(localActor, id, { act: { do: "move", split: "train" } });
    expect(outcome.job).not.toBeNull();
    await requestPause(outcome.job as string);
    await resumeJob(outcome.job as string);
    expect(await untilEnded(outcome.job as string)).toMatchObject({ status: "done" });
    const [row] = await db().select().from(acts).where(eq(acts.id, outcome.act));
    expect(row).toMatchObject({ status: "done", images: 5201, text: "moved 5,201 images to train" });
    expect((await facets(localActor, id, wholeStock)).split).toMatchObject({ train: 5201 });
  });
  it("that is stopped halfway is taken back whole", async () => {
    const id = await large("Halfway", 7000);
    stop();
    const outcome = await act(localActor, id, { act: { do: "tag", tag: "half" } });
    let batches = 0;
    // A handler that asks for a stop once two batches are done.
    const handlers = {
      ...jobHandlers,
      act: {
        ...jobHandlers.act,
        run: (context: Parameters<typeof jobHandlers.act.run>[0]) =>
          jobHandlers.act.run({
            ...context,
            progress: async (done, total) => {
              if (++batches === 3) {
                await requestStop(outcome.job as string);
                return context.progress(total, total);
              }
              await context.progress(done, total);
            },
          }),
      },
    };
    await runJob(outcome.job as string, "here", handlers);
    const [job] = await db()
      .select()
      .from(jobs)
      .where(eq(jobs.id, outcome.job as string));
    expect(job?.status).toBe("stopped");
    expect((await facets(localActor, id, where("tag = half"))).matching).toBe(0);
    const { entries } = await history(localActor, id, {});
    expect(entries.slice(0, 2).map(({ kind, status, images: n }) => [kind, status, n])).toEqual([
      ["undo", "done", 4000],
      ["tag", "stopped", 4000],
    ]);
    stop = await startWorker();
  });
  it.each(["stopped", "failed"] as const)(
    "that is %s is taken back whole where its worker is lost as it takes back",
    async (status) => {
      const id = await large(`Lost as it ${status}`, 7000);
      stop();
      const outcome = await act(localActor, id, { act: { do: "tag", tag: "half" } });
      const job = outcome.job as string;
      let batches = 0;
      let writes = 0;
      const lost = {
        ...jobHandlers,
        act: {
          ...jobHandlers.act,
          run: (context: JobContext) =>
            jobHandlers.act.run({
              ...context,
              progress: async (done, total) => {
                if (++batches < 3) return context.progress(done, total);
                if (status === "failed") throw new Failure("disk-full", "The disk is full.");
                await requestStop(job);
                return context.progress(total, total);
              },
            }),
          // What is to be taken back is noted, and the first batch of it done; then the worker is gone.
          takeBack: ({ write, ...context }: Pick<JobContext, "job" | "write">, sentence: string, stopped: boolean) =>
            jobHandlers.act.takeBack?.(
              { ...context, write: (work) => (++writes === 3 ? Promise.reject(new Lost()) : write(work)) },
              sentence,
              stopped,
            ) ?? Promise.reject(new Error("Acts are taken back.")),
        },
      };
      const tagged = async () => (await facets(localActor, id, where("tag = half"))).matching;
      await runJob(job, "lost", lost);
      expect([await tagged(), writes]).toEqual([2000, 3]);
      await db()
        .update(jobs)
        .set({ leaseUntil: new Date(0) })
        .where(eq(jobs.id, job));
      await runJob(job, "the next", jobHandlers);
      const [row] = await db().select().from(jobs).where(eq(jobs.id, job));
      expect([await tagged(), row?.status]).toEqual([0, status]);
      const { entries } = await history(localActor, id, {});
      expect(entries.slice(0, 2).map(({ kind, status: is, images: n }) => [kind, is, n])).toEqual([
        ["undo", "done", 4000],
        ["tag", status, 4000],
      ]);
      stop = await startWorker();
    },
  );
});

describe("the history of a collection", () => {
  it("says who did what and when, by person and kind, page by page, and as CSV", async () => {
    const { id } = await stocked("Told");
    await doAll(id, { do: "move", split: "val" });
    await done(act(ada, id, { act: { do: "tag", tag: "=1+1" } }));
    const all = await history(localActor, id, {});
    expect(all.entries.map(({ kind, actor, text, images: n }) => [kind, actor, text, n])).toEqual([
      ["tag", "ada", 'tagged 12 images "=1+1"', 12],
      ["move", "local", "moved 12 images to val", 12],
      ["take-in", "local", expect.stringMatching(/^took in /), 12],
    ]);
    expect(all.entries[2]?.via).toMatchObject({ kind: "delivery" });
    expect((await history(localActor, id, { actor: "ada" })).entries).toHaveLength(1);
    expect((await history(localActor, id, { kind: "move" })).entries).toHaveLength(1);
    const first = await history(localActor, id, { limit: 2 });
    expect((await history(localActor, id, { limit: 2, before: first.next as number })).entries).toHaveLength(1);
    expect(await historyFacets(localActor, id)).toEqual({
      actors: ["ada", "local"],
      kinds: ["move", "tag", "take-in"],
    });
    const lines: string[] = [];
    for await (const line of historyLines(localActor, id, {})) lines.push(line);
    expect(lines).toHaveLength(4);
    expect(lines[0]).toBe("when,who,through,kind,what,images,left,undone\n");
    expect(lines[1]).toMatch(/,ada,,tag,"tagged 12 images ""=1\+1""",12,0,no\n$/);
  });
  it("is one revision an act, for the collection and for each image", async () => {
    const { id, ids } = await stocked("Counted");
    const revision = async () =>
      (
        await rowsOf(db(), z.object({ revision: z.number() }), sql`select revision from collections where id = ${id}`)
      )[0]?.revision as number;
    const before = await revision();
    await doAll(id, { do: "move", split: "val" }, where("", ids.slice(0, 4)));
    expect(await revision()).toBe(before + 1);
    const rows = await db()
      .select({ id: images.id, revision: images.revision })
      .from(images)
      .where(eq(images.collectionId, id))
      .orderBy(images.id);
    expect(rows.map((row) => row.revision)).toEqual([1, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0]);
    const [noted, ...others] = await db()
      .select()
      .from(stockChanges)
      .where(and(eq(stockChanges.collectionId, id), gt(stockChanges.revision, before)));
    expect(noted).toMatchObject({ revision: before + 1, imageIds: rows.slice(0, 4).map((row) => row.id) });
    expect(others).toEqual([]);
    expect(await db().$count(classes, eq(classes.collectionId, id))).toBe(3);
  });
});
