/** What the pointer is in the middle of on the bench, and what comes of it: no drawing, no React. */
import {
  boxBetween,
  boxOnEdge,
  closesRing,
  isAccident,
  shapeOfKeypoints,
  shapeOfPath,
  withFreehandPoint,
  withKeypoint,
  withPoint,
} from "@larder/core/editing/drawing";
import { TraceField } from "@larder/core/editing/edge-trace";
import type { Outline } from "@larder/core/editing/outlines";
import { sharedEdge, snapPoint, type Snapped } from "@larder/core/editing/snap";
import type { Point } from "@larder/core/editing/view";
import { simplifyPath, simplifyRing } from "@larder/core/geometry/simplify";
import type { Size } from "@larder/core/model/item";
import type { Keypoint, Shape } from "@larder/core/model/shape";
import type { EdgePiece } from "./picture-pixels";
import type { Tool } from "./tools";

/** What is being drawn. Places are the picture's pixels. */
export type Draft =
  | { of: "box"; from: Point; to: Point; byClicks: boolean }
  | { of: "rotated-box"; from: Point; to: Point; edge: boolean; through: Point }
  | { of: "path"; kind: "polygon" | "line"; points: number[]; to: Point; live: number[]; last: Snapped | null }
  | { of: "keypoints"; points: Keypoint[]; to: Point }
  | { of: "stroke"; points: number[] };

export type Surroundings = {
  size: Size;
  /** Lines of the other objects, for snapping. */
  outlines: readonly Outline[];
  /** How near is near, in the picture's pixels. */
  near: number;
  edgesAround: (x: number, y: number, reach: number) => EdgePiece | null;
  keypoints: number;
  snaps: boolean;
};

const traceReach = 260;
/** A traced line goes by pixels; its corners may be so far off it. */
const traceTolerance = 0.7;
/** The ways from the last corner, for as long as it is the last. */
let traced: { x: number; y: number; edges: EdgePiece; field: TraceField } | null = null;

/** The traced way from the last corner to a place, without its first point; a straight one where none is found. */
function liveTrace(points: readonly number[], to: Point, { edgesAround, size }: Surroundings): number[] {
  const inside = (value: number, most: number) => Math.min(most - 1, Math.max(0, Math.floor(value)));
  const [x, y] = [inside(points.at(-2) ?? 0, size.width), inside(points.at(-1) ?? 0, size.height)];
  if (traced?.x !== x || traced.y !== y) {
    const edges = edgesAround(x, y, traceReach);
    traced = edges && { x, y, edges, field: new TraceField(edges, [x - edges.left, y - edges.top], traceReach) };
  }
  if (!traced) return [];
  const { left, top } = traced.edges;
  const path = traced.field.pathTo(inside(to[0], size.width) - left, inside(to[1], size.height) - top);
  if (!path) return [];
  const way = simplifyPath(path, traceTolerance).slice(2, -2);
  return way.map((value, i) => value + (i % 2 === 0 ? left : top));
}

function snapped(at: Point, around: Surroundings): Snapped {
  return around.snaps
    ? snapPoint(at[0], at[1], around.outlines, around.size, around.near)
    : { x: at[0], y: at[1], to: null };
}

/** A path with a corner more: between two corners on one outline, what lies between them is taken over. */
function withCorner(draft: Extract<Draft, { of: "path" }>, at: Snapped): number[] {
  const { last } = draft;
  const shared =
    at.on && last?.on && at.on.outline === last.on.outline ? sharedEdge(at.on.outline, last.on, at.on) : [];
  const between = shared.length > 0 ? shared : draft.live;
  return withPoint([...draft.points, ...between], [at.x, at.y]);
}

/** What a press of the pointer begins or goes on with; `done` is the shape that it ends. */
export function pressed(
  draft: Draft | null,
  tool: Tool,
  at: Point,
  around: Surroundings,
  keys: { shift: boolean },
): { draft: Draft | null; done: Shape | null } {
  const place = snapped(at, around);
  const point: Point = [place.x, place.y];
  const going = (next: Draft | null) => ({ draft: next, done: null });
  switch (tool) {
    case "propose":
    case "box":
      if (draft?.of === "box" && draft.byClicks)
        return { draft: null, done: { kind: "box", ...boxBetween(draft.from, point) } };
      return going({ of: "box", from: point, to: point, byClicks: false });
    case "rotated-box":
      if (draft?.of === "rotated-box" && draft.edge) return { draft: null, done: boxOnEdge(draft.from, draft.to, at) };
      return going({ of: "rotated-box", from: at, to: at, edge: false, through: at });
    case "polygon":
    case "hole":
    case "trace":
    case "line": {
      const kind = tool === "line" ? "line" : "polygon";
      if (draft?.of !== "path") return going({ of: "path", kind, points: [...point], to: at, live: [], last: place });
      if (kind === "polygon" && closesRing(draft.points, at, around.near))
        return { draft: null, done: shapeOfPath(kind, [...draft.points, ...draft.live]) };
      return going({ ...draft, points: withCorner(draft, place), live: [], last: place });
    }
    case "keypoints": {
      const points = withKeypoint(draft?.of === "keypoints" ? draft.points : [], at, keys.shift);
      if (points.length >= around.keypoints) return { draft: null, done: shapeOfKeypoints(points, around.keypoints) };
      return going({ of: "keypoints", points, to: at });
    }
    case "brush":
    case "rub":
    case "lasso":
    case "split":
      return going({ of: "stroke", points: [...at] });
    case "mend":
    case "fill":
      return going(draft);
  }
}

/** What a move of the pointer makes of a draft; `held` while it is pressed. */
export function moved(draft: Draft, tool: Tool, at: Point, held: boolean, around: Surroundings): Draft {
  switch (draft.of) {
    case "box": {
      const place = snapped(at, around);
      return { ...draft, to: [place.x, place.y] };
    }
    case "rotated-box":
      return draft.edge ? { ...draft, through: at } : { ...draft, to: at, through: at };
    case "path": {
      if (tool === "trace") return { ...draft, to: at, live: liveTrace(draft.points, at, around) };
      // Held down, the pointer draws.
      if (held) return { ...draft, points: withFreehandPoint(draft.points, at, around.near / 2), to: at, last: null };
      const place = snapped(at, around);
      return { ...draft, to: [place.x, place.y] };
    }
    case "keypoints":
      return { ...draft, to: at };
    case "stroke":
      return held ? { ...draft, points: withPoint(draft.points, at) } : draft;
  }
}

/** What letting go of the pointer ends; strokes are ended by whoever paints them. */
export function released(draft: Draft, around: Surroundings): { draft: Draft | null; done: Shape | null } {
  if (draft.of === "box" && !draft.byClicks) {
    const shape: Shape = { kind: "box", ...boxBetween(draft.from, draft.to) };
    // A click is the first of two corners.
    return isAccident(shape, around.near / 2)
      ? { draft: { ...draft, byClicks: true }, done: null }
      : { draft: null, done: shape };
  }
  if (draft.of === "rotated-box" && !draft.edge) {
    const length = Math.hypot(draft.to[0] - draft.from[0], draft.to[1] - draft.from[1]);
    return { draft: length < around.near ? null : { ...draft, edge: true }, done: null };
  }
  if (draft.of === "path" && draft.kind === "polygon" && draft.points.length > 20) {
    // A freehand outline that comes back to where it began is closed.
    const end: Point = [draft.points.at(-2) as number, draft.points.at(-1) as number];
    if (closesRing(draft.points, end, 2 * around.near) && draft.last === null)
      return { draft: null, done: shapeOfPath("polygon", simplifyRing(draft.points.slice(0, -2), around.near / 8)) };
  }
  return { draft, done: null };
}

/** What Enter ends; null where too little was drawn. */
export function finished(draft: Draft, keypoints: number): Shape | null {
  if (draft.of === "path") return shapeOfPath(draft.kind, draft.points);
  if (draft.of === "keypoints") return shapeOfKeypoints(draft.points, keypoints);
  return null;
}

/** A draft without its last point; null where nothing is left of it. */
export function stepBack(draft: Draft): Draft | null {
  if (draft.of === "path" && draft.points.length > 2)
    return { ...draft, points: draft.points.slice(0, -2), live: [], last: null };
  if (draft.of === "keypoints" && draft.points.length > 1) return { ...draft, points: draft.points.slice(0, -1) };
  return null;
}
