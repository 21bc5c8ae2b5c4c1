import { planSchema, type Plan } from "@larder/core/plans/plan";
import { Findings } from "@larder/core/model/finding";
import { shapeBounds } from "@larder/core/geometry/shape";
import { coco } from "@larder/core/formats/coco/index";
import { yolo } from "@larder/core/formats/yolo/index";
import { settle } from "@larder/core/formats/settle";
import { eq, sql } from "drizzle-orm";
import { writeFileSync } from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { blobs, sha256 } from "../../blobs/store";
import { db } from "../../db/database";
import { jobs, packages, versions } from "../../db/schema";
import { ZipTree } from "../../files/zip-tree";
import { settings } from "../../settings";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  undoWhole,
  zipBytes,
} from "../../tests/bakery";
import { untilEnded } from "../../jobs/wait";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { changeDelivery } from "../deliveries";
import { lossesOfPlan } from "../planning/foreseen-losses";
import { planFlow } from "../planning/plan-flow";
import { createPlan } from "../plans";
import { startPackage } from "../packages";
import { startBuild } from "../versions";

let stop: () => void;
let collection: number;
let delivery: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Building" })).id;
  const turned = await sharp({ create: { width: 48, height: 64, channels: 3, background: "#a50" } })
    .withMetadata({ orientation: 6 })
    .jpeg()
    .toBuffer();
  const draw = (n: number) => (n === 3 ? Promise.resolve(turned) : picture(n));
  delivery = (
    await deliverAndTakeIn(
      collection,
      saveArchive("b.zip", await zipBytes({ ...(await cocoFiles(20, draw)), "images/free.jpg": await picture(77) })),
    )
  ).id;
});
afterAll(() => stop());

async function build(body: Plan, name: string) {
  const plan = await createPlan(localActor, collection, { name, body });
  const { id, job } = await startBuild(localActor, { planId: plan.id });
  const ended = await untilEnded(job);
  for (const { id: pack } of await db().select({ id: jobs.id }).from(jobs).where(eq(jobs.kind, "pack")))
    await untilEnded(pack);
  const [version] = await db().select().from(versions).where(eq(versions.id, id));
  return {
    version: version as typeof versions.$inferSelect,
    ended,
    packs: await db().select().from(packages).where(eq(packages.versionId, id)),
  };
}

async function unpacked(sha256: string): Promise<ZipTree> {
  const file = path.join(settings().home, `${sha256}.zip`);
  writeFileSync(file, await blobs().read(sha256));
  return ZipTree.open(file, settings().limits, new Findings());
}

const plan = planSchema.parse({
  relabel: { leaveOut: ["tart"] },
  seed: 4,
  split: { ratio: { train: 60, val: 20, test: 20 } },
  prepare: { resize: { mode: "stretch", width: 32, height: 32, larger: true } },
  augment: { copies: 1, do: [{ op: "flip-sideways", chance: 1 }] },
  pack: { formats: ["yolo", "coco"] },
});

describe("what is known of deliveries", () => {
  it("is frozen with a version and stands in each package, whatever is written later", async () => {
    await changeDelivery(localActor, delivery, {
      name: "Spring racks",
      facts: { licence: "CC BY 4.0", citation: "The bakers, 2026.", latitude: 47.37, longitude: 8.54 },
    });
    const { version, packs } = await build(planSchema.parse({ pack: { formats: ["coco", "kitti"] } }), "Facts");
    expect(version.sources).toMatchObject([{ name: "Spring racks", facts: { licence: "CC BY 4.0" } }]);
    await changeDelivery(localActor, delivery, { facts: { licence: "none" } });
    for (const pack of packs) {
      const tree = await unpacked(pack.sha256 as string);
      const readme = new TextDecoder().decode(await tree.read("README.txt"));
      tree.close();
      expect(readme).toMatch(/Spring racks: \d+ images/);
      for (const words of ["licence: CC BY 4.0", "citation: The bakers, 2026.", "place: 47.37, 8.54"])
        expect(readme).toContain(words);
    }
    await db().delete(versions).where(eq(versions.id, version.id));
  });
});

describe("a version", () => {
  it("has the counts that the flow sheet said, and the same digest when built again", async () => {
    const foreseen = await planFlow(localActor, collection, plan);
    const first = await build(plan, "First");
    expect(first.version).toMatchObject({ status: "frozen", number: 1 });
    const out = foreseen.steps.find(({ step }) => step === "pack")?.bands ?? [];
    expect(first.version.numbers?.images).toBe(out.reduce((sum, band) => sum + band.images, 0));
    expect(first.version.numbers?.objects).toBe(out.reduce((sum, band) => sum + band.objects, 0));
    for (const band of out)
      expect(first.version.numbers?.bySplit[band.split as "train"]).toEqual({
        images: band.images,
        objects: band.objects,
      });
    // 20 labeled images, the free one is unlabeled: 12 × 2, 4, 4.
    expect(out.map(({ images }) => images)).toEqual([24, 4, 4]);
    const again = await build(plan, "Again");
    expect(again.version).toMatchObject({ number: 2, digest: first.version.digest });
    const other = await build({ ...plan, seed: 5 }, "Other seed");
    expect(other.version.digest).not.toBe(first.version.digest);
    expect(sha256(await blobs().read(first.version.digest as string))).toBe(first.version.digest);
  });

  it("packs into zips that read back with the labels moved along", async () => {
    const { packs } = await build(plan, "Packed");
    expect(packs.map(({ format, status }) => [format, status]).sort()).toEqual([
      ["coco", "ready"],
      ["yolo", "ready"],
    ]);
    for (const pack of packs) {
      const tree = await unpacked(pack.sha256 as string);
      const format = pack.format === "coco" ? coco : yolo;
      const report = new Findings();
      const { classes, items } = await format.read(tree, {}, report);
      expect(classes.map(({ name }) => name)).toEqual(["roll", "loaf"]);
      let copies = 0;
      for await (const item of items) {
        const metadata = await sharp(await tree.read(item.path)).metadata();
        expect([metadata.width, metadata.height, metadata.orientation ?? 1]).toEqual([32, 32, 1]);
        const settled = settle(item, { width: 32, height: 32, orientation: 1 }, report);
        const n = Number(/p(\d+)/.exec(item.path)?.[1]);
        const copy = item.path.includes("_copy1");
        if (copy) copies++;
        if (copy) expect(item.split).toBe("train");
        // From 64 × 48 to 32 × 32: x halves, y is two thirds of it; a copy is mirrored in 32.
        const x = (1 + (n % 5)) / 2;
        const box = shapeBounds(settled.objects.find((object) => object.class === "roll")?.shape as never);
        expect(box?.x).toBeCloseTo(copy ? 32 - x - 5 : x, 6);
        expect(box?.y).toBeCloseTo(4 / 3, 6);
        expect(box?.width).toBeCloseTo(5, 6);
        expect(box?.height).toBeCloseTo(8, 6);
        expect(settled.objects).toHaveLength(n % 3 === 0 ? 1 : 2);
      }
      expect(copies).toBe(12);
      expect(report.list().filter(({ severity }) => severity === "error")).toEqual([]);
      tree.close();
    }
  });

  it("sends original bytes out where no step changes an image, and upright ones where the camera was turned", async () => {
    const { packs } = await build(planSchema.parse({ pack: { formats: ["coco"] } }), "As it is");
    const tree = await unpacked(packs[0]?.sha256 as string);
    for (const { path: name } of (await tree.entries()).filter((entry) => entry.path.endsWith(".jpg"))) {
      const bytes = await tree.read(name);
      const n = Number(/p(\d+)/.exec(name)?.[1]);
      if (n !== 3) expect(Buffer.compare(bytes, await picture(n))).toBe(0);
      else {
        const { width, height, orientation } = await sharp(bytes).metadata();
        expect([width, height, orientation ?? 1]).toEqual([64, 48, 1]);
      }
    }
    tree.close();
  });

  it("says what would be lost before anything is written, and packs once more on request", async () => {
    const losses = await lossesOfPlan(
      localActor,
      collection,
      planSchema.parse({ pack: { formats: ["coco", "class-folders"] } }),
    );
    const lossesOf = (name: string) => losses.find(({ format }) => format === name);
    expect(lossesOf("coco")).toEqual({ format: "coco", exact: true, findings: [] });
    expect(lossesOf("voc")?.exact).toBe(false);
    // Forty objects become nothing, and twenty images hold two classes and are left out.
    expect(lossesOf("class-folders")?.findings.map(({ code, count }) => [code, count])).toEqual([["loss-object", 60]]);
    const [first] = await db().select().from(versions).where(eq(versions.number, 1));
    await untilEnded((await startPackage(localActor, first?.id as number, { format: "class-folders" })).job);
    await expect(startPackage(localActor, first?.id as number, { format: "class-folders" })).rejects.toThrow(/already/);
    await expect(startPackage(localActor, first?.id as number, { format: "scrolls" })).rejects.toThrow(
      /cannot be written/,
    );
  });

  it("is refused in a sentence where a split would stay empty", async () => {
    const { version, ended } = await build(planSchema.parse({ select: { states: ["unlabeled"] } }), "Too few");
    expect(version.status).toBe("failed");
    expect(ended.message).toMatch(/val and test would hold no image: there are only 1/);
    expect(
      (
        await db().execute<{ n: number }>(
          sql`select count(*)::int as n from versions where number is not null and collection_id = ${collection}`,
        )
      ).rows[0]?.n,
    ).toBe(5);
  });

  it("keeps the bytes it needs when its delivery is undone", async () => {
    const [first] = await db().select().from(versions).where(eq(versions.number, 1));
    await undoWhole(delivery);
    const { rows } = await db().execute<{ sha256: string }>(
      sql`select sha256 from version_sources where version_id = ${first?.id}`,
    );
    expect(rows).toHaveLength(20);
    for (const { sha256 } of rows) expect(await blobs().has(sha256)).toBe(true);
  });
});
