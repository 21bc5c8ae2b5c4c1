/** A version goes out in every format and comes in again as a delivery of that format. */
import { packageFormats } from "@larder/core/formats/registry";
import { planSchema } from "@larder/core/plans/plan";
import { and, eq } from "drizzle-orm";
import { execFileSync } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { packages, versions } from "../../db/schema";
import { settings } from "../../settings";
import { deliver, deliverAndTakeIn, picture, saveArchive, startWorker, zipBytes } from "../../tests/bakery";
import { untilEnded } from "../../jobs/wait";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { previewItems, previewPicture } from "../intake/preview";
import { createPlan } from "../plans";
import { startPackage } from "../packages";
import { startBuild, versionLosses } from "../versions";

let stop: () => void;
let version: number;
const plan = planSchema.parse({ seed: 2, split: { ratio: { train: 50, val: 30, test: 20 } } });

beforeAll(async () => {
  stop = await startWorker();
  const collection = (await createCollection(localActor, { name: "Every format" })).id;
  const annotations = Array.from({ length: 12 }, (_, n) => [
    {
      id: 2 * n + 1,
      image_id: n,
      category_id: 1,
      bbox: [2 + n, 3, 20, 12],
      ...(n % 3 === 0 ? { segmentation: [[2 + n, 3, 22 + n, 3, 22 + n, 15]] } : {}),
    },
    { id: 2 * n + 2, image_id: n, category_id: 2, bbox: [30, 20, 10, 10] },
  ]).flat();
  const files: Record<string, string | Uint8Array> = {
    "a.json": JSON.stringify({
      images: Array.from({ length: 12 }, (_, id) => ({ id, file_name: `p${id}.jpg`, width: 64, height: 48 })),
      annotations,
      categories: [
        { id: 1, name: "roll" },
        { id: 2, name: "rye dark" },
      ],
    }),
  };
  for (let n = 0; n < 12; n++) files[`p${n}.jpg`] = await picture(n + 7000);
  await deliverAndTakeIn(collection, saveArchive("every.zip", await zipBytes(files)));
  const { id } = await createPlan(localActor, collection, { name: "All", body: plan });
  const built = await startBuild(localActor, { planId: id });
  await untilEnded(built.job);
  version = built.id;
});
afterAll(() => stop());

/**
 * Objects and image classes a package holds where the twelve images have two objects each, ten of the class-only
 * formats' rules.
 */
const objectsIn: Record<string, number> = { "class-folders": 0, "csv-labels": 0, masks: 4 };

describe("a package", () => {
  it.each(packageFormats)("as %s is what its delivery reads, with the losses that were foreseen", async (format) => {
    const [already] = await db()
      .select()
      .from(packages)
      .where(and(eq(packages.versionId, version), eq(packages.format, format)));
    if (!already) await untilEnded((await startPackage(localActor, version, { format })).job);
    const [pack] = await db()
      .select()
      .from(packages)
      .where(and(eq(packages.versionId, version), eq(packages.format, format)));
    expect(pack).toMatchObject({ status: "ready", failure: null });
    expect(pack?.findings).toEqual(await versionLosses(localActor, version, format));
    const file = path.join(settings().home, `again-${format}.zip`);
    writeFileSync(file, await blobs().read(pack?.sha256 as string));
    const collection = (await createCollection(localActor, { name: `Again ${format}` })).id;
    const read = await deliver(collection, file);
    // Folders of classes cannot hold an image of two; every other format has all twelve.
    if (format === "class-folders") {
      expect(read.failure).toMatch(/no picture/);
      return;
    }
    expect(read.sheet).toMatchObject({ format, images: 12, objects: objectsIn[format] ?? 24 });
    const { items } = await previewItems(localActor, read.id, { filter: "all", offset: 0, limit: 3 });
    expect(items).toHaveLength(3);
    expect((await previewPicture(localActor, read.id, 0)).length).toBeGreaterThan(50);
    const delivery = await deliverAndTakeIn(collection, file);
    expect(delivery).toMatchObject({ status: "taken", taken: { images: 12, objects: objectsIn[format] ?? 24 } });
  });

  it("arrives as a tar just as well", async () => {
    const folder = path.join(settings().home, "tar-source");
    mkdirSync(folder);
    const [pack] = await db()
      .select()
      .from(packages)
      .where(and(eq(packages.versionId, version), eq(packages.format, "coco")));
    writeFileSync(path.join(folder, "x.zip"), await blobs().read(pack?.sha256 as string));
    execFileSync("python3", [
      "-c",
      "import sys, zipfile; zipfile.ZipFile(sys.argv[1]).extractall(sys.argv[2])",
      path.join(folder, "x.zip"),
      path.join(folder, "out"),
    ]);
    execFileSync("tar", ["cf", path.join(folder, "source.tar"), "-C", path.join(folder, "out"), "."]);
    const delivery = await deliverAndTakeIn(
      (await createCollection(localActor, { name: "From a tar" })).id,
      saveArchive("source.tar", readFileSync(path.join(folder, "source.tar"))),
    );
    expect(delivery).toMatchObject({ status: "taken", taken: { images: 12, objects: 24 } });
    expect((await db().select().from(versions).where(eq(versions.id, version)))[0]?.status).toBe("frozen");
  });
});
