const hexColour = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i;

/** Red, green and blue of `#rrggbb`, 0 … 255 each. Throws where the text is none. */
export function parsedColour(text: string): [number, number, number] {
  const match = hexColour.exec(text);
  if (!match) throw new RangeError(`${text} is no colour`);
  return [1, 2, 3].map((group) => parseInt(match[group] as string, 16)) as [number, number, number];
}

export const isColour = (text: string): boolean => hexColour.test(text);
