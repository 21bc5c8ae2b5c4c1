/**
 * Items 0 … `count` − 1 in the order of their groups, those of a group in their own order (counting sort), and where each
 * group begins: those of group g are `order[starts[g]]` up to `order[starts[g + 1] - 1]`.
 */
export function byGroup(
  count: number,
  groups: number,
  groupOf: (item: number) => number,
): { order: Uint32Array; starts: Uint32Array } {
  const starts = new Uint32Array(groups + 1);
  for (let item = 0; item < count; item++) starts[groupOf(item) + 1] = (starts[groupOf(item) + 1] as number) + 1;
  for (let group = 0; group < groups; group++)
    starts[group + 1] = (starts[group + 1] as number) + (starts[group] as number);
  const next = starts.slice();
  const order = new Uint32Array(count);
  for (let item = 0; item < count; item++) {
    const group = groupOf(item);
    order[next[group] as number] = item;
    next[group] = (next[group] as number) + 1;
  }
  return { order, starts };
}
