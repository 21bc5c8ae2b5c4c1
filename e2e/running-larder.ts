import { freePort } from "@larder/server/db/cluster";
import { execFile } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { promisify } from "node:util";

const run = promisify(execFile);
const root = path.join(import.meta.dirname, "..");

export type RunningLarder = {
  url: string;
  standIn: string;
  home: string;
  again: () => Promise<string>;
  /** The address of a new collection. Throws where it was not made. */
  makeCollection: (name: string) => Promise<string>;
  /** Runs another command for the same home, with more settings. */
  command: (
    words: string[],
    settings?: Record<string, string>,
  ) => Promise<{ code: number; out: string; errors: string }>;
  stop: () => Promise<void>;
};

/** Starts Larder with the very command a person uses, in a home of its own and on a free port, with more settings. */
export async function startLarder(settings: Record<string, string> = {}): Promise<RunningLarder> {
  const home = mkdtempSync(path.join(tmpdir(), "larder-e2e-"));
  const standInPort = String(await freePort());
  const environment = {
    ...process.env,
    LARDER_HOME: home,
    LARDER_PORT: String(await freePort()),
    LARDER_STAND_IN_PORT: standInPort,
    LARDER_DEMO_SHARE: "0",
    LARDER_DATABASE_SYNC: "off",
    LARDER_ADDRESSES_ALLOWED: `*,127.0.0.1:${standInPort}`,
    ...settings,
  };
  const larder = async (...args: string[]) =>
    (await run(path.join(root, "larder"), args, { env: environment, cwd: "/", maxBuffer: 1 << 24 })).stdout.trim();
  const url = await larder("up");
  return {
    url,
    standIn: `http://127.0.0.1:${standInPort}`,
    home,
    again: () => larder("up"),
    makeCollection: async (name) => {
      const response = await fetch(`${url}/api/collections`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ name }),
      });
      if (!response.ok) throw new Error(await response.text());
      return `${url}/c/${((await response.json()) as { id: number }).id}`;
    },
    command: (words, more = {}) =>
      new Promise((resolve) => {
        const options = { env: { ...environment, ...more }, cwd: "/", maxBuffer: 1 << 24 };
        execFile(path.join(root, "larder"), words, options, (error, out, errors) =>
          resolve({ code: error ? Number(error.code ?? 1) : 0, out: out.trim(), errors }),
        );
      }),
    stop: async () => {
      await larder("reset", "--yes");
      rmSync(home, { recursive: true, force: true });
    },
  };
}
