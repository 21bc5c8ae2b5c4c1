/** Lines of several segments, as flat points `[x1, y1, …]`. */

/** Length in pixels. */
export function lineLength(points: readonly number[]): number {
  let length = 0;
  for (let i = 2; i + 1 < points.length; i += 2)
    length += Math.hypot(
      (points[i] as number) - (points[i - 2] as number),
      (points[i + 1] as number) - (points[i - 1] as number),
    );
  return length;
}

/** From where to where, as shares of the segment, it is inside. Liang & Barsky, ACM TOG 3 (1984). */
function insideOfSegment(
  [x1, y1, x2, y2]: readonly [number, number, number, number],
  width: number,
  height: number,
): [number, number] | null {
  const [dx, dy] = [x2 - x1, y2 - y1];
  let [from, to] = [0, 1];
  for (const [towards, room] of [
    [-dx, x1],
    [dx, width - x1],
    [-dy, y1],
    [dy, height - y1],
  ] as const) {
    if (towards === 0) {
      if (room < 0) return null;
      continue;
    }
    const at = room / towards;
    if (towards < 0) from = Math.max(from, at);
    else to = Math.min(to, at);
  }
  return from < to ? [from, to] : null;
}

/** The longest piece of a line that lies inside [0, width] × [0, height]; null where none does. */
export function clipLine(points: readonly number[], width: number, height: number): number[] | null {
  const pieces: number[][] = [];
  let joins = false;
  for (let i = 2; i + 1 < points.length; i += 2) {
    const [x1, y1, x2, y2] = points.slice(i - 2, i + 2) as [number, number, number, number];
    const inside = insideOfSegment([x1, y1, x2, y2], width, height);
    if (!inside) {
      joins = false;
      continue;
    }
    const [from, to] = inside;
    const end: [number, number] = to === 1 ? [x2, y2] : [x1 + to * (x2 - x1), y1 + to * (y2 - y1)];
    if (joins && from === 0) pieces[pieces.length - 1]?.push(...end);
    else pieces.push([...(from === 0 ? [x1, y1] : [x1 + from * (x2 - x1), y1 + from * (y2 - y1)]), ...end]);
    joins = to === 1;
  }
  return pieces.reduce<number[] | null>(
    (longest, piece) => (longest && lineLength(longest) >= lineLength(piece) ? longest : piece),
    null,
  );
}
