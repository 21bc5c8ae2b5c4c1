import { planFromYaml } from "@larder/core/plans/plan-text";
import { eq } from "drizzle-orm";
import { afterAll, beforeAll, expect, it } from "vitest";
import { db } from "../db/database";
import { images, jobs } from "../db/schema";
import { untilEnded } from "../jobs/wait";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, zipBytes } from "../tests/bakery";
import { localActor } from "./actor";
import { createCollection } from "./collections";
import { comparedVersions } from "./compare-versions";
import { imageDestinations } from "./image-destinations";
import { planFlow, planLeaving } from "./planning/plan-flow";
import { createPlan, duplicatePlan, planHistory, savePlan } from "./plans";
import { saveSelection } from "./stock/saved-selections";
import { startBuild } from "./versions";

let stop: () => void;
let collection: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Destinations" })).id;
  await deliverAndTakeIn(collection, saveArchive("d.zip", await zipBytes(await cocoFiles(12))));
});
afterAll(() => stop());

const plan = (yaml: string, name: string) => createPlan(localActor, collection, { name, body: planFromYaml(yaml) });
const build = async (planId: number) => {
  const { job } = await startBuild(localActor, { planId });
  expect(await untilEnded(job)).toMatchObject({ status: "done" });
  for (const { id } of await db().select({ id: jobs.id }).from(jobs).where(eq(jobs.kind, "pack"))) await untilEnded(id);
};
const train = "split: { ratio: { train: 1 } }\npack: { formats: [] }\n";

it("an image says which versions hold it as what, and where it leaves which plan", async () => {
  const all = await plan(`plan: 2\n${train}augment: { copies: 2, do: [{ op: flip-sideways }] }\n`, "All");
  await saveSelection(localActor, collection, { name: "ones", where: 'name like "*p1*"' });
  const some = await plan(`plan: 2\nselect: { where: "@ones" }\n${train}`, "Ones");
  await plan('plan: 2\nselect: { where: "@gone" }\n', "Gone");
  await build(all.id);
  await build(some.id);
  const rows = await db().select().from(images).where(eq(images.collectionId, collection));
  const of = async (name: string) =>
    imageDestinations(localActor, rows.find((row) => row.name.endsWith(name))?.id as number);
  const two = await of("p2.jpg");
  expect(two.versions).toEqual([
    { number: 1, name: "All", split: "train", outputs: ["p2.jpg", "p2_copy1.jpg", "p2_copy2.jpg"] },
  ]);
  expect(two.plans).toMatchObject([
    { name: "All", split: "train", leaves: null },
    { name: "Ones", split: null, leaves: { step: "select", reason: "where: the selection does not mean it" } },
    { name: "Gone", problem: expect.stringMatching(/No selection is saved as @gone/) as unknown },
  ]);
  expect((await of("p11.jpg")).versions.map(({ number }) => number)).toEqual([2, 1]);
  const leaving = await planLeaving(
    localActor,
    collection,
    planFromYaml('plan: 2\nselect: { where: "@ones" }'),
    "select",
  );
  expect(leaving.map(({ reason, count }) => [reason, count])).toEqual([["where: the selection does not mean it", 9]]);
  // p1, p10 and p11 are in both; what a version froze does not change with the saved selection.
  const compared = await comparedVersions(localActor, collection, { first: 1, second: 2 });
  expect(compared).toMatchObject({ both: 3, onlyFirst: { count: 9 }, onlySecond: { count: 0 }, moved: [] });
  expect(Object.keys(compared.stock)).toHaveLength(9);
  expect(compared.second.yaml).toContain('(name like "*p1*")');
});

it("labels are moved for real where a crop may drop them, in a thread of its own", async () => {
  const cropped = planFromYaml(`plan: 2\n${train}visible: 50%\nprepare: { crop: { left: 25% } }\n`);
  const flow = await planFlow(localActor, collection, cropped);
  const last = flow.steps.at(-1);
  // The first box lies left of 16 of 64 pixels on every image and goes; the second, from 20 on, stays.
  expect([last?.step, last?.bands[0]?.images, last?.bands[0]?.objects]).toEqual(["pack", 12, 12]);
  expect(flow.steps.map(({ estimate }) => estimate).every((words) => words === undefined)).toBe(true);
});

it("a plan keeps what it said, and is duplicated", async () => {
  const { id } = await plan(`plan: 2\n${train}`, "Kept");
  await savePlan(localActor, id, { yaml: `plan: 2\nseed: 5\n${train}` });
  const [before] = await planHistory(localActor, id);
  expect(before).toMatchObject({ body: { seed: 1 }, by: localActor.id });
  await expect(savePlan(localActor, id, { yaml: "plan: 2\nseed: x" })).rejects.toThrow(/Line 2, seed/);
  const copy = await duplicatePlan(localActor, id);
  expect((await planHistory(localActor, copy.id)).length).toBe(0);
});
