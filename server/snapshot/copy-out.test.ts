import { describe, expect, it } from "vitest";
import { steadyRead } from "../db/database";
import { copyBytes, copyOut, rowsOfBytes, type BinaryRow } from "./copy-out";

/** Rows of all lengths up to 3,000 bytes, so that they lie across the pieces in which they come. */
const query = `select n::int8 * 5000000000, n::int4, (n / 4.0)::float4, n % 2 = 0, case when n % 3 = 0 then null else repeat('ä', n % 1500) end
  from generate_series(1, 4000) n`;

const shown = (row: BinaryRow) => ({
  ...{ big: row.int8(0), small: row.int4(1), part: row.float4(2), even: row.bool(3) },
  ...{ text: row.text(4)?.length ?? null, bytes: row.raw(4).length },
});
const wanted = Array.from({ length: 4000 }, (_, at) => {
  const n = at + 1;
  const length = n % 3 === 0 ? null : n % 1500;
  return {
    ...{ big: n * 5_000_000_000, small: n, part: n / 4, even: n % 2 === 0 },
    ...{ text: length, bytes: 2 * (length ?? 0) },
  };
});

describe("rows copied out of the database", () => {
  it("are what the query gives, as they come and kept as bytes", async () => {
    const rows: object[] = [];
    const bytes = await steadyRead(async (_, client) => {
      await copyOut(client, query, (row) => rows.push(shown(row)));
      return copyBytes(client, query, 1000);
    });
    expect(rows).toEqual(wanted);
    expect(Array.from(rowsOfBytes(bytes), shown)).toEqual(wanted);
  });
  it("may be none", async () => {
    const none = `${query} where n < 0`;
    const bytes = await steadyRead(async (_, client) => {
      await copyOut(client, none, () => expect.unreachable());
      return copyBytes(client, none, 1000);
    });
    expect([...rowsOfBytes(bytes)]).toEqual([]);
  });
  it("say what is wrong with a query", async () => {
    await expect(
      steadyRead((_, client) => copyBytes(client, "select 1 / (n - 3) from generate_series(1, 5) n", 10)),
    ).rejects.toThrow(/zero/);
  });
});
