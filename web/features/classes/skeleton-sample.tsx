"use client";
import { quote } from "@larder/core/selection/tokens";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { StockImage } from "@larder/server/services/stock";
import { useQuery } from "@tanstack/react-query";
import { api } from "@/features/live/api";

const margin = 0.12;

/** An object of a class with its keypoints, the lines between them, and which two swap in a mirror. */
export function SkeletonSample({
  collection,
  row,
  pairs,
}: {
  collection: number;
  row: { id: number; name: string; keypoints: string[]; skeleton: [number, number][] | null };
  pairs: readonly [number, number][];
}) {
  const where = `has ${quote(row.name)} (shape = keypoints)`;
  const { data } = useQuery({
    queryKey: ["stock", collection, "skeleton", where],
    queryFn: ({ signal }) =>
      api<{ images: StockImage[] }>(
        `/api/collections/${collection}/stock?${new URLSearchParams({ where, start: "0", limit: "1" }).toString()}`,
        { signal },
      ),
  });
  const [image] = data?.images ?? [];
  const object = image?.objects.find(({ classId, shape }) => classId === row.id && shape.kind === "keypoints");
  const bounds = object ? shapeBounds(object.shape) : null;
  if (!image || object?.shape.kind !== "keypoints" || !bounds) return null;
  const { points } = object.shape;
  const around = Math.max(bounds.width, bounds.height) * margin;
  const view = [bounds.x - around, bounds.y - around, bounds.width + 2 * around, bounds.height + 2 * around];
  const unit = Math.max(bounds.width, bounds.height) / 100;
  const lines = (ends: readonly (readonly [number, number])[], style: { stroke: string; dash?: string }) =>
    ends.map(([from, to], n) => {
      const [a, b] = [points[from], points[to]];
      return a && b ? (
        <line
          key={`${style.stroke} ${n}`}
          x1={a.x}
          y1={a.y}
          x2={b.x}
          y2={b.y}
          stroke={style.stroke}
          strokeWidth={unit}
          strokeDasharray={style.dash}
        />
      ) : null;
    });
  return (
    <figure className="mb-3">
      <svg
        viewBox={view.join(" ")}
        role="img"
        aria-label={`Keypoints of ${row.name} on ${image.name}`}
        className="h-56 w-full rounded-sm bg-dim"
      >
        <image href={`/api/images/${image.id}/picture`} width={image.width} height={image.height} />
        {lines(row.skeleton ?? [], { stroke: "var(--class-3)" })}
        {lines(pairs, { stroke: "var(--class-2)", dash: `${2 * unit} ${2 * unit}` })}
        {points.map((point, n) => (
          <g key={n}>
            <circle cx={point.x} cy={point.y} r={1.6 * unit} fill="white" stroke="black" strokeWidth={0.4 * unit} />
            <text
              x={point.x + 2.4 * unit}
              y={point.y - 2 * unit}
              fontSize={5 * unit}
              fill="white"
              stroke="black"
              strokeWidth={0.8 * unit}
              paintOrder="stroke"
            >
              {row.keypoints[n] ?? n}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="mt-1 text-small text-ink-3">
        Whole lines are its skeleton, broken ones join what swaps in a mirror.
      </figcaption>
    </figure>
  );
}
