/** What is left of a class name when case, spaces, punctuation and a plural ending are taken away. */
export function bareName(name: string): string {
  const bare = name
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, "");
  if (bare.length > 4 && bare.endsWith("ies")) return `${bare.slice(0, -3)}y`;
  if (bare.length > 4 && /(ses|xes|zes|ches|shes)$/.test(bare)) return bare.slice(0, -2);
  if (bare.length > 2 && bare.endsWith("s") && !bare.endsWith("ss")) return bare.slice(0, -1);
  return bare;
}

/** Pairs of different names that are bare the same, in the order they stand. */
export function lookAlikes(names: readonly string[]): [string, string][] {
  const first = new Map<string, string>();
  const pairs: [string, string][] = [];
  for (const name of new Set(names)) {
    const bare = bareName(name);
    const known = first.get(bare);
    if (known === undefined) first.set(bare, name);
    else pairs.push([known, name]);
  }
  return pairs;
}
