import { fractal, mix, noise, smooth } from "../noise";
import { crust, type Bake, type BreadForm, type Surface } from "./bread";

/** The rope's course, from one end over both loops to the other, as one smooth curve through these places. */
const course: readonly [number, number][] = [
  [-44, 62],
  [-14, 34],
  [18, 4],
  [58, -26],
  [66, -64],
  [34, -84],
  [6, -56],
  [0, -36],
  [-6, -56],
  [-34, -84],
  [-66, -64],
  [-58, -26],
  [-18, 4],
  [14, 34],
  [44, 62],
];
export const pretzelKeypoints = ["left loop", "right loop", "crossing", "left end", "right end"] as const;

type Four = [[number, number], [number, number], [number, number], [number, number]];

/** A point between the middle two of four places (Catmull & Rom 1974), one coordinate of it. */
function catmullRom(p: Four, axis: 0 | 1, t: number): number {
  return (
    0.5 *
    (2 * p[1][axis] +
      (p[2][axis] - p[0][axis]) * t +
      (2 * p[0][axis] - 5 * p[1][axis] + 4 * p[2][axis] - p[3][axis]) * t * t +
      (3 * p[1][axis] - p[0][axis] - 3 * p[2][axis] + p[3][axis]) * t ** 3)
  );
}

function spline(steps: number): { x: number; y: number; at: number }[] {
  const out: { x: number; y: number; at: number }[] = [];
  for (let i = 0; i + 1 < course.length; i++) {
    const p = [
      course[Math.max(0, i - 1)],
      course[i],
      course[i + 1],
      course[Math.min(course.length - 1, i + 2)],
    ] as Four;
    for (let s = 0; s < steps; s++) {
      const t = s / steps;
      out.push({ x: catmullRom(p, 0, t), y: catmullRom(p, 1, t), at: (i + t) / (course.length - 1) });
    }
  }
  out.push({ x: course[course.length - 1]?.[0] ?? 0, y: course[course.length - 1]?.[1] ?? 0, at: 1 });
  return out;
}

const rope = spline(6);
/** The rope is thick at the loops and thin at its ends. */
function ropeRadius(at: number): number {
  return 11.5 + 5.5 * Math.sin(Math.PI * Math.min(1, Math.max(0, at)));
}

type Nearest = { distance: number; at: number; radius: number };

function nearest(u: number, v: number): Nearest & { height: number; edge: number } {
  let best = { distance: Infinity, at: 0, radius: 1, height: -Infinity, edge: -Infinity };
  for (let i = 0; i + 1 < rope.length; i++) {
    const a = rope[i] as (typeof rope)[number];
    const b = rope[i + 1] as (typeof rope)[number];
    const dx = b.x - a.x;
    const dy = b.y - a.y;
    const t = Math.min(1, Math.max(0, ((u - a.x) * dx + (v - a.y) * dy) / (dx * dx + dy * dy)));
    const distance = Math.hypot(u - a.x - t * dx, v - a.y - t * dy);
    const at = a.at + (b.at - a.at) * t;
    const radius = ropeRadius(at);
    const edge = radius - distance;
    // The second half of the rope lies over the first where they cross.
    const height = edge > 0 ? radius * Math.sqrt(1 - (distance / radius) ** 2) + at * 9 : -Infinity;
    if (height > best.height || (best.height === -Infinity && edge > best.edge))
      best = { distance, at, radius, height, edge };
  }
  return best;
}

const half = { x: 92, y: 110 };
const fieldWidth = half.x * 2 + 1;
let field: Float32Array | null = null;

/** The rope is the same for every pretzel, so its distances are worked out once, a local pixel apart. */
function ropeField(): Float32Array {
  if (field) return field;
  field = new Float32Array(fieldWidth * (half.y * 2 + 1) * 3);
  for (let y = -half.y, index = 0; y <= half.y; y++) {
    for (let x = -half.x; x <= half.x; x++) {
      const near = nearest(x, y);
      field[index++] = near.edge;
      field[index++] = Math.max(0, near.height);
      field[index++] = near.at;
    }
  }
  return field;
}

/**
 * Channel 0 is the distance from the rim, 1 the height, 2 the place along the rope; between grid points by proportion.
 */
function ropeAt(u: number, v: number, channel: 0 | 1 | 2): number {
  const values = ropeField();
  const x = Math.min(half.x - 0.001, Math.max(-half.x, u)) + half.x;
  const y = Math.min(half.y - 0.001, Math.max(-half.y, v)) + half.y;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const at = (y0 * fieldWidth + x0) * 3 + channel;
  if (channel === 2) return values[at] as number;
  const tx = x - x0;
  const ty = y - y0;
  const top = (values[at] as number) * (1 - tx) + (values[at + 3] as number) * tx;
  const below = at + fieldWidth * 3;
  return top * (1 - ty) + ((values[below] as number) * (1 - tx) + (values[below + 3] as number) * tx) * ty;
}

export function pretzel(bake: Bake, seed: number): BreadForm {
  const surface = (u: number, v: number): Surface => {
    const edge = ropeAt(u, v, 0);
    if (edge <= 0) return { edge, height: 0 };
    return { edge, height: ropeAt(u, v, 1) * 1.35 + (fractal(u / 9, v / 9, seed, 3) - 0.5) * 3 };
  };
  return {
    reach: { x: 88, y: 106 },
    surface,
    skin: (u, v, at) => {
      const along = ropeAt(u, v, 2);
      const mottle = fractal(u / 14, v / 14, seed + 2, 3);
      const rim = smooth(0, 8, at.edge);
      const burst = smooth(0.44, 0.5, along) * (1 - smooth(0.5, 0.56, along)) * smooth(4, 9, at.edge);
      const depth = Math.min(1, 0.3 + rim * 0.4 + (mottle - 0.5) * 0.8);
      const cellX = Math.floor(u / 6.4);
      const cellY = Math.floor(v / 6.4);
      const hasSalt = noise(cellX + 0.5, cellY + 0.5, seed + 50) > 0.66;
      const saltX = (cellX + 0.35 + 0.3 * noise(cellX, cellY, seed + 60)) * 6.4;
      const saltY = (cellY + 0.35 + 0.3 * noise(cellX, cellY, seed + 70)) * 6.4;
      const salt =
        hasSalt && at.edge > 6 ? 1 - smooth(1.1, 2.1, Math.max(Math.abs(u - saltX), Math.abs(v - saltY))) : 0;
      return {
        colour: mix(mix(crust(bake, depth), [0.95, 0.82, 0.58], burst * 0.7), [0.97, 0.96, 0.93], salt * 0.92),
        gloss: 0.5 * rim,
      };
    },
    outline: () => {
      // The hull of the rope's discs is all that boxes need; its holes are not part of the truth.
      const points: number[] = [];
      for (let i = 0; i < rope.length; i++) {
        const { x, y, at } = rope[i] as (typeof rope)[number];
        for (let k = 0; k < 24; k++)
          points.push(
            x + ropeRadius(at) * Math.cos((k * Math.PI) / 12),
            y + ropeRadius(at) * Math.sin((k * Math.PI) / 12),
          );
      }
      return points;
    },
    keypoints: () => [-50, -76, 50, -76, 0, 19, -44, 62, 44, 62],
  };
}
