/** The thread that reads all features of a large collection, for the one that keeps snapshots to be free meanwhile. */
import { move } from "piscina";
import { closePool, steadyRead } from "../db/database";
import { copyBytes } from "./copy-out";
import { featuresQuery } from "./features-query";

/**
 * The features of a collection that were made after a number, as the database sends them; `expected`: about how many bytes that may be.
 * @public The pool calls it by its name.
 */
export async function readFeatures({
  collection,
  after,
  expected,
}: {
  collection: number;
  after: number;
  expected: number;
}) {
  try {
    const bytes = await steadyRead((_, client) => copyBytes(client, featuresQuery(collection, after), expected));
    return move(bytes);
  } finally {
    await closePool();
  }
}
