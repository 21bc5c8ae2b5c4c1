/** The processes that `up` starts: told apart from all others by their home and the instance they belong to. */
import { programFile } from "@larder/server/program-file";
import { spawn } from "node:child_process";
import { randomUUID } from "node:crypto";
import { existsSync, mkdirSync, openSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";

/** The environment that a process was started with (proc(5)); empty where it may not be read or is gone. */
function environmentOf(pid: number): Map<string, string> {
  try {
    const entries = readFileSync(`/proc/${pid}/environ`, "utf8").split("\0");
    return new Map(entries.map((entry) => [entry.split("=", 1)[0] ?? "", entry.slice(entry.indexOf("=") + 1)]));
  } catch {
    return new Map();
  }
}

/** Whether a process keeps others running; before instances had ids, it could be told by this alone. */
function isSupervisor(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("cli/running/supervise.ts");
  } catch {
    return false;
  }
}

/** Processes of this home's instances, whoever their parent is by now. */
function processesOf(home: string): number[] {
  return readdirSync("/proc")
    .map(Number)
    .filter((pid) => {
      if (!(pid > 0) || pid === process.pid) return false;
      const environment = environmentOf(pid);
      return environment.get("LARDER_HOME") === home && (environment.has("LARDER_INSTANCE") || isSupervisor(pid));
    });
}

const isAlive = (pid: number) => existsSync(`/proc/${pid}`);

const supervisorFile = (home: string) => path.join(home, "supervisor.pid");
const sourcesFile = (home: string) => path.join(home, "supervisor.sources");
const instanceFile = (home: string) => path.join(home, "supervisor.instance");
/** Where the supervisor says what it could not keep running. */
export const troubleFile = (home: string) => path.join(home, "supervisor.trouble");

const textOf = (file: string) => (existsSync(file) ? readFileSync(file, "utf8") : null);

/** The supervisor that runs for a home; null where none does. */
function supervisorOf(home: string): number | null {
  const pid = Number(textOf(supervisorFile(home)) ?? 0);
  return pid > 0 && environmentOf(pid).get("LARDER_INSTANCE") === textOf(instanceFile(home)) ? pid : null;
}

/** The id of the instance that runs; null where none does. */
export function runningInstance(home: string): string | null {
  return supervisorOf(home) === null ? null : textOf(instanceFile(home));
}

/** The hash of the sources that what runs was started from; null where that is not known. */
export const runningSources = (home: string) => textOf(sourcesFile(home));

/** Starts the supervisor and notes which sources it was started from. Returns the id of the instance it makes. */
export function startSupervisor(root: string, home: string, sources: string): string {
  const instance = randomUUID();
  mkdirSync(path.join(home, "logs"), { recursive: true });
  rmSync(troubleFile(home), { force: true });
  const log = openSync(path.join(home, "logs", "supervisor.log"), "a");
  const child = spawn(process.execPath, [programFile("supervise")], {
    cwd: root,
    detached: true,
    stdio: ["ignore", log, log],
    env: { ...process.env, LARDER_ROOT: root, LARDER_HOME: home, LARDER_INSTANCE: instance },
  });
  writeFileSync(supervisorFile(home), String(child.pid));
  writeFileSync(instanceFile(home), instance);
  writeFileSync(sourcesFile(home), sources);
  child.unref();
  return instance;
}

/** Ends what runs for a home, also what a supervisor left behind that was killed; nothing else. */
export async function stopSupervisor(home: string): Promise<boolean> {
  const supervisor = supervisorOf(home);
  const all = processesOf(home);
  rmSync(supervisorFile(home), { force: true });
  if (supervisor !== null) process.kill(supervisor, "SIGTERM");
  // The supervisor ends its own; what it does not know of, or what does not heed it, is ended here.
  const deadline = Date.now() + 6000;
  while (supervisor !== null && isAlive(supervisor) && Date.now() < deadline) await sleep(50);
  for (const signal of ["SIGTERM", "SIGKILL"] as const) {
    const left = processesOf(home);
    for (const pid of left) process.kill(pid, signal);
    for (const end = Date.now() + 2000; left.some(isAlive) && Date.now() < end;) await sleep(50);
  }
  return all.length > 0;
}

/** What answers at an address: the id of a Larder's instance, "other" for any other program, null for nothing. */
async function instanceAt(url: string): Promise<string | null> {
  try {
    const response = await fetch(`${url}/api/health`, { signal: AbortSignal.timeout(3000) });
    const { instance } = (await response.json()) as { instance?: unknown };
    return typeof instance === "string" ? instance : "other";
  } catch (error) {
    const code = (error as { cause?: { code?: string } }).cause?.code;
    return code === "ECONNREFUSED" ? null : "other";
  }
}

/** Throws where something listens already at the address that this home's Larder is to have. */
export async function checkPort(url: string, setting: string): Promise<void> {
  const there = await instanceAt(url);
  if (there === null) return;
  const port = new URL(url).port;
  throw new Error(
    there === "other"
      ? `Port ${port} is taken by another program. End it, or choose another port with ${setting}.`
      : `Port ${port} is taken by another Larder, of another home. Stop that one, or choose another port with ${setting}.`,
  );
}

/** Waits until this very instance answers. */
export async function untilAnswers(url: string, home: string, instance: string, seconds: number): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end; await sleep(200)) {
    const trouble = textOf(troubleFile(home));
    if (trouble !== null) throw new Error(trouble.trim());
    if ((await instanceAt(url)) === instance) return;
  }
  throw new Error(`${url} did not answer within ${seconds} s; the logs folder in Larder's home says why.`);
}

/** What a system says where a folder cannot be written: its rights, its disk, or a file in its place. */
const unwritable = new Set(["EACCES", "EPERM", "EROFS", "ENOTDIR", "ENOENT", "ENOSPC"]);

/** Does `work` while no other command does for this home; waits for one that does. */
export async function alone<T>(home: string, work: () => Promise<T>): Promise<T> {
  const file = path.join(home, "command.pid");
  for (;;) {
    try {
      mkdirSync(home, { recursive: true });
      writeFileSync(file, String(process.pid), { flag: "wx" });
      break;
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code !== undefined && unwritable.has(code))
        throw new Error(
          `Larder's home ${home} cannot be written (${code}). Make it writable, or name another place with LARDER_HOME.`,
        );
      if (code !== "EEXIST") throw error;
      const holder = Number(textOf(file) ?? 0);
      // One that was killed left its mark behind; one that is just writing it has no number there yet.
      if (holder > 0 && !isAlive(holder)) rmSync(file, { force: true });
      else await sleep(200);
    }
  }
  try {
    return await work();
  } finally {
    rmSync(file, { force: true });
  }
}
