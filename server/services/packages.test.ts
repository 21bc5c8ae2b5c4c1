/** Packages and versions after the build: fetched by lines and links, deleted, renderings dropped, scores kept. */
import { planSchema } from "@larder/core/plans/plan";
import { eq, sql } from "drizzle-orm";
import { execFileSync } from "node:child_process";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { fetchLines } from "@larder/core/versions/fetch-lines";
import { manifestLines } from "../blobs/manifest-lines";
import { blobs, sha256 } from "../blobs/store";
import { db } from "../db/database";
import { packageLinks, packages, versionRenders, versions } from "../db/schema";
import { untilEnded } from "../jobs/wait";
import { settings } from "../settings";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, wholeStock, zipBytes } from "../tests/bakery";
import { packageAnswer } from "../../web/edge/package-answer";
import { act } from "./acts";
import type { Actor } from "./actor";
import { localActor } from "./actor";
import { createCollection } from "./collections";
import { jobsOf } from "./jobs";
import { endLink, holderOfLink, linksOf, makeLink } from "./package-links";
import { deletePackage, readyPackage, startPackage } from "./packages";
import { createPlan } from "./plans";
import {
  dropVersionRenderings,
  manifestOf,
  newestRenderings,
  restoreVersionRenderings,
  versionDetail,
} from "./version-page";
import { addScores, removeScores, scoresOf } from "./version-scores";
import { startBuild, startRawVersion, versionsOf } from "./versions";

let stop: () => void;
let collection: number;
let version: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Sent out" })).id;
  await deliverAndTakeIn(collection, saveArchive("sent.zip", await zipBytes(await cocoFiles(12))));
  const body = planSchema.parse({
    split: { ratio: { train: 50, val: 25, test: 25 } },
    prepare: { resize: { mode: "fit", width: 60, height: 60 } },
    pack: { formats: ["coco"] },
  });
  const plan = await createPlan(localActor, collection, { name: "Small", body });
  const { id, job } = await startBuild(localActor, { planId: plan.id });
  await untilEnded(job);
  await packed();
  version = id;
});
afterAll(() => stop());

async function packed(): Promise<void> {
  for (const { id, kind, status } of await jobsOf(localActor))
    if (kind === "pack" && status !== "done") await untilEnded(id);
}

const packageOf = async (format: string) => {
  const row = (await versionsOf(localActor, collection)).find(({ id }) => id === version);
  const pack = row?.packages.find((candidate) => candidate.format === format);
  if (!pack) throw new Error(`no package as ${format}`);
  return pack;
};

describe("a package", () => {
  it("says who had it packed, is deleted, and comes back with the same bytes", async () => {
    const first = await packageOf("coco");
    expect(first).toMatchObject({ createdBy: "local", status: "ready" });
    await deletePackage(localActor, first.id);
    expect(await blobs().has(first.sha256 as string)).toBe(false);
    await expect(readyPackage(localActor, first.id)).rejects.toThrow(/no package/);
    await untilEnded((await startPackage(localActor, version, { format: "coco" })).job);
    expect((await packageOf("coco")).sha256).toBe(first.sha256);
  });
  it("is written with the options asked for", async () => {
    await untilEnded((await startPackage(localActor, version, { format: "yolo", options: { images: "none" } })).job);
    const pack = await packageOf("yolo");
    expect(pack.options).toEqual({ images: "none" });
    await expect(startPackage(localActor, version, { format: "voc", options: { images: "some" } })).rejects.toThrow(
      /images/,
    );
  });
});

describe("a link", () => {
  const stranger: Actor = { id: "stranger", name: "A stranger", roles: new Map() };

  it("lets whoever has it fetch one package, until it ends", async () => {
    const pack = await packageOf("coco");
    const link = await makeLink(localActor, pack.id, { hours: 1 });
    const [, , , token = "", file] = link.path.split("/");
    expect(file).toBe(pack.fileName);
    const { holder, package: held } = await holderOfLink(stranger, token);
    expect(held).toBe(pack.id);
    const answer = await packageAnswer(new Request("http://larder.test/"), holder, held);
    expect(sha256(new Uint8Array(await answer.arrayBuffer()))).toBe(pack.sha256);
    // What stands in the address is nowhere in the database.
    const [row] = await db().select().from(packageLinks).where(eq(packageLinks.id, link.id));
    expect(JSON.stringify(row)).not.toContain(token);
    await db()
      .update(packageLinks)
      .set({ endsAt: new Date(Date.now() - 1000) })
      .where(eq(packageLinks.id, link.id));
    await expect(holderOfLink(stranger, token)).rejects.toMatchObject({ code: "link-ended", status: 410 });
    expect((await linksOf(localActor, pack.id)).map(({ ended }) => ended)).toEqual([true]);
    await endLink(localActor, pack.id, link.id);
    await expect(holderOfLink(stranger, token)).rejects.toMatchObject({ code: "link-missing", status: 404 });
  });
});

describe("the lines that fetch a package", () => {
  let server: Server;
  let address: string;
  beforeAll(async () => {
    const pack = await packageOf("coco");
    server = createServer((request, response) => {
      void packageAnswer(
        new Request("http://larder.test/", { headers: request.headers as Record<string, string> }),
        localActor,
        pack.id,
      ).then(async (answer) => {
        response.writeHead(answer.status, Object.fromEntries(answer.headers));
        response.end(Buffer.from(await answer.arrayBuffer()));
      });
    });
    await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
    address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/packages/1/x.zip`;
  });
  afterAll(() => new Promise((ended) => server.close(ended)));

  it.each(["shell", "python", "notebook"] as const)("in %s really fetch, check and unpack it", async (kind) => {
    const pack = await packageOf("coco");
    const folder = `fetched-${kind}`;
    const lines = fetchLines({ address, fileName: "x.zip", folder, sha256: pack.sha256 as string });
    const { execFile } = await import("node:child_process");
    const { promisify } = await import("node:util");
    const run = promisify(execFile);
    const cwd = settings().home;
    const text = lines[kind];
    // A notebook's cell is Python; a line that begins with ! goes to the shell.
    if (kind === "shell") await run("bash", ["-ec", text], { cwd });
    else await run("python3", ["-c", text], { cwd });
    expect(execFileSync("python3", [path.join(cwd, folder, "check.py")], { encoding: "utf8" })).toMatch(/12 of 12/);
    if (kind !== "python") return;
    const broken = fetchLines({ address, fileName: "x.zip", folder: "broken", sha256: "0".repeat(64) });
    await expect(run("python3", ["-c", broken.python], { cwd })).rejects.toThrow(/SHA-256/);
  });
});

describe("renderings", () => {
  it("are shown as they come, with what they take; dropped, and made again with the same bytes", async () => {
    const { disk, card } = await versionDetail(localActor, version);
    expect(disk.renderings).toMatchObject({ files: 12, shared: 0 });
    expect(disk.renderings.bytes).toBeGreaterThan(1000);
    expect(disk.originals.files).toBe(12);
    expect(disk.originals.bytes).toBeGreaterThan(1000);
    expect(card.images).toBe(12);
    expect(Object.values(card.pictures).flat()[0]).toMatch(/^data:image\/jpeg;base64,/);
    expect(await newestRenderings(localActor, version, 5)).toHaveLength(5);
    const keys = (await db().select().from(versionRenders).where(eq(versionRenders.versionId, version))).map(
      ({ key }) => key,
    );
    const before = await Promise.all(keys.map(async (key) => sha256(await blobs().readDerived("renders", key))));
    await dropVersionRenderings(localActor, version);
    expect(await blobs().derivedSize("renders", keys[0] as string)).toBeNull();
    expect((await versionDetail(localActor, version)).disk).toMatchObject({ dropped: true, renderings: { files: 0 } });
    await untilEnded((await restoreVersionRenderings(localActor, version)).job);
    const after = await Promise.all(keys.map(async (key) => sha256(await blobs().readDerived("renders", key))));
    expect(after).toEqual(before);
    expect((await versionDetail(localActor, version)).disk).toMatchObject({
      dropped: false,
      renderings: { files: 12 },
    });
    await expect(restoreVersionRenderings(localActor, version)).rejects.toThrow(/there/);
  });
  it("that were dropped are made when a package needs them, and those of another version stay", async () => {
    const pack = await packageOf("coco");
    await dropVersionRenderings(localActor, version);
    await deletePackage(localActor, pack.id);
    await untilEnded((await startPackage(localActor, version, { format: "coco" })).job);
    expect((await packageOf("coco")).sha256).toBe(pack.sha256);
    const [row] = await db().select().from(versions).where(eq(versions.id, version));
    expect(row?.rendersDroppedAt).toBeNull();
    const { plan } = row as typeof versions.$inferSelect;
    const again = await createPlan(localActor, collection, { name: "Twin", body: plan });
    await untilEnded((await startBuild(localActor, { planId: again.id })).job);
    await packed();
    await dropVersionRenderings(localActor, version);
    const [kept] = await db().select().from(versionRenders).limit(1);
    expect(await blobs().derivedSize("renders", kept?.key as string)).toBeGreaterThan(0);
  });
});

describe("a manifest", () => {
  it("is saved as it was frozen: its hash is the digest", async () => {
    const { stream, fileName } = await manifestOf(localActor, version);
    expect(fileName).toBe("v1.manifest.jsonl");
    const bytes = Buffer.concat((await stream.toArray()) as Buffer[]);
    const [row] = await db().select().from(versions).where(eq(versions.id, version));
    expect(sha256(bytes)).toBe(row?.digest);
  });
});

describe("the stock as it stands", () => {
  it("is a version in one step: every image byte for byte, in its split", async () => {
    await act(localActor, collection, { ...wholeStock, act: { do: "move", split: "val" } });
    const { id, job } = await startRawVersion(localActor, collection, {});
    await untilEnded(job);
    await packed();
    const [row] = await db().select().from(versions).where(eq(versions.id, id));
    expect(row).toMatchObject({ name: "The stock as it stands", status: "frozen", planId: null });
    expect(row?.numbers?.bySplit).toEqual({ val: { images: 12, objects: row?.numbers?.objects } });
    for await (const line of manifestLines(await blobs().stream(row?.digest as string))) expect(line.made).toBe(false);
    const made = await db()
      .select()
      .from(packages)
      .where(sql`${packages.versionId} = ${id}`);
    expect(made.map(({ format, status }) => [format, status])).toEqual([["yolo", "ready"]]);
  });
});

describe("scores", () => {
  it("are typed or read from a file, stand with their version, and can be taken away", async () => {
    const typed = await addScores(localActor, version, {
      model: "small",
      scores: { overall: { mAP: 0.4 }, byClass: { roll: { mAP: 0.5 } } },
    });
    await addScores(localActor, version, { model: "large", text: "class,precision,recall\nall,0.7,0.6\nroll,0.9,0.8" });
    const rows = await scoresOf(localActor, collection);
    expect(rows.map(({ number, model, scores }) => [number, model, scores.overall])).toEqual([
      [1, "small", { mAP: 0.4 }],
      [1, "large", { precision: 0.7, recall: 0.6 }],
    ]);
    await expect(addScores(localActor, version, { model: "none", text: "loss\n0.3" })).rejects.toThrow(/No measure/);
    await removeScores(localActor, version, typed.id);
    expect((await scoresOf(localActor, collection)).map(({ model }) => model)).toEqual(["large"]);
  });
});
