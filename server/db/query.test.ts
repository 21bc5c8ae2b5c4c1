import { sql, type SQL } from "drizzle-orm";
import { expect, it } from "vitest";
import { transaction } from "./database";
import { executeInTurn, numberOf } from "./query";

const note = (n: number): SQL => sql`insert into noted select ${n}::int, count(*) from noted, pg_sleep(0.15)`;

it("statements are executed once each and in turn, the next put together while the one before runs", async () => {
  await transaction(async (tx) => {
    await tx.execute(sql`create temp table noted (n int, before int) on commit drop`);
    const began: number[] = [];
    function* statements() {
      for (let n = 0; n < 4; n++) {
        began.push(performance.now());
        yield note(n);
      }
    }
    await executeInTurn(tx, statements());
    const ended = performance.now();
    const { rows } = await tx.execute(sql`select n, before from noted order by n`);
    expect(rows).toEqual([0, 1, 2, 3].map((n) => ({ n, before: n })));
    // The last was asked for before the third, which takes 150 milliseconds, had ended.
    expect(ended - (began[3] ?? 0)).toBeGreaterThan(200);
  });
});

it("nothing is executed after a statement that fails, or where the next cannot be put together", async () => {
  const failing = transaction((tx) => executeInTurn(tx, [sql`select 1`, sql`select no_such_thing`, sql`select 2`]));
  await expect(failing).rejects.toMatchObject({ cause: { code: "42703" } });
  function* broken() {
    yield sql`select 1`;
    throw new Error("cannot be put together");
  }
  await expect(transaction((tx) => executeInTurn(tx, broken()))).rejects.toThrow("cannot be put together");
  expect(await transaction((tx) => numberOf(tx, sql`select 3 as n`))).toBe(3);
});
