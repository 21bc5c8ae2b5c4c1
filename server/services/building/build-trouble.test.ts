/** Builds that cannot be finished: a source that is gone, a disk that is full. Nothing is frozen, nothing half-written. */
import { planSchema } from "@larder/core/plans/plan";
import { eq } from "drizzle-orm";
import { readFile, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { packages, versionRenders, versions } from "../../db/schema";
import { untilEnded } from "../../jobs/wait";
import { settings } from "../../settings";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, zipBytes } from "../../tests/bakery";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { createPlan } from "../plans";
import { dismissFailed, startBuild, startRawVersion } from "../versions";
import { manifestLines } from "../../blobs/manifest-lines";

let stop: () => void;
let collection: number;
let plan: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Trouble" })).id;
  await deliverAndTakeIn(collection, saveArchive("trouble.zip", await zipBytes(await cocoFiles(8))));
  const body = planSchema.parse({
    split: { ratio: { train: 1, val: 0, test: 0 } },
    prepare: { resize: { mode: "fit", width: 40, height: 40 } },
  });
  plan = (await createPlan(localActor, collection, { name: "Small", body })).id;
});
afterAll(() => stop());
afterEach(() => vi.restoreAllMocks());

async function failedBuild() {
  const { id, job } = await startBuild(localActor, { planId: plan });
  const ended = await untilEnded(job);
  const [version] = await db().select().from(versions).where(eq(versions.id, id));
  expect(ended.status).toBe("failed");
  expect(version).toMatchObject({ status: "failed", number: null, digest: null });
  expect(await db().select().from(packages).where(eq(packages.versionId, id))).toEqual([]);
  // Once it is dismissed nothing of it is left, not even the pictures that had come out.
  const keys = await db().select().from(versionRenders).where(eq(versionRenders.versionId, id));
  await dismissFailed(localActor, id);
  for (const { key } of keys) {
    const others = await db().select().from(versionRenders).where(eq(versionRenders.key, key));
    if (others.length === 0) expect(await blobs().derivedSize("renders", key)).toBeNull();
  }
  return version?.failure ?? "";
}

describe("a build", () => {
  it("whose source is gone in the middle fails in a sentence, and is built once it is back", async () => {
    const raw = await startRawVersion(localActor, collection, {});
    await untilEnded(raw.job);
    const [frozen] = await db().select().from(versions).where(eq(versions.id, raw.id));
    let source = "";
    for await (const line of manifestLines(await blobs().stream(frozen?.digest as string))) source = line.source;
    const file = path.join(settings().home, "store", "blobs", source.slice(0, 2), source);
    const bytes = await readFile(file);
    await rm(file);
    expect(await failedBuild()).toMatch(/^[A-Z].*\.$/s);
    await writeFile(file, bytes);
    const { id, job } = await startBuild(localActor, { planId: plan });
    expect(await untilEnded(job)).toMatchObject({ status: "done" });
    const [version] = await db().select().from(versions).where(eq(versions.id, id));
    // The number that the failed build did not take is the next.
    expect(version).toMatchObject({ status: "frozen", number: 2 });
  });
  it("on a full disk fails in a sentence, whatever it was writing", async () => {
    const full = Object.assign(new Error("ENOSPC: no space left on device, write"), { code: "ENOSPC" });
    vi.spyOn(blobs(), "derivedSize").mockResolvedValue(null);
    vi.spyOn(blobs(), "putDerived").mockRejectedValue(full);
    const { id, job } = await startBuild(localActor, { planId: plan });
    expect(await untilEnded(job)).toMatchObject({ status: "failed" });
    const [version] = await db().select().from(versions).where(eq(versions.id, id));
    expect(version?.failure).toMatch(/disk|space|room/i);
    expect(version?.number).toBeNull();
    vi.restoreAllMocks();
    vi.spyOn(blobs(), "put").mockRejectedValue(full);
    expect(await failedBuild()).toMatch(/disk|space|room/i);
  });
});
