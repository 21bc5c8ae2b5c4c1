/** Keeps the application and its worker running; a process that dies is started again. Started detached by `up`. */
import { spawn, type ChildProcess } from "node:child_process";
import { mkdirSync, openSync, writeFileSync } from "node:fs";
import path from "node:path";
import { settings } from "@larder/server/settings";

const { home, standInPort } = settings();
const root = process.env["LARDER_ROOT"] ?? process.cwd();
const logs = path.join(home, "logs");
mkdirSync(logs, { recursive: true });

const programs: Record<string, string[]> = {
  web: ["--import", "tsx", path.join(root, "web", "serve.ts")],
  ...(process.env["LARDER_BUCKETS"] === undefined
    ? {
        "stand-in": [
          "--import",
          "tsx",
          path.join(root, "demo", "stand-in", "main.ts"),
          path.join(home, "stand-in"),
          String(standInPort),
        ],
      }
    : {}),
  worker: ["--import", "tsx", path.join(root, "worker", "main.ts")],
};
const children = new Map<string, ChildProcess>();
let ending = false;

function start(name: string, args: string[]): void {
  const log = openSync(path.join(logs, `${name}.log`), "a");
  const child = spawn(process.execPath, args, {
    cwd: root,
    stdio: ["ignore", log, log],
    env: { ...process.env, LARDER_HOME: home, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
  });
  children.set(name, child);
  writeFileSync(path.join(home, `${name}.pid`), String(child.pid));
  const began = Date.now();
  child.on("exit", () => {
    if (ending) return;
    // One that falls at once is not started in a tight circle.
    setTimeout(() => start(name, args), Date.now() - began < 2000 ? 2000 : 100);
  });
}

for (const [name, args] of Object.entries(programs)) start(name, args);
for (const signal of ["SIGTERM", "SIGINT"] as const) {
  process.once(signal, () => {
    ending = true;
    for (const child of children.values()) child.kill("SIGTERM");
    setTimeout(() => {
      for (const child of children.values()) if (child.exitCode === null) child.kill("SIGKILL");
      process.exit(0);
    }, 1500);
  });
}
