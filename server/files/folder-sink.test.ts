import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { FolderSink } from "./folder-sink";

let place: string;
beforeEach(() => {
  place = mkdtempSync(path.join(tmpdir(), "larder-sink-"));
});
afterEach(() => rmSync(place, { recursive: true, force: true }));

describe("a folder that is written", () => {
  it("holds thousands of small files whole once it is finished, texts and bytes", async () => {
    const sink = new FolderSink(place);
    for (let n = 0; n < 3000; n++)
      await sink.write(
        `labels/${n % 3}/${n}.txt`,
        n % 2 === 0 ? `brötchen ${n}\n` : new TextEncoder().encode(`bytes ${n}\n`),
      );
    await sink.write("large.bin", Buffer.alloc(40_000, 7));
    await sink.finish();
    expect(["0", "1", "2"].map((folder) => readdirSync(path.join(place, "labels", folder)).length)).toEqual([
      1000, 1000, 1000,
    ]);
    for (let n = 0; n < 3000; n++)
      expect(readFileSync(path.join(place, "labels", String(n % 3), `${n}.txt`), "utf8")).toBe(
        n % 2 === 0 ? `brötchen ${n}\n` : `bytes ${n}\n`,
      );
    expect(readFileSync(path.join(place, "large.bin"))).toEqual(Buffer.alloc(40_000, 7));
  });
  it("says which file could not be written, also where thousands are, and goes when it is discarded", async () => {
    const destination = path.join(place, "own");
    const sink = new FolderSink(destination);
    const writing = (async () => {
      for (let n = 0; n < 3000; n++) await sink.write(`${n}.txt`, "x");
      await sink.write("2999.txt", "again");
      await sink.finish();
    })();
    await expect(writing).rejects.toMatchObject({
      code: "EEXIST",
      message: expect.stringContaining("2999.txt") as string,
    });
    expect(readFileSync(path.join(destination, "2999.txt"), "utf8")).toBe("x");
    await sink.discard();
    expect(readdirSync(place)).toEqual([]);
  });
  it("is never left", async () => {
    const sink = new FolderSink(path.join(place, "own"));
    for (const name of ["../evil.txt", "..", "a/..", "a/../../evil.txt", "/evil.txt", "/tmp/larder-evil.txt"])
      await expect(sink.write(name, "e"), name).rejects.toMatchObject({ code: "entry-unsafe" });
    await sink.finish();
    expect(readdirSync(place)).toEqual([]);
  });
});
