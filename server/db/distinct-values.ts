/** Rows on their way to the database of which many say the same: what they say is sent, and parsed there, once. */
import { sql, type SQL } from "drizzle-orm";

/**
 * A list of what rows say, as an expression `(nth int, value jsonb)` with each distinct value once, and of each row which
 * `nth` of these it is, from 1.
 */
export function distinctValues(values: readonly unknown[]): { list: SQL; nths: number[] } {
  const places = new Map<string, number>();
  const nths = values.map((value) => {
    const text = JSON.stringify(value);
    const known = places.get(text);
    if (known !== undefined) return known;
    places.set(text, places.size + 1);
    return places.size;
  });
  const list = sql`(select d.nth::int, d.value from unnest(${sql.param([...places.keys()])}::jsonb[]) with ordinality d(value, nth))`;
  return { list, nths };
}
