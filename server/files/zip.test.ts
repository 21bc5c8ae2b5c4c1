import { Findings } from "@larder/core/model/finding";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { afterAll, describe, expect, it } from "vitest";
import { settings } from "../settings";
import { zipBytes } from "../tests/bakery";
import { FolderSink } from "./folder-sink";
import { FolderTree } from "./folder-tree";
import { ZipSink } from "./zip-sink";
import { ZipTree, type ArchiveLimits } from "./zip-tree";

const folder = mkdtempSync(path.join(tmpdir(), "larder-zip-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function written(name: string): Promise<string> {
  const file = path.join(folder, name);
  const sink = new ZipSink(file);
  await sink.write("labels/a.txt", "0 0.5 0.5 0.1 0.1\n".repeat(500));
  await sink.write("labels/empty.txt", "");
  await sink.write("images/ä b.jpg", new Uint8Array([1, 2, 3]));
  await sink.write(
    "big.bin",
    (async function* () {
      for (let i = 0; i < 40; i++) yield new Uint8Array(100_000).fill(i);
    })(),
  );
  await sink.finish();
  return file;
}

describe("ZipSink", () => {
  it("writes what another program's reader finds whole", async () => {
    const file = await written("one.zip");
    const listed = execFileSync(
      "python3",
      [
        "-c",
        "import sys, zipfile, json; z = zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; print(json.dumps([[i.filename, i.file_size] for i in z.infolist()]))",
        file,
      ],
      { encoding: "utf8" },
    );
    expect(JSON.parse(listed)).toEqual([
      ["labels/a.txt", 9000],
      ["labels/empty.txt", 0],
      ["images/ä b.jpg", 3],
      ["big.bin", 4_000_000],
    ]);
  });
  it("gives the same bytes for the same content", async () => {
    expect(Buffer.compare(readFileSync(await written("two.zip")), readFileSync(await written("three.zip")))).toBe(0);
  });
  it("says that the disk is full instead of hanging, and leaves nothing", async () => {
    const sink = new ZipSink("/dev/full");
    const attempt = (async () => {
      for (let i = 0; i < 50; i++) await sink.write(`f${i}`, new Uint8Array(1_000_000).fill(i));
      await sink.finish();
    })();
    await expect(attempt).rejects.toMatchObject({ code: "ENOSPC" });
  });
  it("keeps nothing of an entry once it is written", async () => {
    setFlagsFromString("--expose-gc");
    const collect = runInNewContext("gc") as () => void;
    const sink = new ZipSink(path.join(folder, "many.zip"));
    collect();
    const before = process.memoryUsage().arrayBuffers;
    for (let n = 0; n < 1000; n++) await sink.write(`p${n}.jpg`, new Uint8Array(100_000).fill(n));
    // The last of them are still on their way through the streams.
    await sleep(50);
    collect();
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(50_000_000);
    await sink.finish();
  });
});

describe("ZipTree", () => {
  const open = async (name: string, bytes: Uint8Array, limits: ArchiveLimits = settings().limits) => {
    const file = path.join(folder, name);
    writeFileSync(file, bytes);
    const report = new Findings();
    return { tree: await ZipTree.open(file, limits, report), report };
  };
  it("reads entries as they were, whole and as a stream, and leaves litter out", async () => {
    const { tree } = await open(
      "plain.zip",
      await zipBytes({
        "a/b.txt": "hello",
        "__MACOSX/._b.txt": "x",
        ".DS_Store": "x",
        "c.bin": new Uint8Array(300_000).fill(9),
      }),
    );
    expect(await tree.entries()).toEqual([
      { path: "a/b.txt", size: 5 },
      { path: "c.bin", size: 300_000 },
    ]);
    expect(new TextDecoder().decode(await tree.read("a/b.txt"))).toBe("hello");
    let length = 0;
    for await (const chunk of tree.stream("c.bin")) length += chunk.length;
    expect(length).toBe(300_000);
    await expect(tree.read("nope")).rejects.toThrow(/no nope/);
    tree.close();
  });
  it("reads what another program packed, with or without compression, and says which way of packing it cannot read", async () => {
    const file = path.join(folder, "python.zip");
    const script = `
import sys, zipfile
with zipfile.ZipFile(sys.argv[1], "w") as z:
    for name, method in (("stored.bin", zipfile.ZIP_STORED), ("deflated.bin", zipfile.ZIP_DEFLATED), ("odd.bin", zipfile.ZIP_BZIP2)):
        z.writestr(name, bytes(range(256)) * 1000, method)
    z.writestr("empty.txt", b"")
    for n in range(3000):
        z.writestr(f"many/{n}.txt", f"text {n}")`;
    execFileSync("python3", ["-c", script, file]);
    const report = new Findings();
    const tree = await ZipTree.open(file, settings().limits, report);
    const whole = Buffer.alloc(
      256_000,
      Uint8Array.from({ length: 256 }, (_, n) => n),
    );
    for (const name of ["stored.bin", "deflated.bin"]) expect(Buffer.compare(await tree.read(name), whole)).toBe(0);
    expect((await tree.read("empty.txt")).length).toBe(0);
    expect(await tree.entries()).toHaveLength(3003);
    for (const n of [0, 1, 1777, 2999])
      expect(new TextDecoder().decode(await tree.read(`many/${n}.txt`))).toBe(`text ${n}`);
    expect(report.list()).toMatchObject([{ code: "entry-unsafe", path: "odd.bin", count: 1 }]);
    expect(report.list()[0]?.message).toContain("pack it anew");
    tree.close();
  });
  it("goes on being read after a stream of it was given up early", async () => {
    const { tree } = await open(
      "early.zip",
      await zipBytes({ "a.bin": new Uint8Array(900_000).fill(7), "b.txt": "still here" }),
    );
    for (let n = 0; n < 3; n++) {
      for await (const chunk of tree.stream("a.bin")) {
        expect(chunk[0]).toBe(7);
        break;
      }
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    expect(new TextDecoder().decode(await tree.read("b.txt"))).toBe("still here");
    let length = 0;
    for await (const chunk of tree.stream("a.bin")) length += chunk.length;
    expect(length).toBe(900_000);
    tree.close();
  });
  it("refuses an archive that unpacks to more than is allowed", async () => {
    const bytes = await zipBytes({ a: new Uint8Array(600_000), b: new Uint8Array(600_000) });
    await expect(open("large.zip", bytes, { archiveBytes: 1_000_000, entryBytes: 1e9, ratio: 1e6 })).rejects.toThrow(
      /unpacks to more/,
    );
  });
  it("leaves out an entry whose content is not what the directory says, and takes the others", async () => {
    const bytes = await zipBytes({
      "a.txt": "the quick brown fox jumps over the lazy dog, again and again and again",
      "b.txt": "whole",
    });
    const damaged = Buffer.from(bytes);
    damaged.fill(0x55, 45, 60);
    const { tree, report } = await open("damaged.zip", damaged);
    expect(await tree.entries()).toEqual([{ path: "b.txt", size: 5 }]);
    expect(report.list()).toMatchObject([{ code: "entry-unsafe", path: "a.txt", count: 1 }]);
    tree.close();
  });
  it("says of a picture that lies about its size what is the matter, when it is read", async () => {
    const bytes = Buffer.from(await zipBytes({ "a.jpg": new Uint8Array(5000).fill(1), "b.jpg": new Uint8Array([1]) }));
    // The size that the directory gives of the first entry: 24 bytes behind its signature.
    bytes.writeUInt32LE(9, bytes.indexOf(Buffer.from("PK\u0001\u0002", "latin1")) + 24);
    const { tree } = await open("lying.zip", bytes);
    await expect(tree.read("a.jpg")).rejects.toMatchObject({ code: "entry-unsafe" });
    expect(await tree.read("b.jpg")).toHaveLength(1);
    tree.close();
  });
  it("takes of thousands of entries that lie on each other's bytes the first", async () => {
    const file = path.join(folder, "overlapping.zip");
    const script = `
import sys, zipfile, copy
with zipfile.ZipFile(sys.argv[1], "w", zipfile.ZIP_DEFLATED) as z:
    z.writestr("0.txt", b"0" * 50000000)
    for n in range(1, 3000):
        info = copy.copy(z.filelist[0]); info.filename = info.orig_filename = f"{n}.txt"
        z.filelist.append(info)`;
    execFileSync("python3", ["-c", script, file]);
    const report = new Findings();
    const tree = await ZipTree.open(file, { ...settings().limits, ratio: 1e6 }, report);
    expect(await tree.entries()).toEqual([{ path: "0.txt", size: 50_000_000 }]);
    expect(report.count("entry-unsafe")).toBe(2999);
    tree.close();
  });
});

describe("folders", () => {
  it("are written and read without leaving them", async () => {
    const place = path.join(folder, "out");
    const sink = new FolderSink(place);
    await sink.write("x/a.txt", "a");
    await expect(sink.write("x/a.txt", "twice")).rejects.toThrow();
    await expect(sink.write("../evil.txt", "e")).rejects.toThrow(/leave its folder/);
    const tree = new FolderTree(place);
    expect(await tree.entries()).toEqual([{ path: "x/a.txt", size: 1 }]);
    await expect((async () => tree.read("../one.zip"))()).rejects.toThrow(/leave its folder/);
  });
});
