import { closePool } from "@larder/server/db/database";
import { closeQueue } from "@larder/server/jobs/queue";
import { removeCluster, startCluster, stopCluster } from "@larder/server/db/cluster";
import { migrate } from "@larder/server/db/migrate";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { benchPipeline } from "./pipeline";
const home = mkdtempSync(path.join(tmpdir(), "larder-bench-"));
process.env["LARDER_HOME"] = home;
delete process.env["LARDER_DATABASE_URL"];
await startCluster(home);
try {
  await migrate();
  await benchPipeline(Number(process.argv[2] ?? 1000));
} finally {
  await closeQueue();
  await closePool();
  stopCluster(home);
  removeCluster(home);
  rmSync(home, { recursive: true, force: true });
}
process.exit(0);
