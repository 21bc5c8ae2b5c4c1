/** Queries that Drizzle's builder cannot say: SQL with a schema for its rows. */
import type { SQL } from "drizzle-orm";
import { setImmediate as nextTurn } from "node:timers/promises";
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

/**
 * Executes statements one after the other. What puts them together may take its time: it does so for the next one while
 * the database works on the one before.
 */
export async function executeInTurn(on: Database, statements: Iterable<SQL>): Promise<void> {
  let running: Promise<unknown> = Promise.resolve();
  try {
    for (const statement of statements) {
      await running;
      // Drizzle executes a statement once for each that waits for it: here, one does.
      running = Promise.resolve(on.execute(statement));
      // Whoever waits for it below is told; until then it is nobody's failure.
      running.catch(() => undefined);
      // It is on its way only once others had their turn.
      await nextTurn();
    }
  } finally {
    await running;
  }
}
