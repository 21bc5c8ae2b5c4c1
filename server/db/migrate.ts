import { Failure } from "@larder/core/model/failure";
import { drizzle } from "drizzle-orm/node-postgres";
import { migrate as run } from "drizzle-orm/node-postgres/migrator";
import path from "node:path";
import pg from "pg";
import { settings } from "../settings";
import { databaseUrl } from "./database";

/** A database that does not answer for so long is not there. */
const answerMilliseconds = 2000;

/** A connection to a database. Throws a Failure that says what is wrong with its address. */
async function connected(url: string): Promise<pg.Client> {
  const place = URL.canParse(url) ? new URL(url) : null;
  const failure = (why: string) =>
    new Failure(
      "database-unreachable",
      `The database${place ? ` at ${place.host}${place.pathname}` : ""} cannot be used: ${why}. Check LARDER_DATABASE_URL.`,
      500,
    );
  if (!place || !/^postgres(ql)?:$/.test(place.protocol))
    throw failure("its address is none; it begins with postgresql://");
  const client = new pg.Client({ connectionString: url, connectionTimeoutMillis: answerMilliseconds });
  try {
    await client.connect();
    return client;
  } catch (error) {
    await client.end().catch(() => undefined);
    const { code, message } = error as { code?: string; message: string };
    if (code === "ECONNREFUSED") throw failure("nothing listens there");
    if (code === "ENOTFOUND" || code === "EAI_AGAIN") throw failure("there is no machine of that name");
    if (code === "28P01" || code === "28000") throw failure("it refuses that name and password");
    if (code === "3D000") throw failure("there is no database of that name");
    throw failure(/timeout/i.test(message) ? "nothing that is a database answers there" : message);
  }
}

/** Brings a database to the newest schema; does nothing where it is there already. */
export async function migrate(url = databaseUrl()): Promise<void> {
  // One connection for all of it: what a migration needs for a moment are temporary functions and tables.
  const client = await connected(url);
  try {
    await run(drizzle(client), {
      migrationsFolder: path.join(settings().root, "server", "db", "migrations"),
    });
  } finally {
    await client.end();
  }
}
