/** Trays of the demo with faults planted where the truth is known: each is found, on the very picture. */
import { renderScene } from "@larder/demo/render";
import { frame } from "@larder/demo/scene";
import { makeShots } from "@larder/demo/shifts";
import { trueBreads } from "@larder/demo/truth";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import sharp from "sharp";
import { afterAll, beforeAll, expect, it } from "vitest";
import { checkSource, type CheckedFinding } from "./check";

const folder = mkdtempSync(path.join(tmpdir(), "larder-planted-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

type Label = { kind: string; x: number; y: number; width: number; height: number };
const shots = makeShots("tray", 300, 25);
/** Shots 8 and 17 are the tray before them once more: one in the other split, one in the same. */
const splitOf = (n: number) => (n % 4 === 0 && n !== 16 ? "val" : "train");
const other = (kind: string) => (kind === "loaf" ? "roll" : "loaf");

/** What is done to the labels of some trays; the first bread of each is a plain one. */
const plantedLabels: Record<number, (labels: Label[]) => Label[]> = {
  0: ([first, ...rest]) => (first ? [first, { ...first }, ...rest] : []),
  1: ([first, ...rest]) => (first ? [first, { ...first, kind: other(first.kind) }, ...rest] : []),
  2: (labels) => [...labels, { kind: "roll", x: 9, y: 9, width: 2, height: 2 }],
  3: (labels) => [...labels, { kind: "roll", x: 0, y: 0, ...frame }],
  4: (labels) => [...labels, { kind: "Roll", x: 4, y: 4, width: 60, height: 60 }],
  10: () => [],
};
const plantedPixels: Record<number, (bytes: Uint8Array) => Promise<Uint8Array>> = {
  5: (bytes) => sharp(bytes).linear(0.1, 0).jpeg().toBuffer(),
  6: (bytes) => sharp(bytes).linear(0.1, 240).jpeg().toBuffer(),
  9: (bytes) => sharp(bytes).blur(30).jpeg().toBuffer(),
  10: (bytes) => sharp(bytes).resize(64, 48).jpeg().toBuffer(),
};

let findings: CheckedFinding[];
beforeAll(async () => {
  for (const split of ["train", "val"]) {
    mkdirSync(path.join(folder, split), { recursive: true });
    const images: object[] = [];
    const annotations: object[] = [];
    const kinds = ["loaf", "roll", "Roll", "croissant", "pretzel", "baguette", "tart"];
    for (const [n, { name, scene, turned, annotated }] of shots.entries()) {
      if (splitOf(n) !== split) continue;
      const bytes = await renderScene(scene, { turned });
      writeFileSync(path.join(folder, split, name), (await plantedPixels[n]?.(bytes)) ?? bytes);
      if (!annotated) continue;
      images.push({ id: n, file_name: name, ...(n === 10 ? { width: 64, height: 48 } : frame) });
      const labels = trueBreads(scene).map(({ kind, box }) => ({ kind, ...box }));
      for (const { kind, x, y, width, height } of plantedLabels[n]?.(labels) ?? labels)
        annotations.push({
          ...{ id: 1000 * n + annotations.length, image_id: n, category_id: kinds.indexOf(kind) },
          ...{ bbox: [x, y, width, height], area: width * height, iscrowd: 0 },
        });
    }
    const categories = kinds.map((name, id) => ({ id, name }));
    writeFileSync(path.join(folder, split, "labels.json"), JSON.stringify({ images, annotations, categories }));
  }
  ({ findings } = await checkSource(folder, { option: [] }));
});

/** The trays, by their number, that prove a finding. */
const trays = (code: string) =>
  findings
    .filter((one) => one.code === code)
    .flatMap(({ examples }) => examples.map((name) => Number(/tray_(\d+)/.exec(name)?.[1]) - 1))
    .sort((a, b) => a - b);

it.each([
  ["near-copy-across-splits", [7, 8]],
  ["near-copy-within-split", [17]],
  ["object-duplicate", [0]],
  ["classes-on-one-place", [1]],
  ["box-tiny", [2]],
  ["box-whole-picture", [3]],
  ["picture-dark", [5]],
  ["picture-burnt-out", [6]],
  // What is all dark or all white shows no edges either.
  ["picture-blurred", [5, 6, 9]],
  ["size-unlike-rest", [10]],
  ["exif-rotated", [17]],
  ["unlabeled-left", [20]],
])("%s is found where it was planted, and nowhere else", (code, planted) => {
  expect(trays(code)).toEqual(planted);
});

it("names that look alike are found, too", () => {
  expect(findings.find(({ code }) => code === "class-similar")?.message).toContain('"roll" and "Roll"');
});
