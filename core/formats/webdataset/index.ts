/** webdataset: tar shards in which files that share a base name up to the first dot are one sample. */
import { pack } from "tar-stream";
import { z } from "zod";
import {
  baseName,
  extensionOf,
  isImagePath,
  isLitter,
  readText,
  textOf,
  uptoFirstDot,
  type FileTree,
  type Spool,
} from "../../model/file-tree";
import { Findings } from "../../model/finding";
import { blankItem, carriesLabels, type ClassInfo, type Item, type Split } from "../../model/item";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { classListOf, readClassList } from "../class-list";
import { TakenPaths } from "../taken-paths";
import { UniqueNames } from "../unique-names";
import { readSample, sampleJson } from "./sample-json";
import { tarEntries, unsafeEntry } from "./tar-index";

/** One file of a sample: its name and how to read it. */
type Member = { name: string; size: number; read: () => Promise<Uint8Array>; inside: Item["inside"] };
type Sample = { key: string; shard: string; members: Member[] };

const textLimit = 64 * 2 ** 20;

async function* shardMembers(files: FileTree, shard: string, report: Findings): AsyncIterable<Member> {
  try {
    for await (const entry of tarEntries(files.stream(shard))) {
      const name = entry.name.replace(/^(\.\/)+/, "");
      const reason = unsafeEntry(entry);
      if (reason) report.add("entry-unsafe", `${shard}/${entry.name}`.slice(0, 200), reason);
      if (reason || entry.type === "directory" || isLitter(name)) continue;
      const { offset, size } = entry;
      yield {
        name,
        size,
        read: () => files.readRange(shard, offset, offset + size),
        inside: { file: shard, pieces: [[offset, size]] },
      };
    }
  } catch (error) {
    report.add(
      "annotation-unreadable",
      shard,
      `the archive is damaged or cut off (${String((error as Error).message)}); the samples before come in`,
    );
  }
}

async function* samplesOf(members: AsyncIterable<Member>, shard: string): AsyncIterable<Sample> {
  let sample: Sample = { key: "", shard, members: [] };
  for await (const member of members) {
    const key = uptoFirstDot(member.name);
    if (sample.key !== key) {
      if (sample.members.length > 0) yield sample;
      sample = { key, shard, members: [] };
    }
    sample.members.push(member);
  }
  if (sample.members.length > 0) yield sample;
}

/** What follows the first dot: `jpg`, `seg.png`. */
function suffix(name: string): string {
  return name.slice(uptoFirstDot(name).length + 1).toLowerCase();
}

async function readWebdataset(files: FileTree, report: Findings): Promise<Reading> {
  const paths = (await files.entries()).map((entry) => entry.path);
  const shards = paths.filter((path) => extensionOf(path) === "tar");
  const list = classListOf(paths);
  const names = await readClassList(files, paths);

  async function* samples(findings: Findings): AsyncIterable<Sample> {
    for (const shard of shards) yield* samplesOf(shardMembers(files, shard, findings), shard);
    if (shards.length > 0) return;
    // An archive that was opened as a source shows its samples as loose files.
    const loose = (await files.entries()).filter(({ path }) => path !== list && !/^readme/i.test(baseName(path)));
    yield* samplesOf(
      (async function* (): AsyncIterable<Member> {
        for (const { path, size } of [...loose].sort((a, b) =>
          uptoFirstDot(a.path) < uptoFirstDot(b.path) ? -1 : uptoFirstDot(a.path) > uptoFirstDot(b.path) ? 1 : 0,
        ))
          yield { name: path, size, read: () => files.read(path), inside: undefined };
      })(),
      "",
    );
  }

  async function itemOf({ key, shard, members }: Sample, paths: TakenPaths, findings: Findings): Promise<Item | null> {
    const picture = members.find((member) => isImagePath(member.name) && !suffix(member.name).includes("."));
    if (!picture) {
      const stray = members.some((member) => ["json", "cls", "txt"].includes(suffix(member.name)));
      if (stray) findings.add("image-missing", shard === "" ? key : `${shard}/${key}`, "a sample without a picture");
      return null;
    }
    const item = blankItem(paths.claim(picture.name, shard));
    if (picture.inside) item.inside = picture.inside;
    item.split =
      (shard === "" ? null : (splitFromFileName(baseName(shard)) ?? splitFromPath(shard))) ?? splitFromPath(key);
    const text = async (extension: string) => {
      const member = members.find((candidate) => suffix(candidate.name) === extension);
      if (!member) return null;
      if (member.size > textLimit) throw new Error(`${member.name} is too large`);
      return textOf(await member.read());
    };
    try {
      const json = await text("json");
      if (json !== null) readSample(json, item, findings, names ?? []);
    } catch {
      findings.add("annotation-unreadable", item.path, "its .json is no sample");
    }
    const cls = (await text("cls"))?.trim();
    if (cls !== undefined) {
      const name = /^\d+$/.test(cls) ? (names ? names[Number(cls)] : `class_${cls}`) : cls;
      if (name === undefined || name === "") findings.add("class-unknown", item.path, `class ${cls}`);
      else if (!item.classes.includes(name)) item.classes.unshift(name);
    }
    const caption = await text("txt");
    if (caption !== null && caption !== "" && item.captions.length === 0)
      item.captions.push(caption.replace(/\r?\n$/, ""));
    if (carriesLabels(item)) item.state = "labeled";
    return item;
  }

  const classes = new Set<string>(names ?? []);
  const points = new Map<string, number>();
  let numbered = false;
  const quiet = new Findings();
  const first = new TakenPaths();
  for await (const sample of samples(quiet)) {
    const item = await itemOf(sample, first, quiet);
    for (const { class: name, shape } of item?.objects ?? [])
      if (shape.kind === "keypoints") points.set(name, Math.max(points.get(name) ?? 0, shape.points.length));
    for (const name of [...(item?.classes ?? []), ...(item?.objects ?? []).map((object) => object.class)]) {
      classes.add(name);
      if (!names && /^class_\d+$/.test(name)) numbered = true;
    }
  }
  if (numbered) report.add("classes-missing", "", "no classes.txt beside the shards");

  async function* items(): AsyncIterable<Item> {
    const paths = new TakenPaths();
    for await (const sample of samples(report)) {
      const item = await itemOf(sample, paths, report);
      if (item) yield item;
    }
  }
  const described = await readClassInfos(files, paths);
  const infoOf = (name: string): ClassInfo => {
    const info = described.find((candidate) => candidate.name === name);
    const count = points.get(name) ?? 0;
    return (
      info ?? (count === 0 ? { name } : { name, keypoints: Array.from({ length: count }, (_, n) => `point_${n + 1}`) })
    );
  };
  return { classes: [...classes].map(infoOf), items: items() };
}

const infoSchema = z.array(
  z.object({
    name: z.string(),
    keypoints: z.array(z.string()),
    skeleton: z.array(z.tuple([z.number(), z.number()])).optional(),
  }),
);

/** `keypoints.json` beside the shards: the names of the keypoints of the classes that have them. */
async function readClassInfos(files: FileTree, paths: readonly string[]): Promise<ClassInfo[]> {
  const path = paths.find((candidate) => baseName(candidate) === "keypoints.json");
  if (path === undefined) return [];
  try {
    return infoSchema
      .parse(JSON.parse(await readText(files, path)))
      .map(({ skeleton, ...info }) => ({ ...info, ...(skeleton ? { skeleton } : {}) }));
  } catch {
    return [];
  }
}

const shardBytes = 128 * 2 ** 20;
const entryTime = new Date("2000-01-01T00:00:00Z");

/** One file as the bytes it takes in an archive: a header, the content, and padding to 512. */
async function tarBytes(name: string, content: Uint8Array): Promise<Uint8Array[]> {
  const archive = pack();
  archive.entry(
    { name, mtime: entryTime, mode: 0o644 },
    Buffer.from(content.buffer, content.byteOffset, content.byteLength),
  );
  archive.finalize();
  const chunks: Uint8Array[] = [];
  for await (const chunk of archive) chunks.push(chunk as Uint8Array);
  return chunks;
}

const archiveEnd = new Uint8Array(1024);

class Shards {
  private spool: Spool | null = null;
  private number = 0;
  constructor(
    private readonly sink: PackageSink,
    private readonly prefix: string,
  ) {}

  async add(members: readonly { name: string; content: Uint8Array }[]): Promise<void> {
    this.spool ??= await this.sink.spool();
    for (const { name, content } of members) {
      const chunks = await tarBytes(name, content);
      // Each was packed as an archive of its own, whose end comes once, after the last.
      const whole = chunks.reduce((sum, chunk) => sum + chunk.length, 0) - archiveEnd.length;
      let left = whole;
      for (const chunk of chunks) {
        await this.spool.append(chunk.subarray(0, Math.min(left, chunk.length)));
        left -= Math.min(left, chunk.length);
      }
    }
    if (this.spool.size >= shardBytes) await this.close();
  }

  async close(): Promise<void> {
    if (!this.spool) return;
    await this.spool.append(archiveEnd);
    await this.spool.commit(`${this.prefix}-${String(this.number++).padStart(6, "0")}.tar`);
    this.spool = null;
  }
}

async function writeWebdataset(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, n) => [info.name, n]));
  const splits = new Map<Split | "all", Shards>();
  const encoder = new TextEncoder();
  for await (const item of outgoing.items) {
    const key = item.split ?? "all";
    const shards = splits.get(key) ?? new Shards(sink, key);
    splits.set(key, shards);
    const extension = extensionOf(item.path) || "jpg";
    // A sample's name ends at its first dot, so dots of its own are written as underscores.
    const stem = names
      .claim(
        "",
        `${baseName(item.path)
          .slice(0, -extension.length - 1)
          .replaceAll(".", "_")}.${extension}`,
      )
      .slice(0, -extension.length - 1);
    const path = `${stem}.${extension}`;
    sink.expect(path, item);
    const members = [{ name: path, content: await item.open() }];
    const json = sampleJson(item, item.size);
    const [only] = item.classes;
    if (json !== null) members.push({ name: `${stem}.json`, content: encoder.encode(json) });
    if (only !== undefined && item.classes.length === 1)
      members.push({ name: `${stem}.cls`, content: encoder.encode(String(numbers.get(only) ?? 0)) });
    if (item.captions[0] !== undefined)
      members.push({ name: `${stem}.txt`, content: encoder.encode(item.captions[0]) });
    await shards.add(members);
  }
  for (const shards of splits.values()) await shards.close();
  await sink.write("classes.txt", outgoing.classes.map((info) => `${info.name}\n`).join(""));
  const posed = outgoing.classes.flatMap(({ name, keypoints, skeleton }) =>
    keypoints ? [{ name, keypoints, ...(skeleton ? { skeleton } : {}) }] : [],
  );
  if (posed.length > 0) await sink.write("keypoints.json", JSON.stringify(posed));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "Tar shards; the files of a sample share a base name: the picture, .json with its objects in pixels, .cls with its class number in classes.txt, .txt with its caption.",
      "A .json without an object says the picture holds nothing; a picture alone is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

export const webdataset: Format = {
  name: "webdataset",
  title: "WebDataset",
  carries: {
    shapes: ["box", "rotated-box", "polygon", "mask", "keypoints"],
    parts: "kept",
    holes: "mask",
    flags: ["crowd", "occluded", "truncated", "difficult", "confidence"],
    attributes: true,
    captions: "many",
    fields: true,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training: "Point a loader at the tar files of a split, in order or shuffled; classes.txt has the classes.",
  loosePictures: false,
  options: [],
  async recognise(entries, peek) {
    const shards = entries.filter((entry) => extensionOf(entry.path) === "tar");
    const images = entries.filter((entry) => isImagePath(entry.path));
    if (shards.length > 0 && images.length === 0) return { score: 0.95, reason: `${shards.length} tar shards` };
    const beside = new Map(entries.map((entry) => [entry.path, entry]));
    let samples = 0;
    for (const { path } of images.slice(0, 20)) {
      const key = uptoFirstDot(path);
      if (beside.has(`${key}.cls`)) samples++;
      else if (beside.has(`${key}.json`) && /"(objects|classes)"\s*:/.test(await peek(`${key}.json`))) samples++;
    }
    return {
      score: samples > 0 ? 0.9 : 0,
      reason: samples > 0 ? "pictures stand beside a .json or .cls of their name" : "no tar shard",
    };
  },
  read: (files, _options, report) => readWebdataset(files, report),
  write: writeWebdataset,
};
