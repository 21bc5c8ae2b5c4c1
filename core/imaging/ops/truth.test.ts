/** Pixels and labels agree: a drawn blob and its outline go through every op's geometry, each by its own way. */
import { describe, expect, it } from "vitest";
import { boundsOfPoints } from "../../geometry/box";
import { paintPolygon } from "../../geometry/rasterise";
import { identity, isIdentity } from "../../geometry/transform";
import { moveObjects } from "../move-objects";
import { drawCopy } from "../../plans/draw-copy";
import { planSchema } from "../../plans/plan";
import type { Raster } from "../raster";
import { sampleParts } from "../sampling/sample-parts";
import { ops } from "./registry";

const size = { width: 160, height: 120 };
/** An outline without any symmetry, and a point on it. */
const ring = [50, 30, 110, 40, 100, 85, 72, 70, 45, 80];
const tip = { x: 110.5, y: 40.5, v: 2 as const };

function drawn(parts: number[][], dot?: { x: number; y: number }): Raster {
  const grey = new Uint8Array(size.width * size.height);
  paintPolygon(grey, [parts], size.width, size.height, 255);
  if (dot) {
    grey.fill(0);
    for (let y = -1; y <= 1; y++)
      for (let x = -1; x <= 1; x++) grey[(Math.floor(dot.y) + y) * size.width + Math.floor(dot.x) + x] = 255;
  }
  const data = new Uint8Array(grey.length * 3);
  grey.forEach((value, at) => data.fill(value, at * 3, at * 3 + 3));
  return { data, ...size, channels: 3 };
}

const bright = ({ data, width, height }: Raster) =>
  Uint8Array.from({ length: width * height }, (_, at) => ((data[at * 3] as number) >= 128 ? 1 : 0));

function intersectionOverUnion(a: Uint8Array, b: Uint8Array): number {
  let [both, either] = [0, 0];
  a.forEach((value, at) => {
    both += value & (b[at] as number);
    either += value | (b[at] as number);
  });
  return both / either;
}

const context = { visible: null, classes: new Map() };
const steps: Record<string, object> = {
  rotate: { op: "rotate", degrees: 23 },
  "rotate, grown": { op: "rotate", degrees: -40, frame: "grow" },
  shear: { op: "shear", x: 12, y: -7 },
  scale: { op: "scale", by: 0.7 },
  "scale, larger": { op: "scale", by: 1.25 },
  shift: { op: "shift", x: "10%", y: "-8%" },
  "flip-sideways": { op: "flip-sideways" },
  "flip-over": { op: "flip-over" },
  "quarter-turn": { op: "quarter-turn", turns: 1 },
  "quarter-turn by three": { op: "quarter-turn", turns: 3 },
  perspective: { op: "perspective", by: "12%" },
  "crop-to": { op: "crop-to", share: "80%", ratio: 1.2 },
};

describe("geometry", () => {
  it("is all tried here", () => {
    const tried = new Set(Object.values(steps).map((step) => (step as { op: string }).op));
    expect(
      ops
        .filter(({ kind }) => kind === "geometry")
        .map(({ name }) => name)
        .filter((name) => !tried.has(name)),
    ).toEqual([]);
  });
  it.each(Object.entries(steps))("%s moves pixels, outlines, masks, boxes and points alike", (_, step) => {
    const { do: list } = planSchema.parse({ augment: { copies: 1, do: [step] } }).augment;
    const copy = drawCopy(list, size, { seed: 3, key: "a".repeat(64), tile: "", copy: 1 });
    expect(isIdentity(copy.warp)).toBe(false);
    const outside = { frame: size, warp: copy.warp, size: copy.size, outside: "#000000" };
    const pixels = bright(sampleParts([{ raster: drawn([ring]), toFrame: identity }], outside));
    const counts = [0];
    const columns = bright(drawn([ring]));
    for (let x = 0, last = 0; x < size.width; x++)
      for (let y = 0; y < size.height; y++) {
        const value = columns[y * size.width + x] as number;
        if (value === last) counts[counts.length - 1] = (counts.at(-1) as number) + 1;
        else counts.push(1);
        last = value;
      }
    const shapes = [
      { kind: "polygon" as const, parts: [[ring]] },
      { kind: "mask" as const, ...size, counts },
      { kind: "keypoints" as const, points: [tip] },
    ];
    const { objects } = moveObjects(
      shapes.map((shape) => ({ class: "x", shape })),
      copy.warp,
      copy.size,
      context,
    );
    const [polygon, mask, keypoints] = objects.map(({ shape }) => shape);
    if (polygon?.kind !== "polygon" || mask?.kind !== "mask" || keypoints?.kind !== "keypoints")
      throw new Error("kinds");
    const painted = new Uint8Array(copy.size.width * copy.size.height);
    paintPolygon(painted, polygon.parts, copy.size.width, copy.size.height, 1);
    expect(intersectionOverUnion(pixels, painted)).toBeGreaterThanOrEqual(0.97);
    const masked = new Uint8Array(painted.length);
    let at = 0;
    mask.counts.forEach((run, nth) => {
      if (nth % 2 === 1)
        for (let n = at; n < at + run; n++)
          masked[(n % copy.size.height) * copy.size.width + Math.floor(n / copy.size.height)] = 1;
      at += run;
    });
    expect(intersectionOverUnion(pixels, masked)).toBeGreaterThanOrEqual(0.97);
    const lit = [...pixels.keys()].filter((n) => pixels[n] === 1);
    const bounds = boundsOfPoints(lit.flatMap((n) => [n % copy.size.width, Math.floor(n / copy.size.width)]));
    const expected = boundsOfPoints(polygon.parts.flat(2));
    if (!bounds || !expected) throw new Error("bounds");
    for (const [seen, told] of [
      [bounds.x, expected.x],
      [bounds.y, expected.y],
      [bounds.x + bounds.width + 1, expected.x + expected.width],
      [bounds.y + bounds.height + 1, expected.y + expected.height],
    ] as const)
      expect(Math.abs(seen - told)).toBeLessThanOrEqual(1.5);
    // A dot of three by three pixels around the point: its centre of light is where the point went.
    const dotted = sampleParts([{ raster: drawn([], tip), toFrame: identity }], outside);
    let [sx, sy, sum] = [0, 0, 0];
    for (let n = 0; n < dotted.width * dotted.height; n++) {
      const value = dotted.data[n * 3] as number;
      sx += value * ((n % dotted.width) + 0.5);
      sy += value * (Math.floor(n / dotted.width) + 0.5);
      sum += value;
    }
    const [point] = keypoints.points;
    expect(Math.hypot(sx / sum - (point?.x ?? 0), sy / sum - (point?.y ?? 0))).toBeLessThan(1);
  });
});
