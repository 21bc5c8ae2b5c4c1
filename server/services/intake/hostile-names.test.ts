/** Classes, fields and files with names that are anything: they come in, are built and go out with every label. */
import { planSchema } from "@larder/core/plans/plan";
import { eq } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../../db/database";
import { deliveries, packages, versions } from "../../db/schema";
import { untilEnded } from "../../jobs/wait";
import { deliver, deliverAndTakeIn, picture, saveArchive, startWorker, zipBytes } from "../../tests/bakery";
import { localActor } from "../actor";
import { classTable } from "../classes";
import { createCollection } from "../collections";
import { changeDelivery, takeInDelivery } from "../deliveries";
import { createPlan } from "../plans";
import { startBuild } from "../versions";

let stop: () => void;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

const ofObjects = ["constructor", "__proto__", "toString", "hasOwnProperty", "valueOf"];
const long = "x".repeat(5000);
const odd = ["rye\u0000bread", "half \ud83c", "\\u0000", "a\nb", `${long}1`, `${long}2`];

/** A COCO archive of one picture a class, one box on each. */
async function archiveOf(names: readonly string[]) {
  const files: Record<string, string | Uint8Array> = {
    "a.json": JSON.stringify({
      images: names.map((_, id) => ({ id, file_name: `p${id}.jpg`, width: 64, height: 48 })),
      annotations: names.map((_, id) => ({ id, image_id: id, category_id: id + 1, bbox: [2, 3, 20, 12] })),
      categories: names.map((name, id) => ({ id: id + 1, name })),
    }),
  };
  for (let n = 0; n < names.length; n++) files[`p${n}.jpg`] = await picture(n + 9100);
  return saveArchive("names.zip", await zipBytes(files));
}

describe("class names", () => {
  it("that every object has as properties keep their labels through stock, decisions, plan, version and package", async () => {
    const { id } = await createCollection(localActor, { name: "Properties" });
    const delivery = await deliver(id, await archiveOf(ofObjects));
    await changeDelivery(localActor, delivery.id, { choices: { classes: { valueOf: { to: "toString" } } } });
    await untilEnded((await takeInDelivery(localActor, delivery.id)).job as string);
    expect((await classTable(localActor, id)).map(({ name, objects }) => [name, objects])).toEqual([
      ["constructor", 1],
      ["__proto__", 1],
      ["toString", 2],
      ["hasOwnProperty", 1],
    ]);
    const body = planSchema.parse({
      relabel: { rename: { constructor: "hasOwnProperty" } },
      split: { ratio: { train: 100, val: 0, test: 0 } },
      pack: { formats: ["coco", "yolo"] },
    });
    const plan = await createPlan(localActor, id, { name: "P", body });
    const build = await startBuild(localActor, { planId: plan.id });
    await untilEnded(build.job);
    const [version] = await db().select().from(versions).where(eq(versions.id, build.id));
    expect(version?.status).toBe("frozen");
    expect(new Map(Object.entries(version?.numbers?.byClass ?? {}))).toEqual(
      new Map([
        ["hasOwnProperty", 2],
        ["__proto__", 1],
        ["toString", 2],
      ]),
    );
    for (const pack of await db().select().from(packages).where(eq(packages.versionId, build.id)))
      expect([pack.format, pack.failure]).toEqual([pack.format, null]);
  });

  it("with signs that cannot be kept, or of thousands, come in in another form, and the sheet says so", async () => {
    const { id } = await createCollection(localActor, { name: "Odd" });
    const delivery = await deliverAndTakeIn(id, await archiveOf(odd));
    expect(delivery).toMatchObject({ status: "taken", taken: { images: 6, objects: 6 } });
    const [row] = await db().select().from(deliveries).where(eq(deliveries.id, delivery.id));
    expect(row?.findings?.find(({ code }) => code === "class-renamed")?.count).toBe(5);
    const names = (await classTable(localActor, id)).map(({ name }) => name);
    expect(names).toEqual(["rye bread", "half \ufffd", "\\u0000", "a b", expect.any(String), expect.any(String)]);
    expect(names.slice(4).map((name) => [...name].length)).toEqual([200, 200]);
    expect(names[4]).not.toBe(names[5]);
  });
});
