/** The snapshot against the database: whole, brought up to date, and asked from another thread. */
import { facetsOf } from "@larder/core/snapshot/facets";
import { matchingIds } from "@larder/core/snapshot/matching";
import { lightStockOf } from "@larder/core/snapshot/light-stock-of";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { labelStates, splitNames } from "@larder/core/model/item";
import { noFacts } from "@larder/core/intake/facts";
import type { LabelRequest } from "@larder/core/labels/request";
import type { KnownAttributes } from "@larder/core/selection/bind";
import type { Selection } from "@larder/core/selection/chosen";
import { selecting, withChosen, type Dimension } from "@larder/core/selection/dimensions";
import { parseSelection } from "@larder/core/selection/parse";
import { printSelection } from "@larder/core/selection/print";
import { sql } from "drizzle-orm";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { db, steadyRead } from "../db/database";
import { rowsOf } from "../db/query";
import { act, undoAct } from "../services/acts";
import { localActor } from "../services/actor";
import { classTable } from "../services/classes";
import { createCollection } from "../services/collections";
import { changeDelivery, deliveryRow } from "../services/deliveries";
import { selectionSql } from "../services/stock/selection-sql";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  undoWhole,
  where,
  wholeStock,
  zipBytes,
} from "../tests/bakery";
import { ask } from "./ask";
import { buildSnapshot, catchUp } from "./load";

let stop: () => void;
let collection: number;
let deliveries: number[];
let deliveryNames: string[];
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Columns" })).id;
  const zips = [
    await cocoFiles(14),
    await cocoFiles(9, (n) => picture(n + 100), 100),
    { "rye/a.jpg": await picture(900), "rye/b.jpg": await picture(901), "unlabeled/c.jpg": await picture(902) },
  ];
  deliveries = [];
  for (const [n, files] of zips.entries())
    deliveries.push((await deliverAndTakeIn(collection, saveArchive(`columns${n}.zip`, await zipBytes(files)))).id);
  deliveryNames = await Promise.all(deliveries.map(async (id) => (await deliveryRow(id)).name));
  await changeDelivery(localActor, deliveries[1] as number, {
    facts: {
      ...noFacts,
      source: "Harbour",
      licence: "CC0",
      camera: "west",
      takenFrom: "2026-11-03",
      latitude: 48.5,
      longitude: 9.25,
    },
  });
  const ids = await rowsOf(db(), idSchema, sql`select id from images where collection_id = ${collection} order by id`);
  const some = (from: number, to: number) =>
    where(
      "",
      ids.slice(from, to).map(({ id }) => id),
    );
  await act(localActor, collection, { ...some(0, 9), act: { do: "move", split: "train" } });
  await act(localActor, collection, { ...some(6, 12), act: { do: "move", split: "val" } });
  await act(localActor, collection, { ...some(3, 15), act: { do: "tag", tag: "night" } });
  await act(localActor, collection, { ...some(10, 20), act: { do: "tag", tag: "blurred, a bit" } });
  await act(localActor, collection, { ...some(22, 24), act: { do: "mark-empty" } });
  await act(localActor, collection, { ...some(24, 25), act: { do: "remove" } });
});
afterAll(() => stop());

const idSchema = z.object({ id: z.coerce.number() });
const build = () => steadyRead((_, client) => buildSnapshot(client, collection));

/** Some bars of some histograms, among them some that nothing has. */
const filters: fc.Arbitrary<Selection> = fc
  .record({
    class: fc.subarray(["roll", "loaf", "tart", "rye", "nothing"]),
    split: fc.subarray([...splitNames, "none"]),
    state: fc.subarray([...labelStates]),
    delivery: fc.subarray([0, 1, 2]),
    tag: fc.subarray(["", "night", "blurred, a bit", "none such"]),
    objects: fc.subarray(["0", "1", "2", "15"]),
    source: fc.subarray(["", "Harbour"]),
    licence: fc.subarray(["", "CC0"]),
    camera: fc.subarray(["west", "x"]),
    place: fc.subarray(["", "48.50 9.25"]),
    taken: fc.subarray(["", "2026-11-03"]),
  })
  .chain((all) =>
    // Mostly few kinds at once, so that something is left that matches.
    fc.subarray(Object.keys(all), { maxLength: 3 }).map((kept) => {
      const chosen = { ...all, delivery: all.delivery.map((n) => deliveryNames[n] as string) };
      return where(selecting(Object.fromEntries(Object.entries(chosen).filter(([key]) => kept.includes(key)))));
    }),
  );

const none = { image: [], object: [] };

const bySql = async (selection: Selection, known: KnownAttributes = none) =>
  (
    await rowsOf(
      db(),
      idSchema,
      sql`select i.id from images i where ${selectionSql(collection, selection, known)} order by i.id`,
    )
  ).map(({ id }) => id);

/** A light stock row by row, labels by name. */
function lightRows(snapshot: Snapshot) {
  const stock = lightStockOf(snapshot);
  return stock.keys.map((key, n) => {
    const labels: [string, number, number][] = [];
    for (let at = stock.starts.at(n); at < stock.starts.at(n + 1); at++)
      labels.push([stock.names[stock.classOf.at(at)] ?? "", stock.objectCounts.at(at), stock.imageLevel.at(at)]);
    return [key, stock.deliveries[n], stock.splits[n], stock.states[n], labels.sort()];
  });
}

describe("a snapshot", () => {
  it("selects what the database selects, whatever the filter", async () => {
    const snapshot = await build();
    let matching = 0;
    await fc.assert(
      fc.asyncProperty(filters, async (filter) => {
        const ids = matchingIds(snapshot, filter, 0, 1000);
        matching += ids.length;
        expect(ids).toEqual(await bySql(filter));
      }),
      { numRuns: 150 },
    );
    expect(matching).toBeGreaterThan(200);
  });
  it("counts in each histogram what matches all filters but its own", async () => {
    const snapshot = await build();
    await fc.assert(
      fc.asyncProperty(filters, async (filter) => {
        const facets = facetsOf(snapshot, filter);
        expect(facets.matching).toBe((await bySql(filter)).length);
        const only = async (dimension: Dimension, key: string) =>
          (await bySql(where(printSelection(withChosen(parseSelection(filter.where), dimension, [key]))))).length;
        for (const split of [...splitNames, "none"] as const)
          expect(facets.split[split]).toBe(await only("split", split));
        for (const { name, count } of facets.class) expect([name, count]).toEqual([name, await only("class", name)]);
        for (const { key, count } of facets.tag) expect([key, count]).toEqual([key, await only("tag", key)]);
        for (const { key, count } of facets.place) expect([key, count]).toEqual([key, await only("place", key)]);
        expect(facets.objects[2]).toBe(await only("objects", "2"));
      }),
      { numRuns: 25 },
    );
  });
  it("that is brought up to date says what one built anew says, whatever was done", async () => {
    const requests: LabelRequest[] = [
      { do: "move", split: "test" },
      { do: "tag", tag: "again" },
      { do: "untag", tag: "night" },
      { do: "mark-empty" },
      { do: "remove" },
      { do: "restore" },
    ];
    const kept = await build();
    const done: number[] = [];
    await fc.assert(
      fc.asyncProperty(filters, fc.nat(requests.length), async (selection, which) => {
        const request = requests[which];
        if (request) done.push((await act(localActor, collection, { ...selection, act: request })).act);
        else if (done.length > 0) await undoAct(localActor, done.pop() as number).catch(() => undefined);
        expect(await steadyRead((_, client) => catchUp(client, collection, kept))).toBe(true);
        const anew = await build();
        expect(facetsOf(kept, wholeStock)).toEqual(facetsOf(anew, wholeStock));
        expect(lightRows(kept)).toEqual(lightRows(anew));
        expect(objectsOf(kept)).toEqual(objectsOf(anew));
      }),
      { numRuns: 40 },
    );
  });
  it("learns of a delivery that comes and of one that goes", async () => {
    const kept = await build();
    const late = await deliverAndTakeIn(
      collection,
      saveArchive("late.zip", await zipBytes(await cocoFiles(5, (n) => picture(n + 4000), 400))),
    );
    await steadyRead((_, client) => catchUp(client, collection, kept));
    expect(lightRows(kept)).toEqual(lightRows(await build()));
    await undoWhole(late.id);
    await steadyRead((_, client) => catchUp(client, collection, kept));
    expect(lightRows(kept)).toEqual(lightRows(await build()));
    expect(kept.deliveries.filter(({ listed }) => listed).map(({ id }) => id)).not.toContain(late.id);
  });
});

/** By image: its objects, as they lie in the columns. */
function objectsOf(snapshot: Snapshot): [number, string[]][] {
  return Array.from({ length: snapshot.length }, (_, slot) => {
    const first = snapshot.firstObject.at(slot);
    const objects = Array.from({ length: snapshot.objectCount.at(slot) }, (__, n) => {
      const at = first + n;
      const name = snapshot.classIds[snapshot.objectClass.at(at)];
      return [
        name,
        snapshot.x.at(at),
        snapshot.y.at(at),
        snapshot.boxWidth.at(at),
        snapshot.boxHeight.at(at),
        snapshot.area.at(at),
      ].join(" ");
    });
    return [snapshot.ids.at(slot), objects.sort()];
  });
}

describe("asking the thread that keeps snapshots", () => {
  it("answers as things stand, right after each change", async () => {
    const { id } = await createCollection(localActor, { name: "Asked" });
    expect((await ask("facets", id, wholeStock)).total).toBe(0);
    await deliverAndTakeIn(id, saveArchive("asked.zip", await zipBytes(await cocoFiles(6, (n) => picture(n + 7000)))));
    expect((await ask("facets", id, wholeStock)).total).toBe(6);
    for (const split of ["train", "val", "test"] as const) {
      await act(localActor, id, { act: { do: "move", split } });
      expect((await ask("facets", id, wholeStock)).split[split]).toBe(6);
    }
    expect((await classTable(localActor, id)).map(({ name, bySplit }) => [name, bySplit.test])).toEqual([
      ["roll", 6],
      ["loaf", 4],
      ["tart", 2],
    ]);
  });
  it("says so where the collection is gone, and goes on answering about others", async () => {
    await expect(ask("facets", 987_654, wholeStock)).rejects.toMatchObject({
      code: "collection-missing",
      status: 404,
    });
    await act(localActor, collection, { act: { do: "restore" } });
    expect((await ask("facets", collection, wholeStock)).total).toBeGreaterThan(0);
  });
  it("answers many at once", async () => {
    const answers = await Promise.all(
      Array.from({ length: 40 }, () => ask("page", collection, { selection: wholeStock, start: 3, limit: 2 })),
    );
    expect(new Set(answers.map(({ ids }) => ids.join(",")))).toHaveProperty("size", 1);
  });
});
