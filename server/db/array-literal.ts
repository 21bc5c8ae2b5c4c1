/**
 * Arrays for the database as texts (PostgreSQL, "Array Value Input") of entries that need no quoting: the driver quotes the
 * entries of an array one by one, which of two thousand takes as long as a query.
 */
import { sql, type SQL } from "drizzle-orm";

/** Whole numbers as one array for the database. */
export const numberList = (numbers: readonly number[], type: "bigint" | "int" = "bigint"): SQL =>
  sql`${`{${numbers.join(",")}}`}::${sql.raw(type)}[]`;

/** UUIDs as one array for the database. */
export const uuidList = (uuids: readonly string[]): SQL => sql`${`{${uuids.join(",")}}`}::uuid[]`;
