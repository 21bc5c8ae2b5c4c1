import { sql, type SQL } from "drizzle-orm";

/**
 * Whole numbers as one array for the database. As a text: the driver quotes the entries of an array one by one, which of
 * two thousand takes as long as a query.
 */
export const numberList = (numbers: readonly number[], type: "bigint" | "int" = "bigint"): SQL =>
  sql`${`{${numbers.join(",")}}`}::${sql.raw(type)}[]`;

/** Ids of the kind that objects have, as one array for the database, likewise: none of their signs needs quoting. */
export const uuidList = (uuids: readonly string[]): SQL => sql`${`{${uuids.join(",")}}`}::uuid[]`;
