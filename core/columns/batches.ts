/** What is iterated over as lists of `size`, the last of what is left; none is empty. */
export function* batchesOf<T>(values: Iterable<T>, size: number): Generator<T[]> {
  let batch: T[] = [];
  for (const value of values) {
    batch.push(value);
    if (batch.length < size) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
}
