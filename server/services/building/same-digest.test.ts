/** The application and `larder build` come to the same version of the same images, names, labels and plan. */
import { planFromYaml } from "@larder/core/plans/plan-text";
import { eq } from "drizzle-orm";
import { execFileSync } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, expect, it } from "vitest";
import { blobs, sha256 } from "../../blobs/store";
import { db } from "../../db/database";
import { jobs, packages, versions } from "../../db/schema";
import { untilEnded } from "../../jobs/wait";
import { programFile } from "../../program-file";
import { settings } from "../../settings";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, zipBytes } from "../../tests/bakery";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { createPlan } from "../plans";
import { startBuild } from "../versions";

let stop: () => void;
beforeAll(async () => (stop = await startWorker()));
afterAll(() => stop());

const plans = {
  plain: "plan: 2\npack: { formats: [coco] }\n",
  rich: `plan: 2
seed: 9
select: { where: 'objects >= 2', floor: 3, cap: { images: 15, classes: [roll] } }
relabel: { rename: { tart: cake }, objects: 'width >= 11 or not width >= 11' }
split: { ratio: { train: 60, val: 20, test: 20 }, together: [{ name: '^(p\\d)' }], evenly: true }
visible: 40%
prepare: { crop: { left: 5% }, tiles: { columns: 2, rows: 1, overlap: 20% }, resize: { mode: pad, width: 48, height: 48 } }
augment:
  copies: 2
  rare: { share: 30%, most: 3 }
  do:
    - { op: rotate, degrees: [-30, 30] }
    - oneOf: [{ op: brightness, by: [-20%, 20%] }, { op: noise, sigma: [2, 8] }]
      chance: 60%
    - { op: mosaic, chance: 20% }
    - { op: erase, chance: 30% }
pack: { formats: [coco], images: { as: png }, names: '{hash}-{name}', classes: count }
`,
};

it.each(Object.entries(plans))("with a %s plan", async (name, yaml) => {
  const files = await cocoFiles(24);
  const collection = (await createCollection(localActor, { name: `Same ${name}` })).id;
  await deliverAndTakeIn(collection, saveArchive(`same-${name}.zip`, await zipBytes(files)));
  const plan = await createPlan(localActor, collection, { name: "P", body: planFromYaml(yaml) });
  const built = await startBuild(localActor, { planId: plan.id });
  expect(await untilEnded(built.job)).toMatchObject({ status: "done" });
  const [version] = await db().select().from(versions).where(eq(versions.id, built.id));

  // The same files in a folder, written in another order.
  const folder = path.join(settings().home, `same-${name}`);
  mkdirSync(path.join(folder, "source", "images"), { recursive: true });
  for (const [file, content] of Object.entries(files).reverse())
    writeFileSync(path.join(folder, "source", file), content);
  writeFileSync(path.join(folder, "plan.yaml"), yaml);
  const manifest = path.join(folder, "manifest");
  const words = [programFile("larder"), "build", path.join(folder, "source"), path.join(folder, "out.zip")];
  const out = execFileSync(
    process.execPath,
    [...words, "--plan", path.join(folder, "plan.yaml"), "--manifest", manifest, "--json"],
    { cwd: settings().root, encoding: "utf8" },
  );
  const said = JSON.parse(out) as { digest: string; packages: { images: number }[] };
  expect(said.digest).toBe(sha256(readFileSync(manifest)));
  const whole = Buffer.from(await blobs().read(version?.digest as string)).toString("utf8");
  expect(readFileSync(manifest, "utf8").split("\n").slice(0, 2)).toEqual(whole.split("\n").slice(0, 2));
  expect(said.digest).toBe(version?.digest);
  expect(said.packages[0]?.images).toBe(version?.numbers?.images);
  for (const { id } of await db().select({ id: jobs.id }).from(jobs).where(eq(jobs.kind, "pack"))) await untilEnded(id);
  const [pack] = await db().select().from(packages).where(eq(packages.versionId, built.id));
  expect(pack).toMatchObject({ format: "coco", status: "ready" });
});
