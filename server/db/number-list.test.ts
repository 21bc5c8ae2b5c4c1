import { sql } from "drizzle-orm";
import { expect, it } from "vitest";
import { z } from "zod";
import { db } from "./database";
import { numberList } from "./number-list";
import { rowsOf } from "./query";

it("comes to the database in its order, however large its numbers are, and empty where there are none", async () => {
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
