/** Sweeping, in the middle of everything: nothing that is needed goes, nothing that is not stays. */
import { planSchema } from "@larder/core/plans/plan";
import { eq, sql } from "drizzle-orm";
import { createHash } from "node:crypto";
import { readdirSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { blobs, sha256 } from "../blobs/store";
import { db, transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { jobs, versionSources } from "../db/schema";
import { untilEnded } from "../jobs/wait";
import { settings } from "../settings";
import {
  cocoFiles,
  deliver,
  deliverAndTakeIn,
  noisyPicture,
  picture,
  saveArchive,
  startWorker,
  undoWhole,
  zipBytes,
} from "../tests/bakery";
import { act, undoLast } from "./acts";
import { localActor } from "./actor";
import { emptyBin } from "./bin";
import { removeUnusedBlobs } from "./blob-sweep";
import { createCollection, deleteCollection } from "./collections";
import { takeInDelivery } from "./deliveries";
import { beginUpload, noteKnownFiles } from "./intake/receive";
import { createPlan } from "./plans";
import { startBuild, versionsOf } from "./versions";
import { nameCandidates } from "./name-candidates";

let stop: () => void;
beforeAll(async () => {
  stop = await startWorker();
});
afterAll(() => stop());

const collection = async (name: string) => (await createCollection(localActor, { name })).id;

/** Names of the files of one kind in the store. */
function stored(kind: "blobs" | "renders"): string[] {
  try {
    return readdirSync(path.join(settings().home, "store", kind), { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map(({ name }) => name)
      .sort();
  } catch {
    return [];
  }
}

const nameSchema = z.object({ name: z.string() });
/** What the rows say has to be there. */
async function needed(kind: "blobs" | "renders"): Promise<string[]> {
  const query =
    kind === "renders"
      ? sql`select distinct key as name from version_renders`
      : sql`select sha256 as name from images union select sha256 from version_sources union select digest from versions where digest is not null
          union select sha256 from packages where sha256 is not null union select sha256 from delivery_items where sha256 is not null union select sha256 from delivery_files`;
  return (await rowsOf(db(), nameSchema, query)).map(({ name }) => name).sort();
}

/** Every blob and rendering could go, as far as whoever names candidates knows. */
async function nameEverything(): Promise<void> {
  for (const [kind, names] of [
    ["blob", stored("blobs")],
    ["render", stored("renders")],
  ] as const)
    await nameCandidates(db(), sql`select ${kind}::text, unnest(${sql.param(names)}::text[])`);
}

async function untilQuiet(): Promise<void> {
  for (;;) {
    const open = await db().$count(jobs, sql`${jobs.status} in ('queued', 'running')`);
    if (open === 0) return;
    await sleep(30);
  }
}

/** A build has read the stock once its version's sources are written down. */
async function untilItHasSources(version: number): Promise<void> {
  for (;;) {
    if ((await db().$count(versionSources, eq(versionSources.versionId, version))) > 0) return;
    await sleep(5);
  }
}

const buildOf = async (id: number, size: number, formats: string[] = []) => {
  const body = planSchema.parse({
    prepare: { resize: { mode: "stretch", width: size, height: size, larger: true } },
    augment: { copies: 1, do: [{ op: "flip-sideways", chance: 1 }] },
    pack: { formats },
  });
  const plan = await createPlan(localActor, id, { name: `P${size} ${Date.now()}`, body });
  return startBuild(localActor, { planId: plan.id });
};

describe("a sweep", () => {
  it("is told of the same bytes by two at once, in whatever order they come to them", async () => {
    const names = Array.from({ length: 400 }, (_, n) => createHash("sha256").update(`two ${n}`).digest("hex"));
    const orders = [names, [...names].reverse()];
    for (let round = 0; round < 5; round++) {
      await Promise.all(
        orders.map((order) =>
          transaction((tx) => nameCandidates(tx, sql`select 'blob', unnest(${sql.param(order)}::text[])`)),
        ),
      );
      const { rowCount } = await db().execute(
        sql`delete from blob_candidates where sha256 = any(${sql.param(names)}::text[])`,
      );
      expect(rowCount).toBe(400);
    }
  });
  it("in the middle of intakes, builds, packing, undoing and deleting removes nothing that is needed, and in the end all that is not", async () => {
    let sweeping = true;
    const sweeps = (async () => {
      let rounds = 0;
      while (sweeping) {
        await nameEverything();
        await removeUnusedBlobs();
        rounds++;
        await sleep(3);
      }
      return rounds;
    })();
    const [a, b, c] = [await collection("Swept a"), await collection("Swept b"), await collection("Swept c")];
    const bytes = await zipBytes(await cocoFiles(24, (n) => noisyPicture(n + 1000, 320, 240)));
    const first = await deliverAndTakeIn(a, saveArchive("a.zip", bytes));
    // The same pictures into another collection while the first is built from and then undone.
    const [second, build] = await Promise.all([
      deliver(b, saveArchive("b.zip", bytes)),
      buildOf(a, 64, ["coco", "yolo"]),
    ]);
    const { job } = await takeInDelivery(localActor, second.id);
    await untilItHasSources(build.id);
    await undoWhole(first.id);
    await Promise.all([untilEnded(build.job), untilEnded(job as string)]);
    await deliverAndTakeIn(
      c,
      saveArchive("c.zip", await zipBytes(await cocoFiles(8, (n) => noisyPicture(n + 2000, 320, 240)))),
    );
    const other = await buildOf(c, 48);
    await untilEnded(other.job);
    await deleteCollection(localActor, c, { typedName: "Swept c" });
    await act(localActor, b, { act: { do: "remove" } });
    await undoLast(localActor, b, { deliveries: true });
    await untilEnded((await emptyBin(localActor, a)).job);
    await untilQuiet();
    sweeping = false;
    expect(await sweeps).toBeGreaterThan(5);
    for (const version of await versionsOf(localActor, a)) {
      expect(version.status).toBe("frozen");
      expect(version.packages.map(({ status }) => status)).toEqual(["ready", "ready"]);
    }
    await nameEverything();
    await removeUnusedBlobs();
    for (const kind of ["blobs", "renders"] as const) expect([kind, stored(kind)]).toEqual([kind, await needed(kind)]);
    expect(stored("renders").length).toBeGreaterThan(24);
  });
  it("keeps bytes that need not be sent, also when the delivery that brought them is gone for good", async () => {
    const id = await collection("Announced");
    const bytes = await picture(424_242);
    const hash = sha256(bytes);
    const first = await deliverAndTakeIn(id, saveArchive("first.zip", await zipBytes({ "roll/a.jpg": bytes })));
    const { id: upload } = await beginUpload(localActor, id, { source: "second.zip" });
    expect(await noteKnownFiles(localActor, upload, { files: [{ path: "tart/a.jpg", sha256: hash }] })).toEqual({
      known: ["tart/a.jpg"],
    });
    await undoWhole(first.id);
    await untilEnded((await emptyBin(localActor, id)).job);
    await removeUnusedBlobs();
    expect(await blobs().has(hash)).toBe(true);
  });
  it("removes the renderings of a version that did not come to its end", async () => {
    const id = await collection("Half a version");
    await deliverAndTakeIn(
      id,
      saveArchive("half.zip", await zipBytes(await cocoFiles(6, (n) => noisyPicture(n + 3000, 200, 150)))),
    );
    const before = stored("renders").length;
    const { id: version, job } = await buildOf(id, 40);
    await untilEnded(job);
    expect(stored("renders").length).toBeGreaterThan(before + 5);
    await db().execute(sql`update versions set status = 'failed' where id = ${version}`);
    const { dismissFailed } = await import("./versions");
    await dismissFailed(localActor, version);
    await untilQuiet();
    await removeUnusedBlobs();
    expect(stored("renders").length).toBe(before);
  });
});
