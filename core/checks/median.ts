/** The middle value of some, which are put in order; of an even number the mean of the two in the middle. */
export function median(values: Float64Array): number {
  values.sort();
  const middle = values.length >> 1;
  return values.length % 2 === 1
    ? (values[middle] as number)
    : ((values[middle - 1] as number) + (values[middle] as number)) / 2;
}
