import { joinedPaths, pathKinds, shapePaths, type ShapePaths } from "@larder/core/geometry/path-data";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { Shape } from "@larder/core/model/shape";

const maskPaths = new WeakMap<Shape, ShapePaths>();

/** A mask is drawn again with every change around it; its outline is worked out once. */
function pathsOf(shape: Shape, dotSize: number): ShapePaths {
  if (shape.kind !== "mask") return shapePaths(shape, dotSize);
  const known = maskPaths.get(shape) ?? shapePaths(shape, dotSize);
  maskPaths.set(shape, known);
  return known;
}

/** Shapes of one colour, a path for each way in which something of them is drawn. */
function Marks({
  shapes,
  colour,
  strong,
  filled,
  dotSize,
}: {
  shapes: readonly Shape[];
  colour: string;
  strong: boolean;
  filled: boolean;
  dotSize: number;
}) {
  const line = { stroke: colour, strokeWidth: strong ? 3 : 1.8 };
  const dot = { stroke: "#fff", strokeWidth: 1 };
  const looks = {
    areas: { ...line, fill: colour, fillOpacity: filled ? 0.55 : strong ? 0.28 : 0.06 },
    masks: { ...line, fill: colour, fillOpacity: filled ? 0.55 : strong ? 0.4 : 0.18 },
    lines: { ...line, fill: "none" },
    seen: { ...dot, fill: colour },
    hidden: { ...dot, fill: "none" },
  };
  const paths = joinedPaths(shapes.map((shape) => pathsOf(shape, dotSize)));
  return pathKinds.map((kind) =>
    paths[kind] === "" ? null : <path key={kind} d={paths[kind]} vectorEffect="non-scaling-stroke" {...looks[kind]} />,
  );
}

export type DrawnShape = {
  key: string | number;
  shape: Shape;
  colour: string;
  /** Why what lies here is gone: it is drawn in dashes, with these words beside it. */
  ghost?: string | undefined;
};

/** An object that is gone: its outline in dashes, its reason where there is room for it in the picture. */
function Ghost({
  shape,
  colour,
  words,
  width,
  height,
}: Pick<DrawnShape, "shape" | "colour"> & { words: string; width: number; height: number }) {
  const bounds = shapeBounds(shape);
  const size = Math.max(width, height) / 15;
  const x = Math.min(Math.max(bounds?.x ?? 0, 2), Math.max(2, width - size * 0.52 * words.length));
  const y = Math.min(Math.max((bounds?.y ?? 0) + size, size), height - 4);
  return (
    <g opacity={0.9}>
      <g style={{ strokeDasharray: "5 4" }}>
        <Marks shapes={[shape]} colour={colour} strong={false} filled={false} dotSize={size / 3} />
      </g>
      <text
        x={x}
        y={y}
        fontSize={size}
        fill="#fff"
        stroke="#1d201e"
        strokeWidth={size / 5}
        paintOrder="stroke"
        fontFamily="var(--font-text)"
      >
        {words}
      </text>
    </g>
  );
}

/** Shapes that nobody chooses among: an element for each is what a view of thousands is slowed by. */
function shapesByColour(shapes: readonly DrawnShape[]): Map<string, Shape[]> {
  const byColour = new Map<string, Shape[]>();
  for (const { shape, colour } of shapes) {
    const those = byColour.get(colour);
    if (those) those.push(shape);
    else byColour.set(colour, [shape]);
  }
  return byColour;
}

/** Shapes drawn over a picture that fills the same frame; coordinates are the picture's own pixels. */
export function Shapes({
  width,
  height,
  shapes,
  chosen = null,
  onChoose,
  cover = false,
  filled = false,
}: {
  width: number;
  height: number;
  shapes: readonly DrawnShape[];
  chosen?: string | number | null;
  onChoose?: (key: string | number) => void;
  cover?: boolean;
  /** Areas in their colour, to be seen at a glance. */
  filled?: boolean;
}) {
  const dotSize = Math.max(width, height) / 160;
  const isEachApart = onChoose !== undefined || chosen !== null;
  const look = { filled, dotSize };
  const there = shapes.filter(({ ghost }) => ghost === undefined);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio={cover ? "xMidYMid slice" : "xMidYMid meet"}
      className="absolute inset-0 size-full"
      aria-hidden="true"
    >
      {isEachApart
        ? there.map(({ key, shape, colour }) => (
            <g
              key={key}
              {...(onChoose ? { onClick: () => onChoose(key), className: "cursor-pointer" } : {})}
              opacity={chosen !== null && chosen !== key ? 0.35 : 1}
            >
              <Marks shapes={[shape]} colour={colour} strong={chosen === key} {...look} />
            </g>
          ))
        : [...shapesByColour(there)].map(([colour, ofColour]) => (
            <Marks key={colour} shapes={ofColour} colour={colour} strong={false} {...look} />
          ))}
      {shapes.map(({ key, shape, colour, ghost }) =>
        ghost === undefined ? null : <Ghost key={key} {...{ shape, colour, width, height }} words={ghost} />,
      )}
    </svg>
  );
}
