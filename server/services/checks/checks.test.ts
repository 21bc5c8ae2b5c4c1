/** A stocktake over its life: found, mended, undone, dismissed, found again, with thresholds and its history. */
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, beforeEach, expect, it } from "vitest";
import { untilEnded } from "../../jobs/wait";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  wholeStock,
  zipBytes,
} from "../../tests/bakery";
import { drawBoxes } from "../../tests/draw-boxes";
import { localActor } from "../actor";
import { act, undoAct, type ActOutcome } from "../acts";
import { dismissFinding, recallDismissal } from "./dismissals";
import { pastStocktakes } from "./history";
import { mendFinding, proofsOf } from "./mend";
import { numbersOf } from "./numbers";
import type { CheckEntry } from "./check-entry";
import { checksOf } from "./stocktake";
import { setThreshold } from "./thresholds";
import { createCollection, line } from "../collections";
import { matchingIds } from "../stock";

let stop: () => void;
let collection: number;
let images: number[];
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());
beforeEach(async () => {
  collection = (await createCollection(localActor, { name: `Checked ${uuidV7()}` })).id;
  await deliverAndTakeIn(collection, saveArchive(`${uuidV7()}.zip`, await zipBytes(await cocoFiles(3, picture))));
  images = await matchingIds(localActor, collection, wholeStock);
});

const draw = (image: number, boxes: Parameters<typeof drawBoxes>[2]) => drawBoxes(collection, image, boxes);
const find = async (code: string): Promise<CheckEntry | undefined> =>
  (await checksOf(localActor, collection)).findings.find((finding) => finding.code === code);
const done = async (outcome: Promise<ActOutcome>) => {
  const { act, job } = await outcome;
  if (job !== null) await untilEnded(job);
  return act;
};

it("finds, proves, mends in one act, and finds again once that is undone", async () => {
  const [first, second] = images as [number, number];
  expect(await find("box-tiny")).toBeUndefined();
  await draw(first, [[5, 5, 2, 9]]);
  await draw(second, [
    [5, 5, 2, 9],
    [15, 5, 9, 3],
  ]);
  const tiny = await find("box-tiny");
  expect(tiny).toMatchObject({
    ...{ sentence: "3 objects are fewer than 4 pixels wide or high.", count: 3, images: 2, severity: "warning" },
    mends: [{ label: "Remove these objects", images: 2 }],
  });
  const { proofs } = await proofsOf(localActor, collection, { key: "box-tiny", start: 1, limit: 5, where: "" });
  expect(proofs.map(({ image, objects }) => [image, objects.map(({ width, height }) => [width, height])])).toEqual([
    [
      second,
      [
        [2, 9],
        [9, 3],
      ],
    ],
  ]);
  const mend = { key: "box-tiny", mend: 0 };
  await expect(mendFinding(localActor, collection, { ...mend, mark: "another" })).rejects.toThrow(
    "By now it is: 3 objects are fewer than 4 pixels wide or high.",
  );
  const mending = await done(mendFinding(localActor, collection, { ...mend, mark: tiny?.mark ?? "" }));
  expect(await find("box-tiny")).toBeUndefined();
  await expect(
    proofsOf(localActor, collection, { key: "box-tiny", start: 0, limit: 5, where: "" }),
  ).rejects.toMatchObject({
    code: "finding-gone",
  });
  await done(undoAct(localActor, mending));
  expect((await find("box-tiny"))?.count).toBe(3);
});

it("goes by the thresholds of the collection, within their range", async () => {
  await draw(images[0] as number, [[5, 5, 8, 9]]);
  expect(await find("box-tiny")).toBeUndefined();
  await setThreshold(localActor, collection, { code: "box-tiny", value: 9 });
  expect(await find("box-tiny")).toMatchObject({ threshold: 9, count: 1 });
  await setThreshold(localActor, collection, { code: "box-tiny", value: null });
  expect(await find("box-tiny")).toBeUndefined();
  await expect(setThreshold(localActor, collection, { code: "box-tiny", value: 0 })).rejects.toThrow(
    "This is from 1 to 500 pixels.",
  );
  await expect(setThreshold(localActor, collection, { code: "class-similar", value: 1 })).rejects.toMatchObject({
    code: "threshold-missing",
  });
});

it("says nothing more of what was dismissed, until what proves it changes", async () => {
  const [first, second] = images as [number, number];
  await draw(first, [[5, 5, 2, 9]]);
  await dismissFinding(localActor, collection, { key: "box-tiny", reason: "crumbs are meant" });
  expect(await find("box-tiny")).toBeUndefined();
  const { dismissed } = await checksOf(localActor, collection);
  expect(dismissed).toMatchObject([{ key: "box-tiny", image: null, reason: "crumbs are meant", actor: "local" }]);
  await draw(second, [[5, 5, 2, 9]]);
  expect((await find("box-tiny"))?.count).toBe(2);
  await dismissFinding(localActor, collection, { key: "box-tiny", image: first, reason: "a crumb" });
  expect(await find("box-tiny")).toMatchObject({ count: 1, images: 1 });
  await draw(first, [[25, 5, 2, 9]]);
  expect((await find("box-tiny"))?.count).toBe(3);
  await dismissFinding(localActor, collection, { key: "box-tiny", reason: "all of them" });
  const [latest] = (await checksOf(localActor, collection)).dismissed;
  await recallDismissal(localActor, collection, latest?.id ?? 0);
  expect((await find("box-tiny"))?.count).toBe(3);
  await expect(
    dismissFinding(localActor, collection, { key: "box-whole-picture", reason: "none there" }),
  ).rejects.toMatchObject({ code: "finding-gone" });
});

it("keeps each stocktake in numbers, once for as long as nothing changes", async () => {
  await checksOf(localActor, collection);
  await draw(images[0] as number, [[5, 5, 2, 9]]);
  await checksOf(localActor, collection);
  const past = await pastStocktakes(localActor, collection);
  expect(past[0]).toMatchObject({ images: 3 });
  expect([past[0], past.at(-1)].map((one) => one?.counts["box-tiny"] ?? 0)).toEqual([0, 1]);
  // What pictures look like may be learned in between: neighbours differ all the same.
  for (const [n, { counts }] of past.entries()) expect(counts).not.toEqual(past[n - 1]?.counts);
  await expect
    .poll(async () => {
      const { findings } = await checksOf(localActor, collection);
      const { checks, checksToLookAt } = await line(localActor, collection);
      const loud = findings.filter(({ severity }) => severity !== "info").length;
      return [checks - findings.length, checksToLookAt - loud];
    })
    .toEqual([0, 0]);
});

it("looks at a part of the stock as at all of it, and mends that part alone", async () => {
  const [first, second] = images as [number, number];
  for (const image of [first, second]) await draw(image, [[5, 5, 2, 9]]);
  await done(act(localActor, collection, { only: [second], act: { do: "tag", tag: "night" } }));
  const where = "tag = night";
  const part = await checksOf(localActor, collection, { where });
  const tiny = part.findings.find(({ code }) => code === "box-tiny");
  expect(tiny).toMatchObject({ count: 1, images: 1 });
  expect(part.findings.filter(({ deliveries }) => deliveries.length > 0)).toEqual([]);
  expect(
    (await numbersOf(localActor, collection, { where, longEdge: 640 })).numbers?.deliveries.map(({ images: n }) => n),
  ).toEqual([1]);
  await done(mendFinding(localActor, collection, { key: "box-tiny", mend: 0, mark: tiny?.mark ?? "", where }));
  const rest = await find("box-tiny");
  expect(rest?.proofs.map(({ image }) => image)).toEqual([first]);
  await expect(checksOf(localActor, collection, { where: "tag =" })).rejects.toMatchObject({
    code: "selection-invalid",
  });
});
