/**
 * Shares of a whole by the largest remainder (Hamilton's method): each is its exact quota rounded down or up, and
 * they sum to `total`. A share above 0 never comes out as 0 while there is something to give: it takes one from the
 * largest.
 */
export function apportion(total: number, shares: readonly number[]): number[] {
  const sum = shares.reduce((a, b) => a + b, 0);
  if (sum <= 0 || total <= 0) return shares.map(() => 0);
  const quotas = shares.map((share) => (share * total) / sum);
  const counts = quotas.map(Math.floor);
  let left = total - counts.reduce((a, b) => a + b, 0);
  const byRemainder = quotas
    .map((quota, index) => ({ index, remainder: quota - Math.floor(quota) }))
    .sort((a, b) => b.remainder - a.remainder || a.index - b.index);
  for (const { index } of byRemainder) {
    if (left === 0) break;
    counts[index] = (counts[index] as number) + 1;
    left--;
  }
  for (let index = 0; index < shares.length; index++) {
    if ((shares[index] as number) <= 0 || (counts[index] as number) > 0) continue;
    const largest = counts.indexOf(Math.max(...counts));
    if ((counts[largest] as number) <= 1) break;
    counts[largest] = (counts[largest] as number) - 1;
    counts[index] = 1;
  }
  return counts;
}
