/** Looks in a stock that is too large for them to be compared while somebody waits: a job compares them. */
import { eq } from "drizzle-orm";
import sharp from "sharp";
import { afterAll, beforeAll, expect, it, vi } from "vitest";
import { db } from "../../db/database";
import { jobs } from "../../db/schema";
import { untilDone, untilEnded } from "../../jobs/wait";
import { deliverAndTakeIn, saveArchive, startWorker, where, zipBytes, type Files } from "../../tests/bakery";
import { undoAct } from "../acts";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { matchingIds } from "../stock";
import { mendFinding, proofsOf } from "./mend";
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
  const taken = () => checksOf(localActor, collection);
  // It is learned what they look like before anything is compared.
  await vi.waitUntil(async () => (await jobsOf("learn")).some(({ status }) => status === "done"), { timeout: 60_000 });
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

const jobsOf = (kind: "learn" | "compare-looks") => db().select().from(jobs).where(eq(jobs.kind, kind));
