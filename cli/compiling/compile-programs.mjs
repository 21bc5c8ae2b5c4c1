/**
 * Compiles Larder's programs and threads into .compiled, each with the packages it needs, so that they start several
 * times as fast: nothing is looked up and translated file by file. Packages with machine code, with threads of their own
 * or that are changed while they run stay where they are.
 */
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("../..", import.meta.url));
const target = path.join(root, ".compiled");
const stamp = path.join(target, "stamp.json");

/** Each program by the name of its file in .compiled; server/program-file.ts names them for those that start them. */
const programs = {
  larder: "cli/main.ts",
  supervise: "cli/running/supervise.ts",
  serve: "web/serve.ts",
  worker: "worker/main.ts",
  "stand-in": "demo/stand-in/main.ts",
  "draw-demo": "demo/draw.ts",
  "read-pdf": "server/files/pdf/reader-main.ts",
  "hash-file-thread": "server/files/hash-file-now.ts",
  "write-files-thread": "server/files/write-files-now.ts",
  "render-thread": "server/pixels/render-thread.ts",
  "snapshot-thread": "server/snapshot/snapshot-thread.ts",
  "features-thread": "server/snapshot/features-thread.ts",
  "checks-thread": "server/services/checks/checks-thread.ts",
  "counting-thread": "server/services/planning/counting-thread.ts",
  measure: "bench/measure.ts",
};
const external = [
  "esbuild",
  "@techstark/opencv-js",
  "sharp",
  "piscina",
  "yazl",
  "pdfjs-dist",
  "@napi-rs/*",
  "next",
  "playwright-core",
  "pg-native",
];

const changedAt = (file) => statSync(path.join(root, file), { throwIfNoEntry: false })?.mtimeMs ?? null;

/** Whether every file that went into what stands is as it was then. */
function isCurrent() {
  let inputs;
  try {
    inputs = JSON.parse(readFileSync(stamp, "utf8"));
  } catch {
    return false;
  }
  return Object.entries(inputs).every(([file, time]) => changedAt(file) === time);
}

function writeWhole(file, content) {
  writeFileSync(`${file}.${process.pid}`, content);
  renameSync(`${file}.${process.pid}`, file);
}

/** What an earlier compilation left goes once nobody can be running it any more. */
function clearOld(current) {
  const dayAgo = Date.now() - 86_400_000;
  for (const name of readdirSync(target)) {
    const file = path.join(target, name);
    if (!current.has(file) && (statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? 0) < dayAgo)
      rmSync(file, { force: true });
  }
}

/** Compiles all programs where a source or the lock file has changed since; throws where one has an error. */
export async function compilePrograms() {
  if (isCurrent()) return;
  const { build } = await import("esbuild");
  const { outputFiles, metafile } = await build({
    absWorkingDir: root,
    entryPoints: Object.entries(programs).map(([out, file]) => ({ in: file, out })),
    outdir: target,
    outExtension: { ".js": ".mjs" },
    chunkNames: "part-[hash]",
    bundle: true,
    splitting: true,
    format: "esm",
    platform: "node",
    target: "node20",
    external,
    write: false,
    metafile: true,
    logLevel: "error",
    // Packages of the older kind ask for others by `require`, which a module of the newer kind does not have.
    banner: {
      js: 'import { createRequire as requireFrom } from "node:module"; const require = requireFrom(import.meta.url);',
    },
  });
  const inputs = Object.keys(metafile.inputs).filter((file) => !file.startsWith("node_modules/"));
  mkdirSync(target, { recursive: true });
  // The parts first: a program that starts meanwhile finds what it asks for.
  const isPart = ({ path: file }) => path.basename(file).startsWith("part-");
  for (const { path: file, contents } of [...outputFiles].sort((a, b) => Number(isPart(b)) - Number(isPart(a))))
    writeWhole(file, contents);
  const times = ["package-lock.json", "cli/compiling/compile-programs.mjs", ...inputs];
  writeWhole(stamp, JSON.stringify(Object.fromEntries(times.map((file) => [file, changedAt(file)]))));
  clearOld(new Set([stamp, ...outputFiles.map((file) => file.path)]));
}
