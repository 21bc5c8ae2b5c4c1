import { describe, expect, it } from "vitest";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "./database";
import { distinctValues } from "./distinct-values";
import { numberList } from "./array-literal";
import { rowsOf } from "./query";

describe("what many rows say", () => {
  it("is sent once for each that is distinct, and comes to every row as it was", async () => {
    const said = [{ split: "val" }, { tags: ["a, b", 'say "c"'] }, { split: "val" }, { none: null }, { tags: ["\\"] }];
    const values = said.flatMap((value) => [value, value]);
    const { list, nths } = distinctValues(values);
    expect(nths).toEqual([1, 1, 2, 2, 1, 1, 3, 3, 4, 4]);
    const rows = await rowsOf(
      db(),
      z.object({ value: z.unknown(), distinct: z.number() }),
      sql`select d.value, (select count(*)::int from ${list} c) as distinct
        from unnest(${numberList(nths, "int")}) with ordinality r(nth, place) join ${list} d on d.nth = r.nth order by r.place`,
    );
    expect(rows.map(({ value }) => value)).toEqual(values);
    expect(rows[0]?.distinct).toBe(4);
  });
});
