/** From collection to collection: combined, copied, moved; described, put away; packed as they are; put into the bin. */
import { sql } from "drizzle-orm";
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { buffer } from "node:stream/consumers";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { columnTitle } from "@larder/core/ledger/column";
import { formatNamed } from "@larder/core/formats/registry";
import { Findings } from "@larder/core/model/finding";
import { db } from "../db/database";
import { numberOf } from "../db/query";
import { ZipTree } from "../files/zip-tree";
import { untilEnded } from "../jobs/wait";
import { settings } from "../settings";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  where,
  wholeStock,
  zipBytes,
} from "../tests/bakery";
import { act, history, undoAct } from "./acts";
import { localActor } from "./actor";
import { binPage } from "./bin";
import { classTable } from "./classes";
import { changeCollection, createCollection, line, shelves } from "./collections";
import { combineCollections } from "./combine-collections";
import { deliveryRow, takeInDelivery } from "./deliveries";
import { exportSelection } from "./export-selection";
import { receiveFrom } from "./intake/receive";
import { jobsOf } from "./jobs";
import { ledgerColumns } from "./ledger/columns";
import { matchingIds } from "./stock";
import { packageStream } from "./packages";
import { dismissFailed, versionsOf } from "./versions";

let stop: () => void;
let one: number;
let other: number;
beforeAll(async () => {
  stop = await startWorker();
  one = (await createCollection(localActor, { name: "East" })).id;
  other = (await createCollection(localActor, { name: "West" })).id;
  await deliverAndTakeIn(one, saveArchive("east.zip", await zipBytes(await cocoFiles(6))));
  await deliverAndTakeIn(
    other,
    saveArchive("west.zip", await zipBytes(await cocoFiles(4, (n) => picture(n + 300), 50))),
  );
  const some = (await matchingIds(localActor, one, wholeStock)).slice(0, 2);
  await act(localActor, one, { only: some, act: { do: "move", split: "val" } });
});
afterAll(() => stop());

const count = async (collection: number, text = "") => (await matchingIds(localActor, collection, where(text))).length;

async function takeIn(delivery: number): Promise<void> {
  for (;;) {
    const { status } = await deliveryRow(delivery);
    if (status === "read") break;
    if (status === "failed") throw new Error("could not be read");
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
  const { job } = await takeInDelivery(localActor, delivery);
  if (job) await untilEnded(job);
}

describe("collections", () => {
  it("are combined into a new one, with their splits, and stay as they are", async () => {
    const some = (await matchingIds(localActor, one, wholeStock)).slice(0, 2);
    const oven = { kind: "text", name: "oven", required: false, help: "" } as const;
    await db().execute(
      sql`update collections set image_attributes = ${JSON.stringify([oven])}::jsonb where id = ${one}`,
    );
    await act(localActor, one, { only: some, act: { do: "tag", tag: "kept" } });
    await act(localActor, one, { only: some.slice(0, 1), act: { do: "set-attribute", name: "oven", value: "east" } });
    const { id, deliveries } = await combineCollections(localActor, {
      sources: [one, other],
      into: { name: "Both" },
      splits: "keep",
    });
    for (const delivery of deliveries) await takeIn(delivery);
    // Tags and attributes of whole images come along, and the column that they stand in.
    expect([await count(id, "tag = kept"), await count(id, "oven = east")]).toEqual([2, 1]);
    expect((await ledgerColumns(localActor, id)).map(columnTitle)).toContain("oven");
    expect([await count(id), await count(one), await count(other)]).toEqual([10, 6, 4]);
    expect(await count(id, "split = val")).toBe(2);
    // The same names are the same classes.
    expect((await classTable(localActor, id)).map(({ name, images }) => [name, images])).toEqual(
      expect.arrayContaining([["roll", 10]]),
    );
    expect((await deliveryRow(deliveries[0] as number)).source).toBe("East");
  });
  it("are combined into one of them, without splits", async () => {
    const { id, deliveries } = await combineCollections(localActor, {
      sources: [one, other],
      into: { id: other },
      splits: "none",
    });
    expect([id, deliveries.length]).toEqual([other, 1]);
    await takeIn(deliveries[0] as number);
    expect([await count(other), await count(other, "split = val")]).toEqual([10, 0]);
    await expect(
      combineCollections(localActor, { sources: [one], into: { id: one }, splits: "keep" }),
    ).rejects.toMatchObject({ code: "same-collection" });
  });
  it("are described and put away, behind the others on the shelves", async () => {
    await changeCollection(localActor, one, { description: "Racks *east*", licence: "CC0", archived: true });
    const list = await shelves(localActor);
    expect(list.at(-1)).toMatchObject({ id: one, description: "Racks *east*", licence: "CC0", archived: true });
    await changeCollection(localActor, one, { archived: false });
    expect((await shelves(localActor))[0]).toMatchObject({ id: one, archived: false });
    await expect(changeCollection(localActor, one, {})).rejects.toThrow(/Nothing to change/);
  });
});

describe("images", () => {
  it("are moved: they leave their collection once the other has them, and come back", async () => {
    const target = (await createCollection(localActor, { name: "Target" })).id;
    const source = { kind: "collection" as const, collection: one, class: null, labels: true, move: true };
    const { id, job } = await receiveFrom(localActor, target, { ...source, selection: where("split = val") });
    await untilEnded(job);
    expect(await count(one)).toBe(6);
    await takeIn(id);
    expect([await count(target), await count(one)]).toEqual([2, 4]);
    const { entries } = await history(localActor, one, {});
    expect(entries[0]?.text).toBe("moved 2 images to another collection");
    const bin = await binPage(localActor, one, { limit: 1 });
    expect(bin.images[0]).toMatchObject({ objects: 2 });
    const rest = await binPage(localActor, one, { limit: 5, before: bin.next as string });
    expect(rest.images).toHaveLength(1);
    expect(rest.next).toBeNull();
    expect(rest.images[0]?.id).not.toBe(bin.images[0]?.id);
    await undoAct(localActor, entries[0]?.id as number);
    expect(await count(one)).toBe(6);
    expect((await binPage(localActor, one, { limit: 5 })).images).toEqual([]);
    await expect(binPage(localActor, one, { limit: 5, before: "yesterday, noon/1" })).rejects.toMatchObject({
      code: "input-invalid",
    });
  });
});

describe("a selection packed as it is", () => {
  it("holds what it means, is marked as no version, and can be removed", async () => {
    const before = await line(localActor, one);
    const { job } = await exportSelection(localActor, one, { where: "has loaf", format: "coco", name: "Loaves" });
    await untilEnded(job);
    const packing = (await jobsOf(localActor)).find(({ kind }) => kind === "pack");
    if (packing) await untilEnded(packing.id);
    const [row] = await versionsOf(localActor, one, { selections: true });
    expect(row).toMatchObject({
      name: "Loaves",
      number: null,
      status: "frozen",
      numbers: { images: await count(one, "has loaf") },
    });
    expect(row?.packages[0]).toMatchObject({ format: "coco", status: "ready" });
    expect(await versionsOf(localActor, one)).toEqual([]);
    expect(await line(localActor, one)).toEqual(before);
    const file = path.join(settings().home, "loaves.zip");
    await writeFile(file, await buffer(await packageStream(localActor, row?.packages[0]?.id as number)));
    const tree = await ZipTree.open(file, settings().limits, new Findings());
    const reading = await formatNamed("coco").read(tree, {}, new Findings());
    const read = [];
    for await (const item of reading.items) if (item.present) read.push(item);
    expect(read).toHaveLength(4);
    expect(read.filter(({ split }) => split === "val").length).toBeGreaterThan(0);
    expect(await tree.read("README.txt").then((bytes) => new TextDecoder().decode(bytes))).toContain(
      "it is no version",
    );
    tree.close();
    await dismissFailed(localActor, row?.id as number);
    expect(await versionsOf(localActor, one, { selections: true })).toEqual([]);
    expect(await numberOf(db(), sql`select count(*) as n from packages`)).toBe(0);
  });
  it("of nothing, or in no format, is refused", async () => {
    await expect(exportSelection(localActor, one, { where: "tag = none", format: "coco" })).rejects.toMatchObject({
      code: "nothing-to-build",
    });
    await expect(exportSelection(localActor, one, { format: "floppy" })).rejects.toMatchObject({
      code: "format-unknown",
    });
  });
});
