/** What pictures look like, learned from a real stock, and the cut-outs in the orders that follow from it. */
import { selectionSchema } from "@larder/core/selection/chosen";
import { orderSchema } from "@larder/core/snapshot/order";
import { sql } from "drizzle-orm";
import { existsSync, readdirSync } from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { untilEnded } from "../../jobs/wait";
import { inOwnThread } from "../../own-thread";
import { settings } from "../../settings";
import { rowsOfBytes } from "../../snapshot/copy-out";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  wholeStock,
  zipBytes,
} from "../../tests/bakery";
import { act } from "../acts";
import { sendSteps } from "../send-steps";
import { localActor } from "../actor";
import { classTable } from "../classes";
import { createCollection } from "../collections";
import { stockPage } from "../stock";
import { startLearning } from "../learning/learn";
import { cutoutPicture } from "./cutout-picture";
import { cutoutsPage, groupsOfCutouts } from "./cutouts";

const ground = { r: 90, g: 90, b: 90 };
type Square = { name: string; x: number; colour: { r: number; g: number; b: number } };
const green = { r: 20, g: 200, b: 40 };
const blue = { r: 20, g: 40, b: 220 };

/** A grey picture with coloured squares of 40 pixels on it; the `n`th has a shade of its own. */
async function plate(n: number, squares: readonly Square[]): Promise<Uint8Array> {
  const background = { ...ground, r: ground.r + n };
  return sharp({ create: { width: 240, height: 80, channels: 3, background } })
    .composite(
      squares.map(({ x, colour }) => ({
        input: { create: { width: 40, height: 40, channels: 3 as const, background: colour } },
        left: x,
        top: 20,
      })),
    )
    .png()
    .toBuffer();
}

let stop: () => void;
let collection: number;
let classIds: Map<string, number>;

async function untilLearned(id = collection): Promise<void> {
  await startLearning();
  const left = sql`select count(*) as n from images where collection_id = ${id} and not learned and removed_at is null`;
  await vi.waitUntil(async () => (await numberOf(db(), left)) === 0, { timeout: 90_000, interval: 50 });
}

beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Squares" })).id;
  const files: Record<string, string | Uint8Array> = {};
  const [images, annotations] = [[] as object[], [] as object[]];
  for (let n = 0; n < 8; n++) {
    const squares: Square[] = [
      // One that is said to be green is blue.
      { name: "green", x: 20, colour: n === 5 ? blue : green },
      { name: "blue", x: 140, colour: blue },
    ];
    files[`images/p${n}.png`] = await plate(n, squares);
    images.push({ id: n, width: 240, height: 80, file_name: `p${n}.png` });
    squares.forEach(({ name, x }, nth) =>
      annotations.push({
        id: n * 2 + nth,
        image_id: n,
        category_id: name === "green" ? 1 : 2,
        bbox: [x, 20, 40, name === "green" ? 40 : 30 + n],
      }),
    );
  }
  const categories = [
    { id: 1, name: "green" },
    { id: 2, name: "blue" },
  ];
  files["annotations.json"] = JSON.stringify({ images, annotations, categories });
  await deliverAndTakeIn(collection, saveArchive("squares.zip", await zipBytes(files)));
  classIds = new Map((await classTable(localActor, collection)).map(({ name, id }) => [name, id]));
  await untilLearned();
});
afterAll(() => stop());

const page = (
  name: string,
  by: "size" | "outlying" | "other" | "confidence" | "delivery",
  down: boolean,
  selection = wholeStock,
) =>
  cutoutsPage(localActor, collection, selection, {
    group: { of: "class", id: classIds.get(name) as number },
    by,
    down,
    start: 0,
    limit: 50,
    pictures: "none",
  });

describe("cut-outs", () => {
  it("fall into groups that are counted", async () => {
    expect(await groupsOfCutouts(localActor, collection, wholeStock)).toEqual([
      { group: { of: "class", id: classIds.get("green") }, count: 8 },
      { group: { of: "class", id: classIds.get("blue") }, count: 8 },
    ]);
    const some = selectionSchema.parse({ where: "name like p1.png" });
    expect((await groupsOfCutouts(localActor, collection, some)).map(({ count }) => count)).toEqual([1, 1]);
  });
  it("put what stands out first, and what is nearer to another class", async () => {
    const outlying = await page("green", "outlying", true);
    expect(outlying).toMatchObject({ total: 8, waiting: 0 });
    expect(outlying.cutouts[0]?.name).toContain("p5.png");
    const [first, second] = outlying.cutouts.map(({ measure }) => measure ?? 0);
    expect(first).toBeGreaterThan((second ?? 0) * 2);
    const other = await page("green", "other", false);
    expect(other.cutouts[0]?.name).toContain("p5.png");
    expect(other.cutouts[0]?.measure).toBeLessThan(0);
    expect(other.cutouts[1]?.measure).toBeGreaterThan(0);
  });
  it("are read by a thread of their own where they are many", async () => {
    const argument = { collection, after: 0, expected: 100 };
    const bytes = await inOwnThread<typeof argument, Uint8Array>("features-thread", "readFeatures", argument);
    const rows = Array.from(rowsOfBytes(bytes), (row) => [row.int8(0), Buffer.from(row.raw(2))]);
    const { rows: kept } = await db().execute(
      sql`select image_id, features from image_features where collection_id = ${collection} order by image_id`,
    );
    expect(rows.sort(([a], [b]) => Number(a) - Number(b))).toEqual(kept.map((row) => Object.values(row)));
    expect(rows).toHaveLength(8);
  });
  it("go by size", async () => {
    const { cutouts } = await page("blue", "size", true);
    expect(cutouts.map(({ height }) => height)).toEqual([37, 36, 35, 34, 33, 32, 31, 30]);
    expect(cutouts[0]).toMatchObject({ x: 140, y: 20, width: 40 });
  });
  it("give the images in the orders of likeness", async () => {
    const order = orderSchema.parse({ by: "unlike", down: true });
    const { images } = await stockPage(localActor, collection, wholeStock, { start: 0, limit: 8, order });
    expect(images[0]?.name).toContain("p5.png");
    const like = orderSchema.parse({ by: "like", like: [images[0]?.id] });
    const alike = await stockPage(localActor, collection, wholeStock, { start: 0, limit: 8, order: like });
    expect(alike.images[0]?.id).toBe(images[0]?.id);
    expect(alike.images).toHaveLength(8);
  });
  it("are pictures of the box and a little around it, made once and gone with the image", async () => {
    const { cutouts } = await page("green", "outlying", false);
    const [usual] = cutouts;
    const bytes = await cutoutPicture(localActor, usual?.image as number, usual as NonNullable<typeof usual>);
    const { data, info } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    // 40 pixels and 15 % of that on each side.
    expect([info.width, info.height]).toEqual([52, 52]);
    const pixel = (x: number, y: number) => [...data.subarray((y * 52 + x) * 3, (y * 52 + x) * 3 + 3)];
    expect((pixel(26, 26)[1] ?? 0) - (pixel(26, 26)[0] ?? 0)).toBeGreaterThan(120);
    expect(Math.abs((pixel(2, 2)[1] ?? 0) - (pixel(2, 2)[2] ?? 0))).toBeLessThan(25);
    const [row] = await rowsOf(
      db(),
      z.object({ sha256: z.string() }),
      sql`select sha256 from images where id = ${usual?.image}`,
    );
    const folder = path.join(settings().home, "store", "cutouts", row?.sha256.slice(0, 2) ?? "", row?.sha256 ?? "");
    expect(readdirSync(folder)).toHaveLength(1);
    await cutoutPicture(localActor, usual?.image as number, usual as NonNullable<typeof usual>);
    expect(readdirSync(folder)).toHaveLength(1);
    const shown = await cutoutsPage(localActor, collection, wholeStock, {
      group: { of: "class", id: classIds.get("green") as number },
      ...{ by: "outlying", down: false, start: 0, limit: 3, pictures: "sharp" },
    });
    expect(shown.cutouts[0]?.picture).toBe(Buffer.from(bytes).toString("base64"));
    expect(shown).toMatchObject({ isRough: false });
    expect(shown.cutouts).toHaveLength(3);
    expect(cutouts.every(({ picture }) => picture === null)).toBe(true);
    // Pictures of places where no object lies are not made: they would be kept for nobody.
    const elsewhere = { x: 1, y: 1, width: 7, height: 7 };
    await expect(cutoutPicture(localActor, usual?.image as number, elsewhere)).rejects.toMatchObject({
      code: "cutout-missing",
    });
    const other = await zipBytes({});
    await blobs().put("0".repeat(64), other);
    await blobs().putDerived("cutouts", `${"0".repeat(64)}/${"1".repeat(64)}`, other);
    await blobs().remove("0".repeat(64));
    expect(existsSync(path.join(settings().home, "store", "cutouts", "00", "0".repeat(64)))).toBe(false);
  });
  it("are small ones where none are cut yet, made with what is learned, and sharp for who looks at them", async () => {
    const { id } = await createCollection(localActor, { name: "Large pictures" });
    const files = await cocoFiles(1, (n) => picture(n + 9000, 1600, 1200));
    await deliverAndTakeIn(id, saveArchive("large.zip", await zipBytes(files)));
    const [{ group } = { group: null }] = await groupsOfCutouts(localActor, id, wholeStock);
    if (!group) throw new Error("there is no group");
    const shown = async (pictures: "small" | "ready" | "sharp") => {
      const asked = { group, by: "size" as const, down: true, start: 0, limit: 1, pictures };
      const { isRough, cutouts } = await cutoutsPage(localActor, id, wholeStock, asked);
      const picture = cutouts[0]?.picture ?? null;
      const { width } = picture === null ? { width: 0 } : await sharp(Buffer.from(picture, "base64")).metadata();
      return { isRough, width };
    };
    // A box of 10 × 12 at (1, 2), with 15% of its longer side around it as far as the picture goes; a quarter of that.
    await untilLearned(id);
    expect(await shown("ready")).toEqual({ isRough: true, width: 4 });
    expect(await shown("sharp")).toEqual({ isRough: false, width: 13 });
    // Once it is made it is there for whoever scrolls by.
    expect(await shown("ready")).toEqual({ isRough: false, width: 13 });
    expect(await shown("small")).toEqual({ isRough: true, width: 4 });
  });
  it("that are picked get their class in one act, whatever else is on their images", async () => {
    const wrong = (await page("green", "outlying", true)).cutouts[0];
    const outcome = await act(localActor, collection, {
      only: [wrong?.image as number],
      act: { do: "reclass", objects: [wrong?.uid as string], class: classIds.get("blue") as number },
      expected: 1,
    });
    if (outcome.job) await untilEnded(outcome.job);
    expect(outcome.text).toBe("made 1 object into blue (on 1 image)");
    expect((await page("green", "size", true)).total).toBe(7);
    const blues = await page("blue", "outlying", true);
    expect(blues.total).toBe(9);
    // Its looks are known still: the box is the same.
    expect(blues.cutouts.every(({ measure }) => measure !== null)).toBe(true);
  });
  it("of a box that is drawn anew are learned anew", async () => {
    const [cutout] = (await page("green", "size", true)).cutouts;
    const shape = { kind: "box", x: 5, y: 5, width: 12, height: 12 } as const;
    await sendSteps(localActor, collection, [
      { image: cutout?.image as number, revision: 0, steps: [{ do: "set-shape", uid: cutout?.uid as string, shape }] },
    ]);
    await untilLearned();
    const { cutouts } = await page("green", "outlying", true);
    const moved = cutouts.find(({ uid }) => uid === cutout?.uid);
    expect(moved).toMatchObject({ x: 5, width: 12 });
    expect(cutouts[0]?.uid).toBe(cutout?.uid);
    expect(moved?.measure).toBeGreaterThan(0);
    const ready = await cutoutsPage(localActor, collection, wholeStock, {
      group: { of: "class", id: classIds.get("green") as number },
      ...{ by: "outlying", down: true, start: 0, limit: 1, pictures: "ready" },
    });
    // 12 pixels and 15 % of that on each side, as far as the picture goes: all of it grey.
    const { data, info } = await sharp(Buffer.from(ready.cutouts[0]?.picture ?? "", "base64"))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([16, 16]);
    expect(Math.max(...data) - Math.min(...data)).toBeLessThan(40);
  });
});
