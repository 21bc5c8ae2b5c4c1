import { rotatedBoxCorners, shapeBounds } from "@larder/core/geometry/shape";
import { maskOutline } from "@larder/core/geometry/trace";
import type { Part, Shape } from "@larder/core/model/shape";

function path(points: readonly number[], closed: boolean): string {
  let text = "";
  for (let i = 0; i + 1 < points.length; i += 2) text += `${i === 0 ? "M" : "L"}${points[i]} ${points[i + 1]}`;
  return closed ? `${text}Z` : text;
}

function partsPath(parts: readonly Part[]): string {
  return parts.flatMap((part) => part.map((ring) => path(ring, true))).join("");
}

/**
 * How far, in the picture's pixels, a drawn mask may be off its pixels' edges: it looks the same and is drawn with a
 * tenth of the corners.
 */
const maskTolerance = 0.9;
const maskPaths = new WeakMap<Shape, string>();

/** A mask is drawn again with every change around it; its outline is worked out once. */
function maskPath(shape: Extract<Shape, { kind: "mask" }>): string {
  const known = maskPaths.get(shape) ?? partsPath(maskOutline(shape, maskTolerance));
  maskPaths.set(shape, known);
  return known;
}

function ShapeMark({
  shape,
  colour,
  strong,
  filled,
  dotSize,
}: {
  shape: Shape;
  colour: string;
  strong: boolean;
  filled: boolean;
  dotSize: number;
}) {
  const line = {
    fill: colour,
    fillOpacity: filled ? 0.55 : strong ? 0.28 : 0.06,
    stroke: colour,
    strokeWidth: strong ? 3 : 1.8,
    vectorEffect: "non-scaling-stroke" as const,
  };
  switch (shape.kind) {
    case "box":
      return <rect x={shape.x} y={shape.y} width={shape.width} height={shape.height} {...line} />;
    case "rotated-box":
      return <path d={path(rotatedBoxCorners(shape), true)} {...line} />;
    case "polygon":
      return <path d={partsPath(shape.parts)} fillRule="evenodd" {...line} />;
    case "line":
      return <path d={path(shape.points, false)} {...line} fill="none" />;
    case "mask":
      return (
        <path d={maskPath(shape)} fillRule="evenodd" {...line} fillOpacity={filled ? 0.55 : strong ? 0.4 : 0.18} />
      );
    case "keypoints": {
      const box = shapeBounds(shape);
      return (
        <>
          {box ? <rect {...box} {...line} /> : null}
          {shape.points.map((point, index) =>
            point.v > 0 ? (
              <circle
                key={index}
                cx={point.x}
                cy={point.y}
                r={dotSize}
                fill={point.v === 2 ? colour : "none"}
                stroke="#fff"
                strokeWidth="1"
                vectorEffect="non-scaling-stroke"
              />
            ) : null,
          )}
        </>
      );
    }
  }
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
        <ShapeMark shape={shape} colour={colour} strong={false} filled={false} dotSize={size / 3} />
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
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio={cover ? "xMidYMid slice" : "xMidYMid meet"}
      className="absolute inset-0 size-full"
      aria-hidden="true"
    >
      {shapes.map(({ key, shape, colour, ghost }) =>
        ghost !== undefined ? (
          <Ghost key={key} {...{ shape, colour, width, height }} words={ghost} />
        ) : onChoose || chosen !== null ? (
          <g
            key={key}
            {...(onChoose ? { onClick: () => onChoose(key), className: "cursor-pointer" } : {})}
            opacity={chosen !== null && chosen !== key ? 0.35 : 1}
          >
            <ShapeMark shape={shape} colour={colour} strong={chosen === key} filled={filled} dotSize={dotSize} />
          </g>
        ) : (
          <ShapeMark key={key} shape={shape} colour={colour} strong={false} filled={filled} dotSize={dotSize} />
        ),
      )}
    </svg>
  );
}
