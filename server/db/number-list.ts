import { sql, type SQL } from "drizzle-orm";

/**
 * Whole numbers as one array for the database. As a text: the driver quotes the entries of an array one by one, which of
 * two thousand takes as long as a query.
 */
export const numberList = (numbers: readonly number[], type: "bigint" | "int" = "bigint"): SQL =>
  sql`${`{${numbers.join(",")}}`}::${sql.raw(type)}[]`;
