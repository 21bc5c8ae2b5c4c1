/** A COCO file of any size, written as a stream: boxes and outlines of a made-up collection without its pictures. */
import { createWriteStream } from "node:fs";
import { once } from "node:events";
import { finished } from "node:stream/promises";

/** Writes `images` images with ten objects each on average; four in five have an outline. Returns the bytes written. */
export async function writeCocoFile(file: string, images: number): Promise<number> {
  const out = createWriteStream(file, { highWaterMark: 1 << 20 });
  let bytes = 0;
  const put = async (text: string) => {
    bytes += text.length;
    if (!out.write(text)) await once(out, "drain");
  };
  let state = 12345;
  const random = () => (state = (Math.imul(state, 1103515245) + 12345) >>> 0) / 2 ** 32;
  await put('{"info":{"description":"bench"},"images":[');
  for (let n = 0; n < images; n++)
    await put(
      `${n ? "," : ""}\n{"id":${n + 1},"width":1280,"height":960,"file_name":"rack_${String(n).padStart(8, "0")}.jpg","license":1,"date_captured":"2026-01-01 00:00:00"}`,
    );
  await put('],"annotations":[');
  const objects = images * 10;
  for (let n = 0; n < objects; n++) {
    const [x, y, width, height] = [random() * 1000, random() * 700, 20 + random() * 200, 20 + random() * 200];
    const ring =
      n % 5 === 0
        ? []
        : Array.from({ length: 14 }, (_, corner) => [
            x + (width / 2) * (1 + Math.cos((corner * Math.PI) / 7)),
            y + (height / 2) * (1 + Math.sin((corner * Math.PI) / 7)),
          ]).flat();
    const points = ring.map((value) => value.toFixed(5)).join(",");
    await put(
      [
        `${n ? "," : ""}\n{"id":${n + 1},"image_id":${1 + Math.floor(random() * images)},"category_id":${1 + (n % 12)},`,
        `"bbox":[${[x, y, width, height].map((value) => value.toFixed(5)).join(",")}],`,
        `"area":${(width * height * 0.78).toFixed(3)},"segmentation":[${points ? `[${points}]` : ""}],"iscrowd":0}`,
      ].join(""),
    );
  }
  await put(
    `],"categories":[${Array.from({ length: 12 }, (_, n) => `{"id":${n + 1},"name":"bread ${n + 1}","supercategory":"bread"}`).join(",")}]}\n`,
  );
  out.end();
  await finished(out);
  return bytes;
}
