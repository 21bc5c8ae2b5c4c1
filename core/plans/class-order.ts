/** The order of a package's class numbers, as its plan says. */
import type { Band } from "./flow";
import type { Plan } from "./plan";

/**
 * `classes` in the order of the stock, by name, by count (the most labels first), or as a list says: those it names first,
 * whether they occur or not, so that a number stays what it was from version to version.
 */
export function orderedClasses(
  classes: readonly string[],
  order: Plan["pack"]["classes"],
  bands: readonly Band[],
): string[] {
  if (order === "stock") return [...classes];
  if (order === "name") return [...classes].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0));
  if (order === "count") {
    const counts = new Map(
      classes.map((name) => [
        name,
        bands.reduce((sum, { byClass }) => sum + (Object.hasOwn(byClass, name) ? (byClass[name] as number) : 0), 0),
      ]),
    );
    return [...classes].sort((a, b) => (counts.get(b) as number) - (counts.get(a) as number));
  }
  return [...new Set([...order, ...classes])];
}
