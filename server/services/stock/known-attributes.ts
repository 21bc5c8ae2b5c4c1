import { asksAttributes } from "@larder/core/selection/asks-attributes";
import { ask } from "../../snapshot/ask";

/** The attributes that names in some selections may stand for; none where what they mean depends on none. */
export async function attributesFor(collection: number, ...selections: string[]): Promise<string[]> {
  return selections.some(asksAttributes) ? ask("attributes", collection, undefined) : [];
}
