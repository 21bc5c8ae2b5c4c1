/** parquet: one row an image, the picture's bytes inside. */
import { parquetMetadataAsync, parquetRead, parquetReadObjects } from "hyparquet";
import { ByteWriter, ParquetWriter } from "hyparquet-writer";
import { z } from "zod";
import { baseName, extensionOf, isImagePath, withoutExtension, type FileTree, type Spool } from "../../model/file-tree";
import { Findings } from "../../model/finding";
import { blankItem, type Item } from "../../model/item";
import { splitFromFileName, splitFromName, splitFromPath } from "../../model/split-name";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { objectLists, readRow, rowSchema } from "../table-row";
import { TakenPaths } from "../taken-paths";
import { UniqueNames } from "../unique-names";
import { checkPages } from "./check-pages";
import { fileBuffer } from "./file-buffer";
import { imageBytes, rowGroups } from "./image-rows";
import { columns, schema } from "./schema";

/** Row groups end at this many rows or bytes of pictures, so that a reader never holds more than one. */
const groupRows = 100;
const groupBytes = 16 * 2 ** 20;

const imagePathSchema = z.object({ path: z.string() }).transform(({ path }) => path);
const fieldsText = z.string().transform((text, context): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    context.addIssue({ code: "custom", message: "not JSON" });
    return z.NEVER;
  }
});

function pictureExtension(bytes: Uint8Array): string {
  return bytes[0] === 0x89 ? "png" : bytes[0] === 0x52 ? "webp" : "jpg";
}

async function readParquet(files: FileTree, report: Findings): Promise<Reading> {
  const tables = (await files.entries()).map((entry) => entry.path).filter((path) => extensionOf(path) === "parquet");
  const classes = new Set<string>();
  const sound = new Set<string>();

  async function* items(quiet: boolean): AsyncIterable<Item> {
    const findings = quiet ? new Findings() : report;
    const paths = new TakenPaths();
    for (const path of tables) {
      try {
        const file = await fileBuffer(files, path);
        const metadata = await parquetMetadataAsync(file);
        for (const [number, [rowStart, rowEnd]] of rowGroups(metadata).entries()) {
          if (!sound.has(`${path} ${number}`)) {
            await checkPages(file, metadata, number);
            // Without a callback the reader waits for every column before it says what is wrong with one.
            await parquetRead({ file, metadata, utf8: false, rowStart, rowEnd });
            sound.add(`${path} ${number}`);
          }
          const rows = await parquetReadObjects({ file, metadata, utf8: false, rowStart, rowEnd });
          for (const [n, row] of rows.entries()) yield itemOf(row, path, rowStart + n, paths, findings);
        }
      } catch (error) {
        if (error instanceof Error && error.name === "Failure") throw error;
        findings.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
      }
    }
  }

  function itemOf(
    row: Record<string, unknown>,
    table: string,
    number: number,
    paths: TakenPaths,
    findings: Findings,
  ): Item {
    const bytes = imageBytes(row["image"]);
    const named = imagePathSchema.safeParse(row["image"]).data;
    const name =
      named && isImagePath(named)
        ? named
        : `${named || `${withoutExtension(baseName(table))}/${String(number).padStart(6, "0")}`}.${bytes ? pictureExtension(bytes) : "jpg"}`;
    const item: Item = { ...blankItem(paths.claim(name, table)), present: bytes !== null };
    if (bytes) item.inside = { file: table, row: number };
    else findings.add("image-missing", item.path, `row ${number} of ${table} holds no picture`);
    const parsed = rowSchema.safeParse({ ...row, fields: fieldsText.safeParse(row["fields"]).data });
    if (!parsed.success) {
      findings.add("annotation-unreadable", item.path, `row ${number} of ${table}`);
      return item;
    }
    const { width, height, split } = parsed.data;
    item.split = (split ? splitFromName(split) : null) ?? splitFromFileName(baseName(table)) ?? splitFromPath(table);
    if (width && height) item.declared = { width, height };
    readRow(parsed.data, item, findings);
    return item;
  }

  for await (const item of items(true))
    for (const name of [...item.objects.map((object) => object.class), ...item.classes]) classes.add(name);
  return { classes: [...classes].map((name) => ({ name })), items: items(false) };
}

type Row = Record<(typeof columns)[number], unknown>;

/** One table being written, a row group at a time. */
class Table {
  private readonly bytes = new ByteWriter();
  private readonly writer = new ParquetWriter({ writer: this.bytes, schema, createdBy: "larder" });
  private rows: Row[] = [];
  private waiting = 0;

  constructor(private readonly spool: Spool) {}

  async add(row: Row, pictureBytes: number): Promise<void> {
    this.rows.push(row);
    this.waiting += pictureBytes;
    if (this.rows.length >= groupRows || this.waiting >= groupBytes) await this.flush();
  }

  private async flush(): Promise<void> {
    if (this.rows.length > 0) {
      await this.writer.write({
        columnData: columns.map((name) => ({
          name,
          data: this.rows.map((row) => row[name]),
          ...(name === "image"
            ? { codec: "UNCOMPRESSED" as const, encoding: "PLAIN" as const, statistics: false }
            : {}),
        })),
        rowGroupSize: this.rows.length,
      });
    }
    this.rows = [];
    this.waiting = 0;
    await this.drain();
  }

  private async drain(): Promise<void> {
    await this.spool.append(this.bytes.getBytes().slice());
    // The writer counts on from `offset`; only what lies in memory starts anew.
    (this.bytes as unknown as { index: number }).index = 0;
  }

  async commit(path: string): Promise<void> {
    await this.flush();
    await this.writer.finish();
    await this.drain();
    await this.spool.commit(path);
  }
}

async function writeParquet(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const tables = new Map<string, Table>();
  for await (const item of outgoing.items) {
    const key = item.split ?? "all";
    const table = tables.get(key) ?? new Table(await sink.spool());
    tables.set(key, table);
    const path = names.claim("", item.path);
    const bytes = await item.open();
    sink.expect(path, item);
    const single = item.classes.length === 1;
    await table.add(
      {
        image: { bytes, path },
        width: item.size.width,
        height: item.size.height,
        split: item.split,
        label: single ? item.classes[0] : null,
        labels: item.classes.length > 1 ? item.classes : null,
        objects: item.state === "empty" || item.objects.length > 0 ? objectLists(item.objects) : null,
        caption: item.captions[0] ?? null,
        fields: Object.keys(item.fields).length > 0 ? JSON.stringify(item.fields) : null,
      },
      bytes.length,
    );
  }
  for (const [key, table] of tables) await table.commit(`${key}-00000-of-00001.parquet`);
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "One row a picture: image {bytes, path}, width, height, split, label or labels, objects {bbox, category, area} as lists, caption, fields as JSON.",
      "bbox is [x, y, width, height] in pixels. Objects that are null are unlabeled, empty lists hold nothing.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

export const parquet: Format = {
  name: "parquet",
  title: "Parquet",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "one",
    fields: true,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training: "Point a loader at the Parquet files of a split: pictures and labels are columns.",
  loosePictures: false,
  options: [],
  async recognise(entries) {
    const tables = entries.filter((entry) => extensionOf(entry.path) === "parquet");
    return {
      score: tables.length > 0 ? 0.95 : 0,
      reason: tables.length > 0 ? `${tables.length} parquet tables` : "no parquet table",
    };
  },
  read: (files, _options, report) => readParquet(files, report),
  write: writeParquet,
};
