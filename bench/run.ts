/**
 * Benchmarks by their names. Each works in a process, a home and a database of its own: what one leaves (memory, rows,
 * work to be done in the background) would be measured with the next.
 */
import { closePool } from "@larder/server/db/database";
import { closeQueue } from "@larder/server/jobs/queue";
import { removeCluster, startCluster, stopCluster } from "@larder/server/db/cluster";
import { migrate } from "@larder/server/db/migrate";
import { settings } from "@larder/server/settings";
import { spawnSync } from "node:child_process";
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
import { benchPacking } from "./packing";
import { benchPipeline } from "./pipeline";
import { benchStock } from "./stock";
import { benchPropose } from "./propose";
import { benchRender } from "./render";
import { benchScrolling } from "./scrolling";
import { benchSheet } from "./sheet";
import { benchWorkerMemory } from "./worker-memory";

/** `images` of the intake; `brief` leaves out what takes longest, as when all are run one after the other. */
export type BenchOptions = { images: number; brief: boolean };

type Bench = { needsDatabase?: boolean; run: (options: BenchOptions) => Promise<void> | void };

const benches: Record<string, Bench> = {
  masks: { run: benchMasks },
  propose: { run: benchPropose },
  checks: { run: benchChecks },
  drawing: { run: benchDrawing },
  scrolling: { run: benchScrolling },
  coco: { run: () => benchConversion(100_000) },
  hostile: {
    needsDatabase: true,
    async run() {
      await benchHostile();
      await benchManyClasses(20_000);
    },
  },
  render: { run: () => benchRender(200) },
  memory: {
    needsDatabase: true,
    run: ({ brief }) => benchMemory(brief ? [10, 2000, 20_000] : [10, 2000, 20_000, 100_000]),
  },
  worker: {
    needsDatabase: true,
    run: ({ brief }) => benchWorkerMemory(brief ? [1000, 5000] : [1000, 20_000]),
  },
  sheet: { needsDatabase: true, run: () => benchSheet(20_000) },
  stock: { needsDatabase: true, run: ({ brief }) => benchStock(100_000, 10, brief ? 10 : 50) },
  packing: { needsDatabase: true, run: () => benchPacking(2000) },
  page: { needsDatabase: true, run: () => benchPipeline(5000) },
  intake: { needsDatabase: true, run: ({ images }) => benchIntake(images) },
};

async function withDatabase(home: string, run: () => Promise<void> | void): Promise<void> {
  await startCluster(home);
  try {
    await migrate();
    await run();
  } finally {
    await closeQueue();
    await closePool();
    stopCluster(home);
    removeCluster(home);
  }
}

/** Runs each benchmark as a command of its own; returns those that failed. */
function runAll(images: number): string[] {
  const command = [...process.execArgv, process.argv[1] as string, "bench", "--brief", "--images", String(images)];
  return Object.keys(benches).filter(
    (name) => spawnSync(process.execPath, [...command, "--only", name], { stdio: "inherit" }).status !== 0,
  );
}

/** Runs one benchmark, or all one after the other, and prints ratios. Returns the exit status. */
export async function bench(only: string, options: BenchOptions): Promise<number> {
  if (only === "all") {
    const failed = runAll(options.images);
    if (failed.length > 0) console.error(`Not measured to the end: ${failed.join(", ")}.`);
    return failed.length > 0 ? 1 : 0;
  }
  const one = Object.hasOwn(benches, only) ? benches[only] : undefined;
  if (!one) {
    console.error(`There is no benchmark "${only}". There are: ${Object.keys(benches).join(", ")}.`);
    return 2;
  }
  // Settings are read once: before anything asks for them, or a benchmark would work in the home of whoever runs it.
  const home = mkdtempSync(path.join(tmpdir(), "larder-bench-"));
  process.env["LARDER_HOME"] = home;
  delete process.env["LARDER_DATABASE_URL"];
  if (settings().home !== home) throw new Error("the settings were read before the home of the benchmarks was made");
  try {
    await (one.needsDatabase ? withDatabase(home, () => one.run(options)) : one.run(options));
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
  return 0;
}
