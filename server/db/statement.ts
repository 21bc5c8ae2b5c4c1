import { sql, type SQL } from "drizzle-orm";

/** A statement with `$1`, `$2`, … and its values, as a driver takes it, for running within a transaction of Drizzle's. */
export function statement(text: string, values: readonly unknown[]): SQL {
  const pieces = text.split(/\$(\d+)/);
  return sql.join(
    pieces.map((piece, at) => (at % 2 === 0 ? sql.raw(piece) : sql`${sql.param(values[Number(piece) - 1])}`)),
  );
}
