/** Files that claim or ask for far more than they hold, or hold far more than one should. */
import { randomBytes } from "node:crypto";
import { crc32, deflateRawSync, deflateSync } from "node:zlib";
import { createWriteStream, mkdirSync, writeFileSync } from "node:fs";
import { once } from "node:events";
import path from "node:path";
import sharp from "sharp";

const picture = () =>
  sharp({ create: { width: 64, height: 48, channels: 3, background: "#806040" } })
    .jpeg()
    .toBuffer();

type Coco = { images?: object[]; annotations: object[]; categories?: object[] };

async function cocoFolder(folder: string, { images, annotations, categories }: Coco): Promise<string> {
  mkdirSync(folder, { recursive: true });
  writeFileSync(path.join(folder, "a.jpg"), await picture());
  const image = { id: 1, file_name: "a.jpg", width: 64, height: 48 };
  const body = {
    images: images ?? [image],
    annotations: annotations.map((one, id) => ({ id, image_id: 1, category_id: 1, bbox: [1, 1, 9, 9], ...one })),
    categories: categories ?? [{ id: 1, name: "roll" }],
  };
  writeFileSync(path.join(folder, "labels.json"), JSON.stringify(body));
  return folder;
}

/** One picture with an object of each of many classes. */
export const manyClassesFolder = (folder: string, classes: number): Promise<string> =>
  cocoFolder(folder, {
    annotations: Array.from({ length: classes }, (_, n) => ({ category_id: n + 1 })),
    categories: Array.from({ length: classes }, (_, n) => ({ id: n + 1, name: `kind ${n}` })),
  });

async function yoloFolder(folder: string, names: string): Promise<string> {
  mkdirSync(folder, { recursive: true });
  writeFileSync(path.join(folder, "a.jpg"), await picture());
  writeFileSync(path.join(folder, "a.txt"), "1999999999 0.5 0.5 0.2 0.2\n");
  writeFileSync(path.join(folder, "data.yaml"), names);
  return folder;
}

/** A zip of entries that all lie on the same bytes, or of one that says it is longer than it is (APPNOTE.TXT 4.3). */
function zipOf(file: string, entries: number, content: Buffer, saysBytes: number): string {
  const packed = deflateRawSync(content);
  const sum = crc32(content);
  const fields = (signature: number, fixed: number) => {
    const head = Buffer.alloc(fixed);
    head.writeUInt32LE(signature, 0);
    return head;
  };
  const name = (n: number) => Buffer.from(`${String(n).padStart(6, "0")}.jpg`);
  const local = fields(0x04034b50, 30);
  local.writeUInt16LE(20, 4);
  local.writeUInt16LE(8, 8);
  local.writeUInt32LE(sum, 14);
  local.writeUInt32LE(packed.length, 18);
  local.writeUInt32LE(saysBytes, 22);
  local.writeUInt16LE(name(0).length, 26);
  const first = Buffer.concat([local, name(0), packed]);
  const directory = Array.from({ length: entries }, (_, n) => {
    const entry = fields(0x02014b50, 46);
    entry.writeUInt16LE(20, 6);
    entry.writeUInt16LE(8, 10);
    entry.writeUInt32LE(sum, 16);
    entry.writeUInt32LE(packed.length, 20);
    entry.writeUInt32LE(saysBytes, 24);
    entry.writeUInt16LE(name(n).length, 28);
    return Buffer.concat([entry, name(n)]);
  });
  const end = fields(0x06054b50, 22);
  end.writeUInt16LE(entries, 8);
  end.writeUInt16LE(entries, 10);
  end.writeUInt32LE(Buffer.concat(directory).length, 12);
  end.writeUInt32LE(first.length, 16);
  writeFileSync(file, Buffer.concat([first, ...directory, end]));
  return file;
}

type Page = { width: number; height: number; filter: string; data: Buffer; content?: Buffer };

/** A PDF whose pages show one picture each (ISO 32000-1). */
async function pdfOf(file: string, pages: AsyncIterable<Page> | Iterable<Page>): Promise<string> {
  const out = createWriteStream(file);
  const offsets: number[] = [];
  let at = 0;
  const put = async (bytes: Buffer | string) => {
    at += Buffer.byteLength(bytes);
    if (!out.write(bytes)) await once(out, "drain");
  };
  const object = async (words: string, stream?: Buffer) => {
    offsets.push(at);
    await put(`${offsets.length} 0 obj\n${words}\n`);
    if (stream) {
      await put("stream\n");
      await put(stream);
      await put("\nendstream\n");
    }
    await put("endobj\n");
    return offsets.length;
  };
  await put("%PDF-1.5\n");
  const kids: { image: number; content: number }[] = [];
  for await (const { width, height, filter, data, content } of pages) {
    const image = await object(
      `<< /Type /XObject /Subtype /Image /Width ${width} /Height ${height} /ColorSpace /DeviceRGB /BitsPerComponent 8 /Filter /${filter} /Length ${data.length} >>`,
      data,
    );
    const drawn = content ?? Buffer.from("q 500 0 0 500 50 150 cm /I Do Q");
    const packing = content ? "/Filter /FlateDecode " : "";
    kids.push({ image, content: await object(`<< ${packing}/Length ${drawn.length} >>`, drawn) });
  }
  const tree = offsets.length + kids.length + 1;
  const made: number[] = [];
  for (const { image, content } of kids)
    made.push(
      await object(
        `<< /Type /Page /Parent ${tree} 0 R /MediaBox [0 0 600 800] /Contents ${content} 0 R /Resources << /XObject << /I ${image} 0 R >> >> >>`,
      ),
    );
  await object(`<< /Type /Pages /Count ${made.length} /Kids [${made.map((kid) => `${kid} 0 R`).join(" ")}] >>`);
  const root = await object(`<< /Type /Catalog /Pages ${tree} 0 R >>`);
  const table = at;
  await put(
    `xref\n0 ${offsets.length + 1}\n0000000000 65535 f \n${offsets.map((offset) => `${String(offset).padStart(10, "0")} 00000 n \n`).join("")}`,
  );
  await put(`trailer\n<< /Size ${offsets.length + 1} /Root ${root} 0 R >>\nstartxref\n${table}\n%%EOF\n`);
  out.end();
  await once(out, "finish");
  return file;
}

/** A JPEG that hardly gets smaller: every pixel is another. */
const noisyJpeg = (edge: number): Promise<Buffer> =>
  sharp(randomBytes(edge * edge * 3), { raw: { width: edge, height: edge, channels: 3 } })
    .jpeg({ quality: 92 })
    .toBuffer();

async function* noisyPages(count: number, edge: number): AsyncGenerator<Page> {
  for (let page = 0; page < count; page++)
    yield { width: edge, height: edge, filter: "DCTDecode", data: await noisyJpeg(edge) };
}

export type HostileFile = { name: string; write: (folder: string) => Promise<string> | string };

const whitePage = { width: 1, height: 1, filter: "FlateDecode", data: deflateSync(Buffer.alloc(3, 255)) };

export const hostileFiles: HostileFile[] = [
  {
    name: "a mask of 2^31 pixels",
    write: (folder) =>
      cocoFolder(folder, {
        images: [{ id: 1, file_name: "a.jpg", width: 65_536, height: 32_768 }],
        annotations: [{ segmentation: { size: [32_768, 65_536], counts: [5, 2 ** 31 - 5] }, iscrowd: 1 }],
      }),
  },
  {
    name: "an image said to be 10^9 wide",
    write: (folder) =>
      cocoFolder(folder, { images: [{ id: 1, file_name: "a.jpg", width: 1e9, height: 1e9 }], annotations: [{}] }),
  },
  {
    name: "100,000 objects on one place",
    write: (folder) => cocoFolder(folder, { annotations: Array.from({ length: 100_000 }, () => ({})) }),
  },
  {
    name: "20,000 classes",
    write: (folder) => manyClassesFolder(folder, 20_000),
  },
  {
    name: "a class name of 60 MB",
    write: (folder) => cocoFolder(folder, { annotations: [{}], categories: [{ id: 1, name: "n".repeat(60_000_000) }] }),
  },
  {
    name: "a data.yaml with class 1,999,999,999",
    write: (folder) => yoloFolder(folder, "names:\n  1999999999: far\n"),
  },
  {
    name: "3,000 zip entries on the same bytes",
    write: (folder) => zipOf(`${folder}.zip`, 3000, Buffer.alloc(40_000_000), 40_000_000),
  },
  {
    name: "a zip entry of 1 GB that says 1 kB",
    write: (folder) => zipOf(`${folder}.zip`, 1, Buffer.alloc(1_000_000_000), 1000),
  },
  { name: "a PDF of 100 MB", write: (folder) => pdfOf(`${folder}.pdf`, noisyPages(40, 2000)) },
  {
    name: "a PDF page of 300 MB of content",
    write: (folder) =>
      pdfOf(`${folder}.pdf`, [{ ...whitePage, content: deflateSync(Buffer.alloc(300_000_000, "0 0 m\n")) }]),
  },
  {
    name: "a PDF page with a picture of 30,000 x 30,000",
    write: (folder) =>
      pdfOf(`${folder}.pdf`, [
        {
          width: 30_000,
          height: 30_000,
          filter: "FlateDecode",
          data: deflateSync(Buffer.alloc(2_147_000_000), { level: 1 }),
        },
      ]),
  },
];
