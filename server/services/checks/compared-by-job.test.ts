/** Looks in a stock that is too large for them to be compared while somebody waits: a job compares them. */
import { planSchema } from "@larder/core/plans/plan";
import { eq, sql } from "drizzle-orm";
import sharp from "sharp";
import { afterAll, beforeAll, expect, it, vi } from "vitest";
import { db } from "../../db/database";
import { jobs } from "../../db/schema";
import { untilDone, untilEnded } from "../../jobs/wait";
import { deliverAndTakeIn, saveArchive, startWorker, where, zipBytes, type Files } from "../../tests/bakery";
import { undoAct } from "../acts";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { isLearned } from "../learning/compare-looks";
import { createPlan } from "../plans";
import { matchingIds } from "../stock";
import { startBuild } from "../versions";
import { mendFinding, proofsOf } from "./mend";
import { numbersOf } from "./numbers";
import { checksOf } from "./stocktake";

vi.hoisted(() => {
  process.env["LARDER_COMPARED_AT_ONCE"] = "10";
});

let stop: () => void;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

/** Plates, light or dark, each with a box around it that is said to be so; the one that is named is said to be the other. */
async function plates(each: number, wrong: string): Promise<Files> {
  const names = Array.from({ length: 2 * each }, (_, n) => `${n % 2 ? "dark" : "light"}-${n}.jpg`);
  const files: Files = {};
  for (const [n, name] of names.entries()) {
    const tone = (name.startsWith("dark") ? 20 : 190) + n;
    files[name] = await sharp({
      create: { width: 64, height: 48, channels: 3, background: { r: tone, g: tone, b: tone } },
    })
      .png()
      .toBuffer();
  }
  const said = (name: string) => name.startsWith("dark") !== (name === wrong);
  files["labels.json"] = JSON.stringify({
    images: names.map((file_name, id) => ({ id, file_name, width: 64, height: 48 })),
    annotations: names.map((name, id) => ({ id, image_id: id, category_id: said(name) ? 1 : 2, bbox: [0, 0, 64, 48] })),
    categories: [
      { id: 1, name: "dark plate" },
      { id: 2, name: "light plate" },
    ],
  });
  return files;
}

const key = "probably-mislabeled dark plate light plate";

it("finds a wrong label once a job has compared, in a part of the stock, too, and says nothing of it once it is mended", async () => {
  const { id: collection } = await createCollection(localActor, { name: "Plates" });
  await deliverAndTakeIn(collection, saveArchive("plates.zip", await zipBytes(await plates(14, "light-6.jpg"))));
  const taken = async () => {
    // A slow machine may take longer than somebody waits.
    await vi.waitUntil(async () => (await checksOf(localActor, collection)).isTaken, { timeout: 60_000 });
    return checksOf(localActor, collection);
  };
  // It is learned what they look like before anything is compared.
  await vi.waitUntil(async () => (await jobsOf("learn")).some(({ status }) => status === "done"), { timeout: 100_000 });
  const before = await taken();
  expect(before).toMatchObject({ isWhole: false, isComparing: true });
  expect(before.findings.map((finding) => finding.key)).not.toContain(key);
  const [job] = await jobsOf("compare-looks");
  await untilDone(job?.id ?? "");

  const after = await taken();
  expect(after).toMatchObject({ isWhole: true, isComparing: false });
  const wrong = after.findings.find((finding) => finding.key === key);
  expect(wrong).toMatchObject({ count: 1, sentence: "1 dark plate looks like light plate." });
  const [image] = await matchingIds(localActor, collection, where('name = "light-6.jpg"'));
  const { proofs } = await proofsOf(localActor, collection, { key, start: 0, limit: 9, where: "" });
  expect(proofs.map((proof) => proof.image)).toEqual([image]);
  const partly = async (text: string) =>
    (await checksOf(localActor, collection, { where: text })).findings.some((finding) => finding.key === key);
  expect(await partly('name like "light*"')).toBe(true);
  expect(await partly('name like "dark*"')).toBe(false);

  const mending = await mendFinding(localActor, collection, { key, mend: 0, mark: wrong?.mark ?? "", where: "" });
  if (mending.job) await untilEnded(mending.job);
  const mended = await taken();
  expect(mended.findings.map((finding) => finding.key)).not.toContain(key);
  // One image is too little to compare all of them anew.
  expect(mended.isComparing).toBe(false);
  await undoAct(localActor, mending.act);
  expect(await jobsOf("compare-looks")).toHaveLength(1);
});

/** A collection of as many plates of each kind, one of them said to be the other, with all learned of them. */
async function platesInStock(name: string, each: number): Promise<number> {
  const { id: collection } = await createCollection(localActor, { name });
  await deliverAndTakeIn(collection, saveArchive("plates.zip", await zipBytes(await plates(each, "light-6.jpg"))));
  await vi.waitUntil(() => isLearned(collection), { timeout: 100_000 });
  return collection;
}

async function lastAnswered(): Promise<string> {
  const answering = await jobsOf("answer-part");
  const last = answering.reduce((latest, job) => (job.createdAt > latest.createdAt ? job : latest));
  await untilDone(last.id);
  return last.title;
}

it("of what a plan leaves of a large stock, and of a version of it, is said by a job alone, and again once anything changes", async () => {
  const collection = await platesInStock("Many plates", 14);
  const { id: plan } = await createPlan(localActor, collection, { name: "Whole", body: planSchema.parse({}) });
  const scope = { plan, where: "" };
  const nothing = { findings: [], isTaken: false, isWhole: false, isComparing: true };
  // Not all is learned: all but looks is said.
  await db().execute(
    sql`update images set learned = false where collection_id = ${collection} and name = 'light-0.jpg'`,
  );
  expect(await checksOf(localActor, collection, scope)).toMatchObject(nothing);
  await lastAnswered();
  const early = await checksOf(localActor, collection, scope);
  expect(early).toMatchObject({ isTaken: true, isWhole: false, isComparing: true });
  expect(early.findings.map(({ code }) => code)).toContain("near-copy-across-splits");
  expect(early.findings.map(({ code }) => code)).not.toContain("probably-mislabeled");
  await db().execute(sql`update images set learned = true where collection_id = ${collection}`);
  expect((await checksOf(localActor, collection, scope)).isTaken).toBe(false);
  const asked = { ...scope, longEdge: 640 };
  await lastAnswered();
  const taken = await checksOf(localActor, collection, scope);
  expect(taken).toMatchObject({ isTaken: true, isWhole: true, isComparing: false });
  const wrong = taken.findings.find((finding) => finding.key === key);
  expect(wrong).toMatchObject({ count: 1, images: 1 });
  expect(await numbersOf(localActor, collection, asked)).toEqual({ numbers: null });
  await lastAnswered();
  const { numbers } = await numbersOf(localActor, collection, asked);
  expect(numbers?.deliveries.map(({ images }) => images)).toEqual([28]);

  const [image] = await matchingIds(localActor, collection, where('name = "light-6.jpg"'));
  const { proofs } = await proofsOf(localActor, collection, { key, start: 0, limit: 9, ...scope });
  expect(proofs.map((proof) => proof.image)).toEqual([image]);
  await untilEnded((await startBuild(localActor, { planId: plan })).job);
  const mending = await mendFinding(localActor, collection, { key, mend: 0, mark: wrong?.mark ?? "", ...scope });
  if (mending.job) await untilEnded(mending.job);
  // What was found of the plan's outcome stands there until the job has looked at it once more.
  const stale = await checksOf(localActor, collection, scope);
  expect(stale).toMatchObject({ isTaken: false, isComparing: true });
  expect(stale.findings).toHaveLength(taken.findings.length);
  await lastAnswered();
  const mended = await checksOf(localActor, collection, scope);
  expect(mended).toMatchObject({ isTaken: true, isWhole: true });
  expect(mended.findings.map((finding) => finding.key)).not.toContain(key);

  // The version has it as it was frozen.
  const version = { version: 1, where: "" };
  expect(await checksOf(localActor, collection, version)).toMatchObject(nothing);
  expect(await lastAnswered()).toBe("Taking stock of v1");
  const frozen = await checksOf(localActor, collection, version);
  expect(frozen.findings.find((finding) => finding.key === key)).toMatchObject({ count: 1, mends: [] });
});

const jobsOf = (kind: "learn" | "compare-looks" | "answer-part") => db().select().from(jobs).where(eq(jobs.kind, kind));
