/** Distances in the plane, in pixels. */

/** Of a point from a segment, and the nearest place on it: 0 at its first end, 1 at its second. */
export function segmentDistance(
  x: number,
  y: number,
  x1: number,
  y1: number,
  x2: number,
  y2: number,
): { distance: number; along: number } {
  const [dx, dy] = [x2 - x1, y2 - y1];
  const length = dx * dx + dy * dy;
  const along = length === 0 ? 0 : Math.min(1, Math.max(0, ((x - x1) * dx + (y - y1) * dy) / length));
  return { distance: Math.hypot(x - x1 - along * dx, y - y1 - along * dy), along };
}

export type OnPath = { distance: number; /** The segment, by its first corner. */ segment: number; along: number };

/** Of a point from a path of flat coordinates, closed or open; null for a path of fewer than two points. */
export function pathDistance(points: readonly number[], closed: boolean, x: number, y: number): OnPath | null {
  const corners = Math.floor(points.length / 2);
  if (corners < 2) return null;
  let nearest: OnPath | null = null;
  for (let i = 0; i < (closed ? corners : corners - 1); i++) {
    const j = (i + 1) % corners;
    const { distance, along } = segmentDistance(
      x,
      y,
      points[2 * i] as number,
      points[2 * i + 1] as number,
      points[2 * j] as number,
      points[2 * j + 1] as number,
    );
    if (!nearest || distance < nearest.distance) nearest = { distance, segment: i, along };
  }
  return nearest;
}
