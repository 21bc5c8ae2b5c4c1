/** Draws the places of the chosen object that can be pulled at. */
import { gripsOf } from "@larder/core/editing/grips";
import { gripKey } from "@larder/core/editing/move";
import type { View } from "@larder/core/editing/view";
import type { Shape } from "@larder/core/model/shape";

/** How far off its box a shape's turning grip lies, in screen pixels. */
export const turnReach = 22;

/** `chosen`: keys of the corners that move together. */
export function paintGrips(
  context: CanvasRenderingContext2D,
  shape: Shape,
  chosen: ReadonlySet<string>,
  { scale }: View,
): void {
  context.setLineDash([]);
  context.lineWidth = 1.4 / scale;
  const grips = gripsOf(shape, turnReach / scale);
  for (const [n, { grip, x, y }] of grips.entries()) {
    const isMiddle = grip.of === "between" || grip.of === "point-between";
    const before = grips[n - 1];
    const room = before ? Math.hypot(x - before.x, y - before.y) * scale : Infinity;
    // Where corners lie close together, what lies between them would hide them.
    if (isMiddle && room < 9) continue;
    const half = (isMiddle || room < 5 ? 2 : 3.6) / scale;
    context.beginPath();
    if (grip.of === "turn") context.arc(x, y, 4.5 / scale, 0, 2 * Math.PI);
    else context.rect(x - half, y - half, 2 * half, 2 * half);
    context.fillStyle = chosen.has(gripKey(grip)) ? "#f2c14e" : "#fff";
    context.strokeStyle = "#1d201e";
    context.fill();
    context.stroke();
  }
}
