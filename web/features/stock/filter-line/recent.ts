/** The selections that were applied last in a collection, newest first; kept in this browser. */
import { z } from "zod";

const keyOf = (collection: number) => `larder-selections-${collection}`;
const most = 8;
const listSchema = z.array(z.string()).catch([]);

export function recentSelections(collection: number): string[] {
  try {
    return listSchema.parse(JSON.parse(localStorage.getItem(keyOf(collection)) ?? "[]"));
  } catch {
    return [];
  }
}

export function rememberSelection(collection: number, where: string): void {
  if (where === "") return;
  const list = [where, ...recentSelections(collection).filter((other) => other !== where)].slice(0, most);
  localStorage.setItem(keyOf(collection), JSON.stringify(list));
}
