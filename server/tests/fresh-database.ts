/** Before each file of tests: a home and a database of its own. */
import { randomBytes } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import pg from "pg";
import { afterAll, beforeAll } from "vitest";

const cluster = process.env["LARDER_TEST_CLUSTER"] as string;
const url = new URL(readFileSync(path.join(cluster, "database-url"), "utf8").trim());
const name = `test_${randomBytes(6).toString("hex")}`;
const home = mkdtempSync(path.join(tmpdir(), "larder-home-"));
const admin = new pg.Client({ connectionString: String(url) });
process.env["LARDER_HOME"] = home;
url.pathname = `/${name}`;
process.env["LARDER_DATABASE_URL"] = String(url);

beforeAll(async () => {
  await admin.connect();
  await admin.query(`create database ${name}`);
  const { migrate } = await import("../db/migrate");
  await migrate();
});

afterAll(async () => {
  const [{ closePool }, { closeQueue }, { closeSnapshots }] = await Promise.all([
    import("../db/database"),
    import("../jobs/queue"),
    import("../snapshot/ask"),
  ]);
  await closeSnapshots();
  await closeQueue();
  await closePool();
  await admin.query(`drop database ${name} with (force)`);
  await admin.end();
  rmSync(home, { recursive: true, force: true });
});
