import { closePool } from "@larder/server/db/database";
import { closeQueue } from "@larder/server/jobs/queue";
import { removeCluster, startCluster, stopCluster } from "@larder/server/db/cluster";
import { migrate } from "@larder/server/db/migrate";
import { settings } from "@larder/server/settings";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { benchChecks } from "./checks";
import { benchConversion } from "./conversion";
import { benchDrawing } from "./drawing";
import { benchHostile, benchManyClasses } from "./hostile";
import { benchIntake } from "./intake";
import { benchMasks } from "./masks";
import { benchMemory } from "./memory";
import { benchPipeline } from "./pipeline";
import { benchStock } from "./stock";
import { benchPropose } from "./propose";
import { benchRender } from "./render";
import { benchScrolling } from "./scrolling";
import { benchSheet } from "./sheet";
import { benchWorkerMemory } from "./worker-memory";

/** Those that need nothing but files. */
async function benchWithoutDatabase(only: string): Promise<void> {
  if (only === "all" || only === "masks") benchMasks();
  if (only === "all" || only === "propose") await benchPropose();
  if (only === "all" || only === "checks") await benchChecks();
  if (only === "all" || only === "drawing") await benchDrawing();
  if (only === "all" || only === "scrolling") await benchScrolling();
  if (only === "all" || only === "coco") await benchConversion(100_000);
  if (only === "all" || only === "hostile") await benchHostile();
  if (only === "all" || only === "render") await benchRender(200);
}

const withDatabase = ["all", "hostile", "intake", "memory", "page", "sheet", "stock", "worker"];

async function benchWithDatabase(home: string, images: number, only: string): Promise<void> {
  if (!withDatabase.includes(only)) return;
  await startCluster(home);
  try {
    await migrate();
    if (only === "all" || only === "memory")
      await benchMemory(only === "memory" ? [10, 2000, 20_000, 100_000] : [10, 2000, 20_000]);
    if (only === "all" || only === "hostile") await benchManyClasses(20_000);
    if (only === "all" || only === "worker") await benchWorkerMemory([1000, 5000]);
    if (only === "all" || only === "sheet") await benchSheet(20_000);
    if (only === "all" || only === "stock") await benchStock(100_000, 10, only === "stock" ? 50 : 10);
    if (only === "all" || only === "page") await benchPipeline(5000);
    if (only === "all" || only === "intake") await benchIntake(images);
  } finally {
    await closeQueue();
    await closePool();
    stopCluster(home);
    removeCluster(home);
  }
}

/** Runs benchmarks in a home of their own and prints ratios; `only` names one of them, or all. */
export async function bench(images: number, only: string): Promise<void> {
  // Settings are read once: before anything asks for them, or a benchmark would work in the home of whoever runs it.
  const home = mkdtempSync(path.join(tmpdir(), "larder-bench-"));
  process.env["LARDER_HOME"] = home;
  delete process.env["LARDER_DATABASE_URL"];
  if (settings().home !== home) throw new Error("the settings were read before the home of the benchmarks was made");
  try {
    await benchWithoutDatabase(only);
    await benchWithDatabase(home, images, only);
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
}
