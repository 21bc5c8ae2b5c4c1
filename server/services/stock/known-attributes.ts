import { ask } from "../../snapshot/ask";

/** The attributes that names in a text may stand for; none where it asks for nothing. */
export async function attributesFor(collection: number, text: string): Promise<string[]> {
  return text.trim() === "" ? [] : ask("attributes", collection, undefined);
}
