/** Draws what is being drawn, with the words that go with it. */
import { boxBetween, boxOnEdge } from "@larder/core/editing/drawing";
import type { Point, View } from "@larder/core/editing/view";
import { rotatedBoxCorners } from "@larder/core/geometry/shape";
import type { Draft } from "./gestures";
import { addOutline } from "./paint";

export type DraftLook = {
  colour: string;
  /** The brush's diameter, in the picture's pixels. */
  brush: number;
  isArea: boolean;
  paintsPixels: boolean;
  /** Pairs of keypoints that are joined, by their numbers from 0. */
  skeleton: readonly (readonly [number, number])[];
};

const sizeWords = ({ width, height }: { width: number; height: number }) =>
  `${Math.round(width)} × ${Math.round(height)}`;

/** Words beside the pointer, in the screen's pixels. */
export function paintWords(context: CanvasRenderingContext2D, words: string, [x, y]: Point, ratio: number): void {
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.font = "600 12px var(--font-text), sans-serif";
  context.fillStyle = "#1d201ecc";
  context.fillRect(x + 10, y + 6, context.measureText(words).width + 8, 17);
  context.fillStyle = "#fff";
  context.fillText(words, x + 14, y + 18);
}

function addKeypoints(
  context: CanvasRenderingContext2D,
  draft: Draft & { of: "keypoints" },
  look: DraftLook,
  at: View,
) {
  for (const [from, to] of look.skeleton) {
    const [a, b] = [draft.points[from], draft.points[to]];
    if (!a || !b || a.v === 0 || b.v === 0) continue;
    context.moveTo(a.x, a.y);
    context.lineTo(b.x, b.y);
  }
  for (const { x, y, v } of draft.points) {
    if (v === 0) continue;
    context.moveTo(x + 4 / at.scale, y);
    context.arc(x, y, 4 / at.scale, 0, 2 * Math.PI);
  }
}

function paintCorners(context: CanvasRenderingContext2D, points: readonly number[], { scale }: View): void {
  const side = 5 / scale;
  context.beginPath();
  for (let i = 0; i + 1 < points.length; i += 2)
    context.rect((points[i] as number) - side / 2, (points[i + 1] as number) - side / 2, side, side);
  context.fill();
}

/**
 * Draws a draft onto a canvas in the picture's frame; returns what is to be said of it beside the pointer, an empty text
 * for nothing. Strokes that paint pixels are shown as those, elsewhere.
 */
export function paintDraft(context: CanvasRenderingContext2D, draft: Draft, look: DraftLook, at: View): string {
  context.strokeStyle = look.colour;
  context.fillStyle = look.colour;
  context.lineWidth = 2 / at.scale;
  context.setLineDash([]);
  context.beginPath();
  let words = "";
  switch (draft.of) {
    case "box": {
      const box = boxBetween(draft.from, draft.to);
      context.rect(box.x, box.y, box.width, box.height);
      words = sizeWords(box);
      break;
    }
    case "rotated-box": {
      const shape = draft.edge ? boxOnEdge(draft.from, draft.to, draft.through) : null;
      const isBox = shape?.kind === "rotated-box";
      addOutline(context, isBox ? rotatedBoxCorners(shape) : [...draft.from, ...draft.to], isBox);
      if (isBox) words = sizeWords(shape);
      break;
    }
    case "path":
      addOutline(context, [...draft.points, ...draft.live, ...draft.to], false);
      break;
    case "keypoints":
      addKeypoints(context, draft, look, at);
      break;
    case "stroke":
      if (!look.paintsPixels) addOutline(context, draft.points, look.isArea);
  }
  context.stroke();
  if (draft.of === "path") paintCorners(context, draft.points, at);
  return words;
}
