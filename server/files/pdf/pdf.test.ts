import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { deflateSync } from "node:zlib";
import sharp from "sharp";
import { afterAll, describe, expect, it } from "vitest";
import { interruptible } from "../../interruption";
import { PdfTree } from "./tree";

const folder = mkdtempSync(path.join(tmpdir(), "larder-pdf-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

type Stream = { dictionary?: string; content: Uint8Array };

/** A PDF of pages 100 × 50 points, written by hand: ISO 32000-1, 7.5. `picture` is drawn over each page. */
function pdfOf(pages: Stream[], picture?: Stream): Buffer {
  const objects: Buffer[] = [];
  const add = (body: Buffer | string) => objects.push(Buffer.from(body));
  const stream = ({ dictionary = "", content }: Stream) => {
    const packed = deflateSync(content);
    return Buffer.concat([
      Buffer.from(`<< /Filter /FlateDecode /Length ${packed.length} ${dictionary} >>\nstream\n`),
      packed,
      Buffer.from("\nendstream"),
    ]);
  };
  add("<< /Type /Catalog /Pages 2 0 R >>");
  add(
    `<< /Type /Pages /Count ${pages.length} /Kids [${pages.map((_, n) => `${4 + 2 * n} 0 R`).join(" ")}] /MediaBox [0 0 100 50] /Resources << ${picture ? "/XObject << /P 3 0 R >>" : ""} >> >>`,
  );
  add(picture ? stream(picture) : "<< >>");
  pages.forEach((page, n) => {
    add(`<< /Type /Page /Parent 2 0 R /Contents ${5 + 2 * n} 0 R >>`);
    add(stream(page));
  });
  const parts = [Buffer.from("%PDF-1.7\n")];
  const offsets: number[] = [];
  let length = parts[0]?.length ?? 0;
  objects.forEach((body, n) => {
    const whole = Buffer.concat([Buffer.from(`${n + 1} 0 obj\n`), body, Buffer.from("\nendobj\n")]);
    offsets.push(length);
    length += whole.length;
    parts.push(whole);
  });
  const table = offsets.map((offset) => `${String(offset).padStart(10, "0")} 00000 n \n`).join("");
  const size = objects.length + 1;
  parts.push(
    Buffer.from(
      `xref\n0 ${size}\n0000000000 65535 f \n${table}trailer\n<< /Size ${size} /Root 1 0 R >>\nstartxref\n${length}\n%%EOF\n`,
    ),
  );
  return Buffer.concat(parts);
}

async function opened(name: string, pdf: Buffer, limits = { seconds: 30, bytes: 2 ** 30 }): Promise<PdfTree> {
  const file = path.join(folder, name);
  writeFileSync(file, pdf);
  return PdfTree.open(file, 72, 1e8, limits);
}

const red = { content: Buffer.from("1 0 0 rg 0 0 50 50 re f") };

describe("a PDF", () => {
  it("gives its pages as pictures of the resolution asked for", async () => {
    const tree = await opened("plain.pdf", pdfOf([red, { content: Buffer.from("") }]));
    expect((await tree.entries()).map((entry) => entry.path)).toEqual(["page-001.png", "page-002.png"]);
    const { data, info } = await sharp(await tree.read("page-001.png"))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([100, 50]);
    expect([...data.subarray(0, 3)]).toEqual([255, 0, 0]);
    expect([...data.subarray(99 * info.channels, 99 * info.channels + 3)]).toEqual([255, 255, 255]);
    tree.close();
  });
  it("loses the page whose content unpacks to hundreds of megabytes, and no other", async () => {
    const bomb = { content: Buffer.alloc(300 * 2 ** 20, "q Q ") };
    const limits = { seconds: 20, bytes: 600 * 2 ** 20 };
    const tree = await opened("content.pdf", pdfOf([bomb, red]), limits);
    await expect(tree.read("page-001.png")).rejects.toMatchObject({ code: "image-unreadable" });
    expect((await tree.read("page-002.png")).length).toBeGreaterThan(50);
    tree.close();
  });
  it("loses the page that holds a picture of 30,000 × 30,000 pixels", async () => {
    const picture = {
      dictionary:
        "/Type /XObject /Subtype /Image /Width 30000 /Height 30000 /BitsPerComponent 1 /ColorSpace /DeviceGray",
      content: Buffer.alloc((30_000 / 8) * 30_000, 0x55),
    };
    const drawn = { content: Buffer.from("100 0 0 50 0 0 cm /P Do") };
    const tree = await opened("picture.pdf", pdfOf([drawn, red], picture), { seconds: 20, bytes: 600 * 2 ** 20 });
    await expect(tree.read("page-001.png")).rejects.toMatchObject({ code: "image-unreadable" });
    expect((await tree.read("page-002.png")).length).toBeGreaterThan(50);
    tree.close();
  });
  it("is let go of at once when what reads it is interrupted, with the reason given", async () => {
    const slow = { content: Buffer.alloc(40 * 2 ** 20, "0 0 9 9 re f ") };
    const tree = await opened("slow.pdf", pdfOf([slow]), { seconds: 60, bytes: 2 ** 32 });
    const stop = new AbortController();
    const reading = interruptible(stop.signal, () => tree.read("page-001.png"));
    stop.abort(new Error("stopped by hand"));
    await expect(reading).rejects.toThrow("stopped by hand");
    tree.close();
  });
  it("that is none says so", async () => {
    await expect(opened("none.pdf", Buffer.from("%PDF-1.7 and nothing"))).rejects.toMatchObject({
      code: "pdf-unreadable",
    });
  });
});
