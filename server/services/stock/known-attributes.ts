import type { Selection } from "@larder/core/selection/chosen";
import { ask } from "../../snapshot/ask";

/** The attributes that a selection's names may stand for; none where it asks for nothing. */
export async function attributesFor(collection: number, { where }: Pick<Selection, "where">): Promise<string[]> {
  return where.trim() === "" ? [] : ask("attributes", collection, undefined);
}
