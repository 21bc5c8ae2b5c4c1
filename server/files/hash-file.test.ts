import { createHash } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { hashFile } from "./hash-file";

const folder = mkdtempSync(path.join(tmpdir(), "larder-hash-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("the hash of a file", () => {
  it.each([
    ["nothing", 0],
    ["a few bytes", 3],
    ["more than one block", (1 << 20) + 1],
    ["so much that a thread does it", (16 << 20) + 7],
  ])("of %s is that of its bytes", async (name, length) => {
    const bytes = Buffer.alloc(length, "loaf");
    const file = path.join(folder, name);
    writeFileSync(file, bytes);
    expect(await hashFile(file)).toBe(createHash("sha256").update(bytes).digest("hex"));
  });
  it("of one that is not there is an error", async () => {
    await expect(hashFile(path.join(folder, "gone"))).rejects.toMatchObject({ code: "ENOENT" });
  });
});
