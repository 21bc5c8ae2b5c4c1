import { featureLength } from "@larder/core/learning/features";
import { sql } from "drizzle-orm";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { beforeEach, describe, expect, it } from "vitest";
import { db, steadyRead } from "../db/database";
import { settings } from "../settings";
import { largeStock } from "../tests/large-stock";
import { keepNewFeatures, keptFeatureBytes, removeKeptFeatures } from "./kept-features";
import { buildSnapshot } from "./load";
import { loadLearned, readKept } from "./load-learned";

let collection: number;
beforeEach(async ({ task }) => {
  ({ collection } = await largeStock(task.name, 6, 1));
  await learn("i.ordinal <= 4");
});

/** Images are learned (again): their features are made, each of other bytes. */
const learn = (which: string) =>
  db().execute(sql`insert into image_features (image_id, collection_id, features)
    select i.id, i.collection_id, decode(repeat(lpad(to_hex(i.ordinal * 10 + coalesce((select f.made % 7 from image_features f where f.image_id = i.id), 0)), 2, '0'), ${featureLength}), 'hex')
    from images i where i.collection_id = ${collection} and ${sql.raw(which)}
    on conflict (image_id) do update set features = excluded.features, made = nextval('image_features_made')`);

/** Keeps what was learned since, however little it is. */
const keep = () => keepNewFeatures(collection, 1);

type From = "files" | "files, then the database" | "the database";

/** What is known of each image: up to where, and how far each is from the first. */
async function known(from: From) {
  const kept = from === "the database" ? null : await readKept(collection);
  if (from !== "the database" && !kept) return null;
  const learned = from === "files" ? kept : await steadyRead((_, client) => loadLearned(client, collection, kept));
  const snapshot = await steadyRead((_, client) => buildSnapshot(client, collection));
  return { upTo: learned?.upTo ?? 0, looks: [...(learned?.imagesFrom(snapshot, [snapshot.ids.at(0)]) ?? [])] };
}

const files = () =>
  readdirSync(path.join(settings().home, "features")).filter((name) => name.startsWith(`${collection}-`));

describe("features that were kept", () => {
  it("say what the database says, and what came later is kept beside them", async () => {
    expect(await known("files")).toBeNull();
    await keep();
    const first = await known("files");
    expect(first).toEqual(await known("the database"));
    expect(first?.looks.filter((far) => !Number.isNaN(far))).toHaveLength(4);
    await learn("i.ordinal > 4");
    // As far as they go; the rest is asked of the database.
    expect(await known("files")).toEqual(first);
    expect(await known("files, then the database")).toEqual(await known("the database"));
    await keep();
    expect(await known("files")).toEqual(await known("the database"));
    expect((await known("files"))?.looks.filter((far) => !Number.isNaN(far))).toHaveLength(6);
    expect(files()).toHaveLength(2);
    expect(await keptFeatureBytes(collection)).toBeGreaterThan(6 * featureLength);
  });
  it("are not kept where they are too few to be worth a file", async () => {
    await keepNewFeatures(collection, 5);
    expect(await known("files")).toBeNull();
    await keepNewFeatures(collection, 4);
    expect(await known("files")).not.toBeNull();
  });
  it("go on holding where some were learned anew, or are gone", async () => {
    await keep();
    await learn("i.ordinal = 2");
    await db().execute(sql`delete from images where collection_id = ${collection} and ordinal = 4`);
    expect(await known("files")).not.toBeNull();
    expect(await known("files, then the database")).toEqual(await known("the database"));
  });
  it("are kept anew where most were learned anew, and what went on from them goes", async () => {
    await keep();
    await learn("i.ordinal > 4");
    await keep();
    expect(files()).toHaveLength(2);
    await learn("i.ordinal <= 3");
    expect(await known("files")).toBeNull();
    await keep();
    expect(await known("files")).toEqual(await known("the database"));
    expect(files()).toHaveLength(1);
  });
  it.each([
    ["another collection has them", "update collections set created_at = created_at - interval '1 s' where id = "],
    ["some came that are not among them", "update image_features set made = made - 1 where collection_id = "],
  ])("are not taken where %s", async (_, change) => {
    await keep();
    expect(await known("files")).not.toBeNull();
    await db().execute(sql`${sql.raw(change)}${collection}`);
    expect(await known("files")).toBeNull();
    await keep();
    expect(await known("files")).toEqual(await known("the database"));
  });
  it("are not taken from a file that is something else", async () => {
    await keep();
    const file = path.join(settings().home, "features", files()[0] ?? "");
    const content = readFileSync(file);
    for (const other of ["", "{}\n", "no JSON\n", '{"rows":4']) {
      writeFileSync(file, other);
      expect(await known("files")).toBeNull();
    }
    writeFileSync(file, content);
    expect(await known("files")).not.toBeNull();
    await removeKeptFeatures(collection);
    expect([existsSync(file), await known("files"), await keptFeatureBytes(collection)]).toEqual([false, null, 0]);
  });
});
