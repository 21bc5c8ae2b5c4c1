import { featureLength } from "@larder/core/learning/features";
import { sql } from "drizzle-orm";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { beforeEach, describe, expect, it } from "vitest";
import { db, steadyRead } from "../db/database";
import { settings } from "../settings";
import { largeStock } from "../tests/large-stock";
import { copyBytes } from "./copy-out";
import { keepFeatures, keptFeatureBytes, removeKeptFeatures } from "./kept-features";
import { buildSnapshot } from "./load";
import { featuresQuery, loadLearned, readKept } from "./load-learned";

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

const keep = (after: number) =>
  steadyRead(async (_, client) =>
    keepFeatures(client, collection, after, await copyBytes(client, featuresQuery(collection, after), 1000)),
  );

/** What is known of each image, from files where `kept` says so: up to where, and how far each is from the first. */
async function known(kept: boolean) {
  const learned = kept
    ? await readKept(collection)
    : await steadyRead((_, client) => loadLearned(client, collection, null));
  if (!learned) return null;
  const snapshot = await steadyRead((_, client) => buildSnapshot(client, collection));
  return { upTo: learned.upTo, looks: [...learned.imagesFrom(snapshot, [snapshot.ids.at(0)])] };
}

const files = () =>
  readdirSync(path.join(settings().home, "features")).filter((name) => name.startsWith(`${collection}-`));

describe("features that were kept", () => {
  it("say what the database says, and what came later is kept beside them", async () => {
    expect(await known(true)).toBeNull();
    await keep(0);
    const first = await known(true);
    expect(first).toEqual(await known(false));
    expect(first?.looks.filter((far) => !Number.isNaN(far))).toHaveLength(4);
    await learn("i.ordinal > 4");
    // As far as they go; the rest is asked of the database.
    expect(await known(true)).toEqual(first);
    await keep(first?.upTo ?? 0);
    expect(await known(true)).toEqual(await known(false));
    expect((await known(true))?.looks.filter((far) => !Number.isNaN(far))).toHaveLength(6);
    expect(files()).toHaveLength(2);
    expect(await keptFeatureBytes(collection)).toBeGreaterThan(6 * featureLength);
  });
  it.each([
    ["were learned anew", () => learn("i.ordinal = 2")],
    [
      "are gone",
      () =>
        db().execute(
          sql`delete from image_features where image_id = (select min(image_id) from image_features where collection_id = ${collection})`,
        ),
    ],
    [
      "are those of another collection",
      () => db().execute(sql`update collections set created_at = created_at - interval '1 s' where id = ${collection}`),
    ],
  ])("are not taken where some %s", async (_, change) => {
    await keep(0);
    expect(await known(true)).not.toBeNull();
    await change();
    expect(await known(true)).toBeNull();
    await keep(0);
    expect(await known(true)).toEqual(await known(false));
  });
  it("are not taken from a file that is something else", async () => {
    await keep(0);
    const file = path.join(settings().home, "features", files()[0] ?? "");
    const content = readFileSync(file);
    for (const other of ["", "{}\n", "no JSON\n", '{"rows":4']) {
      writeFileSync(file, other);
      expect(await known(true)).toBeNull();
    }
    writeFileSync(file, content);
    expect(await known(true)).not.toBeNull();
    await removeKeptFeatures(collection);
    expect([existsSync(file), await known(true), await keptFeatureBytes(collection)]).toEqual([false, null, 0]);
  });
});
