/**
 * Keeps the application, its workers and its database running: what falls is started again, with growing pauses, until it
 * has fallen five times. Started detached by `up`.
 */
import { clusterRuns, startCluster } from "@larder/server/db/cluster";
import { programFile } from "@larder/server/program-file";
import { settings } from "@larder/server/settings";
import { spawn, type ChildProcess } from "node:child_process";
import { mkdirSync, openSync, writeFileSync } from "node:fs";
import path from "node:path";
import { troubleFile } from "./processes";

const { home, standInPort, databaseUrl, jobsAtOnce } = settings();
const root = process.env["LARDER_ROOT"] ?? process.cwd();
const logs = path.join(home, "logs");
mkdirSync(logs, { recursive: true });

const programs: Record<string, string[]> = {
  web: [programFile("serve")],
  ...(process.env["LARDER_BUCKETS"] === undefined
    ? {
        "stand-in": [programFile("stand-in"), path.join(home, "stand-in"), String(standInPort)],
      }
    : {}),
  // Each job has a process of its own, so that two of them have two cores.
  ...Object.fromEntries(
    Array.from({ length: jobsAtOnce }, (_, n) => [n === 0 ? "worker" : `worker-${n + 1}`, [programFile("worker")]]),
  ),
};
const children = new Map<string, ChildProcess>();
let ending = false;

const mostFalls = 5;
/** One that ran for so long had no trouble in starting: its falls are counted anew. */
const steadyMilliseconds = 60_000;
const pauseAfter = (falls: number) => 500 * 2 ** (falls - 1);

const say = (words: string) => console.log(`${new Date().toISOString()} ${words}`);

function giveUp(name: string, log: string): void {
  const words = `Larder's ${name} fell ${mostFalls} times in a row and is not started again. ${log} says why.`;
  say(words);
  writeFileSync(troubleFile(home), words);
}

function start(name: string, args: string[], falls = 0): void {
  const log = path.join(logs, `${name}.log`);
  const file = openSync(log, "a");
  const child = spawn(process.execPath, args, {
    cwd: root,
    stdio: ["ignore", file, file],
    env: { ...process.env, LARDER_HOME: home, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
  });
  children.set(name, child);
  writeFileSync(path.join(home, `${name}.pid`), String(child.pid));
  const began = Date.now();
  child.on("exit", (code, signal) => {
    if (ending) return;
    const fallen = Date.now() - began > steadyMilliseconds ? 1 : falls + 1;
    say(`${name} fell (${signal ?? `exit ${code}`})`);
    if (fallen >= mostFalls) return giveUp(name, log);
    setTimeout(() => !ending && start(name, args, fallen), pauseAfter(fallen));
  });
}

/** The database is a daemon of its own: it is looked after from time to time. */
async function keepDatabase(falls = 0): Promise<void> {
  if (ending) return;
  let fallen = falls;
  try {
    if (!clusterRuns(home)) {
      say("the database fell");
      await startCluster(home);
    }
    fallen = 0;
  } catch (error) {
    fallen++;
    say(`the database does not start: ${(error as Error).message}`);
    if (fallen >= mostFalls) return giveUp("database", path.join(logs, "supervisor.log"));
  }
  setTimeout(() => void keepDatabase(fallen), fallen > 0 ? pauseAfter(fallen) : 1000);
}

for (const [name, args] of Object.entries(programs)) start(name, args);
if (!databaseUrl) void keepDatabase();
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
