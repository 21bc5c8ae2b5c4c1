/** The thread that reads all features of a large collection, for the one that keeps snapshots to be free meanwhile. */
import { move } from "piscina";
import { closePool, steadyRead } from "../db/database";
import { copyBytes } from "./copy-out";
import { keepFeatures } from "./kept-features";
import { featuresQuery } from "./load-learned";

/**
 * The features of a collection that were made after a number, as the database sends them, which are kept for the next process; `expected`: about how many bytes that may be.
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
    const bytes = await steadyRead(async (_, client) => {
      const sent = await copyBytes(client, featuresQuery(collection, after), expected);
      await keepFeatures(client, collection, after, sent);
      return sent;
    });
    return move(bytes);
  } finally {
    await closePool();
  }
}
