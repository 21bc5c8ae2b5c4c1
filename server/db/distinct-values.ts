/** Rows on their way to the database of which many say the same: what they say is sent, and parsed there, once. */
import { sql, type SQL } from "drizzle-orm";

/**
 * A list of what rows say, as an expression `(nth int, value jsonb)` with each distinct value once, and of each row which
 * `nth` of these it is, from 1.
 */
export function distinctValues(values: readonly unknown[]): { list: SQL; nths: number[] } {
  const places = new Map<string, number>();
  // What is the very same value is written down once.
  const met = new Map<unknown, number>();
  const placeOf = (value: unknown): number => {
    const text = JSON.stringify(value);
    const place = places.get(text) ?? places.size + 1;
    places.set(text, place);
    return place;
  };
  const nths = values.map((value) => {
    const place = met.get(value) ?? placeOf(value);
    met.set(value, place);
    return place;
  });
  // A line each, as JSON on one line has no line breaks: an array of texts would have each quoted once more. `offset 0` has
  // each read as JSON once, and not again for each row that says it.
  const lines = [...places.keys()].join("\n");
  const list = sql`(select d.nth::int, d.value::jsonb as value from unnest(string_to_array(${lines}::text, E'\\n')) with ordinality d(value, nth) offset 0)`;
  return { list, nths };
}
