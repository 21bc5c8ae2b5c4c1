import { buildSync } from "esbuild";
import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";

const skipped = new Set(["node_modules", ".next", "migrations", "bench-worker"]);

function* sources(folder: string): Iterable<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (skipped.has(entry.name) || /\.test\.tsx?$/.test(entry.name) || entry.name === "next-env.d.ts") continue;
    const full = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* sources(full);
    else yield full;
  }
}

/** The worker that holds OpenCV is a file of its own: what it may do, its answer alone says. */
function buildProposeWorker(root: string): void {
  buildSync({
    entryPoints: [path.join(root, "web", "features", "bench", "propose", "worker.ts")],
    outfile: path.join(root, "web", "public", "bench-worker", "propose.js"),
    bundle: true,
    minify: true,
    format: "iife",
    platform: "browser",
    // Asked for only where it runs outside of a browser.
    external: ["fs", "path", "crypto"],
    logLevel: "error",
  });
}

/**
 * Builds the pages where their sources have changed since the last build. Returns whether it did, and the hash of what
 * stands now.
 */
export function buildWeb(root: string): { anew: boolean; sources: string } {
  const hash = createHash("sha256");
  for (const area of ["core", "server", "web"]) {
    for (const file of sources(path.join(root, area)))
      hash.update(path.relative(root, file)).update(readFileSync(file));
  }
  hash.update(readFileSync(path.join(root, "package-lock.json")));
  const want = hash.digest("hex");
  const stamp = path.join(root, "web", ".next", "larder-sources");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === want) return { anew: false, sources: want };
  buildProposeWorker(root);
  const next = path.join(root, "node_modules", "next", "dist", "bin", "next");
  const built = spawnSync(process.execPath, [next, "build", path.join(root, "web")], {
    encoding: "utf8",
    env: { ...process.env, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
  });
  if (built.status !== 0) throw new Error(`The pages could not be built.\n${built.stdout}\n${built.stderr}`);
  writeFileSync(stamp, want);
  return { anew: true, sources: want };
}
