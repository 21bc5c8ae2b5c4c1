import { spawn } from "node:child_process";
import { existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";

/** The process id in a file, where that process still runs and is one of ours. */
export function livingPid(file: string): number | null {
  if (!existsSync(file)) return null;
  const pid = Number(readFileSync(file, "utf8"));
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("supervise") ? pid : null;
  } catch {
    return null;
  }
}

const sourcesFile = (home: string) => path.join(home, "supervisor.sources");

/** The hash of the sources that what runs was started from; null where that is not known. */
export function runningSources(home: string): string | null {
  return existsSync(sourcesFile(home)) ? readFileSync(sourcesFile(home), "utf8") : null;
}

/** Starts the supervisor where none runs, and notes which sources it was started from. Returns whether it did. */
export function startSupervisor(root: string, home: string, sources: string): boolean {
  const pidFile = path.join(home, "supervisor.pid");
  if (livingPid(pidFile)) return false;
  mkdirSync(path.join(home, "logs"), { recursive: true });
  const log = openSync(path.join(home, "logs", "supervisor.log"), "a");
  const child = spawn(process.execPath, ["--import", "tsx", path.join(root, "cli", "running", "supervise.ts")], {
    cwd: root,
    detached: true,
    stdio: ["ignore", log, log],
    env: { ...process.env, LARDER_ROOT: root, LARDER_HOME: home },
  });
  writeFileSync(pidFile, String(child.pid));
  writeFileSync(sourcesFile(home), sources);
  child.unref();
  return true;
}

/** Ends the supervisor and what it started; nothing else. */
export async function stopSupervisor(home: string): Promise<boolean> {
  const pidFile = path.join(home, "supervisor.pid");
  const pid = livingPid(pidFile);
  rmSync(pidFile, { force: true });
  if (!pid) return false;
  process.kill(pid, "SIGTERM");
  for (let i = 0; i < 60; i++) {
    await sleep(100);
    try {
      process.kill(pid, 0);
    } catch {
      return true;
    }
  }
  return true;
}

/** Waits until the page answers. */
export async function untilAnswers(url: string, seconds: number): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end; await sleep(200)) {
    try {
      const response = await fetch(`${url}/api/health`);
      if (response.ok) return;
    } catch {
      // Not listening yet.
    }
  }
  throw new Error(`${url} did not answer within ${seconds} s; the logs folder in Larder's home says why.`);
}
