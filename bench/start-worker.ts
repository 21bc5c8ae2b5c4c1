import { programFile } from "@larder/server/program-file";
import { settings } from "@larder/server/settings";
import { spawn, type ChildProcess } from "node:child_process";
import { once } from "node:events";

/** A worker as the start command runs it, once it is ready. */
export async function startWorker(): Promise<ChildProcess & { pid: number }> {
  const worker = spawn(process.execPath, [programFile("worker")], {
    cwd: settings().root,
    stdio: ["ignore", "pipe", "inherit"],
  });
  await once(worker.stdout, "data");
  if (worker.pid === undefined) throw new Error("the worker did not start");
  return Object.assign(worker, { pid: worker.pid });
}
