/** Connected regions of a map of values. */

export type Region = { value: number; counts: number[] };

type Run = { column: number; start: number; end: number; value: number; parent: number };

/**
 * The 8-connected regions of equal value in a row-major map, each as column-by-column runs, in the order in which they
 * are met column by column; the values in `ignored` make none. Runs of neighbouring columns are united by a disjoint-
 * set
 * forest (Tarjan, JACM 22, 1975).
 */
export function connectedRegions(
  map: Uint8Array | Uint16Array,
  width: number,
  height: number,
  ignored: ReadonlySet<number>,
): Region[] {
  const runs: Run[] = [];
  const root = (at: number): number => {
    let top = at;
    while ((runs[top] as Run).parent !== top) top = (runs[top] as Run).parent;
    for (let next = at; next !== top;) {
      const run = runs[next] as Run;
      next = run.parent;
      run.parent = top;
    }
    return top;
  };
  let [before, beforeEnd] = [0, 0];
  for (let column = 0; column < width; column++) {
    const first = runs.length;
    for (let y = 0, at = column; y < height;) {
      const value = map[at] as number;
      const start = y;
      do {
        y++;
        at += width;
      } while (y < height && map[at] === value);
      if (!ignored.has(value)) runs.push({ column, start, end: y, value, parent: runs.length });
    }
    for (let here = first, from = before; here < runs.length; here++) {
      const a = runs[here] as Run;
      // Touching by a corner counts, so each run reaches one pixel further.
      while (from < beforeEnd && (runs[from] as Run).end < a.start) from++;
      for (let there = from; there < beforeEnd && (runs[there] as Run).start <= a.end; there++) {
        if ((runs[there] as Run).value !== a.value) continue;
        const [low, high] = [root(here), root(there)].sort((x, y) => x - y) as [number, number];
        (runs[high] as Run).parent = low;
      }
    }
    [before, beforeEnd] = [first, runs.length];
  }
  const byRoot = new Map<number, Run[]>();
  runs.forEach((run, at) => {
    const top = root(at);
    const region = byRoot.get(top);
    if (region) region.push(run);
    else byRoot.set(top, [run]);
  });
  return [...byRoot.values()].map((region) => ({
    value: (region[0] as Run).value,
    counts: countsOf(region, height, width * height),
  }));
}

/** Runs in column order as counts of background and foreground in turn; runs that meet over a column's end are one. */
function countsOf(runs: readonly Run[], height: number, total: number): number[] {
  const counts: number[] = [];
  let position = 0;
  for (const { column, start, end } of runs) {
    const from = column * height + start;
    if (from === position && counts.length > 0)
      counts[counts.length - 1] = (counts[counts.length - 1] as number) + end - start;
    else counts.push(from - position, end - start);
    position = column * height + end;
  }
  if (position < total) counts.push(total - position);
  return counts;
}
