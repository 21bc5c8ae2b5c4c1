/** What changed, told from any process to every open page: PostgreSQL's NOTIFY, heard once a process. */
import { sql } from "drizzle-orm";
import pg from "pg";
import { z } from "zod";
import { databaseUrl, db, type Database, type Transaction } from "../db/database";

const channel = "larder";
const eventSchema = z.object({ kind: z.enum(["job", "collection"]), collection: z.number().nullable() });
export type LarderEvent = z.infer<typeof eventSchema>;

export async function announce(event: LarderEvent, on: Database | Transaction = db()): Promise<void> {
  await on.execute(sql`select pg_notify(${channel}, ${JSON.stringify(event)})`);
}

type Listener = (event: LarderEvent) => void;
const held = globalThis as { larderListeners?: Set<Listener>; larderListening?: boolean };

async function listen(listeners: Set<Listener>): Promise<void> {
  const again = () => setTimeout(() => void listen(listeners), 1000).unref();
  try {
    const client = new pg.Client({ connectionString: databaseUrl() });
    client.on("error", again);
    client.on("notification", ({ payload }) => {
      const parsed = eventSchema.safeParse(JSON.parse(payload ?? "null"));
      if (parsed.success) for (const listener of listeners) listener(parsed.data);
    });
    await client.connect();
    await client.query(`LISTEN ${channel}`);
    // Whatever was missed while nobody listened is caught up by one general word.
    for (const listener of listeners) listener({ kind: "collection", collection: null });
  } catch {
    again();
  }
}

/** Calls back for every event until the returned function is called. */
export function onEvent(listener: Listener): () => void {
  held.larderListeners ??= new Set();
  held.larderListeners.add(listener);
  if (!held.larderListening) {
    held.larderListening = true;
    void listen(held.larderListeners);
  }
  return () => held.larderListeners?.delete(listener);
}
