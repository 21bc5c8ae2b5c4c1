import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { LineFile } from "./line-file";

const folder = mkdtempSync(path.join(tmpdir(), "larder-lines-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("LineFile", () => {
  it("writes lines into a folder that was not there", async () => {
    const file = path.join(folder, "a", "b", "lines");
    const lines = await LineFile.create(file);
    for (let n = 0; n < 20_000; n++) await lines.add(String(n));
    await lines.end();
    expect(readFileSync(file, "utf8").trim().split("\n")).toHaveLength(20_000);
  });
  it("throws where it cannot be written, and where the disk is full", async () => {
    writeFileSync(path.join(folder, "file"), "");
    await expect(LineFile.create(path.join(folder, "file", "x"))).rejects.toThrow(/EEXIST|ENOTDIR/);
    if (!existsSync("/dev/full")) return;
    const full = await LineFile.create("/dev/full");
    await expect(
      (async () => {
        for (let n = 0; n < 100_000; n++) await full.add("x".repeat(100));
        await full.end();
      })(),
    ).rejects.toThrow(/ENOSPC/);
  });
});
