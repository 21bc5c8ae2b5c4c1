/** How much of a shape lies under outlines. */
import type { Box, Part, Shape } from "../model/shape";
import { boxArea } from "./box";
import { lineLength } from "./line";
import { intersectPolygons, unitePolygons } from "./overlap";
import { polygonArea, ringContains } from "./polygon";
import { eachRun } from "./run-length";
import { rotatedBoxCorners } from "./shape";

export const boxCorners = ({ x, y, width, height }: Box): number[] => [
  x,
  y,
  x + width,
  y,
  x + width,
  y + height,
  x,
  y + height,
];

/** Whether an odd number of a part's rings is around the point: in the outer one, and in no hole. */
export function partsContain(parts: readonly Part[], x: number, y: number): boolean {
  return parts.some((part) => part.filter((ring) => ringContains(ring, x, y)).length % 2 === 1);
}

function shareOfArea(parts: Part[], area: number, cover: readonly Part[]): number {
  return area > 0 ? Math.min(1, polygonArea(intersectPolygons(parts, cover)) / area) : 0;
}

/** The share of a shape's area (pixels of a mask, length of a line, points of keypoints) under the cover, 0 … 1. */
export function coveredShare(shape: Shape, cover: readonly Part[]): number {
  const [first, ...others] = cover;
  if (!first) return 0;
  // Parts may overlap each other: united, no place counts twice.
  const united =
    others.length === 0 ? cover : others.reduce<Part[]>((all, part) => unitePolygons(all, [part]), [first]);
  switch (shape.kind) {
    case "box":
      return shareOfArea([[boxCorners(shape)]], boxArea(shape), united);
    case "rotated-box":
      return shareOfArea([[rotatedBoxCorners(shape)]], shape.width * shape.height, united);
    case "polygon":
      return shareOfArea(shape.parts, polygonArea(shape.parts), united);
    case "mask": {
      let [pixels, under] = [0, 0];
      eachRun(shape.counts, (from, to) => {
        for (let at = from; at < to; at++) {
          pixels++;
          if (partsContain(united, Math.floor(at / shape.height) + 0.5, (at % shape.height) + 0.5)) under++;
        }
      });
      return pixels > 0 ? under / pixels : 0;
    }
    case "keypoints": {
      if (shape.box) return coveredShare({ kind: "box", ...shape.box }, united);
      const known = shape.points.filter(({ v }) => v > 0);
      return known.length > 0 ? known.filter(({ x, y }) => partsContain(united, x, y)).length / known.length : 0;
    }
    case "line": {
      // A line has no area: its middle points, a pixel apart, stand for it.
      const length = lineLength(shape.points);
      let [all, under] = [0, 0];
      for (let i = 2; i + 1 < shape.points.length; i += 2) {
        const [x1, y1, x2, y2] = shape.points.slice(i - 2, i + 2) as [number, number, number, number];
        const steps = Math.max(1, Math.ceil(Math.hypot(x2 - x1, y2 - y1)));
        for (let n = 0; n < steps; n++) {
          const along = (n + 0.5) / steps;
          all++;
          if (partsContain(united, x1 + along * (x2 - x1), y1 + along * (y2 - y1))) under++;
        }
      }
      return length > 0 ? under / all : 0;
    }
  }
}
