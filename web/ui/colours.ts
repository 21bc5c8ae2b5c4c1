/** The class colours and collection bands, as CSS values. */
export function classColour(index: number): string {
  return `var(--class-${(index % 12) + 1})`;
}

export function bandColour(index: number): string {
  return `var(--band-${(index % 8) + 1})`;
}
