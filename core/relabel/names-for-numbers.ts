/**
 * Class names that are mere numbers (`3`, `class_3`, `class 3`) with the name at that place of a list, counted from 0;
 * numbers past its end are left out.
 */
export function namesForNumbers(classes: readonly string[], list: readonly string[]): Map<string, string> {
  const named = new Map<string, string>();
  for (const name of classes) {
    const number = /^(?:class[_ ]?)?(\d+)$/i.exec(name)?.[1];
    const to = number === undefined ? undefined : list[Number(number)];
    if (to !== undefined && to !== "") named.set(name, to);
  }
  return named;
}
