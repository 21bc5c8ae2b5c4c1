/**
 * How a picture lies on the screen. Screen: CSS pixels of the drawing surface, origin at its top left; image: pixels of
 * the upright picture, as shapes have them.
 */
import type { Box } from "../model/shape";
import type { Size } from "../model/item";

/** screen = image × scale + (x, y). */
export type View = { scale: number; x: number; y: number };
export type Point = readonly [x: number, y: number];

export const smallestScale = 0.02;
export const largestScale = 64;

const within = (scale: number) => Math.min(largestScale, Math.max(smallestScale, scale));

export const toScreen = ({ scale, x, y }: View, [px, py]: Point): [number, number] => [px * scale + x, py * scale + y];

export const toImage = ({ scale, x, y }: View, [px, py]: Point): [number, number] => [
  (px - x) / scale,
  (py - y) / scale,
];

/** The view with its scale times `factor`, within its limits; what lies under `at` on the screen stays there. */
export function zoomAt(view: View, factor: number, at: Point): View {
  const scale = within(view.scale * factor);
  const [x, y] = toImage(view, at);
  return { scale, x: at[0] - x * scale, y: at[1] - y * scale };
}

export const panBy = ({ scale, x, y }: View, dx: number, dy: number): View => ({ scale, x: x + dx, y: y + dy });

/** The view in which a box of the picture fills a surface but for `margin` screen pixels on each side. */
export function viewOfBox(box: Box, surface: Size, margin: number): View {
  const room = { width: Math.max(1, surface.width - 2 * margin), height: Math.max(1, surface.height - 2 * margin) };
  const scale = within(Math.min(room.width / Math.max(box.width, 1e-6), room.height / Math.max(box.height, 1e-6)));
  return {
    scale,
    x: surface.width / 2 - (box.x + box.width / 2) * scale,
    y: surface.height / 2 - (box.y + box.height / 2) * scale,
  };
}

/** The view of the whole picture. */
export const fittingView = (picture: Size, surface: Size, margin = 16): View =>
  viewOfBox({ x: 0, y: 0, ...picture }, surface, margin);

/** The view at one screen pixel for each of the picture's, about what is in the middle now. */
export const fullSizeView = (view: View, surface: Size): View =>
  zoomAt(view, 1 / view.scale, [surface.width / 2, surface.height / 2]);
