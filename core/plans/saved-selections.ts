/** `@name` in a plan's selection stands for a selection that was saved under that name. */
import { Failure } from "../model/failure";

/** Quoted texts, which are left alone, or `@` with a bare or quoted name. */
const parts = /"(?:[^"\\]|\\.)*"|@(?:"((?:[^"\\]|\\.)*)"|([\p{L}\p{N}_.-]+))/gu;

function replaced(where: string, textOf: (name: string) => string): string {
  return where.replace(parts, (found: string, quoted: string | undefined, bare: string | undefined) => {
    const name = bare ?? quoted?.replace(/\\(.)/g, "$1");
    return name === undefined || !found.startsWith("@") ? found : `(${textOf(name)})`;
  });
}

/** The text with every saved selection read as one that always holds: for finding mistakes around it. */
export function withoutSavedNames(where: string): string {
  return replaced(where, () => "objects >= 0");
}

/** The text with saved selections put in. Throws a Failure for a name that nothing is saved under. */
export function expandSaved(where: string, saved: ReadonlyMap<string, string>): string {
  return replaced(where, (name) => {
    const text = saved.get(name);
    if (text === undefined)
      throw new Failure(
        "selection-unknown",
        `No selection is saved as @${name}.${saved.size > 0 ? ` There are ${[...saved.keys()].map((key) => `@${key}`).join(", ")}.` : ""}`,
      );
    return text.trim() === "" ? "objects >= 0" : text;
  });
}
