import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { FolderStore, sha256 } from "./store";

let folder: string;
let store: FolderStore;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), "larder-store-"));
  store = new FolderStore(folder);
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const bread = new TextEncoder().encode("bread");
const hash = sha256(bread);
/** Every file below the store, by its path there. */
const files = () =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => path.relative(folder, path.join(entry.parentPath, entry.name)))
    .sort();

describe("the blob store", () => {
  it("names bytes by the SHA-256 that FIPS 180-4 gives for them", () => {
    expect(sha256(new TextEncoder().encode("abc"))).toBe(
      "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
    );
  });
  it("keeps bytes once, in one folder deep, and gives them back whole or in part", async () => {
    await store.put(hash, bread);
    await store.put(hash, bread);
    await store.putDerived("thumbnails", hash, bread.subarray(0, 2));
    expect(files()).toEqual([`blobs/${hash.slice(0, 2)}/${hash}`, `thumbnails/${hash.slice(0, 2)}/${hash}`]);
    expect(await store.has(hash)).toBe(true);
    expect(Buffer.from(await store.read(hash)).toString()).toBe("bread");
    expect(await store.size(hash)).toBe(5);
    const part: Buffer[] = [];
    for await (const chunk of await store.stream(hash, { start: 1, end: 3 })) part.push(chunk as Buffer);
    expect(Buffer.concat(part).toString()).toBe("rea");
    await store.remove(hash);
    await expect(store.stream(hash)).rejects.toThrow(/ENOENT/);
    expect([files(), await store.has(hash), await store.hasDerived("thumbnails", hash)]).toEqual([[], false, false]);
  });
  it("takes a file over by moving it, and drops it where its bytes are there already", async () => {
    for (const round of [1, 2]) {
      const file = await store.scratch();
      writeFileSync(file, bread);
      await store.putFile(hash, file);
      expect([existsSync(file), files()], `round ${round}`).toEqual([false, [`blobs/${hash.slice(0, 2)}/${hash}`]]);
    }
  });
  it("leaves nothing behind where writing fails", async () => {
    await expect(store.putDerived("renders", "a".repeat(300), bread)).rejects.toThrow(/ENAMETOOLONG/);
    expect(files()).toEqual([]);
  });
  it("brings files that lie two folders deep up by one, also after being cut short", async () => {
    const deep = (kind: string, name: string) => {
      const inner = path.join(folder, kind, name.slice(0, 2), name.slice(2, 4));
      mkdirSync(inner, { recursive: true });
      writeFileSync(path.join(inner, name), bread);
    };
    deep("blobs", hash);
    deep("thumbnails", hash);
    deep("renders", "abcdef");
    // One that was moved before, and one newly put.
    writeFileSync(path.join(folder, "renders", "ab", "abffff"), bread);
    await store.bringUp();
    await store.bringUp();
    expect(files()).toEqual([
      `blobs/${hash.slice(0, 2)}/${hash}`,
      "renders/ab/abcdef",
      "renders/ab/abffff",
      `thumbnails/${hash.slice(0, 2)}/${hash}`,
    ]);
    expect(readdirSync(path.join(folder, "blobs", hash.slice(0, 2)))).toEqual([hash]);
    expect(Buffer.from(await store.read(hash)).toString()).toBe("bread");
  });
});
