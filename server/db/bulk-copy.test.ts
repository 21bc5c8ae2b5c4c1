import { expect, it } from "vitest";
import { BulkCopy } from "./bulk-copy";
import { pool } from "./database";

it("writes texts, numbers, JSON and nothing as they are, whatever signs they hold", async () => {
  const client = await pool().connect();
  await client.query("create temporary table t (a text, b int, c jsonb)");
  const odd = 'tab\t line\n return\r back\\slash \\N "quote" äö😀';
  const copy = BulkCopy.open(client, "t", ["a", "b", "c"]);
  await copy.add([odd, 7, { odd, list: [1, null] }]);
  await copy.add([null, null, null]);
  await copy.add(["nul\u0000gone", 8, { x: "nul\u0000gone" }]);
  await copy.end();
  expect((await client.query("select * from t")).rows).toEqual([
    { a: odd, b: 7, c: { odd, list: [1, null] } },
    { a: null, b: null, c: null },
    { a: "nulgone", b: 8, c: { x: "nulgone" } },
  ]);
  client.release();
});

it("can be given up in the middle: nothing stays, and the connection goes on", async () => {
  const client = await pool().connect();
  await client.query("create temporary table u (a text)");
  await client.query("begin");
  const copy = BulkCopy.open(client, "u", ["a"]);
  for (let i = 0; i < 20_000; i++) await copy.add([`row ${i} ${"x".repeat(40)}`]);
  await copy.abort();
  await client.query("rollback");
  expect((await client.query("select count(*)::int as n from u")).rows).toEqual([{ n: 0 }]);
  client.release();
});

it("says what is wrong with a row instead of falling over", async () => {
  const client = await pool().connect();
  await client.query("create temporary table v (a int)");
  const copy = BulkCopy.open(client, "v", ["a"]);
  await copy.add(["not a number"]);
  await expect(copy.end()).rejects.toThrow(/integer/);
  expect((await client.query("select 1 as one")).rows).toEqual([{ one: 1 }]);
  client.release();
});
