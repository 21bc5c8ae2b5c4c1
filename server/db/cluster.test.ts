/** Larder's own cluster: never lost, whatever of its home is missing, and on its port again after a fall. */
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import pg from "pg";
import { afterAll, beforeAll, expect, it } from "vitest";
import { cacheMegabytes, removeCluster, startCluster, stopCluster } from "./cluster";

const home = mkdtempSync(path.join(tmpdir(), "larder-cluster-"));
const urlFile = path.join(home, "database-url");
const folder = () => readFileSync(path.join(home, "cluster-folder"), "utf8").trim();

async function ask(query: string): Promise<unknown[]> {
  const client = new pg.Client({ connectionString: readFileSync(urlFile, "utf8").trim() });
  await client.connect();
  try {
    return (await client.query<Record<string, unknown>>(query)).rows;
  } finally {
    await client.end();
  }
}

beforeAll(async () => {
  await startCluster(home);
  await ask("create table loaves as select 7 as n");
});
afterAll(() => {
  stopCluster(home);
  removeCluster(home);
  rmSync(home, { recursive: true, force: true });
});

it.each(["runs", "stands still"])("keeps what it holds where its address is missing while it %s", async (how) => {
  if (how === "stands still") stopCluster(home);
  const before = readFileSync(urlFile, "utf8");
  rmSync(urlFile);
  await startCluster(home);
  expect(await ask("select n from loaves")).toEqual([{ n: 7 }]);
  expect(readFileSync(urlFile, "utf8")).not.toBe(before);
});

it("comes back on its own port after it was killed", async () => {
  const before = readFileSync(urlFile, "utf8");
  const pid = Number(readFileSync(path.join(folder(), "data", "postmaster.pid"), "utf8").split("\n")[0]);
  process.kill(pid, "SIGKILL");
  await startCluster(home);
  expect(readFileSync(urlFile, "utf8")).toBe(before);
  expect(await ask("select n from loaves")).toEqual([{ n: 7 }]);
});

it("leaves a folder alone that it cannot open, and says so", async () => {
  const other = mkdtempSync(path.join(tmpdir(), "larder-cluster-"));
  const data = path.join(other, "cluster", "data");
  mkdirSync(data, { recursive: true });
  writeFileSync(path.join(data, "PG_VERSION"), "15\n");
  writeFileSync(path.join(other, "cluster-folder"), path.join(other, "cluster"));
  try {
    await expect(startCluster(other)).rejects.toThrow(/Nothing was changed/);
    expect(execFileSync("ls", [data], { encoding: "utf8" })).toBe("PG_VERSION\n");
  } finally {
    rmSync(other, { recursive: true, force: true });
  }
});

it("keeps a sixteenth of the machine's memory of pages, within bounds", () => {
  const gib = 1024 ** 3;
  expect([1, 8, 24].map((memory) => cacheMegabytes(memory * gib))).toEqual([128, 512, 1024]);
});
