/** The thread that reads all features of a large collection, for the one that keeps snapshots to be free meanwhile. */
import { move } from "piscina";
import { closePool, steadyRead } from "../db/database";
import { copyBytes } from "./copy-out";
import { featuresQuery } from "./load-learned";

/**
 * The features of a collection as the database sends them; `expected`: about how many bytes that may be.
 * @public The pool calls it by its name.
 */
export async function readFeatures({ collection, expected }: { collection: number; expected: number }) {
  try {
    return move(await steadyRead((_, client) => copyBytes(client, featuresQuery(collection, 0), expected)));
  } finally {
    await closePool();
  }
}
