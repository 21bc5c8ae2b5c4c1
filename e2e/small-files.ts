/** Small files to take in. */
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import sharp from "sharp";

export const plateSize = { width: 320, height: 240 };

/** A plate of one colour with a look of its own, so that no two have the same bytes; `turn`: the EXIF orientation, 1 … 8. */
export const plate = (n: number, turn = 1): Promise<Buffer> =>
  sharp({
    create: { ...plateSize, channels: 3, background: { r: (n * 53) % 256, g: (n * 97) % 256, b: (n * 31) % 256 } },
  })
    .withMetadata({ orientation: turn })
    .jpeg()
    .toBuffer();

/** Writes files into a folder; their paths, in order. */
export function lay(folder: string, files: Record<string, string | Uint8Array>): string[] {
  return Object.entries(files).map(([name, content]) => {
    const file = path.join(folder, name);
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, content);
    return file;
  });
}
