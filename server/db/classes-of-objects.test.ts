import { sql } from "drizzle-orm";
import { beforeEach, expect, it } from "vitest";
import { largeStock, type LargeStock } from "../tests/large-stock";
import { db } from "./database";
import { numberOf } from "./query";

let stock: LargeStock;
beforeEach(async ({ task }) => {
  stock = await largeStock(task.name, 3, 2);
});

const objects = () =>
  numberOf(
    db(),
    sql`select count(*) as n from objects o join images i on i.id = o.image_id where i.collection_id = ${stock.collection}`,
  );
const used = () =>
  numberOf(
    db(),
    sql`select min(o.class_id) as n from objects o join images i on i.id = o.image_id where i.collection_id = ${stock.collection}`,
  );

it("objects cannot come with, or be given, a class that there is not", async () => {
  await expect(
    db().execute(sql`insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape)
      select i.id, 9, k.id, 0, 0, 1, 1, 1, '{}' from images i, (values (${await used()}::bigint), (-5)) k(id) where i.collection_id = ${stock.collection}`),
  ).rejects.toMatchObject({ cause: { code: "23503", message: "objects need a class that there is: -5 is none" } });
  await expect(
    db().execute(sql`update objects set class_id = -6 where class_id = ${await used()}`),
  ).rejects.toMatchObject({ cause: { code: "23503" } });
  expect(await objects()).toBe(6);
});

it("a class that objects have cannot be deleted; with their whole collection both go", async () => {
  const id = await used();
  await expect(db().execute(sql`delete from classes where id = ${id}`)).rejects.toMatchObject({
    cause: { code: "23503", message: `objects have the class ${id}` },
  });
  const unused = await numberOf(
    db(),
    sql`select min(k.id) as n from classes k where k.collection_id = ${stock.collection} and not exists (select from objects o where o.class_id = k.id)`,
  );
  await db().execute(sql`delete from classes where id = ${unused}`);
  await db().execute(sql`delete from collections where id = ${stock.collection}`);
  expect(await objects()).toBe(0);
  expect(await numberOf(db(), sql`select count(*) as n from classes where collection_id = ${stock.collection}`)).toBe(
    0,
  );
});
