/** What a source on disk can be, and what it can be up to. */
import { Failure } from "@larder/core/model/failure";
import { Findings } from "@larder/core/model/finding";
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { settings } from "../settings";
import { FolderSink } from "./folder-sink";
import { FolderTree } from "./folder-tree";
import { unpackedName } from "./gunzip";
import { openSource } from "./open-source";
import { TarTree } from "./tar-tree";
import { ZipSink } from "./zip-sink";
import { ZipTree } from "./zip-tree";

const folder = mkdtempSync(path.join(tmpdir(), "larder-sources-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const place = (name: string, files: Record<string, string>) => {
  for (const [file, content] of Object.entries(files)) {
    const to = path.join(folder, name, file);
    mkdirSync(path.dirname(to), { recursive: true });
    writeFileSync(to, content);
  }
  return path.join(folder, name);
};
const codes = (report: Findings) => Object.fromEntries(report.list().map(({ code, count }) => [code, count]));
async function text(stream: AsyncIterable<Uint8Array>): Promise<string> {
  const pieces: Uint8Array[] = [];
  for await (const piece of stream) pieces.push(piece);
  return Buffer.concat(pieces).toString();
}

describe("a tar", () => {
  it("is read by its directory: whole files, ranges and streams, long and odd names too", async () => {
    const long = `${"deep/".repeat(30)}ünï code.txt`;
    const source = place("tarred", { "a/one.txt": "first", [long]: "second", "empty.txt": "" });
    const file = path.join(folder, "plain.tar");
    for (const format of ["gnu", "pax"]) {
      execFileSync("tar", ["cf", file, `--format=${format}`, "-C", source, "."]);
      const report = new Findings();
      const tree = await TarTree.open(file, report);
      expect((await tree.entries()).map((entry) => [entry.path, entry.size]).sort()).toEqual([
        ["a/one.txt", 5],
        [long, 6],
        ["empty.txt", 0],
      ]);
      expect(Buffer.from(await tree.read("a/one.txt")).toString()).toBe("first");
      expect(Buffer.from(await tree.readRange(long, 2, 99)).toString()).toBe("cond");
      expect([await text(tree.stream(long)), await text(tree.stream("empty.txt"))]).toEqual(["second", ""]);
      await expect(tree.read("gone.txt")).rejects.toThrow(/no gone\.txt/);
      expect(codes(report)).toEqual({});
    }
  });
  it("leaves out links, names that climb, and what comes after the place where it is cut off", async () => {
    const source = place("hostile", { "a.txt": "x".repeat(3000), "b.txt": "y".repeat(3000) });
    symlinkSync("/etc/passwd", path.join(source, "link.txt"));
    const file = path.join(folder, "hostile.tar");
    execFileSync("tar", ["cf", file, "--transform=s,^b,../../b,", "-P", "-C", source, "a.txt", "b.txt", "link.txt"]);
    const report = new Findings();
    expect((await (await TarTree.open(file, report)).entries()).map((entry) => entry.path)).toEqual(["a.txt"]);
    expect(codes(report)).toEqual({ "entry-unsafe": 2 });
    writeFileSync(file, readFileSync(file).subarray(0, 5000));
    const cut = new Findings();
    expect((await (await TarTree.open(file, cut)).entries()).map((entry) => entry.path)).toEqual(["a.txt"]);
    expect(codes(cut)["annotation-unreadable"]).toBe(1);
    writeFileSync(file, "no tar at all, but some letters".repeat(60));
    await expect(TarTree.open(file, new Findings())).rejects.toThrow(/not a tar/);
  });
});

describe("ranges", () => {
  it("are the same from a folder and from compressed entries of a zip", async () => {
    const content = Array.from({ length: 5000 }, (_, n) => String(n)).join(" ");
    const tree = new FolderTree(place("ranged", { "big.txt": content }));
    const file = path.join(folder, "ranged.zip");
    const sink = new ZipSink(file);
    await sink.write("big.txt", content);
    await sink.finish();
    const zip = await ZipTree.open(file, settings().limits, new Findings());
    for (const [start, end] of [
      [0, 10],
      [1234, 1300],
      [content.length - 3, content.length + 50],
      [content.length, content.length + 1],
    ] as const) {
      expect(Buffer.from(await zip.readRange("big.txt", start, end)).toString()).toBe(content.slice(start, end));
      expect(Buffer.from(await tree.readRange("big.txt", start, end)).toString()).toBe(content.slice(start, end));
    }
    zip.close();
  });
});

describe("spools", () => {
  it("grow beside other files and get their names at the end, in a folder and in a zip", async () => {
    const to = path.join(folder, "spooled");
    const file = path.join(folder, "spooled.zip");
    mkdirSync(to);
    for (const sink of [new FolderSink(to), new ZipSink(file)]) {
      const [one, two] = [await sink.spool(), await sink.spool()];
      for (let n = 0; n < 3; n++) {
        await one.append(Buffer.from(`one ${n}\n`));
        await two.append(Buffer.from(`two ${n}\n`));
        await sink.write(`between-${n}.txt`, "x");
      }
      expect(one.size).toBe(18);
      await two.commit("shards/two.bin");
      await one.commit("one.bin");
      await sink.finish();
    }
    expect(readdirSync(to).sort()).toEqual(["between-0.txt", "between-1.txt", "between-2.txt", "one.bin", "shards"]);
    const zip = await ZipTree.open(file, settings().limits, new Findings());
    expect(await text(zip.stream("shards/two.bin"))).toBe("two 0\ntwo 1\ntwo 2\n");
    zip.close();
    // Nothing of the spools is left beside the zip.
    expect(readdirSync(folder).filter((name) => name.includes("spools"))).toEqual([]);
  });
});

describe("a folder", () => {
  it("gives files whose names are no UTF-8 under what they are as Latin-1, in folders of such names too", async () => {
    const source = place("odd-names", { "plain.txt": "plain", "\uFFFD.txt": "a name of its own" });
    const odd = Buffer.concat([Buffer.from(`${source}/d`), Buffer.from([0xe9]), Buffer.from("pot")]);
    mkdirSync(odd);
    writeFileSync(Buffer.concat([odd, Buffer.from("/caf"), Buffer.from([0xe9]), Buffer.from(".txt")]), "coffee");
    writeFileSync(Buffer.concat([odd, Buffer.from("/inside.txt")]), "x".repeat(40_000));
    const tree = new FolderTree(source);
    expect((await tree.entries()).map((entry) => [entry.path, entry.size])).toEqual([
      ["dépot/café.txt", 6],
      ["dépot/inside.txt", 40_000],
      ["plain.txt", 5],
      ["\uFFFD.txt", 17],
    ]);
    expect(Buffer.from(await tree.read("dépot/café.txt")).toString()).toBe("coffee");
    expect((await tree.read("dépot/inside.txt")).length).toBe(40_000);
    expect(Buffer.from(await tree.readRange("dépot/café.txt", 1, 3)).toString()).toBe("of");
    expect(await text(tree.stream("dépot/café.txt"))).toBe("coffee");
    expect(Buffer.from(await tree.read("\uFFFD.txt")).toString()).toBe("a name of its own");
    expect(tree.stampOf("dépot/café.txt")).toMatch(/^6 /);
  });
});

describe("a source", () => {
  const listed = async (source: string) => {
    const { tree, close } = await openSource(source, settings().limits, new Findings());
    const paths = (await tree.entries()).map((entry) => entry.path).sort();
    close();
    return paths;
  };
  it("named by one annotation file has its pictures and class lists, not the other annotations", async () => {
    const source = place("beside", {
      "a.jpg": "",
      "x.json": "{}",
      "y.json": "{}",
      "z.xml": "",
      "classes.txt": "",
      "class-descriptions.csv": "",
      "train.lst": "",
      "train.rec": "",
      "val.rec": "",
    });
    expect(await listed(path.join(source, "x.json"))).toEqual([
      "a.jpg",
      "class-descriptions.csv",
      "classes.txt",
      "x.json",
    ]);
    expect(await listed(path.join(source, "train.rec"))).toEqual([
      "a.jpg",
      "class-descriptions.csv",
      "classes.txt",
      "train.lst",
      "train.rec",
    ]);
  });
  it("named by a data.yaml has the labels around it", async () => {
    const source = place("described", {
      "images/a.jpg": "",
      "labels/a.txt": "0 .5 .5 .1 .1",
      "data.yaml": "names: [roll]",
    });
    expect(await listed(path.join(source, "data.yaml"))).toEqual(["data.yaml", "images/a.jpg", "labels/a.txt"]);
  });
  it("that is a tar takes the class list beside it", async () => {
    const source = place("shard", { "s/1.jpg": "", "s/1.cls": "0", "classes.txt": "roll\n", "other.json": "{}" });
    execFileSync("tar", ["cf", path.join(source, "train.tar"), "-C", path.join(source, "s"), "1.jpg", "1.cls"]);
    expect(await listed(path.join(source, "train.tar"))).toEqual(["1.cls", "1.jpg", "classes.txt"]);
  });
  it("that is a tar in gzip is unpacked aside, which is gone afterwards; one that unpacks to too much is refused", async () => {
    const source = place("zipped-tar", { "s/a.jpg": "", "s/x.json": "{}", "s/zeros.txt": "0".repeat(70 << 20) });
    const unpackings = () => readdirSync(tmpdir()).filter((name) => name.startsWith("larder-unpacked-")).length;
    const before = unpackings();
    execFileSync("tar", ["czf", path.join(source, "train.tar.gz"), "-C", path.join(source, "s"), "a.jpg", "x.json"]);
    expect(await listed(path.join(source, "train.tar.gz"))).toEqual(["a.jpg", "x.json"]);
    execFileSync("tar", ["czf", path.join(source, "bomb.tgz"), "-C", source, "s"]);
    await expect(listed(path.join(source, "bomb.tgz"))).rejects.toThrow(/unpacks to more than 64 MB/);
    writeFileSync(path.join(source, "text.tgz"), "no gzip");
    await expect(listed(path.join(source, "text.tgz"))).rejects.toThrow(/no gzip, or it is damaged/);
    expect(unpackings()).toBe(before);
    expect(["a.tar.gz", "a.TGZ", "a.json.gz", "a.tar", ".gz"].map(unpackedName)).toEqual([
      "a.tar",
      "a.tar",
      "a.json",
      null,
      null,
    ]);
  });
  it("that is not there, or no file, is refused in a sentence", async () => {
    await expect(listed(path.join(folder, "nowhere"))).rejects.toBeInstanceOf(Failure);
    await expect(listed("/dev/null")).rejects.toThrow(/neither a file nor a folder/);
  });
  it("loses a file between listing and reading without being lost itself", async () => {
    const tree = new FolderTree(place("vanishing", { "a.jpg": "1", "b.jpg": "2" }));
    expect(await tree.entries()).toHaveLength(2);
    rmSync(path.join(folder, "vanishing", "a.jpg"));
    await expect(tree.read("a.jpg")).rejects.toMatchObject({ code: "ENOENT" });
    expect(Buffer.from(await tree.read("b.jpg")).toString()).toBe("2");
    await expect(tree.read("../../etc/passwd")).rejects.toThrow(/would leave its folder/);
  });
});
