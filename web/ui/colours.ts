/** The class colours and collection bands, as CSS values. */

/** Colours that differ in hue; further classes take them again, darker and then lighter, with a pattern. */
const hues = 12;

/** The colour of a class for lines and outlines, by its number. */
export function classColour(index: number): string {
  const hue = `var(--class-${(index % hues) + 1})`;
  const round = Math.floor(index / hues) % 3;
  if (round === 0) return hue;
  return `color-mix(in oklab, ${hue} ${round === 1 ? 58 : 52}%, ${round === 1 ? "black" : "white"})`;
}

/** The same for areas, where classes beyond the twelfth also have stripes. */
export function classFill(index: number): string {
  const round = Math.floor(index / hues) % 3;
  if (round === 0) return classColour(index);
  const hue = `var(--class-${(index % hues) + 1})`;
  const angle = round === 1 ? 45 : 135;
  return `repeating-linear-gradient(${angle}deg, ${classColour(index)} 0 3px, ${hue} 3px 5px)`;
}

export function bandColour(index: number): string {
  return `var(--band-${(index % 8) + 1})`;
}
