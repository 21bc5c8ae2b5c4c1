import { selecting } from "@larder/core/selection/dimensions";
import { sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db, transaction } from "../db/database";
import { noteStockChanges } from "../db/stock-changes";
import { changed } from "../jobs/events";
import {
  cocoFiles,
  deliverAndTakeIn,
  moveImages,
  picture,
  saveArchive,
  startWorker,
  where,
  wholeStock,
  zipBytes,
} from "../tests/bakery";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { Shape } from "@larder/core/model/shape";
import { undoAct } from "./acts";
import { sendSteps } from "./send-steps";
import { localActor } from "./actor";
import { classTable } from "./classes";
import { createCollection } from "./collections";
import { changeDelivery, deliveryRow } from "./deliveries";
import { facets, imageBytes, imageDetail, matchingIds, stockPage } from "./stock";

let stop: () => void;
let collection: number;
let deliveries: number[];
/** The name of the first delivery, as filters know it. */
const deliveryName = async () => (await deliveryRow(deliveries[0] as number)).name;
const filter = (chosen: Parameters<typeof selecting>[0]) => where(selecting(chosen));

beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Stock" })).id;
  const first = await deliverAndTakeIn(
    collection,
    saveArchive("first.zip", await zipBytes({ ...(await cocoFiles(10)), "images/free.jpg": await picture(400) })),
  );
  const second = await deliverAndTakeIn(
    collection,
    saveArchive("second.zip", await zipBytes(await cocoFiles(6, (n) => picture(n + 50), 50))),
  );
  deliveries = [first.id, second.id];
  const ids = await matchingIds(localActor, collection, wholeStock);
  await moveImages(collection, ids.slice(0, 5), "train");
  await moveImages(collection, ids.slice(5, 7), "val");
});
afterAll(() => stop());

/** Every image with what filters ask, fetched plainly and filtered here. */
async function plainly(
  test: (row: { split: string | null; state: string; delivery: number; objects: number; classes: string[] }) => boolean,
): Promise<number> {
  const { rows } = await db().execute<{
    split: string | null;
    state: string;
    delivery: number;
    objects: number;
    classes: string[];
  }>(sql`
    select i.split, i.state, i.delivery_id::int as delivery, (select count(*)::int from objects o where o.image_id = i.id) as objects,
      array(select distinct k.name from objects o join classes k on k.id = o.class_id where o.image_id = i.id) as classes from images i where i.collection_id = ${collection}`);
  return rows.filter(test).length;
}

describe("facets", () => {
  it("count all of the stock without filters", async () => {
    const all = await facets(localActor, collection, wholeStock);
    expect(all).toMatchObject({
      total: 17,
      matching: 17,
      matchingObjects: 32,
      split: { train: 5, val: 2, test: 0, none: 10 },
      state: { labeled: 16, empty: 0, unlabeled: 1 },
    });
    expect(all.delivery.map(({ id, count }) => [id, count])).toEqual([
      [deliveries[0], 11],
      [deliveries[1], 6],
    ]);
    expect(all.class.map(({ name, count }) => [name, count])).toEqual([
      ["roll", 16],
      ["loaf", 10],
      ["tart", 6],
    ]);
    expect(all.objects.slice(0, 4)).toEqual([1, 0, 16, 0]);
  });
  it("count under all filters but their own, as counting one by one does", async () => {
    const asked = filter({ class: ["tart"], split: ["train", "none"], delivery: [await deliveryName()] });
    const found = await facets(localActor, collection, asked);
    const tart = (row: { classes: string[] }) => row.classes.includes("tart");
    const split = (row: { split: string | null }) => row.split !== "val";
    const first = (row: { delivery: number }) => row.delivery === deliveries[0];
    expect(found.matching).toBe(await plainly((row) => tart(row) && split(row) && first(row)));
    expect(found.class.find(({ name }) => name === "loaf")?.count).toBe(
      await plainly((row) => row.classes.includes("loaf") && split(row) && first(row)),
    );
    expect(found.split["val"]).toBe(await plainly((row) => tart(row) && first(row) && row.split === "val"));
    expect(found.delivery[1]?.count).toBe(
      await plainly((row) => tart(row) && split(row) && row.delivery === deliveries[1]),
    );
    expect((await matchingIds(localActor, collection, asked)).length).toBe(found.matching);
  });
  it("take several of a kind as either, and names that are not there as none", async () => {
    expect((await facets(localActor, collection, filter({ class: ["tart", "loaf"] }))).matching).toBe(16);
    expect((await facets(localActor, collection, filter({ class: ["'; drop table images; --"] }))).matching).toBe(0);
    expect((await facets(localActor, collection, filter({ objects: ["0"] }))).matching).toBe(1);
    expect((await facets(localActor, collection, filter({ state: ["unlabeled"], split: ["none"] }))).matching).toBe(1);
    expect((await facets(localActor, collection, filter({ state: ["half-labeled"] }))).matching).toBe(0);
  });
});

describe("what is known of deliveries", () => {
  it("filters as the other bars do, and says what is not said", async () => {
    expect(await facets(localActor, collection, wholeStock)).toMatchObject({
      source: [],
      licence: [],
      camera: [],
      place: [],
      taken: [],
    });
    await changeDelivery(localActor, deliveries[0] as number, {
      facts: { licence: "CC BY 4.0", takenFrom: "2026-11-01" },
    });
    await changeDelivery(localActor, deliveries[1] as number, {
      facts: { camera: "over the oven", source: "Harbour, east", latitude: -47.374, longitude: 8.5 },
    });
    // The file's own clock goes before what was written down for its delivery.
    const [first] = await matchingIds(localActor, collection, wholeStock);
    await db().execute(
      sql`update images set taken_at = '2026-11-05 08:00:00', latitude = 0.5, longitude = 120 where id = ${first}`,
    );
    await transaction(async (tx) => {
      const revision = await changed(tx, collection, "stock");
      await noteStockChanges(tx, { collection, revision }, sql`select ${first}::bigint as id`);
    });
    const all = await facets(localActor, collection, wholeStock);
    expect(all.licence).toEqual([
      { key: "CC BY 4.0", count: 11 },
      { key: "", count: 6 },
    ]);
    expect(all.camera).toEqual([
      { key: "over the oven", count: 6 },
      { key: "", count: 11 },
    ]);
    expect(all.taken).toEqual([
      { key: "2026-11-01", count: 10 },
      { key: "2026-11-05", count: 1 },
      { key: "", count: 6 },
    ]);
    expect(all.source).toEqual([
      { key: "Harbour, east", count: 6 },
      { key: "", count: 11 },
    ]);
    expect(all.place).toEqual([
      { key: "-47.37 8.50", count: 6 },
      { key: "0.50 120.00", count: 1 },
      { key: "", count: 10 },
    ]);
    expect(
      (await facets(localActor, collection, filter({ place: ["-47.37 8.50"], source: ["Harbour, east"] }))).matching,
    ).toBe(6);
    const licensed = await facets(localActor, collection, filter({ licence: ["CC BY 4.0"], split: ["train"] }));
    expect([licensed.matching, licensed.camera, licensed.licence[0]?.count]).toEqual([
      5,
      [
        { key: "over the oven", count: 0 },
        { key: "", count: 5 },
      ],
      5,
    ]);
    expect((await facets(localActor, collection, filter({ taken: ["2026-11-05"] }))).matching).toBe(1);
    expect((await facets(localActor, collection, filter({ licence: [""] }))).matching).toBe(6);
    expect(await imageDetail(localActor, collection, first as number, wholeStock)).toMatchObject({
      takenAt: "2026-11-05 08:00:00",
      delivery: { facts: { licence: "CC BY 4.0" } },
      link: null,
    });
  });
});

describe("pages and images", () => {
  it("come in the order of arrival, with shapes to draw, without gaps between pages", async () => {
    const pages = await Promise.all(
      [0, 7, 14].map((start) => stockPage(localActor, collection, wholeStock, { start, limit: 7 })),
    );
    const ids = pages.flatMap(({ images }) => images.map(({ id }) => id));
    expect(ids).toEqual(await matchingIds(localActor, collection, wholeStock));
    expect(pages[0]?.images[0]).toMatchObject({
      name: "images/p0.jpg",
      width: 64,
      height: 48,
      objects: [{ shape: { kind: "box", x: 1, y: 2, width: 10, height: 12 } }, { shape: { kind: "box" } }],
    });
  });
  it("draw long outlines and masks shorter than they are, as they come in and as they are drawn", async () => {
    const { id } = await createCollection(localActor, { name: "Outlines" });
    const ring = (corners: number) =>
      Array.from({ length: corners }, (_, n) => [
        30 + 14 * Math.cos((2 * Math.PI * n) / corners),
        24 + 14 * Math.sin((2 * Math.PI * n) / corners),
      ]).flat();
    const files = await cocoFiles(1, (n) => picture(n + 900));
    const coco = JSON.parse(files["annotations.json"] as string) as { annotations: object[] };
    coco.annotations = [
      { id: 1, image_id: 0, category_id: 1, bbox: [16, 10, 28, 28], segmentation: [ring(240)] },
      { id: 2, image_id: 0, category_id: 1, bbox: [1, 1, 4, 4], segmentation: [[1, 1, 5, 1, 5, 5, 1, 5]] },
    ];
    files["annotations.json"] = JSON.stringify(coco);
    await deliverAndTakeIn(id, saveArchive("outlines.zip", await zipBytes(files)));
    const drawn = async () =>
      (await stockPage(localActor, id, wholeStock, { start: 0, limit: 1 })).images[0]?.objects.map(
        ({ shape }) => shape,
      ) ?? [];
    const numbers = (shape: Shape | undefined) => JSON.stringify(shape).split(",").length;
    const came = await drawn();
    expect(came.map(({ kind }) => kind)).toEqual(["polygon", "polygon"]);
    expect(numbers(came[0])).toBeLessThan(240);
    expect(came[1]).toEqual({ kind: "polygon", parts: [[[1, 1, 5, 1, 5, 5, 1, 5]]] });
    const [image] = await matchingIds(localActor, id, wholeStock);
    const { objects } = await imageDetail(localActor, id, image as number, wholeStock);
    // What is looked at large stays as it is.
    expect(numbers(objects[0]?.shape)).toBeGreaterThan(450);
    const mask: Shape = { kind: "mask", width: 64, height: 48, counts: [48 * 4 + 6, 9, 39, 9, 48 * 58 - 6 - 9] };
    await sendSteps(localActor, id, [
      {
        image: image as number,
        revision: 0,
        steps: [{ do: "set-shape", uid: objects[1]?.uid as string, shape: mask }],
      },
    ]);
    const outline = (await drawn())[1] as Shape;
    expect(outline.kind).toBe("polygon");
    expect(shapeBounds(outline)).toEqual({ x: 4, y: 6, width: 2, height: 9 });
    // Objects that came before outlines were kept are drawn whole.
    await db().execute(sql`update objects set outline = null where image_id = ${image}`);
    expect((await drawn())[1]).toEqual(mask);
  });
  it("know their neighbours among what matches", async () => {
    const asked = filter({ class: ["tart"] });
    const ids = await matchingIds(localActor, collection, asked);
    const middle = await imageDetail(localActor, collection, ids[2] as number, asked);
    expect(middle).toMatchObject({ before: ids[1], after: ids[3], place: 3, delivery: { id: deliveries[0] } });
    expect(middle.objects[1]).toMatchObject({ shape: { kind: "box", x: 20, y: 20, width: 15.5, height: 10 } });
    expect(new Set(middle.objects.map(({ uid }) => uid)).size).toBe(2);
    expect(await imageDetail(localActor, collection, ids[0] as number, asked)).toMatchObject({ before: null });
    await expect(imageDetail(localActor, collection, 999_999, asked)).rejects.toThrow(/not in stock/);
    await expect(imageBytes(localActor, 999_999)).rejects.toThrow(/no image 999999/);
  });
  it("move to a split and back to where each was", async () => {
    const ids = await matchingIds(localActor, collection, wholeStock);
    const { act, images, text } = await moveImages(collection, ids, "test");
    expect([images, text]).toEqual([17, "moved 17 images to test"]);
    expect((await facets(localActor, collection, wholeStock)).split).toEqual({ train: 0, val: 0, test: 17, none: 0 });
    expect(await undoAct(localActor, act)).toMatchObject({
      images: 17,
      left: 0,
      text: "took back: moved 17 images to test",
    });
    expect((await facets(localActor, collection, wholeStock)).split).toEqual({ train: 5, val: 2, test: 0, none: 10 });
    const elsewhere = (await createCollection(localActor, { name: "Elsewhere" })).id;
    expect((await moveImages(elsewhere, ids, "test")).images).toBe(0);
  });
});

it("the class table counts labels a split as the rows say", async () => {
  const table = await classTable(localActor, collection);
  expect(table.map(({ name, code, images, objects }) => [name, code, images, objects])).toEqual([
    ["roll", "RL", 16, 16],
    ["loaf", "LF", 10, 10],
    ["tart", "TR", 6, 6],
  ]);
  expect(table[0]?.bySplit).toEqual({ train: 5, val: 2, test: 0, none: 9 });
});
