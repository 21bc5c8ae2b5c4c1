import { sql } from "drizzle-orm";
import { expect, it } from "vitest";
import { z } from "zod";
import { db } from "./database";
import { numberList, uuidList } from "./array-literal";
import { rowsOf } from "./query";

it("a list of numbers comes to the database in its order, however large its numbers are, and empty where there are none", async () => {
  const read = async (numbers: number[]) =>
    (await rowsOf(db(), z.object({ n: z.coerce.number() }), sql`select unnest(${numberList(numbers)}) as n`)).map(
      ({ n }) => n,
    );
  expect(await read([3, -1, Number.MAX_SAFE_INTEGER, 3])).toEqual([3, -1, Number.MAX_SAFE_INTEGER, 3]);
  expect(await read([])).toEqual([]);
  await expect(db().execute(sql`select ${numberList([2 ** 40], "int")}`)).rejects.toMatchObject({
    cause: { code: "22003" },
  });
});

it("a list of UUIDs comes as it is, and what is none is refused, not taken for several", async () => {
  const uuids = ["01900000-0000-7000-8000-000000000002", "01900000-0000-7000-8000-000000000001"];
  const rows = await rowsOf(db(), z.object({ uuid: z.uuid() }), sql`select unnest(${uuidList(uuids)}) as uuid`);
  expect(rows.map(({ uuid }) => uuid)).toEqual(uuids);
  await expect(db().execute(sql`select ${uuidList(["1},{2"])}`)).rejects.toMatchObject({ cause: { code: "22P02" } });
});
