/** Gates of plans, and the stocktake of what a plan leaves and of what was frozen. */
import { planSchema } from "@larder/core/plans/plan";
import { eq } from "drizzle-orm";
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, expect, it } from "vitest";
import { db } from "../../db/database";
import { versions } from "../../db/schema";
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
import { classTable } from "../classes";
import { createCollection } from "../collections";
import { createPlan, savePlan } from "../plans";
import { matchingIds } from "../stock";
import { startBuild } from "../versions";
import { planGates } from "./gates";
import { proofsOf } from "./mend";
import { numbersOf } from "./numbers";
import { checksOf } from "./stocktake";
import { setThreshold } from "./thresholds";

let stop: () => void;
let collection: number;
let images: number[];
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Gates" })).id;
  await deliverAndTakeIn(collection, saveArchive(`${uuidV7()}.zip`, await zipBytes(await cocoFiles(6, picture))));
  images = await matchingIds(localActor, collection, wholeStock);
});
afterAll(() => stop());

const plan = (gates: Record<string, number>, more: object = {}) =>
  planSchema.parse({ gates, split: { ratio: { train: 1, val: 1 } }, pack: { formats: ["coco"] }, ...more });
const codesOf = async (scope: { plan?: number; version?: number; where?: string }) =>
  (await checksOf(localActor, collection, { where: "", ...scope })).findings.map(({ code }) => code);

it("keep a version from being built, before and while it is built, until what they count is mended", async () => {
  const { id } = await createPlan(localActor, collection, { name: "Gated", body: plan({ "box-tiny": 0 }) });
  expect(await planGates(localActor, collection, plan({ "box-tiny": 0 }))).toEqual({
    isWhole: true,
    results: [{ code: "box-tiny", most: 0, found: 0, counts: "objects", isOpen: true, sentences: [] }],
  });
  // Begun while it is open, closed by the time that a worker gets to it.
  stop();
  const begun = await startBuild(localActor, { planId: id });
  await drawBoxes(collection, images[0] as number, [[5, 5, 2, 9]]);
  stop = await startWorker();
  await untilEnded(begun.job);
  const [failed] = await db().select().from(versions).where(eq(versions.id, begun.id));
  expect([failed?.status, failed?.failure]).toEqual([
    "failed",
    "A gate of the plan is closed: box-tiny (1 found, at most 0 allowed). 1 object is fewer than 4 pixels wide or high." +
      " Mend it, or change the plan's gates.",
  ]);
  await expect(startBuild(localActor, { planId: id })).rejects.toMatchObject({
    code: "gate-closed",
    status: 409,
    details: { gates: [{ code: "box-tiny", isOpen: false }] },
  });
  await setThreshold(localActor, collection, { code: "box-tiny", value: 2 });
  expect((await planGates(localActor, collection, plan({ "box-tiny": 0 }))).results).toMatchObject([{ isOpen: true }]);
  await setThreshold(localActor, collection, { code: "box-tiny", value: null });
  await savePlan(localActor, id, { body: plan({ "box-tiny": 1 }) });
  await untilEnded((await startBuild(localActor, { planId: id })).job);
  const [built] = await db().select().from(versions).where(eq(versions.number, 1));
  expect(built?.status).toBe("frozen");
  expect(built?.faults).toContain("1 object is fewer than 4 pixels wide or high.");
});

it("look at what a plan leaves of the stock, and a version at what was frozen", async () => {
  const [first] = await classTable(localActor, collection);
  const without = await createPlan(localActor, collection, {
    name: "Without",
    body: plan({}, { relabel: { leaveOut: [first?.name ?? ""] } }),
  });
  expect(await codesOf({})).toContain("box-tiny");
  expect(await codesOf({ plan: without.id })).not.toContain("box-tiny");
  expect(await codesOf({ version: 1 })).toContain("box-tiny");
  expect(await codesOf({ version: 1, where: "split = test" })).toEqual([]);
  // All in the stock are without a split; the plan deals them, and so does the version.
  expect(await codesOf({ plan: without.id })).toContain("split-empty");
  const scope = { version: 1, where: "", longEdge: 640 };
  const { numbers } = await numbersOf(localActor, collection, scope);
  expect(numbers?.deliveries.map(({ images: n }) => n)).toEqual([6]);
  const { finding, proofs } = await proofsOf(localActor, collection, {
    ...{ key: "box-tiny", start: 0, limit: 10, where: "", version: 1 },
  });
  expect(finding.mends).toEqual([]);
  expect(proofs).toMatchObject([{ image: images[0], rendering: null, objects: [{ width: 2, height: 9 }] }]);
  await expect(codesOf({ version: 9 })).rejects.toMatchObject({ code: "version-missing" });
  await expect(codesOf({ version: 1, plan: without.id })).rejects.toMatchObject({ code: "scope-twofold" });
});
