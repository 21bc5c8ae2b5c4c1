/** What waits to be sent, kept in the browser: it outlives a lost connection, a closed page and a closed browser. */
import type { Change } from "@larder/core/editing/change-log";
import { createStore, del, get, set } from "idb-keyval";

export type Waiting = {
  unsent: Change[];
  /** The acts that what is to be undone became. */
  acts: [key: string, act: number][];
};

const store = () => createStore("larder-bench", "unsent");
const key = (collection: number, image: number) => `${collection} ${image}`;

/** What waits for an image; null where nothing does, or where the browser keeps nothing. */
export async function waitingFor(collection: number, image: number): Promise<Waiting | null> {
  try {
    return (await get<Waiting>(key(collection, image), store())) ?? null;
  } catch {
    return null;
  }
}

export async function keepWaiting(collection: number, image: number, waiting: Waiting): Promise<void> {
  try {
    if (waiting.unsent.length === 0) await del(key(collection, image), store());
    else await set(key(collection, image), waiting, store());
  } catch {
    // A browser that keeps nothing (a private window) still sends; only a closed page would lose what waits.
  }
}
