/** A database of the schema before labels had identity, with data in it, brought up: nothing is lost, all of it has a history. */
import { runsFromBytes } from "@larder/core/geometry/run-bytes";
import { storedStepsSchema } from "@larder/core/labels/stored-step";
import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { databaseUrl } from "./database";
import { migrate } from "./migrate";

const url = new URL(databaseUrl());
const name = `${url.pathname.slice(1)}_before`;
url.pathname = `/${name}`;
const admin = new pg.Client({ connectionString: databaseUrl() });
let client: pg.Client;
const all = async <T>(query: string): Promise<T[]> => (await client.query(query)).rows as T[];

type Before = { objects: unknown[]; images: unknown[]; shapes: { id: number; shape: unknown }[] };
let before: Before;

beforeAll(async () => {
  await admin.connect();
  await admin.query(`create database ${name}`);
  client = new pg.Client({ connectionString: String(url) });
  await client.connect();
  await client.query(readFileSync(path.join(import.meta.dirname, "fixtures", "stock-at-0004.sql"), "utf8"));
  await client.query("set search_path = public");
  before = {
    objects: await all(
      "select id, image_id, ordinal::float8, class_id, x, y, width, height, area, attributes, flags from objects order by id",
    ),
    images: await all(
      "select id, sha256, name, split, state, object_count, class_counts, image_class_ids, captions, fields from images order by id",
    ),
    shapes: await all("select id::int, shape from objects order by id"),
  };
  await migrate(String(url));
});
afterAll(async () => {
  await client.end();
  await admin.query(`drop database ${name} with (force)`);
  await admin.end();
});

describe("a database of the schema before, brought up", () => {
  it("holds the same images and objects, each object with an identity of its own", async () => {
    expect(
      await all(
        "select id, image_id, ordinal, class_id, x, y, width, height, area, attributes, flags from objects order by id",
      ),
    ).toEqual(before.objects);
    expect(
      await all(
        "select id, sha256, name, split, state, object_count, class_counts, image_class_ids, captions, fields from images order by id",
      ),
    ).toEqual(before.images);
    const uids = await all<{ uid: string }>("select uid from objects");
    expect(new Set(uids.map(({ uid }) => uid)).size).toBe(before.objects.length);
    for (const { uid } of uids)
      expect(uid).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });
  it("keeps masks as bytes that unpack to the runs they were", async () => {
    const masks = before.shapes.filter(({ shape }) => (shape as { kind: string }).kind === "mask");
    expect(masks.length).toBeGreaterThan(0);
    for (const { id, shape } of masks) {
      const [row] = await all<{ shape: object; mask: Buffer }>(`select shape, mask from objects where id = ${id}`);
      const { counts, ...frame } = shape as { counts: number[] };
      expect(row?.shape).toEqual(frame);
      expect(runsFromBytes(row?.mask as Buffer)).toEqual(counts);
    }
    const [staged] = await all<{ n: number }>(
      `select count(*)::int as n from delivery_items where item::text like '%"counts"%' or objects::text like '%"counts"%'`,
    );
    expect(staged?.n).toBe(0);
    const [runs] = await all<{ n: number }>(
      `select count(*)::int as n from delivery_items where objects @> '[{"shape":{"kind":"mask"}}]' and objects->1->'shape' ? 'runs' or objects->0->'shape' ? 'runs'`,
    );
    expect(runs?.n).toBe(1);
  });
  it("has an act for each delivery that was taken in, with the arrival of its images", async () => {
    const acts = await all<{ text: string; kind: string; images: number; arrived: number }>(`
      select a.text, a.kind, a.images, count(*) filter (where s.revision_before = -1)::int as arrived
      from acts a join label_steps s on s.act_id = a.id group by a.id order by a.id`);
    expect(acts.map(({ kind, images, arrived }) => [kind, images, arrived])).toEqual([
      ["take-in", 6, 6],
      ["take-in", 6, 0],
      ["take-in", 2, 2],
    ]);
  });
  it("keeps what a delivery changed of other images as steps that can be taken back", async () => {
    const rows = await all<{
      image_id: number;
      steps: unknown;
      inverse: unknown;
      revision: number;
      revision_before: number;
    }>(`
      select s.image_id::int, s.steps, s.inverse, s.revision_before, i.revision from label_steps s join images i on i.id = s.image_id where s.revision_before = 0 order by s.image_id`);
    expect(rows).toHaveLength(6);
    for (const row of rows) expect([row.revision, row.revision_before]).toEqual([1, 0]);
    const changed = rows.find(({ image_id }) => image_id === 3);
    const inverse = storedStepsSchema.parse(changed?.inverse);
    expect(inverse.map((step) => step.do)).toEqual(["remove-object", "add-object"]);
    // The box that stood there before the second delivery: a roll.
    expect(inverse[1]).toMatchObject({ object: { class: 1, shape: { kind: "box", x: 1, y: 1, width: 8, height: 8 } } });
    const [object] = await all<{ uid: string }>("select uid from objects where image_id = 3");
    expect(inverse[0]).toEqual({ do: "remove-object", uid: object?.uid });
    const masked = rows.find(({ image_id }) => image_id === 2);
    expect(storedStepsSchema.parse(masked?.inverse)).toContainEqual(
      expect.objectContaining({
        object: expect.objectContaining({
          crowd: true,
          shape: { kind: "mask", width: 40, height: 30, counts: [100, 10, 20, 15, 1055] },
        }) as unknown,
      }),
    );
  });
  it("stores the numbers of collections and classes, and keeps them with every statement", async () => {
    const counted =
      "select c.images, c.objects, c.labeled, c.empty, c.unlabeled, c.bytes::int from collections c order by id";
    const truth = `select count(i.id)::int as images, coalesce(sum(object_count), 0)::int as objects, count(*) filter (where state = 'labeled')::int as labeled,
      count(*) filter (where state = 'empty')::int as empty, count(*) filter (where state = 'unlabeled')::int as unlabeled, coalesce(sum(i.bytes), 0)::int as bytes
      from collections c left join images i on i.collection_id = c.id and i.removed_at is null group by c.id order by c.id`;
    const labels = "select name, labels from classes order by id";
    const labelTruth = `select k.name, (coalesce((select sum((i.class_counts->>k.id::text)::int) from images i where i.removed_at is null and i.class_counts ? k.id::text), 0)
      + (select count(*) from images i where i.removed_at is null and k.id = any(i.image_class_ids)))::int as labels from classes k order by k.id`;
    const same = async () => {
      expect(await all(counted)).toEqual(await all(truth));
      expect(await all(labels)).toEqual(await all(labelTruth));
    };
    await same();
    for (const statement of [
      "update images set removed_at = now() where id in (1, 7)",
      "update images set state = 'empty', object_count = 0, class_counts = '{}' where id in (2, 3)",
      "update images set removed_at = null where id = 7",
      "update images set split = 'val'",
      "delete from images where id in (1, 4)",
    ]) {
      await client.query(statement);
      await same();
    }
  });
  it("takes the steps of images and of acts along that go", async () => {
    const left = async () =>
      (
        await all<{ n: number }>(`select count(*)::int as n from label_steps s
          where s.image_id in (1, 4) or not exists (select 1 from acts a where a.id = s.act_id)`)
      )[0]?.n;
    expect(await left()).toBe(0);
    const steps = await all<{ act: number; n: number }>(
      "select act_id::int as act, count(*)::int as n from label_steps group by 1 order by 1",
    );
    const [first, ...others] = steps;
    if (!first) throw new Error("there are no steps");
    await client.query("delete from acts where id = $1", [first.act]);
    expect(await left()).toBe(0);
    expect(await all("select act_id::int as act, count(*)::int as n from label_steps group by 1 order by 1")).toEqual(
      others,
    );
  });
  it("keeps what was found, with its examples beside the sentence", async () => {
    const rows = await all<{ f: { message: string; sentence: string; examples: string[] } }>(
      "select jsonb_array_elements(findings) as f from deliveries union all select jsonb_array_elements(sheet->'findings') from deliveries",
    );
    expect(rows.length).toBeGreaterThan(2);
    for (const { f } of rows)
      expect(f.examples.length > 0 ? `${f.sentence} For example: ${f.examples.join(" · ")}` : f.sentence).toBe(
        f.message,
      );
    expect(rows.some(({ f }) => f.examples.length > 0)).toBe(true);
  });
  it("has no absolute path in what is written of its deliveries", async () => {
    const origins = await all<{ origin: object }>("select origin from deliveries");
    expect(origins.map(({ origin }) => origin)).toEqual(origins.map(() => ({ kind: "files" })));
  });
});
