import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { removeCluster, startCluster, stopCluster } from "../db/cluster";

/** One cluster for all service tests, gone with them. */
export async function setup(): Promise<() => void> {
  process.env["LARDER_DATABASE_SYNC"] = "off";
  const home = mkdtempSync(path.join(tmpdir(), "larder-cluster-"));
  await startCluster(home);
  process.env["LARDER_TEST_CLUSTER"] = home;
  return () => {
    stopCluster(home);
    removeCluster(home);
    rmSync(home, { recursive: true, force: true });
  };
}
