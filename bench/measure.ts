/** One thing measured in a process of its own: prints seconds and the most memory that was resident. */
import { readFileSync } from "node:fs";

const [what = "", file = "", destination = ""] = process.argv.slice(2);
const began = await prepare();

async function prepare(): Promise<number> {
  if (what === "inspect") {
    const { inspectSource } = await import("@larder/cli/converting/inspect");
    const start = performance.now();
    await inspectSource(file, undefined, []);
    return start;
  }
  if (what === "intake") {
    const { intake } = await import("./intake");
    const { work } = await import("@larder/server/jobs/work");
    const { jobHandlers } = await import("@larder/server/services/job-handlers");
    const stop = await work(jobHandlers, 1);
    // With a destination named: only the taking in, of a process that has done nothing yet.
    const start = performance.now();
    const { reading } = await intake(file, process.pid);
    stop();
    return destination === "taking" ? start + reading * 1000 : start;
  }
  if (what === "convert") {
    const { convertSource } = await import("@larder/cli/converting/convert");
    const start = performance.now();
    await convertSource(file, destination, { to: "yolo", option: ["images=none"] });
    return start;
  }
  const start = performance.now();
  const parsed = JSON.parse(readFileSync(file, "utf8")) as { annotations: unknown[] };
  if (parsed.annotations.length === 0) throw new Error("nothing was parsed");
  return start;
}

const seconds = (performance.now() - began) / 1000;
console.log(JSON.stringify({ seconds, megabytes: process.resourceUsage().maxRSS / 1024 }));
// Pools and queues of an intake would keep the process waiting.
process.exit(0);
