/** label_map.pbtxt: `item { id: 1 name: 'roll' }`. */

const escapes: Record<string, string> = { n: "\n", t: "\t", r: "\r" };

/** Names by id; `display_name` counts where there is no `name`. */
export function parseLabelMap(text: string): Map<number, string> {
  const names = new Map<number, string>();
  for (const [, body = ""] of text.matchAll(/item\s*\{((?:[^{}"']|"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')*)\}/g)) {
    const entry: Record<string, string> = {};
    for (const [, key = "", double, single, plain] of body.matchAll(
      /(\w+)\s*:\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|([^\s,;}]+))/g,
    )) {
      entry[key] =
        plain ?? (double ?? single ?? "").replace(/\\(.)/g, (_, letter: string) => escapes[letter] ?? letter);
    }
    const id = Number(entry["id"]);
    const name = entry["name"] ?? entry["display_name"];
    if (Number.isInteger(id) && name !== undefined) names.set(id, name);
  }
  return names;
}

export function formatLabelMap(names: readonly string[]): string {
  return names
    .map((name, n) => `item {\n  id: ${n + 1}\n  name: '${name.replace(/[\\']/g, "\\$&").replace(/\n/g, "\\n")}'\n}\n`)
    .join("");
}
