/** Shares of red, green and blue in the luma Y of encoded values (ITU-R BT.709). */
export const lumaShares = [0.2126, 0.7152, 0.0722] as const;

/** Nine numbers, row by row, that move each channel to `factor` times its distance from the luma; 0 makes grey. */
export function saturationMatrix(factor: number): number[] {
  return [0, 1, 2].flatMap((row) =>
    lumaShares.map((share, column) => share * (1 - factor) + (row === column ? factor : 0)),
  );
}
