/** What changed, told from any process to every open page: PostgreSQL's NOTIFY, heard once a process. */
import { eq, sql } from "drizzle-orm";
import pg from "pg";
import { z } from "zod";
import { databaseUrl, db, type Database, type Transaction } from "../db/database";
import { collections } from "../db/schema";

const channel = "larder";

/** What a change touches. `queue` is for workers: something waits to be done. */
export const topics = [
  "stock",
  "classes",
  "deliveries",
  "plans",
  "versions",
  "shelf",
  "selections",
  "checks",
  "features",
  "jobs",
  "queue",
] as const;
export type Topic = (typeof topics)[number];

const eventSchema = z.object({
  /** Null where it concerns no collection or all of them. */
  collection: z.number().nullable(),
  topics: z.array(z.enum(topics)),
  /** The collection's revision after it; null where nothing in a collection changed. */
  revision: z.number().nullable(),
});
export type LarderEvent = z.infer<typeof eventSchema>;

export async function announce(event: LarderEvent, on: Database = db()): Promise<void> {
  await on.execute(sql`select pg_notify(${channel}, ${JSON.stringify(event)})`);
}

/**
 * Says that a transaction changes something in a collection: the collection's revision goes up by one, others that
 * change it wait until this one has ended, and open pages hear of it when it is committed. Returns the new revision.
 */
export async function changed(tx: Transaction, collection: number, ...touched: Topic[]): Promise<number> {
  const [row] = await tx
    .update(collections)
    .set({ revision: sql`${collections.revision} + 1` })
    .where(eq(collections.id, collection))
    .returning({ revision: collections.revision });
  const revision = row?.revision ?? 0;
  await announce({ collection, topics: touched, revision }, tx);
  return revision;
}

/** Keeps others from changing a collection until the transaction ends; the first thing an act takes hold of. */
export async function lockCollection(tx: Transaction, collection: number): Promise<void> {
  await tx.select({ id: collections.id }).from(collections).where(eq(collections.id, collection)).for("update");
}

type Listener = (event: LarderEvent) => void;
const shared = globalThis as { larderListeners?: Set<Listener>; larderClient?: Promise<pg.Client> | undefined };

/** Something may have been missed: whoever listens looks at everything anew. */
const anything: LarderEvent = { collection: null, topics: [...topics], revision: null };

async function listen(listeners: Set<Listener>): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: databaseUrl() });
  const again = () => {
    if (listeners.size === 0) shared.larderClient = undefined;
    else setTimeout(() => void (shared.larderClient = listen(listeners)), 1000).unref();
  };
  client.on("error", again);
  client.on("notification", ({ payload }) => {
    const parsed = eventSchema.safeParse(JSON.parse(payload ?? "null"));
    if (parsed.success) for (const listener of listeners) listener(parsed.data);
  });
  try {
    await client.connect();
    await client.query(`listen ${channel}`);
    for (const listener of listeners) listener(anything);
  } catch {
    again();
  }
  return client;
}

/** Calls back for every event until the returned function is called. */
export function onEvent(listener: Listener): () => void {
  const listeners = (shared.larderListeners ??= new Set());
  listeners.add(listener);
  shared.larderClient ??= listen(listeners);
  return () => {
    listeners.delete(listener);
    if (listeners.size > 0) return;
    const client = shared.larderClient;
    shared.larderClient = undefined;
    void client?.then((open) => open.end()).catch(() => undefined);
  };
}
