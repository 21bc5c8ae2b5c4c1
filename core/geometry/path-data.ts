/** Shapes as SVG path data, in the picture's pixels (SVG 2, section 9.3). */
import type { Part, Ring, Shape } from "../model/shape";
import { signedRingArea } from "./polygon";
import { rotatedBoxCorners, shapeBounds } from "./shape";
import { maskOutline } from "./trace";

/** What is drawn of shapes, by how it is drawn; "" where there is nothing. */
export type ShapePaths = {
  areas: string;
  masks: string;
  lines: string;
  /** Dots of keypoints that can be seen, and of those that are hidden. */
  seen: string;
  hidden: string;
};

export const pathKinds = ["areas", "masks", "lines", "seen", "hidden"] as const satisfies (keyof ShapePaths)[];
const nothing: ShapePaths = { areas: "", masks: "", lines: "", seen: "", hidden: "" };

/**
 * How far, in the picture's pixels, a drawn mask may be off its pixels' edges: it looks the same and is drawn with a
 * tenth of the corners.
 */
const maskTolerance = 0.9;

function pointsPath(points: readonly number[]): string {
  let text = "";
  for (let i = 0; i + 1 < points.length; i += 2) text += `${i === 0 ? "M" : "L"}${points[i]} ${points[i + 1]}`;
  return text;
}

const ringPath = (ring: readonly number[]): string => `${pointsPath(ring)}Z`;

/** The same ring the other way round. */
function reversed(ring: Ring): Ring {
  const turned: Ring = [];
  for (let i = ring.length - 2; i >= 0; i -= 2) turned.push(ring[i] as number, ring[i + 1] as number);
  return turned;
}

/**
 * Parts whose outer rings all run one way and whose holes run the other: by the rule "nonzero" shapes that lie over each
 * other in one path are then filled, and their holes are not.
 */
const partsPath = (parts: readonly Part[]): string =>
  parts
    .flatMap((part) =>
      part.map((ring, nth) => ringPath(signedRingArea(ring) >= 0 === (nth === 0) ? ring : reversed(ring))),
    )
    .join("");

const boxPath = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }): string =>
  `M${x} ${y}h${width}v${height}h${-width}Z`;

const dotPath = (x: number, y: number, radius: number): string =>
  `M${x - radius} ${y}a${radius} ${radius} 0 1 0 ${2 * radius} 0a${radius} ${radius} 0 1 0 ${-2 * radius} 0Z`;

/** The paths of a shape, to be filled by the rule "nonzero"; keypoints are dots of a radius in the picture's pixels. */
export function shapePaths(shape: Shape, dotRadius: number): ShapePaths {
  switch (shape.kind) {
    case "box":
      return { ...nothing, areas: boxPath(shape) };
    case "rotated-box":
      return { ...nothing, areas: partsPath([[rotatedBoxCorners(shape)]]) };
    case "polygon":
      return { ...nothing, areas: partsPath(shape.parts) };
    case "mask":
      return { ...nothing, masks: partsPath(maskOutline(shape, maskTolerance)) };
    case "line":
      return { ...nothing, lines: pointsPath(shape.points) };
    case "keypoints": {
      const box = shapeBounds(shape);
      const dots = (v: number) =>
        shape.points
          .filter((point) => point.v === v)
          .map(({ x, y }) => dotPath(x, y, dotRadius))
          .join("");
      return { ...nothing, areas: box ? boxPath(box) : "", seen: dots(2), hidden: dots(1) };
    }
  }
}

/** Several shapes' paths as one of each kind. */
export function joinedPaths(paths: readonly ShapePaths[]): ShapePaths {
  const joined = (kind: keyof ShapePaths) => paths.map((one) => one[kind]).join("");
  return {
    areas: joined("areas"),
    masks: joined("masks"),
    lines: joined("lines"),
    seen: joined("seen"),
    hidden: joined("hidden"),
  };
}
