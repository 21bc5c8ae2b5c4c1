/** tfrecord, webdataset, parquet: pictures inside container files, checked with readers that are not Larder's. */
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { Binary, Int32, Table, tableFromIPC, tableToIPC, Utf8, vectorFromArray } from "apache-arrow";
import { readParquet, Table as WasmTable, writeParquet } from "parquet-wasm";
import fc from "fast-check";
import protobuf from "protobufjs";
import { afterAll, describe, expect, it } from "vitest";
import { runsFromBitmap } from "../geometry/run-length";
import { blankItem, type LabeledObject } from "../model/item";
import { MemoryTree } from "../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../tests/reading";
import { openPicture } from "./open-picture";
import { parquet } from "./parquet/index";
import { crc32c, maskedCrc32c } from "./tfrecord/crc32c";
import { formatLabelMap, parseLabelMap } from "./tfrecord/label-map";
import { tfrecord } from "./tfrecord/index";
import { webdataset } from "./webdataset/index";

const folder = mkdtempSync(path.join(tmpdir(), "larder-containers-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const box: LabeledObject = {
  class: "roll",
  shape: { kind: "box", x: 96, y: 72, width: 96, height: 144 },
  difficult: true,
};
const bits = new Uint8Array(960 * 720);
for (let y = 10; y < 20; y++) bits.fill(1, y * 960 + 30, y * 960 + 50);
const mask: LabeledObject = {
  class: "tart",
  shape: { kind: "mask", width: 960, height: 720, counts: runsFromBitmap(bits, 960, 720) },
};
const classes = [{ name: "roll" }, { name: "tart" }];

describe("checksums", () => {
  it("are those RFC 3720 publishes", () => {
    expect(crc32c(new Uint8Array(32))).toBe(0x8a9136aa);
    expect(crc32c(new Uint8Array(32).fill(0xff))).toBe(0x62a8ab43);
    expect(crc32c(Uint8Array.from({ length: 32 }, (_, n) => n))).toBe(0x46dd794e);
    expect(crc32c(Uint8Array.from({ length: 32 }, (_, n) => 31 - n))).toBe(0x113fdb5c);
    expect(crc32c(new TextEncoder().encode("123456789"))).toBe(0xe3069283);
    expect(maskedCrc32c(new Uint8Array(0))).toBe(0xa282ead8);
  });
});

describe("label maps", () => {
  it("decode the escapes of the text format: octal and hexadecimal bytes of UTF-8, points, controls", () => {
    const text = String.raw`item { id: 1 name: 'gro\303\237e' } item { name: "\x42r\u00f6t\tA\"\U0001F35E\\" id: 2 }`;
    expect([...parseLabelMap(text)]).toEqual([
      [1, "große"],
      [2, 'Bröt\tA"🍞\\'],
    ]);
  });
  it("give back whatever names they are made of", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: "grapheme", minLength: 1 }), { maxLength: 5 }), (names) => {
        expect([...parseLabelMap(formatLabelMap(names)).values()]).toEqual(names);
      }),
    );
  });
});

describe("tfrecord", () => {
  it("lists classes that its label map lacks or spells otherwise, and goes out as they are", async () => {
    const { tree } = await roundTrip(
      tfrecord,
      [{ name: "roll" }, { name: "Rye" }],
      [
        outgoing("a.jpg", "train", [box, { ...box, class: "Rye" }]),
        outgoing("b.jpg", "train", [], undefined, { state: "labeled", classes: ["Rye"] }),
      ],
    );
    tree.files.set(
      "label_map.pbtxt",
      new TextEncoder().encode("item { id: 1 name: 'roll' } item { id: 2 name: 'rye' }"),
    );
    const { classes: names, items, codes } = await readAll(tfrecord, tree);
    expect(names).toEqual(["roll", "rye", "Rye"]);
    expect(codes).toEqual({});
    const { back } = await roundTrip(
      webdataset,
      names.map((name) => ({ name })),
      [...items.values()].map((item) => outgoing(item.path, item.split, item.objects, undefined, item)),
    );
    expect(back.flatMap(({ objects, classes: own }) => [...objects.map((object) => object.class), ...own])).toEqual([
      "roll",
      "Rye",
      "Rye",
    ]);
  });
  /** The published schema, as text, for a decoder of its own. */
  const proto = `syntax = "proto3";
    message BytesList { repeated bytes value = 1; } message FloatList { repeated float value = 1 [packed = true]; } message Int64List { repeated int64 value = 1 [packed = true]; }
    message Feature { oneof kind { BytesList bytes_list = 1; FloatList float_list = 2; Int64List int64_list = 3; } }
    message Features { map<string, Feature> feature = 1; } message Example { Features features = 1; }`;
  it("holds examples that the published schema decodes, framed as published", async () => {
    const { tree } = await roundTrip(tfrecord, classes, [
      outgoing("a.jpg", "train", [box, mask]),
      outgoing("b.jpg", "val", []),
    ]);
    expect([...tree.files.keys()].sort()).toEqual([
      "README.txt",
      "label_map.pbtxt",
      "larder-sources.csv",
      "train-00000-of-00001.tfrecord",
      "val-00000-of-00001.tfrecord",
    ]);
    const file = Buffer.from(tree.files.get("train-00000-of-00001.tfrecord") ?? []);
    const length = Number(file.readBigUInt64LE(0));
    expect(file.length).toBe(12 + length + 4);
    const { features } = protobuf
      .parse(proto, { keepCase: true })
      .root.lookupType("Example")
      .decode(file.subarray(12, 12 + length)) as unknown as {
      features: {
        feature: Record<
          string,
          { bytes_list?: { value: Buffer[] }; float_list?: { value: number[] }; int64_list?: { value: unknown[] } }
        >;
      };
    };
    const { feature } = features;
    expect(feature["image/encoded"]?.bytes_list?.value[0]).toEqual(Buffer.from(picture));
    expect(feature["image/object/bbox/xmax"]?.float_list?.value[0]).toBeCloseTo(0.2, 6);
    expect(feature["image/object/class/text"]?.bytes_list?.value.map(String)).toEqual(["roll", "tart"]);
    expect(feature["image/object/class/label"]?.int64_list?.value.map(Number)).toEqual([1, 2]);
    expect(feature["image/object/difficult"]?.int64_list?.value.map(Number)).toEqual([1, 0]);
    expect(tree.text("label_map.pbtxt")).toContain("id: 1\n  name: 'roll'");
  });
  it("reports a damaged record and reads the others; a length that is wrong ends the file", async () => {
    const { tree } = await roundTrip(
      tfrecord,
      classes,
      ["a", "b", "c"].map((name) => outgoing(`${name}.jpg`, "train", [box])),
    );
    const name = "train-00000-of-00001.tfrecord";
    const whole = tree.files.get(name) as Uint8Array;
    const first = Number(Buffer.from(whole).readBigUInt64LE(0)) + 16;
    const damaged = (at: number) => {
      const copy = Uint8Array.from(whole);
      copy[at] = (copy[at] as number) ^ 0xff;
      return readAll(
        tfrecord,
        new MemoryTree({ [name]: copy, "label_map.pbtxt": tree.files.get("label_map.pbtxt") as Uint8Array }),
      );
    };
    const data = await damaged(first + 40);
    expect([[...data.items.keys()], data.codes]).toEqual([["a.jpg", "c.jpg"], { "annotation-unreadable": 1 }]);
    const length = await damaged(first + 1);
    expect([[...length.items.keys()], length.codes]).toEqual([["a.jpg"], { "annotation-unreadable": 1 }]);
    const cut = await readAll(tfrecord, new MemoryTree({ [name]: whole.slice(0, whole.length - 5) }));
    expect([cut.items.size, cut.codes["annotation-unreadable"]]).toEqual([2, 1]);
  });
  it("reads label maps with either quote, other keys and escapes", () => {
    expect([
      ...parseLabelMap(
        "item {\n name: \"rye, 'dark'\" id: 3 }\nitem{id:1,name:'o\\'clock' display_name: \"x\"} item { id: 9 display_name: 'only' }",
      ),
    ]).toEqual([
      [3, "rye, 'dark'"],
      [1, "o'clock"],
      [9, "only"],
    ]);
    expect([...parseLabelMap(formatLabelMap(["it's", "back\\slash", "{x}"])).values()]).toEqual([
      "it's",
      "back\\slash",
      "{x}",
    ]);
  });
});

describe("webdataset", () => {
  it("is a tar that another program lists, a sample's files next to each other", async () => {
    const { tree } = await roundTrip(webdataset, classes, [
      outgoing("a.b.jpg", "train", [box]),
      outgoing("c.jpg", "train", [], undefined, { state: "labeled", classes: ["tart"], captions: ["warm"] }),
      outgoing("d.png", "train", []),
    ]);
    const file = path.join(folder, "train.tar");
    writeFileSync(file, tree.files.get("train-000000.tar") as Uint8Array);
    expect(execFileSync("tar", ["tf", file], { encoding: "utf8" }).trim().split("\n")).toEqual([
      "a_b.jpg",
      "a_b.json",
      "c.jpg",
      "c.cls",
      "c.txt",
      "d.png",
      "d.json",
    ]);
    expect(execFileSync("tar", ["xOf", file, "c.cls"], { encoding: "utf8" })).toBe("1");
    expect(JSON.parse(execFileSync("tar", ["xOf", file, "a_b.json"], { encoding: "utf8" }))).toMatchObject({
      objects: [{ class: "roll", bbox: [96, 72, 96, 144], difficult: true }],
    });
    expect(JSON.parse(execFileSync("tar", ["xOf", file, "d.json"], { encoding: "utf8" }))).toMatchObject({
      objects: [],
    });
  });
  it("takes a class that is a number from the list beside the shards", async () => {
    const objects =
      '{"objects":[{"class":1,"bbox":[1,2,3,4]},{"class":"roll","bbox":[1,2,3,4]},{"class":7,"bbox":[1,2,3,4]}]}';
    const listed = await readAll(
      webdataset,
      new MemoryTree({ "1.jpg": picture, "1.json": objects, "classes.txt": "roll\ntart\n" }),
    );
    expect(listed.items.get("1.jpg")?.objects.map((object) => object.class)).toEqual(["tart", "roll"]);
    expect([listed.classes, listed.codes]).toEqual([["roll", "tart"], { "class-unknown": 1 }]);
    const unlisted = await readAll(webdataset, new MemoryTree({ "1.jpg": picture, "1.json": objects }));
    expect([unlisted.classes, unlisted.codes]).toEqual([["class_1", "roll", "class_7"], { "classes-missing": 1 }]);
  });
  it("reads shards that another program packed, cut off too, and leaves links and climbing names out", async () => {
    for (const [name, content] of [
      ["1.jpg", picture],
      ["1.json", '{"objects":[{"class":"roll","bbox":[1,2,3,4]}]}'],
      ["2.jpg", picture],
      ["2.cls", "1\n"],
      ["3.jpg", picture],
      ["4.json", "{}"],
    ] as const)
      writeFileSync(path.join(folder, name), content);
    execFileSync("ln", ["-sf", "/etc/passwd", path.join(folder, "5.jpg")]);
    execFileSync("tar", [
      "cf",
      path.join(folder, "val-000001.tar"),
      "-C",
      folder,
      "./1.jpg",
      "./1.json",
      "2.jpg",
      "2.cls",
      "3.jpg",
      "4.json",
      "5.jpg",
    ]);
    const shard = readFileSync(path.join(folder, "val-000001.tar"));
    const {
      items,
      codes,
      classes: names,
    } = await readAll(webdataset, new MemoryTree({ "val-000001.tar": shard, "classes.txt": "roll\ntart\n" }, 1000));
    expect(names).toEqual(["roll", "tart"]);
    expect(
      [...items.values()].map(({ path: file, split, state, classes: classes }) => [file, split, state, classes.join()]),
    ).toEqual([
      ["1.jpg", "val", "labeled", ""],
      ["2.jpg", "val", "labeled", "tart"],
      ["3.jpg", "val", "unlabeled", ""],
    ]);
    expect(codes).toEqual({ "entry-unsafe": 1, "image-missing": 1 });
    expect(await openPicture(new MemoryTree({ "val-000001.tar": shard }), items.get("2.jpg") ?? blankItem(""))).toEqual(
      Buffer.from(picture),
    );
    const cut = await readAll(webdataset, new MemoryTree({ "val-000001.tar": shard.subarray(0, 2700) }, 1000));
    expect(cut.codes["annotation-unreadable"]).toBe(1);
    expect(cut.items.size).toBeGreaterThan(0);
  });
});

describe("parquet", () => {
  it("is a table that another reader understands", async () => {
    const { tree } = await roundTrip(parquet, classes, [
      outgoing("a.jpg", "test", [box]),
      outgoing("b.jpg", "test", [], undefined, {
        state: "labeled",
        classes: ["roll"],
        captions: ["warm"],
        fields: { oven: "3" },
      }),
      outgoing("c.jpg", "test", [], undefined, { state: "unlabeled" }),
      outgoing("d.jpg", "test", []),
    ]);
    const table = tableFromIPC(
      readParquet(tree.files.get("test-00000-of-00001.parquet") as Uint8Array).intoIPCStream(),
    );
    const rows = JSON.parse(JSON.stringify(table.toArray())) as Record<string, unknown>[];
    expect(rows.map((row) => row["objects"])).toEqual([
      { bbox: [[96, 72, 96, 144]], category: ["roll"], area: [96 * 144] },
      null,
      null,
      { bbox: [], category: [], area: [] },
    ]);
    expect(rows[1]).toMatchObject({
      split: "test",
      label: "roll",
      labels: null,
      caption: "warm",
      width: 960,
      height: 720,
    });
    expect(rows[0]?.["image"]).toMatchObject({ path: "a.jpg" });
  });
  it("reads a table that another program wrote, with dictionaries and rows that say nothing", async () => {
    const rows = Array.from({ length: 3000 }, (_, n) => ({
      image: Uint8Array.of(0xff, 0xd8, n % 256),
      label: n % 7 === 0 ? null : ["roll", "tart"][n % 2],
      width: 10 + (n % 5),
    }));
    const table = new Table({
      image: vectorFromArray(
        rows.map((row) => row.image),
        new Binary(),
      ),
      label: vectorFromArray(
        rows.map((row) => row.label),
        new Utf8(),
      ),
      width: vectorFromArray(
        rows.map((row) => row.width),
        new Int32(),
      ),
      height: vectorFromArray(
        rows.map(() => 8),
        new Int32(),
      ),
    });
    const bytes = writeParquet(WasmTable.fromIPCStream(tableToIPC(table, "stream")));
    const { items, classes: names, codes } = await readAll(parquet, new MemoryTree({ "test.parquet": bytes }));
    expect([items.size, names, codes]).toEqual([3000, ["tart", "roll"], {}]);
    expect(items.get("test/000007.jpg")).toMatchObject({
      state: "unlabeled",
      split: "test",
      declared: { width: 12, height: 8 },
    });
    expect(items.get("test/000008.jpg")?.classes).toEqual(["roll"]);
    expect(
      await openPicture(new MemoryTree({ "test.parquet": bytes }), items.get("test/000300.jpg") ?? blankItem("")),
    ).toEqual(Uint8Array.of(0xff, 0xd8, 44));
  });
  it("opens pictures over several row groups in any order, and says what is no table", async () => {
    const { tree, back } = await roundTrip(
      parquet,
      classes,
      Array.from({ length: 250 }, (_, n) => ({
        ...outgoing(`p${n}.jpg`, "train", [box]),
        open: () => Promise.resolve(Uint8Array.of(0xff, 0xd8, n)),
      })),
    );
    for (const n of [249, 0, 101, 100, 3])
      expect(await openPicture(tree, back.find((item) => item.path === `p${n}.jpg`) ?? blankItem(""))).toEqual(
        Uint8Array.of(0xff, 0xd8, n),
      );
    expect((await readAll(parquet, new MemoryTree({ "x.parquet": "PAR1 but not really PAR1" }))).codes).toEqual({
      "annotation-unreadable": 1,
    });
  });
});
