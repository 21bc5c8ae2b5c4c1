import { ringsSvg } from "@larder/demo/rings";
import { allChoices } from "@larder/core/intake/choices";
import { sql } from "drizzle-orm";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../../db/database";
import { untilEnded } from "../../jobs/wait";
import {
  cocoFiles,
  deliver,
  deliverAndTakeIn,
  moveImages,
  picture,
  saveArchive,
  startWorker,
  type Files,
  undoWhole,
  wholeStock,
  zipBytes,
} from "../../tests/bakery";
import { localActor } from "../actor";
import { classTable } from "../classes";
import { loadClassList } from "../classes/class-list";
import { createCollection } from "../collections";
import {
  beforeUndo,
  changeDelivery,
  deliveryRow,
  leaveOut,
  takeInDelivery,
  type deliveryChangeSchema,
} from "../deliveries";
import { stockPage } from "../stock";
import { deliveryReport } from "./delivery-report";
import { previewItems } from "./preview";
import { sheetNumbers } from "./sheet-numbers";
import type { z } from "zod";

type Choices = NonNullable<z.input<typeof deliveryChangeSchema>["choices"]>;

let stop: () => void;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

const collection = async (name: string) => (await createCollection(localActor, { name })).id;
let nth = 0;
const bring = async (id: number, files: Files) =>
  deliver(id, saveArchive(`choices-${++nth}.zip`, await zipBytes(files)));

async function lookedInto(id: number) {
  for (;;) {
    const delivery = await deliveryRow(id);
    if (delivery.looked || delivery.failure) return delivery;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

async function leftOutPaths(id: number): Promise<string[]> {
  const { rows } = await db().execute<{ path: string }>(
    sql`select path from delivery_items where delivery_id = ${id} and left_out order by path`,
  );
  return rows.map(({ path }) => path);
}

describe("leaving images out", () => {
  it("goes by place, range, folder and what is shown, again and again with the same outcome", async () => {
    const files = await cocoFiles(6);
    const delivery = await bring(await collection("Left out"), {
      ...Object.fromEntries(
        Object.entries(files).map(([name, content]) => [name.replace("images/", "rack 1/"), content]),
      ),
      "rack 2/x.jpg": await picture(500),
      "rack 20/y.jpg": await picture(501),
    });
    const out = async (input: Omit<Parameters<typeof leaveOut>[2], "leftOut">, leftOut = true) => {
      for (let n = 0; n < 2; n++) await leaveOut(localActor, delivery.id, { ...input, leftOut });
      return leftOutPaths(delivery.id);
    };
    expect(await out({ folder: "rack 2" })).toEqual(["rack 2/x.jpg"]);
    expect(await out({ folder: "rack 2/" }, false)).toEqual([]);
    expect(await out({ shown: { filter: "unlabeled" } })).toEqual(["rack 2/x.jpg", "rack 20/y.jpg"]);
    expect(await out({ shown: { filter: "left-out" } }, false)).toEqual([]);
    expect(await out({ range: [3, 1] })).toHaveLength(3);
    expect(await out({ ordinals: Array.from({ length: 90_000 }, (_, n) => n) })).toHaveLength(8);
    expect(await out({ ordinals: [0, 0] }, false)).toHaveLength(7);
  });
});

async function takeIn(id: number, choices: Choices = {}) {
  const { job: reading } = await changeDelivery(localActor, id, { choices });
  if (reading) await untilEnded(reading);
  const { job } = await takeInDelivery(localActor, id);
  if (job) await untilEnded(job);
  return deliveryRow(id);
}

const stock = async (id: number) => (await stockPage(localActor, id, wholeStock, { start: 0, limit: 200 })).images;
const classesOf = async (id: number) =>
  Object.fromEntries((await classTable(localActor, id)).map(({ name, objects }) => [name, objects]));

/** COCO of one picture a class name, each with one box. */
async function named(names: string[], first: number): Promise<Files> {
  const files: Files = {};
  for (const [n] of names.entries()) files[`p${first + n}.jpg`] = await picture(first + n);
  files["a.json"] = JSON.stringify({
    images: names.map((_, n) => ({ id: n, file_name: `p${first + n}.jpg`, width: 64, height: 48 })),
    annotations: names.map((_, n) => ({ id: n, image_id: n, category_id: n, bbox: [n, 2, 10, 10] })),
    categories: names.map((name, id) => ({ id, name })),
  });
  return files;
}

describe("classes", () => {
  it("are matched as decided: the same, merged, renamed, left out; look-alikes are proposed and nothing more", async () => {
    const id = await collection("Matched");
    const first = await bring(id, await named(["roll", "croissant"], 100));
    await takeIn(first.id);
    const second = await bring(id, await named(["roll", "Croissant", "croisant", "hand", "bun"], 110));
    const { matches, rememberedFrom } = await sheetNumbers(localActor, second.id);
    expect(matches.map(({ name, to, reason }) => [name, to, reason])).toEqual([
      ["roll", "roll", "same"],
      ["Croissant", "croissant", "case"],
      ["croisant", "croissant", "letters"],
      ["hand", null, "new"],
      ["bun", null, "new"],
    ]);
    expect(rememberedFrom).toBe(first.name);
    const result = await takeIn(second.id, {
      classes: { croisant: { to: "croissant" }, hand: { leaveOut: true }, bun: { to: "brioche" } },
    });
    expect(result.taken).toMatchObject({ images: 5, objects: 4 });
    expect(await classesOf(id)).toEqual({ roll: 2, croissant: 2, Croissant: 1, brioche: 1 });
    // A picture whose only label was left out holds nothing that counts here.
    expect((await stock(id)).filter(({ state }) => state === "empty")).toHaveLength(1);
  });

  it("decided once are proposed for the next delivery from the same source", async () => {
    const id = await collection("Remembered");
    const source = async (files: Files, name: string) => deliver(id, saveArchive(name, await zipBytes(files)));
    const first = await source(await named(["bread roll"], 130), "night-shift-01.zip");
    await takeIn(first.id, { classes: { "bread roll": { to: "roll" } } });
    const next = await source(await named(["bread roll", "tart"], 140), "night-shift-02.zip");
    expect(allChoices(next.choices).classes).toEqual({ "bread roll": { to: "roll" } });
    expect((await sheetNumbers(localActor, next.id)).matches[0]).toMatchObject({
      name: "bread roll",
      remembered: true,
    });
    await takeIn(next.id);
    expect(await classesOf(id)).toEqual({ roll: 2, tart: 1 });
    const other = await source(await named(["bread roll"], 150), "harbour.zip");
    expect(allChoices(other.choices).classes).toEqual({});
  });

  it("come from a list in a file, once each", async () => {
    const id = await collection("Listed");
    expect(await loadClassList(localActor, id, { text: "loaf\nroll\n\nroll\n", fileName: "classes.txt" })).toEqual({
      names: ["loaf", "roll", "", "roll"],
      added: 2,
    });
    expect(await loadClassList(localActor, id, { text: "roll\ntart\n", fileName: "more.txt" })).toEqual({
      names: ["roll", "tart"],
      added: 1,
    });
    expect((await classTable(localActor, id)).map(({ name, code }) => [name, code])).toEqual([
      ["loaf", "LF"],
      ["roll", "RL"],
      ["tart", "TR"],
    ]);
    await expect(loadClassList(localActor, id, { text: "\n\n", fileName: "x.txt" })).rejects.toThrow(/no class name/);
    await expect(loadClassList(localActor, id, { text: "x".repeat(300), fileName: "x.txt" })).rejects.toThrow(
      /too long/,
    );
  });

  it("come from folders that are named by a class, also where there are boxes, until that is turned off", async () => {
    const id = await collection("Folders too");
    const files: Files = {
      "roll/a.jpg": await picture(160),
      "tart/b.jpg": await picture(161),
      "batch 7/c.jpg": await picture(162),
      "boxes.csv": "image,xmin,ymin,xmax,ymax,class\nroll/a.jpg,1,1,9,9,roll\nbatch 7/c.jpg,1,1,9,9,tart\n",
    };
    const delivery = await bring(id, files);
    expect(delivery.sheet).toMatchObject({ format: "csv-boxes", folderClasses: 2, labeled: 3 });
    await takeIn(delivery.id);
    const table = await classTable(localActor, id);
    const nameOf = (classId: number) => table.find((row) => row.id === classId)?.name;
    expect(
      (await stock(id))
        .map(({ name, imageClassIds, objects }) => [name, imageClassIds.map(nameOf), objects.length])
        .sort(),
    ).toEqual([
      ["batch 7/c.jpg", [], 1],
      ["roll/a.jpg", ["roll"], 1],
      ["tart/b.jpg", ["tart"], 0],
    ]);
    const off = await bring(await collection("Folders off"), files);
    await untilEnded((await changeDelivery(localActor, off.id, { choices: { folderClasses: false } })).job as string);
    expect((await deliveryRow(off.id)).sheet).toMatchObject({ folderClasses: 0, labeled: 2 });
  });

  it("are taken by every image of a delivery that was dropped onto one", async () => {
    const id = await collection("Dropped on");
    const delivery = await bring(id, { "a.jpg": await picture(170), "b.jpg": await picture(171) });
    const result = await takeIn(delivery.id, { imageClass: "tart" });
    expect(result.taken).toMatchObject({ images: 2, objects: 0 });
    expect((await stock(id)).map(({ state, imageClassIds }) => [state, imageClassIds.length])).toEqual([
      ["labeled", 1],
      ["labeled", 1],
    ]);
  });
});

describe("splits", () => {
  const split = async (id: number) => {
    const images = await stock(id);
    return ["train", "val", "test", null].map((name) => images.filter((image) => image.split === name).length);
  };
  const twenty = async (first: number) => {
    const { "annotations.json": json, ...pictures } = await cocoFiles(20, (n) => picture(n + first));
    const files: Files = { "annotations/instances_train.json": json as string };
    for (const [name, bytes] of Object.entries(pictures)) files[name.replace("images/", "train/")] = bytes;
    return files;
  };
  it("are kept, all one, none, or dealt, whatever came", async () => {
    const expected: [Choices["splits"], number[]][] = [
      [{ mode: "keep" }, [20, 0, 0, 0]],
      [{ mode: "none" }, [0, 0, 0, 20]],
      [{ mode: "all", split: "test" }, [0, 0, 20, 0]],
      [{ mode: "deal", ratio: { train: 70, val: 20, test: 10 }, seed: 5 }, [14, 4, 2, 0]],
    ];
    for (const [index, [splits, sizes]] of expected.entries()) {
      const id = await collection(`Splits ${index}`);
      const delivery = await bring(id, await twenty(200));
      await takeIn(delivery.id, { splits });
      expect(await split(id)).toEqual(sizes);
    }
  });
  it("of what is in stock stay as they are when newcomers are dealt", async () => {
    const id = await collection("Stay");
    const first = await bring(id, await twenty(300));
    await takeIn(first.id, { splits: { mode: "all", split: "val" } });
    const second = await bring(id, { ...(await twenty(300)), ...(await named(["roll", "roll", "roll"], 330)) });
    await takeIn(second.id, {
      splits: { mode: "deal", ratio: { train: 34, val: 33, test: 33 }, seed: 1 },
      sameBytes: "replace",
    });
    expect(await split(id)).toEqual([1, 21, 1, 0]);
  });
});

describe("the same bytes in stock", () => {
  const one = async (boxes: number[][], categories: string[]): Promise<Files> => ({
    "p.jpg": await picture(400),
    "a.json": JSON.stringify({
      images: [{ id: 1, file_name: "p.jpg", width: 64, height: 48 }],
      annotations: boxes.map((bbox, id) => ({ id, image_id: 1, category_id: id, bbox })),
      categories: categories.map((name, id) => ({ id, name })),
    }),
  });
  const there = async (id: number) => {
    const names = new Map((await classTable(localActor, id)).map((row) => [row.id, row.name]));
    return (await stock(id))[0]?.objects.map(({ classId, shape }) => [
      names.get(classId),
      "x" in shape ? shape.x : null,
    ]);
  };

  it.each([
    ["skip", [["roll", 1]], { images: 0, skipped: 1, relabeled: 0 }],
    ["fill", [["roll", 1]], { images: 0, skipped: 1, relabeled: 0 }],
    [
      "add",
      [
        ["roll", 1],
        ["tart", 9],
      ],
      { images: 0, skipped: 0, relabeled: 1 },
    ],
    [
      "replace",
      [
        ["roll", 1],
        ["tart", 9],
      ],
      { images: 0, skipped: 0, relabeled: 1 },
    ],
  ] as const)("are treated as chosen: %s", async (mode, after, numbers) => {
    const id = await collection(`Same ${mode}`);
    await takeIn((await bring(id, await one([[1, 1, 5, 5]], ["roll"]))).id);
    const again = await bring(
      id,
      await one(
        [
          [1, 1, 5, 5],
          [9, 9, 5, 5],
        ],
        ["roll", "tart"],
      ),
    );
    await lookedInto(again.id);
    await changeDelivery(localActor, again.id, { choices: { sameBytes: mode } });
    const foretold = await sheetNumbers(localActor, again.id);
    expect(foretold).toMatchObject({ inStock: 1, toTakeIn: 0, toRelabel: numbers.relabeled });
    const { items } = await previewItems(localActor, again.id, { filter: "in-stock", offset: 0, limit: 5 });
    expect(items[0]?.there?.objects).toHaveLength(1);
    expect((await takeIn(again.id)).taken).toMatchObject(numbers);
    expect(await there(id)).toEqual(after);
    await undoWhole(again.id);
    expect(await there(id)).toEqual([["roll", 1]]);
    expect(Object.keys(await classesOf(id))).toEqual(["roll"]);
  });

  it("whose labels were changed since stay as they are when the delivery is undone, and that is said before", async () => {
    const id = await collection("Changed since");
    const first = await takeIn((await bring(id, await one([[1, 1, 5, 5]], ["roll"]))).id);
    const second = await takeIn((await bring(id, await one([[2, 2, 5, 5]], ["tart"]))).id, { sameBytes: "replace" });
    const third = await takeIn((await bring(id, await one([[3, 3, 5, 5]], ["loaf"]))).id, { sameBytes: "replace" });
    expect(await beforeUndo(localActor, second.id)).toEqual({
      images: 0,
      imagesChangedSince: 0,
      restored: 0,
      keptAsTheyAre: 1,
    });
    expect(await beforeUndo(localActor, third.id)).toEqual({
      images: 0,
      imagesChangedSince: 0,
      restored: 1,
      keptAsTheyAre: 0,
    });
    expect(await beforeUndo(localActor, first.id)).toEqual({
      images: 1,
      imagesChangedSince: 1,
      restored: 0,
      keptAsTheyAre: 0,
    });
    await undoWhole(second.id);
    expect(await there(id)).toEqual([["loaf", 3]]);
    await undoWhole(third.id);
    // What the second delivery had put there is what the third found.
    expect(await there(id)).toEqual([["tart", 2]]);
    await undoWhole(first.id);
    expect(await stock(id)).toEqual([]);
  });

  it("twice in one delivery come in once, and two classes for the same bytes are said", async () => {
    const bytes = await picture(450);
    const delivery = await deliverAndTakeIn(
      await collection("Twice"),
      saveArchive(
        "twice.zip",
        await zipBytes({ "roll/a.jpg": bytes, "tart/b.jpg": bytes, "tart/c.jpg": await picture(451) }),
      ),
    );
    expect(delivery.taken).toMatchObject({ images: 2, skipped: 1 });
    expect(delivery.findings.map(({ code, count }) => [code, count])).toEqual([
      ["label-contradiction", 1],
      ["copy-in-delivery", 1],
      ["near-copy", 1],
    ]);
  });
});

describe("looking into pictures", () => {
  it("reads when and where they were taken, which is kept unless that is turned off", async () => {
    const exif = {
      IFD0: { Make: "Millrace" },
      IFD2: { DateTimeOriginal: "2026:11:19 14:03:22" },
      IFD3: {
        GPSLatitudeRef: "S",
        GPSLatitude: "33/1 51/1 3600/100",
        GPSLongitudeRef: "E",
        GPSLongitude: "151/1 12/1 0/1",
      },
    };
    const shot = async (n: number) =>
      sharp(await picture(n))
        .withExif(exif)
        .jpeg()
        .toBuffer();
    for (const [keep, first] of [
      [true, 500],
      [false, 510],
    ] as const) {
      const id = await collection(`When ${keep}`);
      const delivery = await bring(id, { "a.jpg": await shot(first), "b.jpg": await picture(first + 1) });
      const looked = await lookedInto(delivery.id);
      expect(looked.looked).toMatchObject({
        takenFrom: "2026-11-19T14:03:22",
        takenTo: "2026-11-19T14:03:22",
        placed: 1,
      });
      await takeIn(delivery.id, { keepWhenAndWhere: keep });
      const { rows } = await db().execute(
        sql`select taken_at::text, round(latitude::numeric, 5)::float8 as latitude, longitude from images where collection_id = ${id} order by name`,
      );
      expect(rows[0]).toEqual(
        keep
          ? { taken_at: "2026-11-19 14:03:22", latitude: -33.86, longitude: 151.2 }
          : { taken_at: null, latitude: null, longitude: null },
      );
    }
  });

  it("counts near-copies, in the delivery and against stock", async () => {
    const scene = (n: number, brightness = 1) =>
      sharp(Buffer.from(ringsSvg(n)))
        .linear(brightness)
        .jpeg()
        .toBuffer();
    const id = await collection("Near");
    await deliverAndTakeIn(
      id,
      saveArchive("near-1.zip", await zipBytes({ "s1.jpg": await scene(1), "s2.jpg": await scene(2) })),
    );
    const delivery = await bring(id, {
      "a.jpg": await scene(1, 1.04),
      "b.jpg": await scene(3),
      "c.jpg": await scene(3, 0.97),
      "d.jpg": await scene(4),
      "same.jpg": await scene(2),
    });
    await lookedInto(delivery.id);
    expect((await sheetNumbers(localActor, delivery.id)).nearCopies).toBe(2);
    // Each is shown beside what it is near to, in stock or in the delivery; the same bytes are no near-copy.
    const { items, total } = await previewItems(localActor, delivery.id, {
      filter: "near-copies",
      offset: 0,
      limit: 20,
    });
    const there = (await stock(id)).find(({ name }) => name === "s1.jpg");
    expect(total).toBe(2);
    expect(items.map(({ path, near }) => ({ path, near }))).toEqual([
      { path: "a.jpg", near: { image: there?.id, name: "s1.jpg", size: { width: 320, height: 240 }, objects: [] } },
      { path: "c.jpg", near: { ordinal: 1, name: "b.jpg", size: { width: 320, height: 240 }, objects: [] } },
    ]);
    expect(
      (await sheetNumbers(localActor, delivery.id)).findings.find(({ code }) => code === "near-copy")?.message,
    ).toBe("2 pictures are nearly the same as others.");
    let report = "";
    for await (const chunk of deliveryReport(localActor, delivery.id)) report += chunk;
    expect(report.split("\n").filter((line) => line.startsWith("info,near-copy,"))).toEqual([
      "info,near-copy,,2,2 pictures are nearly the same as others.",
      "info,near-copy,a.jpg,1,It is nearly the same as s1.jpg.",
      "info,near-copy,c.jpg,1,It is nearly the same as b.jpg.",
    ]);
    // One left out since is near to nothing any more, and nothing is near to it.
    await leaveOut(localActor, delivery.id, { ordinals: [1], leftOut: true });
    expect((await takeIn(delivery.id)).findings.find(({ code }) => code === "near-copy")?.count).toBe(1);
  });

  it("tells which picture has which finding, on the sheet and in the report", async () => {
    const files = await named(["roll", "roll", "roll"], 530);
    files["a.json"] = (files["a.json"] as string).replace("[1,2,10,10]", "[60,2,10,10]");
    const delivery = await bring(await collection("Findings"), {
      ...files,
      "text.jpg": "not a picture",
      "notes.txt": "hello",
    });
    await lookedInto(delivery.id);
    const numbers = await sheetNumbers(localActor, delivery.id);
    expect(numbers).toMatchObject({ all: 4, labeled: 3, withFindings: 2, unreadable: 1, toTakeIn: 3 });
    // Plain pictures of one colour each are nearly the same.
    expect(numbers.findings.map(({ code, count }) => [code, count])).toEqual([
      ["image-unreadable", 1],
      ["box-outside-image", 1],
      ["near-copy", 2],
    ]);
    const { items, total } = await previewItems(localActor, delivery.id, {
      filter: "all",
      finding: "box-outside-image",
      offset: 0,
      limit: 5,
    });
    expect([total, items[0]?.path]).toEqual([1, "p531.jpg"]);
    let report = "";
    for await (const line of deliveryReport(localActor, delivery.id)) report += line;
    const lines = report.trim().split("\n");
    expect(lines[0]).toBe("severity,code,picture,count,what");
    expect(lines.filter((line) => line.startsWith("warning,box-outside-image,p531.jpg,1,"))).toHaveLength(1);
    expect(lines.filter((line) => line.startsWith("error,image-unreadable,text.jpg,1,"))).toHaveLength(1);
    expect(lines.some((line) => line.startsWith("info,file-unused,notes.txt"))).toBe(true);
  });
});

describe("a delivery", () => {
  it("is read otherwise when somebody says so, and back again", async () => {
    const id = await collection("Otherwise");
    const delivery = await bring(id, {
      "roll/a.jpg": await picture(600),
      "tart/b.jpg": await picture(601),
      ...(await named(["bun"], 602)),
    });
    expect(delivery.sheet).toMatchObject({ format: "coco", objects: 1 });
    expect(delivery.sheet?.otherFormats.map(({ format }) => format)).toContain("class-folders");
    await untilEnded(
      (await changeDelivery(localActor, delivery.id, { choices: { format: "class-folders" } })).job as string,
    );
    expect((await deliveryRow(delivery.id)).sheet).toMatchObject({
      format: "class-folders",
      reason: "chosen by hand",
      objects: 0,
      labeled: 2,
    });
    await untilEnded((await changeDelivery(localActor, delivery.id, { choices: { format: null } })).job as string);
    expect((await deliveryRow(delivery.id)).sheet?.format).toBe("coco");
    await expect(changeDelivery(localActor, delivery.id, { choices: { pageResolution: 5 } })).rejects.toThrow(/36/);
  });

  it("keeps its facts, which can be changed after it was taken in", async () => {
    const id = await collection("Facts");
    const delivery = await bring(id, await named(["roll"], 620));
    await takeIn(delivery.id);
    await changeDelivery(localActor, delivery.id, {
      name: "Spring",
      facts: { source: "Harbour", licence: "CC BY 4.0", latitude: 47.5 },
    });
    expect(await deliveryRow(delivery.id)).toMatchObject({
      name: "Spring",
      facts: { source: "Harbour", licence: "CC BY 4.0", latitude: 47.5, longitude: null, camera: "" },
    });
    await expect(changeDelivery(localActor, delivery.id, { choices: { sameBytes: "add" } })).rejects.toThrow(
      /before it is taken in/,
    );
    await expect(changeDelivery(localActor, delivery.id, { facts: { latitude: 99 } })).rejects.toThrow();
  });

  it("leaves nothing behind when it is put aside while it is looked into", async () => {
    const id = await collection("Put aside");
    const before = (await db().execute<{ n: number }>(sql`select count(*)::int as n from delivery_items`)).rows[0]?.n;
    const delivery = await bring(id, await cocoFiles(30, (n) => picture(n + 700, 800, 600)));
    await undoWhole(delivery.id);
    expect((await db().execute<{ n: number }>(sql`select count(*)::int as n from delivery_items`)).rows[0]?.n).toBe(
      before,
    );
    await expect(deliveryRow(delivery.id)).rejects.toThrow(/no delivery/);
  });

  it("counts what somebody left out, and what was moved since it came is no change of labels", async () => {
    const id = await collection("Moved");
    const delivery = await bring(id, await cocoFiles(4, (n) => picture(n + 760)));
    await leaveOut(localActor, delivery.id, { ordinals: [1], leftOut: true });
    expect(await sheetNumbers(localActor, delivery.id)).toMatchObject({ leftOut: 1, toTakeIn: 3 });
    await takeIn(delivery.id);
    await moveImages(
      id,
      (await stock(id)).map((image) => image.id),
      "val",
    );
    expect(await beforeUndo(localActor, delivery.id)).toEqual({
      images: 3,
      imagesChangedSince: 0,
      restored: 0,
      keptAsTheyAre: 0,
    });
  });
});
