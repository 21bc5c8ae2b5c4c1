/** What has to be said of objects before one goes on to another image. */
import { missingAttributes, type AttributeSchema } from "../model/attribute-schema";

/** Objects of one class that lack the same attributes. */
export type Unsaid = { className: string; attributes: readonly string[]; uids: string[] };

/**
 * Objects of which something required is not said, those of one class that lack the same together, in the order in which
 * the first of each was drawn. `classOf` tells of a class by its number; objects of one that is gone lack nothing.
 */
export function unsaidAttributes(
  objects: readonly { uid: string; class: number; attributes?: Readonly<Record<string, unknown>> | undefined }[],
  classOf: (id: number) => { name: string; attributes: readonly AttributeSchema[] } | undefined,
): Unsaid[] {
  const alike = new Map<string, Unsaid>();
  for (const { uid, class: id, attributes } of objects) {
    const info = classOf(id);
    const missing = missingAttributes(info?.attributes ?? [], attributes);
    if (!info || missing.length === 0) continue;
    const key = JSON.stringify([id, missing]);
    const others = alike.get(key);
    if (others) others.uids.push(uid);
    else alike.set(key, { className: info.name, attributes: missing, uids: [uid] });
  }
  return [...alike.values()];
}
