/** Archives on thousands of damaged copies: reading may refuse or report anything, but never crashes, hangs or swells. */
import { Failure } from "@larder/core/model/failure";
import { Findings } from "@larder/core/model/finding";
import { uniform } from "@larder/core/model/seeded";
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, expect, it } from "vitest";
import { zipBytes } from "../tests/bakery";
import { gunzip } from "./gunzip";
import { TarTree } from "./tar-tree";
import { ZipTree } from "./zip-tree";

const folder = mkdtempSync(path.join(tmpdir(), "larder-fuzz-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const limits = { archiveBytes: 4_000_000, entryBytes: 2_000_000, ratio: 100 };
const rounds = 500;
const files = {
  "images/a.jpg": new Uint8Array(3000).map((_, n) => (n * 37) % 251),
  "labels/a.txt": "0 0.5 0.5 0.1 0.1\n".repeat(40),
  "labels/empty.txt": "",
  "ü/deep/er/c.json": JSON.stringify({ images: [], annotations: [] }),
};

/** One of the ways in which archives come damaged: cut, bits turned, runs of bytes changed, sizes made huge. */
function damaged(bytes: Uint8Array, round: number): Uint8Array {
  const pick = (limit: number, ...words: (string | number)[]) => Math.floor(uniform("damage", round, ...words) * limit);
  const copy = Uint8Array.from(bytes);
  const at = pick(copy.length, "at");
  switch (round % 5) {
    case 0:
      return copy.subarray(0, at);
    case 1:
      copy[at] = (copy[at] as number) ^ (1 << pick(8, "bit"));
      return copy;
    case 2:
      for (let n = 0; n < 8; n++) copy[pick(copy.length, "place", n)] = pick(256, "byte", n);
      return copy;
    case 3:
      return copy.fill(0xff, at, at + 4);
    default:
      return Uint8Array.from([...copy.subarray(0, at), ...copy.subarray(pick(copy.length, "from"))]);
  }
}

type Read = (file: string) => Promise<number>;
const readAll = async (tree: ZipTree | TarTree): Promise<number> => {
  let bytes = 0;
  for (const { path: name } of await tree.entries())
    bytes += await tree.read(name).then(
      (content) => content.length,
      (error: unknown) => {
        if (!(error instanceof Failure)) throw error;
        return 0;
      },
    );
  return bytes;
};

const archives: Record<string, { bytes: () => Promise<Uint8Array>; read: Read }> = {
  zip: {
    bytes: () => zipBytes(files),
    read: async (file) => {
      const tree = await ZipTree.open(file, limits, new Findings());
      try {
        return await readAll(tree);
      } finally {
        tree.close();
      }
    },
  },
  tar: {
    bytes: () => Promise.resolve(tarBytes("tar", [])),
    read: async (file) => readAll(await TarTree.open(file, new Findings())),
  },
  "tar.gz": {
    bytes: () => Promise.resolve(tarBytes("tar.gz", ["-z"])),
    read: async (file) => {
      const target = `${file}.unpacked`;
      try {
        await gunzip(file, target, limits);
        return readFileSync(target).length;
      } finally {
        rmSync(target, { force: true });
      }
    },
  },
};

function tarBytes(name: string, flags: string[]): Uint8Array {
  const source = path.join(folder, `source-${name}`);
  for (const [file, content] of Object.entries(files)) {
    mkdirSync(path.join(source, path.dirname(file)), { recursive: true });
    writeFileSync(path.join(source, file), content);
  }
  execFileSync("tar", ["--format=ustar", ...flags, "-cf", path.join(folder, name), "-C", source, "."]);
  return readFileSync(path.join(folder, name));
}

it.each(Object.keys(archives))("a damaged %s is refused in a sentence or read as far as it goes", async (kind) => {
  const { bytes, read } = archives[kind] as (typeof archives)[string];
  const whole = await bytes();
  const file = path.join(folder, `damaged.${kind}`);
  const before = process.memoryUsage().rss;
  let [refused, opened] = [0, 0];
  for (let round = 0; round < rounds; round++) {
    writeFileSync(file, damaged(whole, round));
    try {
      expect(await read(file)).toBeLessThanOrEqual(limits.archiveBytes);
      opened++;
    } catch (error) {
      expect([kind, round, error instanceof Failure, String(error)]).toEqual([kind, round, true, String(error)]);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(10);
  expect(refused + opened).toBe(rounds);
  expect(process.memoryUsage().rss - before).toBeLessThan(400_000_000);
});
