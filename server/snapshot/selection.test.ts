/** Any selection means the same images to the database, to the columns of the snapshot and to the plain predicate. */
import { bindSelection } from "@larder/core/selection/bind";
import { selectionMask } from "@larder/core/snapshot/selection-mask";
import { attributesOf, matchingIds } from "@larder/core/snapshot/matching";
import { predicateOf, type SelectableImage } from "@larder/core/selection/predicate";
import { parseSelection } from "@larder/core/selection/parse";
import { printSelection } from "@larder/core/selection/print";
import { randomSelections } from "@larder/core/tests/random-selections";
import { attributeValueSchema } from "@larder/core/model/item";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { sql } from "drizzle-orm";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { db, steadyRead } from "../db/database";
import { rowsOf } from "../db/query";
import { act } from "../services/acts";
import { localActor } from "../services/actor";
import { createCollection } from "../services/collections";
import { changeDelivery } from "../services/deliveries";
import { noteOldNearPairs } from "../services/intake/old-near-pairs";
import { selectionSql } from "../services/stock/selection-sql";
import { cocoFiles, deliverAndTakeIn, picture, saveArchive, startWorker, where, zipBytes } from "../tests/bakery";
import { ask } from "./ask";
import { buildSnapshot } from "./load";

let stop: () => void;
let collection: number;
let snapshot: Snapshot;
let images: Map<number, SelectableImage>;
const idSchema = z.object({ id: z.coerce.number() });

beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Selected" })).id;
  const rotated = await picture(2600);
  const zips = [
    await cocoFiles(16, (n) => picture(n + 2000), 2000),
    await cocoFiles(8, (n) => picture(n + 2100), 2100),
    { "rye/a.jpg": rotated, "rye/b.jpg": rotated.slice(), "unlabeled/É_c.jpg": await picture(2602) },
  ];
  const ids: number[] = [];
  for (const [n, files] of zips.entries())
    ids.push((await deliverAndTakeIn(collection, saveArchive(`selected${n}.zip`, await zipBytes(files)))).id);
  await changeDelivery(localActor, ids[1] as number, {
    name: "Late shift",
    facts: { source: "Harbour", licence: "CC0", takenFrom: "2026-11-03", latitude: 48.5, longitude: 9.25 },
  });
  await act(localActor, collection, { ...where("has tart"), act: { do: "move", split: "val" } });
  await act(localActor, collection, { ...where("has 1.. loaf"), act: { do: "tag", tag: "night" } });
  await act(localActor, collection, { ...where("name like *5*"), act: { do: "tag", tag: 'say "x"' } });
  await act(localActor, collection, { ...where("has 2.. any"), act: { do: "pin", pinned: true } });
  // What no file of this test brings, said by hand; spread by remainders so that every combination turns up.
  await db().execute(sql`update images i set
    attributes = case i.id % 7 when 0 then '{}' when 1 then '{"shift": "late"}' when 2 then '{"shift": 7}' when 3 then '{"Shift": "7.0", "ok": true}'
      when 4 then '{"shift": ["late", "7"]}' when 5 then '{"ok": false, "shift": ""}' else '{"since": "2026-11-19", "shift": "50%"}' end::jsonb,
    captions = case i.id % 3 when 0 then '[]' when 1 then '["Fresh bread", ""]' else '["50% off_season"]' end::jsonb,
    findings = case i.id % 4 when 0 then '{near-copy,exif-rotated}' when 1 then '{size-mismatch}' else '{}' end::text[],
    orientation = case when i.id % 5 = 0 then 6 else 1 end,
    taken_at = case when i.id % 2 = 0 then timestamp '2026-11-19 14:00:30' end
    where i.collection_id = ${collection}`);
  await db().execute(sql`update objects o set
    attributes = case o.id % 4 when 0 then null when 1 then '{"bake": "dark"}' when 2 then '{"bake": 3.5}' else '{"bake": "3"}' end::jsonb,
    flags = case o.id % 5 when 0 then '{}' when 1 then '{"confidence": 0.4}' when 2 then '{"crowd": true, "confidence": 0.3333333}' when 3 then '{"occluded": true, "truncated": true}' else '{"difficult": false}' end::jsonb
    where o.image_id in (select id from images where collection_id = ${collection})`);
  snapshot = await steadyRead((_, client) => buildSnapshot(client, collection));
  images = await plainly();
});
afterAll(() => stop());

const facts = z
  .object({ source: z.string(), licence: z.string(), camera: z.string(), takenFrom: z.string().nullable() })
  .partial();
const attributes = z.record(z.string(), attributeValueSchema);
const imageSchema = z.object({
  id: z.coerce.number(),
  name: z.string(),
  split: z.string().nullable(),
  state: z.string(),
  width: z.number(),
  height: z.number(),
  bytes: z.coerce.number(),
  tags: z.array(z.string()),
  captions: z.array(z.string()),
  findings: z.array(z.string()),
  pinned: z.boolean(),
  orientation: z.number(),
  attributes,
  taken: z.string().nullable(),
  arrived: z.coerce.date(),
  changed: z.coerce.date(),
  delivery: z.string(),
  facts: facts.nullable(),
  classes: z.array(z.string()),
  near: z.coerce.number(),
  objects: z.array(
    z.object({
      class: z.string(),
      shape: z.string(),
      x: z.number(),
      y: z.number(),
      width: z.number(),
      height: z.number(),
      area: z.number(),
      attributes: attributes.nullable(),
      flags: z.record(z.string(), z.union([z.boolean(), z.number()])),
    }),
  ),
});

/** Every image as the predicate takes it, read without anything that selections use. */
async function plainly(): Promise<Map<number, SelectableImage>> {
  const rows = await rowsOf(
    db(),
    imageSchema,
    sql`select i.id, i.name, i.split, i.state, i.width, i.height, i.bytes, i.tags, i.captions, i.findings, i.pinned, i.orientation, i.attributes,
      to_char(i.taken_at, 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as taken, i.created_at as arrived, i.labels_at as changed, d.name as delivery, d.facts,
      array(select k.name from classes k where k.id = any(i.image_class_ids)) as classes,
      (select count(*) from near_pairs p where p.image_id = i.id) as near,
      coalesce((select jsonb_agg(jsonb_build_object('class', k.name, 'shape', o.shape->>'kind', 'x', o.x, 'y', o.y, 'width', o.width, 'height', o.height,
        'area', o.area, 'attributes', o.attributes, 'flags', o.flags)) from objects o join classes k on k.id = o.class_id where o.image_id = i.id), '[]') as objects
      from images i join deliveries d on d.id = i.delivery_id where i.collection_id = ${collection}`,
  );
  return new Map(
    rows.map((row) => {
      const { id, near, orientation, facts: known, taken, arrived, changed, objects, ...rest } = row;
      const when = taken ?? (known?.takenFrom ? `${known.takenFrom}T00:00:00Z` : null);
      const image: SelectableImage = {
        ...rest,
        ...{ source: known?.source ?? null, licence: known?.licence ?? null, camera: known?.camera ?? null },
        taken: when === null ? null : Date.parse(when),
        arrived: arrived.getTime(),
        changed: changed.getTime(),
        nearCopies: near,
        turned: orientation > 1,
        place: known?.source === "Harbour" ? "48.50 9.25" : null,
        suggestions: 0,
        objects: objects.map(({ flags, attributes: said, ...object }) => ({
          ...object,
          ...flags,
          attributes: said ?? {},
        })),
      };
      return [id, image];
    }),
  );
}

const texts = ["late", "night", 'say "x"', "50% off_season", "Fresh bread", "É_c.jpg", "", "7", "yes"];
const selections = randomSelections(
  {
    texts: {
      name: [...texts, "images/2005.jpg"],
      split: ["val", "none"],
      state: ["labeled", "unlabeled"],
      class: ["rye", "late"],
      tag: texts,
      delivery: ["Late shift", "x"],
      source: ["Harbour", "x"],
      licence: ["CC0", "x"],
      camera: ["x"],
      place: ["48.50 9.25"],
      caption: texts,
      finding: ["near-copy", "size-mismatch"],
      packet: ["x"],
    },
    numbers: {
      objects: [0, 1, 2, 3],
      width: [100, 200, 320],
      height: [100, 240],
      megapixels: [0.05, 0.1],
      ratio: [1, 1.333, 1.5],
      bytes: [1000, 3000],
      "near-copies": [0, 1],
      suggestions: [0],
      likely: [0.5],
    },
    dates: {
      taken: ["2026-11-03", "2026-11-19", "2026-11-19T14:00"],
      arrived: ["2020-01-01", "2090-01-01"],
      changed: ["2026-01-01"],
    },
    truths: ["pinned", "turned"],
    attributes: { shift: ["late", "7", "50%", "", "no"], ok: ["yes", "true", "no"], since: ["2026-11-19", "3"] },
  },
  {
    texts: { shape: ["box", "polygon"], by: ["x"] },
    numbers: {
      width: [20, 33.3, 60],
      height: [20, 50],
      area: [400, 1200],
      share: [0.01, 0.06],
      ratio: [1, 1.2],
      x: [0.3, 0.5],
      y: [0.5],
      confidence: [0.4, 0.333],
    },
    dates: {},
    truths: ["crowd", "occluded", "truncated", "difficult"],
    attributes: { bake: ["dark", "3", "3.5"] },
  },
  ["roll", "loaf", "tart", "rye", "nothing"],
);

async function bySql(text: string): Promise<number[]> {
  const condition = selectionSql(collection, where(text), attributesOf(snapshot));
  const rows = await rowsOf(db(), idSchema, sql`select i.id from images i where ${condition} order by i.id`);
  return rows.map(({ id }) => id);
}

describe("a selection", () => {
  it("means the same to the database, to the snapshot and to the predicate", async () => {
    let meant = 0;
    await fc.assert(
      fc.asyncProperty(selections, async (tree) => {
        const text = printSelection(tree);
        const bound = bindSelection(parseSelection(text), attributesOf(snapshot));
        const predicate = predicateOf(bound);
        const plain = [...images].filter(([, image]) => predicate(image)).map(([id]) => id);
        const mask = selectionMask(snapshot, bound);
        const columns = [...images.keys()].filter((id) => mask[snapshot.slotOf(id) as number] === 1);
        expect([text, columns]).toEqual([text, plain]);
        expect([text, await bySql(text)]).toEqual([text, plain.sort((a, b) => a - b)]);
        meant += plain.length;
      }),
      { numRuns: 600 },
    );
    expect(meant).toBeGreaterThan(1000);
  });
  it("finds near-copies both ways, and not those in the bin", async () => {
    const near = matchingIds(snapshot, where("near-copies >= 1"), 0, 100);
    expect(near).toEqual(await bySql("near-copies >= 1"));
    expect(near.length).toBeGreaterThan(1);
  });
  it("finds near-copies also among images that came before pairs were kept", async () => {
    const before = await bySql("near-copies >= 1");
    await db().execute(
      sql`delete from near_pairs where image_id in (select id from images where collection_id = ${collection})`,
    );
    await db().execute(sql`update images set near_noted = false where collection_id = ${collection}`);
    expect(await bySql("near-copies >= 1")).toEqual([]);
    await noteOldNearPairs();
    expect(await bySql("near-copies >= 1")).toEqual(before);
    expect((await ask("facets", collection, where("near-copies >= 1"))).matching).toBe(before.length);
  });
  it("that cannot be understood says where, also through the thread, which goes on", async () => {
    await expect(ask("facets", collection, where("has roll and splitt = val"))).rejects.toMatchObject({
      code: "selection-invalid",
      details: { at: 14, length: 6, expected: ["split"] },
    });
    expect((await ask("facets", collection, where("has roll"))).matching).toBeGreaterThan(0);
  });
  it("is refused where its number changed since, and nothing is done", async () => {
    const before = (await ask("facets", collection, where("has roll"))).matching;
    const wish = { ...where("has roll"), act: { do: "tag", tag: "late" } as const, expected: before - 1 };
    await expect(act(localActor, collection, wish)).rejects.toMatchObject({
      code: "selection-changed",
      status: 409,
      details: { images: before },
    });
    expect((await ask("facets", collection, where("tag = late"))).matching).toBe(0);
  });
});
