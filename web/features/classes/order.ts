/** The orders of the class table. */
export const classOrders = ["list", "name", "most", "fewest"] as const;
export type ClassOrder = (typeof classOrders)[number];

export const classOrderNames: Record<ClassOrder, string> = {
  list: "as listed",
  name: "by name",
  most: "most labels first",
  fewest: "fewest labels first",
};

/** Rows in an order; those that are alike stay as they are listed. */
export function orderedClasses<T extends { name: string; objects: number }>(
  rows: readonly T[],
  order: ClassOrder,
): T[] {
  const copy = [...rows];
  if (order === "name") return copy.sort((a, b) => a.name.localeCompare(b.name, "en"));
  if (order === "most") return copy.sort((a, b) => b.objects - a.objects);
  return order === "fewest" ? copy.sort((a, b) => a.objects - b.objects) : copy;
}
