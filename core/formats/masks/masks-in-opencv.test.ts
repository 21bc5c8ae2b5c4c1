/**
 * Masks as OpenCV sees them, which shares no code with ours; it gives a palette's colours in the order blue, green,
 * red.
 */
import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { outgoing, roundTrip } from "../../tests/reading";
import { masks } from "./index";
import { decodeMask, encodeMask, paletteColour } from "./png";

let folder: string;
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), "larder-masks-"))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const python = (script: string, ...words: string[]) =>
  execFileSync("/usr/bin/python3", ["-c", script, ...words], { encoding: "utf8", maxBuffer: 1 << 26 });

type Seen = { type: string; shape: number[]; values: number[] };

function seenByOpenCv(png: Uint8Array): Seen {
  const file = path.join(folder, "mask.png");
  writeFileSync(file, png);
  return JSON.parse(
    python(
      "import cv2, json, sys; m = cv2.imread(sys.argv[1], cv2.IMREAD_UNCHANGED); print(json.dumps({'type': str(m.dtype), 'shape': list(m.shape), 'values': m.flatten().tolist()}))",
      file,
    ),
  ) as Seen;
}

const size = { width: 37, height: 23 };
const disc = (cx: number, cy: number, r: number) =>
  Array.from({ length: 48 }, (_, n) => [
    cx + r * Math.cos((n * Math.PI) / 24),
    cy + r * Math.sin((n * Math.PI) / 24),
  ]).flat();

/** Whether a pixel's centre lies in a ring: the number of edges a ray to the right crosses is odd. */
function inside(ring: readonly number[], x: number, y: number): boolean {
  let odd = false;
  for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
    const [xi, yi, xj, yj] = [ring[i], ring[i + 1], ring[j], ring[j + 1]] as [number, number, number, number];
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) odd = !odd;
  }
  return odd;
}

describe("a mask that Larder wrote", () => {
  it("has its classes' colours where the outlines' insides are, the later over the earlier", async () => {
    const [roll, tart] = [disc(12.2, 11.7, 8.3), disc(20.4, 9.1, 6.6)];
    const objects = [
      { class: "roll", shape: { kind: "polygon" as const, parts: [[roll]] } },
      { class: "tart", shape: { kind: "polygon" as const, parts: [[tart]] } },
    ];
    const { tree } = await roundTrip(
      masks,
      [{ name: "roll" }, { name: "tart" }],
      [outgoing("a.jpg", "train", objects, size)],
    );
    const seen = seenByOpenCv(tree.files.get("masks/train/a.png") as Uint8Array);
    expect([seen.type, seen.shape]).toEqual(["uint8", [size.height, size.width, 3]]);
    const wanted = Array.from({ length: size.width * size.height }, (_, at) => {
      const [x, y] = [(at % size.width) + 0.5, Math.floor(at / size.width) + 0.5];
      const [r, g, b] = paletteColour(inside(tart, x, y) ? 2 : inside(roll, x, y) ? 1 : 0);
      return [b, g, r];
    });
    expect(seen.values).toEqual(wanted.flat());
  });

  it("of more objects than a byte counts has 16 bits, their values as they are", () => {
    const values = Uint16Array.from({ length: size.width * size.height }, (_, n) => n % 700);
    const seen = seenByOpenCv(encodeMask(values, size.width, size.height, []));
    expect([seen.type, seen.shape]).toEqual(["uint16", [size.height, size.width]]);
    expect(seen.values).toEqual([...values]);
  });
});

describe("a mask that OpenCV wrote", () => {
  it.each(["uint8", "uint16"])("of %s is read value by value", (type) => {
    const file = path.join(folder, `${type}.png`);
    python(
      `import cv2, numpy, sys; n = numpy.arange(${size.height} * ${size.width}); cv2.imwrite(sys.argv[1], ((n * 7) % 251).astype(numpy.${type}).reshape(${size.height}, ${size.width}))`,
      file,
    );
    const hex = python("import sys; sys.stdout.write(open(sys.argv[1], 'rb').read().hex())", file);
    const { width, height, values, coloured } = decodeMask(Buffer.from(hex, "hex"));
    expect([width, height, coloured]).toEqual([size.width, size.height, false]);
    expect([...values]).toEqual(Array.from({ length: width * height }, (_, n) => (n * 7) % 251));
  });
});
