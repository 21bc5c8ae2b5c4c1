/** What hostile files take: each is looked into by the command line; very many classes are taken in, too. */
import { writeArchive } from "@larder/demo/archive";
import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { classTable } from "@larder/server/services/classes";
import { createCollection } from "@larder/server/services/collections";
import { takeInDelivery } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";
import { programFile } from "@larder/server/program-file";
import { settings } from "@larder/server/settings";
import { spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { hostileFiles, manyClassesFolder } from "./hostile-files";
import { residentMegabytes } from "./resident";
import { startWorker } from "./start-worker";

/** A process and all that it started. */
function withChildren(pid: number): number[] {
  const parents = new Map<number, number>();
  for (const entry of readdirSync("/proc")) {
    if (!/^\d+$/.test(entry)) continue;
    try {
      const status = readFileSync(`/proc/${entry}/stat`, "utf8");
      parents.set(Number(entry), Number(status.slice(status.lastIndexOf(")") + 2).split(" ")[1]));
    } catch {
      // It ended meanwhile.
    }
  }
  const family = [pid];
  for (const member of family)
    for (const [child, parent] of parents) if (parent === member && !family.includes(child)) family.push(child);
  return family;
}

/** Runs `larder inspect`; the most megabytes that any of its processes had resident, and how it ended. */
async function inspect(file: string): Promise<{ seconds: number; megabytes: number; exit: number; words: string }> {
  const began = performance.now();
  const child = spawn(process.execPath, ["--max-semi-space-size=64", programFile("larder"), "inspect", file], {
    cwd: settings().root,
    stdio: ["ignore", "pipe", "pipe"],
  });
  let [megabytes, words] = [0, ""];
  const hear = (chunk: Buffer) => (words = `${words}${chunk.toString("utf8")}`.slice(-2000));
  child.stdout.on("data", hear);
  child.stderr.on("data", hear);
  const watch = setInterval(() => {
    for (const pid of withChildren(child.pid as number))
      megabytes = Math.max(megabytes, residentMegabytes(pid, "VmHWM"));
  }, 25);
  const [exit] = (await once(child, "close")) as [number | null];
  clearInterval(watch);
  return { seconds: (performance.now() - began) / 1000, megabytes, exit: exit ?? -1, words };
}

const mostMegabytes = 1024;

/** Prints seconds and megabytes for each; throws where one went wrong in a way that nobody thought of. */
export async function benchHostile(): Promise<void> {
  const folder = mkdtempSync(path.join(tmpdir(), "larder-bench-hostile-"));
  console.log(`hostile files, each inspected (aim: no process above ${mostMegabytes} MB):`);
  try {
    for (const [n, { name, write }] of hostileFiles.entries()) {
      const file = await write(path.join(folder, String(n)));
      const { size } = statSync(file);
      const { seconds, megabytes, exit, words } = await inspect(file);
      rmSync(file, { recursive: true, force: true });
      if (exit < 0 || exit > 2) throw new Error(`${name}: ended with ${exit}: ${words}`);
      console.log(
        `  ${name}${size > 1e7 ? ` (${Math.round(size / 1e6)} MB)` : ""}: ${seconds.toFixed(1)} s, ${Math.round(megabytes)} MB, exit ${exit}`,
      );
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Takes in pictures that are labeled with very many classes, by a worker of its own. */
export async function benchManyClasses(classes: number): Promise<void> {
  const worker = await startWorker();
  const folder = mkdtempSync(path.join(tmpdir(), "larder-bench-classes-"));
  try {
    const archive = path.join(folder, "classes.zip");
    const labels = await manyClassesFolder(path.join(folder, "classes"), classes);
    await writeArchive(
      archive,
      readdirSync(labels).map((name) => ({ path: name, bytes: () => readFile(path.join(labels, name)) })),
    );
    const { id: collectionId } = await createCollection(localActor, { name: "Many classes" });
    const began = performance.now();
    const { id, job } = await receiveArchive(localActor, {
      collectionId,
      archive,
      keep: true,
      fileName: "classes.zip",
    });
    await untilDone(job);
    await untilDone((await takeInDelivery(localActor, id)).job as string);
    const seconds = (performance.now() - began) / 1000;
    const known = (await classTable(localActor, collectionId)).length;
    console.log(
      `  ${known.toLocaleString("en-US")} classes taken in: ${seconds.toFixed(1)} s (aim: 10 s), ${Math.round(residentMegabytes(worker.pid, "VmHWM"))} MB`,
    );
  } finally {
    worker.kill("SIGTERM");
    rmSync(folder, { recursive: true, force: true });
  }
}
