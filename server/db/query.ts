/** Queries that Drizzle's builder cannot say: SQL with a schema for its rows. */
import type { SQL } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "./database";

/** The rows of a query, each parsed by `schema`. Throws where one does not fit: the query and the schema differ. */
export async function rowsOf<T extends z.ZodType>(on: Database, schema: T, query: SQL): Promise<z.infer<T>[]> {
  const { rows } = await on.execute(query);
  return z.array(schema).parse(rows);
}

/** The one row of a query; null where there is none. */
export async function rowOf<T extends z.ZodType>(on: Database, schema: T, query: SQL): Promise<z.infer<T> | null> {
  const [row] = await rowsOf(on, schema, query);
  return row ?? null;
}

const countSchema = z.object({ n: z.coerce.number() });

/** The number that a query of one column `n` gives; 0 where it gives no row. */
export async function numberOf(on: Database, query: SQL): Promise<number> {
  return (await rowOf(on, countSchema, query))?.n ?? 0;
}

/** True where a query gives any row. */
export async function exists(on: Database, query: SQL): Promise<boolean> {
  return ((await on.execute(query)).rowCount ?? 0) > 0;
}
